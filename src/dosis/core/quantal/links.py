"""Links between the share affected and the straight line: probit, logit, complementary log-log."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from dosis.core import special
from dosis.core.arrays import Array

LinkName = Literal["probit", "logit", "cloglog"]


@dataclass(frozen=True, slots=True)
class Link:
    """share : line -> share affected; density : its derivative; line : share -> line; both : the first two at once."""

    share: Callable[[Array], Array]
    density: Callable[[Array], Array]
    line: Callable[[Array], Array]
    both: Callable[[Array], tuple[Array, Array]]


def _probit(line: Array) -> tuple[Array, Array]:
    return special.ndtr(line), np.exp(-0.5 * line * line) / np.sqrt(2 * np.pi)


def _logit(line: Array) -> tuple[Array, Array]:
    rest = np.exp(-line)
    share = 1.0 / (1.0 + rest)
    return share, share * (1.0 - share)


def _cloglog(line: Array) -> tuple[Array, Array]:
    hazard = np.exp(np.minimum(line, 700))
    return -np.expm1(-hazard), hazard * np.exp(-hazard)


LINKS: dict[str, Link] = {
    "probit": Link(
        special.ndtr,
        lambda e: np.exp(-e * e / 2) / np.sqrt(2 * np.pi),
        special.ndtri,
        _probit,
    ),
    "logit": Link(special.expit, lambda e: special.expit(e) * special.expit(-e), special.logit, _logit),
    "cloglog": Link(
        lambda e: -np.expm1(-np.exp(np.minimum(e, 700))),
        lambda e: np.exp(np.minimum(e, 700) - np.exp(np.minimum(e, 700))),
        lambda p: np.log(-np.log1p(-p)),
        _cloglog,
    ),
}

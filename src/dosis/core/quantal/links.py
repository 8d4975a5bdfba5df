"""Links between the share affected and the straight line: probit, logit, complementary log-log."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy import special

from dosis.core.arrays import Array

LinkName = Literal["probit", "logit", "cloglog"]


@dataclass(frozen=True, slots=True)
class Link:
    """share : line -> share affected; density : its derivative; line : share -> line."""

    share: Callable[[Array], Array]
    density: Callable[[Array], Array]
    line: Callable[[Array], Array]


LINKS: dict[str, Link] = {
    "probit": Link(special.ndtr, lambda e: np.exp(-e * e / 2) / np.sqrt(2 * np.pi), special.ndtri),
    "logit": Link(special.expit, lambda e: special.expit(e) * special.expit(-e), special.logit),
    "cloglog": Link(
        lambda e: -np.expm1(-np.exp(np.minimum(e, 700))),
        lambda e: np.exp(np.minimum(e, 700) - np.exp(np.minimum(e, 700))),
        lambda p: np.log(-np.log1p(-p)),
    ),
}

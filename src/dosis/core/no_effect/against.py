"""NOEC and LOEC by one of the tests, from the readings or counts of every dose."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from dosis.core.no_effect.counts import cochran_armitage, fisher
from dosis.core.no_effect.dunnett import dunnett
from dosis.core.no_effect.trend import jonckheere, williams
from dosis.core.several import holm

ByMeans = Literal["dunnett", "williams", "jonckheere"]
ByCounts = Literal["fisher", "cochran_armitage"]
Rows = list[tuple[float | None, float | None]]  # statistic and p of each dose


@dataclass(frozen=True, slots=True)
class Tested:
    """A dose against the control; p adjusted for all that are tested. None where a step-down test ended before it."""

    dose: float
    statistic: float | None
    p_value: float | None
    shown: bool


@dataclass(frozen=True, slots=True)
class NoEffect:
    """noec : the highest tested dose below the lowest with a shown effect; None where even the lowest dose has one.

    loec : the lowest dose with a shown effect that all higher doses have, too; None where there is none, and the NOEC
    is then the highest dose. broken : doses with a shown effect below one without.
    """

    tested: tuple[Tested, ...]
    noec: float | None
    loec: float | None
    broken: tuple[float, ...]


def no_effect(
    doses: Sequence[float], groups: Sequence[Sequence[float]], test: ByMeans = "dunnett", *, falling: bool = False,
    sides: int = 1, alpha: float = 0.05,
) -> NoEffect:  # fmt: skip
    """NOEC and LOEC of readings (OECD Series on Testing and Assessment 54, 2006).

    Dunnett's test takes each dose by itself. Williams's, and Jonckheere and Terpstra's, go down from the highest dose,
    each time without the doses above, and end where an effect is no longer shown.

    Parameters
    ----------
    doses : rising, the control's first, (k + 1,). groups : the readings of each.
    falling : whether the effect makes readings fall. sides : of Dunnett's test.

    Raises
    ------
    ValueError : as the tests themselves.
    """
    _rising(doses, len(groups))
    sign = -1.0 if falling else 1.0
    turned = [[sign * y for y in group] for group in groups]
    rows: Rows
    if test == "dunnett":
        rows = [(sign * t, p) for t, p in dunnett(turned, sides=sides)]
    elif test == "williams":
        found = williams(turned)
        rows = _down(len(doses), lambda k: found[k - 1], alpha)
    else:
        rows = _down(len(doses), lambda k: jonckheere(turned[: k + 1])[1:], alpha)
    return _concluded(doses, rows, alpha)


def no_effect_of_counts(
    doses: Sequence[float], counts: Sequence[tuple[float, float]], test: ByCounts = "fisher", *, alpha: float = 0.05
) -> NoEffect:
    """The same of counts, (affected, exposed) of each dose: Fisher's test with Holm's correction takes each by itself,
    Cochran and Armitage's trend goes down from the highest."""
    _rising(doses, len(counts))
    if test == "fisher":
        return _concluded(doses, _holm(counts), alpha)
    affected, exposed = [r for r, _ in counts], [n for _, n in counts]
    rows = _down(len(doses), lambda k: cochran_armitage(affected[: k + 1], exposed[: k + 1]), alpha)
    return _concluded(doses, rows, alpha)


def _rising(doses: Sequence[float], groups: int) -> None:
    if len(doses) != groups or any(b <= a for a, b in pairwise(doses)):
        raise ValueError("Doses must rise, the control's first, with one group for each.")


def _concluded(doses: Sequence[float], rows: Rows, alpha: float) -> NoEffect:
    tested = tuple(
        Tested(dose, t, p, p is not None and p < alpha) for dose, (t, p) in zip(doses[1:], rows, strict=True)
    )
    first = next((i for i in range(len(tested)) if all(each.shown for each in tested[i:])), None)
    below = tested if first is None else tested[:first]
    return NoEffect(tested, below[-1].dose if below else None, None if first is None else tested[first].dose,
                    tuple(each.dose for each in below if each.shown))  # fmt: skip


def _down(count: int, at: Callable[[int], tuple[float, float]], alpha: float) -> Rows:
    """From the highest dose on, until an effect is no longer shown."""
    found: Rows = [(None, None)] * (count - 1)
    for k in range(count - 1, 0, -1):
        statistic, p = at(k)
        found[k - 1] = statistic, p
        if p >= alpha:
            break
    return found


def _holm(counts: Sequence[tuple[float, float]]) -> Rows:
    """Fisher's p of each dose, by Holm's step-down correction; the share as the statistic."""
    r0, n0 = (round(each) for each in counts[0])
    adjusted = holm([fisher(round(r), round(n), r0, n0) for r, n in counts[1:]])
    return [(r / n if n else None, p) for (r, n), p in zip(counts[1:], adjusted, strict=True)]

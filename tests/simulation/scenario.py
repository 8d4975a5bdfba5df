"""What a simulation is: wells drawn again and again, and how often an interval holds the truth it was made for."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any
from zlib import crc32

import numpy as np

LOWEST, HIGHEST = 0.935, 0.965  # of a nominal 95 %
RUNS = 2000


@dataclass(frozen=True)
class Answer:
    """One answer of one run. An end that is open is None; `silent` : the answer is no number, and says why."""

    what: str
    truth: float
    lower: float | None = None
    upper: float | None = None
    silent: bool = False

    @property
    def holds(self) -> bool:
        """Whether the truth lies in the interval."""
        return (self.lower is None or self.lower <= self.truth) and (self.upper is None or self.truth <= self.upper)


@dataclass(frozen=True)
class Scenario:
    """draw : the answers of one run from fresh wells. lowest, highest : what is asked of their intervals, and
    `because` : why, where it is less than usual. silent : the share of runs that may give no number.
    """

    id: str
    what: str
    draw: Callable[[np.random.Generator], Iterable[Answer]]
    runs: int = RUNS
    lowest: float = LOWEST
    highest: float = HIGHEST
    because: str = ""
    silent: float = 0.05


@dataclass
class Tally:
    """How often one quantity of a scenario was covered. open : by an interval with an end that is open."""

    covered: int = 0
    answered: int = 0
    open: int = 0
    silent: int = 0
    below: int = 0

    @property
    def share(self) -> float:
        """The share of answers whose interval holds the truth."""
        return self.covered / self.answered if self.answered else float("nan")

    @property
    def error(self) -> float:
        """Its binomial standard error."""
        return float(np.sqrt(self.share * (1 - self.share) / self.answered)) if self.answered else float("nan")


def tallied(scenario: Scenario, runs: int | None = None) -> dict[str, Tally]:
    """Run it, with a seed of its own that is always the same."""
    rng = np.random.default_rng([2026, crc32(scenario.id.encode())])
    found: dict[str, Tally] = {}
    for _ in range(runs or scenario.runs):
        for answer in scenario.draw(rng):
            tally = found.setdefault(answer.what, Tally())
            if answer.silent:
                tally.silent += 1
                continue
            tally.answered += 1
            tally.covered += answer.holds
            tally.open += answer.lower is None or answer.upper is None
            tally.below += answer.upper is not None and answer.upper < answer.truth
    return found


def of_value(what: str, truth: float, value: Any) -> Answer:
    """From a cell of the answers; a bound or a dash is silent."""
    if value is None or value.value is None or (value.lower is None and value.upper is None):
        return Answer(what, truth, silent=True)
    return Answer(what, truth, value.lower, value.upper)


def said(tallies: dict[str, Tally]) -> str:
    """For a person who reads the failure."""
    return "; ".join(
        f"{what}: {100 * t.share:.1f} ± {100 * t.error:.1f} % ({t.answered} answered, {t.silent} silent, {t.open} open"
        f", {t.below} below, {t.answered - t.covered - t.below} above)" for what, t in tallies.items()
    )  # fmt: skip

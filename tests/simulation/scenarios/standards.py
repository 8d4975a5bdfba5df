"""Concentrations by a standard curve and by additions, from raw wells."""

from collections.abc import Callable, Iterable, Sequence
from typing import Any

from numpy.random import Generator

from dosis.run.method import Method, default_method
from dosis.run.roles import Role
from dosis.run.standards.curve import CurveStep
from dosis.run.steps.replicates import ReplicatesStep
from tests.outcomes import answers
from tests.simulation.scenario import Answer, Scenario, of_value
from tests.simulation.wells import Wells, worked

Curve = Callable[[Any], Any]
METHOD = default_method("concentration")
BACKGROUND = 0.05


def read_back(
    curve: Curve, levels: Sequence[float], samples: dict[str, float], *, noise: Callable[[Any], Any], method: Method,
    replicates: int = 2, wells: int = 2, blanks: int = 4, sample_noise: float = 1.0,
    spread: Callable[..., Any] | None = None,
) -> Callable[[Generator], Iterable[Answer]]:  # fmt: skip
    """Standards in replicate, samples in replicate, blanks. noise : SD of a reading by its net signal."""

    def draw(rng: Generator) -> list[Answer]:
        def read(level: float, n: int, times: float = 1.0) -> list[float]:
            net = float(curve(level))
            errors = rng.normal(0, 1, n) if spread is None else spread(rng, n)
            return list(BACKGROUND + net + times * errors * float(noise(net)))

        bench = [Wells(Role.STANDARD, f"Std {i}", read(x, replicates), x) for i, x in enumerate(levels, 1)]
        bench += [Wells(Role.SAMPLE, name, read(x, wells, sample_noise)) for name, x in samples.items()]
        if blanks:
            zero = [BACKGROUND + float(noise(0.0)) * e for e in rng.normal(0, 1, blanks)]
            bench.append(Wells(Role.BLANK, "Blank", zero))
        found = {a.name: a for a in answers(worked(bench, method))}
        return [of_value(name, x, found[name].in_reading) for name, x in samples.items()]

    return draw


def with_curve(model: str, **more: Any) -> Method:
    """The default working with another curve."""
    return METHOD.with_step(CurveStep(model=model, **more))


def steady(sd: float) -> Callable[[Any], float]:
    """A reading's SD, whatever it reads."""
    return lambda net: sd


LINE = [1.0, 2.0, 4.0, 6.0, 8.0, 10.0]
WIDE = [0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0]


def line(x: float) -> float:
    """A line through the blank."""
    return 0.08 * x


def logistic(x: float) -> float:
    """Four parameters, rising from the blank."""
    return 1.5 / (1 + (8.0 / x) ** 1.3) if x > 0 else 0.0


def logistic_lifted(x: float) -> float:
    """Five parameters."""
    return 0.02 + 1.5 / (1 + (20.0 / x) ** 1.2) ** 0.5 if x > 0 else 0.02


def saturation(x: float) -> float:
    """A hyperbola."""
    return 1.8 * x / (15.0 + x)


LEVELS_LINE = {"low": 1.8, "middle": 5.2, "high": 9.1}
LEVELS_WIDE = {"low": 2.0, "middle": 9.0, "high": 35.0}

SCENARIOS = [
    Scenario("line", "Line, 6 standards twice, samples twice, 4 blanks",
             read_back(line, LINE, LEVELS_LINE, noise=steady(0.01), method=METHOD)),
    Scenario("logistic4", "4-parameter logistic, 8 standards twice, samples twice",
             read_back(logistic, WIDE, LEVELS_WIDE, noise=steady(0.02), method=with_curve("logistic4"))),
    Scenario("logistic5", "5-parameter logistic, 8 standards three times, samples twice",
             read_back(logistic_lifted, WIDE, LEVELS_WIDE, noise=steady(0.015), replicates=3,
                       method=with_curve("logistic5"))),
    Scenario("hyperbola", "Hyperbola, 3 blanks",
             read_back(saturation, WIDE, LEVELS_WIDE, noise=steady(0.015), blanks=3, method=with_curve("hyperbola"))),
    Scenario("zero-few-blanks", "Line through zero, 2 blanks",
             read_back(line, LINE, LEVELS_LINE, noise=steady(0.012), blanks=2, method=with_curve("line_through_zero"))),
    Scenario("zero-three-blanks", "Line through zero, 3 blanks",
             read_back(line, LINE, LEVELS_LINE, noise=steady(0.012), blanks=3, method=with_curve("line_through_zero"))),
    Scenario("proportional", "Line, SD 6 % of the signal, weights left alone",
             read_back(line, LINE, LEVELS_LINE, noise=lambda net: 0.002 + 0.06 * net, replicates=3, wells=3,
                       method=METHOD)),
    Scenario("proportional-wide", "Line over a factor of 100, SD 8 % of the signal, weights left alone",
             read_back(line, WIDE, {"low": 1.5, "middle": 12.0, "high": 80.0}, noise=lambda net: 0.001 + 0.08 * net,
                       replicates=3, wells=2, method=METHOD)),
    Scenario("proportional-logistic", "4-parameter logistic, SD 6 % of the signal, weights left alone",
             read_back(logistic, WIDE, LEVELS_WIDE, noise=lambda net: 0.003 + 0.06 * net, replicates=3, wells=2,
                       method=with_curve("logistic4"))),
    Scenario("scattered-samples", "Line, samples scatter three times as much as the standards",
             read_back(line, LINE, LEVELS_LINE, noise=steady(0.01), wells=3, sample_noise=3.0, method=METHOD)),
    Scenario("median", "Line, samples by the median of 3",
             read_back(line, LINE, LEVELS_LINE, noise=steady(0.01), replicates=3, wells=3,
                       method=METHOD.with_step(ReplicatesStep(combine="median")))),
    Scenario("bisquare", "Line, fitted by bisquare",
             read_back(line, LINE, LEVELS_LINE, noise=steady(0.01), method=with_curve("line", robust="bisquare"))),
    Scenario("huber", "Line, fitted by Huber",
             read_back(line, LINE, LEVELS_LINE, noise=steady(0.01), method=with_curve("line", robust="huber"))),
]  # fmt: skip


def additions(rng: Generator, *, blanks: int) -> list[Answer]:
    """Four additions in triplicate to a sample, and blanks that are subtracted from all."""
    truth, noise = 5.0, 0.008
    bench = [
        Wells(Role.SAMPLE if x == 0 else Role.STANDARD, "Water" if x == 0 else f"+{x:g}",
              list(BACKGROUND + 0.05 * (truth + x) + rng.normal(0, noise, 3)), None if x == 0 else x)
        for x in (0.0, 2.0, 4.0, 6.0, 8.0)
    ]  # fmt: skip
    bench.append(Wells(Role.BLANK, "Blank", list(BACKGROUND + rng.normal(0, noise, blanks))))
    outcome = worked(bench, default_method("additions"))
    return [of_value("concentration", truth, answers(outcome)[0].in_reading)]


def spiked(rng: Generator) -> list[Answer]:
    """A sample with and without an addition, read by one curve."""
    base, added, noise = 3.0, 4.0, 0.01
    bench = [Wells(Role.STANDARD, f"Std {x:g}", list(BACKGROUND + line(x) + rng.normal(0, noise, 2)), x) for x in LINE]
    bench.append(Wells(Role.BLANK, "Blank", list(BACKGROUND + rng.normal(0, noise, 4))))
    bench.append(Wells(Role.SAMPLE, "Water", list(BACKGROUND + line(base) + rng.normal(0, noise, 3))))
    bench.append(
        Wells(Role.SAMPLE, "Water spiked", list(BACKGROUND + line(base + added) + rng.normal(0, noise, 3)), added,
              spike_of="Water")
    )  # fmt: skip
    found = {a.name: a for a in answers(worked(bench, METHOD))}
    return [of_value("recovery", 100.0, found["Water spiked"].recovery)]


SCENARIOS += [
    Scenario("additions", "Standard additions, 3 blanks", lambda rng: additions(rng, blanks=3)),
    Scenario("additions-two", "Standard additions, 2 blanks", lambda rng: additions(rng, blanks=2)),
    Scenario("recovery", "Recovery of an addition", spiked),
]

"""Effect doses and their ratios, from raw wells with control wells beside them."""

from collections.abc import Callable, Iterable
from typing import Any

import numpy as np
from numpy.random import Generator

from dosis.run.method import Method, default_method
from dosis.run.outcome.outcome import Outcome
from dosis.run.questions.dose.curve import DoseCurveStep
from dosis.run.questions.dose.effects import EffectsStep
from dosis.run.roles import Role
from dosis.run.steps.replicates import ReplicatesStep
from tests.outcomes import answers
from tests.simulation.scenario import Answer, Scenario, of_value
from tests.simulation.wells import Wells, worked

METHOD = default_method("dose").with_step(EffectsStep(levels=(50.0, 10.0, 90.0)))
DOSES = np.geomspace(0.01, 30, 9)
TOP, BOTTOM = 1.2, 0.1  # raw signal of vehicle and full-effect wells


def falling(x: Any, middle: float, slope: float, floor: float = 0.0) -> Any:
    """Share of the vehicle's signal left."""
    return floor + (1 - floor) / (1 + (x / middle) ** slope)


def effect_at(percent: float, middle: float, slope: float) -> float:
    """The dose with that effect between its own plateaus."""
    share = percent / 100
    return middle * (share / (1 - share)) ** (1 / slope)


def controlled(
    *, method: Method = METHOD, noise: float = 0.05, controls: int = 3, wells: int = 3, middle: float = 0.5,
    slope: float = 1.1, doses: Any = DOSES, asked: tuple[str, ...] = ("relative_50", "relative_10", "relative_90",
                                                                      "absolute_50"),
) -> Callable[[Generator], Iterable[Answer]]:  # fmt: skip
    """One compound with vehicle and full-effect wells; the curve runs from one to the other. noise : of the span."""
    sd = noise * (TOP - BOTTOM)

    def draw(rng: Generator) -> list[Answer]:
        bench = [Wells(Role.VEHICLE, "Vehicle", list(TOP + rng.normal(0, sd, controls))),
                 Wells(Role.FULL, "Full effect", list(BOTTOM + rng.normal(0, sd, controls)))]  # fmt: skip
        for x in doses:
            signal = BOTTOM + (TOP - BOTTOM) * falling(x, middle, slope)
            bench.append(Wells(Role.DOSE, f"{x:g}", list(signal + rng.normal(0, sd, wells)), float(x)))
        row = answers(worked(bench, method))[0]
        return [
            of_value(id, effect_at(float(id.partition("_")[2]), middle, slope), row.dose(float(id[9:]), id[:8]))
            for id in asked
        ]

    return draw


def pair(method: Method, *, noise: float = 0.05, controls: int = 8) -> Callable[[Generator], Iterable[Answer]]:
    """Two parallel compounds; the second needs three times the dose."""
    sd = noise * (TOP - BOTTOM)

    def draw(rng: Generator) -> list[Answer]:
        bench = [Wells(Role.VEHICLE, "Vehicle", list(TOP + rng.normal(0, sd, controls))),
                 Wells(Role.FULL, "Full effect", list(BOTTOM + rng.normal(0, sd, controls)))]  # fmt: skip
        for name, middle in (("One", 0.3), ("Other", 0.9)):
            for x in DOSES:
                signal = BOTTOM + (TOP - BOTTOM) * falling(x, middle, 1.2)
                bench.append(Wells(Role.DOSE, f"{name} {x:g}", list(signal + rng.normal(0, sd, 2)), float(x), name))
        return [of_value("ratio", 3.0, _ratio(worked(bench, method)))]

    return draw


def _ratio(outcome: Outcome) -> Any:
    return outcome.part.comparisons[0].ratio


HELD = DoseCurveStep(fixed={"lower": 0.0, "upper": 100.0})
MEDIAN = ReplicatesStep(combine="median")
SCENARIOS = [
    Scenario("dose", "9 doses three times, 8 + 8 control wells", controlled(controls=8)),
    Scenario("dose-few-controls", "9 doses three times, 3 + 3 control wells", controlled()),
    Scenario("dose-held", "Plateaus held at 0 and 100, 3 + 3 control wells",
             controlled(method=METHOD.with_step(HELD))),
    Scenario("dose-bisquare", "9 doses three times, fitted by bisquare",
             controlled(method=METHOD.with_step(DoseCurveStep(robust="bisquare")), controls=8)),
    Scenario("dose-means", "Replicates averaged before the curve", controlled(
        method=METHOD.with_step(METHOD.step("normalize").model_copy(update={"average_first": True})), controls=8)),
    Scenario("dose-logistic5", "5-parameter curve where 4 would do", controlled(
        method=METHOD.with_step(DoseCurveStep(model="logistic5")), controls=8), lowest=0.90, highest=0.98,
        because="a fifth parameter that the doses hardly show makes far effects lopsided; a 4-parameter curve serves"),
    Scenario("ratio", "Ratio of two parallel compounds", pair(METHOD), runs=1000),
    Scenario("ratio-held", "Ratio, plateaus held at 0 and 100, 3 + 3 control wells",
             pair(METHOD.with_step(HELD), controls=3), runs=1000),
    Scenario("ratio-bisquare", "Ratio, both fitted by bisquare",
             pair(METHOD.with_step(DoseCurveStep(robust="bisquare"))), runs=1000),
]  # fmt: skip

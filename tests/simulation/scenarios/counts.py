"""Lethal doses and potency from counts, chance alone and more than chance, with and without deaths of controls."""

from collections.abc import Callable, Iterable

import numpy as np
from numpy.random import Generator
from scipy import special

from dosis.run.method import Method, default_method
from dosis.run.questions.mortality.lethal import LethalStep
from dosis.run.questions.mortality.line import QuantalStep
from dosis.run.roles import Role
from tests.outcomes import answers
from tests.simulation.scenario import Answer, Scenario, of_value
from tests.simulation.wells import Wells, worked

METHOD = default_method("mortality")
DOSES = np.geomspace(1, 32, 6)
MIDDLE, SLOPE = 6.0, 3.0
CHANNELS = ("Exposed", "Dead")


def lethal(percent: float, middle: float = MIDDLE) -> float:
    """The dose that kills that share, by probit on log10 dose."""
    return float(middle * 10 ** (special.ndtri(percent / 100) / SLOPE))


def counted(rng: Generator, share: float, n: int, scatter: float) -> int:
    """Deaths among n; scatter : variance over that of chance alone, by a beta distribution of the share."""
    if scatter > 1:
        between = (scatter - 1) / (n - 1)
        share = float(rng.beta(share * (1 / between - 1), (1 - share) * (1 / between - 1)))
    return int(rng.binomial(n, share))


def vessels(
    rng: Generator, middle: float, series: str, *, n: int, background: float, scatter: float, each: int
) -> list[Wells]:  # fmt: skip
    """Vessels of one substance."""
    bench = []
    for x in DOSES:
        share = float(special.ndtr(SLOPE * np.log10(x / middle)))
        dead = [counted(rng, background + (1 - background) * share, n, scatter) for _ in range(each)]
        bench.append(
            Wells(
                Role.DOSE, f"{series} {x:.3g}".strip(), [n] * each, float(x), series, more=([float(d) for d in dead],)
            )
        )
    return bench


def tried(
    *, method: Method = METHOD, n: int = 40, controls: int = 0, background: float = 0.0, scatter: float = 1.0,
    each: int = 1,
) -> Callable[[Generator], Iterable[Answer]]:  # fmt: skip
    """One substance at six doses."""

    def draw(rng: Generator) -> list[Answer]:
        bench = vessels(rng, MIDDLE, "", n=n, background=background, scatter=scatter, each=each)
        if controls:
            bench.append(
                Wells(Role.VEHICLE, "Control", [controls], more=([float(rng.binomial(controls, background))],))
            )
        row = answers(worked(bench, method, channels=CHANNELS))[0]
        return [of_value(f"LD{p}", lethal(p), row.dose(p)) for p in (10, 50, 90)]

    return draw


def two(*, scatter: float = 1.0, each: int = 1) -> Callable[[Generator], Iterable[Answer]]:
    """Two substances, the second needs twice the dose."""

    def draw(rng: Generator) -> list[Answer]:
        bench = vessels(rng, 4.0, "One", n=40, background=0, scatter=scatter, each=each)
        bench += vessels(rng, 8.0, "Other", n=40, background=0, scatter=scatter, each=each)
        outcome = worked(bench, METHOD, channels=CHANNELS)
        return [of_value("ratio", 2.0, outcome.part.comparisons[0].ratio)]

    return draw


FEW = "with so few groups their scatter is hardly known, so that intervals are rather too wide than too narrow"
MAYBE = "that some may die without any dose is allowed for, though none of these do"
BIASED = "what is corrected to less than none counts as none, which draws small effects down; the step says so"

SCENARIOS = [
    Scenario("counts", "6 doses of 40, no controls", tried(), highest=0.975, because=FEW),
    Scenario("counts-20", "6 doses of 20, no controls", tried(n=20), highest=0.975, because=FEW),
    Scenario("controls-die", "6 doses of 40, 20 controls of which 10 % die", tried(controls=20, background=0.1),
             highest=0.975, because=FEW),
    Scenario("controls-die-40", "6 doses of 40, 40 controls of which 10 % die", tried(controls=40, background=0.1),
             highest=0.975, because=FEW),
    Scenario("controls-few-die", "6 doses of 40, 40 controls of which 2 % die", tried(controls=40, background=0.02),
             highest=0.975, because=FEW),
    Scenario("controls-live", "6 doses of 40, 40 controls of which none die", tried(controls=40), highest=0.985,
             because=MAYBE),
    Scenario("abbott", "The same by Abbott's correction, asked for",
             tried(controls=20, background=0.1, method=METHOD.with_step(QuantalStep(background="abbott"))),
             lowest=0.84, highest=0.985, because=BIASED),
    Scenario("profile", "By the profile, background estimated",
             tried(controls=20, background=0.1,
                   method=METHOD.with_step(QuantalStep(background="estimated")).with_step(
                       LethalStep(method="profile"))), highest=0.98, because=FEW),
    Scenario("scatter-2", "4 vessels of 20 at a dose, variance twice that of chance", tried(n=20, each=4, scatter=2.0),
             highest=0.975, because=FEW),
    Scenario("scatter-3", "4 vessels of 20 at a dose, variance three times that of chance",
             tried(n=20, each=4, scatter=3.0)),
    Scenario("counts-ratio", "Ratio of two substances", two(), highest=0.975, because=FEW),
    Scenario("counts-ratio-2", "Ratio, variance twice that of chance", two(scatter=2.0)),
    Scenario("counts-ratio-3", "Ratio, variance three times that of chance", two(scatter=3.0), silent=0.1),
]  # fmt: skip

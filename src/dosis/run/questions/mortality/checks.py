"""Step: the checks of a mortality run."""

import re
from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field

from dosis.core.quantal.shares import same_share
from dosis.core.rounding import given, p_value
from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.mortality.bench import CountBench, Treatment
from dosis.run.questions.mortality.line import controls_of
from dosis.run.questions.mortality.time_course import timed
from dosis.run.roles import Role
from dosis.run.steps.replicates import percent
from dosis.run.steps.step import Step
from dosis.run.steps.summary import sum_up

POOR = 0.05
SOLVENT = re.compile(r"\b(solvent|vehicle|carrier|dmso|acetone|ethanol|methanol)\b", re.IGNORECASE)


class MortalityChecksStep(Step):
    """Thresholds: deaths among the controls (10 % is common in aquatic tests), and how many a dose needs."""

    title = "Checks"
    kind: Literal["mortality_checks"] = "mortality_checks"
    control: Annotated[float, Field(ge=0, le=1)] = 0.10
    exposed: Annotated[int, Field(ge=1, le=100_000)] = 10

    def run(self, bench: CountBench) -> StepOutcome:
        """Make every check that these counts allow."""
        treatments = list(bench.treatments.values())
        made = (
            self._controls(bench, treatments), self._solvent(bench), self._exposed(bench, treatments),
            self._rising(bench, treatments), self._bracket(bench, treatments), self._fits(bench, treatments),
        )  # fmt: skip
        return sum_up(bench, self.kind, made)

    def _controls(self, bench: CountBench, treatments: list[Treatment]) -> Check | None:
        counted = [(made, *controls_of(made)) for made in treatments]
        counted = [each for each in counted if each[2] > 0]
        if not counted:
            return Check(
                id="controls", title="Controls live", state=State.LOOK, found="no controls", threshold="a dose of zero",
                why="Without controls nobody knows how many would have died anyway. Include some without a dose.",
                verdict="There are no controls.",
            )  # fmt: skip
        for made, r, n in counted:
            bench.write("check.controls", made.name, text="affected without dose", result=_share(r, n))
        off = [(made, r, n) for made, r, n in counted if r / n > self.control]
        named = ", ".join(f"{made.name} {_share(r, n)}" for made, r, n in (off or counted)[:3])
        return Check(
            id="controls", title="Controls live", state=State.FAIL if off else State.PASS, found=named,
            threshold=f"≤ {percent(self.control)} affected",
            why="If many die without any dose, the test says little about the dose; most guidelines call it invalid.",
            verdict=f"Control mortality is too high: {named}.",
        )  # fmt: skip

    def _solvent(self, bench: CountBench) -> Check | None:
        """Control against solvent control, by Fisher's exact test, at each time that both were counted."""
        counted: dict[tuple[str, bool], tuple[float, float]] = {}
        for group in bench.groups(Role.DOSE, Role.VEHICLE):
            if group.level and group.role is Role.DOSE:
                continue
            if group.role is Role.DOSE and group.level is None:
                continue
            key = timed(group.series)[1], bool(SOLVENT.search(group.name))
            for id in group.readings:
                r, n = bench.counts.get(id, (0.0, 0.0))
                had = counted.get(key, (0.0, 0.0))
                counted[key] = had[0] + r, had[1] + n
        tested: list[str] = []
        off: list[str] = []
        for time in dict.fromkeys(time for time, _ in counted):
            plain, solvent = counted.get((time, False), (0.0, 0.0)), counted.get((time, True), (0.0, 0.0))
            if not (plain[1] and solvent[1]):
                continue
            p = same_share(plain, solvent)
            said = f"{f'{time}: ' if time else ''}{_share(*plain)} and {_share(*solvent)}, p {p_value(p)}"
            bench.write("check.solvent", f"Fisher's exact test {time}".strip(), text=said, result=p_value(p), value=p)
            (off if p < POOR else tested).append(said)
        if not tested and not off:
            return None
        return Check(
            id="solvent", title="Control and solvent control alike", state=State.LOOK if off else State.PASS,
            found="; ".join(off or tested), threshold=f"p ≥ {POOR}",
            why="When the solvent alone has an effect, the doses are to be judged against the solvent control only: "
            "leave the plain control out.",
            verdict=f"The solvent control differs from the control: {'; '.join(off)}.",
        )  # fmt: skip

    def _exposed(self, bench: CountBench, treatments: list[Treatment]) -> Check | None:
        rows = [(made, x, n) for made in treatments for x, _, n in made.rows]
        if not rows:
            return None
        few = [(made, x, n) for made, x, n in rows if n < self.exposed]
        named = ", ".join(f"{given(n)} at {_dose(bench, x)}" for _, x, n in few[:3])
        return Check(
            id="exposed", title="Enough exposed", state=State.LOOK if few else State.PASS,
            found=named or f"{given(min(n for _, _, n in rows))} or more at each dose",
            threshold=f"≥ {self.exposed} at each dose",
            why="With few animals the share affected is imprecise: one more or less changes it a lot.",
            verdict=f"Few were exposed: {named}.",
        )  # fmt: skip

    def _rising(self, bench: CountBench, treatments: list[Treatment]) -> Check | None:
        falls = []
        for made in treatments:
            shares = [(x, r / n) for x, r, n in made.rows if x > 0]
            for (low, before), (high, after) in pairwise(shares):
                if high > low and after < before:
                    falls.append(f"{made.name} from {given(low)} to {_dose(bench, high)}")
        if not any(len(made.rows) > 1 for made in treatments):
            return None
        return Check(
            id="rising", title="Response rises with dose", state=State.LOOK if falls else State.PASS,
            found=", ".join(falls[:3]) or "at every step", threshold="never falls",
            why="A response that falls as the dose rises may be chance where few were exposed, or doses that were "
            "mixed up.",
            verdict=f"The response falls: {', '.join(falls[:2])}.",
        )  # fmt: skip

    def _bracket(self, bench: CountBench, treatments: list[Treatment]) -> Check | None:
        shares = [(made, [r / n for x, r, n in made.rows if x > 0]) for made in treatments]
        shares = [each for each in shares if each[1]]
        if not shares:
            return None
        out = [made for made, own in shares if not (min(own) < 0.5 < max(own))]
        for made, own in shares:
            bench.write(
                "check.bracket",
                made.name,
                text="lowest and highest share affected",
                result=f"{percent(min(own)) if min(own) else '0 %'} to {percent(max(own)) if max(own) else '0 %'}",
            )
        named = ", ".join(made.name for made in out[:3])
        return Check(
            id="bracket", title="Doses bracket 50 %", state=State.LOOK if out else State.PASS,
            found=f"{len(shares) - len(out)} of {len(shares)}" + (f"; not {named}" if out else ""),
            threshold="less than half at one dose, more at another",
            why="Outside the doses the line is only a guess. Test doses on both sides of where half die.",
            verdict=f"The doses do not bracket 50 % for {named}.",
        )  # fmt: skip

    def _fits(self, bench: CountBench, treatments: list[Treatment]) -> Check | None:
        tested = [(made, made.fit.pearson_p) for made in treatments if made.fit and made.fit.pearson_p is not None
                  and made.fit.converged]  # fmt: skip
        if not tested:
            return None
        off = [(made, p) for made, p in tested if p < POOR]
        named = ", ".join(f"{made.name} (p {p_value(p)})" for made, p in (off or tested)[:3])
        return Check(
            id="fits", title="The line fits", state=State.LOOK if off else State.PASS, found=named,
            threshold=f"χ² p ≥ {POOR}",
            why="The counts scatter about the line more than chance lets them. Intervals are widened by the "
            "variance factor; look for a vessel that differs, or try another link.",
            verdict=f"The line does not fit {named}.",
        )  # fmt: skip


def _dose(bench: CountBench, x: float) -> str:
    return f"{given(x)} {bench.layout.level.unit}".rstrip()


def _share(affected: float, exposed: float) -> str:
    """ "1 of 20 (5 %)"."""
    share = "" if not exposed else f" ({percent(affected / exposed) if affected else '0 %'})"
    return f"{given(affected)} of {given(exposed)}{share}"

"""Step: what stands beside what, which readings are one assay, and how they are blocked."""

import math
import re
from typing import Literal

from dosis.run.layout import Name
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.potency.bench import Assay, PotencyBench, dose_of
from dosis.run.questions.potency.design import BY, Assays, Blocked, assays_of, blocks_of
from dosis.run.roles import Role
from dosis.run.steps.step import Step
from dosis.run.steps.summary import listed, not_doses

NAMED = re.compile(r"\b(ref(erence)?|standard|std|rs)\b", re.IGNORECASE)


class AssaysStep(Step):
    """The reference, the assays and their blocks.

    reference : a series; where none is chosen, the one so called, or else the first.
    response : as read, or its natural logarithm.
    blocked : what a block is; of a cross-over, animals and periods. assays : whether plates are independent assays; on
    their own they are, where each has the reference and a sample.
    """

    title = "Assays"
    kind: Literal["assays"] = "assays"
    reference: Name = ""
    response: Literal["read", "log"] = "read"
    assays: Assays = "auto"
    blocked: Blocked = "random"

    def run(self, bench: PotencyBench) -> StepOutcome:
        """Sort readings into assays."""
        for group in bench.groups(Role.DOSE):
            if group.level is not None:
                bench.preparations.setdefault(group.series or "All doses", []).append(group)
        names = list(bench.preparations)
        if len(names) < 2:
            there = f"there is only “{names[0]}”" if names else "there are no doses yet"
            return self.told(f"A potency needs a reference and a sample, each a series of doses; {there}.", State.FAIL)
        named = [name for name in names if NAMED.search(name)]
        bench.reference = self.reference if self.reference in names else (named or names)[0]
        bench.logged_response = self.response == "log"
        lost = self._sort(bench)
        if any(y <= 0 for assay in bench.assays for y in assay.y) and bench.logged_response:
            bench.assays = []
            return self.told("A response that is not above zero has no logarithm; take responses as read.", State.FAIL)
        if bench.logged_response:
            for assay in bench.assays:
                assay.y = [math.log(y) for y in assay.y]
        for assay in bench.assays:
            assay.blocks = blocks_of(bench, assay, self.blocked)
            assay.crossed = self.blocked == "cross_over"
        return self._report(bench, names, lost)

    def _sort(self, bench: PotencyBench) -> list[str]:
        """Readings to their assays; the names of assays that have not two preparations."""
        nothing = bench.groups(Role.VEHICLE)
        lost = []
        for name, plates in assays_of(bench, self.assays):
            assay = Assay(name, [], [], [], [])
            named = [(prep, group, dose_of(group)) for prep, groups in bench.preparations.items() for group in groups]
            named += [(bench.reference, group, 0.0) for group in nothing]
            for prep, group, level in named:
                for id in bench.used(group):
                    if plates is None or bench.by_id[id].plate in plates:
                        assay.ids.append(id)
                        assay.x.append(level)
                        assay.y.append(bench.values[id])
                        assay.preparation.append(prep)
            if len({*assay.preparation}) > 1 and bench.reference in assay.preparation:
                bench.assays.append(assay)
            else:
                lost.append(name or "the run")
        return lost

    def _again(self, bench: PotencyBench) -> str:
        """A name that readings of several preparations have, as an animal has; empty without one."""
        of: dict[str, set[str]] = {}
        for preparation, groups in bench.preparations.items():
            for group in groups:
                of.setdefault(group.name, set()).add(preparation)
        return next((name for name, each in of.items() if name and len(each) > 1), "")

    def _report(self, bench: PotencyBench, names: list[str], lost: list[str]) -> StepOutcome:
        others = [name for name in names if name != bench.reference]
        said = f"{listed(others)} beside the reference **{bench.reference}**"
        if self.reference != bench.reference:
            said += " (by its name)" if NAMED.search(bench.reference) else " (the first series)"
            if self.reference:
                said += f"; **there is no series {self.reference}**"
        several = len(bench.assays) > 1
        said += f", in {len(bench.assays)} independent assays, a plate each" if several else ""
        said += f"; {BY[self.blocked]}."
        if any(group.dilution != 1 for groups in bench.preparations.values() for group in groups):
            said += " Doses are divided by the dilution of their row."
        if bench.logged_response:
            said += " Responses as their natural logarithm."
        if nothing := bench.groups(Role.VEHICLE):
            said += f" Taken as no dose: {listed([group.name for group in nothing])}."
        state, verdict = State.PASS, ""
        if self.blocked != "random" and not all(assay.blocks for assay in bench.assays):
            said += " **There is one block only, so nothing is taken off.**"
            state = State.LOOK
        if self.blocked == "random" and (repeated := self._again(bench)):
            verdict = f"{repeated} was read with several preparations, but nothing is blocked by name."
            said += f" **{verdict}** If names are animals or other blocks, choose blocks by name, or a cross-over."
            state = State.LOOK
        if lost:
            verdict = f"Not used, for want of the reference or a sample: {listed(lost)}."
            said += f" **{verdict}**"
            state = State.LOOK if bench.assays else State.FAIL
        if aside := not_doses(bench):
            said, verdict = said + aside, verdict or aside.strip()
            state = State.LOOK if state is State.PASS else state
        return self.told(said, state, verdict)

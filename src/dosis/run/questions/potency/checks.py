"""Step: the checks of a potency run — does the assay respond, are the preparations alike, do assays agree?"""

from collections.abc import Iterator
from dataclasses import replace
from typing import Annotated, ClassVar, Literal

from pydantic import Field, model_validator

from dosis.core.potency import Equivalence
from dosis.core.rounding import fixed, p_value, significant
from dosis.core.several import holm
from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.potency.bench import Assay, PotencyBench, Sample
from dosis.run.record import Record
from dosis.run.steps.step import Step
from dosis.run.steps.summary import listed, sum_up

Share = Annotated[float, Field(gt=0, le=1)]
MEASURES = {
    "slope": "slope", "lower": "lower plateau", "upper": "upper plateau", "composite": "whole shape",
}  # fmt: skip
HOLM = ", by Holm for all of them"
NOT_EQUAL = "Slopes and plateaus that differ make the potency depend on where it is read."


class Between(Record):
    """Two limits around what is as it should be."""

    low: Annotated[float, Field(gt=0)]
    high: Annotated[float, Field(gt=0, le=1e6)]


class PotencyChecksStep(Step):
    """What makes an assay valid.

    parallel_by : a difference that is not shown (Ph. Eur. 5.3), or equivalence that is (USP <1032>), for which the
        margins must come from the assay's own history. p : below which a difference counts as shown, by Holm for all
        samples and assays, so that many of them do not make a false alarm likelier.
    slopes : margins of the ratio of slopes; plateaus, composite : of differences as a share of the reference's span.
    within : the percentages of the potency that its interval has to lie within; not judged without.
    """

    title = "Checks"
    names: ClassVar = {"parallel_by": "parallel by", "p": "p at least", "within": "interval within"}
    kind: Literal["potency_checks"] = "potency_checks"
    parallel_by: Literal["difference", "equivalence"] = "difference"
    p: Annotated[float, Field(gt=0, lt=0.5)] = 0.05
    slopes: Between = Between(low=0.80, high=1.25)
    plateaus: Share = 0.15
    composite: Share = 0.05
    within: Between | None = None

    @model_validator(mode="after")
    def _around(self) -> "PotencyChecksStep":
        if not self.slopes.low < 1 < self.slopes.high:
            raise ValueError("The margins of the ratio of slopes lie below and above 1, such as 0.8 and 1.25.")
        if self.within is not None and not self.within.low < 100 < self.within.high:
            raise ValueError("The limits of the interval lie below and above 100 %, such as 80 and 125.")
        return self

    def run(self, bench: PotencyBench) -> StepOutcome:
        """Make every check that this run allows."""
        worked = [assay for assay in bench.assays if assay.analysis is not None and not assay.problem]
        for sample in bench.samples:
            sample.each = [
                (assay, replace(found, alike=tuple(map(self._held, found.alike)))) for assay, found in sample.each
            ]
        made = (
            self._from(worked, "Regression", "regression", "Responds to the dose", above=False),
            self._parallel(bench),
            self._from(worked, "Blanks", "blanks", "Blank is where the lines meet"),
            self._from(worked, "Intersection", "intersection", "Lines meet at no dose"),
            self._from(worked, "Non-linearity", "linear", _straight(worked)),
            self._agree(bench), self._precise(bench),
        )  # fmt: skip
        return sum_up(bench, self.kind, made)

    def _held(self, each: Equivalence) -> Equivalence:
        """A measure of shape against the margins of this step."""
        margins = {"slope": (self.slopes.low, self.slopes.high), "composite": (0.0, self.composite)}
        return replace(each, margins=margins.get(each.of, (-self.plateaus, self.plateaus)))

    def _from(self, assays: list[Assay], name: str, id: str, title: str, *, above: bool = True) -> Check | None:
        """Of a row of the analysis of variance: p above the threshold, or below it."""
        found = [
            (assay.name, row.p_value) for assay in assays if assay.analysis
            for row in assay.analysis.sources if row.name == name and row.p_value is not None
        ]  # fmt: skip
        if not found:
            return None
        if above:
            found = list(zip([name for name, _ in found], holm([p for _, p in found]), strict=True))
        worst = (min if above else max)(found, key=lambda each: each[1])
        off = [name for name, p in found if (p < self.p if above else p >= self.p)]
        where = f"{worst[0]}: " if worst[0] else ""
        why = {
            "regression": "Where the response does not follow the dose there is no potency to read.",
            "linear": "The means leave the model by more than the replicates scatter. Narrow the doses, take the "
            "logarithm of the responses, or choose curves.",
            "blanks": "Readings without dose that the lines do not come from speak against a slope ratio.",
            "intersection": "Lines that do not meet at no dose speak against a slope ratio.",
        }[id]
        said = {"regression": "The response does not follow the dose", "linear": "The model does not fit"}
        return Check(
            id=id, title=title, state=State.FAIL if off else State.PASS, found=f"{where}p {p_value(worst[1])}",
            threshold=f"p {'≥' if above else '<'} {self.p:g}{HOLM if above and len(found) > 1 else ''}", why=why,
            verdict=f"{said.get(id, title + ': no')}{f' in {listed(off)}' if off and off[0] else ''}.",
        )  # fmt: skip

    def _parallel(self, bench: PotencyBench) -> Check | None:
        pairs = [(sample, assay, found) for sample in bench.samples for assay, found in sample.each]
        if self.parallel_by == "equivalence":
            alike = [(sample, assay, each) for sample, assay, found in pairs for each in found.alike]
            if not alike:
                return None
            off = [(sample, assay, each) for sample, assay, each in alike if not each.passed]
            said = [f"{assay.called(sample.name)} {MEASURES[each.of]} {shown(each)}" for sample, assay, each in off]
            return Check(
                id="parallel", title="Preparations alike", state=State.FAIL if off else State.PASS,
                found=listed(said) if off else f"all {len(alike)} measures within their margins",
                threshold="90 % intervals within the margins", groups=_groups([sample for sample, *_ in off]),
                why=f"{NOT_EQUAL} The margins are this assay’s own, from its history.",
                verdict=f"Not shown to be parallel: {listed(_names([sample for sample, *_ in off]))}.",
            )  # fmt: skip
        tested = [
            (sample, assay, found.own_parallel.p_value) for sample, assay, found in pairs
            if found.own_parallel.p_value is not None
        ]  # fmt: skip
        if not tested:
            return None
        adjusted = holm([p for *_, p in tested])
        tested = [(sample, assay, p) for (sample, assay, _), p in zip(tested, adjusted, strict=True)]
        off_p = [(sample, assay, p) for sample, assay, p in tested if p < self.p]
        least = min(tested, key=lambda each: each[2])
        said = [f"{assay.called(sample.name)} p {p_value(p)}" for sample, assay, p in off_p]
        return Check(
            id="parallel", title="Preparations parallel", state=State.FAIL if off_p else State.PASS,
            found=listed(said) if off_p else f"smallest p {p_value(least[2])} ({least[1].called(least[0].name)})",
            threshold=f"p ≥ {self.p:g} against the reference{HOLM if len(tested) > 1 else ''}",
            groups=_groups([sample for sample, *_ in off_p]),
            why=f"{NOT_EQUAL} What is not parallel also bends the shape that the others share: mark its doses as not "
            "used, and see. A difference that is not shown is no proof that there is none; equivalence, with margins "
            "from the assay’s history, is.",
            verdict=f"Not parallel to {bench.reference}: {listed(_names([sample for sample, *_ in off_p]))}.",
        )  # fmt: skip

    def _agree(self, bench: PotencyBench) -> Check | None:
        found = [(sample, sample.combined) for sample in bench.samples if sample.combined is not None]
        if not found:
            return None
        off = [(sample, each) for sample, each in found if each.p_value < self.p]
        least = min(found, key=lambda each: each[1].p_value)
        return Check(
            id="agree", title="Assays agree", state=State.LOOK if off else State.PASS,
            found=f"smallest p {p_value(least[1].p_value)} ({least[0].name})", threshold=f"p ≥ {self.p:g}",
            groups=_groups([sample for sample, _ in off]),
            why="Assays that differ by more than their own errors explain have causes that are worth knowing. The "
            "interval of their semi-weighted mean counts the spread between them; that of a weighted one does not.",
            verdict=f"Assays of {listed(_names([sample for sample, _ in off]))} do not agree.",
        )  # fmt: skip

    def _precise(self, bench: PotencyBench) -> Check | None:
        if self.within is None:
            return None
        low, high = self.within.low, self.within.high
        wide, said = [], []
        for sample in bench.samples:
            value = sample.relative
            if value.value is None:
                continue
            if value.lower is None or value.upper is None:
                wide.append(sample)
                said.append(f"{sample.name} open")
                continue
            ends = 100 * value.lower / value.value, 100 * value.upper / value.value
            if ends[0] < low or ends[1] > high:
                wide.append(sample)
            said.append(f"{sample.name} {ends[0]:.0f} – {ends[1]:.0f} %")
        return Check(
            id="precise", title="Precise enough", state=State.LOOK if wide else State.PASS, found=listed(said),
            threshold=f"interval within {low:g} – {high:g} % of the potency", groups=_groups(wide),
            why="A wider interval says too little; more replicates or assays narrow it.",
            verdict=f"The interval is too wide for {listed(_names(wide))}.",
        )  # fmt: skip


def shown(each: Equivalence) -> str:
    """A measure with its interval: "1.12 (1.03 – 1.22)"; of differences in percent of the span."""
    if each.lower is None or each.upper is None:
        return "not determined"
    if each.of == "slope":
        return f"{fixed(each.estimate, 2)} ({fixed(each.lower, 2)} – {fixed(each.upper, 2)})"
    parts = (f"{significant(100 * part, 2)}" for part in (each.estimate, each.lower, each.upper))
    return "{} % ({} to {})".format(*parts)


def _straight(assays: list[Assay]) -> str:
    return "Lines are straight" if assays and not assays[0].model.startswith("logistic") else "Curves fit"


def _names(samples: list[Sample]) -> list[str]:
    return list(dict.fromkeys(sample.name for sample in samples))


def _groups(samples: list[Sample]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(sample.groups[0].id for sample in samples))


def remarks_of(sample: Sample, checks: list[Check]) -> Iterator[Check]:
    """The checks that this sample is the reason of."""
    own = sample.groups[0].id
    return (check for check in checks if own in check.groups)

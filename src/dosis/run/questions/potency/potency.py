"""Step: how much of the reference each sample does the work of, by the shape they share."""

import math
from typing import Annotated, Literal

from pydantic import Field

from dosis.core.inference.goodness import Test
from dosis.core.potency import Combined, combine
from dosis.core.potency.combined import Way
from dosis.core.potency.result import Potency
from dosis.core.rounding import given, p_value, significant
from dosis.run.layout import Name, Unit
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State, Value
from dosis.run.questions.potency.analysis import CALLED, Model, best_model, fitting, work_out
from dosis.run.questions.potency.bench import Assay, PotencyBench, Sample
from dosis.run.steps.step import Step
from dosis.run.steps.summary import listed

Amount = Annotated[float, Field(gt=0, le=1e15)]
NAMED = 3
WIDEST = 1e6  # times the lower end of an interval, from which on it says nothing


VARIANCE = {
    "pure": "between readings of one dose", "residual": "that the lines leave", "within": "within animals",
}  # fmt: skip


class PotencyStep(Step):
    """The model, the reference's potency and what the samples were taken for.

    model : "auto" takes lines, or slopes where there is a zero dose, and curves where they fit clearly better.
    error : the variance is that between replicates ("pure"), what the model leaves ("residual"), or the former where it
        has degrees of freedom enough.
    declared : potency of the reference in `unit`. assumed : of samples whose doses were made up from an assumed
        potency; the doses of the others are amounts, as the reference's are.
    combine : how independent assays make one potency.
    """

    title = "Potency"
    names = {"error": "variance", "assumed": "assumed potency"}  # noqa: RUF012
    kind: Literal["potency"] = "potency"
    model: Literal["auto"] | Model = "auto"
    error: Literal["auto", "pure", "residual"] = "auto"
    declared: Amount | None = None
    unit: Unit = ""
    assumed: Annotated[dict[Name, Amount], Field(max_length=100)] = Field(default_factory=dict)
    combine: Way = "semi-weighted"
    interval: Annotated[float, Field(ge=0.5, le=0.999)] = 0.95

    def run(self, bench: PotencyBench) -> StepOutcome:
        """Work out every assay, then every sample."""
        if not bench.assays:
            return self.told("Waiting for a reference and a sample.", State.FAIL)
        bench.interval, bench.unit = self.interval, self.unit
        bench.in_units = self.declared is not None or bool(self.assumed)
        try:
            model = best_model(bench.assays) if self.model == "auto" else self.model
        except ValueError as error:
            return self.told(str(error), State.FAIL)
        whole = sum(len(assay.ids) for assay in bench.assays)
        bench.assays = [fitting(assay, model) for assay in bench.assays]
        for assay in bench.assays:
            work_out(assay, model, bench.reference, self.error, self.interval)
        self._samples(bench)
        return self._report(bench, model, whole - sum(len(assay.ids) for assay in bench.assays))

    def _samples(self, bench: PotencyBench) -> None:
        for i, (name, groups) in enumerate(bench.preparations.items()):
            if name == bench.reference:
                continue
            sample = Sample(name, bench.assays[0].called(name), f"{i}.", groups)
            sample.each = [(assay, assay.potencies[name]) for assay in bench.assays if name in assay.potencies]
            bench.samples.append(sample)
            bench.tag = sample.tag
            self._one(bench, sample)
            bench.tag = ""

    def _one(self, bench: PotencyBench, sample: Sample) -> None:
        """Its relative potency, and in units."""
        good = [(assay, each) for assay, each in sample.each if _determined(each)]
        if not good:
            said = [each.reason for _, each in sample.each if each.reason]
            said += [assay.problem for assay in bench.assays if assay.problem]
            sample.problem = said[0].rstrip(".") if said else "its response and the reference's do not determine it"
            return
        for assay, each in good:
            self._write(bench, assay, each)
        weighed = [(assay, each, _log_error(each)) for assay, each in good]
        usable = [(assay, each, error) for assay, each, error in weighed if error]
        if len(good) > 1 and len(usable) > 1:
            sample.combined = combine(
                [math.log(each.estimate) for _, each, _ in usable], [error or 0.0 for *_, error in usable],
                [each.degrees_of_freedom for _, each, _ in usable],
                way=self.combine, level=self.interval,
            )  # fmt: skip
            found = sample.combined
            sample.log_error, sample.degrees_of_freedom = found.log_standard_error, len(usable) - 1
            _write_combined(bench, found, [assay.name for assay, *_ in usable])
            self._in_units(bench, sample, found.estimate, (found.lower, found.upper))
            return
        if len(good) > 1:
            sample.problem = "fewer than two of its assays have an interval, so the first stands alone"
        first = good[0][1]
        sample.log_error, sample.degrees_of_freedom = _log_error(first), first.degrees_of_freedom
        self._in_units(bench, sample, first.estimate, (first.lower, first.upper))

    def _in_units(
        self, bench: PotencyBench, sample: Sample, estimate: float, ends: tuple[float | None, float | None]
    ) -> None:
        sample.relative = Value.of(estimate, *ends)
        assumed = self.assumed.get(sample.name)
        factor = self.declared if assumed is None else assumed
        if factor is None:
            return
        sample.potency = Value.of(estimate * factor, *(None if end is None else end * factor for end in ends))
        what = "declared potency of the reference" if assumed is None else f"assumed potency of {sample.name}"
        bench.write("potency", "In units", text=f"{significant(estimate, 6)} × {given(factor)}, the {what}",
                    result=f"{sample.potency.shown} {self.unit}".rstrip(), value=estimate * factor)  # fmt: skip
        if assumed is not None:
            sample.percent = Value.of(100 * estimate, *(None if end is None else 100 * end for end in ends))

    def _write(self, bench: PotencyBench, assay: Assay, found: Potency) -> None:
        where = f" ({assay.name})" if assay.name else ""
        between = {
            "pure": "between readings of one dose",
            "residual": "left by the model",
            "within": "within animals, treatments by periods taken off",
        }[assay.error]
        bench.write("potency", f"Model{where}", text=f"{CALLED[assay.model]}, against {found.reference}")
        spread = math.sqrt(found.variance)
        df = found.degrees_of_freedom
        bench.write("potency", f"Spread{where}", text=f"s {between}, {df} degrees of freedom",
                    result=significant(spread, 4), value=spread)  # fmt: skip
        how = {
            "lines": "e^((intercept − intercept of the reference) ÷ common slope)",
            "slopes": "slope ÷ slope of the reference",
        }.get(assay.model, "midpoint of the reference ÷ midpoint")
        own, base = assay.fits.get(str(found.preparation)), assay.fits.get(str(found.reference))
        if own is not None and base is not None:
            first, second = own.named, base.named
            if assay.model == "lines":
                numbers = (first["intercept"], second["intercept"], first["slope"])
                how += " = e^(({} − {}) ÷ {})".format(*(significant(each, 5) for each in numbers))
            else:
                name = "slope" if assay.model == "slopes" else "midpoint"
                pair = (first[name], second[name]) if assay.model == "slopes" else (second[name], first[name])
                how += " = {} ÷ {}".format(*(significant(each, 5) for each in pair))
        bench.write("potency", f"Relative potency{where}", text=how, result=significant(found.estimate, 5),
                    value=found.estimate)  # fmt: skip
        value = Value.of(found.estimate, found.lower, found.upper)
        by = "on the log scale" if assay.model.startswith("logistic") else "by Fieller’s theorem"
        g = "" if found.g is None else f", g = {significant(found.g, 3)}"
        why = f" ({found.reason})" if found.reason else ""
        bench.write("potency", f"{100 * self.interval:g} % interval{where}", text=f"{by}{g}{why}",
                    result=f"{value.shown_lower} to {value.shown_upper}" if value.shown_lower else "—")  # fmt: skip
        if found.own_parallel.statistic is not None:
            _write_test(bench, f"Parallel to the reference{where}", found.own_parallel)
        if not assay.model.startswith("logistic"):
            _write_test(bench, f"Straight{where}", found.linear)

    def _report(self, bench: PotencyBench, model: str, dropped: int) -> StepOutcome:
        failed = [assay for assay in bench.assays if assay.problem]
        if len(failed) == len(bench.assays):
            return self.told(failed[0].problem, State.FAIL)
        said = f"By {CALLED[model]}"
        crossed = any(assay.crossed for assay in bench.assays)
        said += ", which fit best" if self.model == "auto" and not crossed else ""
        first = next(assay for assay in bench.assays if not assay.problem)
        if model == "lines":
            said += f"; variance {VARIANCE[first.error]}"
        said += "."
        for sample in bench.samples[:NAMED]:
            if sample.combined is not None:
                found = sample.combined
                said += f" {sample.name}: {len(sample.each)} assays, {found.way} mean"
                said += f" (homogeneity p {p_value(found.p_value)})."
        if len(bench.assays) == 2 and self.combine != "weighted":
            said += " Two assays say little about the spread between assays."
        verdict = ""
        if dropped and model == "lines":
            said += f" {dropped} readings without dose have no logarithm and are not used."
        if not bench.in_units:
            said += " Potency is relative; type the reference’s declared potency for units."
        if failed:
            verdict = f"{listed([assay.name for assay in failed])}: {failed[0].problem}"
            said += f" **{verdict}**"
        lost = [sample.name for sample in bench.samples if sample.problem]
        if lost and not failed:
            verdict = f"{listed(lost)}: {next(s.problem for s in bench.samples if s.problem)}."
            said += f" **{verdict}**"
        if unknown := sorted(set(self.assumed) - set(bench.preparations)):
            verdict = f"An assumed potency is set for {listed(unknown)}, which is no series here."
            said += f" **{verdict}**"
        return self.told(said, State.LOOK if verdict else State.PASS, verdict)


def _determined(found: Potency) -> bool:
    """Whether there is a potency to speak of: a number above zero with an interval that says something."""
    if not (math.isfinite(found.estimate) and found.estimate > 0):
        return False
    if found.lower is None or found.upper is None:
        return False
    return found.lower <= 0 or found.upper / found.lower < WIDEST


def _log_error(found: Potency) -> float | None:
    """Standard error of ln potency."""
    if found.log_standard_error is not None:
        return found.log_standard_error
    return None if found.standard_error is None else found.standard_error / found.estimate


def _write_test(bench: PotencyBench, label: str, test: Test) -> None:
    if test.statistic is None or test.p_value is None:
        bench.write("potency", label, text=test.reason)
        return
    df = ", ".join(map(str, test.degrees_of_freedom))
    bench.write("potency", label, text=f"F({df}) = {significant(test.statistic, 3)}",
                result=f"p {p_value(test.p_value)}", value=test.p_value)  # fmt: skip


def _write_combined(bench: PotencyBench, found: Combined, names: list[str]) -> None:
    df = found.degrees_of_freedom
    bench.write("potency", "Do the assays agree?", text=f"χ²({df}) = {significant(found.heterogeneity, 3)}",
                result=f"p {p_value(found.p_value)}", value=found.p_value)  # fmt: skip
    if found.way == "semi-weighted":
        bench.write("potency", "Between assays", text="standard deviation of ln potency beyond their own errors",
                    result=significant(found.between, 3), value=found.between)  # fmt: skip
    weights = ", ".join(f"{name} {100 * weight:.0f} %" for name, weight in zip(names, found.weights, strict=True))
    bench.write("potency", "Combined", text=f"{found.way} mean of ln potency; weights {weights}",
                result=significant(found.estimate, 5), value=found.estimate)  # fmt: skip

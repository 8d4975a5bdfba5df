"""Step: the checks of a dose–response run — the plate, the curves, and whether the doses were well chosen."""

from typing import Annotated, Literal

from pydantic import Field

from dosis.core.limits import AssayQuality, assay_quality
from dosis.core.replicates import summarize
from dosis.core.rounding import fixed, p_value, significant
from dosis.run.curves.words import BEND, bent
from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.dose.bench import Compound, DoseBench
from dosis.run.questions.dose.effect_shown import leading, leading_of_all
from dosis.run.questions.dose.evenness import even_plates
from dosis.run.roles import Role
from dosis.run.steps.replicates import percent
from dosis.run.steps.step import Step
from dosis.run.steps.summary import NAMED, listed, sum_up

EDGE = 0.2  # share of the span within which the outermost doses must come to the plateaus
Share = Annotated[float, Field(gt=0, le=1)]


class DoseChecksStep(Step):
    """Thresholds of the checks. control_cv : of controls, where a guideline limits it."""

    title = "Checks"
    kind: Literal["dose_checks"] = "dose_checks"
    z_prime: Annotated[float, Field(ge=-1, le=1)] = 0.5
    spread: Share = 0.15
    control_cv: Annotated[float, Field(gt=0, le=10)] | None = None

    def run(self, bench: DoseBench) -> StepOutcome:
        """Make every check that this run allows."""
        fitted = [compound for compound in bench.compounds.values() if compound.fit is not None]
        made = (self._z(bench), even_plates(bench), self._bracketed(bench), self._plateaus(bench, fitted),
                self._controls(bench), self._spread(bench), self._fits(bench, fitted))  # fmt: skip
        return sum_up(bench, self.kind, made)

    def _z(self, bench: DoseBench) -> Check | None:
        """Zhang, Chung & Oldenburg (1999): Z′ of at least 0.5 tells the two ends of an assay apart; of each plate."""
        found = [(name, z) for name, ends in self._ends(bench) if (z := self._z_of(bench, name, ends)) is not None]
        if not found:
            return None
        name, worst = min(found, key=lambda each: each[1].z_prime or 0.0)
        lowest, ratio = worst.z_prime or 0.0, worst.signal_to_background
        low = [plate for plate, each in found if (each.z_prime or 0.0) < self.z_prime]
        where = f"{name}: " if name else ""
        several = f" (the worst of {len(found)} plates)" if len(found) > 1 else ""
        also = f"; also below: {listed([each for each in low if each != name])}" if len(low) > 1 else ""
        return Check(
            id="z_prime", title="The two ends stand apart",
            state=State.PASS if lowest >= self.z_prime else State.LOOK if lowest > 0 else State.FAIL,
            found=f"{where}Z′ {fixed(lowest, 2)}{several}"
            + ("" if ratio is None else f", signal to background {significant(ratio, 3)}") + also,
            threshold=f"Z′ ≥ {self.z_prime:g}" + (" on each plate" if len(found) > 1 else ""),
            why="Where the controls scatter nearly as far as they stand apart, an effect cannot be told from noise.",
            verdict=f"{where}Z′ is {fixed(lowest, 2)}.",
        )  # fmt: skip

    def _ends(self, bench: DoseBench) -> list[tuple[str, list[list[float]]]]:
        """Vehicle and full-effect readings as read: of each plate that has both, else of the run."""
        wells = [
            [(bench.by_id[id].plate, bench.raw[id]) for group in bench.groups(role) for id in bench.used(group)
             if id in bench.raw]
            for role in (Role.VEHICLE, Role.FULL)
        ]  # fmt: skip
        plates = sorted({plate for plate, _ in wells[0] + wells[1] if plate is not None})
        own = [
            (bench.readings.plates[plate].name, [[y for at, y in side if at == plate] for side in wells])
            for plate in plates
        ]
        if len(own) > 1 and all(len(side) > 1 for _, ends in own for side in ends):
            return own
        return [("", [[y for _, y in side] for side in wells])]

    def _z_of(self, bench: DoseBench, plate: str, ends: list[list[float]]) -> AssayQuality | None:
        if min(map(len, ends)) < 2:
            return None
        found = assay_quality(*ends)
        if found.z_prime is None:
            return None
        for name, summary in (("vehicle", found.high), ("full effect", found.low)):
            cv = "" if summary.cv is None else f", CV {percent(summary.cv)}"
            text = f"mean {significant(summary.mean, 6)}, SD {significant(summary.sd or 0.0)}, n {summary.n}{cv}"
            bench.write("check.z_prime", f"{plate} {name}".strip(), text=text)
        bench.write("check.z_prime", f"{plate} Z′".strip(), text="1 − 3 (SD + SD) ÷ |difference of the means|",
                    result=fixed(found.z_prime, 2), value=found.z_prime)  # fmt: skip
        return found

    def _bracketed(self, bench: DoseBench) -> Check | None:
        if not bench.effects:
            return None
        out = [effect for effect in bench.effects if effect.doses[0].relative.value is None]
        for effect in bench.effects:
            bench.write("check.bracketed", effect.name, text=leading(effect), result=effect.doses[0].relative.shown)
        named = listed([effect.name for effect in out])
        percent_of = bench.effects[0].doses[0].percent
        what = "half-effect dose" if percent_of == 50 else leading_of_all(bench.effects)
        title = "Half effect" if percent_of == 50 else f"{percent_of:g} % effect"
        return Check(
            id="bracketed", title=f"{title} within the doses", state=State.LOOK if out else State.PASS,
            found=f"{len(bench.effects) - len(out)} of {len(bench.effects)}" + (f"; not {named}" if out else ""),
            threshold="all", groups=tuple(effect.group for effect in out),
            why="Outside the tested doses nothing shows where the curve goes. Test higher or lower doses.",
            verdict=f"No {what} within the doses of {named}.",
        )  # fmt: skip

    def _plateaus(self, bench: DoseBench, fitted: list[Compound]) -> Check | None:
        """Common practice, no source: the outermost doses come within a fifth of the span to the plateaus."""
        open_ends = []
        judged = 0
        for compound in fitted:
            result = compound.fit
            if result is None or not {"lower", "upper"} <= set(result.model.names):
                continue
            judged += 1
            lower, upper = result.named["lower"], result.named["upper"]
            span = abs(upper - lower) or 1.0
            ends = result.predict(result.range)
            reach = [min(abs(end - lower), abs(end - upper)) / span for end in ends.tolist()]
            first, last = (percent(max(each, 0.0)) for each in reach)
            bench.write("check.plateaus", compound.name, text="lowest and highest dose from their plateaus",
                        result=f"{first} and {last} of the span")  # fmt: skip
            if max(reach) > EDGE:
                open_ends.append(compound)
        if not judged:
            return None
        named = listed([compound.name for compound in open_ends])
        return Check(
            id="plateaus", title="Both plateaus seen", state=State.LOOK if open_ends else State.PASS,
            found=f"{judged - len(open_ends)} of {judged}" + (f"; not {named}" if open_ends else ""),
            threshold=f"outermost doses within {percent(EDGE)} of the span",
            groups=tuple(compound.groups[0].id for compound in open_ends),
            why="A plateau that no dose reaches is extrapolated, and the relative half-effect dose with it. Test doses "
            "further out, or hold the plateau at the value of its control.",
            verdict=f"A plateau is not seen for {named}.",
        )  # fmt: skip

    def _controls(self, bench: DoseBench) -> Check | None:
        """What a guideline allows controls to scatter, where a method sets it; of readings as read."""
        if self.control_cv is None:
            return None
        values = bench.raw or bench.values
        at: dict[str, list[float]] = {}
        for group in bench.groups(Role.VEHICLE):
            at.setdefault(group.series, []).extend(values[id] for id in bench.used(group) if id in values)
        found = [(name, cv) for name, each in at.items() if len(each) > 1 and (cv := summarize(each).cv) is not None]
        if not found:
            return None
        for name, cv in found:
            bench.write("check.control_cv", name or "Controls", text=f"SD ÷ mean of {len(at[name])}",
                        result=percent(cv), value=cv)  # fmt: skip
        worst = max(cv for _, cv in found)
        return Check(
            id="control_cv", title="Controls agree", state=State.FAIL if worst > self.control_cv else State.PASS,
            found=f"CV {percent(worst)}", threshold=f"CV ≤ {percent(self.control_cv)}",
            why="Guidelines call a test invalid whose controls scatter more than they allow.",
            verdict=f"Controls scatter too much: CV {percent(worst)}.",
        )  # fmt: skip

    def _spread(self, bench: DoseBench) -> Check | None:
        """Replicates against the span between the references: near 0 % a CV says nothing."""
        if not bench.references or bench.full_scale == 0:
            return None
        wide = []
        judged = 0
        for group in bench.groups(Role.DOSE):
            summary = bench.summaries.get(group.id)
            if summary is None or summary.sd is None:
                continue
            judged += 1
            if summary.sd / bench.full_scale > self.spread:
                wide.append((group, summary.sd / bench.full_scale))
        if not judged:
            return None
        for group, share in wide:
            bench.write("check.spread", group.name, text="SD ÷ (100 % − 0 %)", result=percent(share), value=share)
        named = ", ".join(f"{group.name} {percent(share)}" for group, share in wide[:NAMED])
        return Check(
            id="spread", title="Replicates agree", state=State.LOOK if wide else State.PASS,
            found=named or f"all {judged} doses", threshold=f"SD ≤ {percent(self.spread)} of the span",
            groups=tuple(group.id for group, _ in wide),
            why="Replicates that disagree point to a slip in one of them; look before excluding.",
        )  # fmt: skip

    def _fits(self, bench: DoseBench, fitted: list[Compound]) -> Check | None:
        tested = [(c, c.fit.lack_of_fit.p_value) for c in fitted if c.fit and c.fit.lack_of_fit.p_value is not None]
        if not tested:
            return None
        off = [(compound, p) for compound, p in tested if compound.fit and bent(compound.fit)]
        for compound, p in tested:
            bench.write("check.fits", compound.name, text="lack of fit", result=f"p {p_value(p)}", value=p)
        named = ", ".join(f"{compound.name} (p {p_value(p)})" for compound, p in off[:NAMED])
        named += f" and {len(off) - NAMED} more" if len(off) > NAMED else ""
        return Check(
            id="fits", title="Curves fit", state=State.LOOK if off else State.PASS,
            found=f"{len(tested) - len(off)} of {len(tested)}" + (f"; not {named}" if off else ""),
            threshold=f"lack of fit p ≥ {BEND}", groups=tuple(compound.groups[0].id for compound, _ in off),
            why="The means leave the curve by more than the replicates differ. Look at the residuals; try five "
            "parameters, hormesis or two phases.",
            verdict=f"The curve does not fit {named}.",
        )  # fmt: skip

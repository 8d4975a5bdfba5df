"""Step: a curve through the doses of each series, some parameters shared by all where that is wanted."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from dosis.core.fitting.each import fit_each
from dosis.core.fitting.fit import fit
from dosis.core.inference.joint import SharedFit
from dosis.core.rounding import given
from dosis.run.curves.setting import LEAST, CurveSetting
from dosis.run.curves.words import bent, r2_name, shown_r_squared
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.dose.bench import Compound, DoseBench
from dosis.run.questions.dose.reference_errors import with_references
from dosis.run.roles import Role
from dosis.run.steps.step import Changed, Step
from dosis.run.steps.summary import listed, not_doses, pooled_names

NAMED = 3
WALL = 24  # series from which curves are made in brief: of hundreds at once nobody reads the parameters
MANY = 8  # series from which fitting them at once pays


class DoseCurveStep(CurveSetting, Step):
    """The same curve for every series, but for those that have a setting of their own.

    of : the normalized responses, or those as read.
    share : parameters that all series have in common. own : the exceptions, by the name of the series; they share
        nothing.
    """

    title = "Curve"
    kind: Literal["dose_curve"] = "dose_curve"
    of: Literal["normalized", "raw"] = "normalized"
    share: Annotated[tuple[str, ...], Field(max_length=10)] = ()
    own: Annotated[dict[str, CurveSetting], Field(max_length=2000)] = Field(default_factory=dict)

    @model_validator(mode="after")
    def _sharing(self) -> "DoseCurveStep":
        self.has(self.share)
        if both := sorted(set(self.fixed) & set(self.share)):
            raise ValueError(f"“{both[0]}” is held at a value, so there is nothing to share.")
        return self

    def words(self, before: Step | None, unit: str) -> str:
        """The whole step in words."""
        shared = f", {' and '.join(self.share)} shared" if self.share else ""
        own = "".join(f"; {name}: {setting.in_words}" for name, setting in self.own.items())
        return f"Curve: {self.in_words}{shared}, of {self.of} responses{own}"

    def changes(self, before: Step | None) -> list[Changed]:
        """Of series with a setting of their own those whose setting became, or ceased to be, an exception."""
        old = before.own if isinstance(before, DoseCurveStep) else {}
        found = [each for each in super().changes(before) if each.what != "own"]
        for name in {**old, **self.own}:
            was, now = old.get(name), self.own.get(name)
            if was != now:
                said = ["as all others" if each is None else each.in_words for each in (was, now)]
                found.append(Changed(f"curve of {name}", *said))
        return found

    def setting_of(self, compound: Compound) -> CurveSetting:
        """How that series is fitted."""
        return self.own.get(compound.name, self)

    def run(self, bench: DoseBench) -> StepOutcome:
        """Fit every series, and beside it the other scale for comparison of the half-effect doses."""
        compounds = self._compounds(bench)
        if not compounds:
            return self.told("No wells have a dose. Give wells the role dose, a series and a level.", State.FAIL)
        bench.compounds = compounds
        bench.brief = len(compounds) > WALL and not bench.whole
        bench.of_raw = self.of == "raw" or not bench.references
        if self.share and len(compounds) > 1:
            self._together(bench, compounds)
        self._at_once(bench, compounds)
        for compound in compounds.values():
            setting, means = self.setting_of(compound), bench.average_first
            if compound.fit is None and not compound.problem:
                compound.fit, compound.problem = setting.fitted(compound.x, compound.y(bench.of_raw), means=means)
            if compound.fit is not None and bench.references and not bench.of_raw:
                compound.fit = with_references(bench, compound, compound.fit)
            # Between free plateaus, readings all alike, normalizing only moves the plateaus.
            if bench.references and not (setting.plain and setting.declared.sigmoid):
                other = setting.model_copy(update={"fixed": {}})  # a value held is in the unit of one of the two
                compound.other, _ = other.fitted(compound.x, compound.y(not bench.of_raw), means=means)
        return self._report(bench, compounds)

    def _compounds(self, bench: DoseBench) -> dict[str, Compound]:
        found: dict[str, Compound] = {}
        for group in sorted(bench.groups(Role.DOSE), key=bench.place_of):
            compound = found.setdefault(group.series, Compound(name=group.series or "All doses"))
            compound.groups.append(group)
            if group.level is None or (group.series, group.level) in bench.left_out:
                continue
            for id in bench.used(group):
                compound.ids.append(id)
                compound.x.append(group.level)
                compound.normalized.append(bench.values[id])
                compound.raw.append(bench.raw.get(id, bench.values[id]))
        for i, compound in enumerate(found.values()):
            compound.tag = f"{i}." if len(found) > 1 else ""
        return found

    def _at_once(self, bench: DoseBench, compounds: dict[str, Compound]) -> None:
        """Many series with the same doses and nothing of their own are fitted in one array program."""
        if not self.plain or bench.average_first or not self.declared.sigmoid:
            return
        alike: dict[tuple[float, ...], list[Compound]] = {}
        for compound in compounds.values():
            if compound.fit is None and not compound.problem and compound.name not in self.own:
                alike.setdefault(tuple(compound.x), []).append(compound)
        for x, some in alike.items():
            if len(some) >= MANY and len(set(x)) >= len(self.declared.parameters):
                fits = fit_each(self.declared, x, [compound.y(bench.of_raw) for compound in some])
                for compound, found in zip(some, fits, strict=True):
                    compound.fit = found

    def _together(self, bench: DoseBench, compounds: dict[str, Compound]) -> None:
        need = max(LEAST, len(self.declared.parameters))
        able = {k: c for k, c in compounds.items() if len(set(c.x)) >= need and c.name not in self.own}
        labels = [key for key, compound in able.items() for _ in compound.x]
        x = [value for compound in able.values() for value in compound.x]
        y = [value for compound in able.values() for value in compound.y(bench.of_raw)]
        if len(able) < 2:
            return
        try:
            joint = fit(self.declared, x, y, series=labels, share=self.share, fixed=self.fixed or None,
                        means=bench.average_first)  # fmt: skip
        except ValueError as error:
            for compound in able.values():
                compound.problem = f"With shared parameters: {error}"
            return
        if isinstance(joint, SharedFit):
            bench.joint = joint
            for key, result in joint.series.items():
                able[str(key)].fit = result

    def _report(self, bench: DoseBench, compounds: dict[str, Compound]) -> StepOutcome:
        fitted = [compound for compound in compounds.values() if compound.fit is not None]
        lost = [compound for compound in compounds.values() if compound.fit is None]
        count = len(compounds)
        each = "" if count == 1 else f" for each of {count} series"
        shared = f", {' and '.join(self.share)} shared" if self.share and count > 1 else ""
        held = "".join(f", {name} held at {given(value)}" for name, value in self.fixed.items())
        said = f"{self.declared.name}{each}{shared}{held}."
        if own := [compound.name for compound in compounds.values() if compound.name in self.own]:
            said += f" **A setting of {'its' if len(own) == 1 else 'their'} own:** {listed(own, NAMED)}."
        if len(fitted) == 1 and fitted[0].fit is not None and fitted[0].fit.r_squared is not None:
            said += f" {r2_name(fitted[0].fit)} **{shown_r_squared(fitted[0].fit.r_squared)}**."
        if any(0.0 in compound.x for compound in fitted):
            said += " Zero dose is in the fit."
        bends = [compound.name for compound in fitted if compound.fit is not None and bent(compound.fit)]
        if bends:
            said += f" Lack of fit: {listed(bends, NAMED)}."
        if lost:
            why = f": {lost[0].problem}" if lost[0].problem else "."
            said += f" No curve for {listed([compound.name for compound in lost], NAMED)}{why}"
        aside = not_doses(bench)
        said += aside
        pooled = pooled_names(bench.groups(Role.DOSE))
        said += pooled
        state = State.FAIL if not fitted else State.LOOK if lost or bends or aside or pooled else State.PASS
        return self.told(said, state, pooled.replace("**", "").strip())

"""Step: a curve through the doses of each series, some parameters shared by all where that is wanted."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from dosis.core.fitting.each import fit_each
from dosis.core.fitting.fit import fit
from dosis.core.inference.joint import SharedFit
from dosis.core.inference.result import Fit
from dosis.core.models import MODELS, Model
from dosis.run.layout import Role
from dosis.run.outcome import State, StepOutcome
from dosis.run.record import Record
from dosis.run.steps.curve import Number, bent, shown_r_squared
from dosis.run.steps.summary import listed
from dosis.run.workbench import Compound, Workbench

LEAST = 3  # doses through which a curve is drawn at all
NAMED = 3
MANY = 8  # series from which fitting them at once pays


class DoseCurveStep(Record):
    """The same curve for every series.

    of : the normalized responses, or those as read.
    share : parameters that all series have in common. fixed : parameters held at a value, in the unit of `of`.
    """

    kind: Literal["dose_curve"] = "dose_curve"
    model: Annotated[str, Field(max_length=60)] = "logistic4"
    of: Literal["normalized", "raw"] = "normalized"
    weights: Literal["none", "1/y", "1/y^2", "1/yhat^2"] = "none"
    robust: Literal["off", "huber", "bisquare"] = "off"
    share: Annotated[tuple[str, ...], Field(max_length=10)] = ()
    fixed: dict[str, Number] = Field(default_factory=dict)

    @model_validator(mode="after")
    def _known(self) -> "DoseCurveStep":
        if self.model not in MODELS:
            raise ValueError(f"There is no curve model “{self.model}”.")
        names = set(self.declared.names)
        if unknown := sorted({*self.fixed, *self.share} - names):
            raise ValueError(f"{self.declared.name} has no parameter “{unknown[0]}”.")
        if both := sorted(set(self.fixed) & set(self.share)):
            raise ValueError(f"“{both[0]}” is held at a value, so there is nothing to share.")
        return self

    @property
    def declared(self) -> Model:
        """The model itself."""
        return MODELS[self.model]

    @property
    def _same_on_both_scales(self) -> bool:
        """Whether the doses are: between free plateaus, readings all alike, normalizing only moves the plateaus."""
        return bool(self.declared.sigmoid) and self.weights == "none" and self.robust == "off" and not self.fixed

    def run(self, bench: Workbench) -> StepOutcome:
        """Fit every series, and beside it the other scale for comparison of the half-effect doses."""
        compounds = self._compounds(bench)
        if not compounds:
            return self._said("No wells have a dose. Give wells the role dose, a series and a level.", State.FAIL)
        bench.compounds = compounds
        bench.of_raw = self.of == "raw" or not bench.references
        if self.share and len(compounds) > 1:
            self._together(bench, compounds)
        self._at_once(bench, compounds)
        for compound in compounds.values():
            if compound.fit is None and not compound.problem:
                compound.fit, compound.problem = self._alone(compound.x, compound.y(bench.of_raw), bench)
            if bench.references and not self._same_on_both_scales:
                other = self.model_copy(update={"fixed": {}})  # a value held is in the unit of one of the two
                compound.other, _ = other._alone(compound.x, compound.y(not bench.of_raw), bench)
        return self._report(bench, compounds)

    def _compounds(self, bench: Workbench) -> dict[str, Compound]:
        found: dict[str, Compound] = {}
        for group in bench.groups(Role.DOSE):
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

    def _at_once(self, bench: Workbench, compounds: dict[str, Compound]) -> None:
        """Many series with the same doses and nothing of their own are fitted in one array program."""
        own = self.weights != "none" or self.robust != "off" or self.fixed or bench.average_first
        if own or not self.declared.sigmoid:
            return
        alike: dict[tuple[float, ...], list[Compound]] = {}
        for compound in compounds.values():
            if compound.fit is None and not compound.problem:
                alike.setdefault(tuple(compound.x), []).append(compound)
        for x, some in alike.items():
            if len(some) >= MANY and len(set(x)) >= len(self.declared.parameters):
                fits = fit_each(self.declared, x, [compound.y(bench.of_raw) for compound in some])
                for compound, found in zip(some, fits, strict=True):
                    compound.fit = found

    def _alone(self, x: list[float], y: list[float], bench: Workbench) -> tuple[Fit | None, str]:
        doses, need = len(set(x)), len(self.declared.parameters) - len(self.fixed)
        if doses < max(LEAST, need):
            have = f"{doses} dose{'s' if doses != 1 else ''} with a usable reading"
            return None, f"{have}; {self.declared.name.lower()} needs {max(LEAST, need)}."
        try:
            found = fit(
                self.declared, x, y, weights=self.weights, robust=None if self.robust == "off" else self.robust,
                fixed=self.fixed or None, means=bench.average_first,
            )  # fmt: skip
        except ValueError as error:
            return None, str(error)
        return found, ""

    def _together(self, bench: Workbench, compounds: dict[str, Compound]) -> None:
        able = {k: c for k, c in compounds.items() if len(set(c.x)) >= max(LEAST, len(self.declared.parameters))}
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

    def _report(self, bench: Workbench, compounds: dict[str, Compound]) -> StepOutcome:
        fitted = [compound for compound in compounds.values() if compound.fit is not None]
        lost = [compound for compound in compounds.values() if compound.fit is None]
        count = len(compounds)
        each = "" if count == 1 else f" for each of {count} series"
        shared = f", {' and '.join(self.share)} shared" if self.share and count > 1 else ""
        held = "".join(f", {name} held at {value:g}" for name, value in self.fixed.items())
        said = f"{self.declared.name}{each}{shared}{held}."
        if len(fitted) == 1 and fitted[0].fit is not None and fitted[0].fit.r_squared is not None:
            said += f" R² **{shown_r_squared(fitted[0].fit.r_squared)}**."
        if any(0.0 in compound.x for compound in fitted):
            said += " Zero dose is in the fit."
        bends = [compound.name for compound in fitted if compound.fit is not None and bent(compound.fit)]
        if bends:
            said += f" Lack of fit: {listed(bends, NAMED)}."
        if lost:
            said += f" No curve for {listed([compound.name for compound in lost], NAMED)}."
        aside = [group.name for group in bench.groups(Role.STANDARD, Role.SAMPLE, Role.QC)]
        aside += [group.name for group in bench.groups(Role.DOSE) if group.level is None]
        if aside:
            said += f" Neither dose nor control, and so not used: {listed(aside, NAMED)}."
        state = State.FAIL if not fitted else State.LOOK if lost or bends or aside else State.PASS
        return self._said(said, state)

    def _said(self, sentence: str, state: State) -> StepOutcome:
        return StepOutcome(kind=self.kind, title="Curve", sentence=sentence, state=state)

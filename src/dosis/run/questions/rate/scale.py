"""Step: rates brought to real units — by path length and absorptivity, volume, and the amount that did the work."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from dosis.core.rounding import given
from dosis.core.units import UnitError, combined
from dosis.run.curves.equation import put
from dosis.run.layout import Unit
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.rate.bench import Found, RateBench
from dosis.run.record import Record
from dosis.run.steps.step import Step

Positive = Annotated[float, Field(gt=0, le=1e15)]


class Measured(Record):
    """A number with its unit; without the number it takes no part."""

    value: Positive | None = None
    unit: Unit = ""

    @property
    def words(self) -> str:
        """ "6220 L/mol/cm"."""
        return "" if self.value is None else f"{given(self.value)} {self.unit}".rstrip()


class ScaleStep(Step):
    """rate ÷ (absorptivity × path) × volume ÷ amount, in the unit `to`; what has no number takes no part.

    absorptivity : signal per concentration, and per length where there is a path ("L/mol/cm", "RFU/µM"). volume : in
    which it happened. amount : what did the work, such as mg of protein. positive : falling courses give rates above
    zero.
    """

    title = "Scale"
    names: ClassVar = {"to": "in"}
    kind: Literal["scale"] = "scale"
    absorptivity: Measured = Measured(unit="L/mol/cm")
    path: Measured = Measured(unit="cm")
    volume: Measured = Measured(unit="mL")
    amount: Measured = Measured(unit="mg")
    to: Unit = ""
    positive: bool = False

    def words(self, before: Step | None, unit: str) -> str:
        """What rates are divided and multiplied by."""
        said = self._said
        sign = ", falls above zero" if self.positive else ""
        return f"Scale: {', '.join(said) or 'none'}{f', in {self.to}' if self.to and said else ''}{sign}"

    @property
    def _terms(self) -> list[tuple[float, str, int]]:
        parts = ((self.absorptivity, -1), (self.path, -1), (self.volume, 1), (self.amount, -1))
        return [(each.value, each.unit, power) for each, power in parts if each.value is not None]

    @property
    def _said(self) -> list[str]:
        words = (
            ("÷ absorptivity", self.absorptivity), ("÷ path", self.path), ("× volume", self.volume),
            ("÷ amount", self.amount),
        )  # fmt: skip
        return [f"{how} {each.words}" for how, each in words if each.words]

    def run(self, bench: RateBench) -> StepOutcome:
        """Bring what is a rate of y to the unit that is asked for."""
        rates = [each for each in bench.found if each.per == "rate"]
        if not rates:
            return self.told("Nothing here is y over time; there is nothing to scale.", State.PASS)
        factor, unit = 1.0, rates[0].unit
        if self._terms:
            try:
                factor, unit = combined(rates[0].unit, self._terms, self.to)
            except UnitError as error:
                return self.told(f"**Not scaled.** {error}", State.FAIL, f"Rates are not scaled. {error}")
        sign = -1.0 if self.positive and _falls(rates[0]) else 1.0
        bench.factor = factor * sign
        bench.found = [
            Found(each.id, each.name, unit, each.values * factor * sign, each.errors * factor, each.df, each.per,
                  each.positive, each.lead)
            if each.per == "rate" else each
            for each in bench.found
        ]  # fmt: skip
        if bench.tangent is not None:
            bench.tangent = next(each for each in bench.found if each.id == bench.tangent.id)
        lead = bench.lead()
        if lead is not None and lead.per == "rate":
            bench.values = {id: value * factor * sign for id, value in bench.values.items()}
        if not self._terms:
            turned = " Falls count above zero." if sign < 0 else ""
            return self.told(f"Rates as they are read, in {unit}.{turned}", State.PASS)
        how = "; ".join(self._said)
        for course in bench.courses:
            value = bench.values.get(course.id)
            if lead is not None and lead.per == "rate" and value is not None:
                bench.note(course.group, self.kind, "Scaled", value=value, result=f"{put(value)} {unit}",
                           text=f"{course.key}: × {put(factor * sign)} ({how})")  # fmt: skip
        turned = ", falls above zero" if sign < 0 else ""
        return self.told(f"{how}: rates in **{unit}**, × {put(factor)}{turned}.", State.PASS)


def _falls(found: Found) -> bool:
    known = found.values[np.isfinite(found.values)]
    return bool(known.size and np.median(known) < 0)

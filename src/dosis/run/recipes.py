"""Recipes: how a standard's concentration came about — typed, weighed in or made from a stock — with its working."""

import math
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from dosis.core.expressions import parse
from dosis.core.numbers import LARGEST, Meaning, guess_decimal, parse_number
from dosis.core.rounding import given
from dosis.core.solutions import by_weight, from_stock, molar
from dosis.core.units import UnitError, convert, is_unit, normal_unit
from dosis.run.record import Record

Typed = Annotated[str, Field(max_length=60)]


class Weighed(Record):
    """A mass made up to a volume: "12.5 mg", "100 mL"; purity in percent; molar mass in g/mol for molar units."""

    kind: Literal["weighed"] = "weighed"
    mass: Typed
    volume: Typed
    purity: Annotated[float, Field(gt=0, le=100)] = 100.0
    molar_mass: Annotated[float, Field(gt=0, le=1e9)] | None = None

    def level(self, unit: str) -> tuple[float, str, str]:
        """The concentration, its unit (the wanted one, if any) and the working."""
        mass, volume = _in(self.mass, "g", "mass"), _in(self.volume, "L", "volume")
        purity = self.purity / 100
        amounts = f"{self.mass.strip()}" + (f" × {given(self.purity)} %" if self.purity != 100 else "")
        if self.molar_mass is None:
            found, natural, below = by_weight(mass, volume, purity=purity), "g/L", self.volume.strip()
        else:
            found, natural = molar(mass, self.molar_mass, volume, purity=purity), "mol/L"
            below = f"({given(self.molar_mass)} g/mol × {self.volume.strip()})"
        return _wanted(found.value, natural, unit, f"{amounts} ÷ {below}", self.molar_mass is None)


class FromStock(Record):
    """C1·V1 = C2·V2: a volume of stock made up to a final volume."""

    kind: Literal["stock"] = "stock"
    stock: Typed
    volume: Typed
    final_volume: Typed

    def level(self, unit: str) -> tuple[float, str, str]:
        """The concentration, its unit (the wanted one, if any) and the working."""
        stock, own = quantity(self.stock, "stock concentration")
        found = from_stock(stock, _in(self.volume, "L", "volume"), _in(self.final_volume, "L", "final volume"))
        working = f"{self.stock.strip()} × {self.volume.strip()} ÷ {self.final_volume.strip()}"
        return _wanted(found.value, own, unit, working, False)


Recipe = Annotated[Weighed | FromStock, Field(discriminator="kind")]


def quantity(text: str, what: str) -> tuple[float, str]:
    """A number and its unit as typed, with either decimal sign, or as it comes about ("10^0.5 µM", "sqrt(10)").

    Raises
    ------
    ValueError : when it is not a number, or its unit is not known, naming what was asked for.
    """
    found = parse_number(text, guess_decimal([text]))
    if found.meaning is not Meaning.NUMBER and (worked := worked_out(text)) is not None:
        return worked
    if found.meaning is not Meaning.NUMBER or found.value is None:
        raise ValueError(f"“{text.strip()}” is not a {what}. Type a number with its unit, such as 20 µg/L.")
    if found.unit and not is_unit(found.unit):
        raise ValueError(
            f"“{found.unit}” in “{text.strip()}” is not a unit that Dosis knows. Write it as mg/L, µM, mL …"
        )
    return found.value, normal_unit(found.unit)


def worked_out(text: str) -> tuple[float, str] | None:
    """A number typed as it comes about, with or without a unit: "10^0.5 µM", "sqrt(10)", "3 × 2/7"; None for none."""
    typed = text.strip()
    for end in range(len(typed), 0, -1):
        unit = typed[end:].strip()
        if unit and not (typed[end - 1] in " )" or typed[end].isalpha() or typed[end] == "%"):
            continue
        if unit and not is_unit(unit):
            continue
        try:
            expression = parse(typed[:end])
        except ValueError:
            continue
        if expression.names:
            continue
        with np.errstate(all="ignore"):
            value = float(expression.value({}))
        return (value, normal_unit(unit)) if math.isfinite(value) else None
    return None


def number(text: str) -> float:
    """A bare number as typed or worked out, for a setting: "10^0.5", "sqrt(10)", "2/3".

    Raises
    ------
    ValueError : as `quantity`, and for one with a unit.
    """
    value, unit = quantity(text, "number")
    if unit:
        raise ValueError(f"“{text.strip()}” has a unit. Type the number alone, such as 10^0.5.")
    return value


def level_in(text: str, unit: str) -> tuple[float, str]:
    """A concentration as typed, in `unit` where there is one; else in its own, which is returned beside it.

    Raises
    ------
    ValueError : as `quantity`, or when the two units are not of one kind.
    """
    value, own = quantity(text, "concentration")
    if own and unit:
        value, own = convert(value, own, unit), unit
    if abs(value) > LARGEST:
        raise ValueError(f"“{text.strip()}” is too large to be a concentration.")
    return value, unit or own


def _in(text: str, unit: str, what: str) -> float:
    value, own = quantity(text, what)
    if not own:
        raise ValueError(f"The {what} “{text.strip()}” has no unit. Write it as in 10 m{unit}.")
    return convert(value, own, unit)


def _wanted(value: float, natural: str, unit: str, working: str, by_mass: bool) -> tuple[float, str, str]:
    if not unit or not natural:
        unit = unit or natural
    else:
        try:
            value = convert(value, natural, unit)
        except UnitError as error:
            if by_mass:
                raise ValueError(f"For a concentration in {unit} the molar mass is needed too.") from error
            raise
    if not math.isfinite(value) or abs(value) > LARGEST:
        raise ValueError("These amounts give a concentration that is too large or too small. Check their units.")
    value = float(f"{value:.12g}")
    return value, unit, f"{working} = {value:.6g} {unit}".rstrip()

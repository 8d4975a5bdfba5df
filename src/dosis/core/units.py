"""Units: which suffixes of a number are units, and converting between units of the same kind."""

import re
from collections.abc import Callable, Mapping, Sequence
from functools import cache
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    import pint

MICRO = str.maketrans({"μ": "µ"})  # Greek mu and the micro sign are the same to a chemist

_AMOUNT = r"(?:[fpnumkµ]?(?:mol|M|g|L|l|eq|U|IU)|[fpnumkcµ]?m(?:2|3|²|³)?|kDa|Da|cells?|particles|CFU|cfu)"
_KNOWN = re.compile(
    rf"^(?:%|‰|%? ?\((?:v/v|w/v|w/w|m/v|m/m)\)|% (?:v/v|w/v|w/w)|ppm|ppb|ppt"
    rf"|{_AMOUNT}(?:\s?(?:/|·|\s)\s?(?:100\s?)?(?:{_AMOUNT}|min|s|h|d|K)(?:-1|⁻¹)?)*"
    r"|AU|OD|A|mAU|RFU|RLU|mV|V|kV|µV|nA|µA|mA|nm|s|ms|min|h|d|°C|K|Hz|kHz|MHz|counts?|psu|PSU|NTU|FNU|S/m|mS/cm|µS/cm"
    r"|m?bar|k?Pa|MPa|hPa|atm|mmHg|[kM]?(?:ohm|Ω)|k?J(?:/mol)?|kcal/mol|m?W|kN|mN|rpm|lux|cm-1"
    r"|1/(?:cm|s|min|h|d|K|M|m|mM|µM)|[smhd]-1|°)$"
)
_POWER = re.compile(r"\s*[·*. ]?\s*([A-Za-zµ]+)\s?(?:\^?-1|\^\(-1\)|⁻¹)(?=$|\s|[·*/])")


class UnitError(ValueError):
    """Two units that do not measure the same kind of thing, or one nobody knows."""


def normal_unit(text: str) -> str:
    """One spelling for a unit as typed: the micro sign, "u" for micro in "uM" and "ug/L", no stray spaces."""
    unit = re.sub(r"\s*/\s*", "/", text.strip().translate(MICRO))
    # "mol L^-1" and "mol·L⁻¹" are mol/L; a power alone, such as s-1, is 1/s.
    powered = _POWER.sub(r"/\1", unit)
    unit = f"1{powered}" if powered.startswith("/") else powered
    return re.sub(r"(^|/)u(?=[MgLlm])", r"\1µ", unit)


def is_unit(text: str) -> bool:
    """Whether a word is a unit Dosis knows by its spelling ("µM", "mg/L", "%", "mol L⁻¹")."""
    return bool(_KNOWN.match(normal_unit(text)))


@cache
def _registry() -> "pint.UnitRegistry[float]":
    import pint  # loading the registry costs a third of a second; only mixed units need it

    registry: pint.UnitRegistry[float] = pint.UnitRegistry(cache_folder=None)
    registry.define("@alias ppm = parts_per_million")
    registry.define("liter = decimeter ** 3 = L = l = litre")  # written with a capital, as a chemist does
    registry.define("ppb = 1e-9 = _ = parts_per_billion")
    for signal in ("RFU", "RLU", "NTU", "FNU", "psu"):  # measured in units of their own
        registry.define(f"{signal} = [{signal}]")
    return registry


def conversion_factor(unit: str, to: str) -> float:
    """The factor that turns a value in `unit` into one in `to`.

    Raises
    ------
    UnitError : when the two do not measure the same kind of thing ("mg/L" and "µM"), naming both.
    """
    if normal_unit(unit) == normal_unit(to):
        return 1.0
    registry = _registry()
    try:
        return float(registry.Quantity(1.0, normal_unit(unit)).to(normal_unit(to)).magnitude)
    except Exception as error:  # the library raises several unrelated kinds for unknown and unequal units
        raise UnitError(
            f"“{unit}” and “{to}” do not measure the same kind of thing. Write the column in one unit."
        ) from error


def convert(value: float, unit: str, to: str) -> float:
    """`value` in `unit`, expressed in `to`, free of the last-digit noise of the factor ("500 µg/L" is 0.5 mg/L)."""
    return float(f"{value * conversion_factor(unit, to):.15g}")


def result_unit(compute: Callable[[Mapping[str, Any]], Any], units: Mapping[str, str]) -> str | None:
    """The unit that comes of computing with one of each unit; "" for a plain number, None where it cannot be told.

    Raises
    ------
    UnitError : where the computation adds, compares or takes functions of what does not go together.
    """
    import pint

    try:
        found = compute({name: _registry().Quantity(1.0, normal_unit(unit)) for name, unit in units.items()})
    except pint.DimensionalityError as error:
        named = ", ".join(f"{name} ({unit})" for name, unit in units.items())
        raise UnitError(f"These units do not go together in the expression: {named}.") from error
    except Exception:  # a unit the library does not know, or a function it cannot carry units through
        return None
    return f"{found.units:~P}" if isinstance(found, _registry().Quantity) else ""


_NO_DIMENSION = {"AU": "1", "A": "1", "OD": "1", "mAU": "0.001", "": "1"}  # absorbances are plain numbers


def combined(unit: str, terms: Sequence[tuple[float, str, int]], to: str = "") -> tuple[float, str]:
    """The factor from a number in `unit` to one in `to`, after it is multiplied by each term to its power.

    terms : (value, unit, power), such as (6220, "L/mol/cm", -1) for what is divided by an absorptivity. to : empty for
    the first of the usual units of a rate that fits. Absorbance units count as plain numbers.

    Raises
    ------
    UnitError : for a unit nobody knows, or when what comes of it is not of the kind of `to`; it names what it is.

    Example
    -------
    ``combined("AU/min", [(6220, "L/mol/cm", -1), (1, "cm", -1)], "µmol/L/min")`` is ``(160.77…, "µmol/L/min")``.
    """
    found = _quantity(1.0, unit)
    for value, own, power in terms:
        found = found * _quantity(value, own) ** power
    if to:
        _quantity(1.0, to)
    for wanted in (to,) if to else ("µmol/L/min", "µmol/min", "µmol/min/mg", "1/min"):
        try:
            return float(found.to(_quantity(1.0, wanted).units).magnitude), wanted
        except Exception:
            continue
    if not to:
        plain = found.to_base_units()
        return float(plain.magnitude), f"{plain.units:~P}"
    raise UnitError(
        f"What comes of it is measured in {found.units:~P}, not in {to}. Check the units, or what is missing."
    )


def _quantity(value: float, unit: str) -> Any:
    registry = _registry()
    parts = [_NO_DIMENSION.get(part.strip(), part.strip()) for part in normal_unit(unit).split("/")]
    written = "/".join(f"({part.replace('·', '*').replace(' ', '*')})" for part in parts)
    try:
        return registry.Quantity(value) * registry.parse_expression(written)
    except Exception as error:
        raise UnitError(f"“{unit}” is no unit Dosis knows.") from error

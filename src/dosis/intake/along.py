"""What readings that are curves were taken along, and what they and the places on it are called."""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from dosis.core.arrays import Array
from dosis.core.numbers import Meaning, TypedNumber
from dosis.core.rounding import given
from dosis.intake.columns import split_heading
from dosis.intake.roles import role_named
from dosis.intake.times import is_time, time_quantity, times_of
from dosis.run.layout import Quantity
from dosis.run.roles import Role

Values = tuple[list[float | None], str, str]
NANOMETERS = (100.0, 30_000.0)  # between which wavelengths without a unit are nanometers
_PER_CM = re.compile(r"^(1/cm|cm\s*[-−⁻^]+\s*[1¹]|/cm)$", re.IGNORECASE)
_WAVE = re.compile(
    r"^(?P<name>wave ?lengths?|wave ?numbers?|wl|λ|ν̃|(raman )?shift|lambda)\s*(?:[\[(/,]|\bin\b|\s|$)\s*"
    r"(?P<unit>[^\])]*?)\s*[\])]?\s*$",
    re.IGNORECASE,
)
_REFERENCE = re.compile(r"^(ref(erence)?|pure|component)\b", re.IGNORECASE)


@dataclass(frozen=True)
class Along:
    """An axis of curves.

    is_axis : whether a heading is that of such an axis. quantity : its name and unit, by its heading. values : the
    places in that unit, which unit it is, and what was made of the cells, in words. role : of a curve, by its name.
    said : what is shown of a curve in a list. times : whether names of curves may say a time. recorded : whether each
    has a unit of its own, and words beside them are marks. curve, place : what one of the curves and a place on the
    axis are called. missing : said where there is no such axis; unitless : of one without a unit.
    """

    is_axis: Callable[[str], bool]
    quantity: Callable[[str], Quantity]
    values: Callable[[Sequence[TypedNumber], str], Values]
    role: Callable[[str], Role]
    said: Callable[[Array], str]
    times: bool
    recorded: bool
    curve: str
    place: str
    missing: str
    unitless: str


def is_wave(heading: str) -> bool:
    """Whether a heading is that of wavelengths or wavenumbers: "λ / nm", "Wavelength (nm)", "nm", "cm-1"."""
    bare = heading.strip()
    return bare.lower() == "nm" or bool(_PER_CM.match(bare)) or bool(_WAVE.match(bare))


def wave_quantity(heading: str) -> Quantity:
    """Its name and its unit, empty where the heading names none."""
    bare = heading.strip()
    if bare.lower() == "nm":
        return Quantity(name="Wavelength", unit="nm")
    if _PER_CM.match(bare):
        return Quantity(name="Wavenumber", unit="1/cm")
    match = _WAVE.match(bare)
    if match is None:
        name, unit = split_heading(bare)
        return Quantity(name=(name or "x")[:200], unit=unit[:40])
    words, unit = match["name"].lower(), match["unit"].strip()
    unit = "1/cm" if _PER_CM.match(unit) else unit
    number = "number" in words or words == "ν̃" or (unit == "1/cm" and "shift" not in words)
    name = "Shift" if "shift" in words else "Wavenumber" if number else "Wavelength"
    return Quantity(name=name, unit=unit[:40])


def waves_of(cells: Sequence[TypedNumber], unit: str) -> Values:
    """Wavelengths as they are, in nanometers where nothing else is said and they can be."""
    values = [cell.value if cell.meaning is Meaning.NUMBER else None for cell in cells]
    own = {cell.unit for cell in cells if cell.meaning is Meaning.NUMBER and cell.unit}
    if unit or own:
        return values, unit or (own.pop() if len(own) == 1 else ""), ""
    known = [value for value in values if value is not None]
    if known and NANOMETERS[0] <= min(known) and max(known) <= NANOMETERS[1]:
        return values, "nm", "Nothing says so; type the unit into the heading if it is another."
    return values, "", ""


def ends_of(y: Array) -> str:
    """From what to what a course goes, in short."""
    first, last = (given(float(f"{value:.3g}")) for value in (y[0], y[-1]))
    return f"{first} … {last}"


def top_of(y: Array) -> str:
    """Up to what a scan goes, in short."""
    return f"up to {given(float(f'{y.max():.3g}'))}"


def _course_role(name: str) -> Role:
    role = role_named(name)
    return role if role in (Role.BLANK, Role.UNUSED) else Role.POINT


def _scan_role(name: str) -> Role:
    return Role.STANDARD if _REFERENCE.match(name.strip()) else _course_role(name)


_TIME = Along(
    is_axis=is_time, quantity=time_quantity, values=times_of, role=_course_role, said=ends_of,
    times=False, recorded=False, curve="course", place="time", unitless="Rates are per one of it.",
    missing="**No column of times was found.** Rates are taken of what was read at several times: choose the column of "
    "times above the table, or ask something else.",
)  # fmt: skip
ALONG: dict[str, Along] = {
    "time": _TIME,
    "record": replace(
        _TIME, recorded=True, curve="channel", place="sample",
        missing="**No column of times was found.** A recording is one or more columns of numbers beside one of times: "
        "choose that column above the table, or ask something else.",
    ),
    "wave": Along(
        is_axis=is_wave, quantity=wave_quantity, values=waves_of, role=_scan_role, said=top_of,
        times=True, recorded=False, curve="scan", place="wavelength", unitless="Type it into the heading.",
        missing="**No column of wavelengths was found.** A scan is a column of numbers beside one of wavelengths that "
        "go one way: choose that column above the table, or ask something else.",
    ),
}  # fmt: skip

"""Columns: their headings taken apart, and their cells."""

import re
from dataclasses import dataclass
from functools import cached_property

from dosis.core.numbers import Decimal, Meaning, TypedNumber, parse_number, parse_numbers
from dosis.core.units import is_unit, normal_unit
from dosis.intake.series import without_number
from dosis.intake.understanding import ColumnKind
from dosis.run.trade_words import column_word

# The first pattern that a heading matches decides.
HEADINGS: tuple[tuple[ColumnKind, re.Pattern[str]], ...] = tuple(
    (kind, re.compile(pattern, re.IGNORECASE))
    for kind, pattern in (
        (
            ColumnKind.ERROR,
            r"^(errors?|s\.?d\.?|s\.?e\.?(m\.?)?|st(andar)?d\.?[ _-]?(dev(iation)?|err(or)?)\.?|±.*|\+/?-.*"
            r"|(?-i:u) ?\(.*\)|uncertainty( .*)?|.+ (sd|sem|error|std ?dev)|(sd|sem|error)( of)? .+)$",
        ),
        (ColumnKind.EXCLUDED, r"^excluded$"),
        (ColumnKind.LEVEL, r"^level: .+$"),
        (ColumnKind.WELL, r"^(wells?|well[ _-]?(id|name|position)|position|pos\.?)$"),
        (ColumnKind.PLATE, r"^(plates?|plate[ _-]?(id|name|no\.?|number)|barcode)$"),
        (ColumnKind.CHANNEL, r"^(wave ?lengths?|λ|nm|filter|cycle|channel)( ?[(\[/,].*)?$"),
        (ColumnKind.SERIES, r"^(series|compounds?|treatment|lot|batch|group|clone|strain|species|substance|toxicant)$"),
        (ColumnKind.VESSEL, r"^(vessel|tank|beaker|jar|chamber|tube|vial|replicate|rep)( ?(no\.?|number|id|#))?$"),
        (ColumnKind.ROLE, r"^(role|type|kind|class|sample type)$"),
        (ColumnKind.NOTE, r"^(notes?|comments?|remarks?|date|time)$"),
        (ColumnKind.DILUTION, r"^(dil(ution|n)?\b.*|d\.?f\.?|(dilution )?factor)$"),
        (ColumnKind.LEVEL, r"^(conc(entration|n)?\b.*|c|level|known.*|nominal.*|expected.*|target.*|doses?|amount|x)$"),
        (ColumnKind.LEVEL, r"^(log ?(10)?|lg)[ _]*\(?\[?(dose|conc(entration|n)?|c|m|molar)\b.*$"),
        (ColumnKind.LEVEL, r"^(standards?|std|calibrator)[\s\[(/,]+(?!id|name).+"),
        (ColumnKind.NAME, r"^(samples?|names?|id|labels?|description|standards?|identity|sample[ _-]?(id|name))$"),
    )
)
AMOUNT = re.compile(r"^[fpnµmk]?(g|mol|M|L)\b|^%$|^pp[mbt]$")
_HEADING_UNIT = re.compile(r"^(?P<name>.*?)\s*(?:[(\[](?P<unit>[^()\[\]]+)[)\]]|(?:/|\bin\b|,)\s+(?P<bare>\S.*))$")


# "Dose mg/L", "Conc µM", "Temp °C": a unit that stands last without a bracket; "450 nm" and "Lot A" are none.
_TRAILING_UNIT = re.compile(
    r"^(?P<name>.*[^\W\d]\)?)\s+(?P<unit>(?P<bare>[^\s/]+/[^\s/]+|%|‰|°C|[fpnuµm]M|[µnmk]?g|[µm]L|mV|min|nm|ppm|ppb|psu))$"
)


@dataclass(frozen=True)
class ColumnCells:
    """A column's heading and its cells below, parsed."""

    heading: str
    numbers: tuple[TypedNumber, ...]

    @cached_property
    def plain(self) -> bool:
        """Whether nothing stands in it but numbers without units."""
        number = Meaning.NUMBER
        return all(meaning is number and not unit for _, meaning, _, unit in self.numbers)

    @cached_property
    def numeric(self) -> bool:
        """Whether most of what stands in it are numbers, bounds or over-range words."""
        if self.plain and self.numbers:
            return True
        told = [n for n in self.numbers if n.meaning is not Meaning.MISSING]
        good = [n for n in told if n.meaning is not Meaning.TEXT and (not n.unit or is_unit(n.unit))]
        return any(n.meaning is Meaning.NUMBER for n in good) and 2 * len(good) >= len(told)

    @cached_property
    def has_units(self) -> bool:
        """Whether its numbers carry units in the cells."""
        return any(n.unit and is_unit(n.unit) for n in self.numbers)

    @cached_property
    def gaps(self) -> int:
        """How many cells are empty."""
        return sum(n.meaning is Meaning.MISSING for n in self.numbers)


def columns_of(grid: list[list[str]], headings: list[str], decimal: Decimal) -> list[ColumnCells]:
    """The columns of a rectangular grid (without its heading row)."""
    return [
        ColumnCells(heading, parse_numbers([row[i] for row in grid], decimal)) for i, heading in enumerate(headings)
    ]


def split_heading(heading: str) -> tuple[str, str]:
    """A heading's quantity and unit: "Conc (µM)" → ("Conc", "µM"); the unit only where it is one."""
    match = _HEADING_UNIT.match(heading.strip()) or _TRAILING_UNIT.match(heading.strip())
    if match is None:
        bare = heading.strip()
        return ("", normal_unit(bare)) if is_unit(bare) and len(bare) > 1 and "/" in bare else (bare, "")
    unit = (match["unit"] or match["bare"]).strip()
    return (match["name"].strip(), normal_unit(unit)) if is_unit(unit) else (heading.strip(), "")


def stem(heading: str) -> str:
    """A heading without its unit and its replicate number: "A880 rep 1" → "A880"; "Trial 1" stays."""
    return without_number(split_heading(heading)[0])


_WAVELENGTH = re.compile(
    r"(?:^|[^\d.])(\d{3,4})\s*nm\b|^(?:a|abs|absorbance|od|e|em|ex|f|t)[\s_(]*(\d{3,4})\b|^(\d{3,4})$", re.IGNORECASE
)
NUMBERED = re.compile(r"^\d+(?:[.,]\d+)?\s*(?:s|sec|min|h|d|nm|°C)?$", re.IGNORECASE)
PREPARATION = re.compile(r"^(preparations?|relative potency)$", re.IGNORECASE)
_AGAIN = re.compile(r"^(readings?|repeats?|repl(icate)?s?|reps?|duplicates?|first|second|third)$", re.IGNORECASE)


TIME = re.compile(r"^(exposure )?(time|hours?|days?|minutes?)( of exposure)?$", re.IGNORECASE)
_TIME_WORDS = {"hour": "h", "day": "d", "minute": "min"}


def time_of(heading: str, cell: str) -> str:
    """A time point with its unit, from the cell or its heading: "24 h" of 24 under "Time (h)" or "Hours"."""
    quantity, unit = split_heading(heading)
    word = next((short for word, short in _TIME_WORDS.items() if word in quantity.lower()), "")
    typed = parse_number(cell)
    if typed.meaning is not Meaning.NUMBER or typed.value is None:
        return cell.strip()
    return f"{typed.value:g} {typed.unit or unit or word}".strip()


def channel_of(heading: str, unit: str = "") -> str:
    """What a reading column was read at, for telling replicates from channels: "880 nm" of "A880 rep 2"."""
    plain = split_heading(heading)[0]
    if match := _WAVELENGTH.search(plain):
        value = next(g for g in match.groups() if g)
        if 180 <= int(value) <= 2500:
            return f"{value} {unit or 'nm'}"
    if NUMBERED.match(plain.strip()):
        return f"{plain.strip()} {unit}".strip()
    found = stem(heading)
    return "" if _AGAIN.match(found) else found


SINGLE = (
    ColumnKind.NAME, ColumnKind.ROLE, ColumnKind.LEVEL, ColumnKind.DILUTION, ColumnKind.SERIES, ColumnKind.WELL,
    ColumnKind.PLATE, ColumnKind.CHANNEL, ColumnKind.TIME, ColumnKind.VESSEL,
    ColumnKind.EXCLUDED,
)  # fmt: skip


AXIS = re.compile(
    r"^(wave ?(lengths?|numbers?)|λ|ν|nm|cm-1|time|t|elapsed( time)?|cycles?|minutes?|min|seconds?|sec|s"
    r"|hours?|h|days?)$",
    re.IGNORECASE,
)


def is_axis(heading: str) -> bool:
    """Whether a heading is that of wavelengths or times."""
    quantity = split_heading(heading)[0]
    return bool(AXIS.match(quantity)) or column_word(quantity) == "time"

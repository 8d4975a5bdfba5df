"""Which column is what: from its heading first, from its cells where the heading is silent."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property, lru_cache

from dosis.core.numbers import Decimal, Meaning, TypedNumber, parse_number, parse_numbers
from dosis.core.units import is_unit, normal_unit
from dosis.intake.understanding import Across, ColumnKind
from dosis.run.wells import parse_well

# The first pattern that a heading matches decides.
HEADINGS: tuple[tuple[ColumnKind, re.Pattern[str]], ...] = tuple(
    (kind, re.compile(pattern, re.IGNORECASE))
    for kind, pattern in (
        (ColumnKind.WELL, r"^(wells?|well[ _-]?(id|name|position)|position|pos\.?)$"),
        (ColumnKind.PLATE, r"^(plates?|plate[ _-]?(id|name|no\.?|number)|barcode)$"),
        (ColumnKind.CHANNEL, r"^(wave ?lengths?|λ|nm|filter|cycle|channel)( ?[(\[/,].*)?$"),
        (ColumnKind.SERIES, r"^(series|compound|treatment|lot|batch|group|clone|strain|species)$"),
        (ColumnKind.ROLE, r"^(role|type|kind|class|sample type)$"),
        (ColumnKind.NOTE, r"^(notes?|comments?|remarks?|date|time)$"),
        (ColumnKind.DILUTION, r"^(dil(ution|n)?\b.*|d\.?f\.?|(dilution )?factor)$"),
        (ColumnKind.LEVEL, r"^(conc(entration|n)?\b.*|c|level|known.*|nominal.*|expected.*|target.*|dose|amount|x)$"),
        (ColumnKind.LEVEL, r"^(standards?|std|calibrator)[\s\[(/,]+(?!id|name).+"),
        (ColumnKind.NAME, r"^(samples?|names?|id|labels?|tube|description|standards?|identity|sample[ _-]?(id|name))$"),
    )
)
_HEADING_UNIT = re.compile(r"^(?P<name>.*?)\s*(?:[(\[](?P<unit>[^()\[\]]+)[)\]]|(?:/|\bin\b|,)\s+(?P<bare>\S.*))$")
_REPLICATE = re.compile(r"[\s_#.,(-]*(?:(?:rep(?:licate|l)?|reading|no|nr|#)\.?\s*)?\d+\)?$", re.IGNORECASE)


@dataclass(frozen=True)
class ColumnCells:
    """A column's heading and its cells below, parsed."""

    heading: str
    numbers: tuple[TypedNumber, ...]

    @cached_property
    def numeric(self) -> bool:
        """Whether most of what stands in it are numbers, bounds or over-range words."""
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
    match = _HEADING_UNIT.match(heading.strip())
    if match is None:
        bare = heading.strip()
        return ("", normal_unit(bare)) if is_unit(bare) and len(bare) > 1 and "/" in bare else (bare, "")
    unit = (match["unit"] or match["bare"]).strip()
    return (match["name"].strip(), normal_unit(unit)) if is_unit(unit) else (heading.strip(), "")


def stem(heading: str) -> str:
    """A heading without its replicate number: "Reading 2" → "Reading", "A880 rep 1" → "A880"."""
    return _REPLICATE.sub("", split_heading(heading)[0]).strip()


_WAVELENGTH = re.compile(
    r"(?:^|[^\d.])(\d{3,4})\s*nm\b|^(?:a|abs|absorbance|od|e|em|ex|f|t)[\s_(]*(\d{3,4})\b|^(\d{3,4})$", re.IGNORECASE
)
_NUMBERED = re.compile(r"^\d+(?:[.,]\d+)?\s*(?:s|sec|min|h|d|nm|°C)?$", re.IGNORECASE)
_AGAIN = re.compile(r"^(readings?|repeats?|repl(icate)?s?|reps?|duplicates?|first|second|third|[a-c])$", re.IGNORECASE)


COUNTS = re.compile(
    r"^(n|total|exposed|tested|animals|affected|dead|died|killed|deaths|responding|alive)$", re.IGNORECASE
)


def are_counts(names: Iterable[str]) -> bool:
    """Whether these headings tell of how many were exposed and how many affected."""
    return sum(bool(COUNTS.match(name)) for name in names) > 1


_TIME = re.compile(r"^(exposure )?(time|hours?|days?|minutes?)( of exposure)?$", re.IGNORECASE)
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
    if _NUMBERED.match(plain.strip()):
        return f"{plain.strip()} {unit}".strip()
    found = stem(heading)
    return "" if _AGAIN.match(found) else found


def guess_across(channels: list[str], kinds: list[ColumnKind]) -> Across:
    """What several reading columns are to each other: replicates, channels of one place, or series of their own."""
    different = list(dict.fromkeys(channels))
    if len(different) < 2:
        return "replicates"
    numbered = sum(bool(re.match(r"^\d", channel)) for channel in different)
    if 2 * numbered > len(different):
        return "channels"
    if are_counts(different):
        return "channels"
    by_row = ColumnKind.NAME in kinds or ColumnKind.WELL in kinds
    return "series" if ColumnKind.LEVEL in kinds and not by_row else "channels"


def guess_columns(columns: list[ColumnCells]) -> list[ColumnKind]:
    """What each column holds. At most one each but of readings and notes."""
    kinds: list[ColumnKind | None] = [_by_heading(column) for column in columns]
    if ColumnKind.WELL not in kinds:
        wells = next((i for i, column in enumerate(columns) if _all_wells(column)), None)
        if wells is not None:
            kinds[wells] = ColumnKind.WELL
    if ColumnKind.WELL not in kinds:
        # Without wells there is nothing a row could be a channel of: words there divide the rows.
        kinds = [
            None if kind is ColumnKind.CHANNEL and not column.numeric else kind
            for kind, column in zip(kinds, columns, strict=True)
        ]
    for kind in SINGLE:
        for later in [i for i, k in enumerate(kinds) if k is kind][1:]:
            kinds[later] = None
    if (time := _time_of_counts(columns)) is not None:
        kinds[time] = ColumnKind.TIME
    open_numeric = [i for i, k in enumerate(kinds) if k is None and columns[i].numeric]
    if ColumnKind.LEVEL not in kinds and (level := _level_by_cells(columns, open_numeric)) is not None:
        kinds[level] = ColumnKind.LEVEL
        open_numeric.remove(level)
    found = _by_cells(columns, kinds, open_numeric)
    if (dividing := _dividing(columns, found)) is not None:
        found[dividing] = ColumnKind.SERIES
    return found


def _by_cells(columns: list[ColumnCells], kinds: list[ColumnKind | None], numeric: list[int]) -> list[ColumnKind]:
    """What the columns hold on which no heading has decided."""
    found: list[ColumnKind] = []
    for i, (kind, column) in enumerate(zip(kinds, columns, strict=True)):
        known = {*kinds, *found}
        if kind is not None:
            found.append(kind)
        elif i in numeric:
            found.append(ColumnKind.READING)
        elif ColumnKind.DILUTION not in known and _looks_like_dilution(column):
            found.append(ColumnKind.DILUTION)
        elif ColumnKind.NAME not in known and any(n.meaning is Meaning.TEXT for n in column.numbers):
            found.append(ColumnKind.NAME)
        else:
            found.append(ColumnKind.NOTE)
    return found


def _dividing(columns: list[ColumnCells], kinds: list[ColumnKind]) -> int | None:
    """A column of words that divides the rows into series, beside the names: each word at several levels."""
    if ColumnKind.SERIES in kinds or ColumnKind.LEVEL not in kinds:
        return None
    level = columns[kinds.index(ColumnKind.LEVEL)].numbers
    for i, column in enumerate(columns):
        if kinds[i] is not ColumnKind.NOTE or _by_heading(column) is not None:
            continue
        levels: dict[str, set[float]] = {}
        for word, x in zip(column.numbers, level, strict=True):
            if word.meaning is Meaning.TEXT and x.value is not None:
                levels.setdefault(word.text.strip(), set()).add(x.value)
        if sum(len(own) > 1 for own in levels.values()) > 1:
            return i
    return None


SINGLE = (
    ColumnKind.NAME, ColumnKind.ROLE, ColumnKind.LEVEL, ColumnKind.DILUTION, ColumnKind.SERIES, ColumnKind.WELL,
    ColumnKind.PLATE, ColumnKind.CHANNEL, ColumnKind.TIME,
)  # fmt: skip


def _time_of_counts(columns: list[ColumnCells]) -> int | None:
    """Where counts are made at several times, the column that says after how long; elsewhere a time is a note."""
    quantities = [split_heading(column.heading)[0] for column in columns]
    if not are_counts(quantities):
        return None
    times = (i for i, quantity in enumerate(quantities) if _TIME.match(quantity) and columns[i].numeric)
    return next(times, None)


def _all_wells(column: ColumnCells) -> bool:
    """Whether a column names wells: enough of them that "S1, S2, S3" is not taken for a plate."""
    told = [n.text for n in column.numbers if n.text]
    if None in map(parse_well, told[:6]):
        return False
    places = [parse_well(text) for text in told]
    rows = {place[0] for place in places if place}
    return len(told) >= 6 and None not in places and 0 in rows and len(rows) > 1


def _by_heading(column: ColumnCells) -> ColumnKind | None:
    quantity, unit = split_heading(column.heading)
    for kind, pattern in HEADINGS:
        if pattern.match(column.heading.strip()) or (quantity and pattern.match(quantity)):
            # "Standard" over numbers is a level; over words it is a name, and "Sample" over numbers numbers them.
            level = (
                kind is ColumnKind.NAME and column.numeric and re.match(r"st(andar)?d", column.heading, re.IGNORECASE)
            )
            return ColumnKind.LEVEL if level or (kind is ColumnKind.NAME and column.has_units) else kind
    if column.numeric and unit and re.match(r"^[fpnµmk]?(g|mol|M|L)\b|^%$|^pp[mbt]$", unit):
        return ColumnKind.LEVEL
    return None


def _level_by_cells(columns: list[ColumnCells], numeric: list[int]) -> int | None:
    """Without a heading that says so: the column with units, then the one with gaps, then the first of several."""
    numeric = [i for i in numeric if not _NUMBERED.match(split_heading(columns[i].heading)[0].strip())]
    with_units = [i for i in numeric if columns[i].has_units]
    if with_units:
        return with_units[0]
    if len(numeric) < 2:
        return None
    first, second = numeric[0], numeric[1]
    if stem(columns[first].heading) and stem(columns[first].heading) == stem(columns[second].heading):
        return None
    gaps = max(columns[i].gaps for i in numeric)
    return next(i for i in numeric if columns[i].gaps == gaps) if gaps > columns[second].gaps else first


def _looks_like_dilution(column: ColumnCells) -> bool:
    told = [n.text for n in column.numbers if n.meaning is not Meaning.MISSING]
    return bool(told) and all(parse_dilution(text) is not None for text in told)


_DILUTION = re.compile(
    r"^(?:[x×*]\s*(?P<times>[\d.,]+)|(?P<fold>[\d.,]+)\s*(?:[x×]|-?\s?fold)|1\s*[:/]\s*(?P<parts>[\d.,]+)|(?P<bare>[\d.,]+))$",
    re.IGNORECASE,
)


@lru_cache(maxsize=4096)  # thousands of rows share a few factors
def parse_dilution(text: str, decimal: Decimal = ".") -> float | None:
    """A dilution factor as typed ("× 5", "5x", "1:5", "10-fold", "5"), or None; 1:5 means one part in five."""
    match = _DILUTION.match(text.strip())
    if match is None:
        return None
    number = parse_number(match["times"] or match["fold"] or match["parts"] or match["bare"], decimal)
    return number.value if number.meaning is Meaning.NUMBER and number.value and 0 < number.value <= 1e12 else None

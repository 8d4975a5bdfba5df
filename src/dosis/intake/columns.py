"""Which column is what: from its heading first, from its cells where the heading is silent."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

from dosis.core.numbers import Decimal, Meaning, TypedNumber, parse_number, parse_numbers
from dosis.core.units import is_unit, normal_unit
from dosis.intake.dilutions import parse_dilution
from dosis.intake.series import is_measured, unnumbered, without_number
from dosis.intake.understanding import ColumnKind
from dosis.run.trade_words import are_counts, column_word, counted
from dosis.run.wells import parse_well

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
_AMOUNT = re.compile(r"^[fpnµmk]?(g|mol|M|L)\b|^%$|^pp[mbt]$")
_HEADING_UNIT = re.compile(r"^(?P<name>.*?)\s*(?:[(\[](?P<unit>[^()\[\]]+)[)\]]|(?:/|\bin\b|,)\s+(?P<bare>\S.*))$")
# Kinds that a word in another language names; the others are for headings that count or err.
_WORDED = {kind.value: kind for kind in ColumnKind}


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
        return all([meaning is number and not unit for _, meaning, _, unit in self.numbers])

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
_NUMBERED = re.compile(r"^\d+(?:[.,]\d+)?\s*(?:s|sec|min|h|d|nm|°C)?$", re.IGNORECASE)
_AGAIN = re.compile(r"^(readings?|repeats?|repl(icate)?s?|reps?|duplicates?|first|second|third)$", re.IGNORECASE)


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


def guess_columns(columns: list[ColumnCells]) -> list[ColumnKind]:
    """What each column holds. At most one each but of readings, errors and notes, and x of (x, y) pairs."""
    if pairs := _pairs(columns):
        return pairs
    if courses := _courses(columns):
        return courses
    kinds: list[ColumnKind | None] = [_by_heading(column) for column in columns]
    if any(column.heading.casefold().startswith("level: ") for column in columns):
        # Where the levels are said to be such, a name that holds one, "0.5 mM", is a name.
        kinds = [
            ColumnKind.NAME if kind is ColumnKind.LEVEL and column.heading.casefold() == "name" else kind
            for kind, column in zip(kinds, columns, strict=True)
        ]
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
    # Numbers of which none comes twice divide nothing: a strain in per cent is no strain of algae.
    kinds = [
        None if kind is ColumnKind.SERIES and column.numeric and _all_differ(column) else kind
        for kind, column in zip(kinds, columns, strict=True)
    ]
    for kind in SINGLE:
        for later in [i for i, k in enumerate(kinds) if k is kind][1:]:
            kinds[later] = None
    if (time := _time_of_counts(columns)) is not None:
        kinds[time] = ColumnKind.TIME
    elif (time := _time_of_courses(kinds, columns)) is not None:
        kinds[time] = ColumnKind.TIME
    kinds = _vessels(kinds, columns)
    kinds = _errors_with_readings(kinds, columns)
    if ColumnKind.LEVEL not in kinds and (axis := _axis(columns)) is not None:
        kinds[axis] = ColumnKind.LEVEL
    open_numeric = [i for i, k in enumerate(kinds) if k is None and columns[i].numeric]
    named = any(kind in (ColumnKind.NAME, ColumnKind.ROLE, ColumnKind.WELL) for kind in kinds) or any(
        kind is None and not column.numeric for kind, column in zip(kinds, columns, strict=True)
    )
    if ColumnKind.LEVEL not in kinds and named and (by_unit := _level_by_unit(columns, open_numeric)) is not None:
        kinds[by_unit] = ColumnKind.LEVEL
        open_numeric.remove(by_unit)
    if ColumnKind.LEVEL not in kinds and (level := _level_by_cells(columns, open_numeric)) is not None:
        kinds[level] = ColumnKind.LEVEL
        open_numeric.remove(level)
    if (
        ColumnKind.LEVEL not in kinds
        and not named
        and (x := _before_readings(kinds, open_numeric, columns)) is not None
    ):
        kinds[x] = ColumnKind.LEVEL
        open_numeric.remove(x)
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


def _axis(columns: list[ColumnCells]) -> int | None:
    """A first column of wavelengths or times with numbers beside it, and nothing else: no names of what was read."""
    first, others = columns[0], columns[1:]
    beside = bool(others) and all(column.numeric for column in others if any(n.text.strip() for n in column.numbers))
    return 0 if beside and is_axis(first.heading) and first.numeric else None


def _vessels(kinds: list[ColumnKind | None], columns: list[ColumnCells]) -> list[ColumnKind | None]:
    """A column of tubes or tanks says which of several alike a row is where names or counts stand beside it.

    Where nothing else names the rows, it does: "tube 5" and "Tank 3" are samples.
    """
    at = kinds.index(ColumnKind.VESSEL) if ColumnKind.VESSEL in kinds else None
    if at is None or ColumnKind.NAME in kinds or are_counts([split_heading(c.heading)[0] for c in columns]):
        return kinds
    if re.match(r"rep", columns[at].heading, re.IGNORECASE) and (
        ColumnKind.LEVEL in kinds or ColumnKind.SERIES in kinds
    ):
        return kinds
    return [ColumnKind.NAME if i == at else kind for i, kind in enumerate(kinds)]


def _errors_with_readings(
    kinds: list[ColumnKind | None], columns: list[ColumnCells]
) -> list[ColumnKind | None]:  # fmt: skip
    """Errors are errors of the column before them; without one, or without numbers, the heading says nothing."""
    found = list(kinds)
    for i, kind in enumerate(kinds):
        before = columns[i - 1] if i else None
        if kind is ColumnKind.ERROR and not (_of_errors(columns[i]) and before is not None and before.numeric):
            found[i] = None
    return found


def _of_errors(column: ColumnCells) -> bool:
    """Whether most cells are numbers, with or without the sign ± before them."""
    told = [n.text for n in column.numbers if n.meaning is not Meaning.MISSING]
    good = sum(parse_number(text.lstrip("±+/- ")).meaning is Meaning.NUMBER for text in told)
    return bool(told) and 2 * good > len(told)


def _pairs(columns: list[ColumnCells]) -> list[ColumnKind]:
    """(x, y) pairs side by side: as many columns of x as of y, in turn, each kind under headings of one stem."""
    full = [column for column in columns if any(n.meaning is not Meaning.MISSING for n in column.numbers)]
    if len(full) < 4 or len(full) % 2 or len(full) != len(columns) or not all(column.numeric for column in full):
        return []
    if not all(column.heading for column in full):
        return []
    xs, ys = full[::2], full[1::2]
    same = [_common([split_heading(c.heading)[0] for c in some]) for some in (xs, ys)]
    if not all(same) or same[0].isdigit() or same[0] == same[1] or counted(same[1]) is not None or is_measured(same[0]):
        return []
    mostly = [sum(_climbs(column) for column in some) for some in (xs, ys)]
    if mostly[0] < len(xs):
        return []
    return [ColumnKind.LEVEL, ColumnKind.READING] * len(xs)


def _climbs(column: ColumnCells) -> bool:
    values = [n.value for n in column.numbers if n.meaning is Meaning.NUMBER and n.value is not None]
    steps = [b - a for a, b in pairwise(values)]
    return len(values) > 2 and (all(s >= 0 for s in steps) or all(s <= 0 for s in steps))


def _common(headings: Sequence[str]) -> str:
    """The words that all headings share at one end, when each is these words and what tells it from the others."""
    words = [heading.casefold().split() for heading in headings]
    bare = [w[:-1] if len(w) > 1 else [re.sub(r"[_.-]?\d+$", "", w[0])] for w in words if w]
    if len(bare) < len(headings):
        return ""
    if all(w == words[0] for w in words):
        return " ".join(words[0])
    if all(w == bare[0] for w in bare) and bare[0] and bare[0] != [""]:
        return " ".join(bare[0])
    ends = [w[-1] for w in words]
    return ends[0] if all(len(w) > 1 for w in words) and len(set(ends)) == 1 else ""


def _time_of_counts(columns: list[ColumnCells]) -> int | None:
    """Where counts are made at several times, the column that says after how long; elsewhere a time is a note."""
    quantities = [split_heading(column.heading)[0] for column in columns]
    if not are_counts(quantities):
        return None
    times = (i for i, q in enumerate(quantities)
             if (_TIME.match(q) or column_word(q) == "time") and columns[i].numeric)  # fmt: skip
    return next(times, None)


def _courses(columns: list[ColumnCells]) -> list[ColumnKind]:
    """Columns headed by wells beside one of times, or of clock times beside columns of numbers: courses, a column each."""
    from dosis.intake.times import is_clock, is_time

    at = next((i for i, column in enumerate(columns) if is_time(column.heading) and _full(column)), None)
    if at is None:
        return []
    wells = [parse_well(column.heading) is not None for column in columns]
    clock = is_clock([n.text for n in columns[at].numbers])
    if sum(wells) < 4 and not (clock and at == 0 and all(column.numeric for column in columns[1:])):
        return []
    if len({n.text for n in columns[at].numbers if n.text}) < 3:
        return []
    found = []
    for i, column in enumerate(columns):
        course = column.numeric and (wells[i] if sum(wells) >= 4 else True)
        found.append(ColumnKind.TIME if i == at else ColumnKind.READING if course else ColumnKind.NOTE)
    return found


def _full(column: ColumnCells) -> bool:
    return any(n.text for n in column.numbers)


def _time_of_courses(kinds: list[ColumnKind | None], columns: list[ColumnCells]) -> int | None:
    """In a long table, one row for each thing and time, the column of times: the same ones again for every thing."""
    from dosis.intake.times import is_clock, is_time

    at = next((i for i, column in enumerate(columns) if is_time(column.heading)), None)
    if at is None or kinds[at] not in (None, ColumnKind.NOTE, ColumnKind.CHANNEL):
        return None
    told = [n.text for n in columns[at].numbers if n.text]
    several = len(set(told)) >= 3 and len(told) >= 2 * len(set(told))
    beside = any(
        i != at and column.numeric and kinds[i] in (None, ColumnKind.READING) for i, column in enumerate(columns)
    )
    numeric = columns[at].numeric or is_clock(told)
    if several and (thing := _counted_thing(columns, kinds, at)) is not None:
        kinds[thing] = ColumnKind.SERIES
    divided = any(
        kind in (ColumnKind.WELL, ColumnKind.NAME, ColumnKind.SERIES, ColumnKind.VESSEL, ColumnKind.LEVEL)
        for kind in kinds
    ) or any(not column.numeric for i, column in enumerate(columns) if i != at)  # fmt: skip
    return at if several and beside and numeric and divided else None


def _counted_thing(columns: list[ColumnCells], kinds: list[ColumnKind | None], at: int) -> int | None:
    """A column of numbers that stand for things, such as trees or subjects: with the time it tells every row apart."""
    if any(kind in (ColumnKind.WELL, ColumnKind.NAME, ColumnKind.SERIES, ColumnKind.VESSEL) for kind in kinds):
        return None
    times = [n.text for n in columns[at].numbers]
    for i, column in enumerate(columns[:-1]):
        texts = [n.text for n in column.numbers]
        if i == at or not column.numeric or kinds[i] not in (None, ColumnKind.NAME) or "" in texts:
            continue
        if 1 < len(set(texts)) <= len(texts) / 3 and len(set(zip(texts, times, strict=True))) == len(texts):
            return i
    return None


def _all_wells(column: ColumnCells) -> bool:
    """Whether a column names wells: enough of them that "S1, S2, S3" is not taken for a plate."""
    told = [n.text for n in column.numbers if n.text]
    if None in map(parse_well, told[:6]):
        return False
    places = [parse_well(text) for text in told]
    rows = {place[0] for place in places if place}
    return len(told) >= 6 and None not in places and 0 in rows and len(rows) > 1


def _by_heading(column: ColumnCells) -> ColumnKind | None:
    quantity = split_heading(column.heading)[0]
    for kind, pattern in HEADINGS:
        if pattern.match(column.heading.strip()) or (quantity and pattern.match(quantity)):
            if kind is ColumnKind.WELL and column.numeric and quantity.casefold().startswith("pos"):
                continue  # a position in mm is no well
            # "Standard" over numbers is a level; over words it is a name, and "Sample" over numbers numbers them.
            level = (
                kind is ColumnKind.NAME and column.numeric and re.match(r"st(andar)?d", column.heading, re.IGNORECASE)
            )
            return ColumnKind.LEVEL if level or (kind is ColumnKind.NAME and column.has_units) else kind
    if (
        (word := column_word(quantity or column.heading)) in _WORDED
        and not (word == "note" and column.numeric)
        and (word != "reading" or column.numeric)
    ):
        # Words of other languages say the same as the patterns above; a time is one only of counts.
        return None if word == "time" else _WORDED[word]
    return None


def _level_by_unit(columns: list[ColumnCells], numeric: list[int]) -> int | None:
    """A column headed by a unit of amount, beside names of what was read; without any the first column is x."""
    return next((i for i in numeric if _AMOUNT.match(split_heading(columns[i].heading)[1])), None)


def _level_by_cells(columns: list[ColumnCells], numeric: list[int]) -> int | None:
    """Without a heading that says so: the column with units, then the one with gaps, then the first of several."""
    numeric = [i for i in numeric if not _NUMBERED.match(split_heading(columns[i].heading)[0].strip())]
    with_units = [i for i in numeric if columns[i].has_units]
    if with_units:
        return with_units[0]
    if len(numeric) < 2:
        return None
    first, second = numeric[0], numeric[1]
    alike = [unnumbered(split_heading(columns[i].heading)[0]) for i in (first, second)]
    if alike[0] and alike[0] == alike[1]:
        return None  # "S1, S2, S3" are things of one kind; none of them is what the others were read at
    gaps = max(columns[i].gaps for i in numeric)
    return next(i for i in numeric if columns[i].gaps == gaps) if gaps > columns[second].gaps else first


def _before_readings(kinds: list[ColumnKind | None], numeric: list[int], columns: list[ColumnCells]) -> int | None:
    """The only column not said to be readings, first of a table without names: Dial of "Dial, Absorbance"."""
    different = {number.value for number in columns[0].numbers} if columns else set()
    return 0 if numeric == [0] and ColumnKind.READING in kinds and len(different) >= 3 else None


def _all_differ(column: ColumnCells) -> bool:
    """Whether three numbers or more all differ."""
    values = [number.value for number in column.numbers if number.value is not None]
    return len(values) >= 3 and len(set(values)) == len(values)


def _looks_like_dilution(column: ColumnCells) -> bool:
    told = [n.text for n in column.numbers if n.meaning is not Meaning.MISSING]
    return bool(told) and all(parse_dilution(text) is not None for text in told)

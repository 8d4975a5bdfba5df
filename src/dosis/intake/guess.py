"""Guessing which column is what: from its heading first, from its cells where the heading is silent."""

import re
from collections.abc import Sequence
from itertools import pairwise

from dosis.core.numbers import Meaning, parse_number
from dosis.intake.columns import (
    AMOUNT,
    HEADINGS,
    NUMBERED,
    PREPARATION,
    SINGLE,
    TIME,
    ColumnCells,
    is_axis,
    split_heading,
)
from dosis.intake.course_columns import courses_of, is_course_of_levels, time_of_courses
from dosis.intake.dilutions import parse_dilution
from dosis.intake.marks import MARKS
from dosis.intake.series import is_measured, unnumbered
from dosis.intake.understanding import ColumnKind
from dosis.run.trade_words import are_counts, column_word, counted
from dosis.run.wells import parse_well

# Kinds that a word in another language names; the others are for headings that count or err.
_WORDED = {kind.value: kind for kind in ColumnKind}


def guess_columns(columns: list[ColumnCells]) -> list[ColumnKind]:
    """What each column holds. At most one each but of readings, errors and notes, and x of (x, y) pairs."""
    if pairs := _pairs(columns):
        return pairs
    if courses := courses_of(columns):
        return courses
    kinds = _by_headings(columns)
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
    kinds = _once(
        [
            None if kind is ColumnKind.SERIES and column.numeric and _all_differ(column) else kind
            for kind, column in zip(kinds, columns, strict=True)
        ]
    )
    kinds = _with_time(kinds, columns)
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


def _by_headings(columns: list[ColumnCells]) -> list[ColumnKind | None]:
    kinds: list[ColumnKind | None] = [_by_heading(column) for column in columns]
    if any(column.heading.casefold().startswith("level: ") for column in columns):
        # Where the levels are said to be such, a name that holds one, "0.5 mM", is a name.
        return [
            ColumnKind.NAME if kind is ColumnKind.LEVEL and column.heading.casefold() == "name" else kind
            for kind, column in zip(kinds, columns, strict=True)
        ]
    if len(columns) > 1 and kinds.count(ColumnKind.LEVEL) == len(columns) - 1 and is_course_of_levels(columns):
        return [None if kind is ColumnKind.LEVEL else kind for kind in kinds]
    return kinds


def _once(kinds: list[ColumnKind | None]) -> list[ColumnKind | None]:
    """The first of each kind of which there is one at most."""
    found = list(kinds)
    for kind in SINGLE:
        for later in [i for i, k in enumerate(found) if k is kind][1:]:
            found[later] = None
    return found


def _with_time(kinds: list[ColumnKind | None], columns: list[ColumnCells]) -> list[ColumnKind | None]:
    """With the column of the times at which rows were counted, or read."""
    found = list(kinds)
    time = _time_of_counts(columns)
    if time is None:
        time = time_of_courses(found, columns)
    if time is not None:
        found[time] = ColumnKind.TIME
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
    for i, column in sorted(enumerate(columns), key=lambda each: not PREPARATION.match(each[1].heading.strip())):
        if kinds[i] is not ColumnKind.NOTE or _by_heading(column) is not None:
            continue
        levels: dict[str, set[float]] = {}
        for word, x in zip(column.numbers, level, strict=True):
            if word.meaning is Meaning.TEXT and x.value is not None:
                levels.setdefault(word.text.strip(), set()).add(x.value)
        if sum(len(own) > 1 for own in levels.values()) > 1:
            return i
    return None


def _axis(columns: list[ColumnCells]) -> int | None:
    """A first column of wavelengths or times with numbers beside it, and nothing else but what was noted."""
    first, others = columns[0], [column for column in columns[1:] if not MARKS.match(column.heading.strip())]
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
             if (TIME.match(q) or column_word(q) == "time") and columns[i].numeric)  # fmt: skip
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
        if word == "name" and column.numeric and split_heading(column.heading)[1]:
            return None  # a probe in volts names nothing, whatever the word is elsewhere
        # Words of other languages say the same as the patterns above; a time is one only of counts.
        return None if word == "time" else _WORDED[word]
    return None


def _level_by_unit(columns: list[ColumnCells], numeric: list[int]) -> int | None:
    """A column headed by a unit of amount, beside names of what was read; without any the first column is x."""
    return next((i for i in numeric if AMOUNT.match(split_heading(columns[i].heading)[1])), None)


def _level_by_cells(columns: list[ColumnCells], numeric: list[int]) -> int | None:
    """Without a heading that says so: the column with units, then the one with gaps, then the first of several."""
    numeric = [i for i in numeric if not NUMBERED.match(split_heading(columns[i].heading)[0].strip())]
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

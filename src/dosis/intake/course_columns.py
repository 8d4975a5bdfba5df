"""Columns of courses: those of wells or of clock times beside others, and the time of a table with a row for each."""

from dosis.intake.columns import ColumnCells
from dosis.intake.times import is_clock, is_time
from dosis.intake.understanding import ColumnKind
from dosis.run.wells import parse_well

WELLS = 4  # columns headed by wells from which they are courses


def courses_of(columns: list[ColumnCells]) -> list[ColumnKind]:
    """Columns of wells beside one of times, or of numbers beside clock times: courses, a column each."""
    at = next((i for i, column in enumerate(columns) if is_time(column.heading) and _full(column)), None)
    if at is None:
        return []
    wells = [parse_well(column.heading) is not None for column in columns]
    clock = is_clock([n.text for n in columns[at].numbers])
    if sum(wells) < WELLS and not (clock and at == 0 and all(column.numeric for column in columns[1:])):
        return []
    if len({n.text for n in columns[at].numbers if n.text}) < 3:
        return []
    found = []
    for i, column in enumerate(columns):
        course = column.numeric and (wells[i] if sum(wells) >= WELLS else True)
        found.append(ColumnKind.TIME if i == at else ColumnKind.READING if course else ColumnKind.NOTE)
    return found


def _full(column: ColumnCells) -> bool:
    return any(n.text for n in column.numbers)


def is_course_of_levels(columns: list[ColumnCells]) -> bool:
    """Whether times that go on stand first, so that the concentrations beside them are what was read."""
    first = columns[0]
    values = [n.value for n in first.numbers if n.value is not None]
    return is_time(first.heading) and first.numeric and len(values) > 3 and values == sorted(set(values))


def time_of_courses(kinds: list[ColumnKind | None], columns: list[ColumnCells]) -> int | None:
    """In a long table, one row for each thing and time, the column of times: the same ones again for every thing."""
    at = next((i for i, column in enumerate(columns) if is_time(column.heading)), None)
    if at is None or kinds[at] not in (None, ColumnKind.NOTE, ColumnKind.CHANNEL):
        return None
    told = [n.text for n in columns[at].numbers if n.text]
    several = len(set(told)) >= 3 and (len(told) >= 2 * len(set(told)) or _go_on_within(columns, at))
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


def _go_on_within(columns: list[ColumnCells], at: int) -> bool:
    """Whether within the rows of each name times go on, three or more, though names have different ones."""
    names = next((column for column in columns if not column.numeric), None)
    if names is None:
        return False
    own: dict[str, list[float]] = {}
    for name, time in zip(names.numbers, columns[at].numbers, strict=True):
        own.setdefault(name.text.strip(), []).append(float("nan") if time.value is None else time.value)
    return len(own) > 1 and all(len(times) > 2 and times == sorted(set(times)) for times in own.values())


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

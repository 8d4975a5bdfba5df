"""Which question such a table is most likely asked, and why: from its headings, its roles and its gaps."""

import re
from itertools import pairwise

from dosis.core.numbers import Meaning
from dosis.intake.along import is_wave
from dosis.intake.columns import PREPARATION, is_axis, split_heading
from dosis.intake.courses import time_column
from dosis.intake.marks import MARKS
from dosis.intake.roles import names_a_role, role_named
from dosis.intake.table import Table
from dosis.intake.understanding import ColumnKind
from dosis.run.questions.registry import QUESTIONS, QuestionId
from dosis.run.roles import Role

_ADDED = re.compile(r"^(amount |conc\w*\.? )?(added|addition|spiked?)\b", re.IGNORECASE)
_DOSE = re.compile(r"\b(doses?|dosis)\b", re.IGNORECASE)
_AMOUNT = re.compile(
    r"^(conc|c$|level|known|nominal|expected|target|amount|standard|std|calibrator|konz|gehalt|teneur)", re.I
)
_ASKED = {f"{question.sentence} {question.by}": id for id, question in QUESTIONS.items()}
PLACES = 10  # different wavelengths from which what was read at them is a scan
SAMPLES, MARKED = 100, 20  # from which columns beside a time can be a recording, the second where marks stand there
UNEVEN = 0.2  # share of the usual step that the steps of a recording may differ by
RECORDED = frozenset(("V", "mV", "µV", "A", "mA", "µA", "nA", "counts"))
TIMES = 4  # different ones from which what was read at them is a course
LEVELS, SPAN = 5, 20.0  # from how many levels, over what factor, two columns of responses or more are dose–response


def propose(table: Table) -> tuple[QuestionId, str]:
    """The question's id and what speaks for it, in a sentence."""
    at = table.index(ColumnKind.LEVEL)
    heading = "" if at is None else table.headings[at]
    return _by_words(table, heading) or (_without_levels(table) if at is None else _by_levels(table, heading))


def _by_words(table: Table, heading: str) -> tuple[QuestionId, str] | None:
    """What headings and the names of rows say by themselves, or a line above the table that Dosis wrote there."""
    for number in table.asides:
        line = next(filter(None, table.grid[number - 1]), "")
        if line in _ASKED:
            return _ASKED[line], "So it was asked when Dosis wrote this table."
    if table.counts:
        return "mortality", "Columns count those exposed and those affected."
    return _by_time(table) or _by_wave(table) or _by_names(table, heading)


def _by_time(table: Table) -> tuple[QuestionId, str] | None:
    at = time_column(table)
    if at is not None and _recorded(table, at):
        return "recording", f"{table.headings[at]} goes on in equal steps, and beside it stands what was recorded."
    if at is not None and _course_long(table, at):
        return "rate", f"{table.headings[at]} goes on, and beside it stands what was read then."
    return None


def _recorded(table: Table, at: int) -> bool:
    """Whether many samples were taken at equal steps of time, of voltages and the like, or with marks beside them."""
    values = [cell.value for cell in table.columns[at].numbers if cell.value is not None]
    readings = [i for i, kind in enumerate(table.kinds) if kind is ColumnKind.READING and i != at]
    marked = any(MARKS.match(heading.strip()) for heading in table.headings)
    if len(values) < (MARKED if marked else SAMPLES) or not readings or table.index(ColumnKind.WELL) is not None:
        return False
    steps = [b - a for a, b in pairwise(values)]
    step = sorted(steps)[len(steps) // 2]
    if step <= 0 or sum(abs(each - step) > UNEVEN * step for each in steps) > len(steps) // 100:
        return False
    return marked or table.long or all(split_heading(table.headings[i])[1] in RECORDED for i in readings)


def _by_wave(table: Table) -> tuple[QuestionId, str] | None:
    """Wavelengths that go one way down the side, and columns read at them."""
    at = next((i for i, heading in enumerate(table.headings) if is_wave(heading) and table.columns[i].numeric), None)
    if at is None or table.turned:
        return None
    places = {number.value for number in table.columns[at].numbers if number.value is not None}
    beside = [i for i, kind in enumerate(table.kinds) if kind is ColumnKind.READING and i != at]
    if len(places) < PLACES or not beside:
        return None
    return "spectrum", f"{table.headings[at]} goes on, and beside it stands what was read there."


def _by_names(table: Table, heading: str) -> tuple[QuestionId, str] | None:
    roles = {
        role_named(table.cell(cells, ColumnKind.ROLE)) or role_named(table.named(cells)) for _, cells in table.body
    }
    if _ADDED.match(heading):
        return "additions", f"{heading}: known amounts were added."
    levels = {ColumnKind.LEVEL, ColumnKind.DILUTION} & {*table.kinds}
    if levels and any(PREPARATION.match(each) for each in table.headings):
        return "potency", "Preparations, each at several levels."
    if _DOSE.search(heading) or roles & {Role.VEHICLE, Role.FULL}:
        return "dose", "Doses, each with its response."
    if table.wells is not None or roles & {Role.BLANK, Role.STANDARD, Role.SAMPLE, Role.QC}:
        return "concentration", "Blanks, standards or samples are named."
    return None


def _course_long(table: Table, at: int) -> bool:
    """Whether enough different times were read for a course, of one quantity in all columns."""
    times = {cell.text for cell in table.columns[at].numbers if cell.text}
    units = {split_heading(table.headings[i])[1] for i in table.reading_columns if i != at}
    long = table.index(ColumnKind.TIME) is not None
    return len(times) >= TIMES and (long or len(units) == 1)


def _without_levels(table: Table) -> tuple[QuestionId, str]:
    if table.index(ColumnKind.NAME) is not None:
        return "concentration", "Names with readings; no column of known levels yet."
    return "relation", "Columns of numbers."


def _by_levels(table: Table, heading: str) -> tuple[QuestionId, str]:
    if any(is_axis(table.headings[i]) for i in table.at_levels):
        return "relation", f"{heading} goes one way, with columns read beside it."
    amount = bool(_AMOUNT.match(heading)) or bool(table.levels.lifted) or table.levels.logged
    if amount and table.across in ("series", "pairs") and _spread(set(table.levels.values.values())):
        return "dose", "Several series of readings over the same levels."
    if amount and _by_series(table) and not _unknowns(table):
        return "dose", "Several series over several levels each."
    if _unknowns(table):
        return "concentration", f"{heading or 'The level'} is known for some rows and not for others."
    if amount:
        return "concentration", f"{heading or 'Levels'} of standards."
    return "relation", "One column of numbers against another."


def _by_series(table: Table) -> bool:
    """Whether a column of series divides the rows into several, each over levels that are far apart."""
    levels: dict[str, set[float]] = {}
    for number, cells in table.body:
        name, level = table.cell(cells, ColumnKind.SERIES), table.levels.values.get(number)
        if name and level is not None:
            levels.setdefault(name, set()).add(level)
    return len(levels) > 1 and all(map(_spread, levels.values()))


def _spread(levels: set[float]) -> bool:
    above = [level for level in levels if level > 0]
    return len(above) >= LEVELS and max(above) > SPAN * min(above)


def _unknowns(table: Table) -> bool:
    """Whether named rows were read whose level is not known."""
    return any(
        number not in table.levels.values and table.named(cells)
        and not names_a_role(table.named(cells))
        and any(table.columns[i].numbers[at].meaning is Meaning.NUMBER for i in table.reading_columns)
        for at, (number, cells) in enumerate(table.body)
    )  # fmt: skip

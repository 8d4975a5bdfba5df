"""A run's readings with all that is said of them, as a table that is understood as what it was when it comes back."""

import json
import math

from dosis.output.answers import Cell
from dosis.output.exports.export import Export, Subject
from dosis.run.layout import Group, Layout, Quantity
from dosis.run.questions.registry import QuestionId, question_of
from dosis.run.readings import Reading, Readings
from dosis.run.roles import ROLES, Role
from dosis.run.wells import well_name

AGAIN = "Bring in again"  # the sheet that is read where a workbook has it
LONG = 45_000  # points of courses up to which each has a row with all that is said of it
MOST_NUMBERS = 2_000_000  # of courses that are written at all: what holds more is a file of its own
MOST_ROWS = 1_000_000  # of a sheet, below what a workbook allows
EXCLUDED = "Excluded"  # the heading above the reasons why readings are left out


def again(readings: Readings, layout: Layout, question: QuestionId) -> tuple[list[str], list[list[Cell]]]:
    """A line that says what was asked, headings, and a row for each reading that is described or was read."""
    if readings.axis is not None:
        return [asked(question)], again_courses(readings, layout)
    group_of = {id: group for group in layout.groups for id in group.readings}
    why = layout.excluded
    plated = bool(readings.plates)
    channels = [channel.name for channel in readings.channels]
    signal = _heading(layout.signal)
    errors = any(reading.error is not None for reading in readings.readings)
    heading = [
        *(["Plate", "Well"] if plated else []), "Name", "Role", "Series", f"Level: {_heading(layout.level)}",
        "Dilution", "Note", EXCLUDED, *(channels or [signal]), *(["Error"] if errors else []),
    ]  # fmt: skip
    rows: list[list[Cell]] = [list(heading)]
    for reading in readings.readings:
        group = group_of.get(reading.id)
        if group is None and not reading.text.strip():
            continue
        place: list[Cell] = []
        if plated:
            place = [readings.plates[reading.plate or 0].name, well_name(reading.row, reading.column)]
        rows.append([*place, *_facts(group), why.get(reading.id, ""), *_cells(reading),
                     *([reading.error] if errors else [])])  # fmt: skip
    return [asked(question)], rows


def again_courses(readings: Readings, layout: Layout) -> list[list[Cell]]:
    """Headings, and a row for each point of each course; of very many points a column for each course, by its name."""
    assert readings.axis is not None
    count = readings.curves.y.size
    if count > MOST_NUMBERS or readings.curves.x.size > MOST_ROWS:
        return [[f"These are {count:,} numbers, too many for such a file; what was brought in has them."]]
    x, y = readings.curves.x.tolist(), readings.curves.y.tolist()
    group_of = {id: group for group in layout.groups for id in group.readings}
    rows = {reading.id: row for row, reading in enumerate(readings.readings)}
    time, signal = _heading(readings.axis.quantity), _heading(layout.signal)
    laid = [reading for reading in readings.readings if reading.id in group_of]
    if len(laid) * len(x) > LONG:
        heading: list[Cell] = [time, *(group_of[reading.id].name for reading in laid)]
        return [heading, *([t, *(_number(y[rows[reading.id]][k]) for reading in laid)] for k, t in enumerate(x))]
    points = {(each.reading, each.at): each.reason for each in layout.exclusions if each.at is not None}
    plated = bool(readings.plates)
    made: list[list[Cell]] = [[
        *(["Plate", "Well"] if plated else []), "Name", "Role", "Series", f"Level: {_heading(layout.level)}",
        "Replicate", EXCLUDED, time, signal,
    ]]  # fmt: skip
    for reading in laid:
        group = group_of[reading.id]
        place: list[Cell] = []
        if plated:
            place = [readings.plates[reading.plate or 0].name, well_name(reading.row, reading.column)]
        role = "" if group.role is Role.POINT else ROLES[group.role].name
        level: Cell = "" if group.level is None else group.level
        facts = [*place, group.name, role, group.series, level, group.readings.index(reading.id) + 1]
        for k, t in enumerate(x):
            value = y[rows[reading.id]][k]
            if not math.isnan(value):
                why = layout.excluded.get(reading.id) or points.get((reading.id, k), "")
                made.append([*facts, why, t, value])
    return made


def _number(value: float) -> Cell:
    return "" if math.isnan(value) else value


def asked(question: QuestionId) -> str:
    """The question as the line above such a table says it."""
    found = question_of(question)
    return f"{found.sentence} {found.by}"


def _facts(group: Group | None) -> list[Cell]:
    if group is None:
        return ["", "", "", "", "", ""]
    level = "" if group.level is None else group.level
    dilution = "" if group.dilution == 1 else group.dilution
    return [group.name, ROLES[group.role].name, group.series, level, dilution, group.note]


def _cells(reading: Reading) -> list[Cell]:
    return [reading.text, *(cell.text for cell in reading.more)]


def _heading(quantity: Quantity) -> str:
    return f"{quantity.name} ({quantity.unit})" if quantity.unit else quantity.name


def _json(run: Subject) -> bytes:
    [line], [heading, *rows] = again(run.readings, run.layout, run.outcome.part.kind)
    document = {"dosis": line, "headings": heading, "rows": rows}
    return (json.dumps(document, ensure_ascii=False, indent=1) + "\n").encode()


JSON = Export("json", "JSON", "The readings with all that is said of them, to be brought in again",
              "application/json", _json)  # fmt: skip

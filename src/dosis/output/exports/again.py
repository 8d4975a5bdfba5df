"""A run's readings with all that is said of them, as a table that is understood as what it was when it comes back."""

import json

from dosis.output.answers import Cell
from dosis.output.exports.export import Export, Subject
from dosis.run.layout import Group, Layout, Quantity
from dosis.run.questions.registry import QuestionId, question_of
from dosis.run.readings import Reading, Readings
from dosis.run.roles import ROLES
from dosis.run.wells import well_name

AGAIN = "Bring in again"  # the sheet that is read where a workbook has it
EXCLUDED = "Excluded"  # the heading above the reasons why readings are left out


def again(readings: Readings, layout: Layout, question: QuestionId) -> tuple[list[str], list[list[Cell]]]:
    """A line that says what was asked, headings, and a row for each reading that is described or was read."""
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

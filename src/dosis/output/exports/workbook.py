"""A run as a spreadsheet: answers, parameters, checks, layout and raw readings, each on a sheet of its own."""

import io
import math
import re

from dosis.output.answers import Cell, answer_cells
from dosis.output.exports.again import AGAIN, again
from dosis.output.exports.export import Export, Subject
from dosis.run.layout import Layout
from dosis.run.outcome.outcome import Outcome
from dosis.run.readings import Readings
from dosis.run.roles import ROLES
from dosis.run.wells import well_name

_SHEET = re.compile(r"[\[\]:*?/\\']+")  # what the name of a sheet cannot have
MOST_POINTS = 300_000  # numbers of courses on a sheet
Table = tuple[list[str], list[list[Cell]]]


def run_workbook(name: str, readings: Readings, layout: Layout, outcome: Outcome) -> bytes:
    """XLSX (ISO/IEC 29500); numbers at full precision, texts never run as formulas."""
    import xlsxwriter  # only an export needs it

    buffer = io.BytesIO()
    book = xlsxwriter.Workbook(buffer, {"in_memory": True})
    book.set_properties({"title": name})
    bold = book.add_format({"bold": True})
    tables = {
        "Answers": answer_cells(outcome.answers), **_further(outcome),
        "Parameters": _parameters(outcome), "Checks": _checks(outcome),
        "Layout": _layout(readings, layout), **_courses(readings, layout),
        "Readings": _readings(readings, layout, outcome),
        AGAIN: again(readings, layout, outcome.part.kind),
    }  # fmt: skip
    for tab, (heading, rows) in tables.items():
        sheet = book.add_worksheet(tab)
        sheet.freeze_panes(1, 0)
        for c, title in enumerate(heading):
            sheet.write_string(0, c, title, bold)
        for r, row in enumerate(rows, start=1):
            for c, cell in enumerate(row):
                if isinstance(cell, str):
                    sheet.write_string(r, c, cell)
                elif cell is not None:
                    sheet.write_number(r, c, cell + 0)  # a zero has no sign
        sheet.autofit()
    book.close()
    return buffer.getvalue()


def _further(outcome: Outcome) -> dict[str, Table]:
    """Answers that rest on the first, each kind on its sheet."""
    found: dict[str, Table] = {}
    for table in outcome.further:
        name = _SHEET.sub(" ", table.title or "Against level").strip()[:28]
        several = sum(other == name or other.startswith(f"{name} ") for other in found)
        found[f"{name} {several + 1}" if several else name] = answer_cells(table)
    return found


def _parameters(outcome: Outcome) -> Table:
    rows: list[list[Cell]] = []
    for curve in (*outcome.curves, *getattr(outcome.part, "against", ())):
        rows += [[curve.key]] if curve.key else []
        rows += [
            [row.name, row.unit, row.estimate, row.standard_error, row.lower, row.upper, row.p_value]
            for row in curve.parameters
        ]
        rows += [[], ["Model", curve.name], ["Equation", curve.equation], ["With numbers", curve.with_numbers]]
        rows += [[statistic.name, statistic.shown] for statistic in curve.statistics]
        rows.append([])
    rows += [[step.title, step.sentence.replace("**", "")] for step in outcome.steps]
    return ["Parameter", "Unit", "Estimate", "Standard error", "Lower 95 %", "Upper 95 %", "p"], rows


def _checks(outcome: Outcome) -> Table:
    said = outcome.verdict
    verdict = " ".join([said.headline, *("".join(part.text for part in said.detail).split())])
    rows: list[list[Cell]] = [[c.title, c.state.value, c.found, c.threshold, c.why] for c in outcome.checks]
    return ["Check", "State", "Found", "Threshold", "Why"], [*rows, [], ["Verdict", said.state.value, verdict]]


def _layout(readings: Readings, layout: Layout) -> Table:
    heading = [
        "Name",
        "Role",
        f"Level ({layout.level.unit})".replace(" ()", ""),
        "Dilution",
        "Series",
        "Places",
        "Working",
        "Note",
    ]
    rows: list[list[Cell]] = []
    for group in layout.groups:
        places = ", ".join(
            well_name(r.row, r.column) if (r := readings.by_id[id]).plate is not None else f"row {r.row}"
            for id in group.readings
        )
        rows.append([
            group.name, ROLES[group.role].name, group.level, group.dilution, group.series, places, group.working,
            group.note,
        ])  # fmt: skip
    return heading, rows


def _courses(readings: Readings, layout: Layout) -> dict[str, Table]:
    """Readings that are curves, a column each, as they were read."""
    if readings.axis is None:
        return {}
    group_of = {id: group for group in layout.groups for id in group.readings}
    recording, quantity = readings.curves, readings.axis.quantity
    if recording.y.size > MOST_POINTS:
        text = f"These are {recording.y.size:,} numbers, too many for a sheet; they are in what was brought in."
        return {"Courses": ([text], [])}
    names = [group_of[r.id].name if r.id in group_of else well_name(r.row, r.column) for r in readings.readings]
    y = recording.y.T.tolist()
    rows: list[list[Cell]] = [
        [x, *(None if math.isnan(value) else value for value in row)]
        for x, row in zip(recording.x.tolist(), y, strict=True)
    ]
    return {"Courses": ([quantity.label, *names], rows)}


def _readings(readings: Readings, layout: Layout, outcome: Outcome) -> Table:
    group_of = {id: group for group in layout.groups for id in group.readings}
    outcomes = {reading.id: reading for reading in outcome.readings}
    channels = [channel.name for channel in readings.channels[1:]]
    heading = ["Plate", "Place", "Name", "Role", "As read", "Number", "Corrected", "Used", "Why not", *channels]
    rows: list[list[Cell]] = []
    for r in readings.readings:
        group, result = group_of.get(r.id), outcomes[r.id]
        plate = readings.plates[r.plate].name if r.plate is not None else ""
        place = well_name(r.row, r.column) if r.plate is not None else f"row {r.row}"
        rows.append([
            plate, place, group.name if group else "", ROLES[group.role].name if group else "", r.text, r.value,
            result.corrected, "yes" if result.used and not result.aside else "no", result.why or result.aside,
            *(cell.value if cell.value is not None else cell.text for cell in r.more),
        ])  # fmt: skip
    return heading, rows


def _xlsx(run: Subject) -> bytes:
    return run_workbook(run.title, run.readings, run.layout, run.outcome)


XLSX = Export(
    "xlsx", "XLSX", "Answers, parameters, checks, layout and readings, each on a sheet",
    "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", _xlsx, whole=True,
)  # fmt: skip

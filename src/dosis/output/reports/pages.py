"""A run as the template of a report wants it: every number as the page shows it, nothing computed anew."""

import base64
from dataclasses import dataclass
from typing import Any

from dosis.core.rounding import given
from dosis.output.figures.content import Shown
from dosis.output.figures.figure import figure_of
from dosis.output.figures.markup import plain
from dosis.output.reports.subject import ReportedRun, Wanted
from dosis.run.layout import Exclusion, Group
from dosis.run.look import FigureLook, Paper
from dosis.run.outcome.step import Check
from dosis.run.outcome.table import AnswerColumn, AnswerTable
from dosis.run.outcome.value import State
from dosis.run.place_changes import place_named
from dosis.run.questions.registry import question_of
from dosis.run.roles import ROLES
from dosis.run.wells import row_letters

MOST_ROWS = 2000  # of one table: a report is read, thousands of rows are looked up in the file of answers
MOST_CURVES = 100
WIDE_PLATE = 12  # columns of a plate that fit across a page
STATES = {State.PASS: "passes", State.LOOK: "look at this", State.FAIL: "fails"}
RUN_STATES = {State.PASS: "passes", State.LOOK: "is to be looked at", State.FAIL: "fails"}
FEW = 6  # curves of which each has its own table of parameters; more stand in one
LONG = 60  # rows of a layout in series that are told one by one
MANY_COLUMNS = 8  # from which a table is set smaller


@dataclass(frozen=True)
class Table:
    """Headings and rows of text; `right` : which columns are numbers. more : what is not listed."""

    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    right: frozenset[int] = frozenset()
    more: str = ""

    @property
    def kind(self) -> str:
        """How it is set."""
        return "many" if len(self.headings) >= MANY_COLUMNS else ""


def page_of(run: ReportedRun, wanted: Wanted, anchor: str, *, outlines: bool) -> dict[str, Any]:
    """All that the template needs of a run. outlines : whether letters of the figure are shapes."""
    question, outcome, sections = question_of(run.method.question), run.outcome, set(wanted.sections)
    look = _for_paper(run.method.figure or FigureLook(), wanted)
    figure = figure_of(Shown(run.title, outcome, run.layout, run.readings), look) if "figure" in sections else None
    return {
        "anchor": anchor, "run": run, "question": question.sentence, "by": question.by,
        "verdict": outcome.verdict, "state": RUN_STATES[outcome.verdict.state],
        "detail": "".join(part.text for part in outcome.verdict.detail),
        "checks": _checks(outcome.checks) if "checks" in sections else None,
        "figure": None if figure is None else base64.b64encode(figure.file("svg", outlines=outlines)).decode(),
        "figure_mm": look.paper.size[0], "alt": "" if figure is None else plain(figure.alt),
        "answers": answers_table(outcome.answers) if "answers" in sections else None,
        "further": [(other.title, answers_table(other)) for other in outcome.further] if "answers" in sections else (),
        "remarks": _remarks(outcome.answers) if "answers" in sections else (),
        "curves": _curves(run) if "curves" in sections and not _alike(run) else (),
        "all_curves": _in_one(run) if "curves" in sections and _alike(run) else None,
        "curves_left": 0 if _alike(run) else max(len(outcome.curves) - MOST_CURVES, 0),
        "plates": _plates(run) if "readings" in sections else (),
        "groups": _groups(run) if "readings" in sections else None,
        "exclusions": _exclusions(run) if "readings" in sections else None,
        "steps": _steps(run) if "method" in sections else (),
        "working": _working(run) if "working" in sections else (),
        "ledger": _ledger(run) if "ledger" in sections else None,
        "signatures": "signatures" in sections,
        "signed": _signed(run) if "signatures" in sections else None,
    }  # fmt: skip


def _signed(run: ReportedRun) -> Table | None:
    rows = tuple((each.name, each.meaning, f"{each.at:%Y-%m-%d %H:%M} UTC", each.digest) for each in run.signed)
    return Table(("Signed by", "Meaning", "At", "SHA-256 of what was signed"), rows, frozenset()) if rows else None


def _for_paper(look: FigureLook, wanted: Wanted) -> FigureLook:
    """The run's own figure, no wider than the page; one that nobody has touched in the size of a report."""
    width, height = look.paper.size
    most = 170 if wanted.paper == "A4" else 176
    if look == FigureLook():
        return look.model_copy(update={"paper": Paper(purpose="report", width=130, height=90)})
    if width <= most:
        return look
    size = {"width": float(most), "height": max(round(height * most / width, 1), 20.0)}
    words = look.words.model_copy(update={"size": max(look.text_size * most / width, 6)})
    return look.model_copy(update={"paper": look.paper.model_copy(update=size), "words": words})


def _checks(checks: tuple[Check, ...]) -> Table:
    rows = tuple((check.title, check.found, check.threshold, STATES[check.state]) for check in checks)
    return Table(("Check", "Found", "Threshold", ""), rows, frozenset({3}))


def answers_table(table: AnswerTable) -> Table:
    """Every answer as the page shows it, each value with its interval."""
    columns = [column for column in table.columns if column.where != "exports"]
    used = [column for column in columns if column.lead or any(text not in ("", "—") for text in column.texts)]
    if len(used) > MANY_COLUMNS:
        used = [column for column in used if column.lead or column.where == "always"]
    headings, cells, right = [table.of], [[row.name for row in table.rows]], set()
    for column in used:
        if column.kind != "text":
            right.add(len(headings))
        between = column.kind == "value" and (column.lead or column.interval == "always")
        level = f", {100 * column.level:g} % interval" if between and column.level else ""
        headings.append(column.heading + level)
        cells.append([f"{text}{_interval(column, i)}" if between else text for i, text in enumerate(column.texts)])
    if any(row.remarks for row in table.rows):
        headings.append("Remarks")
        cells.append(["; ".join(dict.fromkeys(remark.short for remark in row.remarks)) for row in table.rows])
    rows = tuple(zip(*cells, strict=True))
    return Table(tuple(headings), rows[:MOST_ROWS], frozenset(right), _more(len(rows), "answers"))


def _interval(column: AnswerColumn, row: int) -> str:
    low, high = column.lower_texts[row], column.upper_texts[row]
    return f" ({low} – {high})" if low and high and column.values[row] is not None else ""


def _more(count: int, what: str) -> str:
    if count <= MOST_ROWS:
        return ""
    return f"The first {MOST_ROWS:,} of {count:,} {what} are listed; all are in the run's file of answers."


def _remarks(table: AnswerTable) -> tuple[str, ...]:
    said = dict.fromkeys(remark.text for row in table.rows for remark in row.remarks)
    return tuple(said)[:MOST_ROWS]


def _curves(run: ReportedRun) -> list[dict[str, Any]]:
    made = []
    for curve in run.outcome.curves[:MOST_CURVES]:
        if not curve.parameters and not curve.problem:
            continue
        made.append({
            "key": curve.key, "name": curve.name, "equation": curve.equation, "numbers": curve.with_numbers,
            "problem": curve.problem, "range": curve.shown_range, "working_range": curve.shown_working,
            "parameters": Table(
                ("Parameter", "Estimate", "95 % interval", "p"),
                tuple((_with_unit(p.name, p.unit), p.shown, p.shown_interval, p.shown_p) for p in curve.parameters),
                frozenset({1, 2, 3}),
            ),
            "statistics": [(each.name, each.shown) for each in (*curve.statistics, *curve.limits)],
        })  # fmt: skip
    return made


def _alike(run: ReportedRun) -> bool:
    """Whether there are many curves, all with the same parameters."""
    names = {tuple(row.name for row in curve.parameters) for curve in run.outcome.curves if curve.parameters}
    return len(run.outcome.curves) > FEW and len(names) == 1


def _in_one(run: ReportedRun) -> dict[str, Any]:
    """The parameters of many curves of one model as one table."""
    fitted = [curve for curve in run.outcome.curves if curve.parameters]
    first = fitted[0]
    headings = ("Series", *(f"{_with_unit(p.name, p.unit)}, 95 % interval" for p in first.parameters), "R²", "RMSE")
    statistics = [{each.name: each.shown for each in curve.statistics} for curve in fitted]
    rows = tuple(
        (
            curve.key, *(f"{p.shown} ({p.shown_interval})" if p.shown_interval else p.shown for p in curve.parameters),
            shown.get("R²", "—"), shown.get("RMSE", "—"),
        )
        for curve, shown in zip(fitted, statistics, strict=True)
    )  # fmt: skip
    failed = [f"{curve.key}: {curve.problem}" for curve in run.outcome.curves if curve.problem]
    right = frozenset(range(1, len(headings)))
    table = Table(headings, rows[:MOST_ROWS], right, _more(len(rows), "curves"))
    return {"name": first.name, "equation": first.equation, "table": table, "failed": failed[:MOST_ROWS]}


def _with_unit(name: str, unit: str) -> str:
    return f"{name} ({unit})" if unit else name


def _plates(run: ReportedRun) -> list[dict[str, Any]]:
    """Maps of the plates that fit across a page: what stands in each well and what was read there."""
    group_of = {id: group for group in run.layout.groups for id in group.readings}
    excluded = run.layout.excluded
    made = []
    for number, plate in enumerate(run.readings.plates):
        if plate.columns > WIDE_PLATE:
            continue
        wells = {(r.row, r.column): r for r in run.readings.readings if r.plate == number}
        rows = []
        for row in range(plate.rows):
            cells: list[tuple[str, str, bool]] = []
            for column in range(plate.columns):
                reading = wells.get((row, column))
                group = None if reading is None else group_of.get(reading.id)
                cells.append((
                    group.name if group else "", "" if reading is None else reading.text.strip(),
                    reading is not None and reading.id in excluded,
                ))  # fmt: skip
            rows.append((row_letters(row), cells))
        made.append({"name": plate.name or f"Plate {number + 1}", "columns": range(1, plate.columns + 1), "rows": rows})
    return made


def _by_series(run: ReportedRun) -> Table:
    """Of hundreds of levels in series, a row for each series: its levels with what was read at them."""
    texts, excluded = run.readings.texts, run.layout.excluded
    found: dict[tuple[str, str], list[str]] = {}
    for group in run.layout.groups:
        level = "" if group.level is None else f"{group.level:g}: "
        read = " ".join(f"[{texts[id]}]" if id in excluded else texts[id] for id in group.readings)
        found.setdefault((group.series or group.name, ROLES[group.role].name), []).append(level + read)
    unit = f" at each level ({run.layout.level.unit})" if run.layout.level.unit else " at each level"
    rows = tuple((name, role, ";  ".join(each)) for (name, role), each in found.items())
    return Table(("Series", "Role", f"Readings{unit}"), rows[:MOST_ROWS], more=_more(len(rows), "series"))


def _groups(run: ReportedRun) -> Table:
    if len(run.layout.groups) > LONG and any(group.series for group in run.layout.groups):
        return _by_series(run)
    texts, unit = run.readings.texts, run.layout.level.unit
    excluded = run.layout.excluded
    headings = ("Name", "Role", f"Level ({unit})" if unit else "Level", "Dilution", "Series", "Readings")

    def row(group: Group) -> tuple[str, ...]:
        level = "" if group.level is None else f"{group.level:g}"
        dilution = "" if group.dilution == 1 else f"× {group.dilution:g}"
        read = "  ".join(f"[{texts[id]}]" if id in excluded else texts[id] for id in group.readings)
        return group.name, ROLES[group.role].name, level, dilution, group.series, read

    rows = tuple(row(group) for group in run.layout.groups[:MOST_ROWS])
    used = [i for i in range(len(headings)) if i in (0, 1, 5) or any(each[i] for each in rows)]
    more = _more(len(run.layout.groups), "rows")
    return Table(
        tuple(headings[i] for i in used), tuple(tuple(each[i] for i in used) for each in rows),
        frozenset(k for k, i in enumerate(used) if i in (2, 3)), more,
    )  # fmt: skip


def _exclusions(run: ReportedRun) -> Table:
    names = {
        id: f"{group.name}, reading {i}"
        for group in run.layout.groups for i, id in enumerate(group.readings, start=1)
    }  # fmt: skip
    rows = tuple(
        (names[each.reading], run.readings.texts[each.reading], each.reason) if each.at is None else
        (place_named(run.readings, run.layout, each.reading, each.at), _read_at(run, each), each.reason)
        for each in run.layout.exclusions
    )  # fmt: skip
    return Table(("Reading", "Read", "Reason"), rows[:MOST_ROWS], frozenset({1}), _more(len(rows), "exclusions"))


def _read_at(run: ReportedRun, each: Exclusion) -> str:
    """What a point of a course read, as near as it was typed."""
    return given(float(run.readings.curves.y[list(run.readings.by_id).index(each.reading), each.at or 0]))


def _working(run: ReportedRun) -> list[dict[str, Any]]:
    names = {group.id: group.name for group in run.layout.groups}
    return [
        {
            "name": names.get(id, id),
            "lines": [(line.label, "  ".join(line.cells) or line.text, line.result) for line in lines],
        }
        for id, lines in run.working.items()
    ]


def _steps(run: ReportedRun) -> list[tuple[str, str]]:
    return [(step.title, step.sentence.replace("**", "")) for step in run.outcome.steps]


def _ledger(run: ReportedRun) -> Table:
    rows = tuple((f"{e.at:%Y-%m-%d %H:%M:%S}", e.author, str(e.revision), e.words) for e in run.ledger)
    return Table(
        ("When (UTC)", "Who", "Revision", "What"), rows[:MOST_ROWS], frozenset({2}), _more(len(rows), "entries")
    )

"""Readings as JSON, in Dosis's own form (docs/readings.md), to and from a table of cells."""

from collections.abc import Mapping
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from dosis.intake.text import MAX_CELLS, MAX_COLUMNS, MAX_ROWS, Grid, IntakeError

Value = float | str | None


class JsonRow(BaseModel):
    """One place that was read. `readings` are replicates, or values by channel name."""

    model_config = ConfigDict(extra="forbid")

    well: str = ""
    plate: str = ""
    name: str = ""
    role: str = ""
    series: str = ""
    level: float | str | None = None
    dilution: float | str | None = None
    note: str = ""
    readings: list[Value] | dict[str, Value]


class JsonReadings(BaseModel):
    """The document: names and units of what was read and of the levels, and the rows."""

    model_config = ConfigDict(extra="forbid")

    signal: str = "Signal"
    level: str = "Concentration"
    rows: Annotated[list[JsonRow], Field(min_length=1, max_length=MAX_ROWS)]


TYPES = ("float", "str")  # parts of a place that only say which type was tried
PLAIN = ("well", "plate", "name", "role", "series", "level", "dilution", "note")


def json_grid(document: object) -> Grid:
    """The document as a table with a heading row.

    Raises
    ------
    IntakeError : when it is not in the form, saying where and pointing to the page that describes it.
    """
    if isinstance(document, dict) and {"dosis", "headings", "rows"} <= document.keys():
        return _again(document)
    try:
        found = JsonReadings.model_validate(document)
    except ValidationError as error:
        raise IntakeError(
            f"This JSON is not in the form Dosis reads: {_wrong(error.errors()[0])}. "
            "The form is described in docs/readings.md."
        ) from error
    used = [key for key in PLAIN if any(getattr(row, key) not in ("", None) for row in found.rows)]
    channels = list(
        dict.fromkeys(name for row in found.rows if isinstance(row.readings, dict) for name in row.readings)
    )
    replicates = max((len(row.readings) for row in found.rows if isinstance(row.readings, list)), default=0)
    _check_width(len(found.rows), len(used) + replicates + len(channels))
    titles = {"name": "Sample", "level": found.level}
    heading = [titles.get(key, key.capitalize()) for key in used]
    heading += [f"{found.signal} rep {i + 1}" if replicates > 1 else found.signal for i in range(replicates)]
    grid = [heading + channels]
    for row in found.rows:
        cells = [_text(getattr(row, key)) for key in used]
        values = row.readings if isinstance(row.readings, list) else []
        cells += [_text(v) for v in values] + [""] * (replicates - len(values))
        named = row.readings if isinstance(row.readings, dict) else {}
        grid.append(cells + [_text(named.get(channel)) for channel in channels])
    return grid


class JsonAgain(BaseModel):
    """What Dosis wrote of a run: a line that says what was asked, headings, rows."""

    dosis: str
    headings: Annotated[list[str], Field(max_length=MAX_COLUMNS)]
    rows: Annotated[list[list[Value]], Field(max_length=MAX_ROWS)]


def _again(document: object) -> Grid:
    try:
        found = JsonAgain.model_validate(document)
    except ValidationError as error:
        raise IntakeError(f"This JSON was written by Dosis and changed since: {_wrong(error.errors()[0])}.") from error
    return [[found.dosis], found.headings, *([_text(cell) for cell in row] for row in found.rows)]


def _wrong(error: Mapping[str, Any]) -> str:
    """What is wrong with a document, and in which row, counted from 1."""
    path = [part for part in error["loc"] if not str(part).startswith(("list[", "dict[")) and part not in TYPES]
    names = [f"item {part + 1}" if isinstance(part, int) else f"“{part}”" for part in path]
    if path[:1] == ["rows"] and len(path) > 1 and isinstance(path[1], int):
        names = [f"row {path[1] + 1}", *names[2:]]
    field, where = (names[-1] if names else ""), ", ".join(names[:-1])
    what = {
        "extra_forbidden": f"there is no field of the name {field}",
        "missing": f"the field {field} is missing",
        "too_short": f"{field} has nothing in it",
        "too_long": f"{field} has more than {MAX_ROWS:,} rows",
        "model_type": "it should be an object with a list “rows”" if not names else f"{field} should be an object",
    }.get(error["type"])
    if what is None:
        where, what = ", ".join(names), "only numbers and text can be read there"
    return f"in {where}, {what}" if where else what


def _check_width(rows: int, columns: int) -> None:
    """Before a table is made of it: names that differ from row to row make a column each."""
    if columns > MAX_COLUMNS:
        raise IntakeError(
            f"The rows of this JSON name {columns:,} different columns; {MAX_COLUMNS:,} are the most. Readings of one "
            "kind need the same name in every row."
        )
    if rows * columns > MAX_CELLS:
        raise IntakeError(
            f"This JSON makes a table of {rows * columns:,} cells; {MAX_CELLS:,} are the most in one run. Split it."
        )


def _text(value: Value) -> str:
    if value is None:
        return ""
    return f"{value:.17g}" if isinstance(value, float) and float(f"{value:.15g}") != value else _short(value)


def _short(value: float | str) -> str:
    return value if isinstance(value, str) else f"{value:.15g}"

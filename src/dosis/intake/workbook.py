"""Spreadsheets (XLSX, ODS): read in a process of their own, with limits, since a small file can unfold without end."""

import json
import os
import resource
import subprocess
import sys
import zipfile
from collections.abc import Sequence
from io import BytesIO
from pathlib import Path

from dosis.intake.text import MAX_CELL, MAX_COLUMNS, MAX_ROWS, Grid, IntakeError

MEMORY = 1_500_000_000  # bytes of address space for the reader
SECONDS = 20
UNFOLDED = 300_000_000  # bytes a file may hold once unpacked
MAX_SHEETS = 60


def is_workbook(data: bytes) -> bool:
    """Whether the bytes are a zipped document: XLSX and ODS both are."""
    return data[:4] == b"PK\x03\x04"


def read_workbook(data: bytes) -> list[tuple[str, Grid]]:
    """The sheets of a spreadsheet, by name, cells as the text a person would type.

    Raises
    ------
    IntakeError : when it is damaged, protected by a password, too large, or not a spreadsheet at all.
    """
    try:
        with zipfile.ZipFile(BytesIO(data)) as packed:
            size = sum(entry.file_size for entry in packed.infolist())
    except (zipfile.BadZipFile, NotImplementedError, ValueError, OverflowError) as error:
        raise IntakeError(
            "This spreadsheet is damaged. Open and save it again, or copy the table and paste it."
        ) from error
    if size > UNFOLDED:
        raise IntakeError(
            f"Unpacked this file holds {size / 1e6:,.0f} MB, which is not a table of readings. "
            "Copy the part that is, and paste it."
        )
    command = [sys.executable, "-m", "dosis.intake.workbook"]
    try:
        done = subprocess.run(
            command, input=data, capture_output=True, timeout=SECONDS, env=_environment(), check=False
        )
    except subprocess.TimeoutExpired as error:
        raise IntakeError(f"This spreadsheet takes more than {SECONDS} s to read. {WAY_OUT}") from error
    if done.returncode != 0:
        raise IntakeError(f"This spreadsheet cannot be read: it is damaged, protected, or far too large. {WAY_OUT}")
    answer = json.loads(done.stdout)
    if "problem" in answer:
        raise IntakeError(answer["problem"])
    return [(name, grid) for name, grid in answer["sheets"]]


WAY_OUT = "Save the sheet as CSV, or copy the table and paste it."


def _environment() -> dict[str, str]:
    return {**os.environ, "PYTHONPATH": str(Path(__file__).parents[2])}


def _limit() -> None:
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS))


def _main() -> None:
    import python_calamine

    _limit()
    try:
        book = python_calamine.CalamineWorkbook.from_filelike(BytesIO(sys.stdin.buffer.read()))
        names = book.sheet_names
        if len(names) > MAX_SHEETS:
            raise IntakeError(f"This spreadsheet has {len(names)} sheets; {MAX_SHEETS} is the most.")
        sheets = [(name, _grid(name, book.get_sheet_by_name(name).to_python(skip_empty_area=False))) for name in names]
        answer: dict[str, object] = {"sheets": sheets}
    except IntakeError as error:
        answer = {"problem": str(error)}
    except python_calamine.PasswordError:
        answer = {"problem": "This spreadsheet is protected by a password. Save it without one."}
    except (python_calamine.CalamineError, OSError, ValueError):
        answer = {"problem": f"This file is not a spreadsheet Dosis can read (XLSX or ODS). {WAY_OUT}"}
    json.dump(answer, sys.stdout)


def _grid(name: str, rows: Sequence[Sequence[object]]) -> Grid:
    filled = [i for i, row in enumerate(rows) if any(cell not in ("", None) for cell in row)]
    rows = rows[: filled[-1] + 1] if filled else []
    width = max((i + 1 for row in rows for i, cell in enumerate(row) if cell not in ("", None)), default=0)
    if len(rows) > MAX_ROWS or width > MAX_COLUMNS:
        raise IntakeError(
            f"Sheet “{name}” has {len(rows):,} rows and {width:,} columns; {MAX_ROWS:,} and {MAX_COLUMNS:,} "
            "are the most."
        )
    return [[_text(cell) for cell in row[:width]] for row in rows]


def _text(cell: object) -> str:
    if isinstance(cell, float):
        return f"{cell:.15g}" if float(f"{cell:.15g}") == cell else repr(cell)
    return " ".join(str(cell).split())[:MAX_CELL] if cell is not None else ""


if __name__ == "__main__":
    _main()

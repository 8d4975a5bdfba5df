"""What the process that reads a spreadsheet answers, in this process: its cells as a person would type them."""

import datetime
import io
import json
import sys
import types
from pathlib import Path
from typing import Any

import pytest

from dosis.intake import workbook
from dosis.intake.text import MAX_CELL, MAX_COLUMNS, MAX_ROWS, IntakeError

EXPORTS = Path(__file__).parent / "exports"


def answered(data: bytes, monkeypatch: pytest.MonkeyPatch) -> dict[str, Any]:
    said = io.StringIO()
    monkeypatch.setattr(workbook, "_limit", lambda: None)
    monkeypatch.setattr(sys, "stdin", types.SimpleNamespace(buffer=io.BytesIO(data)))
    monkeypatch.setattr(sys, "stdout", said)
    workbook._main()
    found: dict[str, Any] = json.loads(said.getvalue())
    return found


@pytest.mark.parametrize("name", ["38_table.xlsx", "39_table.ods"])
def test_a_workbook_is_answered_as_sheets_of_text(name: str, monkeypatch: pytest.MonkeyPatch) -> None:
    sheets = answered((EXPORTS / name).read_bytes(), monkeypatch)["sheets"]
    assert sheets == [list(sheet) for sheet in workbook.read_workbook((EXPORTS / name).read_bytes())]
    assert all(isinstance(cell, str) for _, grid in sheets for row in grid for cell in row)


def test_what_is_no_workbook_is_answered_with_what_to_do(monkeypatch: pytest.MonkeyPatch) -> None:
    problem = answered(b"PK\x03\x04 and nothing else", monkeypatch)["problem"]
    assert problem == f"This file is not a spreadsheet Dosis can read (XLSX or ODS). {workbook.WAY_OUT}"


def test_a_password_and_too_many_sheets_are_said(monkeypatch: pytest.MonkeyPatch) -> None:
    import python_calamine

    def locked(_: object) -> None:
        raise python_calamine.PasswordError

    monkeypatch.setattr(python_calamine.CalamineWorkbook, "from_filelike", locked, raising=False)
    assert answered(b"", monkeypatch) == {
        "problem": "This spreadsheet is protected by a password. Save it without one."
    }
    many = types.SimpleNamespace(sheet_names=["a"] * (workbook.MAX_SHEETS + 1))
    monkeypatch.setattr(python_calamine.CalamineWorkbook, "from_filelike", lambda _: many, raising=False)
    assert answered(b"", monkeypatch)["problem"] == "This spreadsheet has 61 sheets; 60 is the most."


@pytest.mark.parametrize(
    ("cell", "text"),
    [
        (0.1, "0.1"), (3.0, "3"), (0.1 + 0.2, "0.30000000000000004"), (1e-7, "1e-07"), (True, "True"), (12, "12"),
        (None, ""), ("  two\n words ", "two words"), (datetime.date(2026, 5, 3), "2026-05-03"),
        ("x" * (MAX_CELL + 5), "x" * MAX_CELL),
    ],
)  # fmt: skip
def test_a_cell_is_the_text_a_person_would_type(cell: object, text: str) -> None:
    assert workbook._text(cell) == text


def test_empty_rows_and_columns_at_the_ends_are_left_out_and_gaps_stay() -> None:
    rows = [["", None, ""], ["a", "", ""], ["", "", ""], ["", 2.0, None], ["", "", ""]]
    assert workbook._grid("S", rows) == [["", ""], ["a", ""], ["", ""], ["", "2"]]
    assert workbook._grid("S", [["", None]]) == []
    assert workbook._grid("S", []) == []


def test_a_sheet_may_be_as_large_as_a_table_and_no_larger() -> None:
    assert len(workbook._grid("S", [["x"]] * MAX_ROWS)) == MAX_ROWS
    assert len(workbook._grid("S", [["x"] * MAX_COLUMNS])[0]) == MAX_COLUMNS
    for rows in ([["x"]] * (MAX_ROWS + 1), [["x"] * (MAX_COLUMNS + 1)]):
        with pytest.raises(IntakeError, match=rf"Sheet “S” has {len(rows):,} rows and {len(rows[0]):,} columns"):
            workbook._grid("S", rows)

"""Invented instrument exports in `exports/`, each with what must come out of it (`exports/expected.json`)."""

import json
from collections import Counter
from pathlib import Path
from typing import Any

import pytest

from dosis.intake.sheets import SourceFile
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices, Intake
from dosis.run.evaluate import evaluate
from dosis.run.method import default_method
from dosis.run.wells import parse_well

HERE = Path(__file__).parent / "exports"
EXPECTED: dict[str, dict[str, Any]] = json.loads((HERE / "expected.json").read_text("utf-8"))


def read(*names: str, choices: Choices | None = None) -> Intake:
    files = [SourceFile.model_construct(name=name, data=(HERE / name).read_bytes()) for name in names]
    return understand("", choices, files=files)


def value_at(intake: Intake, well: str, plate: int = 0) -> Any:
    assert intake.readings is not None
    place = parse_well(well)
    return next(r for r in intake.readings.readings if r.plate == plate and (r.row, r.column) == place)


@pytest.mark.parametrize("name", sorted(EXPECTED))
def test_an_export_comes_out_as_it_was_made(name: str) -> None:
    wanted, intake = EXPECTED[name], read(name)
    found, readings, layout = intake.understanding, intake.readings, intake.layout
    assert found.ready and readings is not None and layout is not None
    assert found.shape == wanted["shape"]
    assert found.turned == wanted.get("turned", False)
    plates = [[plate.rows, plate.columns] for plate in readings.plates]
    assert plates == wanted.get("plates", [])
    assert [channel.name for channel in readings.channels] == wanted.get("channels", [])
    for well, value in wanted.get("wells", {}).items():
        assert value_at(intake, well).value == pytest.approx(value, abs=1e-12)
    for well, value in wanted.get("second", {}).items():
        assert value_at(intake, well).more[0].value == pytest.approx(value, abs=1e-12)
    for well, meaning in wanted.get("odd", {}).items():
        assert value_at(intake, well).meaning == meaning
    assert all(value_at(intake, well).meaning == "missing" for well in wanted.get("missing", ()))
    if "times" in wanted:
        assert readings.curves.x.tolist() == wanted["times"]
    for well, course in wanted.get("courses", {}).items():
        row = readings.readings.index(value_at(intake, well))
        assert readings.curves.y[row].tolist() == pytest.approx(course, abs=1e-12)
    if "names" in wanted:
        assert [plate.name for plate in readings.plates] == wanted["names"]
    if "groups" in wanted:
        assert Counter(group.role.value for group in layout.groups) == wanted["groups"]
    if "readings" in wanted:
        assert len(readings.readings) == wanted["readings"]
    if "level_unit" in wanted:
        assert layout.level.unit == wanted["level_unit"]
    for group, level in wanted.get("levels", {}).items():
        assert next(g.level for g in layout.groups if g.name == group) == pytest.approx(level, rel=1e-12)
    if "series" in wanted:
        assert list(dict.fromkeys(group.series for group in layout.groups)) == wanted["series"]
    if "meanings" in wanted:
        count = Counter(r.meaning.value for r in readings.readings if r.meaning != "number")
        assert count == wanted["meanings"]
    assert any(s.id == "unit" and "do not agree" in s.text for s in found.statements) == wanted.get("clash", False)
    assert len(found.notes) == wanted.get("notes", len(found.notes))
    assert list(found.sheets) == wanted.get("sheets", [])
    evaluate(readings, layout, default_method("concentration"))


def test_several_plate_files_become_the_plates_of_one_run() -> None:
    intake = read("01_plate_headings.txt", "03_plate_letters_only.tsv")
    assert intake.readings is not None
    assert [plate.name for plate in intake.readings.plates] == ["01_plate_headings.txt", "03_plate_letters_only.tsv"]
    assert value_at(intake, "B3", plate=1).value == 0.112


def test_several_tables_with_one_heading_become_one_table() -> None:
    intake = read("24_stacked.csv", "24_stacked.csv")
    assert intake.readings is not None and len(intake.readings.readings) == 16


def test_another_sheet_can_be_chosen() -> None:
    assert read("37_plate.xlsx").understanding.sheet == 1
    assert not read("37_plate.xlsx", choices=Choices(sheet=0)).understanding.ready


def test_a_plate_can_be_read_as_a_table_and_rows_turned_back() -> None:
    assert read("01_plate_headings.txt", choices=Choices(shape="table")).understanding.shape == "table"
    assert not read("25_turned_units.tsv", choices=Choices(turn=False)).understanding.turned


def test_the_text_around_a_grid_is_kept_with_the_readings() -> None:
    intake = read("05_plate_semicolon_comma_cp1252.csv")
    assert intake.readings is not None
    assert intake.readings.notes == ("Messgerät Nr. 7", "Temperatur: 24,5 °C")

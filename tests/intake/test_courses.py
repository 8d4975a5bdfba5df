"""Tables and plates of times: what is a course, along what, at which level, and what is said of the rest."""

import numpy as np
import pytest
from numpy.testing import assert_allclose

from dosis.core.numbers import parse_number
from dosis.intake.course_names import read_names
from dosis.intake.text import IntakeError
from dosis.intake.times import is_time, time_quantity, times_of
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices, Intake
from dosis.run.layout import Layout
from dosis.run.readings import Readings


@pytest.mark.parametrize(
    ("heading", "name", "unit"),
    [
        ("Time", "Time", ""), ("Time (s)", "Time", "s"), ("time/min", "Time", "min"), ("t [h]", "Time", "h"),
        ("t", "Time", ""), ("Minutes", "Time", "min"), ("Elapsed time, h", "Elapsed time", "h"),
        ("Time sec", "Time", "s"),
        ("Cycle", "Cycle", ""), ("Age (d)", "Age", "d"), ("hours", "Time", "h"), ("Zeit (min)", "Time", "min"),
    ],
)  # fmt: skip
def test_headings_of_time_are_known_with_their_unit(heading: str, name: str, unit: str) -> None:
    assert is_time(heading)
    found = time_quantity(heading)
    assert (found.name, found.unit) == (name, unit) or (heading == "Zeit (min)" and found.unit == unit)


@pytest.mark.parametrize(
    "heading", ["T", "T (°C)", "Temperature", "Wavelength (nm)", "Dose (mg/L)", "m", "Timer", "A450"]
)
def test_other_headings_are_none(heading: str) -> None:
    assert not is_time(heading)


@pytest.mark.parametrize(
    ("cells", "unit", "wanted", "in_unit"),
    [
        (["0:00", "0:30", "1:00"], "", [0, 30, 60], "s"), (["0:00:00", "0:10:00", "0:20:30"], "", [0, 10, 20.5], "min"),
        (["0:00:00", "3:00:00", "6:30:00"], "", [0, 3, 6.5], "h"), (["0 s", "30 s"], "", [0, 30], "s"),
        (["0", "1", "-"], "h", [0, 1, None], "h"),
    ],
)  # fmt: skip
def test_times_are_read_as_numbers_or_off_a_clock(cells: list, unit: str, wanted: list, in_unit: str) -> None:
    values, found, said = times_of([parse_number(cell) for cell in cells], unit)
    assert (values, found) == (wanted, in_unit)
    assert bool(said) is (":" in cells[0])


def test_levels_are_read_off_names_that_all_have_one() -> None:
    found = read_names(["0.5 mM", "500 µM rep 2", "2 mM"], ".")
    assert (found.quantity, found.unit) == ("Concentration", "mM")
    assert [each.level for each in found.each] == [0.5, 0.5, 2]
    assert read_names(["pNPP 1 mM", "pNPP 2 mM"], ".").quantity == "pNPP"
    assert [each.level for each in read_names(["pH 6,5", "pH 7"], ",").each] == [6.5, 7]
    assert read_names(["20 °C", "25 °C"], ".").quantity == "Temperature"
    series = read_names(["A 1 mM", "B 1 mM", "A 2 mM"], ".")
    assert [each.series for each in series.each] == ["A", "B", "A"]
    # Not all say one, or all the same, or in units that do not go together: names are names.
    for names in (
        ["1 mM", "Flask"],
        ["1 mM", "1 mM"],
        ["1 mM", "2 mg/L"],
        ["Trial 1", "Trial 2"],
        ["Day 1 d", "Day 2 d"],
    ):
        assert {each.level for each in read_names(names, ".").each} == {None}


def table(head: str, rows: int = 8, columns: int = 2, *, start: float = 0.0) -> str:
    lines = [head] + [
        "\t".join([f"{10 * k:g}", *(f"{start + 0.1 * (c + 1) * k:.2f}" for c in range(columns))]) for k in range(rows)
    ]
    return "\n".join(lines)


def of(text: str, **choices: object) -> tuple[Intake, Readings, Layout]:
    intake = understand(text, Choices.model_validate(choices))
    assert intake.readings is not None and intake.layout is not None
    return intake, intake.readings, intake.layout


def looks(intake: Intake) -> list[str]:
    return [each.id for each in intake.understanding.statements if each.state == "look"]


def test_columns_beside_a_time_are_courses() -> None:
    intake, readings, layout = of(table("Time (s)\tFlask A\tFlask B"))
    assert intake.understanding.asks == "rate" and looks(intake) == []
    assert [group.name for group in layout.groups] == ["Flask A", "Flask B"]
    assert_allclose(readings.curves.x, np.arange(0, 80, 10))
    assert_allclose(readings.curves.y[1], 0.2 * np.arange(8))
    assert readings.axis is not None and readings.axis.quantity.unit == "s"
    assert [reading.text for reading in readings.readings] == ["0 … 0.7", "0 … 1.4"]


def test_times_that_go_back_are_put_in_order_and_a_time_that_is_none_is_said() -> None:
    text = "Time (s)\tA\n30\t3\n10\t1\n\t9\n20\t2\n0\t0"
    intake, readings, _ = of(text, question="rate")
    assert readings.curves.x.tolist() == [0, 10, 20, 30] and readings.curves.y[0].tolist() == [0, 1, 2, 3]
    assert "without_place" in looks(intake)


def test_cells_that_are_no_numbers_are_gaps_and_are_said() -> None:
    text = table("Time (s)\tA\tB").replace("0.20", "OVER", 1).replace("1.40", "")
    intake, readings, _ = of(text)
    assert np.isnan(readings.curves.y).sum() == 2
    assert "cells" in looks(intake)
    assert any("2 gaps" in each.text for each in intake.understanding.statements)


def test_blank_columns_are_blanks_and_replicates_are_one_group() -> None:
    intake, _, layout = of(table("Time (min)\tBlank\tBlank\t0.5 mM\t0.5 mM\t2 mM a\t2 mM b", columns=6))
    groups = {group.name: (group.role.value, group.level, len(group.readings)) for group in layout.groups}
    assert groups == {"Blank": ("blank", None, 2), "0.5 mM": ("point", 0.5, 2), "2 mM": ("point", 2, 2)}
    assert layout.level.unit == "mM"
    assert "2 blank courses to be subtracted" in " ".join(s.text for s in intake.understanding.statements)


def test_columns_of_wells_stand_on_a_plate_and_the_temperature_beside_them_is_said() -> None:
    intake, readings, layout = of(table("Time\tTemp (°C)\tA1\tA2\tB1\tB2", columns=5))
    assert [(plate.rows, plate.columns) for plate in readings.plates] == [(4, 6)]
    assert [(r.row, r.column) for r in readings.readings] == [(0, 0), (0, 1), (1, 0), (1, 1)]
    assert len(layout.groups) == 4 and "unused" in looks(intake)
    _, flasks, _ = of(table("Time (h)\tF1\tF2\tF3\tF4", columns=4))
    assert flasks.plates == ()  # four flasks are no row of a plate


def test_a_long_table_of_wells_is_a_course_for_each() -> None:
    rows = [
        f"{well}\t{t}\t{0.1 * k * t:.3f}"
        for k, well in enumerate(("A1", "A2", "B1", "C4", "H12", "D3"), 1)
        for t in range(5)
    ]
    intake, readings, layout = of("Well\tTime (min)\tOD\n" + "\n".join(rows))
    assert intake.understanding.asks == "rate"
    assert [(plate.rows, plate.columns) for plate in readings.plates] == [(8, 12)]
    assert_allclose(readings.curves.y[4], 0.5 * np.arange(5))
    assert layout.signal.name == "OD" and len(layout.groups) == 6


def test_a_long_table_of_subjects_in_numbers_is_a_course_for_each() -> None:
    """The shape of Orange and Indometh as they are published."""
    rows = [f"{tree}\t{t}\t{30 + tree * t}" for tree in (1, 2, 3) for t in (118, 484, 664, 1004)]
    intake, readings, layout = of("Tree\tage (d)\tcircumference (mm)\n" + "\n".join(rows))
    assert intake.understanding.asks == "rate"
    assert [group.name for group in layout.groups] == ["Tree 1", "Tree 2", "Tree 3"]
    assert readings.curves.x.tolist() == [118, 484, 664, 1004]


def test_the_same_time_again_is_another_course_of_the_same() -> None:
    rows = [f"gill\t{s}\t{t}\t{s * t + r}" for s in (1, 5) for r in (0, 1) for t in range(4)]
    _, readings, layout = of("Sample\tpNPP (mM)\tTime (s)\tAbsorbance\n" + "\n".join(rows))
    assert [(group.name, group.level, len(group.readings)) for group in layout.groups] == [
        ("gill, 1 mM", 1, 2), ("gill, 5 mM", 5, 2),
    ]  # fmt: skip
    assert len(readings.readings) == 4


def test_courses_with_times_of_their_own_share_one_axis_with_gaps() -> None:
    rows = ["a\t0\t1", "a\t10\t2", "a\t20\t3", "a\t30\t4", "b\t0\t5", "b\t15\t6", "b\t20\t7", "b\t45\t8"]
    _, readings, _ = of("Sample\tTime (s)\tSignal\n" + "\n".join(rows), question="rate")
    assert readings.curves.x.tolist() == [0, 10, 15, 20, 30, 45]
    assert np.isfinite(readings.curves.y).sum(axis=1).tolist() == [4, 4]


def grids(times: tuple[str, ...], *, wave: str = "") -> str:
    lines = []
    for k, time in enumerate(times):
        lines += [f"Time: {time}{wave}", "\t" + "\t".join(map(str, range(1, 7)))]
        lines += [
            "ABCD"[r] + "\t" + "\t".join(f"{0.1 + 0.01 * k * (6 * r + c):.3f}" for c in range(6)) for r in range(4)
        ]
        lines.append("")
    return "Kinetic read\n\n" + "\n".join(lines)


def test_grids_titled_by_time_are_a_course_for_each_well() -> None:
    intake, readings, layout = of(grids(("0 s", "30 s", "60 s", "90 s"), wave="  405 nm"))
    assert intake.understanding.asks == "rate" and readings.axis is not None
    assert readings.curves.x.tolist() == [0, 30, 60, 90] and readings.axis.quantity.unit == "s"
    assert_allclose(readings.curves.y[23], 0.1 + 0.01 * np.arange(4) * 23)
    assert len(layout.groups) == 24 and layout.groups[7].name == "B2"
    clock, seen, _ = of(grids(("0:00:00", "0:00:30", "0:01:00")))
    assert seen.curves.x.tolist() == [0, 30, 60] and "Clock times" in " ".join(
        s.text for s in clock.understanding.statements
    )
    other, single, _ = of(grids(("0 s", "30 s", "60 s")), question="concentration")
    assert single.axis is None and len(single.channels) == 3 and other.understanding.question == "concentration"
    two, _, _ = of(grids(("0 s", "30 s")))
    assert two.understanding.asks == "concentration"


def test_columns_of_different_quantities_are_no_courses_of_one() -> None:
    intake, _, _ = of(table("Time (s)\tU (V)\tT (°C)"))
    assert intake.understanding.asks == "relation"


def test_without_a_time_there_is_no_rate_and_it_is_said() -> None:
    found = understand("Sample\tSignal\nA\t1\nB\t2\nC\t3\nD\t4", Choices(question="rate")).understanding
    assert not found.ready
    assert "No column of times" in next(each.text for each in found.statements if each.state == "stop")


def said(found: Intake) -> str:
    return " ".join(statement.text for statement in found.understanding.statements)


def long_table(odd: str = "", decimal: str = ".") -> str:
    """60,000 times of two courses; "odd" in the place of one number."""
    rows = [f"{i / 10:.1f}\t{0.1 + i * 1e-6:.6f}\t{0.2 + i * 2e-6:.6f}" for i in range(60_000)]
    if odd:
        rows[40_000] = f"4000.0\t{odd}\t0.28"
    return "\n".join(["Time (s)\tTank 1\tTank 2", *(row.replace(".", decimal) for row in rows)]) + "\n"


@pytest.mark.parametrize("decimal", [".", ","])
def test_a_course_is_longer_than_a_table_may_be(decimal: str) -> None:
    found = understand(long_table(decimal=decimal))
    assert found.readings is not None and found.readings.recording is not None
    recording = found.readings.recording
    assert_allclose(recording.x, np.arange(60_000) / 10)
    assert_allclose(recording.y, [0.1 + np.arange(60_000) * 1e-6, 0.2 + np.arange(60_000) * 2e-6])
    assert "60,000 rows** in all, all used; the first 1,999 are shown" in said(found)


@pytest.mark.parametrize("odd", ["OVER", "", "nan"])
def test_what_is_no_number_far_down_is_a_gap_and_is_said(odd: str) -> None:
    text = long_table(odd or "empty")
    found = understand(text if odd else text.replace("empty", ""))
    assert found.readings is not None and found.readings.recording is not None
    assert np.isnan(found.readings.recording.y[0, 40_000]) and np.isfinite(found.readings.recording.y[1]).all()
    assert "1 gap" in said(found)
    assert (
        "No plain number in 1 cell beyond the rows shown**, left as gaps; the first in row 40,002" in said(found)
    ) is bool(odd)


@pytest.mark.parametrize(
    ("old", "new", "wanted"),
    [
        ("Time (s)", "Sample", "Only courses over time can be that long"),
        ("Tank 2", "Well", "Only courses over time can be that long"),
        ("\n", "\nx", "more than 50,000 rows"),
    ],
)
def test_other_tables_are_not_so_long(old: str, new: str, wanted: str) -> None:
    with pytest.raises(IntakeError, match=wanted):
        understand(long_table().replace(old, new))


def test_times_of_a_clock_are_not_taken_for_numbers_far_down() -> None:
    rows = [f"{i // 3600}:{i // 60 % 60:02}:{i % 60:02}\t{0.1 + i * 1e-6:.6f}" for i in range(50_010)]
    with pytest.raises(IntakeError, match=r"From row 2,001 on no time is a plain number"):
        understand("\n".join(["Time\tTank 1", *rows]))


def test_the_time_of_a_single_course_is_called_one() -> None:
    found = understand("Time (s)\tTank 1\n" + "\n".join(f"{10 * i}\t{0.1 + 0.01 * i:.2f}" for i in range(12)))
    assert [column.kind for column in found.understanding.columns] == ["time", "reading"]
    assert found.readings is not None and found.understanding.question == "rate"


def test_cells_far_down_are_read_as_those_of_any_table() -> None:
    for decimal, cell, value in ((",", "1.234,5", 1234.5), (".", "1,234.5", 1234.5), (".", "1_000", np.nan)):
        found = understand(long_table("here", decimal).replace("here", cell))
        assert found.readings is not None and found.readings.recording is not None
        assert_allclose(found.readings.recording.y[0, 40_000], value)
        assert ("first in row 40,002" in said(found)) is bool(np.isnan(value))


@pytest.mark.parametrize(
    ("headings", "told"),
    [
        (("Absorbance", "Transmittance (%)", "Lamp (°C)"), True), (("Scan 1 (A)", "Scan 2 (A)"), False),
        (("Absorbance", "Transmittance (%)"), False), (("0 min", "10 min"), False), (("1 mM", "2 µM"), False),
    ],
)  # fmt: skip
def test_columns_of_different_units_are_pointed_at(headings: tuple[str, ...], told: bool) -> None:
    rows = ["\t".join([str(w), *(f"{0.1 * k + w / 1000:.4f}" for k in range(len(headings)))]) for w in range(400, 420)]
    found = understand("\n".join(["\t".join(("Wavelength (nm)", *headings)), *rows]), Choices(question="spectrum"))
    said = [each for each in found.understanding.statements if each.id == "units"]
    assert bool(said) is told
    if told:
        assert said[0].state == "look" and "Transmittance in %, Lamp in °C" in said[0].text

"""Scans recognized: tables, single files, JCAMP-DX; and what is no scan."""

import numpy as np
import pytest

from dosis.intake.sheets import SourceFile
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices, Intake
from dosis.run.roles import Role

NM = np.arange(400, 441)


def table(*headings: str, rows: int = 41, axis: str = "Wavelength (nm)") -> str:
    body = ["\t".join([f"{x}", *(f"{0.1 * (k + 1) + 0.001 * x:.4f}" for k in range(len(headings)))]) for x in NM[:rows]]
    return "\n".join(["\t".join([axis, *headings]), *body])


def said(intake: Intake, id: str) -> str:
    return next(each.text for each in intake.understanding.statements if each.id == id)


def names(intake: Intake) -> list[tuple[str, Role, float | None]]:
    assert intake.layout is not None
    return [(group.name, group.role, group.level) for group in intake.layout.groups]


def test_headings_of_times_are_levels_of_scans() -> None:
    intake = understand(table("0 min", "10 min", "1 h"))
    assert intake.understanding.question == "spectrum"
    assert intake.layout is not None and intake.layout.level.unit == "min" and intake.layout.level.name == "Time"
    assert [level for _, _, level in names(intake)] == [0, 10, 60]
    assert "3 scans** of 41 wavelengths" in said(intake, "courses")


@pytest.mark.parametrize("axis", ["nm", "λ / nm", "Wavelength (nm)", "Wavenumber (cm-1)", "cm-1", "Wavelength"])
def test_axes_of_scans_by_their_headings(axis: str) -> None:
    intake = understand(table("A", axis=axis))
    assert intake.understanding.question == "spectrum" and intake.readings is not None
    assert intake.readings.axis is not None
    assert intake.readings.axis.quantity.unit == ("1/cm" if "cm" in axis else "nm")


def test_ten_wavelengths_make_a_scan_and_nine_do_not() -> None:
    assert understand(table("A", "B", rows=10)).understanding.asks == "spectrum"
    assert understand(table("A", "B", rows=9)).understanding.asks != "spectrum"


def test_named_blanks_are_blanks_and_references_references() -> None:
    found = names(understand(table("Blank", "Reference A", "pond")))
    assert [(name, role) for name, role, _ in found] == [
        ("Blank", Role.BLANK), ("Reference A", Role.STANDARD), ("pond", Role.POINT),
    ]  # fmt: skip


def test_a_few_wavelengths_of_named_samples_are_still_asked_for_concentrations() -> None:
    """Thirty wavelengths are read off in rows of samples; from thirty-one on they are looked at as scans."""
    assert understand(table("Blank", "Std 1", "Std 2", rows=29)).understanding.question == "concentration"
    assert understand(table("Blank", "Std 1", "Std 2", rows=31)).understanding.question == "spectrum"


def test_scans_beside_levels_may_have_none() -> None:
    intake = understand(table("1 mg/L", "2 mg/L", "4 mg/L", "pond"))
    assert [level for _, _, level in names(intake)] == [1, 2, 4, None]
    few = understand(table("1 mg/L", "2 mg/L", "pond"))
    assert [level for _, _, level in names(few)] == [None, None, None]


def test_repeated_names_are_replicates_and_letters_are_not() -> None:
    assert len(names(understand(table("pond rep 1", "pond rep 2")))) == 1
    assert len(names(understand(table("Sample A", "Sample B")))) == 2


def file(name: str, text: str) -> SourceFile:
    return SourceFile.model_construct(name=name, data=text.encode())


def test_files_named_by_time_stand_beside_each_other() -> None:
    files = [file(f"{t}_min.csv", "Wavelength (nm),Absorbance\n" + "\n".join(f"{x},{0.5 - t / 100}" for x in NM))
             for t in (0, 10, 20)]  # fmt: skip
    intake = understand("", files=files)
    assert [(name, level) for name, _, level in names(intake)] == [("0 min", 0), ("10 min", 10), ("20 min", 20)]
    assert intake.layout is not None and intake.layout.signal.name == "Absorbance"
    assert intake.readings is not None and intake.readings.curves.y.shape == (3, 41)
    assert intake.readings.curves.y[1, 0] == pytest.approx(0.4)


def test_files_with_axes_of_their_own_are_brought_onto_one() -> None:
    files = [file("a.csv", "nm,A\n" + "\n".join(f"{x},1" for x in NM)),
             file("b.csv", "nm,A\n" + "\n".join(f"{x},2" for x in NM[::2]))]  # fmt: skip
    intake = understand("", files=files)
    assert intake.readings is not None
    assert intake.readings.curves.there.tolist() == [41, 21]


def test_files_that_are_no_scans_stay_one_under_the_other() -> None:
    files = [file("a.csv", "Name,A\nx,1\ny,2"), file("b.csv", "Name,A\nz,3")]
    assert understand("", files=files).understanding.row_count == 3


def jcamp(title: str, scale: int) -> str:
    lines = [f"{x} {' '.join(str(scale * (x + k)) for k in range(10))}" for x in range(400, 440, 10)]
    return "\n".join([
        f"##TITLE={title}", "##JCAMP-DX=4.24", "##DATA TYPE=UV/VIS SPECTRUM", "##XUNITS=NANOMETERS",
        "##YUNITS=ABSORBANCE", "##FIRSTX=400", "##LASTX=439", "##NPOINTS=40", "##XFACTOR=1", "##YFACTOR=0.001",
        "##XYDATA=(X++(Y..Y))", *lines, "##END=",
    ])  # fmt: skip


def test_jcamp_files_bring_their_titles_and_their_signal() -> None:
    intake = understand("", files=[file("1.jdx", jcamp("before", 1)), file("2.jdx", jcamp("after", 2))])
    assert [name for name, _, _ in names(intake)] == ["before", "after"]
    assert intake.layout is not None and intake.layout.signal.name == "Absorbance"
    assert intake.readings is not None and intake.readings.curves.y[1, 0] == pytest.approx(0.8)
    assert understand(jcamp("one", 1)).understanding.question == "spectrum"


def test_a_falling_axis_is_turned_to_rise_with_its_numbers() -> None:
    lines = "\n".join(f"{x}\t{x / 1000}" for x in NM[::-1])
    intake = understand("Wavenumber (cm-1)\tA\n" + lines)
    assert intake.readings is not None
    assert (np.diff(intake.readings.curves.x) > 0).all()
    np.testing.assert_allclose(intake.readings.curves.y[0], intake.readings.curves.x / 1000)


def test_a_table_without_an_axis_is_not_taken_for_scans_when_asked() -> None:
    intake = understand("Name\tA880\nx\t0.1\ny\t0.2", Choices(question="spectrum"))
    assert not intake.understanding.ready and "wavelengths" in said(intake, "stop")


def test_bare_columns_are_scans_where_a_person_says_so() -> None:
    text = "\n".join(f"{x}\t{0.001 * x}" for x in NM)
    intake = understand(text, Choices(question="spectrum"))
    assert intake.readings is not None and intake.readings.curves.x[0] == 400
    assert "Nothing says so" in said(intake, "axis")

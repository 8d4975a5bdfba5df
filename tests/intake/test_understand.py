"""Understanding a pasted table: what is guessed, what is corrected, and what is refused."""

import base64
import random
from typing import Literal

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dosis.core.numbers import Meaning
from dosis.intake.sheets import SourceFile
from dosis.intake.text import IntakeError, decode
from dosis.intake.understand import understand
from dosis.intake.understanding import CellChoice, Choices, ColumnChoice, ColumnKind, Intake, RowChoice
from dosis.run.layout import Group
from dosis.run.roles import Role
from tests.tables import PHOSPHATE, fluorescein_table


def group(intake: Intake, name: str) -> Group:
    return next(g for g in intake.layout.groups if g.name == name)


def values(intake: Intake, name: str) -> list[float | None]:
    cells = {r.id: r.value for r in intake.readings.readings}
    return [cells[id] for id in group(intake, name).readings]


def said(intake: Intake, id: str) -> str:
    return next((s.text for s in intake.understanding.statements if s.id == id), "")


def test_phosphate_table_is_understood_whole() -> None:
    intake = understand(PHOSPHATE)
    kinds = [column.kind.value for column in intake.understanding.columns]
    assert kinds == ["name", "level", "reading", "reading", "dilution", "note"]
    assert (intake.layout.level.label, intake.layout.signal.label) == ("Concentration / µM", "A880")
    assert [g.role.value for g in intake.layout.groups] == ["blank"] + ["standard"] * 5 + ["sample"] * 2 + ["qc"]
    assert (group(intake, "Std 3").level, group(intake, "Pier N").dilution) == (2.5, 5)
    assert values(intake, "Pier N") == [0.143, 0.147]
    assert "**Units found** in 6 cells" in said(intake, "unit")
    assert "“OVER” in row 9" in said(intake, "cells")
    over = next(r for r in intake.readings.readings if r.text == "OVER")
    assert (over.meaning, over.value, over.row) == (Meaning.ABOVE, None, 9)


@pytest.mark.parametrize("separator", ["\t", ";", ","])
def test_any_separator(separator: str) -> None:
    intake = understand(PHOSPHATE.replace("\t", separator))
    assert intake.understanding.separator == separator
    assert values(intake, "Std 2") == [0.057, 0.060]


def test_commas_as_decimals() -> None:
    for separator in ("\t", ";"):
        intake = understand(PHOSPHATE.replace(".", ",").replace("\t", separator))
        assert intake.understanding.decimal == ","
        assert (values(intake, "Std 2"), group(intake, "Std 1").level) == ([0.057, 0.060], 0.5)


def test_no_header_row() -> None:
    intake = understand("\n".join(PHOSPHATE.splitlines()[1:]))
    assert not intake.understanding.header
    assert (intake.layout.level.unit, values(intake, "Pier N")) == ("µM", [0.143, 0.147])


def test_numbers_alone_are_concentration_and_reading() -> None:
    intake = understand("0 2.1\n2 5.0\n4 9.0".replace(" ", "\t"))
    assert [g.role for g in intake.layout.groups] == [Role.STANDARD] * 3
    assert [g.level for g in intake.layout.groups] == [0, 2, 4]


def test_standard_over_numbers_is_a_concentration_and_sample_a_name() -> None:
    kinds = [c.kind.value for c in understand("Standard\tAbs\n0\t0.01\n2\t0.21\n4\t0.40").understanding.columns]
    assert kinds == ["level", "reading"]
    kinds = [c.kind.value for c in understand("Sample\tConc\tAbs\n1\t2\t0.2\n2\t4\t0.4").understanding.columns]
    assert kinds == ["name", "level", "reading"]


def test_zero_standard_is_a_standard_and_only_a_name_makes_a_blank() -> None:
    intake = understand(fluorescein_table())
    roles = [g.role for g in intake.layout.groups]
    assert roles.count(Role.STANDARD) == 7 and Role.BLANK not in roles


def test_rows_alike_are_replicates_unless_kept_apart() -> None:
    text = "Name\tConc\tA\nStd\t1\t0.1\nStd\t1\t0.12\nStd\t2\t0.2\nPier\t\t0.15\nPier\t\t0.16"
    intake = understand(text)
    assert [len(g.readings) for g in intake.layout.groups] == [2, 1, 2]
    assert "2 names" in said(intake, "stack")
    assert len(understand(text, Choices(stack=False)).layout.groups) == 5


def test_mixed_units_are_converted_within_a_kind_and_refused_across() -> None:
    intake = understand("Name\tConc\tA\nStd 1\t500 µg/L\t0.1\nStd 2\t1 mg/L\t0.2\nStd 3\t2 mg/L\t0.4\nPier\t\t0.3")
    assert [g.level for g in intake.layout.groups][:3] == [0.5, 1.0, 2.0]
    assert "µg/L converted" in said(intake, "unit")
    clash = understand("Name\tConc\tA\nStd 1\t5 µM\t0.1\nStd 2\t1 mg/L\t0.2\nStd 3\t2 mg/L\t0.4")
    assert "“µM” and “mg/L”" in said(clash, "unit")


@pytest.mark.parametrize(
    ("text", "factor"), [("× 5", 5), ("5x", 5), ("1:5", 5), ("1/20", 20), ("10-fold", 10), ("2.5", 2.5)]
)
def test_dilutions_as_people_write_them(text: str, factor: float) -> None:
    intake = understand(f"Name\tConc\tA\tDilution\nStd 1\t1\t0.1\t\nStd 2\t2\t0.2\t\nPier\t\t0.15\t{text}")
    assert group(intake, "Pier").dilution == factor


def test_dilution_that_is_none_is_said_and_not_guessed() -> None:
    intake = understand("Name\tConc\tA\tDilution\nStd 1\t1\t0.1\t\nStd 2\t2\t0.2\t\nPier\t\t0.15\tlots")
    assert "“lots” in row 4" in said(intake, "dilution")


def test_every_guess_can_be_changed() -> None:
    choices = Choices(
        columns=(ColumnChoice(column=3, kind=ColumnKind.IGNORE),),
        rows=(RowChoice(row=8, role=Role.QC),),
        cells=(CellChoice(row=9, column=2, meaning=Meaning.MISSING),),
        level_name="Phosphate", level_unit="mmol/L", signal_name="Absorbance",
    )  # fmt: skip
    intake = understand(PHOSPHATE, choices)
    assert values(intake, "Pier N") == [0.143] and group(intake, "Pier N").role is Role.QC
    assert (intake.layout.level.label, intake.layout.signal.label) == ("Phosphate / mmol/L", "Absorbance")
    assert next(r for r in intake.readings.readings if r.text == "OVER").meaning is Meaning.MISSING


def test_title_above_the_table_is_kept_and_said() -> None:
    intake = understand("Ternhaven, phosphate 880 nm\n" + PHOSPHATE)
    assert "row 1" in said(intake, "asides")
    assert len(intake.layout.groups) == 9


def test_nul_bytes_and_emoji_in_names() -> None:
    intake = understand(PHOSPHATE.replace("Pier N", "Pi\x00er 🦪").replace("Marsh 2", "沼 2"))
    assert {"Pier 🦪", "沼 2"} <= {g.name for g in intake.layout.groups}
    assert "1 invisible character" in said(intake, "cleaned")


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("", "nothing to read"),
        ("  \n\t\n", "nothing to read"),
        ("x" * 32_000_001, "32.0 MB"),
        ("1\t2\n" * 50_001, "more than 50,000 rows"),
        ("1\t" * 5000 + "1", "5,001 columns; 5,000 is the most"),
        ('a\t"' + "1\n" * 5000, "quote"),
    ],
)
def test_what_is_no_table_is_refused_in_a_sentence(text: str, why: str) -> None:
    with pytest.raises(IntakeError, match=why):
        understand(text)


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("0.1\n0.2\n0.3", "Only one column"),
        ("Pier\tnorth\nMarsh\tsouth", "no numbers"),
        ("Sample\tConc\tA", "no numbers|only a heading"),
    ],
)
def test_a_table_that_cannot_be_opened_says_what_is_missing(text: str, why: str) -> None:
    intake = understand(text)
    assert not intake.understanding.ready and intake.readings is None
    assert any(part in said(intake, "stop") for part in why.split("|"))


def test_ten_thousand_rows_are_understood() -> None:
    random.seed(4)
    rows = [f"Sample {i}\t\t{random.random():.3f}\t{random.random():.3f}" for i in range(10_000)]
    intake = understand("Name\tConc (µM)\tA 1\tA 2\nStd 1\t1\t0.1\t0.1\nStd 2\t2\t0.9\t0.9\n" + "\n".join(rows))
    assert len(intake.layout.groups) == 10_002
    assert len(intake.readings.readings) == 20_004


def test_the_first_rows_alone_say_the_same_of_the_table() -> None:
    text = "A title\n\n" + fluorescein_table()
    whole = understand(text, look_only=True).understanding
    head = understand(text, look_only=True, first=4).understanding
    assert head.rows == whole.rows[:4] and head.row_count == whole.row_count == len(whole.rows)
    assert head.model_copy(update={"rows": whole.rows}) == whole


def test_bytes_in_other_encodings() -> None:
    for encoding in ("utf-8", "utf-8-sig", "utf-16", "cp1252"):
        assert understand(decode(PHOSPHATE.replace("× ", "x").encode(encoding))).layout.level.unit == "µM"


@pytest.mark.parametrize("page", ["cp437", "cp850"])
def test_an_old_code_page_is_asked_about_and_chosen(page: Literal["cp437", "cp850"]) -> None:
    """µ is the byte E6 in either, which modern programs read as æ (code page charts, RFC 1345)."""
    data = PHOSPHATE.replace("× ", "x").replace("µ", "\u00b5").encode(page)
    assert b"\xe6M" in data
    files = [SourceFile(name="old.csv", data=base64.b64encode(data))]
    assert "“æM" in said(understand("", files=files), "encoding")
    chosen = understand("", Choices(encoding=page), files=files)
    assert chosen.layout.level.unit == "µM"
    assert page.removeprefix("cp") in said(chosen, "encoding")
    assert said(understand(PHOSPHATE), "encoding") == ""


names = st.text(
    st.characters(codec="utf-8", exclude_characters='\t\n\r"\x85\u2028\u2029', exclude_categories=("Cc", "Cs")),
    max_size=12,
)
numbers = st.floats(-1e6, 1e6).map(lambda v: f"{v:.4g}")


@given(st.lists(st.tuples(names, numbers, numbers), min_size=3, max_size=12))
@settings(max_examples=60)
def test_a_table_we_write_is_read_back_as_itself(rows: list[tuple[str, str, str]]) -> None:
    text = "Name\tConc (µM)\tSignal\n" + "\n".join(f"N{n}\t{x}\t{y}" for n, x, y in rows)
    intake = understand(text, Choices(stack=False, separator="\t", decimal=".", log_levels=False))
    assert [r.value for r in intake.readings.readings] == [float(y) for _, _, y in rows]
    assert [g.level for g in intake.layout.groups] == [float(x) for _, x, _ in rows]


def test_samples_that_are_called_like_a_heading_do_not_turn_the_table() -> None:
    intake = understand("Name\tConc (µM)\tSignal\nN\t0\t0\nNM\t0\t0\nNM\t0\t0\n")
    assert not intake.understanding.turned


@given(st.text(max_size=300))
@settings(max_examples=200)
def test_no_paste_breaks_the_reader(text: str) -> None:
    try:
        intake = understand(text)
    except IntakeError as error:
        assert str(error)
    else:
        assert intake.understanding.ready == (intake.readings is not None)


@pytest.mark.parametrize(
    ("heading", "asks", "said"),
    [
        ("Conc (µM)\tAbsorbance", "concentration", "Concentrations are in µM"),
        ("Dose (mg/L)\tResponse", "dose", "Doses are in mg/L"),
        ("TP-17 (mg/L)\tExposed\tDead", "mortality", "Doses are in mg/L"),
    ],
)
def test_a_table_says_what_it_is_most_likely_asked(heading: str, asks: str, said: str) -> None:
    cells = "\t20\t3" if "Dead" in heading else "\t0.4"
    rows = "\n".join(f"S{i}\t{2**i}{cells}" for i in range(5))
    understanding = understand(f"Name\t{heading}\n{rows}").understanding
    assert understanding.asks == asks
    assert any(said in statement.text for statement in understanding.statements)


def test_two_thousand_compounds_beside_a_dose_column_are_as_many_curves() -> None:
    names = [f"CMP-{i:04d}" for i in range(2_000)]
    rows = [
        [f"{10 / 4**k:g}", *(f"{100 / (1 + 10 / 4**k / (0.1 + 0.001 * i)):.2f}" for i in range(2_000))]
        for k in range(6)
    ]
    found = understand("\n".join("\t".join(row) for row in [["Dose (µM)", *names], *rows]))
    assert found.readings is not None and len(found.readings.readings) == 12_000
    assert found.understanding.asks == "dose"
    assert {group.series for group in found.layout.groups} == set(names)


@pytest.mark.parametrize("x", ["Dial", "Strain"])
def test_a_lone_column_before_readings_is_x(x: str) -> None:
    rows = "\n".join(f"{2 * i}\t{0.01 + 0.08 * i:.3f}\t0.004" for i in range(5))
    found = understand(f"{x}\tAbsorbance\tSD\n{rows}")
    assert found.layout is not None and found.understanding.asks == "relation"
    assert [group.level for group in found.layout.groups] == [0, 2, 4, 6, 8]


def test_a_strain_that_comes_several_times_divides() -> None:
    rows = "\n".join(f"{1 + i // 3}\t{i % 3}\t{0.01 + 0.08 * i:.3f}" for i in range(6))
    found = understand(f"Strain\tConc (mM)\tA880\n{rows}")
    assert {group.series for group in found.layout.groups} == {"1", "2"}


NAMED = "Sample\tConc (µM)\t{heads}\nBlank\t\t0.02\t0.021\nStd\t1\t0.12\t0.121\nStd\t2\t0.22\t0.221\nPier\t\t0.2\t0.19"


@pytest.mark.parametrize(("heads", "across"), [("Run 1\tRun 2", "replicates"), ("Peak 1\tPeak 2", "channels")])
def test_numbered_columns_beside_names_are_the_same_rows_read_again_but_peaks_are_not(heads: str, across: str) -> None:
    found = understand(NAMED.format(heads=heads)).understanding
    assert found.across == across
    state = next(s.state for s in found.statements if s.id == "across")
    assert state == ("ok" if across == "replicates" else "look")


def test_viabilities_of_each_compound_are_replicates() -> None:
    rows = "\n".join(f"{c}\t{10**k:g}\t{98 - 20 * k}\t{97 - 20 * k}" for c in "AB" for k in range(-1, 4))
    found = understand(f"Compound\tDose (µM)\tViab 1\tViab 2\n{rows}")
    assert found.layout is not None and {group.series for group in found.layout.groups} == {"A", "B"}
    assert all(len(group.readings) == 2 for group in found.layout.groups)


def test_words_in_the_place_of_a_level_name_what_was_read() -> None:
    found = understand("BSA (µg)\tA595\n0\t0.01\n2\t0.12\n4\t0.24\n8\t0.45\nlysate\t0.30\nlysate\t0.31")
    assert found.layout is not None and found.understanding.asks == "concentration"
    lysate = next(group for group in found.layout.groups if group.name == "lysate")
    assert lysate.role is Role.SAMPLE and len(lysate.readings) == 2
    assert "name of what was read" in said(found, "levels")
    scan = understand("Wavelength (nm)\tPier\n400\t0.1\n410\t0.2\n420\t0.3\nmax\t0.3")
    assert scan.layout is not None and "max" not in {group.name for group in scan.layout.groups}


def test_rows_of_one_name_that_another_column_tells_apart_are_pointed_at() -> None:
    """Two stations of one site are hardly replicates; two notes that come once each tell nothing apart."""
    told = (
        "Site\tStation\tConc (µM)\tA880\nStd\t\t1\t0.12\nStd\t\t2\t0.22\nBay\tA\t\t0.3\nBay\tB\t\t0.25\nCove\tA\t\t0.2"
    )
    assert "Bay differs in Station" in said(understand(told), "stack")
    untold = told.replace("Bay\tA", "Bay\tcloudy").replace("Bay\tB", "Bay\tshaken")
    assert "differs" not in said(understand(untold), "stack")


def test_amounts_that_were_added_ask_for_standard_additions() -> None:
    found = understand("Added (µg/L)\tSignal\n0\t0.21\n5\t0.33\n10\t0.45\n15\t0.57")
    assert found.understanding.asks == "additions"
    assert found.layout is not None and {group.name for group in found.layout.groups} == {"Sample"}


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("Plankton net 4\nTime (h)\tOD\n0\t0.1\n1\t0.2\n2\t0.4\n3\t0.8", "Plankton net 4"),
        (
            "Name\tNitrate (µM)\tA\nStd\t1\t0.1\nStd\t2\t0.2\nPier\t\t0.15\nMarsh\t\t0.1\nBay\t\t0.2",
            "Nitrate: Pier, Marsh and 1 more",
        ),
        ("Time (s)\tA\tB\n0\t1\t2\n1\t2\t3\n2\t3\t4\n3\t4\t5\n4\t5\t6", "A, B"),
        ("1\t0.1\n2\t0.2\n3\t0.3", ""),
    ],
)  # fmt: skip
def test_a_run_is_called_after_what_stands_in_its_table(text: str, wanted: str) -> None:
    assert understand(text).understanding.called == wanted


@pytest.mark.parametrize(
    ("last", "said"),
    [
        ("S6\t\t0.9", "**S6** has no concentration but a name like the standards: taken as a sample."),
        (
            "S6\t\t0.9\nS7\t\t0.8",
            "**S6 and S7** have no concentration but a name like the standards: taken as samples.",
        ),
        ("S6\t\t0.9\nS7\t\t0.8\nS8\t\t0.7", ""),
        ("Pond 6\t\t0.9", ""),
    ],
)
def test_a_sample_named_like_the_standards_is_pointed_out(last: str, said: str) -> None:
    """A level that was forgotten makes a sample of a standard; three or more are samples numbered on."""
    rows = ["Name\tConc (mM)\tA", "S1\t1\t0.1", "S2\t2\t0.2", "S3\t4\t0.4", "Weir\t\t0.3", "Pond\t\t0.25", last]
    (found,) = [each for each in understand("\n".join(rows)).understanding.statements if each.id == "roles"]
    assert ("name like" in found.text) == bool(said)
    assert found.text.endswith(said)
    assert found.state == ("look" if said else "ok")

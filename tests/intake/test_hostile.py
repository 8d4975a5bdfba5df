"""Damaged files, huge ones, those made to harm, and tables nobody would write: refused in words, or read as is."""

import io
import json
import resource
import time
import zipfile

import pytest
import xlsxwriter
from hypothesis import given, settings
from hypothesis import strategies as st

from dosis.core.numbers import Meaning
from dosis.intake.lookup import read_lookup
from dosis.intake.shape import turned
from dosis.intake.sheets import SourceFile
from dosis.intake.text import IntakeError
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.wells import SIZES, row_letters

QUICK = settings(max_examples=80)


def brought(data: bytes, name: str = "file.xlsx") -> None:
    understand("", files=[SourceFile.model_construct(name=name, data=data)])


def sheet_with(xml: bytes) -> bytes:
    """A workbook whose one sheet is the given XML."""
    buffer, made = io.BytesIO(), io.BytesIO()
    book = xlsxwriter.Workbook(buffer, {"in_memory": True})
    book.add_worksheet("Data").write(0, 0, 1.5)
    book.close()
    with zipfile.ZipFile(buffer) as old, zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as new:
        for entry in old.infolist():
            new.writestr(entry.filename, xml if entry.filename.endswith("sheet1.xml") else old.read(entry.filename))
    return made.getvalue()


HEAD = b'<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>'
TAIL = b"</sheetData></worksheet>"


def far_corner() -> bytes:
    cell = b'<row r="%d"><c r="%s%d"><v>1</v></c></row>'
    return sheet_with(HEAD + cell % (1, b"A", 1) + cell % (1048576, b"XFD", 1048576) + TAIL)


def many_rows() -> bytes:
    rows = b"".join(b'<row r="%d"><c r="A%d"><v>1</v></c></row>' % (i, i) for i in range(1, 60_000))
    return sheet_with(HEAD + rows + TAIL)


@pytest.mark.parametrize(
    ("data", "why"),
    [
        (sheet_with(HEAD + b" " * 400_000_000 + TAIL), "holds 400 MB, which is not a table"),
        (far_corner(), "cannot be read|columns; 50,000"),
        (many_rows(), "59,999 rows"),
        (b"PK\x03\x04" + bytes(range(256)) * 20, "damaged"),
        (sheet_with(b"<worksheet><sheetData><row><c r='A1'>"), "not a spreadsheet|cannot be read|no filled cell"),
        (b"", "nothing to read"),
        (b"\x00\x01\x02\xff" * 400, "not text"),
    ],
    ids=["zip bomb", "far corner", "many rows", "damaged", "broken xml", "empty", "binary"],
)
def test_a_file_that_is_no_table_is_refused_in_a_sentence(data: bytes, why: str) -> None:
    begun, before = time.monotonic(), resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss
    with pytest.raises(IntakeError, match=rf"^file\.xlsx: .*(?:{why})"):
        brought(data)
    assert time.monotonic() - begun < 30
    assert max(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss, before) < 1_600_000  # kilobytes


@pytest.mark.parametrize(
    ("document", "why"),
    [
        ({"rows": []}, "“rows” has nothing in it"),
        ({"rows": [{"reading": [1]}]}, "in row 1, the field “readings” is missing"),
        ({"rows": [{"readings": [[1]]}]}, "in row 1, “readings”, item 1, only numbers and text"),
        ([1, 2], "an object with a list “rows”"),
        ({"rows": [{"readings": [1]}] * 60_000}, "“rows” has more than 50,000 rows"),
    ],
)
def test_json_of_another_form_says_where_it_differs(document: object, why: str) -> None:
    with pytest.raises(IntakeError, match=why):
        understand(json.dumps(document))


def test_a_table_that_would_fill_the_memory_is_refused() -> None:
    wide = "\t".join(["x"] * 1500)
    with pytest.raises(IntakeError, match="1,501,500 cells; 1,000,000 are the most"):
        understand("\n".join([wide, *(["1"] * 1000)]))


@given(st.lists(st.lists(st.text("ab1.,\t ", max_size=4), min_size=1, max_size=6), min_size=1, max_size=6))
@QUICK
def test_turning_twice_is_as_it_was(rows: list[list[str]]) -> None:
    width = max(map(len, rows))
    assert turned(turned(rows)) == [row + [""] * (width - len(row)) for row in rows]


@given(
    st.sampled_from(sorted(SIZES.values())[:3]),
    st.data(),
    st.sampled_from(["\t", ",", ";"]),
    st.booleans(),
    st.booleans(),
)
@QUICK
def test_a_plate_written_as_readers_print_it_is_read_back(size, data, separator, letters, points) -> None:  # type: ignore[no-untyped-def]
    rows, columns = size
    decimal = "." if points or separator == "," else ","
    value = st.one_of(st.floats(0, 4).map(lambda x: f"{x:.4f}"), st.just(""), st.just("OVER"))
    cells = data.draw(st.lists(st.lists(value, min_size=columns, max_size=columns), min_size=rows, max_size=rows))
    cells[0][0], cells[-1][-1] = "0.1234", "3.9876"
    lines = [separator.join([""] * letters + [str(c + 1) for c in range(columns)])]
    lines += [
        separator.join([row_letters(r)] * letters + [cell.replace(".", decimal) for cell in row])
        for r, row in enumerate(cells)
    ]
    readings = understand("\n".join(lines)).readings
    assert readings is not None and [(p.rows, p.columns) for p in readings.plates] == [size]
    flat = [cell for row in cells for cell in row]
    meant = {"": Meaning.MISSING, "OVER": Meaning.ABOVE}
    assert [r.meaning for r in readings.readings] == [meant.get(cell, Meaning.NUMBER) for cell in flat]
    assert [r.value for r in readings.readings] == [None if cell in meant else float(cell) for cell in flat]


names = st.text(st.characters(categories=("Lu", "Ll")), min_size=1, max_size=8).filter(lambda s: s.lower() != "blank")
numbers = st.one_of(st.floats(-1e6, 1e6, allow_subnormal=False), st.none())


@given(st.lists(st.tuples(names, st.lists(numbers, min_size=1, max_size=3)), min_size=2, max_size=8))
@QUICK
def test_our_own_json_is_read_back_to_the_last_digit(rows: list[tuple[str, list[float | None]]]) -> None:
    rows = [("first", [1.5, 2.5]), *rows]
    document = {"rows": [{"name": f"{name} x", "level": i + 0.1, "readings": r} for i, (name, r) in enumerate(rows)]}
    readings = understand(json.dumps(document)).readings
    assert readings is not None
    wanted = [v for _, r in rows for v in r if v is not None]
    assert [r.value for r in readings.readings if r.value is not None] == wanted


cells = st.one_of(
    st.text(max_size=6),
    st.sampled_from(["A", "B", "1", "2", "12", "Well", "A1", "H12", "450 nm", "Conc", "OVER", "Plate 2"]),
    st.floats(-10, 10).map(lambda x: f"{x:.2f}"),
)  # fmt: skip


@given(
    st.lists(st.lists(cells, max_size=14), max_size=14),
    st.sampled_from(["\t", ","]),
    st.sampled_from([None, "plate", "table"]),
)
@settings(max_examples=300)
def test_no_grid_breaks_the_reader(rows, separator, shape) -> None:  # type: ignore[no-untyped-def]
    text = "\n".join(separator.join(row) for row in rows)
    try:
        intake = understand(text, Choices(shape=shape))
    except IntakeError as error:
        assert str(error)
        return
    found = intake.understanding
    assert found.ready == (intake.readings is not None)
    assert found.ready or any(s.state == "stop" for s in found.statements)


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("1\t2", "at least two rows"),
        ("1\t2\n1\t3\n2\t4", "two values for the same x"),
        ("mS/cm\tpsu\n1\t2\nx\t3", "Row 3"),
        ("1\t2\t3\n2\t3\t4", "not two numbers"),
    ],
)
def test_a_look_up_table_that_is_none_says_why(text: str, why: str) -> None:
    with pytest.raises(IntakeError, match=why):
        read_lookup("salinity", text)


def test_a_look_up_table_takes_its_units_from_the_headings() -> None:
    table = read_lookup("salinity", "Conductivity (mS/cm);Salinity (psu)\n10,5;6\n20,5;12,3\n")
    assert (table.x, table.y, table.x_unit, table.y_unit) == ((10.5, 20.5), (6.0, 12.3), "mS/cm", "psu")

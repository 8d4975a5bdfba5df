"""Files read a part at a time: the same numbers as a short table of the same text, whatever is odd in them."""

import io
from collections.abc import Callable
from datetime import UTC, datetime, timedelta

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose, assert_array_equal
from pyarrow import parquet

from dosis.core.arrays import Array
from dosis.intake import long_files
from dosis.intake.long_files import long_sheet
from dosis.intake.text import HEAD, IntakeError
from dosis.intake.understand import understand, understand_sheets
from dosis.intake.understanding import Choices, Intake
from dosis.run.recording import Recording

N = 2 * HEAD


def read(data: bytes, choices: Choices | None = None, *, look_only: bool = False) -> Intake:
    sheet = long_sheet("probe", io.BytesIO(data), (choices or Choices()).separator)
    return understand_sheets([sheet], choices, look_only=look_only)


def numbers(found: Intake) -> Recording:
    assert found.readings is not None
    return found.readings.curves


def said(found: Intake, id: str) -> str:
    return next((each.text for each in found.understanding.statements if each.id == id), "")


def table(n: int = N, *, end: str = "\n", sign: str = ",", point: str = ".", extra: Callable[[int], str] = str) -> str:
    rows = [f"{i / 10:.1f}{sign}{np.sin(i):.5f}{sign}{i % 7}".replace(".", point) + extra(i) for i in range(n)]
    return end.join([sign.join(("Time (s)", "Probe (V)", "Depth (V)")), *rows]) + end


@pytest.fixture(autouse=True)
def short_parts(monkeypatch: pytest.MonkeyPatch) -> None:
    """Parts end in the middle of lines, and of letters."""
    monkeypatch.setattr(long_files, "TEXT_PART", 4_999)
    monkeypatch.setattr(long_files, "ROWS_PART", 333)


def nothing(_: int) -> str:
    return ""


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
@pytest.mark.parametrize(("sign", "point"), [(",", "."), (";", ","), ("\t", ".")])
@pytest.mark.parametrize("end", ["\n", "\r\n"])
def test_text_is_read_as_a_short_table_is(encoding: str, sign: str, point: str, end: str) -> None:
    text = table(end=end, sign=sign, point=point, extra=lambda i: f"{sign}µ {i}" if i in (3, N - 5) else sign)
    text = text.replace("(V)" + end, f"(V){sign}Comment" + end, 1)
    long, short = read(text.encode(encoding)), understand(text)
    assert_array_equal(numbers(long).x, numbers(short).x)
    assert_array_equal(numbers(long).y, numbers(short).y)
    assert long.readings is not None and short.readings is not None
    assert long.readings.axis == short.readings.axis
    assert [mark.text for mark in long.readings.axis.marks] == ["µ 3", f"µ {N - 5}"]  # type: ignore[union-attr]


def test_what_is_said_before_it_is_read_speaks_of_all() -> None:
    found = read(table(extra=nothing).encode(), look_only=True)
    assert found.understanding.question == "recording" and found.understanding.ready
    assert "About 4,000 rows" in said(found, "beyond") and "read when the run is opened" in said(found, "beyond")
    assert "about 4,000 samples" in said(found, "courses")
    assert f"**{N:,} rows** in all" in said(read(table(extra=nothing).encode()), "beyond").replace("4,000", f"{N:,}")


def test_rows_of_other_widths_and_empty_lines_are_no_loss() -> None:
    """A comment that only some rows have, lines left empty in the middle, and more of them at the end."""
    text = table(extra=lambda i: ",here" if i == N - 9 else "\n" if i == N - 100 else "") + "\n\n\n"
    found = read(text.replace("(V)\n", "(V),Comment\n", 1).encode())
    assert numbers(found).x.size == N and not np.isnan(numbers(found).y).any()
    assert found.readings is not None and found.readings.axis is not None
    assert [(mark.x, mark.text) for mark in found.readings.axis.marks] == [((N - 9) / 10, "here")]
    assert not said(found, "odd_beyond")


def test_cells_that_are_no_numbers_are_gaps_that_are_told() -> None:
    rows = table(extra=nothing).splitlines()
    rows[3_001] = rows[3_001].split(",")[0] + ",fault,1"
    rows[3_500] = rows[3_500].split(",")[0] + ",nan,1"
    found = read("\n".join(rows).encode())
    assert np.flatnonzero(np.isnan(numbers(found).y[0])).tolist() == [3_000, 3_499]
    assert "2 cells beyond the rows shown" in said(found, "odd_beyond") and "row 3,002" in said(found, "odd_beyond")


@pytest.mark.parametrize(("share", "refused"), [(0.29, False), (0.31, True)])
def test_many_of_them_are_refused(share: float, refused: bool) -> None:
    """A tenth of the cells of a table of three columns is three tenths of one of them."""
    beyond = N - HEAD + 1
    every = int(share * beyond)
    rows = table(extra=nothing).splitlines()
    for i in range(HEAD, HEAD + every):
        rows[i] = rows[i].split(",")[0] + ",fault,1"
    if refused:
        with pytest.raises(IntakeError, match=r"no plain numbers, the first in row 2,001: too many"):
            read("\n".join(rows).encode())
    else:
        assert int(np.isnan(numbers(read("\n".join(rows).encode())).y[0]).sum()) == every


def test_times_may_go_down_or_be_none() -> None:
    rows = table(extra=nothing).splitlines()
    rows[3_000] = "," + rows[3_000].partition(",")[2]
    found = read("\n".join([rows[0], *rows[:0:-1]]).encode())
    assert numbers(found).x.size == N - 1 and (np.diff(numbers(found).x) > 0).all()
    assert "in row 1002" in said(found, "without_place")


def test_tables_that_are_no_curves_are_refused() -> None:
    text = "Name,Conc (µM),A450\n" + "".join(f"Tank {i},,{i}\n" for i in range(N))
    with pytest.raises(IntakeError, match="Only courses over time can be that long"):
        read(text.encode())


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "no row"), (b"\x00\x01\x02\x03" * 4_000, "not text"), (b"PK\x03\x04" + b"x" * 99, "workbook"),
        (b'Time (s),A\n1,"a\nb"\n' + b"2,3\n" * N, "runs over the end of a line"),
        (b"\x93NUMPY\x01\x00junk", "no array"), (b"PAR1" + b"x" * 50, "damaged"),
    ],
)  # fmt: skip
def test_what_is_no_long_table_is_refused_in_a_sentence(data: bytes, said: str) -> None:
    with pytest.raises(IntakeError, match=said):
        read(data)


# Arrays and Parquet


def saved(array: object, **options: bool) -> bytes:
    file = io.BytesIO()
    np.save(file, array, **options)  # type: ignore[arg-type]
    return file.getvalue()


def columns(n: int = N, kind: str = "f8") -> Array:
    t = np.arange(n) / 8
    return np.column_stack((t, np.sin(t), np.cos(t))).astype(kind)


@pytest.mark.parametrize("kind", ["<f8", ">f4", "<i4"])
@pytest.mark.parametrize("form", ["rows", "fortran", "channels", "named"])
def test_arrays_are_read_in_every_order(form: str, kind: str) -> None:
    wanted = (100 * columns()).astype(kind)
    wanted[:, 0] = np.arange(N)
    forms = {
        "rows": wanted, "fortran": np.asfortranarray(wanted), "channels": np.ascontiguousarray(wanted.T),
        "named": np.rec.fromarrays(list(wanted.T), names="time,a,b"),
    }  # fmt: skip
    found = numbers(read(saved(forms[form])))
    assert_array_equal(found.x, wanted[:, 0])
    assert_array_equal(found.y, wanted[:, 1:].T)


@pytest.mark.parametrize("n", [5, HEAD - 1, HEAD, HEAD + 1])
def test_an_array_with_no_rising_column_counts_its_samples(n: int) -> None:
    found = read(saved(np.cos(np.arange(float(n)))), Choices(question="recording"))
    assert_array_equal(numbers(found).x, np.arange(n))
    assert "Time has no unit" in said(found, "axis")
    assert_allclose(numbers(found).y[0], np.cos(np.arange(n)), rtol=1e-14)


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (saved(np.array(["a", "b"])), "plain numbers"), (saved(np.zeros((2, 2, 2))), "rows and columns"),
        (saved(np.array([1j, 2])), "plain numbers"), (saved(np.array([{}, None]), allow_pickle=True), "plain numbers"),
        (saved(columns())[:-8], "cut short"), (saved(np.zeros((0, 3))), "no row"),
        (saved(np.zeros((6_000, 6_000), dtype="i1")), "6,001 columns"),
    ],
)  # fmt: skip
def test_other_arrays_are_refused(data: bytes, said: str) -> None:
    with pytest.raises(IntakeError, match=said):
        read(data)


def test_parquet_is_read_with_its_times_words_and_gaps() -> None:
    start = datetime(2026, 5, 4, 6, tzinfo=UTC)
    probe = pa.array([None if i in (2_500, 10) else i % 5 for i in range(N)], pa.int16())
    notes = pa.array(["low water" if i == 3_000 else None for i in range(N)], pa.string())
    made = pa.table({
        "Time": pa.array([start + timedelta(milliseconds=250 * i) for i in range(N)], pa.timestamp("ms", tz="UTC")),
        "Probe (V)": probe, "Comment": notes.dictionary_encode(),
    })  # fmt: skip
    file = io.BytesIO()
    parquet.write_table(made, file, row_group_size=777)
    found = read(file.getvalue())
    assert found.understanding.question == "recording"
    assert_allclose(numbers(found).x, np.arange(N) / 4)
    assert np.flatnonzero(np.isnan(numbers(found).y[0])).tolist() == [10, 2_500]
    assert found.readings is not None and found.readings.axis is not None
    assert [(mark.x, mark.text) for mark in found.readings.axis.marks] == [(750.0, "low water")]
    broken = bytearray(file.getvalue())
    broken[100:140] = b"\x00" * 40
    with pytest.raises(IntakeError, match="damaged"):
        read(bytes(broken))
    nested = io.BytesIO()
    parquet.write_table(pa.table({"Time (s)": [1.0, 2.0], "A": [[1], [2]]}), nested)
    with pytest.raises(IntakeError, match="“A” holds list"):
        read(nested.getvalue())


@given(
    st.lists(
        st.tuples(st.sampled_from(["1.5", "-2e-3", "", "nan", "1,5", "x", " 7 ", "+.5", "12 V"]), st.integers(0, 9)),
        min_size=1, max_size=30,
    )
)  # fmt: skip
@settings(max_examples=40)
def test_any_cells_are_read_as_in_a_short_table(cells: list[tuple[str, int]]) -> None:
    """Whatever stands in the rows beyond: the same number or gap as where it is understood cell by cell."""
    head = [f"{i},1.25,{i % 3}" for i in range(HEAD)]
    rest = [f"{HEAD + i},{cell.replace(',', '.')},{more}" for i, (cell, more) in enumerate(cells)]
    text = "\n".join(["Time (s),Probe (V),Depth (V)", *head, *rest])
    short = understand(text, Choices(question="recording"))
    try:
        long = read(text.encode(), Choices(question="recording"))
    except IntakeError as error:
        assert "too many" in str(error)
    else:
        assert_array_equal(numbers(long).y, numbers(short).y)


def test_a_long_paste_may_have_quotes_within_its_lines() -> None:
    rows = [f'{i},{i % 9},"{"rain, then sun" if i == 50_500 else ""}"' for i in range(51_000)]
    found = understand("\n".join(['"Time (s)","Probe (V)","Comment"', *rows]))
    assert found.readings is not None and found.readings.axis is not None
    assert found.readings.axis.count == 51_000
    assert [(mark.x, mark.text) for mark in found.readings.axis.marks] == [(50_500.0, "rain, then sun")]

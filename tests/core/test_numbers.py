"""Numbers as typed, units and numbers as shown."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dosis.core.numbers import LARGEST, Decimal, Meaning, guess_decimal, parse_number, parse_numbers
from dosis.core.rounding import fixed, significant, with_interval
from dosis.core.units import UnitError, convert, is_unit


@pytest.mark.parametrize(
    ("text", "decimal", "value", "unit"),
    [
        ("0.143", ".", 0.143, ""),
        (" −0.5 ", ".", -0.5, ""),
        ("3,1 mg/L", ",", 3.1, "mg/L"),
        ("0.5µM", ".", 0.5, "µM"),
        ("1,234.5", ".", 1234.5, ""),
        ("1.234,5", ",", 1234.5, ""),
        ("12 345.6", ".", 12345.6, ""),
        ("12\u202f345,6", ",", 12345.6, ""),
        ("1e-3", ".", 1e-3, ""),
        ("2 × 10⁻³ M", ".", 2e-3, "M"),
        ("5 %", ".", 5.0, "%"),
        (".5", ".", 0.5, ""),
    ],
)
def test_numbers_are_read_as_typed(text: str, decimal: str, value: float, unit: str) -> None:
    number = parse_number(text, decimal)
    assert (number.meaning, number.value, number.unit) == (Meaning.NUMBER, value, unit)


@pytest.mark.parametrize(
    ("text", "meaning", "value"),
    [
        ("OVER", Meaning.ABOVE, None), ("> 4.0", Meaning.ABOVE, 4.0), ("OVRFLW", Meaning.ABOVE, None),
        ("<0.05", Meaning.BELOW, 0.05), ("under", Meaning.BELOW, None),
        ("", Meaning.MISSING, None), ("–", Meaning.MISSING, None), ("n/a", Meaning.MISSING, None),
        ("Pier N", Meaning.TEXT, None), ("1.2.3", Meaning.TEXT, None), ("1e999", Meaning.TEXT, None),
        ("1e-400", Meaning.TEXT, None),
        ("3,1", Meaning.TEXT, None), ("1:5", Meaning.TEXT, None),
    ],
)  # fmt: skip
def test_cells_that_are_no_numbers_keep_what_they_mean(text: str, meaning: Meaning, value: float | None) -> None:
    number = parse_number(text)
    assert (number.meaning, number.value) == (meaning, value)


@given(st.floats(-LARGEST, LARGEST))
def test_any_float_reads_back_as_itself_with_either_decimal_sign(value: float) -> None:
    assert parse_number(repr(value)).value == value
    assert parse_number(repr(value).replace(".", ","), ",").value == value


@given(st.text(max_size=40))
def test_no_text_breaks_the_reader_or_becomes_an_infinity(text: str) -> None:
    for decimal in (".", ","):
        number = parse_number(text, decimal)
        assert number.value is None or abs(number.value) <= LARGEST


def test_a_number_larger_than_anything_that_is_read_is_text() -> None:
    """An instrument's mark of an overflow (9.9e37) is still a number: what its manual says of it is for a person."""
    assert (parse_number("1e100").value, parse_number("-9.9E+37").value) == (1e100, -9.9e37)
    for text in ("1e101", "-2e100", "1e308", "1e400"):
        assert parse_number(text).meaning is Meaning.TEXT


def test_decimal_sign_is_guessed_from_the_whole_table() -> None:
    assert guess_decimal(["0,143", "0,147", "Pier N"]) == ","
    assert guess_decimal(["0.143", "1,234.5"]) == "."
    assert guess_decimal(["1.234,5"]) == ","
    assert guess_decimal(["1,234", "Std 1"]) == "."  # three digits after it: thousands


def test_units_are_converted_within_their_kind_and_refused_across() -> None:
    """1 mg/L = 1000 µg/L (SI prefixes)."""
    assert convert(500, "ug/L", "mg/L") == 0.5
    assert convert(2, "mM", "µM") == 2000
    with pytest.raises(UnitError, match=r"mg/L.*µM"):
        convert(1, "mg/L", "µM")
    assert all(map(is_unit, ("µM", "uM", "mg/L", "ng/mL", "%", "mol/L", "ppm")))
    assert not any(map(is_unit, ("rep 1", "N", "or so", "x")))


@pytest.mark.parametrize(
    ("value", "lower", "upper", "shown"),
    [
        (0.7160037, 0.0189916, 1.3815729, ("0.72", "0.019", "1.38")),
        (5.0, 0.9, 300.0, ("5.0", "0.90", "300")),
        (5.0, None, 300.0, ("5.0", "none", "300")),
        (5.0, 0.51, 5.09, ("5.0", "0.5", "5.1")),
        (17.8412, 17.7581, 17.9252, ("17.841", "17.758", "17.925")),
        (1234.5, 1100.0, 1369.0, ("1230", "1100", "1370")),
        (-0.00012, -0.0015, 0.0013, ("−0.0001", "−0.0015", "0.0013")),
        (5.0, None, None, ("5.000", "none", "none")),
        (9.51, 9.4103, 9.6099, ("9.51", "9.41", "9.61")),
    ],
)
def test_an_interval_decides_the_digits_of_its_value(value, lower, upper, shown) -> None:
    """Interval to two significant digits, value to the same place (GUM 7.2.6: uncertainties to two digits).

    Where the three span more than a power of ten, none has fewer than two digits; up to that, the place decides.
    """
    assert with_interval(value, lower, upper) == shown


def test_shown_numbers_keep_sign_and_magnitude() -> None:
    assert fixed(-0.0004, 2) == "0.00"
    assert significant(-4.11366e-5, 6) == "−4.11366 × 10⁻⁵"
    assert significant(0.0341179, 6) == "0.0341179"
    assert significant(0) == "0"


@given(st.lists(st.text("ab1.,µ -<>n/OVER²٣\n", max_size=6) | st.text(max_size=4)), st.sampled_from([".", ","]))
@settings(max_examples=300)
def test_a_column_is_read_as_its_cells_are(cells: list[str], decimal: Decimal) -> None:
    assert parse_numbers(cells, decimal) == tuple(parse_number(cell, decimal) for cell in cells)

"""Interpolation, look-up tables, derived columns, standards and solutions."""

import re

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.testing import assert_allclose
from scipy.interpolate import PchipInterpolator

from dosis.core import solutions
from dosis.core.columns import derive
from dosis.core.expressions import ExpressionError
from dosis.core.inference.read_back import Flag
from dosis.core.interpolation import interpolate, lookup_table
from dosis.core.models import choices
from dosis.core.units import UnitError

X, Y = np.array([0.5, 1, 2, 4, 8, 16]), np.array([0.05, 0.3, 0.7, 1.2, 1.45, 1.5])


def test_the_monotone_curve_is_that_of_an_independent_library() -> None:
    """scipy's PCHIP."""
    at = np.linspace(0.5, 16, 200)
    assert_allclose(interpolate("interpolation_monotone", X, Y).predict(at), PchipInterpolator(X, Y)(at), rtol=1e-12)
    wavy = np.array([0.0, 1, 0, 0, 2, -1])
    assert_allclose(
        interpolate("interpolation_monotone", X, wavy).predict(at), PchipInterpolator(X, wavy)(at), atol=1e-12
    )


@pytest.mark.parametrize("kind", ["interpolation_linear", "interpolation_log", "interpolation_monotone"])
def test_reading_back_turns_reading_forward_round(kind: str) -> None:
    curve = interpolate(kind, np.repeat(X, 2), np.repeat(Y, 2) + np.tile([0.001, -0.001], 6))
    for x in (0.5, 0.7, 3.0, 15.9, 16.0):
        back = curve.read_back(float(curve.predict(x)[0]))
        assert_allclose(back.estimate, x, rtol=1e-9)
        assert back.lower is None
    assert curve.read_back(2.0).flag is Flag.ABOVE_RANGE
    assert curve.read_back(0.01).flag is Flag.BELOW_RANGE
    assert np.isnan(curve.predict([0.4, 17])).all()


def test_what_has_no_one_answer_is_flagged() -> None:
    hill = interpolate("interpolation_linear", [1, 2, 3], [0, 1, 0])
    assert hill.read_back(0.5).flag is Flag.AMBIGUOUS
    assert interpolate("interpolation_linear", [1, 2], [3, 3]).read_back(3).flag is Flag.FLAT
    with pytest.raises(ValueError, match="above zero"):
        interpolate("interpolation_log", [0, 1], [1, 2])
    with pytest.raises(ValueError, match="at least 2 different x"):
        interpolate("interpolation_linear", [1, 1], [1, 2])


def test_a_table_is_read_either_way_and_never_beyond_its_ends() -> None:
    """Vapor pressure of water, mmHg (handbook values, from memory)."""
    table = lookup_table("water", [0, 10, 20, 30], [4.58, 9.21, 17.54, 31.82])
    assert_allclose(table.forward([10, 15]), [9.21, 13.375])
    assert_allclose(table.backward(13.375).estimate, 15)
    assert np.isnan(table.forward(31)[0])
    assert table.backward(40).flag is Flag.ABOVE_RANGE
    with pytest.raises(ValueError, match="two values for the same x"):
        lookup_table("twice", [1, 1, 2], [1, 2, 3])


def test_every_choice_has_a_picture_and_its_place() -> None:
    found = choices()
    assert [c.shape for c in found] == sorted(
        (c.shape for c in found),
        key=[
            "straight",
            "saturating",
            "sigmoid",
            "threshold",
            "growing",
            "decaying",
            "peaked",
            "point to point",
            "own equation",
        ].index,
    )
    for choice in found:
        if choice.id != "custom":
            x, y = np.array(choice.picture)
            assert x.min() == 0 and x.max() == 1
            assert y.min() == pytest.approx(0) and y.max() == pytest.approx(1)


def test_derived_columns_in_ordinary_notation() -> None:
    found = derive("-log10(T/100)", {"T": [10, 100, 0, np.nan]})
    assert_allclose(found.values, [1, 0, np.nan, np.nan])
    assert found.undefined == (2,)  # the empty cell is not a mistake, the zero is
    table = {"A 450": [1.0, 2, 3], "A 620": [0.1, 0.1, np.nan], "t": [0.0, 1, 2]}
    assert_allclose(derive("{A 450} - {A 620}", table).values, [0.9, 1.9, np.nan])
    assert_allclose(derive("{A 450} - first({A 450})", table).values, [0, 1, 2])
    assert_allclose(derive("({A 450} - mean({A 450}))/(last(t) - first(t))", table).values, [-0.5, 0, 0.5])
    assert_allclose(derive("mean({A 450}, {A 620}) + max(t, 1, 0.5)", table).values, [1.55, 2.05, np.nan])
    assert_allclose(derive("min({A 620})", table).values, [0.1] * 3)
    water = lookup_table("water", [0, 10, 20], [4.58, 9.21, 17.54])
    assert_allclose(derive("2*lookup(water, t*10)", table, tables={"water": water}).values, [9.16, 18.42, 35.08])
    back = derive("lookback(water, lookup(water, t*10))", table, tables={"water": water}).values
    assert_allclose(back, 10 * np.asarray(table["t"]), rtol=1e-12)
    assert np.isnan(derive("lookback(water, 99 + t)", table, tables={"water": water}).values).all()


@pytest.mark.parametrize(
    ("expression", "error", "said"),
    [
        ("B + 1", ValueError, "no column “B”. The columns are: A, {A 2}"),
        ("A +", ExpressionError, "The expression ends"),
        ("first(A, A)", ExpressionError, "takes 1 value; here are 2"),
        ("open(A)", ExpressionError, "no function “open”"),
        ("A + {A 2}", UnitError, "do not go together"),
        ("ln(A)", UnitError, "do not go together"),
    ],
)
def test_mistakes_in_an_expression_are_said_in_words(expression: str, error: type, said: str) -> None:
    with pytest.raises(error, match=said):
        derive(expression, {"A": [1, 2], "A 2": [3, 4]}, units={"A": "mg/L", "A 2": "µM"})


@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        ("lookup(t, water)", "lookup needs a look-up table first"),
        ("1 + water", "use it as lookup(water, x)"),
        ("lookup(water, water)", "“water” is a look-up table"),
        ("exp(water)", "“water” is a look-up table"),
    ],
)
def test_a_look_up_table_in_the_wrong_place_is_said(wrong: str, said: str) -> None:
    with pytest.raises(ValueError, match=re.escape(said)):
        derive(wrong, {"t": [0.0, 1, 2]}, tables={"water": lookup_table("water", [0, 10], [4, 9])})


def test_units_follow_the_expression_where_they_are_known() -> None:
    columns = {"m": [1.0], "v": [2.0], "a": [3.0]}
    assert derive("m/v", columns, units={"m": "mg", "v": "mL"}).unit == "mg/mL"
    assert derive("m/v", columns, units={"m": "mg"}).unit is None
    assert derive("a/a", columns, units={"a": "AU"}).unit in ("", None)


def test_a_serial_dilution_and_its_refusals() -> None:
    assert solutions.serial_dilution(100, 3, 4, zero_at_end=True) == pytest.approx([100, 100 / 3, 100 / 9, 100 / 27, 0])
    for arguments in ((0, 2, 3), (1, 1, 3), (1, 2, 0)):
        with pytest.raises(ValueError, match="dilution"):
            solutions.serial_dilution(*arguments)


def test_solutions_by_weight_and_from_stock() -> None:
    """KH2PO4, 136.086 g/mol: 0.1361 g of 99.5 % in 1 L is 0.9951 mmol/L (molar mass from memory)."""
    assert_allclose(solutions.molar(0.1361, 136.086, 1, purity=0.995).value, 0.000995103, rtol=1e-5)
    assert "÷" in solutions.by_weight(5, 2, purity=0.5).working
    assert solutions.from_stock(10, 2, 50).value == pytest.approx(0.4)
    assert_allclose(solutions.mass_to_molar(solutions.molar_to_mass(0.3, 311.33), 311.33), 0.3)
    with pytest.raises(ValueError, match="cannot be made up"):
        solutions.from_stock(10, 60, 50)
    with pytest.raises(ValueError, match="molar mass must be above zero"):
        solutions.molar(1, 0, 1)


@given(
    st.floats(1, 1e4), st.lists(st.floats(1e-4, 1), min_size=1, max_size=8), st.floats(0.001, 0.05),
)  # fmt: skip
def test_a_pipetting_plan_makes_every_level_with_volumes_a_pipette_has(
    stock: float, shares: list[float], smallest: float
) -> None:
    levels = [stock * share for share in shares]
    steps = solutions.plan(stock, levels, 1.0, smallest=smallest)
    made = {stock}
    for step in steps:
        assert step.source in made
        assert step.volume >= smallest * (1 - 1e-9)
        assert_allclose(step.volume + step.diluent, 1.0)
        assert_allclose(step.source * step.volume, step.level, rtol=1e-9)
        made.add(step.level)
    assert set(levels) <= made

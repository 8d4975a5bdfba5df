"""Axes: ends that hold the data, ticks of one notation, and room between."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dosis.output.figures.ticks import Scale, scaled
from dosis.run.look import AxisLook

FINITE = st.floats(-1e9, 1e9).filter(lambda x: x == 0 or abs(x) > 1e-9)


@given(st.lists(FINITE, min_size=1, max_size=8), st.integers(2, 8))
def test_a_linear_axis_holds_the_data_and_has_even_ticks(values: list[float], room: int) -> None:
    made = scaled(values, AxisLook(), log=False, room=room)
    assert made.low <= min(values) and max(values) <= made.high
    assert 1 <= len(made.ticks) <= 2 * room + 2
    gaps = [b.at - a.at for a, b in zip(made.ticks, made.ticks[1:], strict=False)]
    assert all(gap == pytest.approx(gaps[0], rel=1e-6) for gap in gaps)
    assert len({tick.text.partition(".")[2].__len__() for tick in made.ticks}) == 1  # decimals alike
    assert len({tick.text for tick in made.ticks}) == len(made.ticks)


@given(st.lists(st.floats(1e-12, 1e12), min_size=1, max_size=8), st.booleans(), st.integers(2, 8))
def test_a_log_axis_holds_the_data_and_its_zero(values: list[float], zero: bool, room: int) -> None:
    made = scaled([*values, *([0.0] if zero else [])], AxisLook(), log=True, room=room)
    assert made.log and made.low <= min(values) and max(values) <= made.high
    assert (made.zero_at is not None) is zero
    if zero:
        assert made.ticks[0].text == "0" and 0 < made.fraction(0.0) < made.fraction(min(values))
    powers = ["^" in tick.text for tick in made.ticks if tick.text != "0"]
    assert all(powers) or not any(powers)  # never 1e-7 beside 0.000001


def texts(made: Scale) -> list[str]:
    return [tick.text for tick in made.ticks]


def test_ticks_in_plain_cases() -> None:
    assert texts(scaled([0, 20], AxisLook(), log=False, room=5)) == ["0", "5", "10", "15", "20"]
    assert texts(scaled([-1.2, 2.7], AxisLook(), log=False, room=5)) == ["−1", "0", "1", "2", "3"]
    assert texts(scaled([0.01, 100], AxisLook(), log=True, room=6)) == ["0.01", "0.1", "1", "10", "100"]
    assert texts(scaled([1e-7, 1e-5], AxisLook(), log=True, room=6)) == ["10^{−7}", "10^{−6}", "10^{−5}"]
    assert texts(scaled([2.0, 9.0], AxisLook(), log=True, room=6)) == ["2", "5", "10"]
    large = scaled([0, 4.2e6], AxisLook(), log=False, room=5)
    assert (texts(large), large.power) == (["0", "1", "2", "3", "4"], 6)


@pytest.mark.parametrize(("largest", "power"), [(99_999, 0), (100_001, 5)])
def test_a_power_is_taken_out_from_a_hundred_thousand(largest: float, power: int) -> None:
    assert scaled([0, largest], AxisLook(high=largest), log=False, room=5).power == power


@pytest.mark.parametrize(("low", "zero"), [(0.29, True), (0.31, False)])
def test_zero_is_shown_where_it_is_near(low: float, zero: bool) -> None:
    assert (scaled([low, 1.0], AxisLook(), log=False, room=5).low == 0) is zero


def test_what_is_chosen_holds() -> None:
    made = scaled([0, 1], AxisLook(low=400, high=700, every=50, decimals=1), log=False, room=5)
    assert (made.low, made.high) == (400, 700)
    assert texts(made)[:2] == ["400.0", "450.0"] and len(made.ticks) == 7
    powers = scaled([0.1, 10], AxisLook(numbers="powers"), log=True, room=5)
    assert texts(powers) == ["10^{−1}", "10^{0}", "10^{1}"]
    crowded = scaled([0, 1], AxisLook(every=1e-6), log=False, room=5)
    assert len(crowded.ticks) < 20  # more ticks than anybody reads are not drawn


def test_an_axis_ends_above_where_it_begins() -> None:
    with pytest.raises(ValueError, match="end above where it begins"):
        AxisLook(low=2, high=2)
    assert math.isnan(scaled([1, 10], AxisLook(), log=True, room=4).fraction(-1.0))


@pytest.mark.parametrize("values", [[1.0, 5.0, 9.0], [0.0, 3.0], [2.0], [], [-5.0, 1e-9]])
@pytest.mark.parametrize(
    "look",
    [
        {"every": 6795849852113375.0},
        {"every": 5e-324},
        {"high": -6.479802640178531e99},
        {"low": 1e99},
        {"low": -1e-320},
    ],
)
@pytest.mark.parametrize("log", [False, True])
def test_odd_ends_and_distances_still_make_an_axis(values: list[float], look: dict[str, float], log: bool) -> None:
    made = scaled(values, AxisLook(**look), log=log, room=5)
    assert made.low < made.high and len(made.ticks) <= 61
    if "every" in look and not log and values:
        assert made.low <= min(values) and made.high >= max(values)
        assert made.high - made.low < 100

"""Control charts and precision over runs against published data, and each run rule on both sides of its threshold."""

import math
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from dosis.core.control_charts import RULES, limits, of, signals
from dosis.core.precision import precision
from tests.conftest import reference

# NIST/SEMATECH e-Handbook of Statistical Methods, 6.3.2.2, flow rates; limits as printed there (from memory).
FLOW = (49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1)


def test_individuals_chart_of_the_handbook() -> None:
    held = limits(FLOW)
    assert held.center == pytest.approx(50.81)
    assert held.ranges_mean == pytest.approx(1.8778, abs=5e-5)
    # The handbook divides by 1.128, which is 2/√π rounded.
    assert (held.at(3), held.at(-3)) == pytest.approx((55.8041, 45.8159), abs=2e-3)
    assert held.ranges_upper == pytest.approx(3.267 * 1.8778, rel=1e-3)  # D4 of two values, as in every table
    assert signals(FLOW, held) == []


BOTH_SIDES = [
    ("beyond", [0.1, 3.01, -0.1], [0.1, 2.99, -0.1]),
    ("beyond", [0.1, -3.01], [0.1, -2.99]),
    ("side", [0.2, 0.9, 0.3, 0.8, 0.2, 0.9, 0.4, 0.7, 0.1], [0.2, 0.9, 0.3, 0.8, 0.2, 0.9, 0.4, 0.7, -0.1]),
    ("trend", [-0.5, -0.3, -0.1, 0.1, 0.3, 0.5], [-0.5, -0.3, -0.1, 0.1, 0.3, 0.3]),
    ("alternating", [0.5, -0.5] * 7, [0.5, -0.5] * 6 + [0.5]),
    ("two_of_three", [2.1, 0.0, 2.1], [2.1, 0.0, 1.9]),
    ("two_of_three", [-2.1, -2.1], [2.1, 0.0, -2.1]),
    ("four_of_five", [1.1, 1.1, 0.0, 1.1, 1.1], [1.1, 1.1, 0.0, 0.9, 1.1]),
    ("hugging", [0.3, -0.2, 0.4, -0.9, 0.1] * 3, [0.3, -0.2, 0.4, -0.9, 1.1] * 3),
    ("avoiding", [1.1, -1.2, 1.3, -1.1, 1.4, 1.2, -1.3, -1.1], [1.1, -1.2, 1.3, -1.1, 1.4, 0.9, -1.3, -1.1]),
]


@pytest.mark.parametrize(("rule", "broken", "kept"), BOTH_SIDES)
def test_each_rule_on_both_sides_of_its_threshold(rule: str, broken: list[float], kept: list[float]) -> None:
    padded = broken if len(broken) > 2 else [0.0, *broken]
    assert rule in [each.rule for each in signals(padded, of(0.0, 1.0))]
    assert rule not in [each.rule for each in signals(kept, of(0.0, 1.0))]


def test_a_stretch_is_told_once_and_by_its_places() -> None:
    found = signals([-1.0, *[0.5, 0.6] * 6, -1.0], of(0.0, 1.0))
    assert [(each.rule, each.places) for each in found if each.rule == "side"] == [("side", tuple(range(1, 13)))]
    two = [each for each in signals([2.5, 0.0, 2.5, 0.0], of(0.0, 1.0)) if each.rule == "two_of_three"]
    assert [each.places for each in two] == [(0, 2)]


def test_without_spread_only_what_is_off_the_center_is_told() -> None:
    assert signals([5.0, 5.0], of(5.0, 0.0)) == []
    assert [each.places for each in signals([5.0, 5.1], of(5.0, 0.0))] == [(1,)]


@given(st.lists(st.floats(-1e6, 1e6), min_size=2, max_size=40), st.floats(0.1, 100), st.floats(-1e3, 1e3))
def test_rules_do_not_depend_on_the_unit(values: list[float], scale: float, shift: float) -> None:
    held = of(10.0, 2.0)
    moved = [scale * value + shift for value in values]
    # A value within rounding of a limit may fall to either side of it.
    scores = [(value - 10.0) / 2.0 for value in values]
    near = any(abs(abs(z) - k) < 1e-6 for z in scores for k in (0, 1, 2, 3))
    ties = any(abs(a - b) < 1e-6 * max(1, abs(a), abs(b)) for a, b in pairwise(values))
    if not near and not ties:
        told = [(each.rule, each.places) for each in signals(moved, of(10.0 * scale + shift, 2.0 * scale))]
        assert told == [(each.rule, each.places) for each in signals(values, held)]


def test_false_alarms_of_shewharts_rule_are_as_rare_as_they_should_be() -> None:
    values = stats.norm.ppf((stats.qmc.Sobol(1, seed=3).random_base2(14)[:, 0] + 1e-9) % 1).tolist()
    share = sum(len(each.places) for each in signals(values, of(0.0, 1.0)) if each.rule == "beyond") / len(values)
    assert share == pytest.approx(0.0027, abs=2e-4)  # 2 Φ(−3)


@pytest.mark.parametrize("values", [[], [1.0], [1.0, math.nan], [1.0, math.inf]])
def test_limits_refuse_what_has_none(values: list[float]) -> None:
    with pytest.raises(ValueError, match="control chart"):
        limits(values)


def test_every_rule_says_what_it_is() -> None:
    assert all(text and text[0].islower() for text, _ in RULES.values())


def test_within_and_between_of_the_certified_analysis_of_variance() -> None:
    """NIST StRD, AtmWtAg: two instruments, 24 values each; MS within and F as certified, s_L² by ISO 5725-2, 7.4."""
    data = reference("nist_anova_atmwtag")
    groups = [[y for g, y in zip(data["data"]["group"], data["data"]["y"], strict=True) if g == k] for k in (1, 2)]
    expected = data["expected"]
    within = expected["ms_within"] if "ms_within" in expected else expected["ss_within"] / 46
    found = precision(groups)
    assert found.within is not None and found.between is not None and found.total is not None
    assert found.within == pytest.approx(math.sqrt(within), rel=1e-6)
    assert found.between == pytest.approx(math.sqrt(within * (expected["F"] - 1) / 24), rel=1e-6)
    assert found.total == pytest.approx(math.hypot(found.within, found.between))


def test_between_runs_is_zero_where_runs_agree_better_than_readings() -> None:
    found = precision([[1.0, 3.0], [3.0, 1.0], [2.0, 2.0]])
    assert found.between == 0 and found.total == found.within


def test_one_value_a_run_gives_a_total_only() -> None:
    found = precision([[1.0], [2.0], [4.0]])
    assert (found.within, found.between) == (None, None)
    assert found.total == pytest.approx(1.5275, abs=1e-4)
    low, high = stats.t.interval(0.95, 2, loc=7 / 3, scale=1.5275252 / math.sqrt(3))
    assert (found.lower, found.upper) == pytest.approx((low, high), rel=1e-6)


def test_the_interval_is_of_runs_not_of_readings() -> None:
    runs = [[9.8, 9.9, 9.8, 9.9], [10.4, 10.5, 10.4, 10.5], [10.1, 10.0, 10.1, 10.0]]
    found = precision(runs)
    doubled = precision([run * 3 for run in runs])
    assert (found.lower, found.upper) == pytest.approx((doubled.lower, doubled.upper))

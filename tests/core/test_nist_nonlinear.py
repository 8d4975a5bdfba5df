"""Own equations reach the certified minimum of every nonlinear problem of NIST's StRD, from either start.

Source: NIST/ITL Statistical Reference Datasets, Nonlinear Regression (tests/reference/nist_nonlinear.json). Nelson,
with two predictors, is left out.
"""

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from dosis.core.fitting.fit import fit
from dosis.core.fitting.searched import search
from dosis.core.models import custom

SETS: dict[str, dict[str, Any]] = json.loads(Path("tests/reference/nist_nonlinear.json").read_text("utf-8"))["sets"]
DIGITS = 8
# Without any start: peaks on a slope, and eleven-parameter-like sums of periods, are not found by orders of magnitude.
UNFOUND = {"ENSO", "Gauss2", "Gauss3"}


def digits(found: float, certified: float) -> float:
    """The number of digits that agree (LRE, as NIST counts them)."""
    return float(-np.log10(max(abs(found - certified) / abs(certified), 1e-16)))


@pytest.mark.parametrize("start", ["start1", "start2"])
@pytest.mark.parametrize("name", sorted(SETS))
def test_the_certified_minimum_is_reached(name: str, start: str) -> None:
    case = SETS[name]
    given = dict(zip(case["parameters"], case[start], strict=True))
    result = fit(custom(case["formula"]), case["x"], case["y"], start=given)
    for parameter, certified, error in zip(case["parameters"], case["certified"], case["se"], strict=True):
        assert digits(result.named[parameter], certified) >= DIGITS, parameter
        if name != "Lanczos1":  # its residuals are rounding alone
            assert result.parameters[parameter].standard_error == pytest.approx(error, rel=1e-5)


@pytest.mark.parametrize("name", sorted(set(SETS) - UNFOUND))
def test_without_a_start_a_search_finds_it(name: str) -> None:
    case = SETS[name]
    x, y = np.array(case["x"]), np.array(case["y"])
    tried = search(custom(case["formula"]), x, y, np.ones_like(y))
    # Lanczos1 is exact but for rounding, so that its sum of squares says nothing beyond 1e-20.
    assert tried[0].sse <= case["rss"] * (1 + 1e-6) + 1e-20
    assert [each.sse for each in tried] == sorted(each.sse for each in tried)


def test_the_given_start_is_among_those_tried_and_every_end_is_told() -> None:
    case = SETS["Misra1a"]
    x, y = np.array(case["x"]), np.array(case["y"])
    tried = search(custom(case["formula"]), x, y, np.ones_like(y), {"b1": 500.0, "b2": 0.0001})
    assert any(each.start[1] == 0.0001 for each in tried)
    assert all(each.end.shape == each.start.shape == (2,) for each in tried)


def test_what_is_held_stays_and_the_rest_is_searched() -> None:
    case = SETS["Misra1a"]
    held = fit(custom(case["formula"]), case["x"], case["y"], fixed={"b1": 240.0})
    assert held.named["b1"] == 240.0
    x, y = np.array(case["x"]), np.array(case["y"])
    from scipy.optimize import minimize_scalar

    best = minimize_scalar(lambda b: float(np.square(y - 240.0 * (1 - np.exp(-b * x))).sum()), (4e-4, 6e-4), tol=1e-14)
    assert held.named["b2"] == pytest.approx(best.x, rel=1e-6)

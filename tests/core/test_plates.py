"""Edge effects and drifts on a plate, against scipy's tests, and how often they are seen where there are none."""

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import stats

from dosis.core.plates import plate_patterns

ROW, COLUMN = (each.ravel() for each in np.mgrid[0:8, 0:12])
OUTER = (ROW == 0) | (ROW == 7) | (COLUMN == 0) | (COLUMN == 11)


def test_patterns_are_those_of_welch_and_of_a_straight_line() -> None:
    deviation = np.random.default_rng(5).standard_normal(96) + 0.4 * OUTER + 0.1 * COLUMN
    edge, rows, columns = plate_patterns(ROW, COLUMN, deviation, 8, 12)
    welch = stats.ttest_ind(deviation[OUTER], deviation[~OUTER], equal_var=False)
    assert_allclose(edge.size, deviation[OUTER].mean() - deviation[~OUTER].mean(), rtol=1e-12)
    assert_allclose(edge.p_value, welch.pvalue, rtol=1e-9)
    for found, at, steps in ((rows, ROW, 7), (columns, COLUMN, 11)):
        line = stats.linregress(at, deviation)
        assert_allclose((found.size, found.p_value), (line.slope * steps, line.pvalue), rtol=1e-9)
    assert columns.p_value < 0.01 < rows.p_value


def test_a_plate_without_a_pattern_is_called_uneven_as_seldom_as_promised() -> None:
    """Uniform p where nothing is there: 200 plates, three tests each."""
    rng = np.random.default_rng(11)
    found = [plate_patterns(ROW, COLUMN, rng.standard_normal(96), 8, 12) for _ in range(200)]
    p = np.array([pattern.p_value for patterns in found for pattern in patterns])
    assert p.size == 600
    assert stats.kstest(p, "uniform").pvalue > 0.01


def test_too_few_wells_show_no_pattern() -> None:
    assert plate_patterns([0, 0], [0, 1], [1.0, 2.0], 8, 12) == ()
    inside = plate_patterns([1, 1, 1, 1], [1, 2, 3, 4], [1.0, 2.0, 1.5, 2.5], 8, 12)
    assert [pattern.kind for pattern in inside] == ["columns"]
    assert plate_patterns(ROW, COLUMN, np.zeros(96), 8, 12) == ()
    with pytest.raises(ValueError, match="equally many"):
        plate_patterns([1], [1, 2], [0.0], 8, 12)

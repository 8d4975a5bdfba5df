"""Which points of a line are drawn: what stands out of it must be among them, however long it is."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_array_equal

from dosis.run.curves import thinning
from dosis.run.curves.thinning import course_line, course_lines, outline, thinned
from dosis.run.recording import BIN, Recording, extremes_of


@given(st.integers(0, 2**32 - 1), st.integers(1, 3_000), st.integers(8, 400), st.booleans())
@settings(max_examples=60)
def test_every_stretch_keeps_its_ends_and_its_extremes(seed: int, n: int, most: int, smooth: bool) -> None:
    rng = np.random.default_rng(seed)
    x = np.cumsum(rng.uniform(0.1, 2, n))
    y = np.sin(x / 40) if smooth else rng.normal(size=n)
    at = thinned(x, y, most)
    assert at.size <= max(most, 4) and (np.diff(at) > 0).all()
    assert {0, n - 1} <= set(at.tolist())
    assert y[at].max() == y.max() and y[at].min() == y.min()
    lines = course_lines([("a", 1), ("b", 2)], x, np.stack((y, np.where(y > y[0], np.nan, y))), most)
    for line, own in zip(lines, (y, np.where(y > y[0], np.nan, y)), strict=True):
        assert line == course_line(line.key, line.reading, x, own, most)


def test_a_smooth_line_has_twice_the_stretches() -> None:
    x = np.linspace(0, 1, 5_000)
    assert 90 <= thinned(x, x**2, 100).size <= 100


@given(st.integers(0, 2**32 - 1), st.integers(0, 3 * BIN), st.integers(0, 3 * BIN))
@settings(max_examples=40)
def test_the_extremes_of_bins_stand_for_all_numbers(seed: int, first: int, left: int) -> None:
    """Of a window too long to be looked at whole, the greatest and least are drawn as they are, gaps apart."""
    rng = np.random.default_rng(seed)
    n = 40 * BIN + 17
    y = rng.normal(size=(2, n))
    y[:, rng.integers(0, n, 300)] = np.nan
    y[1, 5 * BIN : 7 * BIN] = np.nan
    found = Recording(np.arange(float(n)), y, extremes_of(y))
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(thinning, "LONG", 10 * BIN)
        window = slice(first, n - left)
        for row in (0, 1):
            at = outline(found, row, window, 64)
            assert at.size <= 64 and np.isfinite(y[row, at]).all()
            assert at.min() >= first and at.max() < n - left
            assert np.nanmax(y[row, window]) == y[row, at].max() and np.nanmin(y[row, window]) == y[row, at].min()


def test_the_extremes_are_where_they_are() -> None:
    y = np.random.default_rng(2).normal(size=(3, 5 * BIN + 3))
    at = extremes_of(y)
    bins = y[:, : 5 * BIN].reshape(3, 5, BIN)
    assert at.shape == (3, 5, 2)
    assert_array_equal(at[..., 0] - BIN * np.arange(5), bins.argmin(axis=2))
    assert_array_equal(np.take_along_axis(y, at[..., 1], axis=1), bins.max(axis=2))

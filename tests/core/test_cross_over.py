"""Cross-over assays against the arithmetic of differences and sums, and by simulation."""

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import stats

from dosis.core.potency import CrossOver, cross_over, parallel_lines

TWIN = ((("S", 1.0), ("T", 2.0)), (("S", 2.0), ("T", 1.0)), (("T", 1.0), ("S", 2.0)), (("T", 2.0), ("S", 1.0)))
ANIMALS = 6  # of each sequence


def twin(seed: int, log_potency: float = 0.2, bent: float = 0.0) -> tuple[CrossOver, np.ndarray]:
    """An assay, and its readings as (sequence, animal, period). Animals differ by ten times what a reading errs by."""
    rng = np.random.default_rng(seed)
    y = np.empty((4, ANIMALS, 2))
    for g, sequence in enumerate(TWIN):
        own = rng.normal(0, 20, ANIMALS)
        for p, (preparation, dose) in enumerate(sequence):
            of_test = preparation == "T"
            slope = -30 * (1 + bent * of_test)
            y[g, :, p] = 100 + own + 3 * p + slope * (np.log(dose) + log_potency * of_test) + rng.normal(0, 2, ANIMALS)
    order = [(g, a, p) for g in range(4) for a in range(ANIMALS) for p in range(2)]
    treatments = [TWIN[g][p] for g, _, p in order]
    found = cross_over(
        [dose for _, dose in treatments], [y[at] for at in order], [name for name, _ in treatments],
        np.array([10 * g + a for g, a, _ in order]), np.array([p for *_, p in order]), reference="S",
    )  # fmt: skip
    return found, y


def test_a_twin_cross_over_is_the_arithmetic_of_differences_within_animals() -> None:
    """Ph. Eur. 5.3, 3.2.5: preparations and regression by contrasts of the four mean differences, N − 4 df."""
    found, y = twin(1)
    one = found.potencies["T"]
    d = y[..., 0] - y[..., 1]
    m = d.mean(axis=1)
    variance = d.var(axis=1, ddof=1).mean() / 2
    of_preparations = (m[2] + m[3] - m[0] - m[1]) / 4
    slope = (m[1] + m[3] - m[0] - m[2]) / 4 / np.log(2)
    assert one.degrees_of_freedom == 4 * ANIMALS - 4
    assert_allclose(one.variance, variance, rtol=1e-9)
    assert_allclose(one.estimate, np.exp(of_preparations / slope), rtol=1e-9)
    v = 2 * variance / ANIMALS / 4  # of either contrast; they are orthogonal
    v_slope = v / np.log(2) ** 2
    t = stats.t.ppf(0.975, 4 * ANIMALS - 4)
    ratio, g = of_preparations / slope, t**2 * v_slope / slope**2
    half = t / abs(slope) * np.sqrt((1 - g) * v + ratio**2 * v_slope)
    assert_allclose(np.log([one.lower, one.upper]), [(ratio - half) / (1 - g), (ratio + half) / (1 - g)], rtol=1e-8)
    regression = found.analysis["Regression"]
    assert_allclose(regression.f, (slope * np.log(2)) ** 2 / v, rtol=1e-8)


def test_its_slopes_are_compared_between_animals_by_their_sums() -> None:
    found, y = twin(2, bent=0.6)
    sums = y.sum(axis=2)
    s, pooled = sums.mean(axis=1), sums.var(axis=1, ddof=1).mean()
    apart = (s[0] + s[3] - s[1] - s[2]) / 2
    want = apart**2 / (pooled / ANIMALS)
    parallel = found.potencies["T"].parallel
    assert_allclose(parallel.statistic, want, rtol=1e-8)
    assert parallel.degrees_of_freedom == (1, 4 * ANIMALS - 4)
    row = found.analysis["Animals within sequences"]
    assert_allclose(row.mean_square, pooled / 2, rtol=1e-9)
    assert sum(each.sum_of_squares for each in found.analysis.sources[:-1]) == pytest.approx(
        found.analysis["Total"].sum_of_squares
    )
    assert sum(each.degrees_of_freedom for each in found.analysis.sources[:-1]) == 8 * ANIMALS - 1


def test_the_interval_covers_the_potency_whatever_animals_differ_by() -> None:
    inside = 0
    for seed in range(300):
        one = twin(1000 + seed)[0].potencies["T"]
        assert one.lower is not None
        assert one.upper is not None
        inside += one.lower <= np.exp(0.2) <= one.upper
    assert 0.95 - 0.035 < inside / 300 < 0.95 + 0.035


def test_with_four_periods_slopes_are_compared_within_animals() -> None:
    """Each of eight animals is given all four treatments; the estimate is that of lines with animals as blocks."""
    square = ((0, 1, 3, 2), (1, 2, 0, 3), (2, 3, 1, 0), (3, 0, 2, 1)) * 2
    rng = np.random.default_rng(5)
    treatments = [("S", 1.0), ("S", 2.0), ("T", 1.0), ("T", 2.0)]
    animal, period = np.divmod(np.arange(32), 4)
    given = [treatments[square[a][p]] for a, p in zip(animal, period, strict=True)]
    y = [50 * a + 2 * p + 10 * np.log(dose) + 3 * (name == "T") + rng.normal(0, 0.5)
         for a, p, (name, dose) in zip(animal, period, given, strict=True)]  # fmt: skip
    x, names = [dose for _, dose in given], [name for name, _ in given]
    found = cross_over(x, y, names, animal, period)
    lines = parallel_lines(x, y, names, blocks=(animal, period))["T"]
    assert_allclose(found.potencies["T"].estimate, lines.estimate, rtol=1e-8)
    assert "Non-parallelism within animals" in {row.name for row in found.analysis.sources}
    assert found.potencies["T"].equivalent is not None
    assert lines.equivalent is not None
    assert_allclose(found.potencies["T"].equivalent.estimate, lines.equivalent.estimate, rtol=1e-8)


def test_animals_that_had_one_preparation_only_tell_nothing() -> None:
    with pytest.raises(ValueError, match="each animal needs both"):
        cross_over([1, 2, 1, 2], [1, 2, 3, 4], list("SSTT"), np.array([0, 0, 1, 1]), np.array([0, 1, 0, 1]))

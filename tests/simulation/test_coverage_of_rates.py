"""Do the intervals of rates cover 95 %? Courses that bend, replicates, constants of a saturation; fixed seeds."""

import numpy as np
import pytest
from scipy import special

from dosis.core import fit, kinetics

RUNS = 1500
FITS = 600
T = np.linspace(0, 290, 30)


@pytest.mark.slow
@pytest.mark.parametrize("method", ["profile", "wald"])
def test_intervals_of_km_and_vmax_cover_93_to_97_percent(method: str) -> None:
    rng = np.random.default_rng(64)
    s = np.repeat([0.05, 0.1, 0.2, 0.5, 1.0, 2.0], 2)
    truth = {"maximum": 12.0, "half": 0.24}
    rates = truth["maximum"] * s / (truth["half"] + s)
    hits = dict.fromkeys(truth, 0)
    fits = FITS if method == "wald" else FITS // 2  # a profile takes twenty times as long
    for _ in range(fits):
        found = fit("hyperbola", s, rates + rng.normal(0, 0.4, s.size))
        for name, value in truth.items():
            lower, upper = found.parameters[name].interval(0.95, method) or (np.nan, np.nan)  # type: ignore[arg-type]
            hits[name] += (lower is None or lower <= value) and (upper is None or value <= upper)
    assert all(0.93 <= count / fits <= 0.97 for count in hits.values()), hits


def courses(rng: np.random.Generator, bend: float, noise: float, count: int) -> tuple[np.ndarray, np.ndarray]:
    """True initial rates, and courses that level off with that time constant."""
    level = np.geomspace(0.5, 20, count) if count > 1 else np.array([20.0])
    rate = 0.004 * level / (3 + level)
    return rate, 0.1 + rate[:, None] * bend * (1 - np.exp(-T / bend)) + rng.normal(0, noise, (count, T.size))


@pytest.mark.slow
@pytest.mark.parametrize(
    ("bend", "noise", "count"), [(1200, 0.003, 6), (400, 0.003, 6), (1e7, 0.003, 6), (700, 0.01, 12)]
)
def test_the_slope_at_the_start_covers_as_it_says(bend: float, noise: float, count: int) -> None:
    """Over half of the window in which a parabola is all that is seen; over all of it 60 to 75 % where courses bend."""
    rng = np.random.default_rng(17)
    hits = []
    for _ in range(300):
        rate, y = courses(rng, bend, noise, count)
        window = kinetics.early_half(T, kinetics.widest_straight(T, y, degree=3, shortest=7))
        slope, error, df = kinetics.start_slopes(T, y, window[1] + 1e-9 >= T if window else None)
        hits.append(np.abs(slope - rate) < special.stdtrit(df, 0.975) * error)
    assert 0.90 <= np.mean(hits) <= 0.97


@pytest.mark.slow
@pytest.mark.parametrize(("bend", "count"), [(1200, 6), (400, 6), (1e7, 6)])
def test_a_line_that_was_cut_short_covers_with_the_slope_at_the_start(bend: float, count: int) -> None:
    """Alone the line's interval holds the initial rate in half of all cases; together with the other's it holds it."""
    rng = np.random.default_rng(5)
    alone, both = [], []
    for _ in range(300):
        rate, y = courses(rng, bend, 0.003, count)
        window = kinetics.widest_straight(T, y)
        lines = kinetics.straight_lines(T, y, (window.window[1] if window.window else T[4]) + 1e-9 >= T)
        lower, upper = lines.interval()
        alone.append((lower < rate) & (rate < upper))
        if window.left_out != (0, 0) or window.window is None:
            early = kinetics.early_half(T, kinetics.widest_straight(T, y, degree=3, shortest=7))
            slope, error, df = kinetics.start_slopes(T, y, early[1] + 1e-9 >= T if early else None)
            half = special.stdtrit(df, 0.975) * error
            lower, upper = np.minimum(lower, slope - half), np.maximum(upper, slope + half)
        both.append((lower < rate) & (rate < upper))
    assert np.mean(both) >= 0.93
    assert np.mean(alone) < 0.8 or bend > 1e6


@pytest.mark.slow
@pytest.mark.parametrize(("noise", "share"), [(0.05, 0.0), (0.0, 0.05), (0.05, 0.05), (0.2, 0.05)])
@pytest.mark.parametrize(("replicates", "groups"), [(2, 6), (3, 6), (2, 24)])
def test_replicates_pooled_over_groups_cover_as_they_say(
    noise: float, share: float, replicates: int, groups: int
) -> None:
    rng = np.random.default_rng(11)
    truth, hits = np.geomspace(0.5, 10, groups), []
    for _ in range(RUNS):
        errors = noise * np.sqrt(rng.chisquare(20, (groups, replicates)) / 20)
        scatter = rng.normal(size=(2, groups, replicates))
        rates = truth[:, None] * (1 + share * scatter[0]) + noise * scatter[1]
        mean, own = rates.mean(axis=1), np.square(errors).mean(axis=1)
        found = kinetics.between(mean, rates.var(axis=1, ddof=1), own, np.full(groups, replicates))
        half = special.stdtrit(found.df, 0.975) * np.sqrt((own + found.share * mean**2) / replicates)
        hits.append(np.abs(mean - truth) < half)
    assert 0.93 <= np.mean(hits) <= 0.975

"""Speed of the computation, as ratios against a general-purpose reference."""

import time
from collections.abc import Callable
from statistics import median

import numpy as np
from scipy.optimize import curve_fit
from scipy.stats import linregress

from bench.figures import Figure
from dosis.core import fit, fit_many
from dosis.intake.understand import understand
from dosis.run.evaluate import evaluate
from dosis.run.method import concentration_method

ROUNDS = 60
MANY = 10_000


def table_of_96() -> str:
    """A pasted table of 96 readings: 2 blanks, 8 standards, 2 QCs and 20 samples, three readings each."""
    rng = np.random.default_rng(96)
    levels = [0.5, 1, 2, 4, 6, 8, 12, 16]
    rows = [(f"Blank {i}", "", 0.0) for i in (1, 2)]
    rows += [(f"Std {i}", f"{level} µM", level) for i, level in enumerate(levels, start=1)]
    rows += [("QC low", "3 µM", 3.0), ("QC high", "10 µM", 10.0)]
    rows += [(f"Sample {i}", "", float(rng.uniform(1, 15))) for i in range(1, 21)]
    lines = ["Sample\tConc\tA 1\tA 2\tA 3"]
    for name, level, true in rows:
        readings = 0.02 + 0.034 * true + rng.normal(0, 0.002, 3)
        lines.append("\t".join([name, level, *(f"{value:.4f}" for value in readings)]))
    return "\n".join(lines)


def evaluation() -> Figure:
    """evaluate() of a 96-reading run against scipy.stats.linregress on the same standards, interleaved.

    The target, ten times linregress plus 5 ms, is given as a multiple of linregress as measured here.
    """
    intake, method = understand(table_of_96()), concentration_method()
    if intake.readings is None or intake.layout is None:
        raise RuntimeError("The table of the benchmark is not understood.")
    readings, layout = intake.readings, intake.layout
    used = [(g.level, id) for g in layout.groups if g.role == "standard" for id in g.readings]
    value = {reading.id: reading.value for reading in readings.readings}
    x, y = [level for level, _ in used], [value[id] for _, id in used]
    ours, theirs = _interleaved(lambda: evaluate(readings, layout, method), lambda: linregress(x, y))
    return Figure(
        "evaluate() of 96 readings / one linregress", ours / theirs, "×", 10 + 5e-3 / theirs,
        f"(evaluate {1e3 * ours:.2f} ms, linregress {1e3 * theirs:.2f} ms; limit is 10 × plus 5 ms)",
    )  # fmt: skip


def curves() -> list[Figure]:
    """Four-parameter curves of 8 doses in triplicate: one at a time and 10,000 at once, against scipy's curve_fit.

    curve_fit gets start values near the truth, on regular curves only; its loop is timed on some and scaled up.
    """
    rng = np.random.default_rng(4)
    x = np.repeat(np.geomspace(0.01, 100, 8), 3)
    midpoint, slope = np.exp(rng.uniform(-2, 2, MANY)), rng.uniform(0.8, 2.5, MANY)
    y = 0.1 + 1.9 / (1 + (x / midpoint[:, None]) ** slope[:, None])
    y += 0.05 * rng.standard_normal(y.shape)

    def logistic(dose: np.ndarray, lower: float, upper: float, middle: float, steep: float) -> np.ndarray:
        return lower + (upper - lower) / (1 + (dose / middle) ** steep)

    turn = iter(range(10**9))

    def theirs() -> object:
        i = next(turn) % MANY
        return curve_fit(logistic, x, y[i], p0=[0.1, 2.0, midpoint[i], slope[i]])

    def ours() -> object:
        result = fit("logistic4", x, y[next(turn) % MANY])
        return result.parameters, result.r_squared, result.aicc, result.lack_of_fit

    one, reference = _interleaved(ours, theirs)
    start = time.process_time()
    fit_many("logistic4", x, y)
    many = time.process_time() - start
    return [
        Figure("one fit(logistic4) with statistics / one curve_fit", one / reference, "×", 1.5),
        Figure(
            "curve_fit loop / fit_many(logistic4), 10,000 curves", MANY * reference / many, "×", 90, at_least=True,
            note=f"({1e6 * many / MANY:.0f} µs a curve)",
        ),
    ]  # fmt: skip


def _interleaved(first: Callable[[], object], second: Callable[[], object]) -> tuple[float, float]:
    """Median CPU seconds of each, taken in turn so that a drifting machine hits both."""
    times: tuple[list[float], list[float]] = ([], [])
    for _ in range(ROUNDS):
        for call, found in zip((first, second), times, strict=True):
            start = time.process_time()
            call()
            found.append(time.process_time() - start)
    return median(times[0]), median(times[1])

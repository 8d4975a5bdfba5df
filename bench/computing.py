"""Speed of the computation, as ratios against a general-purpose reference."""

import time
import warnings
from collections.abc import Callable
from statistics import median

import numpy as np
from scipy.optimize import curve_fit
from scipy.stats import linregress

from bench.curves import logistic, made, mixed
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


def one_curve() -> Figure:
    """One four-parameter curve of 8 doses in triplicate with all its statistics, against default curve_fit."""
    x, regular, theirs = _regular(np.repeat(np.geomspace(0.01, 100, 8), 3))
    turn = iter(range(10**9))

    def ours() -> object:
        result = fit("logistic4", x, regular[next(turn) % len(regular)])
        return result.parameters, result.r_squared, result.aicc, result.lack_of_fit, result.runs_test

    one, reference = _interleaved(ours, theirs)
    return Figure("one fit(logistic4) with statistics / one curve_fit", one / reference, "×", 1.5)


def many_curves() -> list[Figure]:
    """10,000 curves of all kinds at once, against a loop of default curve_fit on regular ones."""
    triplicate, distinct = np.repeat(np.geomspace(0.01, 100, 8), 3), np.geomspace(0.01, 100, 24)
    return [
        _many("logistic4", triplicate, "8 doses × 3", 90),
        _many("logistic4", distinct, "24 doses", 25),
        _many("logistic5", triplicate, "8 doses × 3", 30),
    ]


def _many(model: str, x: np.ndarray, what: str, target: float) -> Figure:
    y = mixed(MANY, x, np.random.default_rng(7))
    x, _, theirs = _regular(x)
    ours: list[float] = []
    reference: list[float] = []
    for _ in range(5):
        start = time.process_time()
        for _ in range(100):
            theirs()
        between = time.process_time()
        fit_many(model, x, y)
        reference.append((between - start) / 100)
        ours.append((time.process_time() - between) / MANY)
    ratio = median(r / o for r, o in zip(reference, ours, strict=True))
    return Figure(
        f"curve_fit loop / fit_many({model}), 10,000 mixed curves of {what}", ratio, "×", target, at_least=True,
        note=f"({1e6 * median(ours):.1f} µs a curve; one curve_fit {1e6 * median(reference):.0f} µs)",
    )  # fmt: skip


def _regular(x: np.ndarray) -> tuple[np.ndarray, np.ndarray, Callable[[], object]]:
    """x, regular curves on it, and a call that fits the next of them by curve_fit as it comes."""
    regular = made("regular", 400, x, np.random.default_rng(4))
    turn = iter(range(10**9))

    def theirs() -> object:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            return curve_fit(logistic, x, regular[next(turn) % len(regular)])

    return x, regular, theirs


def _interleaved(first: Callable[[], object], second: Callable[[], object]) -> tuple[float, float]:
    """Median CPU seconds of each, taken in turn so that a drifting machine hits both."""
    times: tuple[list[float], list[float]] = ([], [])
    for _ in range(ROUNDS):
        for call, found in zip((first, second), times, strict=True):
            start = time.process_time()
            call()
            found.append(time.process_time() - start)
    return median(times[0]), median(times[1])

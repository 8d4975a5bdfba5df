"""Speed of the computation, as ratios against a general-purpose reference."""

import time
from collections.abc import Callable
from statistics import median

import numpy as np
from scipy.stats import linregress

from bench.figures import Figure
from dosis.intake.understand import understand
from dosis.run.evaluate import evaluate
from dosis.run.method import concentration_method

ROUNDS = 60


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


def _interleaved(first: Callable[[], object], second: Callable[[], object]) -> tuple[float, float]:
    """Median CPU seconds of each, taken in turn so that a drifting machine hits both."""
    times: tuple[list[float], list[float]] = ([], [])
    for _ in range(ROUNDS):
        for call, found in zip((first, second), times, strict=True):
            start = time.process_time()
            call()
            found.append(time.process_time() - start)
    return median(times[0]), median(times[1])

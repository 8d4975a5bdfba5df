"""Intervals of what is read off replicate scans: each is read off by itself, and their spread makes it."""

import math
from collections.abc import Callable, Sequence

import numpy as np

from dosis.core.arrays import Array
from dosis.core.distributions import t_quantile
from dosis.run.curves.ends import Range
from dosis.run.outcome.value import Value
from dosis.run.questions.spectrum.bench import SpectrumBench
from dosis.run.questions.spectrum.windows import within

LEVEL = 0.95


def replicated(
    bench: SpectrumBench, values: Sequence[float | None], read: Callable[[Array, Array], float],
    window: Range | None = None, *, digits: bool = False,
) -> list[Value]:  # fmt: skip
    """What was read off every scan, with value ± t · SD/√k of its k replicates; scans alone have no interval.

    read : the same of x and y of one replicate, in the window. digits : shown to a tenth of the spacing of the axis.
    """
    found = []
    for scan, value in zip(bench.scans, values, strict=True):
        if value is None or not math.isfinite(value):
            found.append(Value())
            continue
        half = _half(bench, scan.ids, read, window) if len(scan.ids) > 1 and bench.plain else None
        ends = (None, None) if half is None else (value - half, value + half)
        if digits and half is None:
            found.append(Value(value, None, None, "", bench.shown_place(value)))
        else:
            found.append(Value.of(value, *ends))
    return found


def _half(
    bench: SpectrumBench, ids: Sequence[int], read: Callable[[Array, Array], float], window: Range | None
) -> float | None:
    own = []
    for id in ids:
        y = bench.y[bench.row_of[id]]
        there = np.isfinite(y) if window is None else np.isfinite(y) & within(window, bench.x)
        if there.any():
            own.append(read(bench.x[there], y[there]))
    known = [each for each in own if math.isfinite(each)]
    if len(known) < 2:
        return None
    return float(t_quantile((1 + LEVEL) / 2, len(known) - 1) * np.std(known, ddof=1) / math.sqrt(len(known)))

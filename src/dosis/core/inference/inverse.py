"""Concentrations from a curve fitted the other way round: concentration on signal."""

import math
from collections.abc import Sequence

import numpy as np

from dosis.core.inference.read_back import Flag, ReadBack
from dosis.core.inference.result import Fit


@np.errstate(all="ignore")
def predicted(fit: Fit, means: Sequence[float], counts: Sequence[float], level: float = 0.95) -> list[ReadBack]:
    """What a curve of concentration on signal gives at each sample's mean signal.

    The interval is that of one more value there, the part of a single reading divided by the sample's readings
    ("inverse calibration", Krutchkoff 1967, Technometrics 9, 425).
    """
    signals, n = np.array(means, dtype=float), np.array(counts, dtype=float)
    values = fit.predict(signals)
    low, high = fit.range
    slack = 1e-12 * max(abs(low), abs(high))
    rises = bool(np.diff(fit.predict([low, high]))[0] > 0)
    rmse = fit.rmse
    half = np.full(values.shape, np.nan)
    if fit.settled is not None and rmse is not None:
        jacobian = fit.model.derivative(signals, fit.values)
        curve = fit.variance_along(jacobian)
        half = fit.t(level) * np.sqrt(curve + rmse * rmse * fit.variance_factor(values, signals) / n)
    found = []
    for x, own, signal, count in zip(values.tolist(), half.tolist(), means, counts, strict=True):
        outside = signal > high + slack or signal < low - slack
        flag = (Flag.ABOVE_RANGE if (signal > high) == rises else Flag.BELOW_RANGE) if outside else None
        reason = "outside the signals of the standards" if outside else ""
        if not math.isfinite(x):
            found.append(ReadBack(None, None, None, None, flag, "the curve has no value there", float(count)))
        elif math.isfinite(own):
            found.append(ReadBack(x, x - own, x + own, own / fit.t(level), flag, reason, float(count)))
        else:
            why = "no interval without a spread of the standards"
            found.append(ReadBack(x, None, None, None, flag, reason or why, float(count)))
    return found

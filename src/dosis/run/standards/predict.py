"""Asking the curve: the signal to expect at a concentration, or the concentration at a signal."""

import math

import numpy as np

from dosis.core.inference.inverse import predicted
from dosis.core.inference.read_back import ReadBack
from dosis.core.inference.result import Fit
from dosis.core.rounding import with_interval
from dosis.run.layout import Quantity
from dosis.run.outcome.told import Asked, Told
from dosis.run.standards.bench import StandardBench
from dosis.run.standards.bounds import below

NOTHING = 1e-13  # of the signals at both ends: what is left of a zero by rounding


def told(bench: StandardBench, asked: Asked) -> Told:
    """Predict from the curve on the bench. Says why where it cannot."""
    if bench.fit is None or bench.fit_problem:
        return Told(value=None, text=bench.fit_problem or "There is no curve yet.")
    if bench.turned:
        return _turned(bench.fit, bench.layout.level, asked)
    if asked.level is not None:
        return _signal_at(bench.fit, bench.layout.signal, asked.level)
    if asked.signal is not None:
        return _level_at(bench.fit, bench.layout.level, asked.signal, bench.reading_range(bench.fit)[0])
    return Told(value=None, text="Type a concentration or a signal.")


def _turned(fit: Fit, level: Quantity, asked: Asked) -> Told:
    if asked.signal is None:
        return Told(value=None, text="This curve gives the concentration at a signal only; ask it for that.")
    return _told(level, predicted(fit, [asked.signal], [1])[0])


def _signal_at(fit: Fit, signal: Quantity, level: float) -> Told:
    if fit.model.positive_x and level < 0:
        return Told(value=None, text="A concentration cannot be below zero.")
    at, (low, high) = [level], fit.range
    with np.errstate(all="ignore"):
        value, mean, single = float(fit.predict(at)[0]), fit.band(at), fit.band(at, kind="observation")
    if not math.isfinite(value):
        return Told(value=None, text="The curve has no value there.")
    if abs(value) < NOTHING * float(np.abs(fit.predict([low, high])).max()):
        value = 0.0
    bands = ""
    shown, _, _ = with_interval(value, None, None)
    if mean is not None and single is not None and np.isfinite([*mean, *single]).all():
        shown, lower, upper = with_interval(value, float(mean[0][0]), float(mean[1][0]))
        _, one_low, one_high = with_interval(value, float(single[0][0]), float(single[1][0]))
        bands = f"; 95 % of the curve {lower} to {upper}, of one reading {one_low} to {one_high}"
    beyond = "" if low <= level <= high else ", outside the standards"
    return Told(value=value, text=f"{signal.name} {shown} {signal.unit}".rstrip() + bands + beyond)


def _level_at(fit: Fit, level: Quantity, signal: float, lowest: float) -> Told:
    return _told(level, below(fit.read_back(signal, n=1), lowest))


def _told(level: Quantity, found: ReadBack) -> Told:
    if found.estimate is None:
        return Told(value=None, text=f"No concentration: {found.reason}.")
    shown, lower, upper = with_interval(found.estimate, found.lower, found.upper)
    interval = f"; 95 % interval of one reading {lower} to {upper}" if found.lower is not None else ""
    beyond = f", {found.reason}" if found.flag else ""
    return Told(value=found.estimate, text=f"{level.name} {shown} {level.unit}".rstrip() + interval + beyond)

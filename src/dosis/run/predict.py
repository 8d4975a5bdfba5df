"""Asking the curve: the signal to expect at a concentration, or the concentration at a signal."""

from dosis.core.rounding import with_interval
from dosis.run.evaluate import work
from dosis.run.layout import Layout, Level
from dosis.run.method import Method
from dosis.run.readings import Readings
from dosis.run.record import Record


class Asked(Record):
    """One of the two, in the units of the run; a signal is what is left after the blank."""

    level: Level | None = None
    signal: Level | None = None


class Told(Record):
    """What the curve says, in one sentence, with the number in full."""

    value: float | None
    text: str


def ask(readings: Readings, layout: Layout, method: Method, asked: Asked) -> Told:
    """Predict from the run's curve. Says why where it cannot."""
    bench = work(readings, layout, method)
    fit, signal, level = bench.fit, bench.layout.signal, bench.layout.level
    if fit is None or bench.fit_problem:
        return Told(value=None, text=bench.fit_problem or "There is no curve yet.")
    low, high = fit.range
    if asked.level is not None:
        if fit.model.positive_x and asked.level < 0:
            return Told(value=None, text="A concentration is not below zero.")
        at = [asked.level]
        value, mean, single = float(fit.predict(at)[0]), fit.band(at), fit.band(at, kind="observation")
        ends = (None, None) if mean is None else (float(mean[0][0]), float(mean[1][0]))
        shown, lower, upper = with_interval(value, *ends)
        text = f"{signal.name} {shown} {signal.unit}".rstrip()
        if mean is not None and single is not None:
            _, one_low, one_high = with_interval(value, float(single[0][0]), float(single[1][0]))
            text += f"; 95 % of the curve {lower} to {upper}, of one reading {one_low} to {one_high}"
        return Told(value=value, text=text + ("" if low <= asked.level <= high else ", outside the standards"))
    if asked.signal is None:
        return Told(value=None, text="Type a concentration or a signal.")
    found = fit.read_back(asked.signal, n=1)
    if found.estimate is None:
        return Told(value=None, text=f"No concentration: {found.reason}.")
    shown, lower, upper = with_interval(found.estimate, found.lower, found.upper)
    interval = f"; 95 % interval of one reading {lower} to {upper}" if found.lower is not None else ""
    beyond = f", {found.reason}" if found.flag else ""
    return Told(value=found.estimate, text=f"{level.name} {shown} {level.unit}".rstrip() + interval + beyond)

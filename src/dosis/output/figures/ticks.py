"""Ends and ticks of an axis: all numbers on one axis share one notation and one number of decimals."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from dosis.run.look import AxisLook

STEPS = (1.0, 2.0, 2.5, 5.0, 10.0)
LARGE, SMALL = 1e5, 1e-3  # from, and below which, ticks share a power of ten that stands once, in the title
MARGIN = 0.03  # of the span of the data, beyond it
FROM_ZERO = 0.3  # of the highest: a lowest value below shows zero as well
MOST_TICKS = 60
FEWEST = 2.0  # spans of the axis that ticks may lie apart; what is wider leaves an axis without any
NARROWEST = 1e-12  # share of its ends below which an axis has no span that numbers could tell
ZERO_GAP = 0.75  # decades between the lowest level and the zero of a broken log axis
MINOR = {1.0: 5, 2.0: 4, 2.5: 5, 5.0: 5, 10.0: 5}


@dataclass(frozen=True)
class Tick:
    """A place on an axis, in its own unit, and what stands there in the light notation."""

    at: float
    text: str


@dataclass(frozen=True)
class Scale:
    """An axis laid out.

    zero_at : where on a log axis its zero stands, beyond a break; None where it has none.
    power : of ten, by which the numbers at the ticks are multiplied.
    """

    low: float
    high: float
    log: bool
    ticks: tuple[Tick, ...]
    minor: tuple[float, ...] = ()
    zero_at: float | None = None
    power: int = 0

    def fraction(self, value: float) -> float:
        """Where a value stands between the ends; a zero where the axis shows it. NaN where it cannot stand."""
        if not self.log:
            return (value - self.low) / (self.high - self.low)
        if value <= 0:
            value = self.zero_at if value == 0 and self.zero_at is not None else math.nan
        return (math.log10(value) - math.log10(self.low)) / (math.log10(self.high) - math.log10(self.low))

    def place(self, value: float) -> float:
        """The value as it is drawn: that of a zero on a log axis is where its tick is."""
        return self.zero_at if self.log and value == 0 and self.zero_at is not None else value


def scaled(values: Sequence[float], look: AxisLook, *, log: bool, room: int) -> Scale:
    """The axis for those values.

    log : whether it opens logarithmic. room : how many ticks it has place for.
    """
    known = [value for value in values if math.isfinite(value)]
    wanted = look.scale == "log" or (look.scale == "auto" and log)
    above = [value for value in known if value > 0]
    if wanted and (above or (look.low or 0) > 0):
        return _log(above, any(value == 0 for value in known), look, room)
    return _linear(known, look, room)


def _linear(known: list[float], look: AxisLook, room: int) -> Scale:
    low, high = (min(known), max(known)) if known else (0.0, 1.0)
    if low == high:
        low, high = (low - abs(low) / 2 or -0.5, high + abs(high) / 2 or 0.5)
    beyond = MARGIN * (high - low)
    zero = 0 <= low <= FROM_ZERO * high
    low, high = 0.0 if zero else low - beyond, high + beyond
    low, high = look.low if look.low is not None else low, look.high if look.high is not None else high
    if not high - low > NARROWEST * max(abs(low), abs(high)):
        end = low if look.low is not None else high
        apart = max(1.0, abs(end) / 2)
        low, high = (end, end + apart) if look.low is not None else (end - apart, end)
    span = high - low
    step = look.every if look.every and span / MOST_TICKS <= look.every <= FEWEST * span else _step(span, room)
    if look.low is None and not zero:
        low = _toward(low, step, down=True)
    if look.high is None:
        high = _toward(high, step, down=False)
    first = math.ceil(low / step - 1e-9)
    at = [k * step for k in range(first, math.floor(high / step + 1e-9) + 1)]
    power = _power(max(abs(low), abs(high)), look)
    places = look.decimals if look.decimals is not None else _places(step / 10**power)
    mantissa = step / 10 ** math.floor(math.log10(step) + 1e-9)
    parts = MINOR.get(round(mantissa, 6), 5)
    fine = [k * step / parts for k in range(math.ceil(low * parts / step), math.floor(high * parts / step) + 1)]
    minor = tuple(x for x in fine if min((abs(x - t) for t in at), default=1.0) > step / parts / 2)
    ticks = tuple(Tick(x + 0.0, _signed(f"{x / 10**power:.{places}f}")) for x in at)
    return Scale(low, high, False, ticks, minor, power=power)


def _log(above: list[float], zero: bool, look: AxisLook, room: int) -> Scale:
    low, high = (min(above), max(above)) if above else (1.0, 10.0)
    low, high = low / 1.3, high * 1.3
    zero_at = None
    if zero and look.low is None:
        decade = math.floor(math.log10(low * 1.3) + 1e-9)
        zero_at = 10 ** (min(math.log10(low * 1.3) - ZERO_GAP / 2, decade) - ZERO_GAP / 2)
        low = zero_at / 1.3
    low = look.low if look.low is not None and look.low > 0 else low
    high = look.high if look.high is not None and look.high > low else max(high, low * 10**0.5)
    first, last = math.ceil(math.log10(low) - 1e-9), math.floor(math.log10(high) + 1e-9)
    if zero_at is not None:
        first = math.ceil(math.log10(zero_at) + ZERO_GAP / 4)
    decades = list(range(first, last + 1))
    every = round(look.every) if look.every and look.every >= 1 else max(1, math.ceil(len(decades) / max(room, 2)))
    shown = [d for d in decades if (d - first) % every == 0]
    at = [10.0**d for d in shown]
    if len(decades) < 2:
        floor = zero_at * 1.5 if zero_at is not None else low
        exponents = range(math.floor(math.log10(low)), math.ceil(math.log10(high)) + 1)
        fine = [k * 10.0**d for d in exponents for k in (1, 2, 5) if floor <= k * 10.0**d <= high]
        at = fine if len(fine) > 1 else at
    powers = look.numbers == "powers" or (look.numbers == "auto" and bool(at) and not 1e-3 <= min(at) <= max(at) <= 1e4)
    ticks = [Tick(x, _power_text(x) if powers else _plain(x, look.decimals)) for x in at]
    if zero_at is not None:
        ticks.insert(0, Tick(zero_at, "0"))
    floor = 10.0 ** (first - 1) if zero_at is not None else low
    lowest, highest = math.floor(math.log10(low)), math.ceil(math.log10(high))
    minor = [k * 10.0**d for d in range(lowest, highest + 1) for k in range(2, 10)]
    minor += [10.0**d for d in decades if 10.0**d not in at]
    between = tuple(sorted(x for x in minor if max(floor, low) <= x <= high and (zero_at is None or x > zero_at * 2)))
    return Scale(low, high, True, tuple(ticks), between, zero_at)


def _step(span: float, room: int) -> float:
    raw = span / max(room, 2)
    size = 10.0 ** math.floor(math.log10(raw))
    return next((step * size for step in STEPS if step * size >= raw * (1 - 1e-9)), 10 * size)


def _toward(end: float, step: float, *, down: bool) -> float:
    """The end moved out to a tick, where one is near; data do not touch it either way."""
    tick = math.floor(end / step + 1e-9) * step if down else math.ceil(end / step - 1e-9) * step
    return tick if abs(tick - end) <= 0.55 * step else end


def _power(largest: float, look: AxisLook) -> int:
    if look.numbers == "plain" or largest == 0:
        return 0
    if look.numbers == "powers" or not SMALL <= largest < LARGE:
        return math.floor(math.log10(largest))
    return 0


def _places(step: float) -> int:
    """Decimals that show multiples of a step exactly."""
    for places in range(10):
        if abs(round(step, places) - step) < 1e-9 * step:
            return places
    return 9


def _plain(value: float, decimals: int | None) -> str:
    if decimals is not None:
        return f"{value:.{decimals}f}"
    return f"{value:.0f}" if value >= 1 else f"{value:.{max(-math.floor(math.log10(value) + 1e-9), 0)}f}"


def _power_text(value: float) -> str:
    exponent = math.floor(math.log10(value) + 1e-9)
    mantissa = round(value / 10.0**exponent)
    head = "10" if mantissa == 1 else f"{mantissa} × 10"
    return f"{head}^{{{_signed(str(exponent))}}}"


def _signed(text: str) -> str:
    negative = text.startswith("-") and float(text) != 0
    return f"−{text[1:]}" if negative else text.removeprefix("-")

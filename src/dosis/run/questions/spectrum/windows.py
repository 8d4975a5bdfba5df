"""Windows of the axis, which may be open at either end."""

from collections.abc import Sequence

from dosis.core.arrays import Array, Flags
from dosis.core.rounding import given
from dosis.run.curves.ends import Range


def span(window: Range, x: Array) -> tuple[float, float]:
    """Its ends, the lower first, those of the axis where it is open."""
    low = float(x[0]) if window.lower is None else window.lower
    high = float(x[-1]) if window.upper is None else window.upper
    return min(low, high), max(low, high)


def within(window: Range, x: Array) -> Flags:
    """Which places lie in it, (n,)."""
    low, high = span(window, x)
    return (x >= low) & (x <= high)


def words(windows: Sequence[Range], x: Array, unit: str) -> str:
    """Windows as they are told."""
    return ", ".join(f"{given(a)} to {given(b)}" for a, b in (span(each, x) for each in windows)) + f" {unit}".rstrip()

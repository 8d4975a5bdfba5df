"""A curve as drawn, with its bands."""

from collections.abc import Sequence

import numpy as np

from dosis.core.arrays import Array
from dosis.run.outcome.drawn import Line


def with_bands(x: Sequence[float], y: Sequence[float], bands: Array | None) -> Line:
    """A curve as drawn, with those of its `Fit.bands` that are known everywhere along it."""
    mean: list[tuple[float, ...]] = [(), ()]
    one: list[tuple[float, ...]] = [(), ()]
    if bands is not None and np.isfinite(bands[1:3]).all():
        mean = [tuple(end) for end in bands[1:3].tolist()]
        if np.isfinite(bands[3:]).all():
            one = [tuple(end) for end in bands[3:].tolist()]
    return Line(tuple(x), tuple(y), mean[0], mean[1], one[0], one[1])

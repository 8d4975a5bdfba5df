"""What is read back: mean readings of samples, and how far one of them may be off."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array, Rows
from dosis.core.inference.common import effective_df
from dosis.core.inference.fitted import Fitted
from dosis.core.inference.spread import Spread


@dataclass(frozen=True)
class Samples:
    """Samples read back together, (m,).

    means : of their readings; counts : how many readings each is as good as, infinite for a signal taken as exact.
    weight : of one reading, by default from the rule of the fit. own : the spread of one reading of a sample that is
    judged by its own scatter, None for those judged by the curve's. carries : (k, m) how much a sample has of each of
    the fit's common errors; by default as they say.
    """

    means: Array
    counts: Array
    weight: float | None = None
    own: tuple[Spread | None, ...] = ()
    carries: Array | None = None

    @classmethod
    def of(
        cls, means: Sequence[float], counts: Sequence[float], weight: float | None = None,
        own: Sequence[Spread | None] = (), carries: Array | None = None,
    ) -> "Samples":  # fmt: skip
        """From plain numbers."""
        return cls(np.array(means, dtype=float), np.array(counts, dtype=float), weight, tuple(own), carries)

    def spread_of(self, row: int) -> Spread | None:
        """The spread of its own that a sample is judged by."""
        return self.own[row] if self.own else None

    def carried(self, fit: Fitted) -> Array:
        """(k, m), of each common error."""
        if self.carries is not None:
            return self.carries
        each = np.array([error.carries for error in fit.common])
        return np.broadcast_to(each[:, None], (each.size, self.means.size))

    def variance(self, fit: Fitted, rows: Rows, y: Array, x: Array) -> Array:
        """Of the mean of each sample in rows (r,), were its signal y and its place x: (r,) or, of y (r, g), (r, g)."""
        rmse = fit.rmse or 0.0
        factor = np.full(y.shape, 1 / self.weight) if self.weight else fit.variance_factor(y, x)
        single: Array = rmse * rmse * factor
        for k, row in enumerate(rows.tolist() if any(self.own) else ()):
            spread = self.spread_of(row)
            if spread is not None:
                single[k] = spread.variance
        counts = self.counts[rows]
        return single / (counts if y.ndim == 1 else counts[:, None])

    def df(self, fit: Fitted, row: int, variance: float, along: float, parts: Array) -> float:
        """Degrees of freedom of what a sample is judged by: its variance, the curve's `along` it, the common parts."""
        spread = self.spread_of(row)
        if spread is None and not parts.size:
            return fit.degrees_of_freedom
        known = Spread(along + (variance if spread is None else 0.0), fit.degrees_of_freedom)
        more = [] if spread is None else [Spread(variance, spread.degrees_of_freedom)]
        return effective_df(fit.common, parts, known, *more)

"""Straight lines through many time courses at once: a plate has hundreds, and each change of a window fits them all."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dosis.core import special
from dosis.core.arrays import Array, Flags, alike


@dataclass(frozen=True)
class Lines:
    """A line for each course; every array is (courses,), NaN where the points do not give it.

    slope_error, rmse : NaN below three points. n : points taken in.
    """

    slope: Array
    intercept: Array
    slope_error: Array
    r_squared: Array
    rmse: Array
    n: Array

    def interval(self, level: float = 0.95) -> tuple[Array, Array]:
        """Both ends of the interval of each slope, slope ± t · standard error with n − 2 degrees of freedom."""
        t = special.stdtrit(np.maximum(self.n - 2, 1), (1 + level) / 2)
        return self.slope - t * self.slope_error, self.slope + t * self.slope_error


def straight_lines(x: ArrayLike, y: ArrayLike, use: Flags | None = None) -> Lines:
    """Ordinary least squares of every row of y on x, about the means so that no digits are lost.

    Parameters
    ----------
    x : (n,). y : (courses, n), NaN where a reading is missing.
    use : (n,) or (courses, n), which points are taken in; all of them when it is not given.

    Example
    -------
    ``straight_lines([0, 1, 2], [[1.0, 3.0, 5.0]]).slope`` is ``[2.0]``.
    """
    xs, ys = np.asarray(x, dtype=float), np.atleast_2d(np.asarray(y, dtype=float))
    there = np.isfinite(ys) if use is None else np.isfinite(ys) & use
    n = there.sum(axis=1)
    with np.errstate(all="ignore"):
        w = there.astype(float)
        x_mean = (w @ xs) / n
        y_mean = np.where(there, ys, 0.0).sum(axis=1) / n
        dx = np.where(there, xs - x_mean[:, None], 0.0)
        dy = np.where(there, ys - y_mean[:, None], 0.0)
        sxx, sxy, syy = (np.einsum("cn,cn->c", a, b) for a, b in ((dx, dx), (dx, dy), (dy, dy)))
        slope = np.where(sxx > 0, sxy / sxx, np.nan)
        rest = dy - slope[:, None] * dx
        sse = np.einsum("cn,cn->c", rest, rest)
        rmse = np.where(n > 2, np.sqrt(sse / np.maximum(n - 2, 1)), np.nan)
        return Lines(
            slope=slope, intercept=y_mean - slope * x_mean, slope_error=rmse / np.sqrt(sxx),
            r_squared=np.where(syy > 0, 1 - sse / syy, np.nan), rmse=rmse, n=n,
        )  # fmt: skip


def start_slopes(x: ArrayLike, y: ArrayLike, use: Flags | None = None) -> tuple[Array, Array, Array]:
    """The slope of every course where it begins, of a parabola through it: slope, standard error, degrees of freedom.

    Of courses that bend it is the rate before they do, which a line through their first part falls short of. Arguments
    as of `straight_lines`; NaN below four points.
    """
    xs, ys = np.asarray(x, dtype=float), np.atleast_2d(np.asarray(y, dtype=float))
    there = np.isfinite(ys) if use is None else np.isfinite(ys) & use
    slope, error = np.full(len(ys), np.nan), np.full(len(ys), np.nan)
    df = np.maximum(there.sum(axis=1) - 3, 0).astype(float)
    for rows, at in alike(there):
        if np.count_nonzero(np.diff(xs[at])) < 3:
            continue
        t = (xs[at] - xs[at][0]) / (xs[at][-1] - xs[at][0])
        q, r = np.linalg.qr(np.vander(t, 3, increasing=True))
        inverse = np.linalg.inv(r)
        along = ys[rows][:, at] @ q
        rest = ys[rows][:, at] - along @ q.T
        spread = np.sqrt(np.einsum("cn,cn->c", rest, rest) / df[rows])
        scale = xs[at][-1] - xs[at][0]
        slope[rows] = along @ inverse[1] / scale
        error[rows] = spread * np.sqrt(np.square(inverse[1]).sum()) / scale
    return slope, error, df

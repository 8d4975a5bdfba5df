"""Several curve models on one set of readings, side by side."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from numpy.typing import ArrayLike

from dosis.core.distributions import f_upper_p
from dosis.core.fitting.fit import fit
from dosis.core.inference.goodness import Test
from dosis.core.inference.joint import SharedFit
from dosis.core.inference.result import Fit
from dosis.core.models import Model


@dataclass(frozen=True)
class Comparison:
    """Fits by model id, the best by AICc first; `failures` says why a model could not be fitted.

    `nested` has the extra-sum-of-squares F test for each pair (simpler, larger) of which one is a special case of the
    other: a small p says that the larger model describes something the simpler one cannot.
    """

    fits: dict[str, Fit]
    failures: dict[str, str]
    nested: dict[tuple[str, str], Test]

    @property
    def best(self) -> str | None:
        """Id of the model with the lowest AICc; None when none has one."""
        return next((id for id, result in self.fits.items() if result.aicc is not None and result.converged), None)


def extra_sum_of_squares(simpler: Fit | SharedFit, larger: Fit | SharedFit) -> Test:
    """F = ((SSE₁ − SSE₂)/(df₁ − df₂))/(SSE₂/df₂) (Bates & Watts 1988, 3.10); a reason where there is none."""
    df1, df2 = simpler.degrees_of_freedom, larger.degrees_of_freedom
    if df2 <= 0 or df1 <= df2:
        return Test(None, None, reason="The larger model leaves no degrees of freedom to test with.")
    if larger.sse <= 0:
        return Test(
            None, None, (df1 - df2, df2), "The larger model fits exactly, so there is no error to test against."
        )
    f = max(simpler.sse - larger.sse, 0.0) / (df1 - df2) / (larger.sse / df2)
    return Test(f, f_upper_p(f, df1 - df2, df2), (df1 - df2, df2))


def compare(models: Sequence[str | Model], x: ArrayLike, y: ArrayLike, **options: Any) -> Comparison:
    """Fit each model with the same options (see `fit`) and compare them.

    Raises
    ------
    ValueError : when no model could be fitted, with the reason of the first.
    """
    fits: dict[str, Fit] = {}
    failures: dict[str, str] = {}
    for each in models:
        id = each.id if isinstance(each, Model) else each
        try:
            fits[id] = fit(each, x, y, **options)
        except ValueError as error:
            failures[id] = str(error)
    if not fits:
        raise ValueError(next(iter(failures.values()), "There is no model to compare."))
    ordered = sorted(fits.items(), key=lambda item: float("inf") if item[1].aicc is None else item[1].aicc)
    nested = {
        (small, large): extra_sum_of_squares(fits[small], fits[large])
        for large in fits
        for small in fits
        if small in fits[large].model.contains
    }
    return Comparison(dict(ordered), failures, nested)

"""What the intervals of concentrations are judged by: the curve's scatter, the samples' own, and that of the blanks."""

from collections.abc import Sequence

import numpy as np

from dosis.core.arrays import Array
from dosis.core.distributions import f_upper_p
from dosis.core.inference.common import CommonError
from dosis.core.inference.covariance import Pool
from dosis.core.inference.result import Fit
from dosis.core.inference.spread import Spread, apart, of_mean, pooled_or_own, together
from dosis.core.replicates import Replicates
from dosis.run.layout import Group
from dosis.run.roles import Role
from dosis.run.standards.bench import Judged, StandardBench

SEVERAL = 1  # samples above which one can be told to be odd among them


def curve_spread(fit: Fit) -> Spread | None:
    """The variance of a reading of weight one about the curve; None without degrees of freedom."""
    return None if fit.rmse is None else Spread(fit.rmse * fit.rmse, fit.degrees_of_freedom)


def judge(fit: Fit, groups: Sequence[tuple[Group, Replicates]], below: float) -> Judged:
    """Whether samples scatter as the standards do, each on the scale of the fit's weights.

    below : p of the F test under which a single sample scatters more than all the others do.
    """
    curve = curve_spread(fit)
    samples = [(i, group, summary) for i, (group, summary) in enumerate(groups) if group.role is not Role.STANDARD]
    if curve is None or curve.variance == 0 or not any(summary.sd is not None for _, _, summary in samples):
        return Judged(fit)
    signals = np.array([summary.value for _, _, summary in samples])
    levels = [fit.range[0] if x is None else x for x in fit.estimates(signals.tolist())]
    factors = fit.variance_factor(signals, np.array(levels)).tolist()
    each = [
        Spread.of(s.sd, s.n).times(1 / factor) if s.sd is not None and factor > 0 else Spread(0.0, 0)
        for (_, _, s), factor in zip(samples, factors, strict=True)
    ]
    odd = _odd(each, curve, below)
    common = together([spread for k, spread in enumerate(each) if k not in odd])
    if not common.degrees_of_freedom:
        return Judged(fit)
    p = apart(common, curve)
    base = common if p is not None else together((common, curve))
    several = sum(spread.degrees_of_freedom > 0 for spread in each) > SEVERAL
    own: list[Spread | None] = [None] * len(groups)
    alone: dict[str, float] = {}
    for k, ((i, group, summary), spread, factor) in enumerate(zip(samples, each, factors, strict=True)):
        if p is not None:
            own[i] = base.times(factor)
        higher = apart(spread, base) if spread.variance > base.variance else None
        if k in odd or (higher is not None and higher < below and several):
            alone[group.id] = odd.get(k, higher or 0.0)
            own[i] = Spread.of(summary.sd, summary.n)
    if p is None:
        fit = fit.but(pool=Pool(base.variance * base.degrees_of_freedom, int(base.degrees_of_freedom)))
    times = float(np.sqrt(common.variance / curve.variance))
    return Judged(fit, tuple(own) if any(own) else (), p, times, alone)


def _odd(each: Sequence[Spread], curve: Spread, below: float) -> dict[int, float]:
    """Which samples scatter so much more than all others that they say nothing of these, and p of each.

    The largest variance against the others pooled, and the curve where these scatter alike, as often as that shows (as
    Cochran's test, ISO 5725-2, by F).
    """
    found: dict[int, float] = {}
    left = [k for k, spread in enumerate(each) if spread.degrees_of_freedom > 0]
    while len(left) > SEVERAL:
        worst = max(left, key=lambda k: each[k].variance)
        rest = pooled_or_own(together([each[k] for k in left if k != worst]), curve)
        p = 0.0 if rest.variance == 0 else f_upper_p(
            each[worst].variance / rest.variance, each[worst].degrees_of_freedom, rest.degrees_of_freedom
        )  # fmt: skip
        if each[worst].variance == 0 or p >= below / len(left):
            break
        found[worst] = p
        left.remove(worst)
    return found


def with_blanks(bench: StandardBench, fit: Fit, ids: Sequence[Sequence[int]]) -> Fit:
    """The fit with the errors of the blanks that were subtracted, where they do not cancel out.

    ids : the readings each entry of the fit stands for. What is subtracted from all alike only moves a curve that has a
    constant; through zero, or with a plateau held, it bends the curve away from the samples.
    """
    keys = [*dict.fromkeys(key for entry in ids for id in entry if (key := bench.blank_of.get(id)) is not None)]
    samples = {bench.blank_of.get(id) for group in bench.answered() for id in bench.used(group)} - {None}
    keys += [key for key in samples if key not in keys]
    alike = bench.blank_cancels and len(keys) == 1 and samples <= set(keys)
    if not keys or bench.turned or bench.more or (alike and fit.model.intercept and not fit.fixed):
        return fit
    curve = curve_spread(fit)
    errors, known = [], []
    for key in keys:
        blank = bench.blanks[key]
        own = None if blank.sd is None else Spread.of(blank.sd, blank.n)
        spread = of_mean(own, curve if fit.weighting == "none" else None, blank.worth)
        if spread is not None:
            on = np.array([np.mean([bench.blank_of.get(id) == key for id in entry]) for entry in ids])
            errors.append(CommonError(spread, on, carries=1.0))
            known.append(key)
    bench.blank_keys = tuple(known)
    return fit.judged(tuple(errors)) if errors else fit


def carried(bench: StandardBench, fit: Fit, groups: Sequence[Group]) -> Array | None:
    """How much of each blank's error a group's readings carry: (blanks, groups)."""
    if not fit.common:
        return None
    return np.array([
        [np.mean([bench.blank_of.get(id) == key for id in bench.used(group)] or [False]) for group in groups]
        for key in bench.blank_keys
    ])  # fmt: skip

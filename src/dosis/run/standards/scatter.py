"""What the intervals of concentrations are judged by: the curve's scatter, the samples' own, and that of the blanks."""

from collections.abc import Hashable, Sequence

import numpy as np

from dosis.core.arrays import Array
from dosis.core.distributions import f_upper_p
from dosis.core.inference.common import CommonError
from dosis.core.inference.covariance import Pool
from dosis.core.inference.result import Fit
from dosis.core.inference.spread import Spread, apart, pooled_or_own, together
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
    repeated = [
        (i, s) for i, (g, s) in enumerate(groups) if g.role is not Role.STANDARD and s.n > 1 and s.sd is not None
    ]
    if curve is None or curve.variance == 0 or not repeated:
        return Judged(fit)
    signals = np.array([summary.value for _, summary in repeated])
    at = fit.estimates(signals.tolist())
    places = np.array([fit.range[0] if x is None else x for x in at])
    factors = fit.variance_factor(signals, places)
    each = [
        Spread(_square(s.sd) / factor, s.n - 1) if factor > 0 else Spread(0.0, 0)
        for (_, s), factor in zip(repeated, factors.tolist(), strict=True)
    ]
    odd = _odd(each, curve, below)
    samples = together([spread for k, spread in enumerate(each) if k not in odd])
    if not samples.degrees_of_freedom:
        return Judged(fit)
    p = apart(samples, curve)
    base = samples if p is not None else together((samples, curve))
    own: list[Spread | None] = [None] * len(groups)
    if p is not None:
        scale = dict(zip((i for i, _ in repeated), factors.tolist(), strict=True))
        for i, (group, _) in enumerate(groups):
            if group.role is not Role.STANDARD:
                own[i] = Spread(base.variance * scale.get(i, 1.0), base.degrees_of_freedom)
    alone: dict[str, float] = {}
    for k, ((i, summary), spread) in enumerate(zip(repeated, each, strict=True)):
        higher = apart(spread, base) if spread.variance > base.variance else None
        if k in odd or (higher is not None and higher < below and len(repeated) > 1):
            alone[groups[i][0].id] = odd.get(k, higher or 0.0)
            own[i] = Spread(_square(summary.sd), summary.n - 1)
    if p is None:
        fit = fit.but(pool=Pool(base.variance * base.degrees_of_freedom, int(base.degrees_of_freedom)))
    times = float(np.sqrt(samples.variance / curve.variance))
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
        spread = blank_spread(bench, key, curve if fit.weighting == "none" else None)
        if spread is not None:
            on = np.array([np.mean([bench.blank_of.get(id) == key for id in entry]) for entry in ids])
            errors.append(CommonError(spread, on, carries=1.0))
            known.append(key)
    bench.blank_keys = tuple(known)
    return fit.judged(tuple(errors)) if errors else fit


def blank_spread(bench: StandardBench, key: Hashable, curve: Spread | None) -> Spread | None:
    """The variance of a blank that was subtracted: by its own readings, together with the curve's where alike."""
    blank = bench.blanks[key]
    own = Spread(_square(blank.sd), blank.n - 1) if blank.sd is not None and blank.n > 1 else None
    known = own or curve
    if own is not None and curve is not None:
        known = pooled_or_own(own, curve)
    return None if known is None else Spread(known.variance / blank.worth, known.degrees_of_freedom)


def carried(bench: StandardBench, fit: Fit, groups: Sequence[Group]) -> Array | None:
    """How much of each blank's error a group's readings carry: (blanks, groups)."""
    if not fit.common:
        return None
    return np.array([
        [np.mean([bench.blank_of.get(id) == key for id in bench.used(group)] or [False]) for group in groups]
        for key in bench.blank_keys
    ])  # fmt: skip


def _square(sd: float | None) -> float:
    return sd * sd if sd else 0.0

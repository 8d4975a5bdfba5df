"""How well the references are known between which responses stand, carried into what is read off the curves."""

import numpy as np

from dosis.core.arrays import Array
from dosis.core.inference.common import CommonError
from dosis.core.inference.result import Fit
from dosis.core.inference.spread import Spread, of_mean
from dosis.core.normalize import Level as Reference
from dosis.run.questions.dose.bench import Compound, DoseBench

NO_EFFECT = 1  # in a pair of references, the second


def with_references(bench: DoseBench, compound: Compound, fit: Fit) -> Fit:
    """The fit with the errors of its references, which all its normalized responses share.

    A response s = (y − L) ÷ (H − L) is off by −(1 − s)·e ÷ (H − L) where the full effect L is off by e, and by
    −s·e ÷ (H − L) where no effect H is; the share that the curve gives serves for s. Between free plateaus, readings of
    one plate, that moves the plateaus and nothing else.
    """
    scopes = [bench.reference_of.get(id, "") for id in compound.ids]
    names = [*dict.fromkeys(scopes)]
    plateaus = [i for i, name in enumerate(fit.model.names) if name in ("lower", "upper")]
    moves = len(names) == 1 and fit.is_sigmoid and len(plateaus) == 2 and not fit.fixed
    shares = (fit.values[plateaus] if moves else fit.y - fit.residuals) / bench.full_scale
    errors, keys = [], []
    for name in names:
        span = bench.references[name][NO_EFFECT].value - bench.references[name][1 - NO_EFFECT].value
        for end, reference in enumerate(bench.references[name]):
            spread = _spread(reference, fit, abs(span) / bench.full_scale)
            if spread is None:
                continue
            moved = (shares if end == NO_EFFECT else 1 - shares) * bench.full_scale / span
            keys.append((name, end))
            if moves:
                shift = np.zeros(len(fit.values))
                shift[plateaus] = moved
                errors.append(CommonError(spread, shift=shift))
            else:
                errors.append(CommonError(spread, on=moved * _belonging(compound, fit, scopes, name)))
    compound.reference_keys = tuple(keys)
    return fit.judged(tuple(errors)) if errors else fit


def with_raw_target(bench: DoseBench, compound: Compound, fit: Fit, effect: float) -> Fit:
    """A fit of raw responses, with the errors of the response that stands for an effect on the scale of references."""
    scopes = {bench.reference_of[id] for id in compound.ids if id in bench.reference_of}
    if len(scopes) != 1:
        return fit
    errors = []
    for end, reference in enumerate(bench.references[scopes.pop()]):
        spread = _spread(reference, fit, 1.0)
        if spread is not None:
            carries = 1 - effect if end == NO_EFFECT else effect
            errors.append(CommonError(spread, carries=carries, shift=np.zeros(len(fit.values))))
    return fit.but(common=tuple(errors)) if errors else fit


def _spread(reference: Reference, fit: Fit, span: float) -> Spread | None:
    """The variance of a reference, raw; its wells scatter as the doses do unless they show otherwise.

    span : of raw readings, for one of the unit that was fitted. None for a typed one.
    """
    worth = max(reference.n, 1)
    own = Spread(reference.variance * worth, reference.degrees_of_freedom) if reference.n != 1 else None
    curve = None
    if reference.n and fit.rmse is not None and fit.weighting == "none":
        scatter = fit.rmse * span
        curve = Spread(scatter * scatter, fit.degrees_of_freedom)
    return of_mean(own, curve, worth)


def _belonging(compound: Compound, fit: Fit, scopes: list[str], name: str) -> Array:
    """Of each entry of the fit, a reading or the mean of a dose, the share that stands between these references."""
    here = np.array([scope == name for scope in scopes], dtype=float)
    if fit.n == here.size:
        return here
    x = np.array(compound.x)
    return np.array([here[x == dose].mean() for dose in fit.x])

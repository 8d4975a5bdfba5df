"""Which sigmoids are at a limit, a bare end or a step between two doses, and what that leaves open."""

import numpy as np

from dosis.core.arrays import Array, Flags
from dosis.core.models.model import Model

FLAT = 15.0  # |u| from which a reading lies on a plateau
LOPSIDED = 20.0  # power from which the upper plateau is put off by much


def at_limits(model: "Model", levels: Array, values: Array) -> tuple[Flags, Flags]:
    """Which curves are only a bare end of a sigmoid, and which a step between two levels, (curves,) both.

    levels : (k,) distinct x; values : (curves, p).
    """
    assert model.sigmoid is not None
    form, named = model.sigmoid, dict(zip(model.names, values.T, strict=True))
    t = np.log(levels[levels > 0]) if form.logarithmic else levels
    with np.errstate(all="ignore"):
        steepness = 1 / named[form.steepness] if form.inverse_steepness else named[form.steepness]
        place = np.log(named[form.place]) if form.logarithmic else named[form.place]
        u = steepness[:, None] * (t - place[:, None])
        close = (np.abs(u) >= FLAT).sum(axis=1) >= t.size - 1
        if form.power:
            close |= named[form.power] > LOPSIDED
        rows = np.flatnonzero(close)
        u = u[rows]
        if form.power:  # one below 1 draws the way to the lower plateau out, one above puts that to the upper one off
            power = named[form.power][rows, None]
            u = np.where(u < 0, u * np.minimum(power, 1.0), u - np.log(np.maximum(power, 1.0)))
    bare, step = np.zeros(len(values), dtype=bool), np.zeros(len(values), dtype=bool)
    if t.size == levels.size:
        bare[rows] = (u < -FLAT).all(axis=1) | (u > FLAT).all(axis=1)
    between = (np.abs(u) < FLAT).sum(axis=1)
    step[rows] = (between <= 1) & (u < 0).any(axis=1) & (u > 0).any(axis=1)
    return bare, step


def undetermined(model: "Model", levels: Array, values: Array) -> tuple[frozenset[str], str]:
    """The parameters that one curve (p,) at a limit leaves open, and why."""
    bare, step = at_limits(model, levels, values[None])
    if bare[0]:
        return open_at(model, bare=True), "Only one end of the curve lies within the doses."
    if step[0]:
        why = "The best curve is a step between two doses; where in between, and how steep, stays open."
        return open_at(model, bare=False), why
    return frozenset(), ""


def open_at(model: "Model", *, bare: bool) -> frozenset[str]:
    """The parameters that a bare end, or else a step, leaves open."""
    form = model.sigmoid
    assert form is not None
    ends = {"lower", "upper", form.place} if bare else {form.place, form.steepness}
    return frozenset(ends | ({form.power} if form.power else set()))

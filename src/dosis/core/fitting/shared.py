"""Simultaneous fits of several series: parameters shared over all of them, the others each series' own."""

from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array, Rows
from dosis.core.fitting.levenberg import Minimum, descend
from dosis.core.fitting.scale import from_scale, to_scale
from dosis.core.inference.joint import SharedFit, Slot
from dosis.core.inference.result import Fit
from dosis.core.models import Model

Alone = Callable[[Rows], Fit]


@dataclass(frozen=True)
class Joint:
    """A model on readings of several series.

    slots : the parameters to fit; a slot without a label is shared. places : for each label, where its model's
    parameters are among the slots, None for one that is fixed.
    """

    model: Model
    x: Array
    y: Array
    w: Array
    rows: Mapping[Hashable, Rows]
    slots: tuple[Slot, ...]
    places: Mapping[Hashable, tuple[int | None, ...]]
    fixed: Mapping[str, float]

    @classmethod
    def of(
        cls, model: Model, x: Array, y: Array, w: Array, rows: Mapping[Hashable, Rows], share: Sequence[str],
        fixed: Mapping[str, float],
    ) -> "Joint":  # fmt: skip
        """The slots in the model's order, a shared one once."""
        slots = tuple(
            Slot(parameter, label)
            for parameter in model.parameters if parameter.name not in fixed
            for label in ((None,) if parameter.name in share else rows)
        )  # fmt: skip
        at = {(slot.parameter.name, slot.label): i for i, slot in enumerate(slots)}
        places = {label: tuple(at.get((name, None), at.get((name, label))) for name in model.names) for label in rows}
        return cls(model, x, y, w, rows, slots, places, fixed)

    def values(self, label: Hashable, p: Array) -> Array:
        """One series' parameters, in the model's order."""
        return np.array([
            self.fixed[name] if place is None else p[place]
            for name, place in zip(self.model.names, self.places[label], strict=True)
        ])  # fmt: skip

    def look(self, p: Array) -> tuple[Array, Array]:
        """Fitted y (n,) and its Jacobian (n, slots)."""
        fitted, jacobian = np.empty_like(self.y), np.zeros((self.y.size, len(self.slots)))
        for label, rows in self.rows.items():
            fitted[rows], own = self.model.value_and_derivative(self.x[rows], self.values(label, p))
            for column, place in enumerate(self.places[label]):
                if place is not None:
                    jacobian[rows, place] += own[:, column]
        return fitted, jacobian

    def descend(self, start: Array, held: Mapping[int, float] | None = None) -> tuple[Array, Minimum] | None:
        """The minimum from a start, with some slots held at a value."""
        held = dict(held or {})
        free = [i for i in range(len(self.slots)) if i not in held]
        logarithmic = np.array([self.slots[i].parameter.positive for i in free], dtype=bool)
        root = np.sqrt(self.w)

        def unfold(theta: Array) -> Array:
            p = start.copy()
            p[free] = from_scale(theta, logarithmic)
            for i, value in held.items():
                p[i] = value
            return p

        def evaluate(theta: Array) -> tuple[Array, Array] | None:
            p = unfold(theta)
            fitted, jacobian = self.look(p)
            jacobian = jacobian[:, free] * np.where(logarithmic, p[free], 1.0)
            if not (np.isfinite(fitted).all() and np.isfinite(jacobian).all()):
                return None
            return root * (self.y - fitted), root[:, None] * jacobian

        open_end = np.full(len(free), np.inf)
        with np.errstate(all="ignore"):
            scale = float((self.w * self.y * self.y).sum())
            found = descend(evaluate, to_scale(start[free], logarithmic), -open_end, open_end, scale)
        return None if found is None else (unfold(found.parameters), found)


def fit_shared(
    model: Model, x: Array, y: Array, w: Array, series: Sequence[Hashable], share: Sequence[str],
    fixed: Mapping[str, float], alone: Alone, weighting: str,
) -> SharedFit:  # fmt: skip
    """Fit all series together, from the fits of each alone and from that of all as one; the better is kept.

    Parameters
    ----------
    alone : fits the model to some of the readings, by their places.

    Raises
    ------
    ValueError : where one series alone, or all as one, cannot be fitted, naming the series.
    """
    labels = list(dict.fromkeys(series))
    rows = {label: np.flatnonzero([each == label for each in series]) for label in labels}
    joint = Joint.of(model, x, y, w, rows, share, fixed)
    best: tuple[Array, Minimum] | None = None
    for start in _starts(joint, alone):
        found = joint.descend(start)
        if found is not None and (best is None or found[1].sse < best[1].sse * (1 - 1e-12)):
            best = found
    if best is None:
        raise ValueError(f"{model.name} has no value at the start of the joint fit; give it other series.")
    values, minimum = best
    return SharedFit.of(joint, values, share, weighting, converged=minimum.converged, message=minimum.message)


def _starts(joint: Joint, alone: Alone) -> list[Array]:
    each: dict[Hashable, Array] = {}
    for label, rows in joint.rows.items():
        try:
            each[label] = alone(rows).values
        except ValueError as error:
            raise ValueError(f"Series “{label}”: {error}") from None
    together = alone(np.concatenate(list(joint.rows.values()))).values
    names = joint.model.names

    def filled(of: Mapping[Hashable, Array]) -> Array:
        start = np.empty(len(joint.slots))
        for i, slot in enumerate(joint.slots):
            column = names.index(slot.parameter.name)
            found = np.array([of[label][column] for label in (joint.rows if slot.label is None else (slot.label,))])
            start[i] = np.exp(np.log(found).mean()) if slot.parameter.positive else found.mean()
        return start

    return [filled(each), filled(dict.fromkeys(joint.rows, together))]

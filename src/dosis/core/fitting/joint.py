"""The problem of a simultaneous fit: a model on several series, some parameters shared, the others each series' own."""

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array, Rows
from dosis.core.fitting.levenberg import Minimum, descend
from dosis.core.fitting.scale import from_scale, to_scale
from dosis.core.models.model import Model, Parameter


@dataclass(frozen=True, slots=True)
class Slot:
    """A fitted parameter: of one series, or shared by all where there is no label."""

    parameter: Parameter
    label: Hashable | None

    @property
    def name(self) -> str:
        """ "midpoint" when shared, "midpoint of A" when it is a series' own."""
        return self.parameter.name if self.label is None else f"{self.parameter.name} of {self.label}"


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

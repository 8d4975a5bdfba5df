"""Simultaneous fits of several series: parameters shared over all of them, the others each series' own."""

from collections.abc import Callable, Hashable, Mapping, Sequence

import numpy as np

from dosis.core.arrays import Array, Rows
from dosis.core.fitting.joint import Joint
from dosis.core.fitting.levenberg import Minimum
from dosis.core.inference.joint import SharedFit
from dosis.core.inference.result import Fit
from dosis.core.models import Model

Alone = Callable[[Rows], Fit]


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

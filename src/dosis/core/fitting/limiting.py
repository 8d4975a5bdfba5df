"""The result of a sigmoid at its minimum, with what a curve that is only an end or a step leaves open."""

from dosis.core.arrays import Array
from dosis.core.fitting.sigmoids import undetermined
from dosis.core.inference.result import Fit
from dosis.core.models import Model
from dosis.core.places import places


def sigmoid_result(model: Model, x: Array, y: Array, w: Array, values: Array, *, converged: bool) -> Fit:
    """The fit at these parameters: x, y, w (n,), values (p,)."""
    message = "Converged." if converged else "Not converged from any start."
    result = Fit.of(model, x, y, w, values, frozenset(), converged=converged, message=message)
    lost, why = undetermined(model, places(x).levels, values)
    return result.losing(lost, why) if lost else result

"""The registry of curve models. Adding a model means declaring it and naming it here."""

from dosis.core.models.model import Model, Parameter
from dosis.core.models.straight import LINE, LINE_THROUGH_ZERO

MODELS: dict[str, Model] = {model.id: model for model in (LINE, LINE_THROUGH_ZERO)}


def model(id: str) -> Model:
    """The model of that id.

    Raises
    ------
    ValueError : for an unknown id, naming the known ones.
    """
    try:
        return MODELS[id]
    except KeyError:
        raise ValueError(f"There is no model “{id}”. Known models: {', '.join(MODELS)}.") from None


__all__ = ["MODELS", "Model", "Parameter", "model"]

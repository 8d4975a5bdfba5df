"""The registry of curve models. Adding a model means declaring it and naming it here."""

from dosis.core.models import peaked, saturating, sigmoid, straight, time
from dosis.core.models.model import Model, Parameter

MODELS: dict[str, Model] = {
    model.id: model
    for room in (straight, saturating, sigmoid, time, peaked)
    for model in vars(room).values()
    if isinstance(model, Model)
}


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


def by_shape() -> dict[str, list[Model]]:
    """The models as people choose them: by the shape of the data."""
    shapes: dict[str, list[Model]] = {}
    for each in MODELS.values():
        shapes.setdefault(each.shape, []).append(each)
    return shapes


def custom(expression: str) -> Model:
    """A model from an expression in x and named parameters, such as ``custom("b1*(1-exp(-b2*x))")``.

    Its derivatives are exact. It is fitted from start values, which must be given.

    Raises
    ------
    ExpressionError : where the expression stops making sense.
    ValueError : when it has no x or no parameter.
    """
    from dosis.core.expressions import parse

    names = sorted(parse(expression).names - {"x"})
    if not names or "x" not in parse(expression).names:
        raise ValueError(
            f"A curve needs x and at least one parameter; “{expression}” has {', '.join(names) or 'none'}."
        )
    return Model(
        id="custom",
        name="Own equation",
        shape="own equation",
        equation=f"y = {expression}",
        form=expression,
        parameters=tuple(Parameter(name, "parameter of an own equation", "") for name in names),
    )


__all__ = ["MODELS", "Model", "Parameter", "by_shape", "custom", "model"]

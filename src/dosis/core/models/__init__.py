"""The registry of curve models. Adding a model means declaring it and naming it here."""

from dataclasses import dataclass

from dosis.core.models import peaked, saturating, sigmoid, straight, temperature, threshold, time
from dosis.core.models.model import Model, Parameter

MODELS: dict[str, Model] = {
    model.id: model
    for room in (straight, saturating, temperature, sigmoid, threshold, time, peaked)
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


SHAPES = (
    "straight", "saturating", "sigmoid", "threshold", "growing", "decaying", "peaked", "point to point", "own equation",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Choice:
    """A model as people choose it: its name, the shape it has, its equation, and a small picture, both axes 0 to 1."""

    id: str
    name: str
    shape: str
    equation: str
    picture: tuple[list[float], list[float]]


def choices() -> list[Choice]:
    """Everything that can be drawn through points, in the order of the shapes."""
    fitted = [
        Choice(m.id, m.name, m.shape, m.equation, (m.picture()[0].tolist(), m.picture()[1].tolist()))
        for m in MODELS.values()
    ]
    x = [0.0, 0.2, 0.45, 0.7, 1.0]
    fitted += [
        Choice(id, name, "point to point", "through every level", (x, [0.0, 0.45, 0.6, 0.9, 1.0]))
        for id, name in (
            ("interpolation_linear", "Straight from point to point"),
            ("interpolation_log", "Straight from point to point, on log x"),
            ("interpolation_monotone", "Smooth from point to point"),
        )
    ]
    fitted.append(Choice("custom", "Own equation", "own equation", "an expression in x and parameters", ([], [])))
    return sorted(fitted, key=lambda choice: SHAPES.index(choice.shape))


def by_shape() -> dict[str, list[Model]]:
    """The models as people choose them: by the shape of the data."""
    shapes: dict[str, list[Model]] = {}
    for each in MODELS.values():
        shapes.setdefault(each.shape, []).append(each)
    return shapes


def custom(expression: str) -> Model:
    """A model from an expression in x and named parameters, such as ``custom("b1*(1-exp(-b2*x))")``.

    Its derivatives are exact. It is fitted from start values, which must be given unless it is linear in all its
    parameters; of those in which it is linear the start does not matter.

    Raises
    ------
    ExpressionError : where the expression stops making sense.
    ValueError : when it has no x or no parameter.
    """
    from dosis.core.expressions import parse
    from dosis.core.expressions.affine import linear_names

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
        linear_in=linear_names(parse(expression), tuple(names)),
    )


__all__ = ["MODELS", "SHAPES", "Choice", "Model", "Parameter", "by_shape", "choices", "custom", "model"]

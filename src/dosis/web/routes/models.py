"""The curve models a person can choose from, with a small picture of each."""

from fastapi import APIRouter

from dosis.core.models import MODELS, choices
from dosis.run.record import Record
from dosis.web.access import READ

router = APIRouter(prefix="/api/models", tags=["models"])


class ModelChoice(Record):
    """A model: its shape, equation, parameters, and a picture, both axes 0 to 1."""

    id: str
    name: str
    shape: str
    equation: str
    parameters: tuple[str, ...]
    x: tuple[float, ...]
    y: tuple[float, ...]


@router.get("", dependencies=[READ])
def list_models() -> list[ModelChoice]:
    """Every model that can be fitted to standards, in the order of the shapes."""
    return [
        ModelChoice(
            id=choice.id, name=choice.name, shape=choice.shape, equation=choice.equation,
            parameters=MODELS[choice.id].names, x=tuple(choice.picture[0]), y=tuple(choice.picture[1]),
        )
        for choice in choices()
        if choice.id in MODELS
    ]  # fmt: skip

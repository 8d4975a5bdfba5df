"""The base of everything a run is made of: immutable, strict about unknown fields, written the same way every time."""

from collections.abc import Generator, Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Annotated, Any, Self, TypeVar, dataclass_transform

from pydantic import BaseModel, ConfigDict, PlainSerializer

Kind = TypeVar("Kind")
# An infinite number is written as one, so that what may not be stored is found in the text: see `finite`.
STRICT = ConfigDict(extra="forbid", allow_inf_nan=False, ser_json_inf_nan="constants")

# UTC, kept without saying so: whoever reads one elsewhere has to be told, or takes it for a time of their own place.
Time = Annotated[datetime, PlainSerializer(lambda at: f"{at.isoformat()}Z", return_type=str, when_used="json")]


class Record(BaseModel):
    """An immutable value with named fields, checked when it is made.

    What was worked out of them and kept (`cached_property`) goes into no copy.
    """

    model_config = STRICT | ConfigDict(frozen=True)

    def __iter__(self) -> Generator[tuple[str, Any], None, None]:
        """Fields and their values, so that `dict(record)` makes another."""
        fields = type(self).model_fields
        yield from ((name, value) for name, value in super().__iter__() if name in fields)

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """A copy with some fields changed."""
        made = super().model_copy(update=update, deep=deep)
        for kept in made.__dict__.keys() - type(self).model_fields.keys():
            del made.__dict__[kept]
        return made


@dataclass_transform(frozen_default=True)
def light(kind: type[Kind]) -> type[Kind]:
    """The same of parts an evaluation makes by the hundred: checked when read, and by the type checker when made.

    That nobody writes to one is left to the type checker, too: to be refused in the running program it would have to
    be made three times as slowly.
    """
    made = dataclass(slots=True, unsafe_hash=True)(kind)
    made.__pydantic_config__ = STRICT  # type: ignore[attr-defined]
    return made


def changed(part: Kind, **fields: Any) -> Kind:
    """A light record with some of its fields replaced."""
    made: Kind = replace(part, **fields)  # type: ignore[type-var]
    return made

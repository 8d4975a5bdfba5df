"""Ends of a stretch of an axis, or of what a parameter may be, either of which can be left open."""

from typing import Annotated

from pydantic import Field

from dosis.core.numbers import LARGEST
from dosis.core.rounding import given
from dosis.run.record import Record

Number = Annotated[float, Field(ge=-LARGEST, le=LARGEST)]


class Range(Record):
    """The ends between which a parameter may lie, or x be taken in; None leaves one open."""

    lower: Number | None = None
    upper: Number | None = None


def end_words(value: float | None) -> str:
    """An end in words."""
    return "the end" if value is None else given(value)

"""The promise that every number of an outcome is one: what is infinite, or no number, is none where it comes to store.

Evaluation does not make such numbers. Should it, an outcome that is stored, and shown, says “none” in both places.
"""

import dataclasses
import math
import sys
import types
import typing
from collections.abc import Mapping
from functools import lru_cache
from typing import Any, TypeVar

from pydantic import BaseModel

Part = TypeVar("Part")


def finite(part: Part) -> Part:
    """A record with numbers that are not finite left out, or as near as a number comes where there must be one."""
    made: Part = _finite(part, optional=False)
    return made


def _finite(value: Any, *, optional: bool) -> Any:
    if isinstance(value, float):
        return value if math.isfinite(value) else None if optional else _nearest(value)
    if isinstance(value, tuple):
        return tuple(_finite(each, optional=False) for each in value)
    if isinstance(value, Mapping):
        return {key: _finite(each, optional=False) for key, each in value.items()}
    return _record(value) if isinstance(value, BaseModel) or dataclasses.is_dataclass(value) else value


def _record(value: Any) -> Any:
    maybe = _optional(type(value))  # type: ignore[arg-type]
    clean = {name: _finite(getattr(value, name), optional=may) for name, may in maybe.items()}
    changed = {name: each for name, each in clean.items() if each is not getattr(value, name)}
    if isinstance(value, BaseModel):
        return value.model_copy(update=changed)
    return dataclasses.replace(value, **changed)


def _nearest(value: float) -> float:
    return 0.0 if math.isnan(value) else math.copysign(sys.float_info.max, value)


@lru_cache(maxsize=256)
def _optional(kind: Any) -> dict[str, bool]:
    """The fields of a record, and whether each may be none."""
    hints = typing.get_type_hints(kind)
    names = kind.model_fields if issubclass(kind, BaseModel) else [f.name for f in dataclasses.fields(kind)]
    return {name: types.NoneType in typing.get_args(hints[name]) for name in names}

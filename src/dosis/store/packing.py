"""Records as compressed JSON in a blob, and back."""

import zlib
from typing import TypeVar

from pydantic import BaseModel

Stored = TypeVar("Stored", bound=BaseModel)


def pack(record: BaseModel, *, exclude: set[str] | None = None) -> bytes:
    """A record's JSON, compressed lightly: a large run's outcome is megabytes of repeating text."""
    return zlib.compress(record.model_dump_json(exclude=exclude).encode(), 1)


def unpack(kind: type[Stored], blob: bytes) -> Stored:
    """The record of that kind a blob holds."""
    return kind.model_validate_json(zlib.decompress(blob))

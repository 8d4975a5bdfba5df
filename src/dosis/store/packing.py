"""Records as compressed JSON in a blob, and back."""

import re
import zlib
from typing import TypeVar

from pydantic import BaseModel

from dosis.run.finite import finite

_NO_NUMBER = re.compile(rb"[:,\[](-?Infinity|NaN)[,}\]]")
Stored = TypeVar("Stored", bound=BaseModel)


def pack(record: BaseModel, *, exclude: set[str] | None = None) -> bytes:
    """A record's JSON, compressed lightly: a large run's outcome is megabytes of repeating text."""
    return zlib.compress(record.model_dump_json(exclude=exclude).encode(), 1)


def pack_finite(record: Stored, *, exclude: set[str] | None = None) -> tuple[bytes, Stored]:
    """The same, and the record as it comes back: where a number was none, both say so."""
    text = record.model_dump_json(exclude=exclude).encode()
    if _NO_NUMBER.search(text):
        record = finite(record)
        text = record.model_dump_json(exclude=exclude).encode()
    return zlib.compress(text, 1), record


def unpack(kind: type[Stored], blob: bytes) -> Stored:
    """The record of that kind a blob holds."""
    return kind.model_validate_json(zlib.decompress(blob))

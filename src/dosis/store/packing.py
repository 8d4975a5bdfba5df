"""Records as compressed JSON in a blob, and back; each with the version of its form, so that later programs read it."""

import json
import re
import zlib
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from dosis.run.finite import finite
from dosis.store.upgrades import upgraded, version_of

_NO_NUMBER = re.compile(rb"[:,\[](-?Infinity|NaN)[,}\]]")
_VERSION = re.compile(rb'\{"version":(\d+)[,}]')
Stored = TypeVar("Stored", bound=BaseModel)


class Unreadable(Exception):
    """What is stored is of a form that this program does not know; the message says what to do."""


def pack(record: BaseModel, *, exclude: set[str] | None = None) -> bytes:
    """A record's JSON with its version first, compressed lightly: a large run's outcome is megabytes of the same."""
    return _packed(type(record), record.model_dump_json(exclude=exclude).encode())


def text_of(record: Stored, *, exclude: set[str] | None = None) -> tuple[bytes, Stored]:
    """A record's JSON, and the record as it comes back: where a number was none, both say so."""
    text = record.model_dump_json(exclude=exclude).encode()
    # The plain words are looked for first: the pattern takes a fifth of a second for a large run.
    if (b"NaN" in text or b"Infinity" in text) and _NO_NUMBER.search(text):
        record = finite(record)
        text = record.model_dump_json(exclude=exclude).encode()
    return text, record


def pack_text(kind: type[BaseModel], text: bytes) -> bytes:
    """What `pack` makes of a record, from its JSON."""
    return _packed(kind, text)


def unpack_text(kind: type[BaseModel], blob: bytes) -> bytes:
    """The JSON of a packed record in today's form. Raises Unreadable."""
    text = zlib.decompress(blob)
    found = _VERSION.match(text)
    if found and int(found[1]) == version_of(kind):
        return _opened(text[found.end() - 1 :])
    return unpack(kind, blob).model_dump_json().encode()


def text_as_stored(blob: bytes) -> bytes:
    """The JSON of a packed record in the form in which it was stored, without its version."""
    text = zlib.decompress(blob)
    found = _VERSION.match(text)
    return text if found is None else _opened(text[found.end() - 1 :])


def unpack(kind: type[Stored], blob: bytes) -> Stored:
    """The record of that kind a blob holds, whichever version stored it.

    Raises
    ------
    Unreadable : when a newer program stored it, with a version or with fields that this one does not know.
    """
    text = zlib.decompress(blob)
    found, now = _VERSION.match(text), version_of(kind)
    version = int(found[1]) if found else 1
    if version > now:
        raise Unreadable(_newer(kind, f"in version {version} of its form; this program knows {now}"))
    try:
        if found and version == now:
            return kind.model_validate_json(_opened(text[found.end() - 1 :]))
        data: dict[str, Any] = json.loads(text)
        data.pop("version", None)
        return kind.model_validate(upgraded(kind, data, version))
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        place = ".".join(map(str, first["loc"]))
        if first["type"] == "extra_forbidden":
            raise Unreadable(_newer(kind, f"with the field “{place}”, which this program does not know")) from error
        raise Unreadable(
            f"The {kind.__name__.lower()} that is stored cannot be read: {place}: {first['msg']}. Nothing was changed. "
            "Bring back a backup made before this happened, or ask for help."
        ) from error


def _packed(kind: type[BaseModel], text: bytes) -> bytes:
    rest = text[1:] if text == b"{}" else b"," + text[1:]
    return zlib.compress(b'{"version":%d' % version_of(kind) + rest, 1)


def _opened(rest: bytes) -> bytes:
    """What follows the version as a record of its own: "," and fields, or the closing brace alone."""
    return b"{" + rest.removeprefix(b",")


def _newer(kind: type[BaseModel], how: str) -> str:
    return (
        f"A newer version of Dosis has stored this {kind.__name__.lower()} {how}. Open it with the newer version. "
        "Nothing was changed."
    )

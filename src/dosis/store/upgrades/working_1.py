"""Workings of version 1: the lines by group alone, with no place for a version beside them."""

from typing import Any


def upgrade(data: dict[str, Any]) -> dict[str, Any]:
    """The same lines under a name of their own."""
    return {"lines": data}

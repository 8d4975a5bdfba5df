"""Methods of version 3: what a setting was for that a step did not have yet, or had another default for."""

from typing import Any

WAS: dict[str, dict[str, Any]] = {
    "curve": {"weights": "none"},
    "read_back": {"scatter": "curve"},
    "counts": {"pool": "dose"},
    "quantal": {"background": "abbott", "scatter": "poor"},
}


def upgrade(data: dict[str, Any]) -> dict[str, Any]:
    """The same method, with what went without saying said."""
    return {**data, "steps": [{**WAS.get(step["kind"], {}), **step} for step in data["steps"]]}

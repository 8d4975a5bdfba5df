"""Methods of version 2: the place of a peak was a parameter called "centre"."""

from typing import Any

OLD, NEW = "centre", "center"


def upgrade(data: dict[str, Any]) -> dict[str, Any]:
    """The same values held and begun from, under the name it has now; names of an equation of one's own stay."""
    return {**data, "steps": [_step(step) for step in data["steps"]]}


def _step(step: dict[str, Any]) -> dict[str, Any]:
    if step.get("model") == "custom":
        return step
    made = dict(step)
    for key in ("fixed", "start"):
        if key in step:
            made[key] = _renamed(step[key])
    if "own" in step:
        made["own"] = {name: _step(setting) for name, setting in step["own"].items()}
    if "share" in step:
        made["share"] = [NEW if name == OLD else name for name in step["share"]]
    return made


def _renamed(values: dict[str, float]) -> dict[str, float]:
    return {NEW if name == OLD else name: value for name, value in values.items()}

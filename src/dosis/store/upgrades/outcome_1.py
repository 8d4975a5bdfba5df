"""Outcomes of version 1: effects of which some have numbers without intervals."""

from typing import Any

NAMES = ("minus_log", "slope", "area")


def upgrade(data: dict[str, Any]) -> dict[str, Any]:
    """Every effect with a shape: its numbers, without an interval where they were stored without one."""
    return {**data, "effects": [_effect(effect) for effect in data.get("effects", ())]}


def _effect(effect: dict[str, Any]) -> dict[str, Any]:
    if "shape" in effect:
        return effect
    known = [name for name in NAMES if effect.get(name) is not None]
    shape = {name: {"value": effect[name], "shown": effect.get(f"shown_{name}", "—")} for name in known}
    return {**effect, "shape": shape}

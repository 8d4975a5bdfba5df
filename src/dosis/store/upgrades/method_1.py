"""Methods of version 1: checks with a CV limit beside that of the replicates, references named by their percentages."""

from typing import Any

FIELDS = {
    "hundred": "no_effect", "nought": "full_effect", "typed_hundred": "typed_no_effect",
    "typed_nought": "typed_full_effect",
}  # fmt: skip
SOURCES = {
    "smallest_mean": "least_level", "largest_mean": "greatest_level", "first_level": "lowest_dose",
    "last_level": "highest_dose", "smaller_end": "lower_end", "larger_end": "higher_end", "sum": "total",
    "mean": "average",
}  # fmt: skip


def upgrade(data: dict[str, Any]) -> dict[str, Any]:
    """One CV limit, that of the checks, which was the one to set; references named by what they are."""
    limit = next((step["cv_limit"] for step in data["steps"] if step["kind"] == "checks" and "cv_limit" in step), None)
    return {**data, "steps": [_step(step, limit) for step in data["steps"]]}


def _step(step: dict[str, Any], limit: float | None) -> dict[str, Any]:
    if step["kind"] == "replicates" and limit is not None:
        return {**step, "cv_limit": limit}
    if step["kind"] == "checks":
        return {key: value for key, value in step.items() if key != "cv_limit"}
    if step["kind"] == "normalize":
        made = {FIELDS.get(key, key): value for key, value in step.items()}
        return made | {key: SOURCES.get(made[key], made[key]) for key in ("no_effect", "full_effect") if key in made}
    return step

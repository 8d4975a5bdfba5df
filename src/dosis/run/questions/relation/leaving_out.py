"""Which points are left out of a curve by a rule: those outside a window, and the first or last of them."""

from typing import Annotated, Literal

from pydantic import Field

from dosis.run.record import Record

Count = Annotated[int, Field(ge=0, le=1000)]


class LeaveOut(Record):
    """The first and last points of every series, by x or in the order of the table; at most so many by a rule."""

    first: Count = 0
    last: Count = 0
    by: Literal["x", "table"] = "x"
    at_most: Count | None = None

    @property
    def too_many(self) -> str:
        """What is said where more are left out than the rule allows; empty otherwise."""
        if self.at_most is None or self.first + self.last <= self.at_most:
            return ""
        return f"{self.first + self.last} points are left out; the rule of this run allows {self.at_most}."

    @property
    def words(self) -> str:
        """The rule in words."""
        parts = [f"the {end} {n}" for end, n in (("first", self.first), ("last", self.last)) if n]
        order = " in the order of the table" if parts and self.by == "table" else ""
        most = "" if self.at_most is None else f", at most {self.at_most}"
        return f", without {' and '.join(parts)}{order}{most}" if parts else most


def left_out(
    rows: list[tuple[float, int]], lower: float | None, upper: float | None, rule: LeaveOut
) -> dict[int, str]:  # fmt: skip
    """Why points (x, id), in the order of the table, are no part of the curve; the window counts first."""
    gone = {
        id: "outside the window"
        for x, id in rows
        if (lower is not None and x < lower) or (upper is not None and x > upper)
    }
    kept = [row for row in rows if row[1] not in gone]
    if rule.by == "x":
        kept.sort(key=lambda row: row[0])
    places = sorted({x for x, _ in kept}) if rule.by == "x" else [id for _, id in kept]
    ends = {**dict.fromkeys(places[: rule.first], "first"), **dict.fromkeys(places[len(places) - rule.last :], "last")}
    for x, id in kept:
        if end := ends.get(x if rule.by == "x" else id):
            count = rule.first if end == "first" else rule.last
            gone[id] = f"one of the {end} {count}, which are left out"
    return gone

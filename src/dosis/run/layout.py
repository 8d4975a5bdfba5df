"""Layout: what each reading is — role, name, level, dilution — and which ones are left out, with the reason."""

import re
from collections.abc import Sequence
from functools import cached_property
from typing import Annotated

from pydantic import Field, model_validator

from dosis.core.numbers import LARGEST
from dosis.run.record import Record
from dosis.run.roles import Role

Name = Annotated[str, Field(max_length=200)]
Unit = Annotated[str, Field(max_length=40)]
Reason = Annotated[str, Field(min_length=1, max_length=500)]
Dilution = Annotated[float, Field(gt=0, le=1e12)]
Level = Annotated[float, Field(ge=-LARGEST, le=LARGEST)]


class Quantity(Record):
    """What an axis shows, and its unit."""

    name: Name
    unit: Unit = ""

    @property
    def label(self) -> str:
        """Quantity / unit, as axes are labeled."""
        return f"{self.name} / {self.unit}" if self.unit else self.name


PART = ":"  # between a group's id and what tells a part of it from the others


def part_id(group: str, part: str) -> str:
    """The id of a part of a group: one of its readings, or those on one plate."""
    return f"{group}{PART}{part}"


def part_name(group: str, part: str) -> str:
    """The name of such a part, within what a name may be long."""
    return f"{group[:150]} · {part[:40]}"


def whole_id(id: str) -> str:
    """The id of the group in the layout that a group on the bench is, or is part of."""
    return id.partition(PART)[0]


class Group(Record):
    """Replicate readings of one thing. `level` is its known concentration or dose, before any dilution.

    series : the curve it belongs to, where there are several; working : how its level was worked out.
    spike_of : of a sample to which a known amount was added, the name of the sample without it; its `level` is then
        what was added, as a concentration in the sample.
    replicate_of : of a preparation, such as one of several extracts, the name of what they are preparations of.
    """

    id: str
    role: Role
    name: Name
    level: Level | None = None
    dilution: Dilution = 1.0
    note: str = ""
    series: Name = ""
    working: str = ""
    spike_of: Name = ""
    replicate_of: Name = ""
    readings: tuple[int, ...]


class Exclusion(Record):
    """A reading left out by a person, who says why; of a reading that is a curve, `at` names the one place left out."""

    reading: int
    at: Annotated[int, Field(ge=0)] | None = None
    reason: Reason


class Layout(Record):
    """Every reading belongs to one group at most."""

    signal: Quantity
    level: Quantity
    groups: tuple[Group, ...]
    exclusions: tuple[Exclusion, ...] = ()

    @model_validator(mode="after")
    def _each_reading_once(self) -> "Layout":
        if len(self.members) != sum([len(group.readings) for group in self.groups]):
            raise ValueError("A reading belongs to two groups; each reading has one place in the layout.")
        if len({group.id for group in self.groups}) != len(self.groups):
            raise ValueError("Two groups have the same id.")
        if not {exclusion.reading for exclusion in self.exclusions} <= self.members:
            raise ValueError("A reading is excluded that is in no group.")
        return self

    @cached_property
    def members(self) -> frozenset[int]:
        """Every reading that is in a group."""
        return frozenset([reading for group in self.groups for reading in group.readings])

    @cached_property
    def excluded(self) -> dict[int, str]:
        """Readings that are left out whole, and why."""
        return {each.reading: each.reason for each in self.exclusions if each.at is None}

    def having(self, **parts: object) -> "Layout":
        """The same with these parts in place of its own, checked as a whole. Raises ValidationError."""
        return Layout.model_validate({**dict(self), **parts})

    def group(self, id: str) -> Group:
        """The group of that id. Raises KeyError."""
        for group in self.groups:
            if group.id == id:
                return group
        raise KeyError(id)


def natural(name: str) -> tuple[tuple[int, str], ...]:
    """A name as it is sorted: digits as the numbers they are, letters without regard to case."""
    return tuple(
        (int(part), "") if part.isdigit() else (-1, part.casefold())
        for part in re.findall(r"[0-9]{1,18}|[^0-9]+", name)
    )


def named_series(groups: Sequence[Group]) -> list[Group]:
    """The groups with their names as series, where none has a series and names divide the levels."""
    if any(group.series for group in groups):
        return list(groups)
    levels: dict[str, set[float]] = {}
    for group in groups:
        if group.level is not None:
            levels.setdefault(group.name, set()).add(group.level)
    dividing = {name for name, own in levels.items() if len(own) > 1}
    if len(dividing) < 2:
        return list(groups)
    return [group.model_copy(update={"series": group.name}) if group.name in dividing else group for group in groups]

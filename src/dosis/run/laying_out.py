"""Laying out: what wells or rows are — by hand, as a dilution series or numbered samples, from a saved layout."""

import re
from collections.abc import Iterable, Mapping
from typing import Annotated, Literal

from pydantic import Field

from dosis.core.rounding import given
from dosis.core.solutions import serial_dilution
from dosis.core.units import convert
from dosis.run.layout import Dilution, Group, Layout, Name, Quantity
from dosis.run.method import Method
from dosis.run.opening import opened_method
from dosis.run.questions.registry import question_of
from dosis.run.readings import Reading, Readings
from dosis.run.recipes import Recipe, Typed, level_in
from dosis.run.record import Record
from dosis.run.roles import ROLES, Role
from dosis.run.saved_layout import SavedLayout
from dosis.run.wells import Direction, Place, arranged, parse_well, well_name

Ids = Annotated[tuple[int, ...], Field(min_length=1, max_length=100_000)]
Replicates = Annotated[int, Field(ge=1, le=1000)]


class AssignWells(Record):
    """Say what selected readings are, all at once; what is not given stays as it is.

    A level is typed with or without its unit ("500 µg/L"), or worked out by a recipe. A new name makes one group of
    the whole selection.
    """

    kind: Literal["assign_wells"] = "assign_wells"
    readings: Ids
    role: Role | None = None
    name: Name | None = None
    series: Name | None = None
    level: Typed | None = None
    recipe: Recipe | None = None
    dilution: Dilution | None = None
    spike_of: Name | None = None
    replicate_of: Name | None = None

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """The layout with these readings in groups of that description."""
        old = _groups_by_reading(layout)
        if self.role is None and any(id not in old for id in self.readings):
            raise ValueError("Some of the selected wells have no role yet. Choose one with the rest.")
        new: dict[str, object] = {}
        unit = layout.level.unit
        if self.level is not None and self.recipe is None:
            value: float | None = None
            if self.level.strip():
                value, unit = level_in(self.level, unit)
            new |= {"level": value, "working": ""}
        if self.recipe is not None:
            value, unit, working = self.recipe.level(unit)
            new |= {"level": value, "working": working}
        given_facts = (
            ("role", self.role), ("name", self.name), ("series", self.series), ("dilution", self.dilution),
            ("spike_of", self.spike_of), ("replicate_of", self.replicate_of),
        )  # fmt: skip
        new |= {key: value for key, value in given_facts if value is not None}
        fresh = self._fresh_name(layout, set(self.readings), method)
        wanted: dict[int, Group] = {}
        for id in self.readings:
            group = old.get(id)
            if group is None or (self.role is not None and self.name is None and group.role is not self.role):
                base: dict[str, object] = {"name": fresh, "level": None, "dilution": 1.0}
                kept = {} if group is None else {"dilution": group.dilution, "series": group.series}
                wanted[id] = Group.model_validate({"id": "", "role": self.role, "readings": (), **base, **kept, **new})
            else:
                own = "" if self.name is not None else group.id
                wanted[id] = group.model_copy(update={"id": own, "readings": (), **new})
        return _with_curve(readings, layout, placed(_with_unit(layout, unit), wanted), method)

    def _fresh_name(self, layout: Layout, selected: set[int], method: Method) -> str:
        if self.role is None:
            return ""
        stem = question_of(method.question).stem(self.role)
        if ROLES[self.role].alone:
            return stem
        taken = {group.name for group in layout.groups if not set(group.readings) <= selected}
        return next(name for n in range(1, len(taken) + 2) if (name := f"{stem} {n}") not in taken)

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        said = [ROLES[self.role].name] if self.role else []
        said += [
            f"{key} “{value}”" for key, value in (("name", self.name), ("series", self.series)) if value is not None
        ]
        if self.recipe is not None:
            said.append(f"level {self.recipe.level(layout.level.unit)[2]}")
        elif self.level is not None:
            said.append(f"level {self.level.strip() or 'none'}")
        if self.dilution is not None:
            said.append(f"dilution × {given(self.dilution)}")
        if self.spike_of is not None:
            said.append(f"an addition to {self.spike_of}" if self.spike_of else "no addition")
        if self.replicate_of is not None:
            said.append(f"a preparation of {self.replicate_of}" if self.replicate_of else "a preparation by itself")
        return f"{places_named(readings, self.readings)}: {', '.join(said) or 'no change'}"


class FillSeries(Record):
    """A serial dilution over a selection: `top`, then each level the one before divided by `factor`."""

    kind: Literal["fill_series"] = "fill_series"
    readings: Ids
    top: Typed = ""
    recipe: Recipe | None = None
    factor: Annotated[float, Field(gt=1, le=1e6)]
    direction: Direction = "down"
    replicates: Replicates = 1
    beside: bool = True
    zero_at_end: bool = False
    rising: bool = False
    role: Literal[Role.STANDARD, Role.QC, Role.DOSE] = Role.STANDARD
    name: Name = "Std"
    series: Name = ""

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """The layout with one standard for each level."""
        groups = _arranged(readings, self.readings, self.direction, self.replicates, self.beside)
        unit, made = layout.level.unit, ""
        if self.recipe is not None:
            top, unit, made = self.recipe.level(unit)
        else:
            top, unit = level_in(self.top, unit)
        if self.zero_at_end and len(groups) == 1:
            raise ValueError("A series with a zero at its end needs at least two levels; select more wells.")
        levels = serial_dilution(top, self.factor, len(groups) - self.zero_at_end, zero_at_end=self.zero_at_end)
        if self.rising:
            levels.reverse()
        step = {level: i for i, level in enumerate(sorted(levels, reverse=True))}
        wanted = {
            id: Group(
                id="", role=self.role, name=f"{self.name} {n}".strip(), level=level, series=self.series, readings=(),
                working="" if not level else made if level == top else
                f"{given(top)} ÷ {given(self.factor)}{'' if step[level] == 1 else f'^{step[level]}'} = "
                f"{level:.6g} {unit}".rstrip(),
            )
            for n, (level, ids) in enumerate(zip(levels, groups, strict=True), start=1)
            for id in ids
        }  # fmt: skip
        return _with_curve(readings, layout, placed(_with_unit(layout, unit), wanted), method)

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        top = self.recipe.level(layout.level.unit)[2] if self.recipe else self.top.strip()
        zero = ", zero at the end" if self.zero_at_end else ""
        return f"{places_named(readings, self.readings)}: dilution series from {top}, ÷ {given(self.factor)}{zero}"


class ListedWell(Record):
    """What a list says of a well; empty where it says nothing. The level is as typed, with or without its unit."""

    plate: Name = ""
    well: Name
    name: Name = ""
    series: Name = ""
    role: Role
    level: Typed = ""
    dilution: Dilution = 1.0


class DescribeWells(Record):
    """Say what wells are by a list, all at once; wells it does not name stay as they are."""

    kind: Literal["describe_wells"] = "describe_wells"
    wells: Annotated[tuple[ListedWell, ...], Field(min_length=1, max_length=100_000)]

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """The layout with the wells as listed."""
        plates = {plate.name.casefold(): i for i, plate in enumerate(readings.plates)}
        at = {(r.plate, r.row, r.column): r.id for r in readings.readings}
        roles, unit = question_of(method.question).roles, layout.level.unit
        wanted: dict[int, Group] = {}
        for listed in self.wells:
            place = parse_well(listed.well)
            plate = _plate_named(listed.plate, plates)
            ids = [
                id
                for (p, r, c), id in at.items()
                if (r, c) == place and p is not None and p == (plate if plate is not None else p)
            ]
            if place is None or not ids:
                on = f" on plate “{listed.plate}”" if listed.plate else ""
                raise ValueError(f"This run has no well {listed.well}{on}. Correct the list, and paste it again.")
            level = None
            if listed.level.strip():
                level, unit = level_in(listed.level, unit)
            role = listed.role if listed.role in roles else _role_here(listed.role, roles)
            name = listed.name or listed.series or question_of(method.question).stem(role)
            for id in ids:
                wanted[id] = Group(id="", role=role, name=name, level=level, series=listed.series,
                                   dilution=listed.dilution, readings=())  # fmt: skip
        return _with_curve(readings, layout, placed(_with_unit(layout, unit), wanted), method)

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        return f"{len(self.wells)} wells described by a list"


def _plate_named(name: str, plates: Mapping[str, int]) -> int | None:
    """Which plate a name means, also where it is only its number; None for every plate."""
    plain = name.strip().casefold()
    if not plain:
        return None
    found = plates.get(plain, plates.get(f"plate {plain}"))
    if found is None:
        raise ValueError(f"This run has no plate “{name}”. It has: {', '.join(plates) or 'none'}.")
    return found


def _role_here(role: Role, roles: Iterable[Role]) -> Role:
    """A role as a question has it: what has a level is a dose or a point where there are no standards."""
    kept = tuple(roles)
    also = {Role.BLANK: (Role.VEHICLE,), Role.QC: (Role.VEHICLE,)}.get(role, ())
    return next((each for each in (*also, Role.DOSE, Role.POINT) if each in kept), role)


class NumberSamples(Record):
    """Samples over a selection, named by counting on from the first name ("M-101", "Pond 1"), or by a list of names.

    names : one for each sample in turn; places beyond the list are left as they are.
    """

    kind: Literal["number_samples"] = "number_samples"
    readings: Ids
    first: Annotated[str, Field(min_length=1, max_length=180)] = "S1"
    names: Annotated[tuple[Name, ...], Field(max_length=10_000)] = ()
    direction: Direction = "down"
    replicates: Replicates = 1
    beside: bool = True
    role: Literal[Role.SAMPLE, Role.QC] = Role.SAMPLE
    dilution: Dilution = 1.0

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """The layout with one sample for each group of replicates."""
        groups = _arranged(readings, self.readings, self.direction, self.replicates, self.beside)
        if len(self.names) > len(groups):
            raise ValueError(
                f"These are {len(self.names)} names for {len(groups)} {'place' if len(groups) == 1 else 'places'}. "
                "Select more wells, or fewer replicates."
            )
        names = self.names or counted(self.first, len(groups))
        wanted = {
            id: Group(id="", role=self.role, name=name.strip(), dilution=self.dilution, readings=())
            for name, ids in zip(names, groups, strict=False)
            for id in ids
        }
        return _with_curve(readings, layout, placed(layout, wanted), method)

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        dilution = f", dilution × {given(self.dilution)}" if self.dilution != 1 else ""
        from_what = f"{self.names[0]} to {self.names[-1]}, from a list" if self.names else f"from {self.first}"
        return f"{places_named(readings, self.readings)}: {ROLES[self.role].name}s {from_what}{dilution}"


class ClearWells(Record):
    """Take the role off readings; their exclusions go with it."""

    kind: Literal["clear_wells"] = "clear_wells"
    readings: Ids

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """The layout without these readings."""
        _known(readings, self.readings)
        return placed(layout, {}, cleared=self.readings), method

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        out = {exclusion.reading for exclusion in layout.exclusions} & set(self.readings)
        also = f"; {len(out)} exclusion{'s' if len(out) > 1 else ''} with it" if out else ""
        return f"{places_named(readings, self.readings)}: role removed{also}"


class ApplyLayout(Record):
    """Lay a plate out as a saved layout says; what it says of wells that the plate does not have is refused."""

    kind: Literal["apply_layout"] = "apply_layout"
    layout: SavedLayout
    plate: Annotated[int, Field(ge=0)] = 0

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """The layout with every well of that plate as saved; other plates stay."""
        on_plate = {(r.row, r.column): r.id for r in readings.readings if r.plate == self.plate}
        if not on_plate:
            raise ValueError("This run has no such plate; a layout is laid on plates.")
        beyond = [w.well for w in self.layout.wells if (place := parse_well(w.well)) is None or place not in on_plate]
        if beyond:
            size = readings.plates[self.plate]
            raise ValueError(
                f"The layout “{self.layout.name}” uses well {beyond[0]}, which a plate of {size.rows} × "
                f"{size.columns} wells does not have. Choose a layout made for this plate."
            )
        unit, saved = layout.level.unit, self.layout.level.unit
        wanted = {
            on_plate[parse_well(well.well) or (0, 0)]: Group(
                id="", role=well.role, name=well.name, series=well.series, dilution=well.dilution, readings=(),
                level=convert(well.level, saved, unit) if well.level is not None and unit and saved else well.level,
                working=well.working,
            )
            for well in self.layout.wells
        }  # fmt: skip
        quantity = layout.level if unit else self.layout.level
        based = layout.having(level=quantity)
        return _with_curve(readings, layout, placed(based, wanted, cleared=on_plate.values()), method)

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        plate = f" on {readings.plates[self.plate].name}" if len(readings.plates) > self.plate > 0 else ""
        return f"Layout “{self.layout.name}” applied{plate}"


class Describe(Record):
    """Name the signal or the concentration, and their units; numbers stay as they are."""

    kind: Literal["describe"] = "describe"
    signal: Quantity | None = None
    level: Quantity | None = None

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """The layout with these quantities."""
        new = {key: value for key, value in (("signal", self.signal), ("level", self.level)) if value is not None}
        return layout.having(**new), method

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        said = [
            f"{kind} {quantity.label}"
            for kind, quantity in (("Signal", self.signal), ("Level", self.level))
            if quantity
        ]
        return "; ".join(said) or "No change"


def _with_curve(readings: Readings, before: Layout, layout: Layout, method: Method) -> tuple[Layout, Method]:
    """The new layout, and the curve its standards ask for when they are the first."""
    return layout, opened_method(readings, before, layout, method)


def placed(layout: Layout, wanted: Mapping[int, Group], cleared: Iterable[int] = ()) -> Layout:
    """A layout with readings moved to the groups wanted; groups of one description are one, emptied ones go.

    wanted : reading → what it shall be; an id there keeps a former group apart from others like it.
    """
    gone = set(cleared) - set(wanted)
    moved = set(wanted) | gone
    kept = {
        group.id: group.model_copy(update={"readings": tuple(id for id in group.readings if id not in moved)})
        for group in layout.groups
    }
    members: dict[str, list[int]] = {id: list(group.readings) for id, group in kept.items()}
    like = {_description(group): id for id, group in kept.items() if group.readings}
    number = max((int(m[1]) for id in kept if (m := re.fullmatch(r"g(\d+)", id))), default=0)
    target: dict[object, str] = {}
    facts: dict[str, Group] = dict(kept)
    for id, group in wanted.items():
        key = (group.id, *_description(group))
        if key not in target:
            home = like.get(_description(group)) if not group.id else group.id
            # The rest of a divided group keeps its id.
            if home is None or (group.id and members[home] and _description(kept[home]) != _description(group)):
                number += 1
                home = f"g{number}"
            target[key] = home
            facts[home] = group.model_copy(update={"id": home})
            members.setdefault(home, [])
        members[target[key]].append(id)
    order = [id for id in facts if members[id]]
    groups = tuple(facts[id].model_copy(update={"readings": tuple(sorted(members[id]))}) for id in order)
    there = {id for ids in members.values() for id in ids}
    exclusions = tuple(e for e in layout.exclusions if e.reading in there)
    return layout.having(groups=groups, exclusions=exclusions)


def counted(first: str, count: int) -> list[str]:
    """Names counting on from the first: its last number goes up, with as many digits; without one, 1 is begun with."""
    match = re.search(r"(\d{1,12})(?!.*\d)", first)
    if match is None:
        return [f"{first.strip()} {n}" for n in range(1, count + 1)]
    head, digits, tail = first[: match.start()], match[1], first[match.end() :]
    return [f"{head}{int(digits) + n:0{len(digits)}d}{tail}" for n in range(count)]


def places_named(readings: Readings, ids: tuple[int, ...]) -> str:
    """ "Wells A1 to H2 (16)", or rows of a table; one by its own name."""
    chosen = _known(readings, ids)
    if chosen[0].plate is None:
        rows = sorted({reading.row for reading in chosen})
        return f"Row {rows[0]}" if len(rows) == 1 else f"Rows {rows[0]} to {rows[-1]} ({len(rows)})"
    first, last = (max if i else min for i in (0, 1))
    corner = well_name(first(r.row for r in chosen), first(r.column for r in chosen))
    opposite = well_name(last(r.row for r in chosen), last(r.column for r in chosen))
    plate = readings.plates[chosen[0].plate].name if len(readings.plates) > 1 else ""
    on = f"{plate}: " if plate else ""
    return f"{on}Well {corner}" if len(chosen) == 1 else f"{on}Wells {corner} to {opposite} ({len(chosen)})"


def _known(readings: Readings, ids: Iterable[int]) -> list[Reading]:
    try:
        return [readings.by_id[id] for id in ids]
    except KeyError as error:
        raise ValueError(f"This run has no reading {error.args[0]}.") from error


def _arranged(
    readings: Readings, ids: tuple[int, ...], direction: Direction, replicates: int, beside: bool
) -> list[list[int]]:  # fmt: skip
    chosen = _known(readings, dict.fromkeys(ids))
    if chosen[0].plate is None:
        flat = [reading.id for reading in chosen]
        return [flat[i : i + replicates] for i in range(0, len(flat), replicates)]
    at: dict[Place, int] = {(r.plate or 0, r.row, r.column): r.id for r in chosen}
    return [[at[place] for place in group] for group in arranged(tuple(at), direction, replicates, beside)]


def _groups_by_reading(layout: Layout) -> dict[int, Group]:
    return {id: group for group in layout.groups for id in group.readings}


def _description(group: Group) -> tuple[object, ...]:
    return group.role, group.name, group.series, group.level, group.dilution


def _with_unit(layout: Layout, unit: str) -> Layout:
    if unit == layout.level.unit:
        return layout
    return layout.model_copy(update={"level": Quantity(name=layout.level.name, unit=unit)})

"""Applying a method to new readings: what they become, and what does not fit, said before anything is computed."""

from collections.abc import Iterator
from dataclasses import dataclass

from dosis.core.rounding import given
from dosis.core.units import UnitError, conversion_factor
from dosis.intake.methods.keep import CONTROLS, LEVELS
from dosis.intake.methods.kept import Expected, KeptMethod, Named
from dosis.run.laying_out import placed
from dosis.run.layout import Group, Layout, Quantity
from dosis.run.method import Method
from dosis.run.outcome.value import Remark, State
from dosis.run.questions.registry import question_of
from dosis.run.readings import Readings
from dosis.run.roles import Role
from dosis.run.saved_layout import misfits
from dosis.run.steps.signal import SignalStep
from dosis.run.steps.step import one
from dosis.run.steps.summary import listed
from dosis.run.wells import parse_well

AXES = {"": "single numbers", "time": "time courses", "wave": "scans", "record": "recordings"}
SAME = 1e-6  # by what two levels may differ and be the same


@dataclass(frozen=True)
class Applied:
    """New readings laid out and to be worked by a method.

    remarks : what does not fit; where one of them stops it (`State.FAIL`), there is no run by this method.
    matched : how much speaks for the method being meant: names or wells that are its own.
    """

    layout: Layout
    method: Method
    remarks: tuple[Remark, ...]
    matched: int

    @property
    def stopped(self) -> str:
        """Why it cannot be applied, in sentences; empty where it can."""
        return " ".join(each.text for each in self.remarks if each.state is State.FAIL)


def apply(kept: KeptMethod, readings: Readings, layout: Layout) -> Applied:
    """Lay new readings out as the method says, and compare them with what it expects. Pure.

    layout : as the readings were understood, asked the method's question.
    """
    layout = question_of(kept.question).asked(layout)
    stops = tuple(_stops(kept, readings, layout))
    if stops:
        return Applied(layout, kept.method, stops, 0)
    layout, remarks = _in_its_units(kept, layout)
    if kept.layout is not None:
        layout, more, matched = _on_plates(kept, readings, layout)
    else:
        layout, more, matched = _by_names(kept, layout)
    found = (*remarks, *more, *_counts(kept.expected, readings, layout))
    return Applied(layout, kept.method, found, matched)


def _stops(kept: KeptMethod, readings: Readings, layout: Layout) -> Iterator[Remark]:
    """What makes the method another one's."""
    expected = kept.expected
    along = question_of(kept.question).along if readings.axis is not None else ""
    if along != expected.along and (expected.along or readings.axis is not None):
        is_of = AXES[expected.along or question_of(kept.question).along]
        yield _stop("other kind of readings", f"The method is for {is_of}; these readings are {AXES[along]}.")
        return
    yield from _plate_stops(kept, readings)
    names = [channel.name for channel in readings.channels]
    column = one(kept.steps, SignalStep).column
    derived = {each.name for each in one(kept.steps, SignalStep).derived}
    if column and column not in derived and names and column not in names:
        yield _stop("column missing", f"The method works on the column “{column}”; here are {_listed(names)}.")
    elif expected.channels and not set(expected.channels) <= set(names):
        missing = [name for name in expected.channels if name not in names]
        there = _listed(names) if names else "only one"
        yield _stop("column missing", f"The method expects {_listed(missing)} to be read, too; here is {there}.")
    unit = layout.level.unit
    if unit and kept.level.unit and unit != kept.level.unit:
        try:
            conversion_factor(unit, kept.level.unit)
        except UnitError:
            text = f"Levels are in {unit} here and in {kept.level.unit} in the method, which cannot be converted."
            yield _stop("other unit", text)


def _plate_stops(kept: KeptMethod, readings: Readings) -> Iterator[Remark]:
    expected = kept.expected
    if expected.rows is None or expected.columns is None:
        return
    if not readings.plates:
        wells = expected.rows * expected.columns
        yield _stop("not a plate", f"The method is for plates of {wells} wells; these readings are a table.")
        return
    for plate in readings.plates:
        if (plate.rows, plate.columns) != (expected.rows, expected.columns):
            yield _stop(
                "other plate", f"The method is for plates of {expected.rows} × {expected.columns} wells; "
                f"{plate.name or 'this plate'} has {plate.rows} × {plate.columns}.",
            )  # fmt: skip
            return


def _in_its_units(kept: KeptMethod, layout: Layout) -> tuple[Layout, list[Remark]]:
    """Levels in the method's unit, which is also taken where the readings name none."""
    remarks, unit = [], layout.level.unit
    if kept.level.unit and unit != kept.level.unit:
        if unit:
            factor = conversion_factor(unit, kept.level.unit)
            groups = tuple(
                g.model_copy(update={"level": None if g.level is None else g.level * factor}) for g in layout.groups
            )
            layout = layout.having(groups=groups)
            remarks.append(_look("levels converted", f"Levels are turned from {unit} into {kept.level.unit}."))
        elif any(group.level is not None for group in layout.groups):
            text = f"The readings name no unit for their levels; the method's, {kept.level.unit}, is taken."
            remarks.append(_look("unit taken", text))
        layout = layout.having(level=Quantity(name=kept.level.name or layout.level.name, unit=kept.level.unit))
    elif kept.level.name and kept.level.name != layout.level.name:
        layout = layout.having(level=Quantity(name=kept.level.name, unit=layout.level.unit))
    here, there = layout.signal, kept.signal
    if here.unit and there.unit and here.unit != there.unit:
        remarks.append(
            _look("other signal", f"What was read is in {here.unit} here and in {there.unit} in the method.")
        )
    elif there.name and here.name and here.name != there.name and not _generic(here.name):
        remarks.append(_look("other signal", f"“{here.name}” was read here; the method is of “{there.name}”."))
    elif there.name and not here.unit:
        layout = layout.having(signal=there)
    return layout, remarks


def _generic(name: str) -> bool:
    return name.casefold() in ("signal", "reading", "readings", "response", "value")


def _on_plates(kept: KeptMethod, readings: Readings, layout: Layout) -> tuple[Layout, list[Remark], int]:
    """Every plate laid out as the method's. Samples that the file names keep their names."""
    if kept.layout is None:
        raise ValueError("This method has no plate.")
    named = {id: group for group in layout.groups for id in group.readings if group.name}
    wanted: dict[int, Group] = {}
    theirs = numbered = 0
    for i, plate in enumerate(readings.plates):
        at = {(r.row, r.column): r.id for r in readings.readings if r.plate == i}
        for well in kept.layout.wells:
            id = at.get(parse_well(well.well) or (-1, -1))
            if id is None:
                continue
            name, dilution = well.name, well.dilution
            if well.role in (Role.SAMPLE, Role.POINT):
                own = named.get(id)
                if own is not None and own.role in (Role.SAMPLE, Role.POINT):
                    name, dilution, theirs = own.name, own.dilution if own.dilution != 1 else dilution, theirs + 1
                else:
                    numbered += 1
                    if len(readings.plates) > 1:
                        name = f"{plate.name or f'Plate {i + 1}'} {name}"[:200]
            wanted[id] = Group(
                id="", role=well.role, name=name, series=well.series, level=well.level, dilution=dilution, readings=(),
                working=well.working, spike_of=well.spike_of, replicate_of=well.replicate_of,
            )  # fmt: skip
    layout = placed(layout, wanted, cleared=[r.id for r in readings.readings if r.plate is not None])
    remarks = list(misfits(readings, layout))
    if numbered and theirs:
        text = f"{numbered} wells of samples have no name in the file; they are called as in the method."
        remarks.append(_look("names taken", text))
    return layout, remarks, len(wanted)


def _by_names(kept: KeptMethod, layout: Layout) -> tuple[Layout, list[Remark], int]:
    """Each group by its name: role, level, dilution and series, where the readings do not say them."""
    known: dict[str, list[Named]] = {}
    for each in kept.names:
        known.setdefault(each.name.casefold(), []).append(each)
    groups, remarks, matched = [], list[Remark](), 0
    met: set[str] = set()
    for group in layout.groups:
        found = _like(group, known.get(group.name.casefold(), []))
        if found is None:
            diluted = group.role is Role.SAMPLE and group.dilution == 1
            groups.append(group.model_copy(update={"dilution": kept.dilution}) if diluted else group)
            continue
        matched += 1
        met.add(found.name.casefold())
        if group.level is not None and found.level is not None and differ(group.level, found.level):
            remarks.append(_look(
                "other level", f"{group.name} is {given(group.level)} {layout.level.unit}".rstrip()
                + f" here and {given(found.level)} in the method; what the readings say is used.",
            ))  # fmt: skip
        groups.append(group.model_copy(update={
            "role": found.role, "level": found.level if group.level is None else group.level,
            "dilution": found.dilution if group.dilution == 1 else group.dilution,
            "series": group.series or found.series, "spike_of": group.spike_of or found.spike_of,
            "replicate_of": group.replicate_of or found.replicate_of,
        }))  # fmt: skip
    if missing := [each.name for each in kept.names if each.name.casefold() not in met]:
        remarks.append(_look("not found", f"The method names {_listed(missing)}, which the readings do not have."))
    strange = [g.name for g in groups if g.role in (*LEVELS, Role.QC) and g.name.casefold() not in known]
    if strange and kept.names:
        text = f"{_listed(strange)} {_is(strange)} not named in the method; what the readings say of it is used."
        remarks.append(_look("not in the method", text))
    return layout.having(groups=tuple(groups)), remarks, matched


def _like(group: Group, named: list[Named]) -> Named | None:
    """The one of that name, and of several that of the same level, or the same series."""
    if len(named) < 2:
        return named[0] if named else None
    same = [each for each in named if each.series == group.series] or named
    if group.level is None:
        return same[0] if len(same) == 1 else None
    level = group.level
    near = [each for each in same if each.level is not None and not differ(level, each.level)]
    # A level the method does not have under that name is new, but its role is known.
    return near[0] if near else same[0].model_copy(update={"level": None})


def differ(a: float, b: float) -> bool:
    """Whether two levels are not the same but for rounding."""
    return abs(a - b) > SAME * max(abs(a), abs(b))


def _counts(expected: Expected, readings: Readings, layout: Layout) -> Iterator[Remark]:
    """Fewer of what the answers rest on than the method expects."""
    used = {r.id for r in readings.readings} - readings.empty
    groups = [g for g in layout.groups if used.intersection(g.readings)]
    by_series: dict[str, set[float]] = {}
    for group in groups:
        if group.role in LEVELS and group.level is not None:
            by_series.setdefault(group.series, set()).add(group.level)
    levels = max(map(len, by_series.values()), default=0)
    blanks = sum(len(used.intersection(g.readings)) for g in groups if g.role in CONTROLS)
    qcs = len({g.name for g in groups if g.role is Role.QC})
    for here, there, what in (
        (levels, expected.levels, "levels of standards or doses"),
        (blanks, expected.blanks, "readings of blanks or controls"),
        (qcs, expected.qcs, "known samples (QCs)"),
    ):  # fmt: skip
        if here < there:
            text = f"The method expects {there} {what}; here {'is' if here == 1 else 'are'} {here or 'none'}."
            yield (_stop if here == 0 and what.startswith("levels") else _look)("too few", text)


def _listed(names: list[str]) -> str:
    return listed([f"“{name}”" for name in dict.fromkeys(names)])


def _is(names: list[str]) -> str:
    return "is" if len(set(names)) == 1 else "are"


def _look(short: str, text: str) -> Remark:
    return Remark(state=State.LOOK, short=short, text=text)


def _stop(short: str, text: str) -> Remark:
    return Remark(state=State.FAIL, short=short, text=text)

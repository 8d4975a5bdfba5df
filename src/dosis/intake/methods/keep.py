"""Keeping a method: what of a run belongs to the way it is done, and what to these readings alone."""

from collections import Counter

from dosis.intake.methods.kept import Expected, KeptMethod, Named
from dosis.intake.understanding import Choices
from dosis.run.layout import Group, Layout
from dosis.run.method import Method
from dosis.run.questions.registry import question_of
from dosis.run.readings import Readings
from dosis.run.roles import Role
from dosis.run.saved_layout import SavedLayout, saved

OWN = (Role.SAMPLE, Role.POINT, Role.UNUSED)  # what is read anew each time, and so is not known by its name
LEVELS = (Role.STANDARD, Role.DOSE)
CONTROLS = (Role.BLANK, Role.VEHICLE, Role.FULL)
THESE = ("question", "rows", "cells", "edits", "encoding")  # choices that are of these readings, or said elsewhere


def keep(
    name: str, readings: Readings, layout: Layout, method: Method, choices: Choices, *, samples: bool = False
) -> KeptMethod:
    """A run's working as a method.

    Of plates the first is the pattern; of tables every name but those of samples is kept. samples : whether those of a
    plate keep their names, as where the same are read again; else they are numbered, for others will be others.

    Raises
    ------
    ValidationError : for a name that is empty or too long.
    """
    plate = next((p for p in range(len(readings.plates)) if _laid_out(readings, layout, p)), None)
    pattern = None if plate is None else saved(name[:120], readings, layout, plate)
    if pattern is not None and not samples:
        pattern = _numbered(pattern, question_of(method.question).stem(Role.SAMPLE))
    if plate is not None:
        own = {r.id for r in readings.readings if r.plate == plate}
        layout = _only(layout, own)
    return KeptMethod(
        name=name.strip() or name, question=method.question, steps=method.steps, figure=method.figure,
        signal=layout.signal, level=layout.level, layout=pattern,
        names=() if pattern else tuple(dict.fromkeys(_named(group) for group in layout.groups if _known(group))),
        dilution=_usual_dilution(layout), expected=_expected(readings, layout, method, plate),
        reading=Choices.model_validate(choices.model_dump(exclude=set(THESE))),
    )  # fmt: skip


def _laid_out(readings: Readings, layout: Layout, plate: int) -> bool:
    return any(r.plate == plate and r.id in layout.members for r in readings.readings)


def _only(layout: Layout, ids: set[int]) -> Layout:
    """What of a layout stands on one plate."""
    groups = [g.model_copy(update={"readings": tuple(r for r in g.readings if r in ids)}) for g in layout.groups]
    return layout.having(groups=tuple(g for g in groups if g.readings), exclusions=())


def _numbered(pattern: SavedLayout, stem: str) -> SavedLayout:
    """The samples of a plate as "Sample 1" and so on, in the order of the wells they begin in."""
    names = dict.fromkeys(well.name for well in pattern.wells if well.role is Role.SAMPLE)
    new = {name: f"{stem} {i}" for i, name in enumerate(names, start=1)}
    wells = tuple(
        well.model_copy(update={"name": new[well.name], "spike_of": new.get(well.spike_of, well.spike_of)})
        if well.role is Role.SAMPLE else well
        for well in pattern.wells
    )  # fmt: skip
    return pattern.model_copy(update={"wells": wells})


def _known(group: Group) -> bool:
    return group.role not in OWN


def _named(group: Group) -> Named:
    return Named(
        name=group.name, role=group.role, level=group.level, dilution=group.dilution, series=group.series,
        spike_of=group.spike_of, replicate_of=group.replicate_of,
    )  # fmt: skip


def _usual_dilution(layout: Layout) -> float:
    counts = Counter(group.dilution for group in layout.groups if group.role is Role.SAMPLE)
    return counts.most_common(1)[0][0] if counts else 1.0


def _expected(readings: Readings, layout: Layout, method: Method, plate: int | None) -> Expected:
    size = None if plate is None else readings.plates[plate]
    levels = {(g.series, g.level) for g in layout.groups if g.role in LEVELS and g.level is not None}
    most = Counter(series for series, _ in levels)
    return Expected(
        along=question_of(method.question).along if readings.axis is not None else "",
        rows=size.rows if size else None, columns=size.columns if size else None,
        channels=tuple(channel.name for channel in readings.channels),
        # Another time there may be fewer series, but each has as many levels.
        levels=max(most.values(), default=0),
        blanks=sum(len(g.readings) for g in layout.groups if g.role in CONTROLS),
        qcs=len({g.name for g in layout.groups if g.role is Role.QC}),
    )  # fmt: skip

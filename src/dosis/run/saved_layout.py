"""A saved layout: what each well of a plate is, by name, to be laid on other plates; and what does not fit there."""

from typing import Annotated

from pydantic import Field

from dosis.run.layout import Dilution, Layout, Level, Name, Quantity
from dosis.run.outcome.value import Remark, State
from dosis.run.readings import Readings
from dosis.run.record import Record
from dosis.run.roles import Role
from dosis.run.wells import well_name


class WellRole(Record):
    """What one well is."""

    well: Annotated[str, Field(max_length=5)]
    role: Role
    name: Name
    series: Name = ""
    level: Level | None = None
    dilution: Dilution = 1.0
    working: str = ""
    spike_of: Name = ""
    replicate_of: Name = ""


class SavedLayout(Record):
    """The wells of one plate that have a role."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    rows: Annotated[int, Field(ge=1, le=32)]
    columns: Annotated[int, Field(ge=1, le=48)]
    level: Quantity
    wells: Annotated[tuple[WellRole, ...], Field(max_length=1536)]


def saved(name: str, readings: Readings, layout: Layout, plate: int) -> SavedLayout:
    """The layout of one plate of a run. Raises ValueError when there is no such plate or nothing laid out on it."""
    if plate >= len(readings.plates):
        raise ValueError("This run has no such plate; only layouts of plates are saved.")
    own = {r.id: r for r in readings.readings if r.plate == plate}
    wells = tuple(
        WellRole(
            well=well_name(own[id].row, own[id].column), role=group.role, name=group.name, series=group.series,
            level=group.level, dilution=group.dilution, working=group.working, spike_of=group.spike_of,
            replicate_of=group.replicate_of,
        )
        for group in layout.groups for id in group.readings if id in own
    )  # fmt: skip
    if not wells:
        raise ValueError("No well of this plate has a role yet, so there is nothing to save.")
    size = readings.plates[plate]
    return SavedLayout(name=name, rows=size.rows, columns=size.columns, level=layout.level, wells=wells)


def misfits(readings: Readings, layout: Layout) -> tuple[Remark, ...]:
    """What of a layout does not fit the plates: a role on an empty well, a filled well without a role."""
    if not readings.plates:
        return ()
    laid = layout.members
    unused = {id for group in layout.groups if group.role is Role.UNUSED for id in group.readings}
    filled = readings.by_id.keys() - readings.empty
    empty = [readings.by_id[id] for id in sorted(readings.empty & (laid - unused))]
    bare = [readings.by_id[id] for id in sorted(filled - laid)]
    remarks = []
    for wells, short, text in (
        (empty, "role on an empty well", "a role but no reading"),
        (bare, "no role", "a reading but no role, and stay{s} out of the answers"),
    ):
        if wells:
            named = ", ".join(well_name(r.row, r.column) for r in wells[:4])
            more = f" and {len(wells) - 4} more" if len(wells) > 4 else ""
            verb, s = ("has", "s") if len(wells) == 1 else ("have", "")
            remarks.append(
                Remark(
                    state=State.LOOK, short=f"{len(wells)} × {short}", text=f"{named}{more} {verb} {text.format(s=s)}."
                )
            )
    return tuple(remarks)

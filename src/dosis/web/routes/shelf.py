"""Layouts, look-up tables, styles of figures and calibrations kept by name."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import Field

from dosis.intake.lookup import read_lookup
from dosis.intake.text import IntakeError
from dosis.run.kept_calibration import KeptCalibration
from dosis.run.look import FigureLook, Style, style_of
from dosis.run.record import Record
from dosis.run.saved_layout import SavedLayout
from dosis.run.steps.signal import Lookup
from dosis.store import revisions, runs
from dosis.store.shelf import CALIBRATIONS, LAYOUTS, LOOKUPS, STYLES, Kept
from dosis.store.worked import calibration_found
from dosis.web.access import READ, WORK
from dosis.web.context import Here
from dosis.web.problems import NotFound

router = APIRouter(prefix="/api", tags=["shelf"])


class NewLookup(Record):
    """Two pasted columns to keep as a look-up table."""

    name: Annotated[str, Field(min_length=1, max_length=120, pattern=r"^[A-Za-z][A-Za-z0-9_ ]*$")]
    text: str


class NewStyle(Record):
    """A figure's look to keep as a style."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    look: FigureLook


class NewCalibration(Record):
    """The calibration of a run, as it stands, to keep under a name."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    run: int


@router.get("/calibrations", dependencies=[READ])
def list_calibrations(here: Here) -> list[Kept[KeptCalibration]]:
    """Every kept calibration."""
    with here.database.transaction() as db:
        return CALIBRATIONS.all(db)


@router.post("/calibrations", status_code=201, dependencies=[WORK])
def keep_calibration(new: NewCalibration, here: Here) -> KeptCalibration:
    """Keep what the channels of a run are calibrated by; a calibration that had the name before is replaced."""
    with here.database.transaction() as db:
        head, state = runs.head(db, new.run), revisions.packed_state(db, new.run)
    if head is None or state is None:
        raise NotFound("run")
    of = f"{head.title}, {head.created_at:%Y-%m-%d}"[:200]
    channels = here.do(calibration_found, *state)
    if not channels:
        raise IntakeError("No channel of this run is calibrated yet; give two stretches their known values first.")
    named = tuple(
        channel.model_copy(update={"curve": channel.curve.model_copy(update={"of": of})}) for channel in channels
    )
    made = KeptCalibration(name=new.name.strip() or new.name, channels=named)
    with here.database.transaction() as db:
        CALIBRATIONS.keep(db, made, here.author)
    return made


@router.delete("/calibrations/{id}", status_code=204, dependencies=[WORK])
def remove_calibration(id: int, here: Here) -> None:
    """Remove a calibration; runs that it was applied to keep theirs."""
    with here.database.transaction() as db:
        if not CALIBRATIONS.remove(db, id, here.author):
            raise NotFound("calibration")


@router.get("/styles", dependencies=[READ])
def list_styles(here: Here) -> list[Kept[Style]]:
    """Every saved style."""
    with here.database.transaction() as db:
        return STYLES.all(db)


@router.post("/styles", status_code=201, dependencies=[WORK])
def keep_style(new: NewStyle, here: Here) -> Style:
    """Keep a look under a name, without what belongs to one figure; a style that had it before is replaced."""
    made = style_of(new.name.strip() or new.name, new.look)
    with here.database.transaction() as db:
        STYLES.keep(db, made, here.author)
    return made


@router.delete("/styles/{id}", status_code=204, dependencies=[WORK])
def remove_style(id: int, here: Here) -> None:
    """Remove a style; figures that have it stay as they are."""
    with here.database.transaction() as db:
        if not STYLES.remove(db, id, here.author):
            raise NotFound("style")


@router.get("/layouts", dependencies=[READ])
def list_layouts(here: Here) -> list[Kept[SavedLayout]]:
    """Every saved layout."""
    with here.database.transaction() as db:
        return LAYOUTS.all(db)


@router.delete("/layouts/{id}", status_code=204, dependencies=[WORK])
def remove_layout(id: int, here: Here) -> None:
    """Remove a saved layout; runs laid out by it stay as they are."""
    with here.database.transaction() as db:
        if not LAYOUTS.remove(db, id, here.author):
            raise NotFound("layout")


@router.get("/lookups", dependencies=[READ])
def list_lookups(here: Here) -> list[Kept[Lookup]]:
    """Every look-up table."""
    with here.database.transaction() as db:
        return LOOKUPS.all(db)


@router.post("/lookups", status_code=201, dependencies=[WORK])
def keep_lookup(new: NewLookup, here: Here) -> Lookup:
    """Keep a pasted table under a name; one that had it before is replaced, runs keep their copies."""
    made = read_lookup(new.name.strip(), new.text)
    with here.database.transaction() as db:
        LOOKUPS.keep(db, made, here.author)
    return made


@router.delete("/lookups/{id}", status_code=204, dependencies=[WORK])
def remove_lookup(id: int, here: Here) -> None:
    """Remove a look-up table; runs keep their copies."""
    with here.database.transaction() as db:
        if not LOOKUPS.remove(db, id, here.author):
            raise NotFound("look-up table")

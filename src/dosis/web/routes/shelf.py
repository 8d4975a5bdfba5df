"""Layouts, look-up tables and styles of figures kept by name."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import Field

from dosis.intake.lookup import read_lookup
from dosis.run.look import FigureLook, Style, style_of
from dosis.run.record import Record
from dosis.run.saved_layout import SavedLayout
from dosis.run.steps.signal import Lookup
from dosis.store.shelf import LAYOUTS, LOOKUPS, STYLES, Kept
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


@router.get("/styles")
def list_styles(here: Here) -> list[Kept[Style]]:
    """Every saved style."""
    with here.database.transaction() as db:
        return STYLES.all(db)


@router.post("/styles", status_code=201)
def keep_style(new: NewStyle, here: Here) -> Style:
    """Keep a look under a name, without what belongs to one figure; a style that had it before is replaced."""
    made = style_of(new.name.strip() or new.name, new.look)
    with here.database.transaction() as db:
        STYLES.keep(db, made, here.author)
    return made


@router.delete("/styles/{id}", status_code=204)
def remove_style(id: int, here: Here) -> None:
    """Remove a style; figures that have it stay as they are."""
    with here.database.transaction() as db:
        if not STYLES.remove(db, id, here.author):
            raise NotFound("style")


@router.get("/layouts")
def list_layouts(here: Here) -> list[Kept[SavedLayout]]:
    """Every saved layout."""
    with here.database.transaction() as db:
        return LAYOUTS.all(db)


@router.delete("/layouts/{id}", status_code=204)
def remove_layout(id: int, here: Here) -> None:
    """Remove a saved layout; runs laid out by it stay as they are."""
    with here.database.transaction() as db:
        if not LAYOUTS.remove(db, id, here.author):
            raise NotFound("layout")


@router.get("/lookups")
def list_lookups(here: Here) -> list[Kept[Lookup]]:
    """Every look-up table."""
    with here.database.transaction() as db:
        return LOOKUPS.all(db)


@router.post("/lookups", status_code=201)
def keep_lookup(new: NewLookup, here: Here) -> Lookup:
    """Keep a pasted table under a name; one that had it before is replaced, runs keep their copies."""
    made = read_lookup(new.name.strip(), new.text)
    with here.database.transaction() as db:
        LOOKUPS.keep(db, made, here.author)
    return made


@router.delete("/lookups/{id}", status_code=204)
def remove_lookup(id: int, here: Here) -> None:
    """Remove a look-up table; runs keep their copies."""
    with here.database.transaction() as db:
        if not LOOKUPS.remove(db, id, here.author):
            raise NotFound("look-up table")

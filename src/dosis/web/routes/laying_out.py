"""Trying a change before it is made: what a layout, a concentration or a derived column would become."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import Field

from dosis.core.units import UnitError
from dosis.run.changes import Change, ChangeError
from dosis.run.changing import changed
from dosis.run.evaluate import ask, look_at_equation, look_at_signal
from dosis.run.finite import finite
from dosis.run.layout import Layout, Unit
from dosis.run.outcome.equation import EquationAsked, EquationLook
from dosis.run.outcome.told import Asked, Told
from dosis.run.outcome.value import Remark
from dosis.run.readings import Readings
from dosis.run.recipes import Recipe
from dosis.run.record import Record
from dosis.run.saved_layout import SavedLayout, misfits, saved
from dosis.run.steps.signal import SignalLook, SignalStep
from dosis.store import revisions, runs
from dosis.store.shelf import LAYOUTS
from dosis.web.access import READ, READ_RUN, WORK_ON_RUN
from dosis.web.context import HOPELESS, HOPELESS_FIT, Context, Here
from dosis.web.problems import NotFound

router = APIRouter(prefix="/api", tags=["laying out"])


class Trial(Record):
    """Changes to look at first."""

    changes: Annotated[tuple[Change, ...], Field(min_length=1, max_length=100)]


class Preview(Record):
    """The layout after the changes, what does not fit in it, and what the changes are in words."""

    layout: Layout
    remarks: tuple[Remark, ...]
    words: str


class Worked(Record):
    """A concentration worked out by a recipe."""

    value: float
    unit: str
    working: str


class AskWorked(Record):
    """A recipe, and the unit wanted."""

    recipe: Recipe
    unit: Unit = ""


class SaveLayout(Record):
    """A plate's layout to keep by name."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    plate: Annotated[int, Field(ge=0)] = 0


@router.post("/runs/{id}/preview", dependencies=[READ_RUN])
def preview(id: int, trial: Trial, here: Here) -> Preview:
    """What these changes would make of the layout. Nothing is stored."""
    here.readiness.wait()
    readings, state = _state(here, id)
    layout, _, words = changed(readings, state.layout, state.method, trial.changes)
    return Preview(layout=layout, remarks=misfits(readings, layout), words="; ".join(words))


@router.post("/runs/{id}/signal", dependencies=[READ_RUN])
def preview_signal(id: int, step: SignalStep, here: Here) -> SignalLook:
    """The first values of every column with these derived ones. Nothing is stored."""
    readings, state = _state(here, id)
    return look_at_signal(readings, state.layout, state.method, step)


@router.post("/runs/{id}/equation", dependencies=[READ_RUN])
def preview_equation(id: int, asked: EquationAsked, here: Here) -> EquationLook:
    """What an equation of one's own gives on a series, with every start that was tried. Nothing is stored."""
    here.readiness.wait()
    readings, state = _state(here, id)
    found = here.workers.run(
        look_at_equation, readings, state.layout, state.method, asked, seconds=HOPELESS, too_long=HOPELESS_FIT
    )
    return finite(found)


@router.post("/runs/{id}/ask", dependencies=[READ_RUN])
def ask_curve(id: int, asked: Asked, here: Here) -> Told:
    """The signal at a concentration, or the concentration at a signal. Nothing is stored."""
    here.readiness.wait()
    readings, state = _state(here, id)
    return ask(readings, state.layout, state.method, asked)


@router.post("/runs/{id}/layouts", status_code=201, dependencies=[WORK_ON_RUN])
def save_layout(id: int, wanted: SaveLayout, here: Here) -> SavedLayout:
    """Keep the layout of a plate under a name; a layout that had it before is replaced."""
    with here.database.transaction() as db:
        state = revisions.state(db, id)
        if state is None:
            raise NotFound("run")
        try:
            made = saved(wanted.name.strip() or wanted.name, runs.readings(db, id), state.layout, wanted.plate)
        except ValueError as error:
            raise ChangeError(str(error)) from error
        LAYOUTS.keep(db, made, here.author)
    return made


@router.post("/concentration", dependencies=[READ])
def work_out(asked: AskWorked) -> Worked:
    """A concentration from a mass and a volume, or from a stock, with the working."""
    try:
        value, unit, working = asked.recipe.level(asked.unit)
    except (UnitError, ValueError) as error:
        raise ChangeError(str(error)) from error
    return Worked(value=value, unit=unit, working=working)


def _state(here: Context, id: int) -> tuple[Readings, revisions.State]:
    """A run's readings and how it stands now."""
    with here.database.transaction() as db:
        state = revisions.state(db, id)
        if state is None:
            raise NotFound("run")
        return runs.readings(db, id), state

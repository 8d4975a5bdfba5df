"""What stands behind an answer, worked out when it is asked for: the readings that decide it, and what to read next."""

from collections.abc import Callable
from typing import Annotated, TypeVar

from fastapi import APIRouter, Query

from dosis.run.changes import ChangeError
from dosis.run.influence import Influence
from dosis.run.planning import Planned
from dosis.store import revisions
from dosis.store.worked import influence_looked_at, planned
from dosis.web.access import READ_RUN
from dosis.web.context import Context, Here
from dosis.web.problems import NotFound
from dosis.web.workers import TOO_LONG

router = APIRouter(prefix="/api/runs/{id}/revisions/{number}", tags=["runs"])
Answer = Annotated[str, Query(max_length=300)]
Made = TypeVar("Made")
MANY_READINGS = "Leaving out every reading of this run in turn takes longer than {seconds:g} s."


def _elsewhere(
    here: Context, id: int, number: int, work: Callable[..., Made], *asked: object, too_long: str = TOO_LONG
) -> Made:  # fmt: skip
    """A piece of work on a revision, always in a worker: it works the run out many times."""
    here.readiness.wait()
    with here.database.transaction() as db:
        state = revisions.packed_state(db, id, number)
    if state is None:
        raise NotFound("revision")
    return here.workers.run(work, *state, *asked, too_long=too_long)


@router.get("/influence", dependencies=[READ_RUN])
def get_influence(id: int, number: int, answer: Answer, here: Here) -> Influence:
    """The readings that move an answer most when each in turn is left out, and all is worked again."""
    found = _elsewhere(here, id, number, influence_looked_at, answer, too_long=MANY_READINGS)
    if found is None:
        raise NotFound("answer")
    return found


@router.get("/plan", dependencies=[READ_RUN])
def get_plan(
    id: int, number: int, answer: Answer, here: Here, width: Annotated[float | None, Query(gt=0, le=10)] = None
) -> Planned:
    """Levels and numbers of readings by which an answer would be known to that share of itself."""
    found = _elsewhere(here, id, number, planned, answer, width)
    if found is None:
        raise ChangeError("Nothing can be planned for this answer: it has no number, or no curve of its own.")
    return found

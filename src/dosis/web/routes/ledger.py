"""A run's ledger: every change in words, any two revisions side by side, and the way back to one."""

from fastapi import APIRouter
from fastapi.responses import Response

from dosis.run.difference import Difference, difference
from dosis.store import history, ledger, revisions, runs
from dosis.store.database import Cursor
from dosis.web.context import Here
from dosis.web.problems import NotFound
from dosis.web.routes.runs import Move, sent

router = APIRouter(prefix="/api/runs/{id}", tags=["ledger"])


@router.get("/ledger")
def get_ledger(id: int, here: Here) -> list[ledger.Entry]:
    """All of a run's entries, oldest first."""
    with here.database.transaction() as db:
        _exists(db, id)
        return ledger.of_run(db, id)


@router.get("/revisions/{before}/difference/{after}")
def get_difference(id: int, before: int, after: int, here: Here) -> Difference:
    """What changed from one revision to the other."""
    with here.database.transaction() as db:
        one, other = (revisions.get(db, id, number, here.do) for number in (before, after))
    if one is None or other is None:
        raise NotFound("revision")
    return difference((one.layout, one.method, one.outcome), (other.layout, other.method, other.outcome))


@router.post("/revisions/{number}/restore", response_model=revisions.Revision)
def restore(id: int, number: int, move: Move, here: Here) -> Response:
    """A new revision equal to that one; undo brings back what was."""
    with here.database.transaction() as db:
        _exists(db, id)
        made = history.restore(db, id, move.based_on, str(move.key), number, here.author, here.do)
    return sent(made)


def _exists(db: Cursor, id: int) -> None:
    if runs.head(db, id) is None:
        raise NotFound("run")

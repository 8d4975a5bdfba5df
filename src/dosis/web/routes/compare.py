"""Runs side by side."""

from typing import Annotated

from fastapi import APIRouter, Query

from dosis.people.rights import Right
from dosis.run.beside import Beside, Compared, compared
from dosis.run.changes import ChangeError
from dosis.store import revisions, runs
from dosis.web.access import READ
from dosis.web.context import Here
from dosis.web.problems import NotFound

router = APIRouter(prefix="/api", tags=["compare"])

MOST = 8  # runs that a page can show beside each other


@router.get("/compare", dependencies=[READ])
def compare_runs(
    wanted: Annotated[list[int], Query(alias="runs", min_length=2, max_length=MOST)], here: Here
) -> Compared:
    """Two to eight runs: settings that differ, parameters of their curves, answers that they share."""
    here.need_runs(Right.READ, wanted)
    here.readiness.wait()
    found = []
    with here.database.transaction() as db:
        for id in dict.fromkeys(wanted):
            head, revision = runs.head(db, id), revisions.get(db, id, do=here.do)
            if head is None or revision is None:
                raise NotFound("run")
            found.append(Beside.model_construct(
                id=id, title=head.title, layout=revision.layout, method=revision.method, outcome=revision.outcome,
            ))  # fmt: skip
    if len(found) < 2:
        raise ChangeError("Choose two different runs or more to compare.")
    return compared(found)

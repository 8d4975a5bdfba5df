"""A run's ledger: every change in words, any two revisions side by side, and the way back to one."""

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from fastapi.responses import Response
from pydantic import TypeAdapter

from dosis.output.answers import Cell
from dosis.output.exports.delimited import written
from dosis.run.difference import Difference, difference
from dosis.store import history, ledger, revisions, seals
from dosis.web.access import ADMINISTER, READ_RUN, WORK_ON_RUN
from dosis.web.context import Here
from dosis.web.problems import NotFound
from dosis.web.routes.runs import Move, download, sent, there

router = APIRouter(prefix="/api/runs/{id}", tags=["ledger"])
_MANY = TypeAdapter(list[ledger.LedgerRow])
chain = APIRouter(prefix="/api/ledger", tags=["ledger"])


@chain.get("/chain", dependencies=[ADMINISTER])
def check_chain(here: Here) -> seals.Checked:
    """Whether the ledger is as it was written: the whole chain worked out again, with what each entry did."""
    with here.database.transaction() as db:
        return seals.check(db)


@chain.get("", dependencies=[ADMINISTER])
def list_ledger(wanted: Annotated[ledger.Wanted, Query()], here: Here) -> ledger.LedgerPage:
    """The whole ledger, the newest entries first."""
    with here.database.transaction() as db:
        return ledger.page(db, wanted)


@chain.get("/facets", dependencies=[ADMINISTER])
def get_ledger_facets(here: Here) -> ledger.LedgerFacets:
    """By whom and what it can be filtered."""
    with here.database.transaction() as db:
        return ledger.facets(db)


@chain.get("/file.{form}", response_class=Response, dependencies=[ADMINISTER])
def get_ledger_file(form: Literal["csv", "json"], wanted: Annotated[ledger.Wanted, Query()], here: Here) -> Response:
    """What is wanted of the ledger, the oldest entries first, as a file."""
    here.exported(f"Ledger as {form.upper()}")
    with here.database.transaction() as db:
        entries = list(ledger.whole(db, wanted))
    if form == "json":
        return download(_MANY.dump_json(entries, indent=1), "ledger.json", "application/json")
    rows: list[list[Cell]] = [list(ledger.LedgerRow.model_fields)]
    rows += [[_cell(value) for value in each.model_dump().values()] for each in entries]
    return download(written(rows), "ledger.csv", "text/csv")


def _cell(value: object) -> Cell:
    if isinstance(value, datetime):
        return value.isoformat()
    return value if isinstance(value, str | int) else ""


@router.get("/ledger", dependencies=[READ_RUN])
def get_ledger(id: int, here: Here) -> list[ledger.Entry]:
    """All of a run's entries, oldest first."""
    with here.database.transaction() as db:
        there(db, id)
        return ledger.of_run(db, id)


@router.get("/revisions/{before}/difference/{after}", dependencies=[READ_RUN])
def get_difference(id: int, before: int, after: int, here: Here) -> Difference:
    """What changed from one revision to the other."""
    with here.database.transaction() as db:
        one, other = (revisions.get(db, id, number, here.do) for number in (before, after))
    if one is None or other is None:
        raise NotFound("revision")
    return difference((one.layout, one.method, one.outcome), (other.layout, other.method, other.outcome))


@router.post("/revisions/{number}/restore", response_model=revisions.Revision, dependencies=[WORK_ON_RUN])
def restore(id: int, number: int, move: Move, here: Here) -> Response:
    """A new revision equal to that one; undo brings back what was."""
    with here.database.transaction() as db:
        there(db, id)
        made = history.restore(db, id, move.based_on, str(move.key), number, here.author, here.do)
    return sent(made)

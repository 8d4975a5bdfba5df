"""Trends: the numbers of a method's runs over time, their limits, precision over runs, and the summary of them."""

from datetime import UTC, datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from fastapi.responses import Response

from dosis.output.answers import Cell
from dosis.output.exports.delimited import written
from dosis.output.reports.trends import Reported, trends_html, trends_pdf
from dosis.people.rights import Right
from dosis.run.changes import ChangeError
from dosis.run.outcome.value import State
from dosis.run.record import Record
from dosis.run.standards.checks import ChecksStep
from dosis.run.trends import Trend, TrendSummary, summary, trends
from dosis.store import measures, methods
from dosis.store.database import Cursor
from dosis.store.trends import BaseFor, bases_of
from dosis.store.trends import set_base as keep_base
from dosis.web.access import READ, WORK
from dosis.web.context import Here
from dosis.web.problems import NotFound
from dosis.web.routes.runs import download

router = APIRouter(prefix="/api/methods/{id}/trends", tags=["trends"])

HEADINGS: list[Cell] = [
    "Run", "Name of the run", "Opened (UTC)", "Number", "Unit", "Value", "Lower", "Upper", "Nominal", "Center", "SD",
    "Moving range", "Rules broken",
]  # fmt: skip
OfRuns = Annotated[list[int] | None, Query(description="Runs that precision and the summary are of; all by default.")]


class TrendRun(Record):
    """A run of the method, for choosing."""

    id: int
    title: str


class Trends(Record):
    """What is watched of a method, worst first among what is said."""

    method: str
    runs: tuple[TrendRun, ...]
    watched: tuple[Trend, ...]
    said: tuple[str, ...]
    summary: TrendSummary


@router.get("", dependencies=[READ])
def get_trends(id: int, here: Here, of_runs: OfRuns = None) -> Trends:
    """Every number of a method's runs over time."""
    with here.database.transaction() as db:
        name, allowed = _method(db, id)
        found, bases = measures.of_method(db, id, here.who.rights.where(Right.READ)), bases_of(db, id)
    made = trends(found, bases, allowed, frozenset(of_runs) if of_runs else None)
    return Trends(
        method=name, runs=tuple(TrendRun(id=run.id, title=run.title) for run in found), watched=made,
        said=tuple(each.said for each in made if each.state is State.LOOK), summary=summary(made),
    )  # fmt: skip


@router.put("/base", status_code=204, dependencies=[WORK])
def set_base(id: int, wanted: BaseFor, here: Here) -> None:
    """Choose the runs that limits come from, or type a center and an SD."""
    base = wanted.base
    if base is not None and not base.runs and (base.center is None or base.sd is None):
        raise ChangeError("Choose two runs or more that limits come from, or type both a center and an SD.")
    if base is not None and len(base.runs) == 1:
        raise ChangeError("One run has no spread; choose two or more.")
    with here.database.transaction() as db:
        name, _ = _method(db, id)
        keep_base(db, id, name, wanted, here.author)


@router.get(".csv", response_class=Response, dependencies=[READ])
def get_trends_csv(id: int, here: Here, key: str = "") -> Response:
    """The numbers as a table: one row for each run and number, with center, limits and broken rules."""
    found = get_trends(id, here)
    rows: list[list[Cell]] = [HEADINGS]
    for trend in found.watched:
        if key and trend.key != key:
            continue
        center, sd = (trend.held.center, trend.held.sd) if trend.held else (None, None)
        rows += [
            [
                point.run, point.title, f"{point.at:%Y-%m-%dT%H:%M:%S}", trend.title, trend.unit, point.value,
                point.lower, point.upper, trend.nominal, center, sd, point.moving_range, "; ".join(point.broken),
            ]
            for point in trend.points
        ]  # fmt: skip
    here.exported(f"trends of the method “{found.method}” as CSV")
    return download(written(rows), f"{found.method} trends.csv", "text/csv")


@router.get("/report.{form}", response_class=Response, dependencies=[READ])
def get_trends_report(id: int, form: Literal["pdf", "html"], here: Here, of_runs: OfRuns = None) -> Response:
    """What is out of control, the summary for a validation, precision over runs and every chart, as a report."""
    found = get_trends(id, here, of_runs)
    if not found.runs:
        raise NotFound("run by this method")
    reported = Reported(
        method=found.method, runs=tuple(run.title for run in found.runs), watched=found.watched, said=found.said,
        summary=found.summary, counted=len(of_runs or found.runs),
    )  # fmt: skip
    here.exported(f"trends of the method “{found.method}” as {form.upper()}")
    now, name = datetime.now(UTC), f"{found.method} trends.{form}"
    if form == "html":
        return download(trends_html(reported, author=here.author, made_at=now).encode(), name, "text/html")
    return download(trends_pdf(reported, author=here.author, made_at=now), name, "application/pdf")


def _method(db: Cursor, id: int) -> tuple[str, float | None]:
    """Its name, and how far its known samples may be off."""
    found = methods.find(db, id)
    if found is None:
        raise NotFound("method")
    head, _, body = found
    step = next((step for step in body.steps if isinstance(step, ChecksStep)), None)
    return head.name, step.qc_recovery if step else None

"""Reports of a run, and of all runs of a study, as PDF and as one HTML file."""

import hashlib
from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from fastapi.responses import Response

from dosis import __version__
from dosis.output.reports.report import as_html, as_pdf
from dosis.output.reports.subject import SECTIONS, LedgerLine, ReportedRun, Section, Signed, Wanted
from dosis.run.changes import ChangeError
from dosis.run.outcome.working import WorkingLine
from dosis.store import ledger, reviews, revisions, runs, studies
from dosis.store.database import Cursor
from dosis.store.files import StoredFile
from dosis.store.worked import evaluated_whole
from dosis.web.access import READ_RUN, READ_STUDY
from dosis.web.context import Context, Here
from dosis.web.problems import NotFound
from dosis.web.routes.runs import download

router = APIRouter(prefix="/api", tags=["reports"])

Form = Literal["pdf", "html"]
MEDIA: dict[Form, str] = {"pdf": "application/pdf", "html": "text/html"}
MOST_RUNS = {"pdf": 30, "html": 200}  # of a study in one report; the pages of a run take a second or two to set
MOST_WORKING = 200  # answers whose working is printed; each is a few lines

Sections = Annotated[str, Query(max_length=200, description="Separated by commas; all by default.")]
Paper = Annotated[Literal["A4", "Letter"], Query()]
Working = Annotated[Literal["none", "first", "all"], Query()]


@router.get("/runs/{id}/report", response_class=Response, dependencies=[READ_RUN])
def show_report(id: int, here: Here, sections: Sections = "", working: Working = "first") -> Response:
    """The report as the page shows it: a piece of HTML with its own styles."""
    here.readiness.wait()
    wanted = _wanted(sections, "A4", working)
    run = _reported(id, wanted, here)
    text = as_html([run], wanted, title=run.title, author=here.author, made_at=datetime.now(UTC), page=False)
    return Response(text, media_type="text/html; charset=utf-8")


@router.get("/runs/{id}/report.{form}", response_class=Response, dependencies=[READ_RUN])
def get_report(
    id: int, form: Form, here: Here, sections: Sections = "", paper: Paper = "A4", working: Working = "first"
) -> Response:  # fmt: skip
    """The report of a run as a file."""
    here.readiness.wait()
    wanted = _wanted(sections, paper, working)
    run = _reported(id, wanted, here)
    here.exported(f"report as {form.upper()}", run=id)
    return _file([run], wanted, form, f"{run.title} report", here)


@router.get("/studies/{id}/report.{form}", response_class=Response, dependencies=[READ_STUDY])
def get_study_report(
    id: int, form: Form, here: Here, sections: Sections = "", paper: Paper = "A4", working: Working = "none"
) -> Response:  # fmt: skip
    """The reports of a study's runs in one file, the oldest first, with a contents page."""
    here.readiness.wait()
    wanted = _wanted(sections, paper, working)
    with here.database.transaction() as db:
        study = studies.get(db, id)
        if study is None:
            raise NotFound("study")
        ids = runs.in_study(db, id)
    if not ids:
        raise NotFound("run in this study")
    if len(ids) > MOST_RUNS[form]:
        others = "" if form == "html" else f", the HTML, which holds {MOST_RUNS['html']},"
        raise ChangeError(
            f"This study has {len(ids):,} runs; one report as {form.upper()} holds {MOST_RUNS[form]}. Take the reports "
            f"of single runs{others} or the study as a file."
        )
    reported = [_reported(each, wanted, here) for each in ids]
    here.exported(f"report of the study as {form.upper()}", study=id)
    return _file(reported, wanted, form, f"{study.name} report", here)


def _wanted(sections: str, paper: Literal["A4", "Letter"], working: Literal["none", "first", "all"]) -> Wanted:
    named = [each.strip() for each in sections.split(",") if each.strip()]
    chosen: list[Section] = [each for each in SECTIONS if each in named or not named]
    return Wanted(sections=tuple(chosen), paper=paper, working=working)


def _file(reported: Sequence[ReportedRun], wanted: Wanted, form: Form, title: str, here: Context) -> Response:
    now = datetime.now(UTC)
    if form == "html":
        body = as_html(reported, wanted, title=title, author=here.author, made_at=now).encode()
    else:
        # Pages take seconds to set, in which nobody else should have to wait.
        body = here.workers.run(_pdf, list(reported), wanted, title, here.author, now)
    return download(body, f"{title}.{form}", MEDIA[form])


def _pdf(reported: Sequence[ReportedRun], wanted: Wanted, title: str, author: str, now: datetime) -> bytes:
    return as_pdf(reported, wanted, title=title, author=author, made_at=now)


def _digest(db: Cursor, id: int, here: Context) -> str:
    """SHA-256 of what a run was made from."""
    file = runs.file_of(db, id)
    found = hashlib.sha256()
    for part in [runs.source(db, id) or b""] if file is None else StoredFile(here.database, file).pieces():
        found.update(part)
    return found.hexdigest()


def _reported(id: int, wanted: Wanted, here: Context) -> ReportedRun:
    """A run as it stands, with all that its report tells."""
    with here.database.transaction() as db:
        head, row, revision = runs.head(db, id), revisions.row_of(db, id), revisions.get(db, id, do=here.do)
        if head is None or revision is None or row is None:
            raise NotFound("run")
        outcome = revision.outcome
        if any(curve.brief for curve in outcome.curves):
            cells = revisions.cells_of(db, id, row["readings"])
            outcome = here.do(evaluated_whole, cells, row["layout"], row["method"])
        figure = revision.method.figure or studies.opening_look(db, id)
        method = revision.method.model_copy(update={"figure": figure})
        entries = ledger.of_run(db, id)
        revision = revision.model_copy(update={"outcome": outcome})
        return ReportedRun(
            title=head.title, study=head.study_name, source_name=head.source_name,
            digest=_digest(db, id, here), opened_at=head.created_at,
            revision=revision.number, author=revision.author, at=revision.created_at,
            program=revision.program or __version__, readings=runs.readings(db, id), layout=revision.layout,
            method=method, outcome=outcome,
            signed=tuple(
                Signed(each.name, each.meaning, each.at, each.digest)
                for each in reviews.signatures(db, id, revision.number)
            ),
            ledger=tuple(LedgerLine(e.at, e.author, e.revision, e.words) for e in entries),
            working=_working(db, id, revision, wanted, here) if "working" in wanted.sections else {},
        )  # fmt: skip


def _working(
    db: Cursor, id: int, revision: revisions.Revision, wanted: Wanted, here: Context
) -> dict[str, tuple[WorkingLine, ...]]:
    """The lines behind the answers whose working is wanted, by what they are called."""
    table = revision.outcome.answers
    rows = {"none": (), "first": table.rows[:1], "all": table.rows[:MOST_WORKING]}[wanted.working]
    tags = {curve.key: curve.tag for curve in revision.outcome.curves}
    found = {}
    for row in rows:
        numbers = [f"{tags.get(row.curve, '')}{column.working}" for column in table.leads if column.working]
        parts = [revisions.working(db, id, revision.number, each, here.do) for each in (row.group, *numbers)]
        lines = tuple(line for part in parts if part for line in part)
        if lines:
            found[row.name if row.name not in found else f"{row.name} ({row.key})"] = lines
    return found

"""A run's figure: drawn as it is being changed, and as a file of exactly the size that was asked for."""

from collections.abc import Sequence

from fastapi import APIRouter
from fastapi.responses import Response

from dosis.output.figures.content import Shown
from dosis.output.figures.figure import Figure, figure_of
from dosis.output.figures.files import MEDIA, File, pixels
from dosis.output.figures.looks import looks_of
from dosis.output.figures.markup import plain
from dosis.output.figures.numbers import as_csv
from dosis.people.rights import Right
from dosis.run.look import FigureLook
from dosis.run.record import Record
from dosis.store import revisions, runs, studies
from dosis.store.database import Cursor
from dosis.web.access import READ_RUN
from dosis.web.context import Context, Here
from dosis.web.problems import NotFound
from dosis.web.routes.runs import download

router = APIRouter(prefix="/api/runs/{id}", tags=["figures"])


class Draft(Record):
    """A look to draw; None for the one the run has."""

    look: FigureLook | None = None


class ShownSeries(Record):
    """A series as it can be chosen and changed."""

    key: str
    name: str
    color: str


class Moved(Record):
    """Another run on the figure that has moved on since."""

    run: int
    title: str
    revision: int
    current: int


class DrawnFigure(Record):
    """The figure as it will be saved, with the look that made it.

    x, y : the titles that the axes have by themselves. remarks : what did not fit, and what to do.
    """

    svg: str
    look: FigureLook
    series: tuple[ShownSeries, ...]
    x: str
    y: str
    log: bool
    pixels_across: int
    pixels_down: int
    alt: str
    remarks: tuple[str, ...]
    moved: tuple[Moved, ...]


@router.post("/figure", dependencies=[READ_RUN])
def draw_figure(id: int, draft: Draft, here: Here) -> DrawnFigure:
    """The run's figure with a look that is tried. Nothing is stored."""
    here.readiness.wait()
    figure, moved, _ = _figure(id, draft.look, here)
    svg, remarks = figure.drawn_svg()
    if lost := len(figure.look.others) - figure.others:
        remarks.append(f"{lost} of the other runs {'are' if lost > 1 else 'is'} no longer there, so not drawn.")
    across, down = pixels(figure.look)
    content, look = figure.contents[0], figure.look
    own = looks_of([trace.key for trace in content.traces], look.series)
    return DrawnFigure(
        svg=svg, look=look, x=content.x, y=content.y, log=content.log, pixels_across=across, pixels_down=down,
        alt=plain(figure.alt),
        series=tuple(
            ShownSeries(key=trace.key, name=trace.name or "The run", color=own[trace.key].color)
            for trace in content.traces
        ),
        remarks=tuple(dict.fromkeys(remarks)), moved=tuple(moved),
    )  # fmt: skip


@router.get("/figure.csv", response_class=Response, dependencies=[READ_RUN])
def get_numbers(id: int, here: Here) -> Response:
    """The numbers behind the figure, at full precision."""
    here.readiness.wait()
    figure, _, title = _figure(id, None, here)
    here.exported("numbers of the figure", run=id)
    return download(as_csv(figure), f"{title} figure.csv", "text/csv")


@router.get("/figure.{kind}", response_class=Response, dependencies=[READ_RUN])
def get_figure(id: int, kind: File, here: Here, outlines: bool = False) -> Response:
    """The figure as a file. outlines : in an SVG, letters as shapes."""
    here.readiness.wait()
    figure, _, title = _figure(id, None, here)
    here.exported(f"figure as {kind.upper()}", run=id)
    return download(figure.file(kind, outlines=outlines), f"{title}.{kind}", MEDIA[kind])


@router.post("/figure.{kind}", response_class=Response, dependencies=[READ_RUN])
def try_figure(id: int, kind: File, draft: Draft, here: Here) -> Response:
    """The figure as a file with a look that is tried, such as the limits of a view. Nothing is stored."""
    here.readiness.wait()
    figure, _, title = _figure(id, draft.look, here)
    here.exported(f"figure as {kind.upper()}", run=id)
    return download(figure.file(kind), f"{title}.{kind}", MEDIA[kind])


def _figure(id: int, look: FigureLook | None, here: Context) -> tuple[Figure, list[Moved], str]:
    """The figure, what of it has moved on, and the run's title."""
    with here.database.transaction() as db:
        head, revision = runs.head(db, id), revisions.get(db, id, do=here.do)
        if head is None or revision is None:
            raise NotFound("run")
        look = look or revision.method.figure or studies.opening_look(db, id)
        here.need_runs(Right.READ, (each.run for each in look.others))
        others, moved = _others(db, look, here)
        readings = runs.readings(db, id) if look.kind in ("before_after", "scans") else None
    shown = Shown(head.title, revision.outcome, revision.layout, readings)
    return figure_of(shown, look, others), moved, head.title


def _others(db: Cursor, look: FigureLook, here: Context) -> tuple[Sequence[Shown], list[Moved]]:
    shown, moved = [], []
    for each in look.others:
        head, revision = runs.head(db, each.run), revisions.get(db, each.run, each.revision, do=here.do)
        newest = revisions.row_of(db, each.run)
        if head is None or revision is None or newest is None:
            continue
        shown.append(Shown(head.title, revision.outcome, revision.layout))
        if newest["number"] != each.revision:
            moved.append(Moved(run=each.run, title=head.title, revision=each.revision, current=newest["number"]))
    return shown, moved

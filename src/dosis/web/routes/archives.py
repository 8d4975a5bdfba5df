"""A study as one file, and a study from one."""

import tempfile
from pathlib import Path

from fastapi import APIRouter
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from dosis.output.exports.export import Subject
from dosis.output.exports.registry import EXPORTS
from dosis.output.figures.content import Shown
from dosis.output.figures.figure import figure_of
from dosis.run.layout import Layout
from dosis.run.look import FigureLook
from dosis.run.method import Method
from dosis.run.outcome.outcome import Outcome
from dosis.run.readings import Readings
from dosis.store import archive, files, studies
from dosis.store.archive_in import read_study
from dosis.web.access import READ_STUDY, WORK_IN_LAB
from dosis.web.context import Here
from dosis.web.problems import NotFound

router = APIRouter(prefix="/api", tags=["archives"])


@router.get("/studies/{id}/archive.zip", response_class=FileResponse, dependencies=[READ_STUDY])
def get_archive(id: int, here: Here) -> FileResponse:
    """Everything a study holds, as one file that another Dosis reads in; runs in the bin stay behind."""
    with tempfile.NamedTemporaryFile(prefix="dosis-", suffix=".zip", delete=False) as file:
        path = Path(file.name)
        try:
            with here.database.transaction() as db:
                study = studies.get(db, id)
                if study is None or not archive.write(
                    db, id, file, lambda each: files.StoredFile(here.database, each).pieces(), _shown
                ):
                    raise NotFound("study")
        except BaseException:
            path.unlink(missing_ok=True)
            raise
    here.exported("archive of the study", study=id)
    return FileResponse(
        path, media_type="application/zip", filename=f"{study.name}.zip", background=BackgroundTask(path.unlink)
    )


@router.post("/files/{id}/study", status_code=201, dependencies=[WORK_IN_LAB])
def read_archive(id: int, here: Here) -> studies.Study:
    """A study from an archive that came in pieces. Nothing that is there already is touched."""
    here.need_file(id)
    here.readiness.wait()
    with files.StoredFile(here.database, id) as file, here.database.transaction() as db:
        made = read_study(db, archive.Archive(file), here.author, here.do)
        files.remove(db, id)
        found = studies.get(db, made)
    if found is None:
        raise NotFound("study")
    return found


def _shown(title: str, readings: Readings, layout: Layout, method: Method, outcome: Outcome) -> tuple[bytes, bytes]:
    figure = figure_of(Shown(title, outcome, layout, readings), method.figure or FigureLook())
    return EXPORTS["csv"].make(Subject(title, readings, layout, outcome)), figure.file("svg", outlines=True)

"""Readings that are curves, apart from the runs they belong to because they are large: as lines, and as a file."""

from collections.abc import Iterator
from itertools import count, takewhile
from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import Response

from dosis.run.outcome.courses import CourseLines, CoursesWanted
from dosis.store import revisions
from dosis.store.worked import courses_looked_at, recording_written
from dosis.web.access import READ_RUN
from dosis.web.context import Here
from dosis.web.problems import NotFound
from dosis.web.routes.runs import head_of, streamed

router = APIRouter(prefix="/api/runs", tags=["runs"])


@router.get("/{id}/revisions/{number}/courses", response_model=CourseLines, dependencies=[READ_RUN])
def get_courses(
    id: int, number: int, here: Here, points: Annotated[int, Query(ge=8, le=4000)] = 48,
    key: Annotated[str, Query(max_length=200)] = "", lower: float | None = None, upper: float | None = None,
    stage: Annotated[str, Query(max_length=40)] = "",
) -> Response:  # fmt: skip
    """Every course, or that of the key, as a line of at most so many points, whole or between two ends."""
    here.readiness.wait()
    with here.database.transaction() as db:
        state = revisions.packed_state(db, id, number)
    if state is None:
        raise NotFound("revision")
    wanted = CoursesWanted(points=points, key=key, lower=lower, upper=upper, stage=stage)
    return Response(here.do(courses_looked_at, *state, wanted), media_type="application/json")


@router.get("/{id}/recording.csv", response_class=Response, dependencies=[READ_RUN])
def get_recording(id: int, here: Here, every: Annotated[int, Query(ge=1, le=1_000_000)] = 1) -> Response:
    """The recording in calibrated units, whole or every so manieth sample."""
    here.readiness.wait()
    with here.database.transaction() as db:
        head, state = head_of(db, id), revisions.packed_state(db, id)
    if state is None:
        raise NotFound("run")
    first = here.do(recording_written, *state, every, 0)
    if not first:
        raise NotFound("recording")

    here.exported("recording as CSV", run=id)

    def parts() -> Iterator[bytes]:
        yield b"\xef\xbb\xbf" + first
        yield from takewhile(bool, (here.do(recording_written, *state, every, part) for part in count(1)))

    return streamed(parts(), f"{head.title}.csv", "text/csv")

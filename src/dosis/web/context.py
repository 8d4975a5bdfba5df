"""What routes need of the application: its database and who is working."""

from dataclasses import dataclass, field
from typing import Annotated, cast

from fastapi import Depends, Request

from dosis.intake.sheets import SourceFile
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices, Intake
from dosis.run.evaluate import evaluate
from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.outcome.outcome import Outcome
from dosis.run.readings import Readings
from dosis.store.database import Database
from dosis.web.readiness import Readiness
from dosis.web.workers import Workers

LARGE_TEXT = 150_000  # bytes from which a table is understood in a worker
LARGE_RUN = (
    10_000  # numbers from which a run is evaluated in one: handing 5,000 over takes longer than working them out
)


@dataclass(frozen=True)
class Context:
    """Handed to every route."""

    database: Database
    author: str
    instruments: tuple[str, ...] = ()
    workers: Workers = field(default_factory=Workers)
    readiness: Readiness = field(default_factory=Readiness)

    def understand(
        self, text: str, choices: Choices, files: tuple[SourceFile, ...], *, look_only: bool = False,
        first: int | None = None,
    ) -> Intake:  # fmt: skip
        """`understand`, in a worker where there is much to read or to unfold."""
        size = len(text) + sum(len(file.data) for file in files)
        if size < LARGE_TEXT:
            return _understand(text, choices, files, look_only, first)
        return self.workers.run(_understand, text, choices, files, look_only, first)

    def evaluate(self, readings: Readings, layout: Layout, method: Method, *, whole: bool = False) -> Outcome:
        """`evaluate`, in a worker where there is much to work out."""
        if len(readings.readings) * max(len(readings.channels), 1) < LARGE_RUN:
            return evaluate(readings, layout, method, whole=whole)
        return self.workers.run(_evaluate, readings, layout, method, whole)


def _understand(
    text: str, choices: Choices, files: tuple[SourceFile, ...], look_only: bool, first: int | None
) -> Intake:
    return understand(text, choices, files=files, look_only=look_only, first=first)


def _evaluate(readings: Readings, layout: Layout, method: Method, whole: bool) -> Outcome:
    return evaluate(readings, layout, method, whole=whole)


def _context(request: Request) -> Context:
    return cast(Context, request.app.state.context)


Here = Annotated[Context, Depends(_context)]

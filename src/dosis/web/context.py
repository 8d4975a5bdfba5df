"""What routes need of the application: its database and who is working."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Annotated, TypeVar, cast

from fastapi import Depends, Request

from dosis.intake.sheets import SourceFile
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices, Intake
from dosis.store.database import Database
from dosis.web.readiness import Readiness
from dosis.web.workers import Workers

LARGE_TEXT = 150_000  # bytes from which a table is understood in a worker
LARGE_RUN = 100_000  # bytes, as they are stored, from which a run is evaluated in one: some thousands of readings

Result = TypeVar("Result")


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

    def do(self, work: Callable[..., Result], *arguments: object) -> Result:
        """A piece of work on what is stored, in a worker where that is large."""
        if sum(len(each) for each in arguments if isinstance(each, bytes)) < LARGE_RUN:
            return work(*arguments)
        return self.workers.run(work, *arguments)


def _understand(
    text: str, choices: Choices, files: tuple[SourceFile, ...], look_only: bool, first: int | None
) -> Intake:
    return understand(text, choices, files=files, look_only=look_only, first=first)


def _context(request: Request) -> Context:
    return cast(Context, request.app.state.context)


Here = Annotated[Context, Depends(_context)]

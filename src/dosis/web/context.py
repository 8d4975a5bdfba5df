"""What routes need of the application: its database and who is asking."""

import zlib
from collections.abc import Callable, Iterable
from contextlib import suppress
from dataclasses import dataclass, field, replace
from typing import Annotated, TypeVar, cast

from fastapi import Depends, Request
from pydantic import BaseModel

from dosis.batches.runner import Runner
from dosis.intake.sheets import SourceFile
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices, Intake
from dosis.people.rights import ALL_ROLES, Right, Rights
from dosis.store import ledger
from dosis.store.database import Database
from dosis.store.files import ReadIn, looked_at, read_in
from dosis.store.recordings import path_in
from dosis.store.runs import study_of
from dosis.store.sessions import Person
from dosis.web.problems import Forbidden, NotFound, SignedOut
from dosis.web.provider import Provider
from dosis.web.readiness import Readiness
from dosis.web.workers import Workers

LARGE_TEXT = 150_000  # bytes from which a table is understood in a worker
UNFOLDING = (b"PK", b"\x1f\x8b", b"\xd0\xcf\x11\xe0")  # how compressed files and old workbooks begin
LARGE_RUN = 100_000  # bytes, as they are stored, from which a run is evaluated in one: some thousands of readings
LARGE_METHOD = 20_000  # bytes that no method has, as it is stored
OWN_EQUATION = b'"model":"custom"'
HOPELESS = 60.0  # seconds after which the fit of an equation that a person has typed is ended
HOPELESS_FIT = (
    "The fit of this equation was ended after {seconds:g} s. Give its parameters starts that are nearer, hold some of "
    "them, or write it with fewer."
)
READING = 1_800.0  # seconds that a large file may be read for

Result = TypeVar("Result")


def alone(name: str) -> Person:
    """One who has Dosis to themselves on a machine, and needs no sign-in."""
    return Person(name=name, rights=Rights(everywhere=ALL_ROLES))


@dataclass(frozen=True)
class Context:
    """Handed to every route.

    alone : who everybody is, where one person has Dosis to themselves. asking : who sent this request.
    provider : by which people may sign in.
    """

    database: Database
    batches: Runner
    alone: Person | None = None
    asking: Person | None = None
    provider: Provider | None = None
    instruments: tuple[str, ...] = ()
    workers: Workers = field(default_factory=Workers)
    readiness: Readiness = field(default_factory=Readiness)

    @property
    def who(self) -> Person:
        """Who is asking. Raises SignedOut."""
        if self.asking is None:
            raise SignedOut
        return self.asking

    @property
    def author(self) -> str:
        """Their name, which the Ledger gives."""
        return self.who.name

    def need(self, right: Right, study: int | None, what: str = "study") -> None:
        """Raises NotFound where they may not even look, Forbidden where they may not do this."""
        if not self.who.rights.may(Right.READ, study):
            raise NotFound(what)
        if not self.who.rights.may(right, study):
            raise Forbidden(right)

    def need_runs(self, right: Right, runs: Iterable[int]) -> None:
        """The same for the studies of these runs."""
        if self.who.rights.may(right):
            return
        with self.database.transaction() as db:
            studies = [study_of(db, id) for id in runs]
        for study in studies:
            if study is None:
                raise NotFound("run")
            self.need(right, study, "run")

    def exported(self, what: str, *, run: int | None = None, study: int | None = None) -> None:
        """Note in the Ledger what leaves Dosis, and by whom."""
        with self.database.transaction() as db:
            row = db.one("SELECT study_id, current FROM run WHERE id = %s", run) if run is not None else None
            if row is not None:
                study = row["study_id"]
            revision = row["current"] if row else None
            ledger.write(db, self.author, "export", f"Exported: {what}", study=study, run=run, revision=revision)

    def need_file(self, file: int | None) -> None:
        """Raises NotFound for a file in pieces that somebody else has sent."""
        if file is None or self.alone is not None:
            return
        with self.database.transaction() as db:
            row = db.one("SELECT author FROM file WHERE id = %s", file)
        if row is None or row["author"] != self.author:
            raise NotFound("file")

    def understand(
        self, text: str, choices: Choices, files: tuple[SourceFile, ...], *, look_only: bool = False,
        first: int | None = None,
    ) -> Intake:  # fmt: skip
        """`understand`, in a worker where there is much to read, or a file that can unfold to much."""
        size = len(text) + sum(len(file.data) for file in files)
        if size < LARGE_TEXT and not any(file.data.startswith(UNFOLDING) for file in files):
            return _understand(text, choices, files, look_only, first)
        return self.workers.run(_understand, text, choices, files, look_only, first)

    def look_at(self, file: int, choices: Choices, first: int | None) -> bytes:
        """`looked_at` of a file that came in pieces, in a worker."""
        return self.workers.run(looked_at, self.database.url, file, choices, first)

    def read_in(self, file: int, choices: Choices) -> ReadIn:
        """`read_in` of such a file, in a worker, for as long as it takes; a person can stop it."""
        return self.workers.run(read_in, self.database.url, self.database.scratch, file, choices, seconds=READING)

    def do(self, work: Callable[..., Result], *arguments: object) -> Result:
        """A piece of work on what is stored, in a worker where that is large, or takes nobody knows how long."""
        packed = [each for each in arguments if isinstance(each, bytes)]
        if any(map(_of_an_own_equation, arguments)):
            return self.workers.run(work, *arguments, seconds=HOPELESS, too_long=HOPELESS_FIT)
        if sum(map(len, packed)) < LARGE_RUN and not any(path_in(each) for each in packed):
            return work(*arguments)
        return self.workers.run(work, *arguments)


def _of_an_own_equation(argument: object) -> bool:
    """Whether a packed method, or a change to one, has an equation that a person has typed."""
    if isinstance(argument, bytes) and len(argument) < LARGE_METHOD:
        with suppress(zlib.error):  # readings can be packed otherwise
            return OWN_EQUATION in zlib.decompress(argument)
    parts = argument if isinstance(argument, tuple) else ()
    return any(OWN_EQUATION in each.model_dump_json().encode() for each in parts if isinstance(each, BaseModel))


def _understand(
    text: str, choices: Choices, files: tuple[SourceFile, ...], look_only: bool, first: int | None
) -> Intake:
    return understand(text, choices, files=files, look_only=look_only, first=first)


def _context(request: Request) -> Context:
    context = cast(Context, request.app.state.context)
    return replace(context, asking=getattr(request.state, "who", None))


Here = Annotated[Context, Depends(_context)]

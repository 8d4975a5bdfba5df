"""The method a person has chosen for new readings: one that is kept, in a version, or the working of another run."""

from collections.abc import Sequence
from dataclasses import dataclass

from dosis.intake.methods.keep import keep
from dosis.intake.methods.kept import KeptMethod
from dosis.people.rights import Right
from dosis.run.outcome.value import Remark
from dosis.run.record import Record
from dosis.store import methods, revisions, runs
from dosis.store.database import Cursor
from dosis.web.context import Context
from dosis.web.problems import NotFound


class MethodChosen(Record):
    """A kept method by its id, in the version in use where none is named; or the working of a `run` that is like it."""

    id: int | None = None
    version: int | None = None
    run: int | None = None


@dataclass(frozen=True)
class Chosen:
    """What was chosen. used : id and version, None of the working of a run, which nobody has kept."""

    body: KeptMethod
    used: tuple[int, int] | None

    def words(self, remarks: Sequence[Remark]) -> str:
        """What the Ledger says of it."""
        by = f"by the method “{self.body.name}”, version {self.used[1]}" if self.used else f"worked as {self.body.name}"
        found = "; ".join(each.text for each in remarks)
        return f"{by}; what did not fit: {found}" if found else by


def chosen_method(here: Context, chosen: MethodChosen | None) -> Chosen | None:
    """The method with its body.

    Raises
    ------
    NotFound : where there is no such method, version or run.
    """
    if chosen is None or (chosen.id is None and chosen.run is None):
        return None
    if chosen.id is None and chosen.run is not None:
        here.need_runs(Right.READ, [chosen.run])
    with here.database.transaction() as db:
        return _of_run(db, chosen.run) if chosen.id is None else _kept(db, chosen.id, chosen.version)


def of_run(db: Cursor, run: int | None, name: str = "", *, samples: bool = False) -> KeptMethod:
    """The working of a run as a method, called as it is unless a name is given. samples : as of `keep`."""
    head, state = (None, None) if run is None else (runs.head(db, run), revisions.state(db, run))
    choices = None if run is None else runs.choices(db, run)
    if run is None or head is None or state is None or choices is None:
        raise NotFound("run")
    return keep(name or head.title[:120], runs.readings(db, run), state.layout, state.method, choices,
                samples=samples)  # fmt: skip


def _of_run(db: Cursor, run: int | None) -> Chosen:
    return Chosen(of_run(db, run), None)


def _kept(db: Cursor, id: int, version: int | None) -> Chosen:
    found = methods.find(db, id, version)
    if found is None:
        raise NotFound("method or version of it")
    _, number, body = found
    return Chosen(body, (id, number))

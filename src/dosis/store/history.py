"""Changing a run, and undo and redo without limit: each makes a new revision."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TypeVar

from dosis.intake.understanding import Choices
from dosis.run.changes import Change, ChangeError, SetQuestion, SetStep
from dosis.run.evaluate import evaluate
from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.outcome.outcome import Outcome
from dosis.run.questions.registry import question_of
from dosis.run.readings import Readings
from dosis.store import revisions, runs
from dosis.store.database import Cursor
from dosis.store.revisions import NewRevision, Revision, State

Kept = TypeVar("Kept", Revision, State)


def change(
    db: Cursor, run: int, based_on: int, key: str, changes: Sequence[Change], author: str,
    work: Callable[[Readings, Layout, Method], Outcome] = evaluate,
) -> Revision:  # fmt: skip
    """Apply changes to the revision `based_on`, evaluate, and append the result.

    work : evaluates; somewhere else, where a run is large.
    A key that has already made a revision returns that revision: a save whose answer was lost can be sent again.

    Raises
    ------
    Stale : when the run has moved on. ChangeError : when a change does not apply, or alters nothing.
    """
    if made := revisions.lock(db, run, based_on, key):
        return _get(db, run, made)
    current = _found(revisions.state(db, run, based_on), based_on)
    readings = runs.readings(db, run)
    layout, method = current.layout, current.method
    words = []
    for each in changes:
        try:
            after = each.apply(readings, layout, method)
            words.append(each.words(readings, layout, method))  # of the state as it was
            layout, method = after
        except ChangeError:
            raise
        except ValueError as error:
            raise ChangeError(str(error)) from error
    if (layout, method) == (current.layout, current.method):
        raise ChangeError("That is how it already is; nothing was changed.")
    chosen = any(isinstance(each, SetStep | SetQuestion) for each in changes)
    if method != current.method and not chosen:
        words.append(question_of(method.question).opening_words(method.steps))
    number = based_on + 1
    new = NewRevision(
        number=number, origin=number, undo_to=current.origin, redo_to=None, layout=layout, method=method,
        outcome=work(readings, layout, method), words="; ".join(words), key=key, action="change",
        readings=current.readings,
    )  # fmt: skip
    return revisions.append(db, run, new, author)


@dataclass(frozen=True)
class Anew:
    """What was understood of a run's source this time, and what comes of it."""

    choices: Choices
    readings: Readings
    layout: Layout
    method: Method
    outcome: Outcome
    words: str


def understand_anew(db: Cursor, run: int, based_on: int, key: str, found: Anew, author: str) -> Revision:
    """Append a revision of readings that were understood anew from the same source. Raises Stale."""
    if made := revisions.lock(db, run, based_on, key):
        return _get(db, run, made)
    current = _get(db, run, based_on)
    number = runs.understood_anew(db, run, found.choices, found.readings)
    new = NewRevision(
        number=based_on + 1, origin=based_on + 1, undo_to=current.origin, redo_to=None, layout=found.layout,
        method=found.method, outcome=found.outcome, words=found.words, key=key, action="understand anew",
        readings=number,
    )  # fmt: skip
    return revisions.append(db, run, new, author)


def undo(db: Cursor, run: int, based_on: int, key: str, author: str) -> Revision:
    """Go back to the state the current one was made from. Raises Stale, or ChangeError when there is none."""
    if made := revisions.lock(db, run, based_on, key):
        return _get(db, run, made)
    current = _get(db, run, based_on)
    if current.undo_to is None:
        raise ChangeError("There is nothing to undo.")
    state = _get(db, run, current.undo_to)
    words = f"Undo: {_get(db, run, current.origin).words}"
    return _restore(db, run, state, number=based_on + 1, redo_to=based_on, words=words, key=key, author=author)


def redo(db: Cursor, run: int, based_on: int, key: str, author: str) -> Revision:
    """Bring back the state the last undo left. Raises Stale, or ChangeError when there is none."""
    if made := revisions.lock(db, run, based_on, key):
        return _get(db, run, made)
    current = _get(db, run, based_on)
    if current.redo_to is None:
        raise ChangeError("There is nothing to redo.")
    left = _get(db, run, current.redo_to)
    state = _get(db, run, left.origin)
    words = f"Redo: {state.words}"
    return _restore(db, run, state, number=based_on + 1, redo_to=left.redo_to, words=words, key=key, author=author)


def restore(db: Cursor, run: int, based_on: int, key: str, number: int, author: str) -> Revision:
    """Go back to any revision, as a change of its own that can be undone. Raises Stale or ChangeError."""
    if made := revisions.lock(db, run, based_on, key):
        return _get(db, run, made)
    current, wanted = _get(db, run, based_on), _get(db, run, number)
    if (wanted.layout, wanted.method, wanted.readings) == (current.layout, current.method, current.readings):
        raise ChangeError("That is how it already is; nothing was changed.")
    working = revisions.working(db, run, wanted.number) or {}
    new = NewRevision(
        number=based_on + 1, origin=based_on + 1, undo_to=current.origin, redo_to=None, layout=wanted.layout,
        method=wanted.method, outcome=wanted.outcome.model_copy(update={"working": working}),
        words=f"Back to revision {number}: {wanted.words}", key=key, action="restore",
        readings=wanted.readings,
    )  # fmt: skip
    return revisions.append(db, run, new, author)


def _restore(
    db: Cursor, run: int, state: Revision, *, number: int, redo_to: int | None, words: str, key: str, author: str
) -> Revision:
    """Append a revision equal to `state`, which is an origin."""
    working = revisions.working(db, run, state.number) or {}
    new = NewRevision(
        number=number, origin=state.number, undo_to=state.undo_to, redo_to=redo_to, layout=state.layout,
        method=state.method, outcome=state.outcome.model_copy(update={"working": working}), words=words, key=key,
        action=words.split(":", maxsplit=1)[0].lower(), readings=state.readings,
    )  # fmt: skip
    return revisions.append(db, run, new, author)


def _get(db: Cursor, run: int, number: int) -> Revision:
    return _found(revisions.get(db, run, number), number)


def _found(kept: Kept | None, number: int) -> Kept:
    if kept is None:
        raise ChangeError(f"This run has no revision {number}.")
    return kept

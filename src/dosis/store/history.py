"""Changing a run, and undo and redo without limit: each makes a new revision."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from dosis.intake.understanding import Choices
from dosis.run.changes import Change, ChangeError
from dosis.run.figure_changes import ApplyStyle, SetFigure
from dosis.store import revisions, runs
from dosis.store.database import Cursor, Row
from dosis.store.revisions import Kept, NewRevision
from dosis.store.worked import Do, Worked, change_evaluated, here, redrawn


def change(
    db: Cursor, run: int, based_on: int, key: str, changes: Sequence[Change], author: str, do: Do = here
) -> Kept:
    """Apply changes to the revision `based_on`, evaluate, and append the result.

    do : evaluates; somewhere else, where a run is large.
    A key that has already made a revision returns that revision: a save whose answer was lost can be sent again.

    Raises
    ------
    Stale : when the run has moved on. ChangeError : when a change does not apply, or alters nothing.
    """
    if made := revisions.lock(db, run, based_on, key):
        return _get(db, run, made, do)
    drawn = all(isinstance(each, SetFigure | ApplyStyle) for each in changes)
    current = _row(db, run, based_on, also=["outcome", "working", "card"] if drawn else [])
    cells = revisions.cells_of(db, run, current["readings"])
    if drawn and current["outcome"] is not None:
        stored = [current[name] for name in ("layout", "method", "outcome", "working", "card")]
        worked = redrawn(cells, stored, changes)
    else:
        worked = do(change_evaluated, cells, current["layout"], current["method"], tuple(changes))
    new = NewRevision(
        number=based_on + 1, origin=based_on + 1, undo_to=current["origin"], redo_to=None, worked=worked, key=key,
        action="change", readings=current["readings"],
    )  # fmt: skip
    return revisions.append(db, run, new, author)


@dataclass(frozen=True)
class Anew:
    """What was understood of a run's source this time, packed, and what comes of it.

    source : where the readings are others, with a source of their own.
    """

    choices: Choices
    cells: bytes
    worked: Worked
    source: runs.NewSource | None = None


def understand_anew(db: Cursor, run: int, based_on: int, key: str, found: Anew, author: str, do: Do = here) -> Kept:
    """Append a revision of readings understood anew from the same source, or of others in their place. Raises Stale."""
    if made := revisions.lock(db, run, based_on, key):
        return _get(db, run, made, do)
    if found.source is None:
        number, action = runs.understood_anew(db, run, found.choices, found.cells), "understand anew"
    else:
        number, action = runs.replaced(db, run, found.source, found.choices, found.cells), "replace readings"
    new = NewRevision(
        number=based_on + 1, origin=based_on + 1, undo_to=_row(db, run, based_on)["origin"], redo_to=None,
        worked=found.worked, key=key, action=action, readings=number,
    )  # fmt: skip
    return revisions.append(db, run, new, author)


def undo(db: Cursor, run: int, based_on: int, key: str, author: str, do: Do = here) -> Kept:
    """Go back to the state the current one was made from. Raises Stale, or ChangeError when there is none."""
    if made := revisions.lock(db, run, based_on, key):
        return _get(db, run, made, do)
    current = _row(db, run, based_on)
    if current["undo_to"] is None:
        raise ChangeError("There is nothing to undo.")
    state = _row(db, run, current["undo_to"])
    words = f"Undo: {_row(db, run, current['origin'])['words']}"
    return _restore(db, run, state, number=based_on + 1, redo_to=based_on, words=words, key=key, author=author, do=do)


def redo(db: Cursor, run: int, based_on: int, key: str, author: str, do: Do = here) -> Kept:
    """Bring back the state the last undo left. Raises Stale, or ChangeError when there is none."""
    if made := revisions.lock(db, run, based_on, key):
        return _get(db, run, made, do)
    current = _row(db, run, based_on)
    if current["redo_to"] is None:
        raise ChangeError("There is nothing to redo.")
    left = _row(db, run, current["redo_to"])
    state = _row(db, run, left["origin"])
    words, redo_to = f"Redo: {state['words']}", left["redo_to"]
    return _restore(db, run, state, number=based_on + 1, redo_to=redo_to, words=words, key=key, author=author, do=do)


def restore(db: Cursor, run: int, based_on: int, key: str, number: int, author: str, do: Do = here) -> Kept:
    """Go back to any revision, as a change of its own that can be undone. Raises Stale or ChangeError."""
    if made := revisions.lock(db, run, based_on, key):
        return _get(db, run, made, do)
    current, wanted = _row(db, run, based_on), _row(db, run, number)
    if replace(revisions.state_in(wanted), origin=current["origin"]) == revisions.state_in(current):
        raise ChangeError("That is how it already is; nothing was changed.")
    worked = replace(_worked(db, run, wanted, do), words=f"Back to revision {number}: {wanted['words']}")
    new = NewRevision(
        number=based_on + 1, origin=based_on + 1, undo_to=current["origin"], redo_to=None, worked=worked, key=key,
        action="restore", readings=wanted["readings"],
    )  # fmt: skip
    return revisions.append(db, run, new, author)


def _restore(
    db: Cursor, run: int, state: Row, *, number: int, redo_to: int | None, words: str, key: str, author: str, do: Do
) -> Kept:
    """Append a revision equal to `state`, which is an origin."""
    new = NewRevision(
        number=number, origin=state["number"], undo_to=state["undo_to"], redo_to=redo_to,
        worked=replace(_worked(db, run, state, do), words=words), key=key,
        action=words.split(":", maxsplit=1)[0].lower(), readings=state["readings"],
    )  # fmt: skip
    return revisions.append(db, run, new, author)


def _worked(db: Cursor, run: int, row: Row, do: Do) -> Worked:
    found = revisions.as_stored(db, run, row["number"], do)
    if found is None:
        raise ChangeError(f"This run has no revision {row['number']}.")
    return found


def _get(db: Cursor, run: int, number: int, do: Do) -> Kept:
    found = revisions.kept(db, run, number, do)
    if found is None:
        raise ChangeError(f"This run has no revision {number}.")
    return found


def _row(db: Cursor, run: int, number: int, *, also: Sequence[str] = ()) -> Row:
    found = revisions.row_of(db, run, number, also=also)
    if found is None:
        raise ChangeError(f"This run has no revision {number}.")
    return found

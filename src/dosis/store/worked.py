"""A state of a run with all that is worked out of it, as bytes: so it is stored and sent, and made in another process.

Everything here takes packed records and returns them, because handing the records of a large run from process to
process takes longer than working them out.
"""

import hashlib
import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any, TypeVar

from dosis.run.changes import Change, ChangeError, SetQuestion, SetStep
from dosis.run.changing import changed
from dosis.run.evaluate import evaluate, look_at_courses, look_at_working
from dosis.run.influence import Influence, influence
from dosis.run.kept_calibration import KeptChannel
from dosis.run.layout import Layout
from dosis.run.measured import measures
from dosis.run.method import Method
from dosis.run.outcome.courses import CoursesWanted
from dosis.run.outcome.handed import HandedOn
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.working import WorkingLine
from dosis.run.planning import Planned, plan
from dosis.run.questions.registry import question_of
from dosis.run.readings import Readings
from dosis.store.cards import Card, card_of
from dosis.store.measures import packed
from dosis.store.packing import pack, text_of, unpack, unpack_text
from dosis.store.recordings import path_in, unpacked
from dosis.store.working import Working

Made = TypeVar("Made")
# Does a piece of work, here or in another process: `do(work, *arguments)`.
Do = Callable[..., Any]


def here(work: Callable[..., Made], *arguments: Any) -> Made:
    """Do it in this process."""
    return work(*arguments)


@dataclass(frozen=True)
class Worked:
    """A state and what came of it.

    layout, method, working, card : packed. outcome : its JSON, without the working; `digest` its SHA-256.
    answers : the rows of the first leading column, as JSON, None where they stay as they are; `unit` theirs.
    measures : the numbers that are watched over runs, as JSON, None where they stay.
    words : what was changed. question, state : for lists of runs.
    """

    layout: bytes
    method: bytes
    outcome: bytes
    digest: bytes
    working: bytes
    card: bytes
    answers: bytes | None
    unit: str
    measures: bytes | None = None
    words: str = ""
    question: str = ""
    state: str = ""

    def said(self, words: str) -> "Worked":
        """The same with other words."""
        return replace(self, words=words)


def worked(layout: Layout, method: Method, outcome: Outcome, words: str = "") -> Worked:
    """A state with its outcome; what is infinite in it, or no number, becomes none."""
    text, outcome = text_of(outcome, exclude={"working"})
    rows, unit = answer_rows(outcome)
    return Worked(
        layout=pack(layout), method=pack(method), outcome=text, digest=hashlib.sha256(text).digest(),
        working=pack(Working(lines=outcome.working)), card=pack(card_of(outcome)),
        answers=rows, unit=unit, measures=packed(measures(layout, outcome)), words=words,
        question=method.question, state=outcome.verdict.state.value,
    )  # fmt: skip


def answer_rows(outcome: Outcome) -> tuple[bytes, str]:
    """The rows of the first leading column, as JSON, and its unit."""
    lead = next(iter(outcome.answers.leads), None)
    rows = [] if lead is None else [
        [row.key, row.name, row.role.value, found.value, found.lower, found.upper, found.censor]
        for i, row in enumerate(outcome.answers.rows)
        for found in (lead.value(i),)
    ]  # fmt: skip
    return json.dumps(rows, ensure_ascii=False).encode(), lead.unit if lead else ""


def evaluated(cells: bytes, layout: bytes, method: bytes, words: str = "") -> Worked:
    """What comes of packed readings, in that layout, by that method."""
    what = unpack(Layout, layout), unpack(Method, method)
    return worked(*what, evaluate(readings_of(cells), *what), words)


def redrawn(cells: bytes, state: Sequence[bytes], changes: Sequence[Change]) -> Worked:
    """A state after changes of its figure alone, which leave its outcome as it is.

    state : its layout, method, outcome, working and card, as they are stored.

    Raises
    ------
    ChangeError : when they alter nothing.
    """
    layout, method, outcome, working, card = state
    before = unpack(Method, method)
    _, how, words = changed(readings_of(cells), unpack(Layout, layout), before, changes)
    if how == before:
        raise ChangeError("That is how it already is; nothing was changed.")
    text = unpack_text(Outcome, outcome)
    return Worked(
        layout=layout, method=pack(how), outcome=text, digest=hashlib.sha256(text).digest(), working=working, card=card,
        answers=None, unit="", words="; ".join(words), question=how.question, state=unpack(Card, card).state.value,
    )  # fmt: skip


def evaluated_whole(cells: bytes, layout: bytes, method: bytes) -> Outcome:
    """The outcome with every curve in full and the working of every group, for a file."""
    return evaluate(readings_of(cells), unpack(Layout, layout), unpack(Method, method), whole=True)


def change_evaluated(cells: bytes, layout: bytes, method: bytes, changes: Sequence[Change]) -> Worked:
    """The same after changes.

    Raises
    ------
    ChangeError : when one does not apply, or they alter nothing.
    """
    readings, before, by = readings_of(cells), unpack(Layout, layout), unpack(Method, method)
    after, how, words = changed(readings, before, by, changes)
    if (after, how) == (before, by):
        raise ChangeError("That is how it already is; nothing was changed.")
    chosen = any(isinstance(each, SetStep | SetQuestion) for each in changes)
    if how.steps != by.steps and not chosen:
        words.append(question_of(how.question).opening_words(how.steps))
    return worked(after, how, evaluate(readings, after, how), "; ".join(words))


def stored_worked(layout: bytes, method: bytes, outcome: bytes, working: bytes) -> Worked:
    """A state with its outcome and working as they are stored."""
    found = unpack(Outcome, outcome).model_copy(update={"working": unpack(Working, working).lines})
    return worked(unpack(Layout, layout), unpack(Method, method), found)


def working_looked_at(cells: bytes, layout: bytes, method: bytes, id: str) -> tuple[WorkingLine, ...] | None:
    """The working behind one group or number that was not written down beforehand."""
    return look_at_working(readings_of(cells), unpack(Layout, layout), unpack(Method, method), id)


def influence_looked_at(cells: bytes, layout: bytes, method: bytes, answer: str) -> Influence | None:
    """The readings that move an answer most."""
    return influence(readings_of(cells), unpack(Layout, layout), unpack(Method, method), answer)


def planned(cells: bytes, layout: bytes, method: bytes, answer: str, width: float | None) -> Planned | None:
    """What would make an answer better known."""
    return plan(readings_of(cells), unpack(Layout, layout), unpack(Method, method), answer, width)


def courses_looked_at(cells: bytes, layout: bytes, method: bytes, wanted: CoursesWanted) -> bytes:
    """Readings that are curves as lines, as JSON."""
    found = look_at_courses(readings_of(cells), unpack(Layout, layout), unpack(Method, method), wanted)
    return found.model_dump_json().encode()


def recording_written(cells: bytes, layout: bytes, method: bytes, every: int, part: int) -> bytes:
    """A part of the recording as CSV, every so manieth sample; empty beyond the last, and where there is none."""
    by = unpack(Method, method)
    asked = question_of(by.question)
    return asked.written(readings_of(cells), unpack(Layout, layout), by.steps, every, part).encode()


def handed_on(cells: bytes, layout: bytes, method: bytes, place: float | None) -> HandedOn | None:
    """A table for another run, of what was read at that place; None where there is none to hand on."""
    by = unpack(Method, method)
    return question_of(by.question).hand_on(readings_of(cells), unpack(Layout, layout), by.steps, place)


def calibration_found(cells: bytes, layout: bytes, method: bytes) -> tuple[KeptChannel, ...]:
    """What the channels are calibrated by, to be kept; nothing where none is."""
    by = unpack(Method, method)
    return question_of(by.question).calibration(readings_of(cells), unpack(Layout, layout), by.steps)


def readings_of(cells: bytes) -> Readings:
    """Readings as they are stored."""
    return _laid_out(cells) if path_in(cells) else _packed(cells)


@lru_cache(maxsize=8)  # written once, never altered, and asked for at every key
def _packed(cells: bytes) -> Readings:
    return unpacked(cells)


@lru_cache(maxsize=2)  # each has hundreds of megabytes of address space, of which a worker has some gigabytes
def _laid_out(cells: bytes) -> Readings:
    return unpacked(cells)

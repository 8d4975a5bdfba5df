"""Large runs: the outcome is stored with every 25th revision, and worked out again, and checked, for the others."""

from uuid import uuid4

import pytest

from dosis.demo import diatom
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.changes import ChangeError, Exclude, Include
from dosis.run.evaluate import evaluate
from dosis.run.figure_changes import SetFigure
from dosis.run.look import Axes, FigureLook
from dosis.run.method import default_method
from dosis.run.opening import opened
from dosis.store import history, revisions, runs, studies
from dosis.store.database import Database
from dosis.store.packing import pack
from dosis.store.revisions import EVERY, Kept
from dosis.store.worked import Worked, change_evaluated, worked
from dosis.web.workers import Workers
from tests.tables import PHOSPHATE


@pytest.fixture
def first() -> Worked:
    """A small run, as it is stored."""
    intake, method = understand(PHOSPHATE), default_method("concentration")
    return worked(intake.layout, method, evaluate(intake.readings, intake.layout, method))


@pytest.fixture
def large(database: Database, first: Worked, monkeypatch: pytest.MonkeyPatch) -> int:
    """The same, where every outcome counts as large."""
    monkeypatch.setattr(revisions, "LARGE", 0)
    return made(database, first)


def made(database: Database, first: Worked) -> int:
    with database.transaction() as db:
        new = runs.NewRun(
            study=studies.create(db, f"Large {uuid4()}", "tester"), title="Large", key=str(uuid4()),
            source_name="pasted table", source=PHOSPHATE.encode(), choices=Choices(),
            readings=understand(PHOSPHATE).readings, worked=first,
        )  # fmt: skip
        return runs.create(db, new, "tester")


def step(database: Database, run: int, based_on: int) -> Kept:
    """Exclude a reading and include it again, in turn."""
    change = Include(readings=(5,)) if based_on % 2 == 0 else Exclude(readings=(5,), reason="bubble")
    with database.transaction() as db:
        return history.change(db, run, based_on, str(uuid4()), (change,), "tester")


def whole(database: Database, run: int) -> list[int]:
    """The revisions that have their outcome with them."""
    with database.transaction() as db:
        found = db.all("SELECT number FROM revision WHERE run_id = %s AND outcome IS NOT NULL ORDER BY number", run)
    return [row["number"] for row in found]


def test_every_25th_revision_is_whole_and_the_others_open_as_they_were(database: Database, large: int) -> None:
    saved = [step(database, large, number) for number in range(1, EVERY + 2)]
    assert whole(database, large) == [1, EVERY + 1]
    with database.transaction() as db:
        for kept in saved:
            opened = revisions.kept(db, large, kept.head.number)
            assert opened == kept and not opened.head.differs
        assert [revisions.get(db, large, n).outcome.readings[4].used for n in (2, 3)] == [False, True]


@pytest.mark.parametrize(("short", "numbers"), [(0, [1]), (1, [1, 2])])
def test_an_outcome_is_large_from_that_many_bytes(
    database: Database, first: Worked, monkeypatch: pytest.MonkeyPatch, short: int, numbers: list[int]
) -> None:
    run = made(database, first)
    monkeypatch.setattr(revisions, "LARGE", len(step(database, made(database, first), 1).outcome_text) + short)
    step(database, run, 1)
    assert whole(database, run) == numbers


def test_undo_and_restore_of_what_is_not_whole(database: Database, large: int) -> None:
    states = [step(database, large, number) for number in (1, 2, 3)]
    with database.transaction() as db:
        back = history.undo(db, large, 4, str(uuid4()), "tester")
    assert (back.layout_text, back.outcome_text) == (states[1].layout_text, states[1].outcome_text)
    with database.transaction() as db:
        answers = db.one("SELECT COUNT(*) AS n FROM answer WHERE run_id = %s", large)
        there = history.restore(db, large, 5, str(uuid4()), 2, "tester")
    assert there.outcome_text == states[0].outcome_text
    assert answers == {"n": len(back.revision.outcome.answers.rows)}


def test_numbers_that_are_not_those_saved_are_pointed_at(database: Database, large: int) -> None:
    step(database, large, 1)
    with database.transaction() as db:
        assert not revisions.kept(db, large).head.differs
        were = db.all("SELECT number, digest, program FROM revision WHERE run_id = %s", large)
        db.run("UPDATE revision SET digest = %s, program = '0.0.9' WHERE run_id = %s", b"\x07" * 32, large)
    try:
        with database.transaction() as db:
            found = revisions.kept(db, large).revision
        assert found.differs and found.program == "0.0.9"
    finally:  # others look the whole Ledger over
        with database.transaction() as db:
            for was in were:
                db.run("UPDATE revision SET digest = %s, program = %s WHERE run_id = %s AND number = %s",
                       was["digest"], was["program"], large, was["number"])  # fmt: skip


def test_another_process_makes_the_same_of_it_and_hands_back_what_was_refused(first: Worked) -> None:
    cells, workers = pack(understand(PHOSPHATE).readings), Workers(1)
    try:
        change = (Exclude(readings=(5,), reason="bubble"),)
        made = workers.run(change_evaluated, cells, first.layout, first.method, change)
        assert made == change_evaluated(cells, first.layout, first.method, change)
        with pytest.raises(ChangeError, match="already is"):
            workers.run(change_evaluated, cells, first.layout, first.method, (Include(readings=(5,)),))
    finally:
        workers.close()


def test_another_look_of_the_figure_says_nothing_of_the_curve() -> None:
    """Of any question: the working opens anew with a layout, not with a figure."""
    intake = understand(diatom.plate())
    layout, method = opened(intake.readings, intake.layout, "dose")
    look = FigureLook(axes=Axes(grid=True))
    made = change_evaluated(pack(intake.readings), pack(layout), pack(method), (SetFigure(figure=look),))
    assert made.words == "Figure: axes grid on"


def test_another_look_leaves_outcome_working_and_answers_as_they_are(database: Database, first: Worked) -> None:
    run, change = made(database, first), SetFigure(figure=FigureLook(axes=Axes(grid=True)))
    with database.transaction() as db:
        before = revisions.kept(db, run), db.all("SELECT * FROM answer WHERE run_id = %s ORDER BY answer_key", run)
        kept = history.change(db, run, 1, str(uuid4()), (change,), "tester")
    with database.transaction() as db:
        after = revisions.kept(db, run), db.all("SELECT * FROM answer WHERE run_id = %s ORDER BY answer_key", run)
        assert revisions.working(db, run, 2, "check.cv") == revisions.working(db, run, 1, "check.cv") is not None
    assert after[0] == kept and kept.outcome_text == before[0].outcome_text and after[1] == before[1] != []
    assert kept.revision.method.figure == change.figure and not kept.head.differs
    with pytest.raises(ChangeError, match="already is"), database.transaction() as db:
        history.change(db, run, 2, str(uuid4()), (change,), "tester")

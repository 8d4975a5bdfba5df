"""The store on a real MariaDB: one transaction an action, nothing acknowledged is lost."""

from concurrent.futures import ThreadPoolExecutor
from uuid import uuid4

import pytest

from dosis.demo.load import load
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.changes import ChangeError, Exclude, SetStep
from dosis.run.evaluate import evaluate
from dosis.run.method import default_method
from dosis.run.standards.curve import CurveStep
from dosis.run.steps.replicates import ReplicatesStep
from dosis.store import history, ledger, revisions, runs, studies
from dosis.store.database import Database, Unavailable
from dosis.store.private_server import PrivateServer, ServerError
from dosis.store.revisions import Stale
from dosis.store.worked import worked
from tests.outcomes import answers
from tests.tables import PHOSPHATE


@pytest.fixture
def run(database: Database) -> int:
    """A fresh run in a study of its own."""
    intake, method = understand(PHOSPHATE), default_method("concentration")
    with database.transaction() as db:
        study = studies.create(db, "Store tests 🦪", "tester")
        new = runs.NewRun(
            study=study, title="Phosphate", key=str(uuid4()), source_name="pasted table", source=PHOSPHATE,
            choices=Choices(), readings=intake.readings,
            worked=worked(intake.layout, method, evaluate(intake.readings, intake.layout, method)),
        )  # fmt: skip
        return runs.create(db, new, "tester")


def exclude(database: Database, run: int, based_on: int, reading: int, key: str | None = None) -> revisions.Revision:
    with database.transaction() as db:
        change = Exclude(readings=(reading,), reason="bubble")
        return history.change(db, run, based_on, key or str(uuid4()), (change,), "tester").revision


def current(database: Database, run: int) -> revisions.Revision:
    with database.transaction() as db:
        return revisions.get(db, run)


def test_what_goes_in_comes_out(database: Database, run: int) -> None:
    intake = understand(PHOSPHATE)
    with database.transaction() as db:
        assert runs.readings(db, run) == intake.readings
        assert runs.source(db, run) == PHOSPHATE.encode()
        revision = revisions.get(db, run)
        outcome = evaluate(intake.readings, intake.layout, default_method("concentration"))
        assert revision.layout == intake.layout
        assert revision.outcome == outcome.model_copy(update={"working": {}})
        assert {id: revisions.working(db, run, 1, id) for id in outcome.working} == outcome.working
        assert revisions.working(db, run, 1, "nobody") is None


def test_every_reading_can_have_an_answer_of_its_own(database: Database, run: int) -> None:
    with database.transaction() as db:
        change = SetStep(step=ReplicatesStep(combine="each"))
        after = history.change(db, run, 1, str(uuid4()), (change,), "tester").revision
        stored = {r["answer_key"]: r["value"] for r in db.all("SELECT * FROM answer WHERE run_id = %s", run)}
    assert stored == {answer.key: answer.in_sample.value for answer in answers(after.outcome)}
    assert len(stored) > len({answer.group for answer in answers(after.outcome)})


def test_a_change_writes_revision_answers_and_ledger_together(database: Database, run: int) -> None:
    before = current(database, run)
    after = exclude(database, run, 1, 5)
    with database.transaction() as db:
        stored = {r["answer_key"]: r["value"] for r in db.all("SELECT * FROM answer WHERE run_id = %s", run)}
        entries = ledger.of_run(db, run)
    assert stored == {a.group: a.in_sample.value for a in answers(after.outcome)}
    assert stored != {a.group: a.in_sample.value for a in answers(before.outcome)}
    assert [(e.revision, e.author, e.words) for e in entries][-1] == (
        2, "tester", "Excluded Std 2 reading 1 (0.057): bubble",
    )  # fmt: skip


def test_a_failing_action_leaves_no_trace(database: Database, run: int) -> None:
    def half_an_action() -> None:
        with database.transaction() as db:
            history.change(db, run, 1, str(uuid4()), (Exclude(readings=(5,), reason="x"),), "tester")
            raise RuntimeError("cut off")

    with pytest.raises(RuntimeError):
        half_an_action()
    with database.transaction() as db:
        assert revisions.get(db, run).number == 1
        assert len(ledger.of_run(db, run)) == 1


def test_undo_and_redo_walk_the_whole_way_and_make_revisions(database: Database, run: int) -> None:
    states = [current(database, run).layout]
    for number, reading in enumerate((3, 4, 5), start=1):
        states.append(exclude(database, run, number, reading).layout)

    def step(move, number: int) -> revisions.Revision:
        with database.transaction() as db:
            return move(db, run, number, str(uuid4()), "tester").revision

    assert [step(history.undo, n).layout for n in (4, 5, 6)] == states[2::-1]
    with pytest.raises(ChangeError, match="nothing to undo"):
        step(history.undo, 7)
    assert [step(history.redo, n).layout for n in (7, 8, 9)] == states[1:]
    with pytest.raises(ChangeError, match="nothing to redo"):
        step(history.redo, 10)
    step(history.undo, 10)
    assert exclude(database, run, 11, 6).redo_to is None  # a new change ends the way forward
    step(history.undo, 12)
    assert step(history.undo, 13).layout == states[1]


def test_a_stale_save_is_refused_with_what_happened_since(database: Database, run: int) -> None:
    exclude(database, run, 1, 3)
    with pytest.raises(Stale) as stale:
        exclude(database, run, 1, 4)
    assert stale.value.current == 2
    assert [e.words for e in stale.value.since] == ["Excluded Std 1 reading 1 (0.038): bubble"]


def test_many_saves_at_once_make_one_revision_each_or_are_refused(database: Database, run: int) -> None:
    def save(reading: int) -> bool:
        try:
            exclude(database, run, 1, reading)
        except Stale:
            return False
        return True

    with ThreadPoolExecutor(8) as pool:
        saved = list(pool.map(save, range(3, 11)))
    assert saved.count(True) == 1
    assert current(database, run).number == 2


def test_the_same_save_sent_twice_is_made_once(database: Database, run: int) -> None:
    key = str(uuid4())
    first, second = (exclude(database, run, 1, 3, key) for _ in range(2))
    assert first == second
    assert current(database, run).number == 2


def test_the_same_save_sent_twice_at_once_is_made_once(database: Database, run: int) -> None:
    key = str(uuid4())
    with ThreadPoolExecutor(4) as pool:
        saved = list(pool.map(lambda _: exclude(database, run, 1, 3, key).number, range(4)))
    assert saved == [2] * 4


def test_a_change_that_changes_nothing_is_refused(database: Database, run: int) -> None:
    with pytest.raises(ChangeError, match="already is"), database.transaction() as db:
        history.change(db, run, 1, str(uuid4()), (SetStep(step=CurveStep()),), "tester")


def test_demo_is_loaded_once(database: Database) -> None:
    def everything() -> list[studies.Study]:
        with database.transaction() as db:
            return studies.list_all(db)

    before = everything()
    load(database)
    assert everything() == before


def test_kill_of_the_server_loses_nothing_acknowledged(tmp_path) -> None:
    server = PrivateServer(tmp_path / "db", supervise=False)
    server.start()
    store = Database(server.owner_url)
    try:
        store.migrate()
        load(store)
        exclude(store, 1, 1, 9)
        server.kill()
        with pytest.raises(Unavailable), store.transaction() as db:
            db.one("SELECT 1 AS up")
        server.start()
        assert current(store, 1).number == 2
        assert store.migrate() == []
    finally:
        store.close()
        server.stop()


def test_a_second_dosis_on_one_folder_is_refused_in_words(server: PrivateServer) -> None:
    with pytest.raises(ServerError, match="already running"):
        PrivateServer(server.home).start()


def test_a_server_that_dies_is_brought_up_again(tmp_path) -> None:
    server = PrivateServer(tmp_path / "db")
    server.start()
    store = Database(server.owner_url)
    try:
        server.kill()
        for _ in range(200):
            try:
                with store.transaction() as db:
                    assert db.one("SELECT 1 AS up") == {"up": 1}
                break
            except Unavailable:
                server._stopping.wait(0.05)
        else:
            pytest.fail("the server did not come back within 10 s")
    finally:
        store.close()
        server.stop()


def test_what_a_server_sets_aside_lies_in_its_own_folder(server: PrivateServer, database: Database) -> None:
    """In a folder that several share, each that starts clears away the temporary tables of the others."""
    with database.transaction() as db:
        row = db.one("SELECT @@tmpdir AS folder") or {}
    assert row["folder"] == str(server.home / "tmp")

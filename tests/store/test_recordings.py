"""Readings that are curves: in blocks in the database, and the same to the last bit when they come back."""

from uuid import uuid4

import numpy as np
import pytest
from numpy.testing import assert_array_equal

from dosis.demo import courses
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.evaluate import evaluate
from dosis.run.layout import Quantity
from dosis.run.opening import opened
from dosis.run.place_changes import ExcludePoints, Spot
from dosis.run.questions.rate.part import RatePart
from dosis.run.readings import Reading, Readings
from dosis.run.recording import Recording, axis_of
from dosis.store import history, recordings, revisions, runs, studies
from dosis.store.database import Database
from dosis.store.packing import unpack
from dosis.store.worked import worked
from tests.conftest import Site


def readings_of(recording: Recording) -> Readings:
    made = tuple(
        Reading.model_validate({"id": k + 1, "text": "c", "meaning": "number", "value": 1.0, "row": 1, "column": k})
        for k in range(len(recording.y))
    )
    return Readings(readings=made, axis=axis_of(Quantity(name="Time", unit="s"), recording), recording=recording)


@pytest.mark.parametrize(("courses_", "n"), [(1, 1), (3, 7), (2, 300_000), (900, 500)])
def test_numbers_come_back_to_the_last_bit_however_they_are_cut(courses_: int, n: int) -> None:
    rng = np.random.default_rng(6)
    y = rng.normal(size=(courses_, n)) * 10.0 ** rng.integers(-300, 300, (courses_, n))
    y[0, 0] = np.nan
    before = readings_of(Recording(np.sort(rng.uniform(0, 1e6, n)), y))
    blocks = recordings.blocks_of(before.curves)
    assert all(block.height * block.width <= recordings.NUMBERS for block in blocks)
    after = recordings.unpacked(recordings.packed(before))
    assert_array_equal(after.curves.x, before.curves.x)
    assert_array_equal(after.curves.y, before.curves.y)
    assert after.axis == before.axis and after.readings == before.readings


def test_readings_that_are_single_numbers_travel_as_before() -> None:
    plain = understand("Std 1\t1\t0.1\nStd 2\t2\t0.2").readings
    assert plain is not None
    assert recordings.parted(recordings.packed(plain))[1] == []
    assert recordings.unpacked(recordings.packed(plain)) == plain
    with pytest.raises(ValueError, match="single numbers, not curves"):
        _ = plain.curves


def made(database: Database) -> int:
    text = courses.phosphatase_table()
    intake = understand(text)
    assert intake.readings is not None and intake.layout is not None
    layout, method = opened(intake.readings, intake.layout, "rate")
    with database.transaction() as db:
        new = runs.NewRun(
            study=studies.create(db, f"Courses {uuid4()}", "tester"), title="Courses", key=str(uuid4()),
            source_name="pasted table", source=text.encode(), choices=Choices(), readings=intake.readings,
            worked=worked(layout, method, evaluate(intake.readings, layout, method)),
        )  # fmt: skip
        return runs.create(db, new, "tester")


def test_a_run_of_courses_is_stored_in_blocks_changed_and_brought_back(database: Database) -> None:
    run = made(database)
    point = ExcludePoints(points=(Spot(reading=2, at=3),), reason="bubble")
    with database.transaction() as db:
        first = revisions.get(db, run)
        blocks = db.all("SELECT reading, height, width FROM recording_block WHERE run_id = %s ORDER BY reading", run)
        history.change(db, run, 1, str(uuid4()), (point,), "tester")
        second = revisions.get(db, run)
        history.undo(db, run, 2, str(uuid4()), "tester")
        third = revisions.get(db, run)
        kept = runs.readings(db, run)
        head = unpack(Readings, revisions.head_of(db, run, 1))
    assert [(each["reading"], each["height"], each["width"]) for each in blocks] == [(-1, 1, 25), (0, 13, 25)]
    assert first is not None and second is not None and third is not None
    assert second.outcome != first.outcome == third.outcome
    assert second.layout.exclusions[0].at == 3
    assert isinstance(first.outcome.part, RatePart)
    assert_array_equal(kept.curves.y, understand(courses.phosphatase_table()).readings.curves.y)  # type: ignore[union-attr]
    assert head.recording is None and head.axis is not None and head.axis.count == 25


def test_the_page_is_sent_no_numbers_of_courses_but_those_it_draws(site: Site) -> None:
    body = {
        "study": 1,
        "title": "Courses",
        "key": str(uuid4()),
        "text": courses.temperature_plate(),
        "question": "rate",
    }
    view = site.client.post("/api/runs", json=body).raise_for_status().json()
    assert "recording" not in view["readings"] and view["readings"]["axis"]["count"] == 11
    run = view["run"]["id"]
    lines = site.client.get(f"/api/runs/{run}/revisions/1/courses", params={"points": 8}).raise_for_status().json()
    assert len(lines["courses"]) == 24 and all(len(each["x"]) <= 8 for each in lines["courses"])
    assert site.client.get(f"/api/runs/{run}/revisions/9/courses").status_code == 404
    change = {"kind": "set_question", "question": "concentration"}
    refused = site.client.post(
        f"/api/runs/{run}/changes", json={"based_on": 1, "key": str(uuid4()), "changes": [change]}
    )
    assert refused.status_code < 500 and "readings of another kind" in refused.json()["detail"]
    again = {"based_on": 1, "key": str(uuid4()), "choices": {"question": "concentration"}}
    anew = site.client.post(f"/api/runs/{run}/intake", json=again).raise_for_status().json()
    assert anew["readings"]["axis"] is None and len(anew["readings"]["channels"]) == 11
    plain = site.client.get(f"/api/runs/{run}/revisions/2/courses").raise_for_status().json()
    assert plain["courses"] == []

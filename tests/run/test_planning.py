"""What is planned for an answer of a run, and where nothing can be."""

import pytest

from dosis.demo import diatom
from dosis.intake.understand import understand
from dosis.run.changing import changed
from dosis.run.evaluate import evaluate
from dosis.run.opening import opened
from dosis.run.planning import plan
from tests.run.test_influence import TABLE, key, taken


def test_a_read_back_is_planned_from_where_it_stands() -> None:
    of = taken(TABLE)
    found = plan(*of, key(of, "Pond"), 0.05)
    assert found is not None and found.answer == "Pond" and found.unit == "µM"
    now, *best = found.designs
    assert [design.name for design in best] == ["for the whole curve (D)", "for this answer (c)"]
    row = evaluate(*of).answers.column("in_reading").value(0)
    assert found.now == pytest.approx((row.upper - row.lower) / 2 / row.value, rel=0.1)  # first order beside Fieller
    wide = plan(*of, key(of, "Pond"), 2 * found.now)
    assert wide is not None
    assert "read" in wide.said
    half = plan(*of, key(of, "Pond"), None)
    assert half is not None and half.width == pytest.approx(found.now / 2, rel=0.4)
    needed = [design.needed for design in wide.designs]
    assert min(each for each in needed if each) <= 10 and wide.said.startswith("Pond stands at ±")
    assert all(sum(design.counts) == design.needed for design in wide.designs if design.needed)
    assert wide.simulated is not None and wide.simulated < 4 * found.now
    assert [w for w in now.widths if w] == sorted((w for w in now.widths if w), reverse=True)


def test_what_the_samples_own_reading_leaves_open_no_curve_can_mend() -> None:
    of = taken(TABLE)
    found = plan(*of, key(of, "Pond"), 1e-4)
    assert found is not None and all(design.needed is None for design in found.designs)
    assert "100 readings of the sample would not do" in found.said


def test_a_half_effect_dose_is_planned() -> None:
    found = understand(diatom.plate())
    assert found.readings is not None and found.layout is not None
    layout, method = opened(found.readings, found.layout, "dose")
    layout, method, _ = changed(found.readings, layout, method, diatom.changes())
    outcome = evaluate(found.readings, layout, method)
    answer = outcome.answers.rows[0].key
    value = outcome.answers.leads[0].value(0)
    planned = plan(found.readings, layout, method, answer, 0.02)
    assert planned is not None and planned.of == "midpoint"
    assert planned.now == pytest.approx((value.upper - value.lower) / 2 / value.value, rel=0.35)


def test_nothing_is_planned_without_a_number_or_a_curve() -> None:
    of = taken(TABLE + "\nHigh\t\t3.0\t3.1")
    assert plan(*of, key(of, "High"), 0.05) is None
    assert plan(*of, "nobody", 0.05) is None
    relation = taken("x\ty\n1\t2\n2\t4.1\n3\t5.9\n4\t8.2", "relation")
    assert plan(*relation, evaluate(*relation).answers.rows[0].key, 0.05) is None

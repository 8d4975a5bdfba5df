"""Runs of more than 1,000 groups: the working of a group is made when it is looked at, by the same steps."""

import pytest

from dosis.intake.understand import understand
from dosis.run.bench import LISTED
from dosis.run.evaluate import evaluate, look_at_working
from dosis.run.layout import Layout
from dosis.run.method import Method, default_method
from dosis.run.readings import Readings
from dosis.run.standards.question import MANY
from dosis.run.steps.replicates import ReplicatesStep

STANDARDS = ["Std 1\t1\t0.11\t0.12", "Std 2\t2\t0.21\t0.22", "Std 3\t4\t0.41\t0.40", "Std 4\t8\t0.81\t0.80"]


def run_of(groups: int, method: Method | None = None) -> tuple[Readings, Layout, Method]:
    """Four standards and samples that make up so many groups."""
    samples = [f"Pond {i}\t\t{0.2 + i % 97 / 200:.4f}\t{0.21 + i % 89 / 200:.4f}" for i in range(groups - 4)]
    intake = understand("\n".join(["Sample\tConc (µM)\tReading 1\tReading 2", *STANDARDS, *samples]))
    assert intake.readings is not None and intake.layout is not None and len(intake.layout.groups) == groups
    return intake.readings, intake.layout, method or default_method("concentration")


def test_up_to_1000_groups_the_working_of_all_is_written_down() -> None:
    run = run_of(MANY)
    assert {group.id for group in run[1].groups} <= evaluate(*run).working.keys()


@pytest.mark.parametrize("combine", ["mean", "each"])
def test_beyond_it_is_that_of_the_group_that_is_looked_at(combine: str) -> None:
    method = default_method("concentration").with_step(ReplicatesStep(combine=combine))
    run = run_of(MANY + 1, method)
    found, whole = evaluate(*run), evaluate(*run, whole=True)
    assert not {group.id for group in run[1].groups} & found.working.keys()
    assert found.model_copy(update={"working": {}}) == whole.model_copy(update={"working": {}})
    for group in (run[1].groups[0], run[1].groups[-1]):
        assert look_at_working(*run, group.id) == whole.working[group.id]
    assert look_at_working(*run, "nobody") is None


def test_a_number_of_thousands_of_groups_lists_the_first_200() -> None:
    lines = evaluate(*run_of(MANY + 1)).working["check.cv"]
    assert len(lines) == LISTED + 1
    assert lines[-1].text == "The first 200 are listed."
    assert len(evaluate(*run_of(MANY)).working["check.cv"]) == MANY

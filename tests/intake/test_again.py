"""What Dosis writes of a run comes back in as what it was: question, roles, levels, series, exclusions, axes."""

from collections.abc import Sequence

import pytest

from dosis.demo import brine_shrimp, diatom, domoic_acid, phosphate, relations
from dosis.intake.sheets import SourceFile
from dosis.intake.understand import understand
from dosis.output.exports.export import Subject
from dosis.output.exports.registry import EXPORTS
from dosis.run.changes import Change, Exclude
from dosis.run.evaluate import evaluate
from dosis.run.layout import Layout
from dosis.run.opening import opened
from dosis.run.readings import Readings

RUNS: dict[str, tuple[str, str, Sequence[Change]]] = {
    "concentration": (phosphate.clean_run(), "concentration", ()),
    "plate": (domoic_acid.plate(), "concentration", domoic_acid.changes()),
    "dose": (diatom.plate(), "dose", diatom.changes()),
    "mortality": (brine_shrimp.table(), "mortality", ()),
    "relation": (relations.rate_table(), "relation", ()),
    "errors": ("T\ty\t±\n1\t2.1\t0.1\n2\t3.9\t0.2\n3\t6.1\t0.1\n4\t8.0\t0.3\n", "relation", ()),
}


def described(readings: Readings, layout: Layout) -> list[tuple[object, ...]]:
    return sorted(
        (
            group.role.value, group.name, group.series, str(group.level), group.dilution, group.note,
            tuple(sorted((readings.by_id[id].text, str(readings.by_id[id].error)) for id in group.readings)),
        )
        for group in layout.groups
    )  # fmt: skip


@pytest.mark.parametrize("form", ["xlsx", "json"])
@pytest.mark.parametrize("name", RUNS)
def test_a_run_comes_back_as_it_was(name: str, form: str) -> None:
    text, question, changes = RUNS[name]
    intake = understand(text)
    assert intake.readings is not None and intake.layout is not None
    layout, method = opened(intake.readings, intake.layout, question)
    for change in changes:
        layout, method = change.apply(intake.readings, layout, method)
    gone = layout.groups[0].readings[:1]
    layout, method = Exclude(readings=gone, reason="spilled").apply(intake.readings, layout, method)
    outcome = evaluate(intake.readings, layout, method, whole=True)
    data = EXPORTS[form].make(Subject(name, intake.readings, layout, outcome))
    back = understand("", files=[SourceFile.model_construct(name=f"run.{form}", data=data)])
    assert back.readings is not None and back.layout is not None
    assert back.understanding.question == question
    assert [s.text for s in back.understanding.statements if s.state != "ok"] == []
    again, same = opened(back.readings, back.layout, question)
    assert described(back.readings, again) == described(intake.readings, layout)
    assert [each.reason for each in again.exclusions] == ["spilled"]
    assert (again.level, again.signal) == (layout.level, layout.signal)
    if not changes and method.steps == same.steps:
        assert evaluate(back.readings, again, same).verdict == outcome.verdict


def test_answers_are_told_from_readings() -> None:
    intake = understand(phosphate.clean_run())
    assert intake.readings is not None and intake.layout is not None
    layout, method = opened(intake.readings, intake.layout, "concentration")
    outcome = evaluate(intake.readings, layout, method)
    data = EXPORTS["csv"].make(Subject("answers", intake.readings, layout, outcome))
    found = understand("", files=[SourceFile.model_construct(name="answers.csv", data=data)]).understanding
    assert not found.ready and "answers that Dosis wrote" in found.statements[0].text


def test_a_document_that_was_changed_says_where() -> None:
    from dosis.intake.text import IntakeError

    with pytest.raises(IntakeError, match="changed since"):
        understand('{"dosis": "x", "headings": [1], "rows": []}')

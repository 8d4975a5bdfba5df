"""How a run opens: nothing is pooled in silence, and the curve is one that describes the standards."""

import numpy as np
import pytest

from dosis.intake.understand import understand
from dosis.run.evaluate import evaluate
from dosis.run.laying_out import AssignWells, FillSeries, NumberSamples
from dosis.run.method import default_method
from dosis.run.opening import opened
from dosis.run.outcome.outcome import Outcome
from dosis.run.roles import Role
from dosis.run.standards.curve import CurveStep
from tests.outcomes import answers


def run(text: str, question: str, **steps: object) -> Outcome:
    intake = understand(text)
    assert intake.readings is not None and intake.layout is not None
    layout, method = opened(intake.readings, intake.layout, question)
    for step in steps.values():
        method = method.with_step(step)
    return evaluate(intake.readings, layout, method)


def state(outcome: Outcome, kind: str) -> tuple[str, str]:
    return next((step.state.value, step.sentence) for step in outcome.steps if step.kind == kind)


TRUTH = {"Pier": 3.7, "Creek": 8.1, "Sluice": 1.2}
ADDED = [
    f"{name}\t{added}\t{0.05 * (amount + added) + noise:.4f}"
    for name, amount in TRUTH.items()
    for added, noise in ((0, 0.001), (0, -0.001), (4, 0.001), (8, -0.001), (12, 0.001))
]


def test_samples_under_standard_additions_have_each_their_own_line() -> None:
    outcome = run("\n".join(["Sample\tAdded (µM)\tA880", *ADDED]), "additions")
    found = {answer.name: answer.in_sample.value for answer in answers(outcome)}
    assert {name: pytest.approx(value, abs=0.1) for name, value in found.items()} == TRUTH
    assert [curve.key for curve in outcome.curves] == list(TRUTH)


def test_several_samples_on_one_line_are_said_where_that_is_asked_for() -> None:
    outcome = run("\n".join(["Sample\tAdded (µM)\tA880", *ADDED]), "additions", curve=CurveStep(per="run"))
    assert (
        state(outcome, "additions")[0] == "look"
        and "Pier, Creek, Sluice stand on one line" in state(outcome, "additions")[1]
    )
    assert all(answer.remarks[0].short == "several samples on one line" for answer in answers(outcome))
    assert outcome.verdict.state == "look"


@pytest.mark.parametrize("heading", ["Clone", "Provenance"])
def test_two_clones_in_a_table_of_counts_have_each_an_answer(heading: str) -> None:
    rows = [(clone, x, 20, r) for clone, killed in (("K7", (0, 1, 5, 12, 19, 20)), ("M2", (1, 0, 1, 4, 11, 18)))
            for x, r in zip((0, 1, 2, 4, 8, 16), killed, strict=True)]  # fmt: skip
    text = "\n".join([f"Vessel\t{heading}\tDose (mg/L)\tExposed\tDead", *(
        f"T{i}\t{clone}\t{x}\t{n}\t{r}" for i, (clone, x, n, r) in enumerate(rows)
    )])  # fmt: skip
    outcome = run(text, "mortality")
    assert [effect.name for effect in answers(outcome)] == ["K7", "M2"]
    named = "\n".join([f"{heading}\tDose (mg/L)\tExposed\tDead", *("\t".join(map(str, row)) for row in rows)])
    assert [effect.name for effect in answers(run(named, "mortality"))] == ["K7", "M2"]
    said = {statement.id: statement.text for statement in understand(named).understanding.statements}
    assert said["series"] == f"**One curve for each of 2**, told apart by {heading}: K7, M2."


def test_controls_of_no_series_serve_every_one() -> None:
    rows = [("Control", "0", 20, 1)] + [
        (clone, x, 20, r) for clone, killed in (("K7", (1, 5, 12, 19)), ("M2", (0, 1, 4, 18)))
        for x, r in zip((1, 2, 4, 16), killed, strict=True)
    ]  # fmt: skip
    text = "\n".join(["Clone\tDose (mg/L)\tExposed\tDead", *("\t".join(map(str, row)) for row in rows)])
    outcome = run(text, "mortality")
    assert [effect.name for effect in answers(outcome)] == ["K7", "M2"]
    controls = next(check for check in outcome.checks if check.id == "controls")
    assert controls.found == "K7 1 of 20 (5.0 %), M2 1 of 20 (5.0 %)"


def test_a_grid_of_compound_names_makes_a_curve_of_each() -> None:
    """Names and levels of the wells as grids of their own, 24 wells: four compounds at six doses."""
    doses = [100, 30, 10, 3, 1, 0.3]
    half = {"AF-1": 2, "AF-2": 8, "AF-3": 20, "AF-4": 60}
    grid = {"names": [], "levels": [], "read": []}
    for name, middle in half.items():
        grid["names"].append([name] * 6)
        grid["levels"].append([f"{dose:g}" for dose in doses])
        grid["read"].append([f"{100 / (1 + dose / middle):.2f}" for dose in doses])
    heads = "\t".join(["", *map(str, range(1, 7))])

    def block(title: str, rows: list[list[str]]) -> list[str]:
        return [title, heads, *("\t".join(["ABCD"[i], *row]) for i, row in enumerate(rows)), ""]

    text = "\n".join(
        [*block("Readings", grid["read"]), *block("Names", grid["names"]), *block("Dose (µM)", grid["levels"])]
    )
    outcome = run(text, "dose")
    assert [effect.name for effect in answers(outcome)] == list(half)
    for effect, middle in zip(answers(outcome), half.values(), strict=True):
        assert effect.leading.value == pytest.approx(middle, rel=0.05)


def test_doses_filled_in_under_two_names_without_a_series_are_said_to_be_pooled() -> None:
    text = "\n".join("\t".join(f"{100 / (1 + 10.0 ** (c - 3 - r)):.2f}" for c in range(12)) for r in range(8))
    readings, layout = understand(text).readings, understand(text).layout
    assert readings is not None and layout is not None
    method = default_method("dose")
    for row, name in ((0, "AF-1"), (1, "AF-2")):
        fill = FillSeries(
            readings=tuple(range(12 * row + 1, 12 * row + 13)),
            top="100 µM",
            factor=3,
            role=Role.DOSE,
            name=name,
            direction="across",
        )
        layout, method = fill.apply(readings, layout, method)
    outcome = evaluate(readings, layout, method)
    assert state(outcome, "dose_curve")[0] == "look"
    assert "**AF-1, AF-2 are pooled in one curve.**" in state(outcome, "dose_curve")[1]


LEVELS = (0.5, 1, 2, 4, 8, 16)
BY_LOT = [
    f"{lot} {i}\t{lot}\t{x}\t{slope * x + 0.001 * (i % 2):.4f}"
    for lot, slope in (("Lot A", 0.1), ("Lot B", 0.2)) for i, x in enumerate(LEVELS)
]  # fmt: skip
HEADING = "Sample\tLot\tConc (µM)\tA880"


def test_standards_of_two_lots_have_a_curve_each_where_samples_say_theirs() -> None:
    outcome = run("\n".join([HEADING, *BY_LOT, "S1\tLot A\t\t0.5", "S2\tLot B\t\t0.5"]), "concentration")
    assert [curve.key for curve in outcome.curves] == ["Lot A", "Lot B"]
    assert [answer.in_sample.value for answer in answers(outcome)] == [
        pytest.approx(5, rel=0.02),
        pytest.approx(2.5, rel=0.02),
    ]


def test_standards_pooled_because_samples_name_no_lot_are_said() -> None:
    outcome = run("\n".join([HEADING, *BY_LOT, "S1\t\t\t0.5"]), "concentration")
    assert (
        state(outcome, "curve")[0] == "look"
        and "**The standards of Lot A, Lot B are pooled in one curve.**" in state(outcome, "curve")[1]
    )
    assert outcome.verdict.state != "pass" and "pooled" in outcome.verdict.detail[0].text
    asked = run("\n".join([HEADING, *BY_LOT, "S1\t\t\t0.5"]), "concentration", curve=CurveStep(per="run"))
    assert "The standards of Lot A, Lot B are pooled, as asked." in state(asked, "curve")[1]


def standards(signal, levels=(0.1, 0.3, 1, 3, 10, 30, 100)) -> str:
    """Each level three times, with a little scatter."""
    rng = np.random.default_rng(7)
    rows = [f"Std\t{x}\t" + "\t".join(f"{signal(x) + 0.004 * e:.4f}" for e in rng.standard_normal(3)) for x in levels]
    return "\n".join(["Sample\tConc (µM)\tA\tA\tA", *rows])


@pytest.mark.parametrize(
    ("signal", "levels", "model"),
    [
        (lambda x: 0.1 + 1.9 / (1 + (x / 3) ** -1.2), (0.1, 0.3, 1, 3, 10, 30, 100), "logistic4"),
        (lambda x: 0.1 + 1.9 / (1 + (x / 3) ** 1.2), (0.1, 0.3, 1, 3, 10, 30, 100), "logistic4"),
        (lambda x: 0.02 * x, (0.1, 0.3, 1, 3, 10, 30, 100), "line"),  # wide, and straight
        (lambda x: 0.1 + 1.9 / (1 + (x / 3) ** -1.2), (1, 2, 4, 8, 20), "line"),  # up to a factor of 20
        (lambda x: 0.1 + 1.9 / (1 + (x / 3) ** -1.2), (1, 2, 4, 8, 20.5), "logistic4"),  # above it
        (lambda x: 0.1 + 1.9 / (1 + (x / 300) ** -1.2), (0.1, 0.3, 1, 3, 10, 30, 100), "line"),  # only begins to bend
    ],
)  # fmt: skip
def test_standards_that_level_off_over_a_wide_range_open_with_a_sigmoid(signal, levels, model: str) -> None:
    assert run(standards(signal, levels), "concentration").curve.model == model


def test_standards_laid_out_later_open_their_curve_once() -> None:
    """The first standards of a plate bring the curve; a person's own choice is never taken back."""
    text = "\n".join("\t".join(f"{0.1 + 1.9 / (1 + (3.0 ** (r - 4)) ** 1.2):.4f}" for _ in range(12)) for r in range(8))
    readings, layout = understand(text).readings, understand(text).layout
    assert readings is not None and layout is not None
    fill = FillSeries(readings=tuple(range(1, 97)), top="243 µM", factor=3, replicates=12)
    new, method = fill.apply(readings, layout, default_method("concentration"))
    assert method.step("curve") == CurveStep(model="logistic4")
    line = method.with_step(CurveStep())
    again = AssignWells(readings=(1,), role=Role.STANDARD, level="200").apply(readings, new, line)[1]
    assert again.step("curve") == CurveStep()
    assert NumberSamples(readings=(1, 2)).apply(readings, layout, default_method("concentration"))[1] == default_method(
        "concentration"
    )


def test_plates_with_standards_of_their_own_have_a_curve_each() -> None:
    def plate(slope: float) -> str:
        return "\n".join("\t".join(f"{slope * (r + 1) + 0.001 * c:.4f}" for c in range(12)) for r in range(8))

    intake = understand(f"Plate 1\n{plate(0.1)}\n\nPlate 2\n{plate(0.2)}")
    readings, layout = intake.readings, intake.layout
    assert readings is not None and layout is not None and len(readings.plates) == 2
    method = default_method("concentration")
    for first in (1, 97):
        wells = tuple(first + 12 * r + c for r in range(7) for c in range(12))
        layout, method = FillSeries(readings=wells, top="64", factor=2, replicates=12).apply(readings, layout, method)
        last = tuple(range(first + 84, first + 96))
        layout, method = NumberSamples(readings=last, first=f"S{first}", replicates=12).apply(readings, layout, method)
    outcome = evaluate(readings, layout, method)
    assert len(outcome.curves) == 2 and len(answers(outcome)) == 2
    pooled = evaluate(readings, layout, method.with_step(CurveStep(per="run")))
    assert [curve.key for curve in pooled.curves] == [""]

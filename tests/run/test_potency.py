"""A potency run from its table to its answers: references, units, blocks, plates as assays, validity."""

import numpy as np
import pytest
from numpy.testing import assert_allclose

from dosis.demo import lots
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.evaluate import evaluate
from dosis.run.opening import opened
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.value import State
from dosis.run.questions.potency.assays import AssaysStep
from dosis.run.questions.potency.checks import Between, PotencyChecksStep
from dosis.run.questions.potency.potency import PotencyStep
from dosis.run.steps.step import Step
from tests.conftest import reference
from tests.core.test_assays import ADRENAL

RATS = "Preparation\tDose (IU)\tResponse\n" + "\n".join(
    f"{name}\t{dose}\t{y}" for (name, dose), values in ADRENAL.items() for y in values
)


def asked(text: str, *steps: Step) -> Outcome:
    found = understand(text, Choices(question="potency"))
    assert found.readings is not None and found.layout is not None
    layout, method = opened(found.readings, found.layout, "potency")
    for step in steps:
        method = method.with_step(step)
    return evaluate(found.readings, layout, method)


def cell(outcome: Outcome, column: str, row: int = 0) -> tuple[float | None, float | None, float | None]:
    found = outcome.answers.column(column).value(row)
    return found.value, found.lower, found.upper


def state(outcome: Outcome, id: str) -> tuple[State, str]:
    check = next(check for check in outcome.checks if check.id == id)
    return check.state, check.found


def test_the_answers_are_those_of_the_core_in_the_units_of_the_reference() -> None:
    """Ph. Eur. 5.3, 5.1.1, without U: 1.11 (0.82 to 1.51) – from memory."""
    text = "\n".join(line for line in RATS.splitlines() if not line.startswith("U"))
    outcome = asked(text, PotencyStep(model="lines", declared=200.0, unit="IU/mg"))
    relative = cell(outcome, "relative")
    assert [round(each or 0, 2) for each in relative] == [1.11, 0.82, 1.51]
    assert_allclose(cell(outcome, "potency"), np.multiply(relative, 200))
    assert outcome.answers.leads[0].unit == "IU/mg"
    assert "T 222 (165 – 303) IU/mg" in outcome.verdict.headline
    working = outcome.working["1.potency"]
    assert {line.label for line in working} >= {"Model", "Spread", "Relative potency", "95 % interval", "In units"}
    assert outcome.verdict.state is State.PASS


def test_a_column_of_preparations_proposes_the_question() -> None:
    assert understand(RATS).understanding.question == "potency"
    assert understand(RATS.replace("Preparation", "Compound")).understanding.question == "dose"


def test_a_sample_that_is_not_parallel_fails_and_is_named() -> None:
    outcome = asked(RATS)
    assert state(outcome, "parallel")[0] is State.FAIL
    assert "Not parallel to S: U" in "".join(part.text for part in outcome.verdict.detail)
    remarks = {row.name: [remark.short for remark in row.remarks] for row in outcome.answers.rows}
    assert remarks == {"T": [], "U": ["not parallel"]}
    p = outcome.answers.column("parallel").values
    for limit, failing in ((2 * p[1] * 0.99, State.PASS), (2 * p[1] * 1.01, State.FAIL)):  # both sides, by Holm of two
        assert state(asked(RATS, PotencyChecksStep(p=limit)), "parallel")[0] is failing


def test_equivalence_is_judged_by_margins_on_both_sides() -> None:
    text = "\n".join(line for line in RATS.splitlines() if not line.startswith("U"))
    shape = next(table for table in asked(text).further if table.title.startswith("Shapes"))
    _, low, high = (getattr(shape.columns[0], each)[0] for each in ("values", "lowers", "uppers"))
    for by, found in ((0.99, State.PASS), (1.01, State.FAIL)):
        step = PotencyChecksStep(parallel_by="equivalence", slopes=Between(low=low * by, high=high * 1.01))
        assert state(asked(text, step), "parallel")[0] is found
        step = PotencyChecksStep(parallel_by="equivalence", slopes=Between(low=low * 0.99, high=high / by))
        assert state(asked(text, step), "parallel")[0] is found
    with pytest.raises(ValueError, match="below and above 1"):
        PotencyChecksStep(slopes=Between(low=1.1, high=1.2))


def test_an_assumed_potency_is_what_doses_were_made_up_from() -> None:
    text = "\n".join(line for line in RATS.splitlines() if not line.startswith("U"))
    outcome = asked(text, PotencyStep(declared=200.0, unit="IU/mg", assumed={"T": 90.0}))
    relative = cell(outcome, "relative")
    assert_allclose(cell(outcome, "potency"), np.multiply(relative, 90.0))
    assert_allclose(cell(outcome, "percent"), np.multiply(relative, 100.0))
    lost = asked(text, PotencyStep(assumed={"Z": 90.0}))
    assert "Z, which is no series here" in next(step.sentence for step in lost.steps if step.kind == "potency")


def test_a_slope_ratio_with_the_zero_dose_of_all() -> None:
    """Kratzer & Littell (2006), Poultry Science 85, 947; recomputed."""
    case = reference("slope_ratio_methionine")
    rows = ["Source\tDose (%)\tGain"]
    rows += [f"{p}\t{x}\t{y}" for p, x, y in zip(*(case["data"][k] for k in ("product", "dose", "y")), strict=True)]
    outcome = asked("\n".join(rows), AssaysStep(reference="DLM"), PotencyStep(model="slopes"))
    value, low, high = cell(outcome, "relative")
    assert_allclose(value, case["expected"]["ratio"], rtol=1e-8)
    assert_allclose((low, high), case["expected"]["ci95_fieller"], rtol=1e-8)


def plates(strengths: list[float], shift: float = 0.0) -> str:
    """A plate for each strength: the reference in rows A and B, the sample in C and D."""
    rng = np.random.default_rng(71)
    doses = [2.0**k for k in range(-4, 8)]
    rows = ["Plate\tWell\tPreparation\tDose (ng/mL)\tSignal"]
    for number, strength in enumerate(strengths, start=1):
        for letter, name, factor in (
            ("A", "Ref", 1.0),
            ("B", "Ref", 1.0),
            ("C", "Lot", strength),
            ("D", "Lot", strength),
        ):
            for column, dose in enumerate(doses, start=1):
                y = 10 + 90 / (1 + (dose * factor / 2) ** -1.1) + rng.normal(0, 1.2) + shift * number
                rows.append(f"Plate {number}\t{letter}{column}\t{name}\t{dose:g}\t{y:.3f}")
    return "\n".join(rows)


def test_plates_are_independent_assays_that_make_one_potency() -> None:
    outcome = asked(plates([1.3, 1.3, 1.3], shift=10))
    assert outcome.part.model == "logistic4"
    value, low, high = cell(outcome, "relative")
    assert low < 1.3 < high and outcome.answers.column("assays").values == (3.0,)
    assert state(outcome, "agree")[0] is State.PASS
    table = next(table for table in outcome.further if table.title == "Independent assays")
    weights = table.column("weight").values
    assert_allclose(sum(weights), 100)
    logs = np.log(table.column("relative").values)
    assert_allclose(value, np.exp(np.average(logs, weights=weights)), rtol=1e-9)
    one = asked(plates([1.3, 1.3, 1.3]), AssaysStep(assays="one"))
    assert not [table for table in one.further if table.title == "Independent assays"]

    apart = asked(plates([0.8, 1.3, 2.0]))
    assert state(apart, "agree")[0] is State.LOOK and apart.verdict.state is State.LOOK
    assert "semi-weighted" in next(step.sentence for step in apart.steps if step.kind == "potency")
    narrow = asked(plates([0.8, 1.3, 2.0]), PotencyStep(combine="weighted"))
    assert cell(narrow, "relative")[2] / cell(narrow, "relative")[1] < 1.2
    _, low, high = cell(apart, "relative")
    assert high / low > 2  # the spread between plates is in the interval


def test_replicates_as_blocks_take_off_what_blocks_differ_by() -> None:
    text = lots.lots_table()
    with_blocks = asked(text, AssaysStep(blocked="replicates"))
    without = asked(text)
    variance = [next(t for t in o.further if t.title.startswith("Analysis")) for o in (with_blocks, without)]
    names = [[row.name for row in table.rows] for table in variance]
    assert "Blocks" in names[0] and "Blocks" not in names[1]
    found, wide = cell(with_blocks, "relative"), cell(without, "relative")
    assert_allclose(found[0], wide[0], rtol=0.01)
    assert found[2] / found[1] < wide[2] / wide[1]
    said = next(step for step in asked(RATS, AssaysStep(blocked="plates")).steps if step.kind == "assays")
    assert said.state is State.LOOK and "one block only" in said.sentence


def test_the_interval_is_held_against_the_limits_that_are_set() -> None:
    text = "\n".join(line for line in RATS.splitlines() if not line.startswith("U"))
    value, low, high = cell(asked(text), "relative")
    ends = 100 * low / value, 100 * high / value
    for by, found in ((0.99, State.PASS), (1.01, State.LOOK)):
        within = Between(low=ends[0] * by, high=ends[1] / 0.99)
        assert state(asked(text, PotencyChecksStep(within=within)), "precise")[0] is found
        within = Between(low=ends[0] * 0.99, high=ends[1] / by)
        assert state(asked(text, PotencyChecksStep(within=within)), "precise")[0] is found


@pytest.mark.parametrize(
    ("text", "steps", "said"),
    [
        ("Preparation\tDose\tY\nS\t1\t2\nS\t2\t3\nS\t4\t4", (), "a reference and a sample"),
        ("Preparation\tDose\tY\nS\t1\t2\nS\t2\t3\nT\t1\t4\nT\t2\t5", (), "too few readings"),
        (RATS.replace("\t300\n", "\t-300\n"), (AssaysStep(response="log"),), "no logarithm"),
        (RATS, (AssaysStep(blocked="rows"),), "cannot be told apart"),
    ],
)  # fmt: skip
def test_what_cannot_be_worked_out_is_said(text: str, steps: tuple[Step, ...], said: str) -> None:
    outcome = asked(text, *steps)
    assert outcome.verdict.state is State.FAIL
    assert said in " ".join(step.sentence for step in outcome.steps)
    assert all(column.values.count(None) == len(column.values) for column in outcome.answers.columns if column.lead)


@pytest.mark.parametrize("model", ["auto", "lines", "slopes", "logistic4"])
@pytest.mark.parametrize("what", ["constant", "apart", "noise", "other way"])
def test_without_a_response_there_is_nothing_that_reads_like_a_potency(what: str, model: str) -> None:
    rng = np.random.default_rng(3)
    rows = ["Preparation\tDose\tY"]
    for name in "ST":
        for dose in (1, 2, 4, 8, 16, 32):
            for _ in range(3):
                y = {
                    "constant": 3.0, "apart": 3.0 if name == "S" else 5.0, "noise": 5 + rng.normal(),
                    "other way": (10 + 3 * np.log(dose) * (1 if name == "S" else -1)) + rng.normal(0, 0.1),
                }[what]  # fmt: skip
                rows.append(f"{name}\t{dose}\t{y:.4f}")
    outcome = asked("\n".join(rows), PotencyStep(model=model, declared=100, unit="U"))
    assert outcome.verdict.state is State.FAIL
    value = cell(outcome, "potency")
    assert value == (None, None, None) or (what == "other way" and model == "slopes")
    if value[0] is None:
        assert "no potency" in outcome.verdict.headline.lower()
        assert "U" not in outcome.answers.column("potency").texts[0]


def test_a_response_that_is_just_shown_has_a_potency_and_one_that_is_not_has_none() -> None:
    """Both sides of p 0.05 of the regression, found by bisection on the slope."""
    rng = np.random.default_rng(9)
    noise = rng.normal(0, 1, 24)

    def made(slope: float) -> Outcome:
        rows = [
            (name, dose, 5 + slope * np.log(dose) + noise[12 * i + 6 * j + k])
            for i, name in enumerate("ST") for j, dose in enumerate((1, 4)) for k in range(6)
        ]  # fmt: skip
        return asked("Preparation\tDose\tY\n" + "\n".join(f"{n}\t{d}\t{float(y)!r}" for n, d, y in rows))

    def silent(outcome: Outcome) -> bool:
        return "does not follow the dose" in " ".join(step.sentence for step in outcome.steps)

    low, high = 0.0, 3.0
    for _ in range(30):
        middle = (low + high) / 2
        low, high = (middle, high) if silent(made(middle)) else (low, middle)
    assert cell(made(low * 0.999), "relative")[0] is None
    assert state(made(high * 1.001), "regression")[0] is State.PASS
    assert cell(made(high * 1.2), "relative")[0] is not None  # and an interval that says something


def test_what_is_left_out_is_drawn_so_and_what_was_not_used_is_said() -> None:
    text = RATS + "\nT\t\t250\nQC 1\t\t250"
    found = understand(text, Choices(question="potency"))
    assert found.readings is not None and found.layout is not None
    layout, method = opened(found.readings, found.layout, "potency")
    first = next(group for group in layout.groups if group.series == "T" or group.name == "T").readings[0]
    layout = layout.having(exclusions=({"reading": first, "reason": "spilled"},))
    outcome = evaluate(found.readings, layout, method)
    states = {point.reading: point.state for curve in outcome.curves for point in curve.points}
    assert states[first] == "excluded" and list(states.values()).count("used") == 60  # one of them without dose
    step = next(step for step in outcome.steps if step.kind == "assays")
    assert "Taken as no dose: QC 1." in step.sentence
    assert "so not used: T." in step.sentence and step.state is State.LOOK
    assert "so not used: T." in "".join(part.text for part in outcome.verdict.detail)


def crossed(seed: int) -> str:
    """A twin cross-over of 20 snails, which differ far more than a reading errs; the potency is 1.2."""
    rng, rows = np.random.default_rng(seed), ["Snail\tPeriod\tPreparation\tDose (µg)\tHeart rate (1/min)"]
    for g, sequence in enumerate((("S1", "T2"), ("S2", "T1"), ("T1", "S2"), ("T2", "S1"))):
        for a in range(5):
            own = rng.normal(0, 8)
            for period, (preparation, dose) in zip(("first", "second"), sequence, strict=True):
                y = 60 + own - 13 * np.log(int(dose) * (1.2 if preparation == "T" else 1)) + rng.normal(0, 1)
                name = {"S": "Reference", "T": "Lot E"}[preparation]
                rows.append(f"No. {5 * g + a + 1}\t{period}\t{name}\t{dose}\t{y:.2f}")
    return "\n".join(rows)


def test_animals_of_a_cross_over_are_compared_with_themselves() -> None:
    alone, found = asked(crossed(1)), asked(crossed(1), AssaysStep(blocked="cross_over"))
    assert "No. 1 was read with several preparations" in "".join(part.text for part in alone.verdict.detail)
    assert alone.verdict.state is State.LOOK
    _, lower, upper = cell(found, "relative")
    assert lower is not None
    assert upper is not None
    assert lower < 1.2 < upper
    wide = cell(alone, "relative")
    assert (upper - lower) < 0.5 * ((wide[2] or 9) - (wide[1] or 0))
    assert found.verdict.state is State.PASS


def test_a_cross_over_says_what_it_needs() -> None:
    without = "\n".join("\t".join(line.split("\t")[:1] + line.split("\t")[2:]) for line in crossed(2).splitlines())
    for text, step, said in (
        (without, PotencyStep(), "needs an animal for every reading"),
        (crossed(2), PotencyStep(model="slopes"), "analyzed by parallel lines"),
    ):
        outcome = asked(text, AssaysStep(blocked="cross_over"), step)
        assert said in next(each for each in outcome.steps if each.kind == "potency").sentence


def diluted(head: str, rows: list[tuple[str, float, float]]) -> str:
    """Rows of preparation, what stands in the table, and the amount of the preparation itself; potency 1.3."""
    rng, lines = np.random.default_rng(7), [f"Preparation\t{head}\tOD 1\tOD 2"]
    for name, cells, amount in rows:
        mean = 0.1 + 2 / (1 + (2 / (amount * (1.3 if name == "Lot C" else 1))) ** 1.2)
        lines.append(f"{name}\t{cells}\t" + "\t".join(f"{mean + rng.normal(0, 0.02):.4f}" for _ in range(2)))
    return "\n".join(lines)


def test_dilutions_are_doses_where_there_are_no_others() -> None:
    """The same readings by dilution and by the dose that it is: 1:100 is 0.01."""
    steps = (100, 200, 400, 800, 1600, 3200)
    rows = [(name, d, 1000 / d) for name in ("Reference", "Lot C") for d in steps]
    text = diluted("Dilution", [(name, f"1:{d}", amount) for name, d, amount in rows])
    found = understand(text)
    assert found.understanding.question == "potency"
    said = {each.id: each.text for each in found.understanding.statements}
    assert "Doses are the dilutions" in said["level"]
    assert "12 doses" in said["roles"]
    by_dose = diluted("Dose (mL/mL)", [(name, f"{1 / d}", amount) for name, d, amount in rows])
    assert_allclose(cell(asked(text), "relative"), cell(asked(by_dose), "relative"), rtol=1e-9)
    assert cell(asked(text), "relative")[0] == pytest.approx(1.3, rel=0.1)


def test_a_row_without_a_dilution_is_pointed_out_and_one_dilution_is_one_dose() -> None:
    rows = [(name, f"1:{d}", 1000 / d) for name in ("Reference", "Lot C") for d in (100, 200, 400)]
    gap = understand(diluted("Dilution", [*rows, ("Lot C", "", 1.0)]))
    (said,) = [each for each in gap.understanding.statements if each.id == "dilution"]
    assert said.state == "look"
    assert "**1 row without one** is taken as undiluted." in said.text
    whole = understand(diluted("Dilution", rows))
    assert {each.state for each in whole.understanding.statements if each.id == "dilution"} == {"ok"}
    one = diluted("Dilution", [(name, "1:100", 10.0) for name, *_ in rows])
    assert "each a series of doses" in next(each for each in asked(one).steps if each.kind == "assays").sentence
    alone = understand(one)
    assert alone.readings is not None
    assert alone.layout is not None
    assert {group.level for group in opened(alone.readings, alone.layout, "potency")[0].groups} == {0.01}


def test_several_dilutions_of_a_sample_are_one_preparation() -> None:
    doses = (0.5, 1.0, 2.0, 4.0, 8.0, 16.0)
    rows = [("Reference", f"{d}\t1", d) for d in doses]
    rows += [("Lot C", f"{d}\t1:{k}", d / k) for k in (2, 4) for d in doses]
    outcome = asked(diluted("Dose (ng/mL)\tDilution", rows))
    assert len(outcome.answers.rows) == 1
    estimate, lower, upper = cell(outcome, "relative")
    assert lower is not None
    assert upper is not None
    assert lower < 1.3 < upper
    assert estimate == pytest.approx(1.3, rel=0.1)
    assert "divided by the dilution" in next(each for each in outcome.steps if each.kind == "assays").sentence

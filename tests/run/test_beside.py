"""Runs side by side against a published example, and limits of trends on both sides of where they begin."""

import math
import re
from datetime import UTC, datetime

import pytest
from scipy import stats

from dosis.core import potency
from dosis.demo import lots
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.beside import Beside, compared
from dosis.run.evaluate import evaluate
from dosis.run.measured import Measure, measures
from dosis.run.opening import opened
from dosis.run.questions.potency.potency import PotencyStep
from dosis.run.trends import FIRST, SOME, Base, Run, trends
from tests.tables import PHOSPHATE


def beside(id: int, text: str) -> Beside:
    found = understand(text)
    assert found.readings and found.layout
    layout, method = opened(found.readings, found.layout, "concentration")
    outcome = evaluate(found.readings, layout, method)
    return Beside.model_construct(id=id, title=f"Run {id}", layout=layout, method=method, outcome=outcome)


def test_a_run_is_the_same_as_itself() -> None:
    one = beside(1, PHOSPHATE)
    found = compared([one, one.model_copy(update={"id": 2})])
    assert found.settings == () and all(row.p == 1 and not row.differs for row in found.parameters)
    assert all(row.ratios[1].startswith("1.00") and row.differences[1].startswith("0") for row in found.answers)


def test_homogeneity_is_the_z_test_of_two_slopes() -> None:
    other = re.sub(r"\b0\.\d{3,}", lambda found: f"{float(found[0]) * 1.1:.4f}", PHOSPHATE)  # all that was read
    first, second = beside(1, PHOSPHATE), beside(2, other)
    row = next(each for each in compared([first, second]).parameters if each.name == "slope")
    a, b = (next(p for p in run.outcome.curve.parameters if p.name == "slope") for run in (first, second))
    assert a.standard_error and b.standard_error
    z = (a.estimate - b.estimate) / (a.standard_error**2 + b.standard_error**2) ** 0.5
    assert row.p == pytest.approx(2 * stats.norm.sf(abs(z)), rel=1e-9) and row.differs


def lot(id: int, text: str) -> Beside:
    found = understand(text, Choices(question="potency"))
    assert found.readings
    assert found.layout
    layout, method = opened(found.readings, found.layout, "potency")
    outcome = evaluate(found.readings, layout, method.with_step(PotencyStep(model="logistic4")))
    return Beside.model_construct(id=id, title=f"Run {id}", layout=layout, method=method, outcome=outcome)


def test_potencies_of_several_runs_are_taken_together_as_plates_of_one_run_are() -> None:
    """One assay in three runs, and the core's own mean of the three; Ph. Eur. 5.3, 6, both ways."""
    runs = [lot(id, lots.lots_table(seed=id)) for id in (1, 2, 3)]
    rows = {row.name: row for row in compared(runs).together}
    assert set(rows) == {"Lot C", "Lot D"}
    tables = [run.outcome.answers for run in runs]
    logs = [math.log(t.column("relative").values[0] or 0) for t in tables]
    errors, dfs = ([t.column(id).values[0] or 0 for t in tables] for id in ("log_error", "df"))
    for way, shown, interval in (
        ("semi-weighted", rows["Lot C"].semi_weighted, rows["Lot C"].semi_interval),
        ("weighted", rows["Lot C"].weighted, rows["Lot C"].weighted_interval),
    ):
        want = potency.combine(logs, errors, [int(df) for df in dfs], way=way)
        assert float(shown) == pytest.approx(want.estimate, rel=5e-3)
        assert [float(end) for end in interval.split(" – ")] == pytest.approx([want.lower, want.upper], rel=5e-3)
    assert rows["Lot C"].runs == 3
    assert not rows["Lot C"].left_out


def test_one_potency_of_a_sample_is_nothing_to_take_together() -> None:
    other = lots.lots_table(seed=2).replace("Lot C", "Lot E")
    rows = compared([lot(1, lots.lots_table(seed=1)), lot(2, other)]).together
    assert [row.name for row in rows] == ["Lot D"]
    assert compared([beside(1, PHOSPHATE), beside(2, PHOSPHATE)]).together == ()


def test_outcomes_of_an_earlier_version_are_compared_and_not_taken_together() -> None:
    """They hold no standard error of ln potency."""
    runs = [lot(id, lots.lots_table(seed=id)) for id in (1, 2, 3)]
    answers = runs[2].outcome.answers
    kept = tuple(each for each in answers.columns if each.id not in ("log_error", "df"))
    old = runs[2].outcome.model_copy(update={"answers": answers.model_copy(update={"columns": kept})})
    row = compared([*runs[:2], runs[2].model_copy(update={"outcome": old})]).together[0]
    assert (row.runs, row.left_out) == (2, ("Run 3",))


def test_a_sample_with_something_to_look_at_is_named_where_it_is_taken_in() -> None:
    """Lot C of the second run is read flat, so that its curve is not parallel."""
    lines = lots.lots_table(seed=2).splitlines()
    flat = [re.sub(r"\t(\d+)\t(\d+)\t(\d+)$", lambda f: "".join(f"\t{(int(y) + 900) // 2}" for y in f.groups()), line)
            if line.startswith("Lot C") else line for line in lines]  # fmt: skip
    rows = {row.name: row for row in compared([lot(1, lots.lots_table(seed=1)), lot(2, "\n".join(flat))]).together}
    assert rows["Lot C"].doubtful == ("Run 2",)
    assert rows["Lot D"].doubtful == ()


def test_fewer_than_two_are_not_compared() -> None:
    with pytest.raises(ValueError, match="two runs"):
        compared([beside(1, PHOSPHATE)])


def measured(values: list[float]) -> list[Run]:
    at = datetime(2026, 9, 4, tzinfo=UTC)
    return [
        Run(id=i, title=f"Plate {i}", at=at, measures=(Measure(key="k", title="QC", value=value, nominal=10.0),))
        for i, value in enumerate(values, 1)
    ]


def test_limits_begin_with_eight_runs_and_are_firm_with_twenty() -> None:
    few, enough = (trends(measured([10.0, 10.2] * n), {}, None)[0] for n in (3, SOME // 2))
    assert few.held is None and "need 8 runs" in few.said
    assert enough.held is not None and "make limits firm" in enough.held.basis
    many = trends(measured([10.0, 10.2] * (FIRST // 2) + [50.0]), {}, None)[0]
    # The 21st takes no part in the limits it is held against.
    assert many.held is not None and many.held.basis == f"the first {FIRST} runs"
    assert many.held.center == pytest.approx(10.1) and many.points[-1].broken == ("one beyond 3 SD",)


def test_chosen_runs_that_are_gone_leave_the_default() -> None:
    found = trends(measured([10.0, 10.2] * 5), {"k": Base(runs=(1, 999))}, None)[0]
    assert found.held is not None and "all 10 runs" in found.held.basis


@pytest.mark.parametrize(("off", "passes"), [(1.1999, True), (1.2001, False)])
def test_what_is_allowed_is_judged_at_its_limit(off: float, passes: bool) -> None:
    found = trends(measured([10 * off, 10 * off, 10 * off]), {}, 0.2)[0]
    assert (found.spread.state == "pass") is passes and ("recovery" in found.spread.verdict) is not passes


def test_a_run_tells_its_qcs_curve_blank_limits_and_replicates() -> None:
    one = beside(1, PHOSPHATE)
    keys = {each.key for each in measures(one.layout, one.outcome)}
    assert {"answer:QC low", "parameter::slope", "blank.level", "limit:LOD", "check.cv", "standards.high"} <= keys

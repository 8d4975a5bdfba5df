"""Several curves, curves the other way round, additions, spikes, readings each on its own, blanks of all kinds."""

import re
import statistics

import pytest

from dosis.core.models import MODELS
from dosis.intake.understand import understand
from dosis.run.changes import Assign, PlaceSignal
from dosis.run.evaluate import ask, evaluate
from dosis.run.laying_out import AssignWells
from dosis.run.layout import Layout
from dosis.run.method import Method, default_method
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.told import Asked
from dosis.run.readings import Readings
from dosis.run.roles import Role
from dosis.run.standards.curve import CurveStep
from dosis.run.steps.blank import BlankStep
from dosis.run.steps.replicates import ReplicatesStep
from dosis.run.steps.signal import DerivedColumn, SignalStep
from tests.conftest import reference
from tests.outcomes import answers

METHOD = default_method("concentration")


def taken(text: str) -> tuple[Readings, Layout]:
    intake = understand(text)
    assert intake.readings is not None and intake.layout is not None
    return intake.readings, intake.layout


def values(outcome: Outcome) -> dict[str, float | None]:
    return {answer.name: answer.in_sample.value for answer in answers(outcome)}


def silver() -> tuple[Readings, Layout]:
    data = reference("standard_addition_silver")["data"]
    rows = [f"{'Waste' if x == 0 else f'Std {x}'}\t{x or ''}\t{y}" for x, y in zip(data["x"], data["y"], strict=True)]
    return taken("\n".join(["Sample\tAdded (µg/mL)\tA", *rows]))


def test_standard_additions_give_the_published_silver() -> None:
    """Miller & Miller, Statistics and Chemometrics for Analytical Chemistry: silver in photographic waste."""
    known = reference("standard_addition_silver")["expected"]
    outcome = evaluate(*silver(), default_method("additions"))
    (answer,) = answers(outcome)
    assert answer.name == "Waste" and answer.role is Role.SAMPLE
    assert answer.in_sample.value == pytest.approx(known["x_intercept_magnitude"], rel=1e-8)
    assert [answer.in_sample.lower, answer.in_sample.upper] == pytest.approx(known["ci95_fieller"], rel=1e-8)
    assert outcome.curve.samples[0].x == pytest.approx(-known["x_intercept_magnitude"])
    assert outcome.verdict.headline == "Waste read."


def test_additions_without_the_sample_itself_say_so() -> None:
    readings, layout = silver()
    groups = tuple(group for group in layout.groups if group.name != "Waste")
    outcome = evaluate(readings, layout.model_copy(update={"groups": groups}), default_method("additions"))
    assert answers(outcome) == [] and any("sample itself" in step.sentence for step in outcome.steps)


def two_plates() -> str:
    def grid(name: str, shift: float) -> list[str]:
        rows = [["", *map(str, range(1, 13))]]
        for r in range(8):
            rows.append(["ABCDEFGH"[r], *(f"{shift + 0.1 * (r + 1) + 0.001 * c:.4f}" for c in range(12))])
        return [name, *("\t".join(row) for row in rows), ""]

    return "\n".join([*grid("Plate 1", 0.0), *grid("Plate 2", 0.5)])


def test_plates_with_standards_of_their_own_have_a_curve_each() -> None:
    """Every number must be what the plate alone gives."""
    readings, layout = taken(two_plates())
    method = METHOD
    by_place = {(r.plate, r.row, r.column): r.id for r in readings.readings}
    for plate in (0, 1):
        for row in range(6):
            ids = tuple(by_place[plate, row, column] for column in range(3))
            level = str((row + 1) * (1 + plate))
            change = AssignWells(readings=ids, role=Role.STANDARD, name=f"Std {row} {plate}", level=level)
            layout, method = change.apply(readings, layout, method)
        ids = tuple(by_place[plate, 2, column] for column in (8, 9))
        change = AssignWells(readings=ids, role=Role.SAMPLE, name=f"S{plate}")
        layout, method = change.apply(readings, layout, method)
    spanning = AssignWells(readings=(by_place[0, 3, 11], by_place[1, 3, 11]), role=Role.SAMPLE, name="Both")
    layout, method = spanning.apply(readings, layout, method)
    each = evaluate(readings, layout, method.with_step(CurveStep(per="plate")))
    assert [curve.key for curve in each.curves] == ["Plate 1", "Plate 2"]
    found = {(a.name, a.curve): a.in_sample.value for a in answers(each)}
    assert found["S1", "Plate 2"] == pytest.approx(2 * (found["S0", "Plate 1"] or 0), rel=1e-6)
    # A sample on both plates has an answer on each, under its own group.
    both = [a for a in answers(each) if a.name.startswith("Both")]
    assert [a.name for a in both] == ["Both · Plate 1", "Both · Plate 2"] and len({a.group for a in both}) == 1
    assert len({a.key for a in answers(each)}) == len(answers(each))
    lines = each.working[both[0].group]
    assert [line.label for line in lines if "Read back" in line.label] == [
        "Read back (plate 1)", "Read back (plate 2)",
    ]  # fmt: skip
    # The same with the other plate not there at all.
    mine = {r.id for r in readings.readings if r.plate == 1}
    groups = tuple(
        g.model_copy(update={"readings": tuple(id for id in g.readings if id in mine)})
        for g in layout.groups if set(g.readings) & mine
    )  # fmt: skip
    alone = evaluate(readings, layout.model_copy(update={"groups": groups}), method)
    assert values(alone)["S1"] == found["S1", "Plate 2"]
    parameter = each.curves[1].parameters[0]
    assert f"{each.curves[1].tag}parameter.{parameter.name}" in each.working
    told = ask(readings, layout, method.with_step(CurveStep(per="plate")), Asked(level=3, curve="Plate 2"))
    assert told.value != ask(readings, layout, method.with_step(CurveStep(per="plate")), Asked(level=3)).value


def test_series_share_the_blanks_that_belong_to_none() -> None:
    standards = [f"Std {i}\t{i}\t{0.1 + k * i}\t{s}" for s, k in (("A", 1), ("B", 2)) for i in (1, 2, 3)]
    rows = ["Blank\t\t0.1\t", *standards, "S1\t\t2.1\tA", "S2\t\t4.1\tB", "S3\t\t2\tC"]  # fmt: skip
    readings, layout = taken("\n".join(["Sample\tConc\tReading\tSeries", *rows]))
    outcome = evaluate(readings, layout, METHOD.with_step(CurveStep(per="series")))
    assert values(outcome) == {"S1": pytest.approx(2), "S2": pytest.approx(2), "S3": None}
    assert [curve.key for curve in outcome.curves] == ["A", "B", "C"]
    assert "no standards" in outcome.curves[2].problem and outcome.verdict.state == "fail"


def test_concentration_on_signal_is_the_regression_of_the_one_on_the_other() -> None:
    """Miller & Miller's fluorescein standards; inverse regression as any textbook defines it, worked out by sums."""
    data = reference("cal_linear_fluorescein")["data"]
    x, y = data["x"], data["y"]
    rows = [f"Std {i}\t{a}\t{b}" for i, (a, b) in enumerate(zip(x, y, strict=True))]
    readings, layout = taken("\n".join(["Sample\tConc (pg/mL)\tF", *rows, "S1\t\t13.5"]))
    outcome = evaluate(readings, layout, METHOD.with_step(CurveStep(way="concentration")))
    mean_x, mean_y = sum(x) / len(x), sum(y) / len(y)
    slope = sum((a - mean_x) * (b - mean_y) for a, b in zip(x, y, strict=True)) / sum((b - mean_y) ** 2 for b in y)
    assert values(outcome)["S1"] == pytest.approx(mean_x + slope * (13.5 - mean_y), rel=1e-12)
    (answer,) = answers(outcome)
    assert answer.in_sample.lower < answer.in_sample.value < answer.in_sample.upper  # type: ignore[operator]
    assert outcome.curve.turned and "concentration on signal" in outcome.steps[3].sentence
    assert "other way" not in outcome.curve.problem
    assert ask(readings, layout, METHOD.with_step(CurveStep(way="concentration")), Asked(level=5)).value is None


def test_a_spike_is_recovered_as_by_hand() -> None:
    """Common practice, no source: (spiked − unspiked) ÷ added, in the sample, after dilution."""
    rows = [
        "Std 1\t1\t0.1",
        "Std 2\t10\t1.0",
        "Std 3\t10\t1.01",
        "S1\t\t0.3\t2",
        "S1 + 5\t\t0.53\t2",
        "S2 + 5\t\t0.4\t2",
    ]
    readings, layout = taken("\n".join(["Sample\tConc (µM)\tA\tDilution", *rows]))
    method = METHOD
    for name, of in (("S1 + 5", "S1"), ("S2 + 5", "S2")):
        id = next(g.id for g in layout.groups if g.name == name)
        change = Assign(groups=(id,), spike_of=of, level=5)
        assert f"an addition to {of}" in change.words(readings, layout, METHOD)
        layout, method = change.apply(readings, layout, method)
    outcome = evaluate(readings, layout, method)
    spiked = next(a for a in answers(outcome) if a.name == "S1 + 5")
    found = values(outcome)
    recovery = spiked.recovery
    assert recovery.value == pytest.approx(100 * ((found["S1 + 5"] or 0) - (found["S1"] or 0)) / 5)
    assert recovery.lower < recovery.value < recovery.upper
    assert any(remark.short == "no recovery" for a in answers(outcome) for remark in a.remarks)
    check = next(check for check in outcome.checks if check.id == "spikes")
    assert check.state == "look" and check.working in outcome.working


def test_each_reading_on_its_own_has_an_answer_of_its_own() -> None:
    rows = ["Std 1\t1\t0.1\t0.1", "Std 2\t10\t1\t1", "S1\t\t0.3\t0.5"]
    readings, layout = taken("\n".join(["Sample\tConc\tA rep 1\tA rep 2", *rows]))
    outcome = evaluate(readings, layout, METHOD.with_step(ReplicatesStep(combine="each")))
    assert values(outcome) == {"S1 · 1": pytest.approx(3), "S1 · 2": pytest.approx(5)}
    group = next(g for g in layout.groups if g.name == "S1")
    assert {a.group for a in answers(outcome)} == {group.id}
    assert [a.reading for a in answers(outcome)] == list(group.readings)
    assert any(line.label == "Read back (2)" for line in outcome.working[group.id])


@pytest.mark.parametrize(
    ("step", "expected"),
    [
        (BlankStep(scope="own"), {"S1": 0.3, "S2": 0.4}),
        (BlankStep(scope="run"), {"S1": 0.35, "S2": 0.45}),
        (BlankStep(scope="typed", typed=0.1), {"S1": 0.4, "S2": 0.5}),
    ],
)
def test_blanks_of_a_samples_own(step: BlankStep, expected: dict[str, float]) -> None:
    rows = ["Blank\t\t0.05", "S1 blank\t\t0.2", "Blank S2\t\t0.2", "Std 1\t0\t0.05", "Std 2\t1\t1.05", "S1\t\t0.5",
            "S2\t\t0.6"]  # fmt: skip
    readings, layout = taken("\n".join(["Sample\tConc\tA", *rows]))
    outcome = evaluate(readings, layout, METHOD.with_step(step))
    found = {answer.name: answer.signal for answer in answers(outcome)}
    assert found == {name: pytest.approx(value) for name, value in expected.items()}


def wavelengths() -> tuple[Readings, Layout]:
    rows = ["Blank\t\t0.10\t0.02", "Std 1\t0\t0.10\t0.02", "Std 2\t1\t1.10\t0.04", "S1\t\t0.60\t0.05"]
    return taken("\n".join(["Sample\tConc\t450 nm\t620 nm", *rows]))


def test_a_reference_wavelength_is_taken_off() -> None:
    readings, layout = wavelengths()
    outcome = evaluate(readings, layout, METHOD.with_step(BlankStep(scope="reference", reference="620 nm")))
    assert answers(outcome)[0].signal == pytest.approx(0.55)
    lost = evaluate(readings, layout, METHOD.with_step(BlankStep(scope="reference", reference="700 nm")))
    assert "620 nm" in lost.steps[1].sentence and lost.steps[1].state == "look"


def test_a_ratio_after_the_blank_is_of_what_the_blank_left() -> None:
    readings, layout = wavelengths()
    step = SignalStep(column="ratio", derived=(DerivedColumn(name="ratio", expression="{450 nm} / {620 nm}"),))
    before = evaluate(readings, layout, METHOD.with_step(step))
    change = PlaceSignal(after_blank=True)
    layout, after = change.apply(readings, layout, METHOD.with_step(step))
    outcome = evaluate(readings, layout, after)
    assert [step.kind for step in after.steps][:2] == ["blank", "signal"]
    assert answers(before)[0].signal == pytest.approx(0.60 / 0.05 - 0.10 / 0.02)
    assert answers(outcome)[0].signal == pytest.approx((0.60 - 0.10) / (0.05 - 0.02))
    assert after.with_signal(after_blank=False) == METHOD.with_step(step)


def test_column_groups_have_their_own_blanks() -> None:
    readings, layout = taken(two_plates())
    by_place = {(r.plate, r.row, r.column): r.id for r in readings.readings}
    method: Method = METHOD
    blanks = tuple(by_place[0, row, column] for row, column in ((7, 0), (6, 3)))
    for ids, role, name in ((blanks, Role.BLANK, "Blank"), ((by_place[0, 0, 1],), Role.SAMPLE, "left"),
                            ((by_place[0, 0, 5],), Role.SAMPLE, "right")):  # fmt: skip
        layout, method = AssignWells(readings=ids, role=role, name=name).apply(readings, layout, method)
    outcome = evaluate(readings, layout, method.with_step(BlankStep(scope="columns", width=3)))
    found = {answer.name: answer.signal for answer in answers(outcome)}
    assert found == {"left": pytest.approx(0.101 - 0.8), "right": pytest.approx(0.105 - 0.703)}


def test_the_comparison_names_the_better_curve_and_why() -> None:
    known = reference("cal_quadratic_curvature")
    rows = [f"Std {x}\t{x}\t{y}" for x, y in zip(known["data"]["x"], known["data"]["y"], strict=True)]
    readings, layout = taken("\n".join(["Sample\tConc (µg/mL)\tF", *rows]))
    outcome = evaluate(readings, layout, METHOD)
    candidates = {c.model: c for c in outcome.curve.candidates}
    assert all(c.missed is not None for c in candidates.values())
    assert {id for id, c in candidates.items() if c.about_zero} == {"line_through_zero"}
    best = min((c for c in candidates.values() if c.aicc is not None), key=lambda c: c.aicc or 0.0)
    assert MODELS[best.model].name in outcome.curve.comparison and best.shown_aicc in outcome.curve.comparison


def test_working_of_parameters_statistics_limits_and_checks_comes_to_their_numbers() -> None:
    rows = ["Blank\t\t0.010", "Blank\t\t0.014", "Blank\t\t0.012", "Std 1\t1\t0.112", "Std 2\t2\t0.215",
            "Std 3\t3\t0.31", "Std 3\t3\t0.314", "S1\t\t0.2"]  # fmt: skip
    readings, layout = taken("\n".join(["Sample\tConc (µM)\tA", *rows]))
    outcome = evaluate(readings, layout, METHOD)
    slope = next(row for row in outcome.curve.parameters if row.name == "slope")
    lines = {line.label: line for line in outcome.working["parameter.slope"]}
    top, bottom = lines["Estimate"].text.removeprefix("Sxy ÷ Sxx = ").split(" ÷ ")
    assert float(top) / float(bottom) == pytest.approx(slope.estimate, rel=1e-5)
    error = lines["Standard error"]
    rmse, root = error.text.partition("= ")[2].partition(",")[0].split(" × √")
    assert float(rmse) * float(root) ** 0.5 == pytest.approx(error.value, rel=1e-4)
    assert [limit.name for limit in outcome.curve.limits] == [
        "LOD", "LOQ", "Critical", "Detectable", "Critical, blanks", "Detectable, blanks", "CV ≤ 20 %"
    ]  # fmt: skip
    for limit in outcome.curve.limits[2:6]:
        line = outcome.working[limit.working][0]
        factor, spread, slope_of = re.match(r"([\d.]+) × ([\d.]+) ÷ ([\d.]+)", line.text).groups()
        assert float(factor) * float(spread) / float(slope_of) == pytest.approx(line.value, rel=1e-3)
    lod = outcome.working[outcome.curve.limits[0].working][0]
    factor, rest = lod.text.split(" × ", 1)
    sigma, over = rest.partition(" (")[0].split(" ÷ ")
    assert float(factor) * float(sigma) / float(over) == pytest.approx(lod.value, rel=1e-4)
    assert all(s.working in outcome.working for s in outcome.curve.statistics if s.working)
    recovery = outcome.working["check.recovery"]
    assert [line.label for line in recovery] == ["Std 1", "Std 2", "Std 3"]


@pytest.mark.parametrize("falling", [False, True])
def test_what_reads_nothing_gives_lod_and_loq_through_a_curve(falling: bool) -> None:
    """The curve's own equation at each limit gives the mean of the zero standards ± 3 and 10 SD (ICH Q2)."""
    zero = [0.100, 0.104, 0.109] if not falling else [2.100, 2.088, 2.094]
    rows = [f"Zero\t0\t{y}" for y in zero]
    for level, share in ((0.1, 0.03), (0.3, 0.1), (1, 0.28), (3, 0.55), (10, 0.82), (30, 0.94)):
        for noise in (0.004, -0.003):
            rows.append(f"Std {level}\t{level}\t{(2.1 - 2 * share if falling else 0.1 + 2 * share) + noise:.3f}")
    readings, layout = taken("\n".join(["Sample\tConc (µM)\tA", *rows]))
    outcome = evaluate(readings, layout, METHOD.with_step(CurveStep(model="logistic4")))
    p = {row.name: row.estimate for row in outcome.curve.parameters}
    limits = {limit.name: outcome.working[limit.working][0].value for limit in outcome.curve.limits[:2]}
    mean, sd = statistics.mean(zero), statistics.stdev(zero)
    for name, factor in (("LOD", 3), ("LOQ", 10)):
        signal = p["lower"] + (p["upper"] - p["lower"]) / (1 + (limits[name] / p["midpoint"]) ** -p["slope"])
        assert signal == pytest.approx(mean + (-factor if falling else factor) * sd, rel=1e-9)


def test_blanks_at_the_far_end_of_a_falling_curve_are_no_zero_dose() -> None:
    """Common practice, no source: the substrate blank of a competitive assay reads less than any dose."""
    rows = [f"Blank\t\t{y}" for y in (0.041, 0.043, 0.044)]
    for level, share in ((0.1, 0.03), (0.3, 0.1), (1, 0.28), (3, 0.55), (10, 0.82), (30, 0.94)):
        rows += [f"Std {level}\t{level}\t{2.1 - 2 * share + noise:.3f}" for noise in (0.004, -0.003)]
    readings, layout = taken("\n".join(["Sample\tConc (µM)\tA", *rows]))
    outcome = evaluate(readings, layout, METHOD.with_step(CurveStep(model="logistic4")))
    assert "LOD" not in {limit.name for limit in outcome.curve.limits}
    (said,) = [step.sentence for step in outcome.steps if step.kind == "limits"]
    assert said.startswith("No LOD: that takes 3 readings at zero concentration or more.")

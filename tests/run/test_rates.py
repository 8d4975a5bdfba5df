"""The question rate, from a pasted table to its answers."""

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import stats

from dosis.demo import courses as demo
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.changes import Change, Exclude, Include, SetQuestion, SetStep
from dosis.run.changing import changed
from dosis.run.curves.ends import Range
from dosis.run.curves.thinning import thinned
from dosis.run.evaluate import evaluate, look_at_courses, look_at_curve, look_at_equation, look_at_working
from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.opening import opened
from dosis.run.outcome.courses import CoursesWanted
from dosis.run.outcome.equation import EquationAsked
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.step import Check
from dosis.run.outcome.table import AnswerTable
from dosis.run.outcome.value import State
from dosis.run.place_changes import ExcludePoints, IncludePoints, Spot
from dosis.run.questions.rate.against import AgainstStep
from dosis.run.questions.rate.blank import CourseBlankStep
from dosis.run.questions.rate.checks import RateChecksStep
from dosis.run.questions.rate.compare import CompareRatesStep
from dosis.run.questions.rate.course import CourseStep, Trim
from dosis.run.questions.rate.part import RatePart
from dosis.run.questions.rate.rates import RatesStep
from dosis.run.questions.rate.scale import Measured, ScaleStep
from dosis.run.questions.rate.signal import CourseSignalStep
from dosis.run.readings import Readings
from dosis.run.steps.step import Step
from tests.conftest import reference

T = np.arange(0.0, 200.0, 10.0)
Run = tuple[Readings, Layout, Method, Outcome]


def text_of(head: str, t: np.ndarray, *columns: np.ndarray) -> str:
    rows = "\n".join("\t".join(f"{v:.8g}" for v in row) for row in zip(t, *columns, strict=True))
    return f"{head}\n{rows}\n"


def run(text: str, *steps: Step | Change) -> Run:
    """A table opened as courses, with these steps and changes."""
    intake = understand(text, Choices(question="rate"))
    assert intake.readings is not None and intake.layout is not None
    layout, method = opened(intake.readings, intake.layout, "rate")
    made = [SetStep(step=each) if isinstance(each, Step) else each for each in steps]
    for each in made:
        layout, method, _ = changed(intake.readings, layout, method, [each])
    return intake.readings, layout, method, evaluate(intake.readings, layout, method)


def outcome_of(text: str, *steps: Step | Change) -> Outcome:
    return run(text, *steps)[3]


def part_of(outcome: Outcome) -> RatePart:
    assert isinstance(outcome.part, RatePart)
    return outcome.part


def column(table: AnswerTable, id: str) -> list[float | None]:
    return list(table.column(id).values)


def check(outcome: Outcome, id: str) -> Check:
    return next(each for each in outcome.checks if each.id == id)


def step_of(outcome: Outcome, kind: str) -> str:
    return next(each.sentence for each in outcome.steps if each.kind == kind)


def noise(scale: float, seed: int, size: int = T.size) -> np.ndarray:
    return scale * np.random.default_rng(seed).standard_normal(size)


def trials(count: int = 5, scale: float = 0.002) -> str:
    columns = [0.1 + 0.001 * (k + 1) * T + noise(scale, k) for k in range(count)]
    return text_of("Time (s)\t" + "\t".join(f"Trial {k + 1} (AU)" for k in range(count)), T, *columns)


ALL = CourseStep(propose=False)


def test_five_trials_have_five_lines_with_slope_interval_and_unit() -> None:
    """scipy.stats.linregress on the same columns."""
    readings, _, _, outcome = run(trials(), ALL)
    table = outcome.answers
    assert [row.name for row in table.rows] == [f"Trial {k}" for k in range(1, 6)]
    assert table.column("rate").unit == "AU/s" and table.column("rate").level == 0.95
    for k, row in enumerate(readings.curves.y):
        theirs = stats.linregress(T, row)
        half = stats.t.ppf(0.975, T.size - 2) * theirs.stderr
        got = table.column("rate").value(k)
        assert_allclose((got.value, got.lower, got.upper), (theirs.slope, theirs.slope - half, theirs.slope + half))
        assert_allclose(column(table, "r_squared")[k], theirs.rvalue**2)
        assert outcome.curves[k].parameters[0].name == "slope"
        assert table.column("equation").texts[k].startswith("y = ")


def test_slopes_keep_their_sign_and_two_significant_figures_when_asked() -> None:
    falling = text_of("Time (s)\tA\tB", T, 1 - 0.00123 * T + noise(1e-4, 1), 1 - 0.0456 * T + noise(1e-4, 2))
    shown = outcome_of(falling, ALL, RatesStep(digits=2)).answers.column("rate").texts
    assert shown == ("−0.0012", "−0.046")
    positive = outcome_of(falling, ALL, RatesStep(digits=2), ScaleStep(positive=True)).answers.column("rate")
    assert positive.texts == ("0.0012", "0.046")
    assert positive.values[0] is not None and positive.lowers[0] < positive.values[0] < positive.uppers[0]  # type: ignore[operator]


def test_a_window_and_what_is_left_out_hold_for_all_courses_at_once() -> None:
    outcome = outcome_of(trials(), CourseStep(propose=False, window=Range(upper=120)))
    assert column(outcome.answers, "n") == [13] * 5
    assert (part_of(outcome).lower, part_of(outcome).upper) == (0, 120)
    three = outcome_of(trials(), CourseStep(leave_out=Trim(first=3, at_most=3)))
    assert column(three.answers, "n") == [17] * 5
    assert part_of(three).lower == 30
    assert {p.state for p in three.curves[4].points[:3]} == {"outside"}


@pytest.mark.parametrize(("first", "last", "kept"), [(3, 3, True), (4, 0, False), (0, 4, False)])
def test_the_rule_of_at_most_three_from_either_end_is_kept(first: int, last: int, kept: bool) -> None:
    outcome = outcome_of(trials(), CourseStep(leave_out=Trim(first=first, last=last, at_most=3)))
    state = next(step.state for step in outcome.steps if step.kind == "course")
    assert (state is State.PASS) is kept
    assert kept or "the rule of this run allows 3" in step_of(outcome, "course")


@pytest.mark.parametrize(("upper", "kept"), [(160, True), (150, False)])
def test_a_window_keeps_the_rule_too(upper: float, kept: bool) -> None:
    step = CourseStep(propose=False, window=Range(upper=upper), leave_out=Trim(at_most=3))
    outcome = outcome_of(trials(), step)
    assert (outcome.verdict.headline != "No rate.") is kept


def test_a_proposed_window_is_explained_and_its_interval_reaches_to_the_start() -> None:
    t = np.arange(0, 300.0, 5)
    bent = [0.05 + r * 500 * (1 - np.exp(-t / 500)) + noise(0.004, k, t.size) for k, r in enumerate((0.004, 0.006))]
    outcome = outcome_of(text_of("Time (s)\tA\tB", t, *bent))
    said = step_of(outcome, "course")
    assert "The widest that is straight" in said and "nor do they bend together" in said
    part = part_of(outcome)
    assert part.upper is not None and part.upper < 290 and part.lower == 0
    rate, start = outcome.answers.column("rate"), outcome.answers.column("start_rate")
    for k, truth in enumerate((0.004, 0.006)):
        assert rate.values[k] < truth  # type: ignore[operator]
        assert rate.lowers[k] < truth < rate.uppers[k]  # type: ignore[operator]
        assert rate.uppers[k] == max(rate.uppers[k], start.uppers[k])  # type: ignore[type-var]
    whole = outcome_of(trials())
    assert "All of it is straight" in step_of(whole, "course") and "start_rate" not in [
        c.id for c in whole.answers.columns
    ]


def test_the_slope_at_the_start_is_taken_before_courses_bend() -> None:
    bent = [0.05 + rate * 150 * (1 - np.exp(-T / 150)) + noise(0.001, k) for k, rate in enumerate((0.004, 0.006))]
    outcome = outcome_of(text_of("Time (s)\tA\tB", T, *bent), CourseStep(by="start"))
    values = column(outcome.answers, "rate")
    assert_allclose(values, (0.004, 0.006), rtol=0.04)
    lines = column(outcome.answers, "line_rate")
    assert all(line < value for line, value in zip(lines, values, strict=True))  # type: ignore[operator]
    assert outcome.curves[0].name == "Parabola"


def test_where_no_window_is_straight_the_first_times_are_taken_and_it_is_said() -> None:
    steps = text_of("Time (s)\tA", T, 0.1 + 0.3 * (1 - np.exp(-T / 30)) + noise(1e-6, 1))
    outcome = outcome_of(steps, CourseStep())
    assert part_of(outcome).upper == 40
    assert next(s.state for s in outcome.steps if s.kind == "course") is State.LOOK
    assert "No window is straight" in outcome.verdict.detail[0].text


def test_a_series_can_have_a_window_of_its_own() -> None:
    own = CourseStep(propose=False, own={"Trial 2": Range(lower=50, upper=100)})
    outcome = outcome_of(trials(), own)
    assert column(outcome.answers, "n") == [20, 6, 20, 20, 20]
    assert [curve.own for curve in outcome.curves] == [False, True, False, False, False]


def test_points_and_courses_are_left_out_with_a_reason_and_come_back() -> None:
    readings, layout, method, before = run(trials(), ALL)
    out = ExcludePoints(points=(Spot(reading=2, at=4), Spot(reading=2, at=5)), reason="bubble")
    laid, how, words = changed(readings, layout, method, [out])
    after = evaluate(readings, laid, how)
    assert words == ["Excluded Trial 2 at 40 s, Trial 2 at 50 s: bubble"]
    assert column(after.answers, "n") == [20, 18, 20, 20, 20]
    assert [p.state for p in after.curves[1].points].count("excluded") == 2
    keep = np.r_[0:4, 6:20]
    theirs = stats.linregress(T[keep], readings.curves.y[1][keep])
    assert_allclose(column(after.answers, "rate")[1], theirs.slope)
    back, how, words = changed(
        readings, laid, how, [IncludePoints(points=(Spot(reading=2, at=4), Spot(reading=2, at=5)))]
    )
    assert evaluate(readings, back, how) == before
    gone, how, _ = changed(readings, layout, method, [Exclude(readings=(1,), reason="dropped cuvette")])
    assert [row.name for row in evaluate(readings, gone, how).answers.rows] == [f"Trial {k}" for k in range(2, 6)]
    both, how, _ = changed(readings, gone, how, [out, Include(readings=(1,))])
    assert [(e.reading, e.at) for e in both.exclusions] == [(2, 4), (2, 5)]
    with pytest.raises(ValueError, match="no point 99"):
        changed(readings, layout, method, [ExcludePoints(points=(Spot(reading=2, at=99),), reason="x")])


LEVELS = "Time (s)\tBlank\t1 mM\t1 mM rep 2\t5 mM\t5 mM rep 2"


def leveled(drift: float = 0.0002) -> str:
    blank = 0.05 + drift * T
    rates = (0.001, 0.00104, 0.003, 0.00306)
    return text_of(LEVELS, T, blank + noise(2e-4, 9), *(blank + r * T + noise(2e-4, k) for k, r in enumerate(rates)))


def test_the_course_of_the_blanks_is_subtracted_time_by_time() -> None:
    outcome = outcome_of(leveled(), ALL)
    assert_allclose(column(outcome.answers, "rate"), (0.00102, 0.00303), rtol=0.01)
    assert "drifting by 0.00020" in step_of(outcome, "course_blank")
    bare = outcome_of(leveled(), ALL, CourseBlankStep(take="none"))
    assert_allclose(column(bare.answers, "rate"), (0.00122, 0.00323), rtol=0.01)
    typed = outcome_of(leveled(), ALL, CourseBlankStep(take="typed", typed=0.05))
    assert_allclose(column(typed.answers, "intercept"), (0, 0), atol=1e-3)
    start = outcome_of(leveled(), ALL, CourseBlankStep(take="start"))
    assert_allclose(column(start.answers, "rate"), column(bare.answers, "rate"))


def test_replicate_courses_count_together_and_the_interval_says_by_what() -> None:
    outcome = outcome_of(leveled(), ALL)
    table = outcome.answers
    assert column(table, "courses") == [2, 2]
    own = outcome_of(leveled(), ALL, RatesStep(spread="own")).answers.column("rate").value(0)
    readings = run(leveled(), ALL)[0]
    slopes = [stats.linregress(T, readings.curves.y[k] - readings.curves.y[0]).slope for k in (1, 2)]
    half = stats.t.ppf(0.975, 1) * np.std(slopes, ddof=1) / np.sqrt(2)
    assert_allclose(
        (own.value, own.lower, own.upper), (np.mean(slopes), np.mean(slopes) - half, np.mean(slopes) + half)
    )
    pooled = table.column("rate").value(0)
    assert pooled.upper - pooled.lower < own.upper - own.lower  # type: ignore[operator]
    group = table.rows[0].group
    said = " ".join(line.text for line in outcome.working[group])
    assert "mean of 2 courses" in said and "− the blank course at each time" in said


def test_rates_are_brought_to_real_units_and_trouble_is_said() -> None:
    scale = ScaleStep(
        absorptivity=Measured(value=6220, unit="L/mol/cm"), path=Measured(value=1, unit="cm"), to="µmol/L/min"
    )
    plain, scaled = outcome_of(trials(), ALL), outcome_of(trials(), ALL, scale)
    column_ = scaled.answers.column("rate")
    assert column_.unit == "µmol/L/min"
    assert_allclose(column_.values, np.array(plain.answers.column("rate").values) * 60e6 / 6220)  # type: ignore[operator]
    assert_allclose(column_.uppers, np.array(plain.answers.column("rate").uppers) * 60e6 / 6220)  # type: ignore[operator]
    wrong = outcome_of(trials(), ALL, ScaleStep(absorptivity=Measured(value=6220, unit="L/mol/cm"), to="µmol/L/min"))
    assert "Not scaled" in step_of(wrong, "scale") and wrong.verdict.state is State.FAIL


def test_the_signal_is_computed_and_time_brought_to_another_unit() -> None:
    t = text_of("Time (s)\tA\tB", T, 80 * 10 ** (-0.001 * T), 80 * 10 ** (-0.002 * T))
    step = CourseSignalStep(y="-log10(y/100)", y_name="Absorbance", y_unit="AU", time_unit="min")
    outcome = outcome_of(t, ALL, step)
    assert_allclose(column(outcome.answers, "rate"), (0.06, 0.12), rtol=1e-6)
    assert outcome.answers.column("rate").unit == "AU/min"
    wrong = outcome_of(t, CourseSignalStep(y="log10(y"))
    assert wrong.verdict.state is State.FAIL
    assert "°C" in step_of(outcome_of(t, CourseSignalStep(time_unit="°C")), "course_signal")


def exact(levels: list[float], rates: list[float], unit: str, name: str = "") -> str:
    """Straight courses of exactly these rates, each named for its level."""
    rows: list[str] = []
    for k, (level, rate) in enumerate(zip(levels, rates, strict=True)):
        rows += [f"{name or 'S'}{k}\t{level:g}\t{t}\t{rate * t:.10g}" for t in range(6)]
    return f"Name\tLevel ({unit})\tTime (min)\tSignal\n" + "\n".join(rows)


def test_rates_of_puromycin_come_to_their_published_constants() -> None:
    """Bates & Watts (1988), Puromycin, treated: Vmax, Km and both intervals (tests/reference/mm_puromycin_treated)."""
    case = reference("mm_puromycin_treated")
    text = exact(case["data"]["x"], case["data"]["y"], "ppm")
    outcome = outcome_of(text)
    table = outcome.further[0]
    found = {"Vmax": table.column("against_maximum").value(0), "Km": table.column("against_half").value(0)}
    for name, value in found.items():
        assert_allclose(value.value, case["expected"][name], rtol=1e-6)
        assert_allclose((value.lower, value.upper), case["expected"]["ci95_profile"][name], rtol=1e-5)
    wald = (
        outcome_of(text, AgainstStep(model="hyperbola", interval="wald")).further[0].column("against_maximum").value(0)
    )
    assert_allclose((wald.lower, wald.upper), case["expected"]["ci95_wald"]["Vmax"], rtol=1e-6)
    assert outcome.verdict.headline.startswith("Vmax 213 1/min (197 to 229), Km 0.064 ppm")


def test_straightened_plots_say_what_a_line_through_them_would_give() -> None:
    """The same rates as lines: tests/reference/mm_linearised_puromycin_treated."""
    case = reference("mm_linearised_puromycin_treated")
    plots = part_of(outcome_of(exact(case["data"]["x"], case["data"]["y"], "ppm"))).straightened
    ours = ("Double reciprocal", "Level over rate", "Rate on rate over level")
    for plot, name, theirs in zip(plots, ours, ("lineweaver_burk", "hanes_woolf", "eadie_hofstee"), strict=True):
        assert plot.name == name
        line = stats.linregress([p.x for p in plot.points], [p.y for p in plot.points])
        assert_allclose((line.slope, line.intercept), [case["expected"][theirs][k] for k in ("slope", "intercept")])
        assert f"{case['expected'][theirs]['Vmax']:.3g}" in plot.why
        spread = np.polyfit(plot.line.x, plot.line.y, 1, full=True)[1]
        assert not spread.size or spread[0] < 1e-12  # the curve is a straight line there


def test_an_inhibitor_is_told_by_one_fit_of_all_series() -> None:
    rng = np.random.default_rng(4)
    rows = []
    for i in (0, 2, 8):
        for s in (1, 2, 5, 10, 20):
            rate = 10 * s / (4 * (1 + i / 3) + s) + rng.normal(0, 0.05)
            rows += [f"S{s}\t{i} µM\t{s}\t{t}\t{rate * t:.10g}" for t in range(6)]
    text = "Name\tSeries\tLevel (mM)\tTime (min)\tSignal\n" + "\n".join(rows)
    outcome = outcome_of(text, AgainstStep(model="inhibition"))
    table = outcome.further[0]
    assert table.title.startswith("Competitive inhibition")
    ki = table.column("against_ki").value(0)
    assert ki.lower < 3 < ki.upper  # type: ignore[operator]
    part = part_of(outcome)
    assert part.against[0].candidates[0].name == "Competitive" and len(part.against) == 3
    named = outcome_of(text, AgainstStep(model="inhibition", inhibitors={"0 µM": 0, "2 µM": 4, "8 µM": 16}))
    assert_allclose(named.further[0].column("against_ki").values[0], 2 * ki.value, rtol=1e-6)  # type: ignore[operator]
    forced = outcome_of(text, AgainstStep(model="inhibition", inhibited="uncompetitive"))
    assert part_of(forced).against[0].comparison.startswith("Competitive describes these rates better")


def test_an_optimum_and_an_activation_energy_come_from_rates_on_temperature() -> None:
    c = [5.0, 10, 15, 20, 25, 30, 35]
    rising = [2 * np.exp(50_000 / 8.31446261815324 * (1 / 298.15 - 1 / (t + 273.15))) for t in c]
    energy = outcome_of(exact(c, rising, "°C"), AgainstStep(model="arrhenius")).further[0]
    assert_allclose(energy.column("against_energy").values[0], 50, rtol=1e-6)
    assert energy.column("against_energy").unit == "kJ/mol" and "temperature" in energy.title
    kelvin = outcome_of(exact([t + 273.15 for t in c], rising, "K"), AgainstStep(model="arrhenius")).further[0]
    assert_allclose(kelvin.column("against_energy").values[0], 50, rtol=1e-6)
    # Rosso, Lobry & Flandrois (1993): zero at 2 and 44, best 10 at 35.
    best = [
        10 * (t - 44) * (t - 2) ** 2 / (33 * (33 * (t - 35) - (35 - 44) * (35 + 2 - 2 * t)))
        for t in (5, 12, 20, 28, 35, 40, 43)
    ]
    found = outcome_of(exact([5, 12, 20, 28, 35, 40, 43], best, "°C")).further[0]
    assert_allclose(found.column("against_optimum").values[0], 35, rtol=1e-4)
    assert_allclose(found.column("against_highest").values[0], 10, rtol=1e-4)


def test_any_parameter_can_be_held_against_the_level() -> None:
    outcome = outcome_of(exact([1, 2, 5, 10], [1, 2, 5, 10], "mM"), AgainstStep(model="line", of="rate"))
    assert_allclose(outcome.further[0].column("against_slope").values[0], 1)
    off = outcome_of(exact([1, 2, 5, 10], [1, 2, 5, 10], "mM"), AgainstStep(model="off"))
    assert off.further == ()


def long_of(name: str, *, heading: str = "Time (h)\tSignal") -> str:
    data = reference(name)["data"]
    rows = "\n".join(f"{x}\t{y}" for x, y in zip(data["x"], data["y"], strict=True))
    return f"{heading}\n{rows}\n"


def test_growth_of_orange_trees_is_the_published_logistic() -> None:
    """Orange, tree 3 (Draper & Smith 1981; tests/reference/growth_logistic_orange_tree3): a plateau without a start."""
    case = reference("growth_logistic_orange_tree3")["expected"]
    step = CourseStep(by="whole", model="growth_logistic", scale="linear", fixed={"start": 0})
    outcome = outcome_of(long_of("growth_logistic_orange_tree3", heading="Age (d)\tcircumference (mm)"), step)
    found = {row.name: row for row in outcome.curve.parameters}
    assert_allclose(found["amplitude"].estimate, case["Asym"], rtol=1e-6)
    assert_allclose(found["amplitude"].standard_error, case["se_Asym"], rtol=1e-6)
    # Zwietering's greatest rate is A/(4·scal), his lag xmid − 2·scal.
    assert_allclose(found["rate"].estimate, case["Asym"] / (4 * case["scal"]), rtol=1e-6)
    assert_allclose(found["lag"].estimate, case["xmid"] - 2 * case["scal"], rtol=1e-4)


def test_gompertz_growth_of_orange_trees_is_the_published_one() -> None:
    """Orange, tree 2 (tests/reference/growth_gompertz_orange_tree2): µ = A·k/e, λ = ti − 1/k."""
    case = reference("growth_gompertz_orange_tree2")["expected"]
    step = CourseStep(by="whole", model="growth_gompertz", scale="linear", fixed={"start": 0})
    outcome = outcome_of(long_of("growth_gompertz_orange_tree2", heading="Age (d)\tcircumference (mm)"), step)
    found = {row.name: row.estimate for row in outcome.curve.parameters}
    assert_allclose(found["amplitude"], case["A"], rtol=1e-6)
    assert_allclose(found["rate"], case["A"] * case["k"] / np.e, rtol=1e-6)
    assert_allclose(found["lag"], case["ti"] - 1 / case["k"], rtol=1e-4)


def test_indomethacin_decays_in_one_and_in_two_phases_as_published() -> None:
    """Indometh (Kwan et al. 1976), subjects 3 and 1 (tests/reference/decay_*_indometh_*)."""
    one = reference("decay_mono_indometh_3")["expected"]
    outcome = outcome_of(long_of("decay_mono_indometh_3"), CourseStep(by="whole", model="exponential_decay"))
    table = outcome.answers
    assert_allclose(column(table, "rate")[0], one["k"], rtol=1e-6)
    assert_allclose(column(table, "half_life")[0], np.log(2) / one["k"], rtol=1e-6)
    two = reference("decay_biexp_indometh_1")["expected"]
    outcome = outcome_of(long_of("decay_biexp_indometh_1"), CourseStep(by="whole", model="exponential_decay_2"))
    found = {row.name: row.estimate for row in outcome.curve.parameters}
    for ours, theirs in (("fast", "A1"), ("fast_rate", "k1"), ("slow", "A2"), ("slow_rate", "k2")):
        assert_allclose(found[ours], two[theirs], rtol=1e-5)


def test_theophylline_is_fitted_by_an_equation_of_ones_own() -> None:
    """Theoph, subject 1 (Boeckmann et al. 1994; tests/reference/pk_theophylline_1)."""
    case = reference("pk_theophylline_1")
    equation = case["formula"].split("=")[1].strip()
    text = long_of("pk_theophylline_1", heading="Time (h)\tConcentration (mg/L)")
    outcome = outcome_of(text, CourseStep(by="whole", model="custom", equation=equation, start=case["start"]))
    for row in outcome.curve.parameters:
        assert_allclose(row.estimate, case["expected"][row.name], rtol=1e-6)
        assert_allclose(row.standard_error, case["expected"][f"se_{row.name}"], rtol=1e-5)
    readings, layout, method, _ = run(text)
    look = look_at_equation(readings, layout, method, EquationAsked(equation="a*exp(-k*x)"))
    assert {each.name for each in look.parameters} == {"a", "k"}


def grown(scale: str = "ln", model: str = "growth_logistic") -> Outcome:
    return outcome_of(demo.growth_table(), CourseStep(by="whole", model=model, scale=scale))  # type: ignore[arg-type]


def test_growth_opens_on_the_logarithm_with_rate_doubling_time_lag_and_plateau() -> None:
    opened_ = outcome_of(demo.growth_table())
    assert "through ln y" in step_of(opened_, "course")
    rate, doubling = opened_.answers.column("rate"), opened_.answers.column("doubling_time")
    for k, (truth, lag) in enumerate(((0.058, 14), (0.055, 18), (0.043, 26))):
        assert rate.lowers[k] < truth < rate.uppers[k]  # type: ignore[operator]
        assert_allclose(doubling.values[k], np.log(2) / rate.values[k])  # type: ignore[operator]
        own = opened_.answers.column("lag")
        assert own.lowers[k] < lag < own.uppers[k]  # type: ignore[operator]
    plateau = opened_.answers.column("plateau")
    assert plateau.lowers[0] < np.exp(-3.35 + 3.1) < plateau.uppers[0]  # type: ignore[operator]
    assert "steepest" in [c.id for c in opened_.answers.columns]


def test_growth_on_other_scales_says_other_things() -> None:
    linear, percent = grown("linear"), grown("percent")
    assert "doubling_time" not in [c.id for c in linear.answers.columns]
    assert linear.answers.column("rate").name == "Greatest rate"
    tops = [max(p.y for p in curve.points) for curve in percent.curves]
    assert_allclose(tops, 100)
    zero = demo.growth_table().replace("0.039", "0", 1)
    assert "have no logarithm" in step_of(outcome_of(zero, CourseStep(by="whole", scale="ln")), "course")


def test_decay_opens_as_one_and_rates_of_a_straight_course_do_not() -> None:
    assert "Exponential decay" in step_of(outcome_of(demo.fading_table()), "course")
    assert "A line through" in step_of(outcome_of(trials()), "course")


def test_groups_are_compared_by_their_difference_and_second_curves_by_one_fit() -> None:
    """Welch's interval, scipy.stats.ttest_ind_from_stats for the p."""
    outcome = outcome_of(trials(2), ALL)
    rate = outcome.answers.column("rate")
    said = part_of(outcome).comparisons[0]
    assert "**differ**" in said.text and (said.reference, said.name) == ("Trial 1", "Trial 2")
    errors = [(u - v) / stats.t.ppf(0.975, 18) for u, v in zip(rate.uppers, rate.values, strict=True)]  # type: ignore[operator]
    spread = np.array(errors) * np.sqrt(19)
    theirs = stats.ttest_ind_from_stats(rate.values[1], spread[1], 19, rate.values[0], spread[0], 19, equal_var=False)
    p = next(line.value for line in outcome.working["compare.0"] if line.label == "Difference")
    assert_allclose(p, rate.values[1] - rate.values[0])  # type: ignore[operator]
    assert theirs.pvalue < 0.05
    alike = outcome_of(text_of("Time (s)\tA\tB", T, *(0.1 + 0.001 * T + noise(0.004, k) for k in (1, 2))), ALL)
    assert "are not told apart" in part_of(alike).comparisons[0].text
    assert part_of(outcome_of(trials(2), ALL, CompareRatesStep(on=False))).comparisons == ()


def to(upper: float) -> CourseStep:
    return CourseStep(propose=False, window=Range(upper=upper))


ON_BOTH_SIDES = [
    ("enough", trials(), to(40), to(30)),
    ("start", trials(), ALL, CourseStep(propose=False, window=Range(lower=10))),
    ("straight", text_of("Time (s)\tA", T, 0.002 * T + noise(0.002, 1)), ALL, None),
    ("noise", text_of("Time (s)\tA", T, 0.002 * T + noise(0.002, 1)), ALL, None),
    ("replicates", leveled(), ALL, RatesStep(cv_limit=0.001)),
]  # fmt: skip


@pytest.mark.parametrize(("id", "text", "good", "bad"), ON_BOTH_SIDES, ids=[row[0] for row in ON_BOTH_SIDES])
def test_each_check_has_two_sides(id: str, text: str, good: Step, bad: Step | None) -> None:
    assert check(outcome_of(text, good), id).state is State.PASS
    if bad is not None:
        assert check(outcome_of(text, ALL, bad), id).state is State.LOOK


def test_a_bent_course_and_a_noisy_one_are_looked_at() -> None:
    bent = text_of("Time (s)\tA", T, 0.002 * T - 4e-6 * T**2 + noise(0.002, 1))
    assert check(outcome_of(bent, ALL), "straight").state is State.LOOK
    noisy = text_of("Time (s)\tA", T, 1e-4 * T + noise(0.02, 1))
    assert check(outcome_of(noisy, ALL), "noise").state is State.LOOK
    share = RateChecksStep(noise=10)
    assert check(outcome_of(noisy, ALL, share), "noise").state is State.PASS


@pytest.mark.parametrize(("limit", "state"), [(0.02, State.LOOK), (0.5, State.PASS)])
def test_lines_that_fall_short_of_the_start_are_looked_at(limit: float, state: State) -> None:
    bent = [0.05 + rate * 150 * (1 - np.exp(-T / 150)) + noise(0.001, k) for k, rate in enumerate((0.004, 0.006))]
    outcome = outcome_of(text_of("Time (s)\tA\tB", T, *bent), RateChecksStep(steeper=limit))
    assert check(outcome, "steeper").state is state
    assert "steeper" not in [each.id for each in outcome_of(trials()).checks]


@pytest.mark.parametrize(("limit", "state"), [(0.09, State.LOOK), (0.11, State.PASS)])
def test_substrate_that_is_used_up_is_looked_at(limit: float, state: State) -> None:
    """5 min at 2 µM/min is 10 µM, a tenth of 0.1 mM."""
    text = exact([0.1, 0.2, 0.5, 1.0], [2.0, 2.0, 2.0, 2.0], "mM").replace("\tSignal\n", "\tProduct (µM)\n")
    outcome = outcome_of(text, ALL, AgainstStep(model="off"), RateChecksStep(used_up=limit))
    assert check(outcome, "used_up").state is state
    assert "used_up" not in [each.id for each in outcome_of(trials(), ALL).checks]


@pytest.mark.parametrize(
    ("levels", "state"), [([1, 2, 5, 10, 20], State.PASS), ([0.01, 0.02, 0.05, 0.1, 0.2], State.LOOK)]
)
def test_a_half_that_no_level_reaches_is_looked_at(levels: list[float], state: State) -> None:
    rates = [10 * s / (4 + s) for s in levels]
    assert check(outcome_of(exact(levels, rates, "mM")), "bracketed").state is state


def test_a_model_that_does_not_settle_is_said_and_has_no_value() -> None:
    flat = text_of("Time (h)\tA", T, 1 + noise(0.01, 3))
    outcome = outcome_of(flat, CourseStep(by="whole", model="growth_gompertz", scale="linear"))
    bad = check(outcome, "settled").state is State.LOOK
    lag = outcome.answers.column("lag")
    assert bad or not lag.lowers or lag.lowers[0] is None
    assert check(grown(), "settled").state is State.PASS


def test_of_a_plate_courses_are_brief_and_one_is_looked_at_in_full() -> None:
    t = np.arange(0, 600.0, 20)
    wells = [f"{'ABCDEFGH'[r]}{c + 1}" for r in range(8) for c in range(12)]
    columns = [0.1 + 1e-4 * (k + 1) * t + noise(0.002, k, t.size) for k in range(96)]
    readings, layout, method, outcome = run(text_of("Time (s)\t" + "\t".join(wells), t, *columns))
    assert len(outcome.curves) == 96 and all(curve.brief and not curve.points for curve in outcome.curves)
    assert [(p.rows, p.columns) for p in readings.plates] == [(8, 12)]
    found = look_at_curve(readings, layout, method, "C7")
    assert found is not None and len(found[0].points) == 30 and found[0].parameters[0].name == "slope"
    assert look_at_curve(readings, layout, method, "nothing") is None
    group = layout.groups[30].id
    assert outcome.working.get(group) is None
    working = look_at_working(readings, layout, method, group)
    assert working is not None and any(line.label == "Slope" for line in working)
    assert look_at_working(readings, layout, method, "c30.parameter.slope") is not None
    assert_allclose(found[0].parameters[0].estimate, column(outcome.answers, "rate")[30], rtol=1e-9)
    lines = look_at_courses(readings, layout, method, CoursesWanted(points=12))
    assert len(lines.courses) == 96 and all(len(each.x) <= 12 for each in lines.courses)
    part = look_at_courses(readings, layout, method, CoursesWanted(points=99, key="C7", lower=100, upper=200))
    assert [each.key for each in part.courses] == ["C7"] and part.courses[0].x == (100, 120, 140, 160, 180, 200)
    whole = evaluate(readings, layout, method, whole=True)
    assert whole.answers == outcome.answers and len(whole.curves[5].points) == 30
    grown_ = run(text_of("Time (h)\t" + "\t".join(wells), t, *columns), CourseStep(by="whole", scale="linear"))
    assert all(curve.brief for curve in grown_[3].curves)


def test_growth_of_a_plate_is_what_each_well_comes_to_alone() -> None:
    rng = np.random.default_rng(3)
    t = np.arange(0, 48, 2.0)
    wells = [f"{'ABCD'[r]}{c + 1}" for r in range(4) for c in range(8)]
    columns = [np.exp(-3 + 3 / (1 + np.exp(4 * 0.3 / 3 * (8 - t) + 2)) + rng.normal(0, 0.03, t.size)) for _ in wells]
    head = "Time (h)\t" + "\t".join(wells)
    many = outcome_of(text_of(head, t, *columns), CourseStep(by="whole", scale="ln"))
    alone = outcome_of(text_of("Time (h)\tA1", t, columns[0]), CourseStep(by="whole", scale="ln"))
    assert many.curves[0].brief and not alone.curves[0].brief
    for id in ("rate", "lag", "plateau", "doubling_time"):
        one, other = many.answers.column(id).value(0), alone.answers.column(id).value(0)
        assert_allclose((one.value, one.lower, one.upper), (other.value, other.lower, other.upper), rtol=1e-4)


def test_another_question_needs_other_readings() -> None:
    readings, layout, method, _ = run(trials())
    with pytest.raises(ValueError, match="readings of another kind"):
        changed(readings, layout, method, [SetQuestion(question="relation")])


def test_a_thinned_course_keeps_its_ends_its_highest_and_its_lowest() -> None:
    rng = np.random.default_rng(7)
    x, y = np.arange(50_000.0), rng.normal(size=50_000)
    at = thinned(x, y, 1000)
    assert at.size <= 1000 and at[0] == 0 and at[-1] == 49_999
    assert {int(np.argmax(y)), int(np.argmin(y))} <= set(at.tolist())
    assert (np.diff(at) > 0).all()
    assert thinned(x[:800], y[:800], 1000).size == 800

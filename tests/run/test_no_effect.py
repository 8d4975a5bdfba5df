"""A series without effect never looks potent: flat ones, edge wells, an effect at an end of the doses alone."""

import numpy as np
import pytest

from dosis.core import fit
from dosis.core.inference.effect import effect_seen, greatest_change
from dosis.intake.understand import understand
from dosis.output.answers import answer_cells
from dosis.run.evaluate import evaluate, look_at_curve
from dosis.run.method import Method, default_method
from dosis.run.outcome.outcome import Outcome
from dosis.run.questions.dose.normalize import NormalizeStep
from dosis.run.questions.registry import question_of
from tests.outcomes import answers
from tests.run.test_doses import screened

DOSES = np.geomspace(0.03162, 100, 8)
TYPED = NormalizeStep(no_effect="typed", typed_no_effect=100, full_effect="typed", typed_full_effect=0)
SAID = ("no effect shown", "only at the highest dose", "plateau not determined")
RAW, SCALED = default_method("dose"), default_method("dose").with_step(TYPED)


def run(series: dict[str, np.ndarray], doses: np.ndarray = DOSES, method: Method = RAW) -> Outcome:
    """Responses by series, each (replicates, doses)."""
    rows = [
        f"{name}\t{dose!r}\t{value:.4f}\t{name}"
        for name, y in series.items() for one in np.atleast_2d(y)
        for dose, value in zip(doses.tolist(), one.tolist(), strict=True)
    ]  # fmt: skip
    intake = understand("\n".join(["Sample\tDose (µM)\tResponse\tSeries", *rows]))
    assert intake.readings is not None and intake.layout is not None
    return evaluate(intake.readings, question_of("dose").asked(intake.layout), method)


@pytest.mark.parametrize("method", [RAW, SCALED], ids=["raw", "normalized"])
@pytest.mark.parametrize("replicates", [1, 3])
def test_of_200_flat_and_bare_end_series_none_has_a_half_effect(method: Method, replicates: int) -> None:
    """Normal scatter of 5 %; every second series reads 12 % low in the wells of one end, as edge wells do."""
    rng = np.random.default_rng(16)
    series = {}
    for i in range(200):
        y = 100 + 5 * rng.standard_normal((replicates, DOSES.size))
        if i % 2:
            y[:, 0 if i % 4 == 1 else -1] -= 12
        series[f"Azo-{i}"] = y
    outcome = run(series, method=method)
    assert len(answers(outcome)) == 200
    for effect in answers(outcome):
        relative, absolute = effect.leading, effect.dose(50, "absolute")
        assert relative.value is None and absolute.value is None, effect.name
        assert effect.shown_slope == "not determined" and effect.minus_log.value is None
        assert effect.remarks[0].short in SAID, effect.remarks
        if effect.remarks[0].short == "no effect shown":
            assert (
                "The greatest effect seen is" in effect.remarks[0].text
                or "The greatest change" in effect.remarks[0].text
            )
    assert sum(effect.remarks[0].short == "no effect shown" for effect in answers(outcome)) > 150
    headings, rows = answer_cells(outcome.answers)
    assert headings[2].endswith("50 relative (µM)")
    assert all(row[2] is None for row in rows)


def test_a_true_effect_is_still_found_where_it_covers_the_scale() -> None:
    """Of 100 curves from 100 to 0 % with a scatter of 8 %, one reading a dose, none is called without effect."""
    rng = np.random.default_rng(5)
    series = {f"T-{i}": 100 / (1 + (DOSES / 2) ** 1.2) + 8 * rng.standard_normal(DOSES.size) for i in range(100)}
    found = [effect.leading.value for effect in answers(run(series, method=SCALED))]
    assert sum(value is None for value in found) == 0


@pytest.mark.parametrize(
    ("response", "where"),
    [
        ((100, 101, 99, 100, 101, 99, 100, 100), "nowhere"),
        ((80, 101, 99, 100, 101, 99, 100, 100), "lowest"),
        ((100, 101, 99, 100, 101, 99, 100, 40), "highest"),
        ((100, 101, 99, 100, 101, 99, 70, 40), "everywhere"),
    ],
)  # fmt: skip
def test_an_effect_must_rest_on_more_than_one_end_dose(response: tuple[float, ...], where: str) -> None:
    x, y = np.tile(DOSES, 3), np.concatenate([np.array(response) + shift for shift in (0, 0.8, -0.8)])
    assert effect_seen(fit("logistic4", x, y)).where == where


def test_half_the_scale_takes_less_evidence() -> None:
    """The same noisy readings, p 0.013: an effect where the controls stand 100 apart, none where 1000 apart."""
    noisy = fit("logistic4", DOSES, [119.1, 67.7, 88.8, 32.4, 4.5, 0.4, -0.2, -0.3])
    assert effect_seen(noisy, 100).where == "everywhere"
    assert effect_seen(noisy, 1000).where == effect_seen(noisy).where == "nowhere"


def test_the_greatest_change_has_the_interval_of_a_mean_and_its_reference() -> None:
    curve = fit("line", [1, 1, 2, 2, 4, 4], [10.0, 10.2, 10.1, 9.9, 10.4, 10.2])
    change = greatest_change(curve)
    half = curve.t(0.95) * (curve.rmse or 0)  # √(s²/2 + s²/2)
    assert (change.dose, change.estimate) == (4, pytest.approx(0.2))
    assert (change.lower, change.upper) == (pytest.approx(0.2 - half), pytest.approx(0.2 + half))


def test_only_the_highest_dose_is_a_bound_and_every_dose_another() -> None:
    shift = np.array([[0.0], [1.0], [-1.0]])
    top = answers(run({"Kelp": np.array([100, 101, 99, 100, 101, 99, 100, 30.0]) + shift}, method=SCALED))[0]
    assert top.leading.shown == "> 31.62" and top.remarks[0].short == "only at the highest dose"
    dead = answers(run({"Kelp": np.array([3, 2, 4, 3, 2, 3, 4, 3.0]) + shift}, method=SCALED))[0]
    assert dead.leading.shown == "< 0.03162" and dead.remarks[0].short == "effect at every dose"


def test_a_step_between_two_doses_has_them_as_its_interval() -> None:
    y = np.array([100, 101, 99, 100, 2, 1, 3, 2.0]) + np.array([[0.0], [1.0], [-1.0]])
    effect = answers(run({"Kelp": y}, method=SCALED))[0]
    dose = effect.leading
    assert (dose.lower, dose.upper) == (pytest.approx(DOSES[3]), pytest.approx(DOSES[4]))
    assert effect.remarks[0].short == "between two doses" and effect.shown_slope == "not determined"


def test_a_plateau_that_is_not_seen_is_no_answer() -> None:
    """A power law over the doses: the readings fix neither plateau, so there is no half of the way between them."""
    y = 100 * (DOSES / DOSES[0]) ** 0.5 + np.array([[0.0], [3.0], [-3.0]])
    outcome = run({"Kelp": y})
    effect = answers(outcome)[0]
    assert effect.leading.shown == "not determined" and effect.shown_upper == "not determined"
    assert effect.remarks[0].short == "plateau not determined"
    rows = {row.name: row.shown for row in outcome.curve.parameters}
    assert rows["upper"] == rows["midpoint"] == "not determined"
    assert "upper" in outcome.curve.with_numbers


def test_nothing_is_drawn_beyond_the_doses_of_a_curve_without_an_effect_dose() -> None:
    """Its ends are not determined: there it may run off to any height."""
    rng = np.random.default_rng(5)
    falling = 100 / (1 + (DOSES / 2) ** 1.2)
    outcome = run({"Flat": 100 + rng.standard_normal((3, 8)), "True": falling + rng.standard_normal((3, 8))})
    lines = {curve.key: curve.line.x for curve in outcome.curves}
    doses = [float(DOSES.min()), float(DOSES.max())]
    assert [lines["Flat"][0], lines["Flat"][-1]] == pytest.approx(doses, rel=1e-5)
    assert lines["True"][0] < doses[0] < doses[1] < lines["True"][-1]


def test_there_is_no_ratio_without_two_half_effect_doses() -> None:
    rng = np.random.default_rng(1)
    curve = 100 / (1 + (DOSES / 2) ** 1.2)
    y = {"TP-17": curve + rng.standard_normal((3, 8)), "Azo-2": 100 + rng.standard_normal((3, 8))}
    outcome = run(y)
    text = outcome.part.comparisons[0].text
    assert "No ratio of doses: Azo-2 has no half-effect dose." in text
    assert outcome.part.comparisons[0].ratio.value is None and "times" not in text
    assert "Azo-2: no effect shown" in outcome.verdict.headline and "EC50 <" not in outcome.verdict.headline
    alike = run({"TP-17": y["TP-17"], "TP-18": curve + rng.standard_normal((3, 8))}).part.comparisons[0]
    assert alike.ratio.value == pytest.approx(1, abs=0.1)


def test_the_demo_screen_gives_no_potency_to_what_shows_none() -> None:
    outcome = evaluate(*screened())
    found = {effect.name: effect for effect in answers(outcome)}
    for name in ("EX-04", "EX-12", "EX-20", "EX-28", "EX-36"):
        effect = found[name]
        assert effect.leading.shown == "none shown" and effect.leading.value is None
        assert effect.slope.value is None and effect.lower.value is None
        assert "greatest effect seen is" in effect.remarks[0].text and "%" in effect.remarks[0].text
    looked = look_at_curve(*screened(), "EX-28")
    assert looked is not None
    assert "10¹¹" not in looked[0].with_numbers and all("10¹¹" not in row.shown for row in looked[0].parameters)

"""Mortality runs: published counts evaluated whole, what can be said without a line, vessels, comparison, checks."""

import math

import numpy as np
import pytest
from statsmodels.stats.proportion import proportion_confint

from dosis.core.quantal import binomial_interval
from dosis.demo import brine_shrimp
from dosis.intake.understand import understand
from dosis.run.evaluate import evaluate
from dosis.run.layout import Layout
from dosis.run.method import default_method
from dosis.run.outcome.outcome import Outcome
from dosis.run.questions.mortality.compare import CompareLethalStep
from dosis.run.questions.mortality.counts import CountsStep
from dosis.run.questions.mortality.lethal import LethalStep
from dosis.run.questions.mortality.line import QuantalStep
from dosis.run.questions.registry import question_of
from dosis.run.readings import Readings
from tests.conftest import reference
from tests.outcomes import answers

METHOD = default_method("mortality")


def counts(text: str) -> tuple[Readings, Layout]:
    intake = understand(text)
    assert intake.readings is not None and intake.layout is not None
    return intake.readings, question_of("mortality").asked(intake.layout)


def table(*rows: tuple[object, ...], heading: str = "Treatment\tDose (mg/L)\tExposed\tDead") -> str:
    return "\n".join([heading, *("\t".join(map(str, row)) for row in rows)])


def published(name: str) -> tuple[Readings, Layout]:
    data = reference(name)["data"]
    doses = data.get("dose") or [10**x for x in data["log10_dose"]]
    return counts(
        table(*(("Only", repr(x), n, r) for x, r, n in zip(doses, data["affected"], data["total"], strict=True)))
    )


@pytest.mark.parametrize(
    ("name", "link"),
    [
        ("ld50_beetles_bliss", "probit"),
        ("ld50_beetles_bliss", "logit"),
        ("ld50_beetles_bliss", "cloglog"),
        ("ld50_rotenone_finney", "probit"),
        ("ld50_rotenone_finney", "logit"),
    ],
)
def test_published_ld50(name: str, link: str) -> None:
    """Bliss (1935), Ann. Appl. Biol. 22, 134: beetles and CS2; Finney (1971), Probit Analysis: rotenone."""
    expected = reference(name)["expected"][link]
    outcome = evaluate(*published(name), METHOD.with_step(QuantalStep(link=link, scatter="never")))
    parameters = {row.name: row.estimate for row in outcome.curve.parameters}
    assert parameters["slope"] == pytest.approx(expected["slope"], rel=1e-6)
    assert parameters["intercept"] == pytest.approx(expected["intercept"], rel=1e-6)
    for percent in (50, 10, 90):
        dose, ld = answers(outcome)[0].dose(percent), expected[f"LD{percent}"]
        assert dose.value == pytest.approx(ld["dose"], rel=1e-6)
        if "ci95_log_fieller" in ld:
            bounds = [math.log10(end) for end in (dose.lower or 0, dose.upper or 0)]
            assert bounds == pytest.approx(ld["ci95_log_fieller"], rel=1e-6)
    statistics = {row.name: row.shown for row in outcome.curve.statistics}
    assert statistics["Deviance"].startswith(f"{expected['deviance']:.4g}"[:4])


@pytest.mark.parametrize("trim", [0.15, 0.2])
def test_spearman_and_karber_of_rotenone(trim: float) -> None:
    """Finney (1971): rotenone; trimmed as by Hamilton, Russo & Thurston (1977), as recomputed in the reference file."""
    known = reference("spearman_karber_rotenone")["expected"][f"trim_{trim:g}"]
    effect = answers(evaluate(*published("ld50_rotenone_finney"), METHOD.with_step(LethalStep(trim=trim))))[0]
    assert effect.spearman.value is None  # the response runs neither from none nor to all
    assert effect.trimmed.value == pytest.approx(known["LD50"], rel=1e-9)
    assert [effect.trimmed.lower, effect.trimmed.upper] == pytest.approx(known["ci95_z"], rel=1e-6)
    least = answers(evaluate(*published("ld50_rotenone_finney"), METHOD))[0]
    assert least.trimmed.value == pytest.approx(known["LD50"], rel=0.02)


def rows_of(*pairs: tuple[float, int]) -> str:
    return table(*(("A", dose, 20, dead) for dose, dead in pairs))


@pytest.mark.parametrize(
    ("pairs", "shown"),
    [
        (((0, 0), (1, 0), (2, 0), (4, 20), (8, 20)), "2 to 4"),
        (((0, 0), (1, 0), (2, 0), (4, 0)), "> 4"),
        (((0, 0), (1, 20), (2, 20), (4, 20)), "< 1"),
    ],
)
def test_without_partial_kills_what_can_be_said_is_said(pairs: tuple[tuple[float, int], ...], shown: str) -> None:
    outcome = evaluate(*counts(rows_of(*pairs)), METHOD)
    effect = answers(outcome)[0]
    assert effect.leading.value is None and effect.leading.shown == shown
    assert any(remark.short == "no line" for remark in effect.remarks)
    assert outcome.verdict.state != "pass" and outcome.curve.means


def test_pooling_changes_the_degrees_of_freedom_and_not_the_dose() -> None:
    readings, layout = counts(brine_shrimp.table())
    # Abbott's correction stops at zero in each vessel, so it is not the same for vessels and for their sum.
    plain = METHOD.with_step(QuantalStep(background="none"))
    pooled = answers(evaluate(readings, layout, plain.with_step(CountsStep(pool="dose"))))[0]
    vessels = answers(evaluate(readings, layout, plain))[0]
    assert pooled.leading.value == pytest.approx(vessels.leading.value, rel=1e-6)
    assert "on 4" in pooled.fit and "on 22" in vessels.fit


def ends(outcome: Outcome) -> tuple[float | None, float | None]:
    relative = answers(outcome)[0].leading
    return relative.lower, relative.upper


def test_the_demo_finds_what_it_was_made_from_by_every_method() -> None:
    readings, layout = counts(brine_shrimp.table())
    for method in ("fieller", "delta", "profile"):
        for background in ("abbott", "estimated"):
            chosen = METHOD.with_step(LethalStep(method=method)).with_step(QuantalStep(background=background))
            low, high = ends(evaluate(readings, layout, chosen))
            assert low is not None and high is not None and low < brine_shrimp.LOTS[0][1] < high
    outcome = evaluate(readings, layout, METHOD)
    ratio = outcome.part.comparisons[0].ratio
    assert ratio.lower is not None and ratio.upper is not None and ratio.lower < 6.0 / 3.1 < ratio.upper
    assert {group.name for group in layout.groups} == {"Lot A", "Lot B"}
    assert outcome.readings[0].shown == "0/10"


def test_survivors_serve_as_well_and_nonsense_is_left_out_with_its_reason() -> None:
    dead = evaluate(*counts(rows_of((0, 0), (1, 4), (2, 9), (4, 17))), METHOD)
    alive = table(*(("A", dose, 20, 20 - r) for dose, r in ((0, 0), (1, 4), (2, 9), (4, 17))),
                  heading="Treatment\tDose (mg/L)\tExposed\tAlive")  # fmt: skip
    same = evaluate(*counts(alive), METHOD)
    assert same.answers.leads == dead.answers.leads
    bad = evaluate(*counts(rows_of((0, 0), (1, 4), (2, 9), (4, 17), (8, 25))), METHOD)
    assert "make no sense" in bad.steps[0].sentence
    assert [reading.why for reading in bad.readings if not reading.used] != []
    assert bad.answers.leads == dead.answers.leads


def test_counts_without_a_dose_are_named() -> None:
    outcome = evaluate(*counts(rows_of((0, 0), (1, 4), (2, 9), (4, 17)) + "\nPond\t\t20\t3"), METHOD)
    assert "not used" in outcome.steps[0].sentence and outcome.steps[0].state == "look"


def test_controls_that_die_fail_the_run() -> None:
    outcome = evaluate(*counts(rows_of((0, 5), (1, 6), (2, 10), (4, 18))), METHOD)
    check = next(check for check in outcome.checks if check.id == "controls")
    assert check.state == "fail" and "25 %" in check.found and outcome.verdict.state == "fail"
    none = evaluate(*counts(rows_of((1, 4), (2, 10), (4, 18))), METHOD)
    assert next(check for check in none.checks if check.id == "controls").found == "no controls"


def test_a_table_without_counts_is_told_what_is_missing() -> None:
    outcome = evaluate(*counts("Sample\tDose (mg/L)\tWeight\nA\t1\t2.0\nA\t2\t1.0"), METHOD)
    assert outcome.steps[0].state == "fail" and "exposed and affected" in outcome.steps[0].sentence
    assert outcome.verdict.state == "fail"


@pytest.mark.parametrize(("affected", "exposed"), [(0, 20), (20, 20), (7, 20), (1, 3)])
def test_binomial_interval_against_statsmodels(affected: int, exposed: int) -> None:
    known = proportion_confint(affected, exposed, alpha=0.05, method="beta")
    assert binomial_interval(affected, exposed) == pytest.approx(known, abs=1e-12)
    with pytest.raises(ValueError, match="not a share"):
        binomial_interval(exposed + 1, exposed)


def test_counts_at_several_times_give_a_lethal_dose_for_each() -> None:
    """Bliss's beetles three times over, the doses doubled and quartered, as if counted ever later."""
    data = reference("ld50_beetles_bliss")["data"]
    doses = data.get("dose") or [10**x for x in data["log10_dose"]]
    rows = [
        ("Lot A", hours, x * factor, n, r)
        for hours, factor in ((72, 0.25), (24, 1), (48, 0.5))
        for x, r, n in zip(doses, data["affected"], data["total"], strict=True)
    ]
    text = table(*rows, heading="Lot\tTime (h)\tDose (mg/L)\tExposed\tDead")
    said = understand(text).understanding
    assert said.asks == "mortality"
    assert any("each time point is a series of its own" in statement.text for statement in said.statements)
    assert not any(statement.id == "stack" for statement in said.statements)
    (course,) = evaluate(*counts(text), METHOD).part.over_time
    assert (course.name, course.unit) == ("Lot A", "h")
    assert [(point.series, point.time) for point in course.points] == [
        ("Lot A, 24 h", 24), ("Lot A, 48 h", 48), ("Lot A, 72 h", 72),
    ]  # fmt: skip
    known = reference("ld50_beetles_bliss")["expected"]["probit"]["LD50"]["dose"]
    for point, factor in zip(course.points, (1, 0.5, 0.25), strict=True):
        assert point.dose.value == pytest.approx(known * factor, rel=1e-6)
    other = text.replace("Time (h)", "Hours").replace("Lot A", "").replace("Lot\t", "Treatment\t")
    assert evaluate(*counts(other), METHOD).part.over_time[0].points[0].series == "24 h"
    assert evaluate(*published("ld50_beetles_bliss"), METHOD).part.over_time == ()


@pytest.mark.parametrize("link", ["probit", "logit", "cloglog"])
def test_on_the_scale_of_its_link_the_line_is_straight(link: str) -> None:
    """The ruler's steps are equal on that scale: the fitted curve, read off it, has one slope over log dose."""
    outcome = evaluate(*published("ld50_beetles_bliss"), METHOD.with_step(QuantalStep(link=link)))
    curve = outcome.curve
    inside = [(x, y) for x, y in zip(curve.line.x, curve.line.y, strict=True) if 2 < y < 98]
    places = np.interp([y for _, y in inside], curve.ruler, range(len(curve.ruler)))
    slopes = np.diff(places) / np.diff(np.log10([x for x, _ in inside]))
    assert slopes == pytest.approx(slopes.mean(), rel=0.01)
    assert (curve.ruler[0], curve.ruler[-1]) == pytest.approx((0.5, 99.5))


def test_a_quantal_potency_in_units_of_the_reference() -> None:
    """Venables & Ripley (2002), MASS, 7.2: tobacco budworms, logit lines; males beside females at 100 U."""
    case = reference("ld50_budworm_sexes")
    data, want = case["data"], case["expected"]["parallel_logit_log2_dose"]
    rows = ["Series\tDose (µg)\tExposed\tDead"]
    rows += [f"{s}\t{d}\t{n}\t{r}" for s, d, n, r in
             zip(data["sex"], data["dose"], data["total"], data["affected"], strict=True)]  # fmt: skip
    method = METHOD.with_step(QuantalStep(link="logit", scatter="never", background="none"))
    method = method.with_step(CompareLethalStep(reference="F", declared=100, unit="U"))
    outcome = evaluate(*counts("\n".join(rows)), method)
    found = next(line for line in outcome.working["compare.0"] if line.label == "In units")
    assert found.value == pytest.approx(100 * math.exp(want["log_potency"] * math.log(2)), rel=1e-6)
    assert "Its potency is **" in outcome.part.comparisons[0].text and " U**" in outcome.part.comparisons[0].text

"""Counts: controls of two kinds, the same animals at several times, LC or LD, and intervals of a poor fit."""

import pytest

from dosis.run.evaluate import evaluate
from dosis.run.laying_out import AssignWells
from dosis.run.questions.dose.effects import EffectsStep
from dosis.run.questions.mortality.lethal import LethalStep, lethal_symbol
from dosis.run.roles import Role
from tests.outcomes import answers
from tests.run.test_doses import METHOD as DOSES
from tests.run.test_doses import assay
from tests.run.test_mortality import METHOD, counts, rows_of, table

KILLED = ((1, 2), (2, 8), (4, 15), (8, 19))


def check(outcome, id: str):
    return next((check for check in outcome.checks if check.id == id), None)


@pytest.mark.parametrize(("solvent", "state"), [(3, "pass"), (7, "look")])
def test_control_is_tested_against_solvent_control(solvent: int, state: str) -> None:
    """Fisher's exact test by hand tables: 1 of 20 against 3 of 20 is p 0.61, against 7 of 20 p 0.044."""
    rows = [("Control", 0, 20, 1), ("Solvent control", 0, 20, solvent), *(("TP-17", x, 20, r) for x, r in KILLED)]
    readings, layout = counts(table(*rows, heading="Sample\tDose (mg/L)\tExposed\tDead"))
    assert {g.role for g in layout.groups if g.level == 0} == {Role.VEHICLE}
    found = check(evaluate(readings, layout, METHOD), "solvent")
    assert found.state == state and ("p 0.6" if state == "pass" else "p 0.044") in found.found
    assert check(evaluate(*counts(rows_of((0, 1), *KILLED)), METHOD), "solvent") is None


def test_the_same_animals_later_are_not_compared_and_treatments_are_at_each_time() -> None:
    heading = "Lot\tTime (h)\tDose (mg/L)\tExposed\tDead"
    one = [("Lot A", t, x, 20, min(20, r + (t > 24))) for t in (24, 48) for x, r in ((0, 0), *KILLED)]
    alone = evaluate(*counts(table(*one, heading=heading)), METHOD)
    assert alone.part.comparisons == ()
    assert "same animals" in next(step.sentence for step in alone.steps if step.kind == "compare_lethal")
    two = [*one, *(("Lot B", t, x, 20, max(0, r - 2)) for t in (24, 48) for x, r in ((0, 0), *KILLED))]
    both = evaluate(*counts(table(*two, heading=heading)), METHOD)
    assert [(each.reference, each.name) for each in both.part.comparisons] == [
        ("Lot A, 24 h", "Lot B, 24 h"), ("Lot A, 48 h", "Lot B, 48 h"),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("unit", "symbol"),
    [
        ("mg/L", "LC"), ("mg/mL", "LC"), ("µg/mL", "LC"), ("µg/100 mL", "LC"), ("mg L⁻¹", "LC"), ("mg/m³", "LC"),
        ("ppm", "LC"), ("ppb", "LC"), ("%", "LC"), ("% (v/v)", "LC"), ("M", "LC"), ("µM", "LC"), ("mol/L", "LC"),
        ("mg/kg", "LD"), ("µg/g", "LD"), ("µg/animal", "LD"), ("mg", "LD"), ("", "LD"), ("mmol/kg", "LD"), ("m", "LD"),
    ],
)  # fmt: skip
def test_a_concentration_is_lc_and_a_dose_ld(unit: str, symbol: str) -> None:
    assert lethal_symbol(unit) == symbol


def test_lc_or_ld_can_be_chosen() -> None:
    outcome = evaluate(*counts(rows_of((0, 0), *KILLED)), METHOD.with_step(LethalStep(symbol="LD")))
    assert answers(outcome)[0].symbol == "LD" and "LD50" in outcome.verdict.headline
    assert answers(evaluate(*counts(rows_of((0, 0), *KILLED)), METHOD))[0].symbol == "LC"


def test_the_slope_of_a_poor_fit_has_the_interval_its_dose_has() -> None:
    """Counts that scatter: t with the heterogeneity factor (Finney 1971) for slope, band and dose alike."""
    poor = evaluate(*counts(rows_of((0, 0), (1, 8), (2, 2), (4, 16), (8, 12), (16, 20))), METHOD)
    slope = next(row for row in poor.curve.parameters if row.name == "slope")
    lines = {line.label: line for line in poor.working["parameter.slope"]}
    assert "variance factor" in lines["95 % interval"].text and "1.96" not in lines["95 % interval"].text
    half = (slope.upper - slope.lower) / 2
    factor = float(next(row.shown for row in poor.curve.statistics if row.name == "Variance factor"))
    assert half / slope.standard_error == pytest.approx(3.182446 * factor**0.5, rel=5e-3)  # t of 3 degrees of freedom
    good = evaluate(*counts(rows_of((0, 0), *KILLED)), METHOD)
    assert "1.96" in {line.label: line for line in good.working["parameter.slope"]}["95 % interval"].text


def test_a_well_without_dose_can_be_a_control() -> None:
    """The role of a control, as it is given on a plate, is dose zero."""
    readings, layout = counts(rows_of((0, 1), *KILLED))
    first = next(group for group in layout.groups if group.level == 0)
    layout = AssignWells(readings=first.readings, role=Role.VEHICLE).apply(readings, layout, METHOD)[0]
    outcome = evaluate(readings, layout, METHOD)
    assert check(outcome, "controls").found.startswith("A 1 of 20")


def test_a_leading_effect_of_a_tenth_is_named_as_one() -> None:
    readings, layout = assay("fpl_ryegrass")
    outcome = evaluate(readings, layout, DOSES.with_step(EffectsStep(levels=(10, 50))))
    assert "IC10" in outcome.verdict.headline and "IC50" not in outcome.verdict.headline
    assert check(outcome, "bracketed").title == "10 % effect within the doses"
    assert [line.text for line in outcome.working["check.bracketed"]] == ["IC10"]
    assert outcome.curve.marks[0].text.startswith("IC10")

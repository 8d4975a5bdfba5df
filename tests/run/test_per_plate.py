"""Several plates in one run: each is judged and scaled by the controls and blanks that stand on it."""

import numpy as np
import pytest

from dosis.intake.understand import understand
from dosis.run.evaluate import evaluate
from dosis.run.laying_out import AssignWells
from dosis.run.layout import Layout
from dosis.run.method import Method, default_method
from dosis.run.outcome.outcome import Outcome
from dosis.run.questions.dose.normalize import NormalizeStep
from dosis.run.readings import Readings
from dosis.run.roles import Role
from dosis.run.steps.blank import BlankStep
from tests.outcomes import answers

DOSES = np.geomspace(0.1, 100, 8)
GAIN = (1.0, 2.5)  # the second plate was read with another gain


def plates(controls: tuple[int, ...] = (0, 1), blanks: tuple[int, ...] = (0, 1)) -> tuple[Readings, Layout, Method]:
    """96 wells twice: vehicle in column 1, full effect in 2, blanks in 3, doses down columns 4 to 12."""
    rng = np.random.default_rng(4)
    blocks = []
    for gain in GAIN:
        wells = np.empty((8, 12))
        wells[:, 0], wells[:, 1], wells[:, 2] = 1000, 100, 0
        wells[:, 3:] = (100 + 900 / (1 + DOSES / 3))[:, None]
        wells = 40 + gain * 20 + gain * wells + 12 * gain * rng.standard_normal(wells.shape)
        blocks.append("\n".join("\t".join(f"{y:.1f}" for y in row) for row in wells))
    intake = understand("\n\n".join(f"Plate {i}\n{block}" for i, block in enumerate(blocks, start=1)))
    assert intake.readings is not None and intake.layout is not None and len(intake.readings.plates) == 2
    readings, layout, method = intake.readings, intake.layout, default_method("dose")
    for plate in (0, 1):
        column = {c: tuple(96 * plate + 12 * r + c + 1 for r in range(8)) for c in range(12)}
        changes = [AssignWells(readings=column[0], role=Role.VEHICLE), AssignWells(readings=column[1], role=Role.FULL)]
        changes = changes if plate in controls else []
        changes += [AssignWells(readings=column[2], role=Role.BLANK)] if plate in blanks else []
        changes += [
            AssignWells(
                readings=tuple(column[c][r] for c in range(3, 12)), role=Role.DOSE, name=f"P{plate}",
                level=f"{x:.6g} µM", series=f"P{plate}",
            )
            for r, x in enumerate(DOSES)
        ]  # fmt: skip
        for change in changes:
            layout, method = change.apply(readings, layout, method)
    return readings, layout, method


def step(outcome: Outcome, kind: str) -> str:
    return next(step.sentence for step in outcome.steps if step.kind == kind)


def z_prime(outcome: Outcome) -> str:
    return next(check.found for check in outcome.checks if check.id == "z_prime")


def test_each_plate_is_normalized_by_its_own_controls() -> None:
    readings, layout, method = plates()
    outcome = evaluate(readings, layout, method)
    pooled = evaluate(readings, layout, method.with_step(NormalizeStep(per="run")))
    assert "on each plate" in step(outcome, "normalize") and "each plate" not in step(pooled, "normalize")
    for effect in answers(outcome):
        dose = effect.dose(50, "absolute")
        assert dose.lower is not None and dose.upper is not None
        assert dose.lower < 3 < dose.upper and dose.upper / dose.lower < 1.3
    wells = {reading.id: reading.corrected for reading in outcome.readings}
    for plate in (0, 1):
        own = [wells[96 * plate + 12 * r + 1] or 0 for r in range(8)]
        assert np.mean(own) == pytest.approx(100)
    assert z_prime(outcome).startswith("Plate ") and "(the worst of 2 plates)" in z_prime(outcome)
    worst = float(z_prime(outcome).split("Z′ ")[1].split()[0])
    assert worst > 0.8


def test_controls_on_one_plate_serve_the_run() -> None:
    outcome = evaluate(*plates(controls=(0,)))
    assert "on each plate" not in step(outcome, "normalize")
    assert z_prime(outcome).startswith("Z′")


def test_blanks_are_taken_off_plate_by_plate_where_each_has_some() -> None:
    readings, layout, method = plates()
    own = evaluate(readings, layout, method.with_step(NormalizeStep(on=False)))
    assert "blanks of each plate" in step(own, "blank")
    run = evaluate(readings, layout, method.with_step(NormalizeStep(on=False)).with_step(BlankStep(scope="run")))
    assert "subtracted from every reading" in step(run, "blank")
    means = [
        np.mean([r.corrected for r in own.readings if (r.id - 1) % 12 == 2 and (r.id > 96) is late])
        for late in (False, True)
    ]
    assert means == pytest.approx([0, 0], abs=1e-9)
    some = evaluate(*plates(blanks=(0,)))
    assert "blanks of each plate" not in step(some, "blank")


def test_a_raw_response_stands_for_an_effect_only_where_one_scale_does() -> None:
    """Of a series on one plate the raw response at half effect is that plate's; over two plates there is none."""
    readings, layout, method = plates()
    raw = method.with_step(method.step("dose_curve").model_copy(update={"of": "raw"}))
    outcome = evaluate(readings, layout, raw)
    assert [effect.dose(50, "absolute").value for effect in answers(outcome)] == [pytest.approx(3, rel=0.1)] * 2
    one = tuple(
        group.model_copy(update={"series": "both"}) if group.role is Role.DOSE else group for group in layout.groups
    )
    both = evaluate(readings, layout.model_copy(update={"groups": one}), raw)
    assert answers(both)[0].dose(50, "absolute").shown == "—"

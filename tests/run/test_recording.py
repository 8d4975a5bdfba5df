"""What a signal means: calibrations of recordings, what stretches come to, events, and every check on both sides."""

from functools import partial

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy.signal import lfilter

from dosis.core import traces
from dosis.core.arrays import Array
from dosis.core.events import crossings, peak_times
from dosis.demo import tide
from dosis.intake.understand import understand
from dosis.run.changing import changed
from dosis.run.evaluate import evaluate
from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.opening import opened
from dosis.run.outcome.outcome import Outcome
from dosis.run.questions.recording.calibrate import CalibrateStep, ChannelCalibration, KnownStretch
from dosis.run.questions.recording.checks import RecordingChecksStep
from dosis.run.questions.recording.events import EventsStep
from dosis.run.questions.recording.stretches import NamedStretch, StretchesStep
from dosis.run.questions.registry import question_of
from dosis.run.readings import Readings
from dosis.run.steps.step import Step, with_step

T = np.arange(0, 60, 0.05)


def steps_of(values: list[float], noise: float = 0.0, slope: float = 0.0) -> Array:
    """A voltage of 0.5 V at 0 and 0.02 V for each unit, held for ten seconds at each value in turn."""
    truth = np.select([10 * (i + 1) > T for i in range(len(values))], values, values[-1])
    rng = np.random.default_rng(9)
    return 0.5 + 0.02 * truth + slope * (T % 10) + noise * rng.standard_normal(T.size)


def run(signal: Array, *steps: Step, comments: dict[int, str] | None = None) -> tuple[Readings, Layout, Method]:
    notes = comments or {}
    rows = "\n".join(f"{t:.2f}\t{v:.6f}\t{notes.get(i, '')}" for i, (t, v) in enumerate(zip(T, signal, strict=True)))
    intake = understand(f"Time (s)\tProbe (V)\tComment\n{rows}")
    assert intake.understanding.question == "recording"
    assert intake.readings is not None and intake.layout is not None
    layout, method = opened(intake.readings, intake.layout, "recording")
    for step in steps:
        method = method.model_copy(update={"steps": with_step(method.steps, step)})
    return intake.readings, layout, method


def outcome(signal: Array, *steps: Step) -> Outcome:
    return evaluate(*run(signal, *steps))


def stretches(*names: str, start: float = 2.0, stop: float = 9.0) -> StretchesStep:
    return StretchesStep(stretches=tuple(
        NamedStretch(name=name, start=10 * i + start, stop=10 * i + stop) for i, name in enumerate(names)
    ))  # fmt: skip


def by(**known: float) -> CalibrateStep:
    points = tuple(KnownStretch(stretch=name, value=value) for name, value in known.items())
    return CalibrateStep(channels={"Probe": ChannelCalibration(known=points, unit="NTU")})


def means(found: Outcome) -> dict[str, float]:
    column = found.answers.column("mean")
    return {row.name: float(value or 0.0) for row, value in zip(found.answers.rows, column.values, strict=True)}


def check(found: Outcome, id: str) -> str:
    return next(each.state.value for each in found.checks if each.id == id)


def test_two_known_stretches_calibrate_a_channel_exactly() -> None:
    found = outcome(steps_of([0, 100, 60]), stretches("a", "b", "c"), by(a=0, b=100))
    assert_allclose(list(means(found).values()), [0, 100, 60], atol=1e-4)
    assert found.answers.column("unit").texts == ("NTU",) * 3
    proof = found.further[0]
    assert proof.title == "Proof of the calibration"
    assert_allclose(proof.column("off").values, [0, 0], atol=1e-9)


def test_one_stretch_and_a_sensitivity_do_as_well() -> None:
    own = ChannelCalibration(known=(KnownStretch(stretch="a", value=0),), sensitivity=0.02, unit="NTU")
    found = outcome(steps_of([0, 100, 60]), stretches("a", "b", "c"), CalibrateStep(channels={"Probe": own}))
    assert_allclose(list(means(found).values()), [0, 100, 60], atol=1e-4)
    lost = outcome(steps_of([0, 100]), stretches("a"), by(a=0))
    assert "only with a sensitivity" in next(s.sentence for s in lost.steps if s.kind == "calibrate")


def test_a_parabola_goes_through_three_stretches() -> None:
    signal = np.sqrt(steps_of([0, 100, 60, 30]) - 0.4)
    points = tuple(KnownStretch(stretch=n, value=v) for n, v in (("a", 0), ("b", 100), ("c", 60)))
    own = ChannelCalibration(known=points, order=2, unit="NTU")
    found = outcome(signal, stretches("a", "b", "c", "d"), CalibrateStep(channels={"Probe": own}))
    assert_allclose(means(found)["d"], 30, atol=1e-3)  # signal² is a parabola


def test_drift_is_shared_out_between_the_calibrations() -> None:
    drifting = steps_of([0, 100, 50, 50, 0, 100]) + np.where(T < 20, 0, np.where(T > 40, 0.2, 0.2 * (T - 20) / 20))
    points = {"known": (KnownStretch(stretch="a", value=0), KnownStretch(stretch="b", value=100)),
              "after": (KnownStretch(stretch="e", value=0), KnownStretch(stretch="f", value=100))}  # fmt: skip
    own = ChannelCalibration(**points, unit="NTU")  # type: ignore[arg-type]
    found = outcome(drifting, stretches("a", "b", "c", "d", "e", "f", start=0.0, stop=10.0),
                    CalibrateStep(channels={"Probe": own}))  # fmt: skip
    assert_allclose(list(means(found).values()), [0, 100, 50, 50, 0, 100], atol=0.2)
    assert "drifting by up to 10 NTU" in next(s.sentence for s in found.steps if s.kind == "calibrate")


def test_the_recording_as_it_was_is_one_switch_away() -> None:
    switched = by(a=0, b=100).model_copy(update={"applied": False})
    found = outcome(steps_of([0, 100, 60]), stretches("a", "b", "c"), switched)
    assert_allclose(list(means(found).values()), [0.5, 2.5, 1.7], atol=1e-6)
    assert found.answers.column("unit").texts == ("V",) * 3


def test_intervals_of_means_hold_the_truth_though_samples_are_alike() -> None:
    """Noise that is like its neighbors, AR(1) with 0.9: t·SD/√n would hold the truth in a third."""
    rng, inside, plain = np.random.default_rng(4), 0, 0
    for _ in range(400):
        noise = lfilter([1.0], [1.0, -0.9], rng.standard_normal(1200))
        found = traces.steady(np.arange(1200.0), noise)
        assert found.error is not None
        inside += abs(found.mean) <= 2.093 * found.error  # t of 19 degrees of freedom, from a table
        plain += abs(found.mean) <= 1.96 * found.sd / np.sqrt(found.n)
    assert plain / 400 < 0.5 and 0.88 <= inside / 400 <= 0.98


def test_the_error_of_the_known_stretches_goes_into_values() -> None:
    """Of a line through two points the textbook: v = (s − s₁)/(s₂ − s₁), moved by each of both (GUM, 5.1.2)."""
    at = np.array([0.0, 0.25, 1.0, 2.0])
    found = traces.calibration_error([0.0, 1.0], [0.01, 0.02], [0.0, 1.0], 1, at)
    assert_allclose(found, np.hypot(0.01 * (1 - at), 0.02 * at), rtol=0.03)


def test_stretches_go_from_mark_to_mark() -> None:
    found = evaluate(
        *run(steps_of([0, 100, 60]), StretchesStep(marked=True), comments={0: "air", 200: "water", 400: "air"})
    )
    assert [row.name for row in found.answers.rows] == ["air", "water", "air 2"]
    assert found.part.marks[1].x == 10.0
    assert_allclose(list(means(found).values()), [0.5, 2.5, 1.7], atol=1e-6)


def test_names_of_stretches_and_their_ends_are_held_against_each_other() -> None:
    with pytest.raises(ValueError, match="ends before it begins"):
        NamedStretch(name="a", start=2, stop=2)
    with pytest.raises(ValueError, match="Two stretches are called “a”"):
        stretches("a", "a")


def test_events_are_counted_once_each() -> None:
    wave = np.sin(2 * np.pi * T / 5) + 0.05 * np.random.default_rng(1).standard_normal(T.size)
    for step, count in ((EventsStep(find="peaks", prominence=1.0), 12), (EventsStep(find="rises", level=0.5), 12),
                        (EventsStep(find="falls", level=0.5), 12)):  # fmt: skip
        found = outcome(wave, stretches("a", start=0.0, stop=10.0), step)
        assert f"**{count} " in next(s.sentence for s in found.steps if s.kind == "events"), step
        assert found.answers.column("events").values == (2,)
    assert crossings([0, 1, 2, 3, 4], [0, 2, 0, 2, 2], 1.0).tolist() == [0.5, 2.5]
    # Back over the level, but not by 1: no second crossing.
    assert crossings([0, 1, 2, 3], [0, 2, 0.5, 2], 1.0, back=0.6).tolist() == [0.5]
    assert peak_times(T, np.sin(2 * np.pi * T / 5), 2.1).size == 0


@pytest.mark.parametrize(
    ("id", "signal", "step", "state"),
    [
        ("steady", steps_of([0, 100], noise=1e-4, slope=0.0055), {}, "pass"),
        ("steady", steps_of([0, 100], noise=1e-4, slope=0.0060), {}, "look"),
        ("long", steps_of([0, 100]), {"least": 140}, "pass"),
        ("long", steps_of([0, 100]), {"least": 141}, "look"),
        ("beyond", steps_of([0, 100, 109.9]), {}, "pass"),
        ("beyond", steps_of([0, 100, 110.1]), {}, "look"),
        ("beyond", steps_of([0, 100, -10.1]), {}, "look"),
    ],
)
def test_every_check_on_both_sides_of_its_threshold(id: str, signal: Array, step: dict[str, float], state: str) -> None:
    found = outcome(signal, stretches("a", "b", "c"), by(a=0, b=100), RecordingChecksStep(**step))
    assert check(found, id) == state


@pytest.mark.parametrize(("third", "state"), [(52.9, "pass"), (53.2, "look")])
def test_a_third_known_stretch_proves_the_line(third: float, state: str) -> None:
    """The middle one of three misses their line by two thirds of what it is off: 2 % of 100 is reached at 3."""
    assert check(outcome(steps_of([0, 100, 50]), stretches("a", "b", "c"), by(a=0, b=100, c=third)), "proof") == state


def test_a_kept_calibration_is_applied_and_says_what_does_not_fit() -> None:
    first = run(steps_of([0, 100]), stretches("a", "b"), by(a=0, b=100))
    kept = question_of("recording").calibration(first[0], first[1], first[2].steps)
    assert len(kept) == 1 and kept[0].curve.signal == "V" and kept[0].unit == "NTU"
    assert_allclose(kept[0].curve.coefficients, [-25, 50], rtol=1e-5)
    own = ChannelCalibration(unit="NTU", kept=kept[0].curve)
    for values, look in (([60.0, 80.0], False), ([60.0, 111.0], True)):
        found = outcome(steps_of(values), stretches("x", "y"), CalibrateStep(channels={"Probe": own}))
        assert_allclose(list(means(found).values()), values, atol=1e-3)
        said = next(s for s in found.steps if s.kind == "calibrate")
        assert ("may not fit" in said.sentence) is look and (said.state.value == "look") is look


def test_the_calibrated_recording_is_written_whole_or_thinned(monkeypatch: pytest.MonkeyPatch) -> None:
    readings, layout, method = run(steps_of([0, 100]), stretches("a", "b"), by(a=0, b=100), comments={200: "on, then"})
    written = partial(question_of("recording").written, readings, layout, method.steps)
    text = written(1, 0)
    lines = text.strip().split("\r\n")
    assert lines[0] == "Time (s),Probe (NTU),Mark" and len(lines) == T.size + 1
    assert lines[201] == '10,100.000,"on, then"'
    thin = written(150, 0).strip().split("\r\n")
    assert len(thin) == 9 and thin[2].endswith('"on, then"')
    monkeypatch.setattr("dosis.run.questions.recording.question.LINES", 100)
    parts = [written(1, part) for part in range(13)]
    assert "".join(parts) == text and parts[-1] == "" and all(parts[:-1])


def test_the_demo_is_calibrated_with_its_drift() -> None:
    intake = understand(tide.tide())
    assert intake.readings is not None and intake.layout is not None
    layout, method, _ = changed(
        intake.readings, *opened(intake.readings, intake.layout, "recording"), tide.tide_changes()
    )
    found = evaluate(intake.readings, layout, method)
    assert all(each.state.value == "pass" for each in found.checks)
    column = found.answers.column("mean")
    of = {row.name: (value, low, high) for row, value, low, high in zip(
        found.answers.rows, column.values, column.lowers, column.uppers, strict=True)}  # fmt: skip
    assert_allclose(of["40 NTU, Turbidity"][0], 40, atol=0.15)
    assert_allclose(of["100 NTU again, Turbidity"][0], 100, atol=0.05)

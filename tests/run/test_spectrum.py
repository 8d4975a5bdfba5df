"""What scans show: against what is known by construction, and every check on both sides of its threshold."""

import numpy as np
import pytest
from numpy.testing import assert_allclose

from dosis.core.arrays import Array
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.curves.ends import Range
from dosis.run.evaluate import evaluate
from dosis.run.layout import Exclusion, Layout
from dosis.run.method import Method
from dosis.run.opening import opened
from dosis.run.outcome.outcome import Outcome
from dosis.run.questions.registry import question_of
from dosis.run.questions.spectrum.at import AtStep, Ratio
from dosis.run.questions.spectrum.change import ChangeStep
from dosis.run.questions.spectrum.checks import ScanChecksStep
from dosis.run.questions.spectrum.combine import CombineStep
from dosis.run.questions.spectrum.correct import CorrectStep
from dosis.run.questions.spectrum.mixture import MixtureStep
from dosis.run.questions.spectrum.peaks import PeaksStep
from dosis.run.questions.spectrum.signal import ScanSignalStep
from dosis.run.questions.spectrum.smooth import SmoothStep
from dosis.run.readings import Readings
from dosis.run.steps.step import Step, with_step

NM = np.arange(400.0, 801.0)


def band(at: float, height: float, width: float = 25.0) -> Array:
    return height * np.exp(-(((NM - at) / width) ** 2) / 2)


def table(
    scans: dict[str, Array], above: str = "Absorbance (AU)", heading: str = "Wavelength (nm)", x: Array = NM
) -> str:
    rows = ["\t".join([f"{at:g}", *(f"{scan[i]:.6f}" for scan in scans.values())]) for i, at in enumerate(x)]
    return "\n".join([above, "\t".join([heading, *scans]), *rows])


def run(text: str, *steps: Step, question: str = "spectrum") -> tuple[Readings, Layout, Method]:
    intake = understand(text, Choices(question=question))
    assert intake.readings is not None and intake.layout is not None
    layout, method = opened(intake.readings, intake.layout, question)
    for step in steps:
        method = method.model_copy(update={"steps": with_step(method.steps, step)})
    return intake.readings, layout, method


def outcome(text: str, *steps: Step) -> Outcome:
    return evaluate(*run(text, *steps))


def values(found: Outcome, id: str) -> list[float | None]:
    return list(found.answers.column(id).values)


def check(found: Outcome, id: str) -> str:
    return next(each.state.value for each in found.checks if each.id == id)


def test_highest_points_peaks_and_values_of_known_bands() -> None:
    scans = {"one": band(565, 1.0), "two": band(520.4, 0.5, 20) + band(650, 0.25, 20)}
    steps = (AtStep(places=(500.0, 565.5), areas=(Range(lower=450, upper=700),), ratios=(Ratio(over=565, under=520),)),)
    found = outcome(table(scans), *steps)
    assert_allclose(values(found, "highest"), [565, 520.4], atol=0.02)
    assert_allclose(values(found, "height"), [1.0, 0.5], rtol=1e-3)
    assert_allclose(values(found, "at_0"), [scans["one"][100], scans["two"][100]], atol=1e-5)
    assert_allclose(values(found, "at_1"), [(s[165] + s[166]) / 2 for s in scans.values()], atol=1e-5)
    assert_allclose(values(found, "area_0")[0], 25 * np.sqrt(2 * np.pi), rtol=1e-4)
    assert_allclose(values(found, "ratio_0"), [s[165] / s[120] for s in scans.values()], rtol=1e-3)
    peaks = next(each for each in found.further if each.title == "Peaks")
    assert [row.name for row in peaks.rows] == ["one", "two", "two"]
    assert_allclose(peaks.column("peak_at").values, [565, 520.4, 650], atol=0.1)
    assert_allclose(peaks.column("width").values[0], 2.3548 * 25, rtol=1e-3)


def test_a_window_says_where_peaks_are_looked_for_and_a_place_picks_one() -> None:
    scan = {"one": band(470, 1.0, 15) + band(620, 0.4, 15) + band(720, 0.01, 15)}
    found = outcome(table(scan), PeaksStep(window=Range(lower=550, upper=700), picked=(722.0,)))
    assert_allclose(values(found, "highest"), [620], atol=0.05)
    assert_allclose(values(found, "picked_0"), [720], atol=0.1)  # however small it is
    assert len(next(each for each in found.further if each.title == "Peaks").rows) == 1


def test_transmittance_becomes_absorbance_and_back() -> None:
    percent = {"one": 100 * 10 ** -band(565, 1.0)}
    found = outcome(table(percent, above="Transmittance (%)"))
    assert_allclose((values(found, "highest")[0], values(found, "height")[0]), (565, 1.0), rtol=1e-3)
    share = outcome(table({"one": percent["one"] / 100}, above="Transmittance"))
    assert_allclose(values(share, "height"), [1.0], rtol=1e-3)
    back = outcome(table({"one": band(565, 1.0)}), ScanSignalStep(convert="transmittance"), AtStep(places=(565.0,)))
    assert_allclose(values(back, "at_0"), [10.0], rtol=1e-4)


def test_wavelengths_and_wavenumbers_turn_into_each_other() -> None:
    found = outcome(table({"one": band(500, 1.0)}), ScanSignalStep(axis="1/cm"))
    assert_allclose(values(found, "highest"), [20_000], rtol=1e-3)
    assert found.part.x_label == "Wavenumber / 1/cm"
    cm = np.linspace(10_000, 25_000, 301)
    there = outcome(
        table({"one": np.exp(-(((cm - 16_000) / 600) ** 2))}, heading="Wavenumber (cm-1)", x=cm),
        ScanSignalStep(axis="nm"),
    )
    assert_allclose(values(there, "highest"), [625], rtol=2e-3)


def test_blank_baseline_and_scatter_come_off() -> None:
    under = 0.05 + 2e-4 * (NM - 400)
    scans = {"Blank": np.full(NM.size, 0.03), "one": band(565, 1.0, 15) + under + 0.03}
    flat = outcome(
        table(scans),
        CorrectStep(baseline="line", windows=(Range(lower=400, upper=480), Range(lower=660, upper=800))),
        AtStep(places=(565.0, 700.0)),
    )
    assert_allclose([values(flat, "at_0")[0], values(flat, "at_1")[0]], [1.0, 0.0], atol=1e-5)
    kept = outcome(table(scans), CorrectStep(blank=False), AtStep(places=(700.0,)))
    assert_allclose(values(kept, "at_0"), [under[300] + 0.03], atol=1e-5)
    muddy = {"one": band(450, 0.5, 12) + 2e9 * NM**-3.8}
    clean = outcome(table(muddy), CorrectStep(scatter=Range(lower=600, upper=800)), AtStep(places=(450.0, 700.0)))
    assert_allclose([values(clean, "at_0")[0], values(clean, "at_1")[0]], [0.5, 0.0], atol=1e-4)
    lost = outcome(table({"one": band(565, 1.0)}), CorrectStep(baseline="line"))
    assert "Say where nothing absorbs" in next(step.sentence for step in lost.steps if step.kind == "correct")


def test_derivatives_are_read_off_in_their_own_unit() -> None:
    found = outcome(table({"one": band(565, 1.0)}), SmoothStep(derivative=1, points=5), AtStep(places=(540.0,)))
    assert_allclose(values(found, "at_0"), [np.exp(-0.5) / 25], rtol=5e-3)  # steepest one width before the top
    assert found.part.y_label == "First derivative of Absorbance / AU/nm"


def test_smoothing_says_by_how_much_noise_falls() -> None:
    noise = 0.01 * np.random.default_rng(2).standard_normal(NM.size)
    said = next(s.sentence for s in outcome(table({"one": band(565, 1) + noise}), SmoothStep(points=15)).steps
                if s.kind == "smooth")  # fmt: skip
    assert "Noise falls from 0.01" in said


def test_scans_are_held_against_one_and_brought_to_one_height() -> None:
    scans = {"ref": band(565, 0.4), "one": band(565, 1.0), "two": band(500, 2.0)}
    less = outcome(table(scans), CombineStep(against="ref"), AtStep(places=(565.0,)))
    assert [row.name for row in less.answers.rows] == ["one", "two"]
    assert_allclose(values(less, "at_0")[0], 0.6, atol=1e-5)
    for how, expected in (("peak", 1.0), ("area", 1 / (25 * np.sqrt(2 * np.pi)))):
        same = outcome(table(scans), CombineStep(normalize=how))  # type: ignore[arg-type]
        assert_allclose(values(same, "height"), [expected] * 3, rtol=2e-3)
    at = outcome(table(scans), CombineStep(normalize="at", at=530, to=2.0), AtStep(places=(530.0,)))
    assert_allclose(values(at, "at_0"), [2.0] * 3, rtol=1e-6)


def test_replicates_are_averaged_and_make_an_interval() -> None:
    """value ± t(2)·SD/√3 by hand, t from a table (common practice, no source)."""
    heights = [0.98, 1.0, 1.03]
    scans = {f"one rep {i}": band(565, h) for i, h in enumerate(heights, 1)}
    found = outcome(table(scans), AtStep(places=(565.0,)))
    column = found.answers.column("at_0")
    assert len(found.answers.rows) == 1
    half = 4.3027 * np.std(heights, ddof=1) / np.sqrt(3)
    assert_allclose([column.values[0], column.lowers[0], column.uppers[0]],
                    [np.mean(heights), np.mean(heights) - half, np.mean(heights) + half], rtol=1e-4)  # fmt: skip
    apart = outcome(table(scans), CombineStep(replicates="each"))
    assert len(apart.answers.rows) == 3


def fading(share: Array | list[float], noise: float = 0.0, seed: int = 1) -> str:
    rng = np.random.default_rng(seed)
    return table({f"{10 * i} min": s * band(565, 1.0) + noise * rng.standard_normal(NM.size)
                  for i, s in enumerate(share)})  # fmt: skip


TIMES = 10.0 * np.arange(7)


@pytest.mark.parametrize(
    ("share", "order", "rate", "half"),
    [
        (np.exp(-0.03 * TIMES), "First order, to zero", 0.03, np.log(2) / 0.03),
        (0.3 + 0.7 * np.exp(-0.05 * TIMES), "First order, to a plateau", 0.05, np.log(2) / 0.05),
        (1 - 0.01 * TIMES, "Zero order", 0.01, 50.0),
    ],
)
def test_the_order_of_a_change_its_rate_and_half_life(share: Array, order: str, rate: float, half: float) -> None:
    found = outcome(fading(share, noise=0.002))
    change = next(each for each in found.further if each.title == "Change")
    assert change.column("order").texts == (order,)
    assert_allclose(change.column("rate").values[0], rate, rtol=0.03)
    assert_allclose(change.column("half_life").values[0], half, rtol=0.03)
    low, high = change.column("half_life").lowers[0], change.column("half_life").uppers[0]
    assert low is not None and high is not None and low < half * 1.02 and high > half * 0.98
    assert_allclose(values(found, "left"), 100 * share, atol=0.6)


def test_intervals_of_half_lives_hold_the_true_one() -> None:
    """First order to zero, and zero order, each simulated 150 times: 95 % intervals, so 90 to 99 % of them."""
    for order, share, half in (("first", np.exp(-0.03 * TIMES), np.log(2) / 0.03), ("zero", 1 - 0.01 * TIMES, 50.0)):
        inside = 0
        for seed in range(150):
            y = share + 0.01 * np.random.default_rng(seed).standard_normal(7)
            text = "\n".join(["Absorbance (AU)", "\t".join(["nm", *(f"{t:g} min" for t in TIMES)]),
                              *("\t".join([f"{x}", *(f"{v:.6f}" for v in y)]) for x in range(500, 511))])  # fmt: skip
            found = outcome(text, ChangeStep(order=order, at=505.0))  # type: ignore[arg-type]
            column = next(each for each in found.further if each.title == "Change").column("half_life")
            inside += column.lowers[0] <= half <= column.uppers[0]  # type: ignore[operator]
        assert 0.90 <= inside / 150 <= 0.99, order


def test_scans_that_meet_are_marked() -> None:
    scans = {f"{t:g} min": np.exp(-0.03 * t) * band(565, 1.0) + (1 - np.exp(-0.03 * t)) * band(480, 0.6) for t in TIMES}
    meets = outcome(table(scans)).part.isosbestic
    crossing = NM[np.argmin(np.abs(np.where((NM > 480) & (NM < 565), band(565, 1.0) - band(480, 0.6), 9)))]
    assert len(meets) == 1 and abs(meets[0] - crossing) < 1


def test_known_amounts_of_a_mixture_come_back_from_its_references() -> None:
    pure = {"Reference A 2 µM": band(470, 0.9), "Reference B 4 µM": band(560, 1.2)}
    rng = np.random.default_rng(7)
    mixed = 0.5 * pure["Reference A 2 µM"] + 0.25 * pure["Reference B 4 µM"]
    text = table({**pure, "unknown 1": mixed + 0.002 * rng.standard_normal(NM.size)})
    readings, layout, method = run(text)
    groups = tuple(g.model_copy(update={"level": {"A": 2.0, "B": 4.0}.get(g.name.split()[1])}) for g in layout.groups)
    found = evaluate(readings, layout.model_copy(update={"groups": groups}), method)
    a, b = found.answers.column("amount_0"), found.answers.column("amount_1")
    at = [row.name for row in found.answers.rows].index("unknown 1")
    assert_allclose([a.values[at], b.values[at]], [1.0, 1.0], rtol=0.01)
    assert a.lowers[at] is not None and a.lowers[at] <= 1.0 <= (a.uppers[at] or 0.0) * 1.002
    assert check(found, "left_over") == "pass"
    third = evaluate(readings, layout.model_copy(update={"groups": groups}), method.model_copy(
        update={"steps": with_step(method.steps, MixtureStep(window=Range(lower=520, upper=700)))}))  # fmt: skip
    assert_allclose(third.answers.column("amount_1").values[at], 1.0, rtol=0.02)


def test_something_else_in_a_mixture_is_pointed_at() -> None:
    scans = {"Reference A": band(470, 0.9), "Reference B": band(560, 1.2), "m": 0.5 * band(470, 0.9) + band(700, 0.2)}
    noise = 0.001 * np.random.default_rng(3).standard_normal((3, NM.size))
    text = table({name: scan + noise[i] for i, (name, scan) in enumerate(scans.items())})
    assert check(outcome(text), "left_over") == "look"


@pytest.mark.parametrize(
    ("id", "scan", "step", "state"),
    [
        ("scan_noise", band(565, 1.0) + 0.018 * np.random.default_rng(1).standard_normal(NM.size), {}, "pass"),
        ("scan_noise", band(565, 1.0) + 0.03 * np.random.default_rng(1).standard_normal(NM.size), {}, "look"),
        ("saturation", band(565, 2.0), {}, "pass"),
        ("saturation", band(565, 2.01), {}, "look"),
        ("saturation", band(565, 2.01), {"saturation": 2.5}, "pass"),
        ("baseline", band(565, 1.0) + 0.048, {}, "pass"),
        ("baseline", band(565, 1.0) + 0.052, {}, "look"),
        ("baseline", band(565, 1.0) - 0.052, {}, "look"),
        ("edge", band(565, 1.0), {}, "pass"),
        ("edge", NM / 800, {}, "look"),
    ],
)
def test_every_check_on_both_sides_of_its_threshold(id: str, scan: Array, step: dict[str, float], state: str) -> None:
    assert check(outcome(table({"one": scan}), ScanChecksStep(**step)), id) == state


def test_a_left_out_point_is_bridged_and_a_left_out_scan_is_gone() -> None:
    spike = band(565, 1.0)
    spike[200] = 5.0
    readings, layout, method = run(table({"one": spike, "two": band(500, 1.0)}))
    out = (Exclusion(reading=1, at=200, reason="cosmic ray"), Exclusion(reading=2, reason="wrong cuvette"))
    found = evaluate(readings, layout.model_copy(update={"exclusions": out}), method)
    assert [row.name for row in found.answers.rows] == ["one"]
    assert_allclose(values(found, "highest"), [565], atol=0.05)
    assert "bridged" in found.steps[0].sentence


def test_what_is_handed_on_is_the_value_of_every_scan_there() -> None:
    scans = {f"{c:g} µM": band(565, 0.1 * c) for c in (1, 2, 5, 10)}
    readings, layout, method = run(table({**scans, "pond": band(565, 0.42)}))
    handed = question_of("spectrum").hand_on(readings, layout, method.steps, 565.0)
    assert handed is not None and handed.question == "concentration"
    rows = [line.split("\t") for line in handed.text.splitlines()]
    assert rows[0][-1] == "Absorbance at 565 nm (AU)"
    assert_allclose([float(row[-1]) for row in rows[1:]], [0.1, 0.2, 0.5, 1.0, 0.42], atol=1e-6)


def test_working_says_where_a_peak_and_what_is_left_come_from() -> None:
    found = outcome(fading(np.exp(-0.03 * TIMES)))
    lines = {line.label: line for line in found.working[found.answers.rows[2].group]}
    assert "parabola" in lines["Highest point of 20 min"].text
    assert lines["Left"].result == "54.9 %" and "÷" in lines["Left"].text
    assert found.working["change.half_life"][0].text == "ln 2 ÷ rate constant"


def test_a_place_that_was_read_twice_counts_once_by_its_mean() -> None:
    text = table({"one": band(565, 1.0)})
    found = outcome(text + f"\n565\t{0.8:.6f}", AtStep(places=(565.0,)))
    assert_allclose(values(found, "at_0"), [0.9], atol=1e-6)
    assert "1 times a place stands there again" in found.steps[0].sentence


def test_a_replicate_that_is_saturated_is_seen_whichever_it_is() -> None:
    scans = {"one rep 1": band(565, 1.9), "one rep 2": band(565, 2.05)}
    assert check(outcome(table(scans)), "saturation") == "look"

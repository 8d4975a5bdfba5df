"""Any table, however its run is set, is evaluated, and what is stored comes back: no number is infinite, or none."""

import math
import sys

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dosis.core import MODELS
from dosis.intake.understand import understand
from dosis.run.evaluate import evaluate
from dosis.run.method import Method, default_method
from dosis.run.outcome.outcome import Outcome
from dosis.run.questions.concentration.limits import LimitsStep
from dosis.run.questions.concentration.read_back import ReadBackStep
from dosis.run.record import changed
from dosis.run.standards.curve import CurveStep, LeaveOut
from dosis.run.steps.blank import BlankStep
from dosis.run.steps.replicates import ReplicatesStep
from dosis.store.packing import pack, pack_text, text_of, unpack
from tests.outcomes import answers

ODD = ["OVER", "<0.01", "> 4", "", "n/a", "0", "-0.2", "1e200", "9.9e37", "1e-200", "nan", "inf", "1,5"]
SHAPES = {
    "line": lambda x: x,
    "falling": lambda x: 1 - x,
    "flat": lambda x: 0.4,
    "steep": lambda x: float(x > 0.2),
    "curve": lambda x: 1 / (1 + (9 * x) ** -1.2) if x > 0 else 0.0,
}


@st.composite
def tables(draw: st.DrawFn) -> str:
    """Blanks, standards over a few or many decades, samples and QCs, of any size, with odd cells among them."""
    replicates, shape = draw(st.integers(1, 4)), SHAPES[draw(st.sampled_from(sorted(SHAPES)))]
    base, ratio = draw(st.sampled_from([1e-9, 0.1, 1.0, 1e9])), draw(st.sampled_from([1.5, 2.0, 10.0]))
    levels = [0.0] * draw(st.booleans()) + [base * ratio**i for i in range(draw(st.integers(0, 8)))]
    if draw(st.integers(0, 19)) == 0:
        levels = [-level for level in levels]
    size, noise = draw(st.sampled_from([1.0, 1e-8, 1e5, 1e98])), draw(st.sampled_from([0.0, 0.01, 0.2]))
    random, top = draw(st.randoms(use_true_random=False)), max(map(abs, levels), default=0.0) or 1.0

    def cells(height: float) -> str:
        read = [size * (height + 0.05 + noise * random.gauss(0, 1)) for _ in range(replicates)]
        return "\t".join(random.choice(ODD) if random.random() < 0.04 else f"{value:.6g}" for value in read)

    rows = ["Sample\tConc (µM)\t" + "\t".join(["A"] * replicates) + "\tDil"]
    rows += [f"Blank {i}\t\t{cells(0.0)}" for i in range(draw(st.integers(0, 5)))]
    rows += [f"Std {i}\t{level:g}\t{cells(shape(abs(level) / top))}" for i, level in enumerate(levels)]
    for i in range(draw(st.integers(0, 6))):
        name, level = random.choice(["S", "QC", "S blank"]), random.choice(["", f"{top / 3:g}"])
        rows.append(
            f"{name} {i}\t{level}\t{cells(random.uniform(-0.2, 1.4))}\t{random.choice(['', '5', '0.1', '1000'])}"
        )
    return "\n".join(rows)


@st.composite
def methods(draw: st.DrawFn) -> Method:
    """Every step with any of its choices."""
    curve = CurveStep(
        model=draw(st.sampled_from(sorted(MODELS))),
        weights=draw(st.sampled_from(["none", "1/x", "1/x^2", "1/y", "1/y^2", "1/yhat^2"])),
        robust=draw(st.sampled_from(["off", "huber", "bisquare"])), fit_to=draw(st.sampled_from(["readings", "means"])),
        way=draw(st.sampled_from(["signal", "concentration"])), per=draw(st.sampled_from(["run", "series"])),
        leave_out=LeaveOut(lowest=draw(st.integers(0, 1)), highest=draw(st.integers(0, 2))),
    )  # fmt: skip
    scopes = ["run", "plate", "row", "column", "columns", "series", "own", "reference", "typed"]
    blank = BlankStep(
        scope=draw(st.sampled_from(scopes)), statistic=draw(st.sampled_from(["mean", "median"])),
        typed=draw(st.sampled_from([None, 0.1, 1e100])),
    )  # fmt: skip
    method = default_method("concentration")
    for step in (
        curve, blank, ReplicatesStep(combine=draw(st.sampled_from(["mean", "median", "geometric", "each"]))),
        ReadBackStep(extrapolate=draw(st.booleans()), level=draw(st.sampled_from([0.5, 0.95, 0.999]))),
        LimitsStep(cv=draw(st.sampled_from([0.01, 0.2, 1.0]))),
    ):  # fmt: skip
        method = method.with_step(step)
    return method


FIXED = settings(max_examples=80, derandomize=True)
FRESH = settings(max_examples=120, derandomize=False, database=None, print_blob=True)


@given(tables(), methods())
@FIXED
def test_any_table_set_in_any_way_is_evaluated_and_stored(table: str, method: Method) -> None:
    stored_as_evaluated(table, method)


@given(tables(), methods())
@FRESH
def test_any_other_table_is_too(table: str, method: Method) -> None:
    """New examples in every run; one that fails is printed with the seed that brings it back."""
    stored_as_evaluated(table, method)


def test_an_enormous_reading_under_a_growth_by_weights_is_stored_as_it_was_evaluated() -> None:
    """Exponential growth with 1/y and one reading of 9.9e37: R² was −∞, and came back as none."""
    rows = [f"Std {i}\t{2.0**i}\t{0.05 + 0.1 * i:.3f}" for i in range(7)]
    for cell in ("9.9e37", "9.9e99", "1e-99"):
        text = "\n".join(["Sample\tConc (µM)\tA", *rows, f"Std 7\t128\t{cell}", "S\t\t0.3"])
        for model in ("exponential_growth", "line", "logistic4"):
            for weights in ("1/y", "1/y^2", "1/yhat^2"):
                stored_as_evaluated(
                    text, default_method("concentration").with_step(CurveStep(model=model, weights=weights))
                )


WIDE_BLANKS = ("2.498e-09\t5e-10", "5e-10\t5e-10", "-3.59539e+299\t5e-10", "-4.58773e+125\t2.49552e+196")
NEAR_NOTHING = (
    "1e-09\tn/a\t1.70791e+07", "2e-09\t5e-10\t<0.01", "4e-09\t7.12023e+07\t4.3e-09", "8e-09\tnan\t-5.28389e+07",
    "1.6e-08\t0\t6.7e-09", "3.2e-08\t1.40233e+08\t1.33e-08",
)  # fmt: skip
BELOW_ZERO = (
    "-1e-09\tOVER\t0.229136", "-2e-09\t0.383936\tOVER", "-4e-09\t0.585276\t3.81849e+11", "-8e-09\tOVER\t0.77574",
    "-1.6e-08\tOVER\t0.908743", "-3.2e-08\t0.983185\t1.40232e+16",
)  # fmt: skip
TWO_CLOUDS = (
    "1e-09\tOVER\t0.600794", "1.5e-09\t0.716064\tOVER", "2.25e-09\t0.814407\t2.99151e+09",
    "3.375e-09\tOVER\t0.890714", "5.0625e-09\tOVER\t0.945679", "7.59375e-09\t0.983185\t7.01158e+14",
)  # fmt: skip


@pytest.mark.parametrize(
    ("blanks", "standards", "step"),
    [
        (WIDE_BLANKS, NEAR_NOTHING, {"weights": "1/x", "leave_out": LeaveOut(lowest=1)}),
        (("0.05\t0.05",), BELOW_ZERO, {"weights": "none"}),
        (("0.05\t0.05",), TWO_CLOUDS, {"weights": "none"}),
    ],
)
def test_blanks_under_a_curve_that_is_not_determined_leave_it_so(blanks, standards, step) -> None:
    """Each column with blanks of its own, of which one is beyond squaring, and a sigmoid the standards leave open."""
    rows = [f"Blank {i}\t\t{cells}" for i, cells in enumerate(blanks)]
    rows += [f"Std {i}\t{cells}" for i, cells in enumerate(standards)]
    method = default_method("concentration").with_step(CurveStep(per="run", model="boltzmann", **step))
    method = method.with_step(BlankStep(statistic="median", scope="column")).with_step(LimitsStep(cv=0.01))
    stored_as_evaluated("\n".join(["Sample\tConc (µM)\tA\tA\tDil", *rows]), method)


def test_numbers_that_are_none_are_none_in_what_is_stored_and_in_what_is_shown() -> None:
    intake = understand("Sample\tConc (µM)\tA\nStd 1\t1\t0.1\nStd 2\t2\t0.21\nStd 3\t4\t0.39\nS\t\t0.3")
    assert intake.readings is not None and intake.layout is not None
    good = evaluate(intake.readings, intake.layout, default_method("concentration"))
    assert text_of(good)[1] is good
    row = changed(good.curve.parameters[0], p_value=-math.inf, estimate=math.inf)
    curve = changed(good.curve, parameters=(row,), rmse=math.nan)
    bad = good.model_copy(update={"curves": (curve,), "signal_label": "NaN, Infinity"})
    text, shown = text_of(bad)
    assert unpack(Outcome, pack_text(Outcome, text)) == shown and shown != bad
    assert shown.curve.rmse is None and shown.curve.parameters[0].p_value is None
    assert shown.curve.parameters[0].estimate == sys.float_info.max and shown.signal_label == "NaN, Infinity"
    assert text_of(good.model_copy(update={"signal_label": "[NaN,"}))[1].signal_label == "[NaN,"


def stored_as_evaluated(table: str, method: Method) -> None:
    intake = understand(table)
    if intake.readings is None or intake.layout is None:
        assert intake.understanding.statements  # what it takes for it is said
        return
    outcome = evaluate(intake.readings, intake.layout, method)
    assert outcome.verdict.headline
    for answer in answers(outcome):
        assert answer.in_sample.value is None or math.isfinite(answer.in_sample.value)
    # JSON has no infinity and no NaN: one that was made would not come back.
    assert unpack(Outcome, pack(outcome)) == outcome

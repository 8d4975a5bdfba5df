"""Small runs of every question under many settings; what they say is kept beside, and read when it changes."""

from collections.abc import Callable, Iterator

from dosis.demo import brine_shrimp, diatom, domoic_acid
from dosis.demo.phosphate import bent_run, clean_run
from dosis.intake.understand import understand
from dosis.run.changes import Assign, Change, Exclude
from dosis.run.evaluate import evaluate
from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.opening import opened
from dosis.run.outcome.outcome import Outcome
from dosis.run.questions.additions.additions import AdditionsStep
from dosis.run.questions.concentration.limits import LimitsStep
from dosis.run.questions.concentration.read_back import ReadBackStep
from dosis.run.questions.dose.checks import DoseChecksStep
from dosis.run.questions.dose.compare import CompareStep
from dosis.run.questions.dose.curve import DoseCurveStep
from dosis.run.questions.dose.effects import EffectsStep
from dosis.run.questions.dose.normalize import NormalizeStep
from dosis.run.questions.mortality.checks import MortalityChecksStep
from dosis.run.questions.mortality.compare import CompareLethalStep
from dosis.run.questions.mortality.counts import CountsStep
from dosis.run.questions.mortality.lethal import LethalStep
from dosis.run.questions.mortality.line import QuantalStep
from dosis.run.readings import Readings
from dosis.run.standards.checks import ChecksStep
from dosis.run.standards.curve import CurveStep, LeaveOut, Window
from dosis.run.standards.dilution import DilutionStep
from dosis.run.steps.blank import BlankStep
from dosis.run.steps.replicates import ReplicatesStep
from dosis.run.steps.signal import DerivedColumn, SignalStep
from dosis.run.steps.step import Step
from tests.tables import PHOSPHATE

Run = tuple[Readings, Layout, Method]

ADDED = "Name\tµg/L\tA\nS\t0\t0.102\nS\t0\t0.108\nS\t5\t0.201\nS\t5\t0.206\nS\t10\t0.308\nS\t10\t0.301\nS\t20\t0.512"
SPIKED = (
    "Sample\tConc (µM)\tA 1\tA 2\nBlank\t0\t0.01\t0.012\nStd 1\t1\t0.11\t0.108\nStd 2\t5\t0.51\t0.512\n"
    "Std 3\t10\t1.01\t1.012\nPond\t\t0.3\t0.31\nPond + 4\t\t0.69\t0.71\nMarsh\t\t0.5\t0.49\n"
    "QC\t4\t0.33\t0.34\nQC 2\t4\t0.41\t0.42"
)
TWO = (
    "Sample\tConc (µM)\t450 nm\t620 nm\tSeries\nBlank\t0\t0.052\t0.04\tA\nStd 1\t1\t0.15\t0.05\tA\n"
    "Std 2\t2\t0.26\t0.05\tA\n"
    "Std 3\t4\t0.44\t0.045\tA\nS1\t\t0.3\t0.05\tA\nBlank\t0\t0.07\t0.05\tB\nStd 1\t1\t0.2\t0.05\tB\n"
    "Std 2\t2\t0.33\t0.06\tB\n"
    "Std 3\t4\t0.61\t0.05\tB\nS2\t\t0.5\tOVER\tB\nS3\t\t0.9\t0.05\tB"
)
SIGMOID = "Sample\tConc (nM)\tY\n" + "\n".join(
    f"Std {i}\t{x}\t{0.1 + 1.9 / (1 + (x / 20) ** -1.2) + d:.4f}"
    for i, x in enumerate((1, 3, 10, 30, 100, 300), start=1) for d in (0.011, -0.012)
) + "\nS1\t\t0.9\nS1\t\t1.3\nS2\t\t1.99\nS3\t\t0.12\nS4\t\t1.5\nQC low\t8\t0.6"  # fmt: skip
DOSES = "Compound\tDose (µM)\tResponse\tSeries\n" + "\n".join(
    f"{s}\t{x}\t{r + k}\t{s}"
    for s, low, half in (("K7", 4, 2.0), ("M2", 10, 9.0), ("Flat", 98, 5.0))
    for x in (0, 0.3, 1, 3, 10, 30) for k in (1.5, -1.0)
    for r in (round(low + (100 - low) / (1 + (x / half) ** 1.4), 2) if x else 100,)
)  # fmt: skip
COUNTED = "Lot\tDose (mg/L)\tExposed\tDead\n" + "\n".join(
    f"{lot}\t{x}\t20\t{r}"
    for lot, killed in (("A", (1, 2, 6, 13, 19)), ("B", (1, 1, 3, 7, 15)))
    for x, r in zip((0, 1, 2, 4, 8), killed, strict=True)
)
EDGES = "Compound\tDose (µM)\tResponse\n" + "\n".join(
    f"{name}\t{x}\t{y + k}"
    for name, ys in (
        ("Top only", (100, 101, 99, 100, 98, 60)), ("Lowest only", (60, 100, 101, 99, 100, 98)),
        ("Everywhere", (40, 41, 39, 40, 42, 38)), ("Step", (100, 101, 99, 2, 1, 3)),
        ("Open", (100, 97, 92, 84, 71, 55)),
        ("Rising", (2, 5, 20, 60, 90, 97)),
    )
    for x, y in zip((0.1, 0.3, 1, 3, 10, 30), ys, strict=True) for k in (0.6, -0.8)
) + "\nVehicle\t\t100\nVehicle\t\t101\nVehicle\t\t99"  # fmt: skip
VOLTS = "Channel\tDose (mV)\tResponse\n" + "\n".join(
    f"{name}\t{x}\t{1 / (1 + 2.718281828 ** ((x - middle) / 8)) + k:.4f}"
    for name, middle in (("Wild", -5), ("Mutant", 6))
    for x in range(-40, 41, 10)
    for k in (0.01, -0.012)
)
ZEROS = "Sample\tConc (nM)\tY\n" + "\n".join(
    f"Std {i}\t{x}\t{0.1 + 1.9 * x / (x + 20) + d:.4f}"
    for i, x in enumerate((0, 3, 10, 30, 100, 300), start=1) for d in (0.011, -0.012, 0.004)
) + "\nS1 blank\t\t0.05\nS1\t\t0.9\nS1\t\t1.3\nS1\t\tOVER\nS2\t\tOVER\nS3\t\t<0.1\nS3\t\t0.3\nS4\t\tn/a"  # fmt: skip
SOLVENT = (
    "Sample\tTime (h)\tDose (mg/L)\tExposed\tDead\n"
    "Control\t24\t0\t20\t1\nSolvent control\t24\t0\t20\t9\n"
    "TP-17\t24\t1\t20\t3\nTP-17\t24\t2\t20\t2\nTP-17\t24\t4\t20\t12\nTP-17\t24\t8\t20\t19\n"
    "Control\t48\t0\t20\t1\nSolvent control\t48\t0\t20\t2\n"
    "TP-17\t48\t1\t20\t6\nTP-17\t48\t2\t20\t9\nTP-17\t48\t4\t20\t15\nTP-17\t48\t8\t5\t5"
)
PLATES = "\n".join(
    ["Plate\tWell\tName\tConc (µM)\tA"]
    + [
        f"P{p}\t{'ABCDEFGH'[i % 8]}{1 + i // 8}\t{name}\t{'' if x is None else x}\t{y * p + 0.01 * (i % 3):.3f}"
        for p in (1, 2)
        for i, (name, x, y) in enumerate([
            ("Blank", 0, 0.04), ("Blank", 0, 0.05),
            *[(f"Std {k}", k, 0.04 + 0.1 * k) for k in (1, 1, 2, 2, 4, 4, 8, 8)],
            ("Pier", None, 0.3), ("Pier", None, 0.31), ("QC", 4, 0.45),
        ])
    ]
)  # fmt: skip
THREE = (
    "Name\tConc (µM)\tred\tgreen\tblue\nBlank\t0\t0.1\t0.2\t0.3\nStd 1\t1\t1\t2\t3.1\nStd 2\t2\t2\t4\t6\n"
    "Std 3\t4\t4\t8\t12.2\nPier\t\t3\t5\tOVER\nMarsh\t\t3\t5\t7"
)
SUDDEN = "Lot\tDose (mg/L)\tExposed\tAlive\nA\t0\t20\t20\nA\t1\t20\t20\nA\t2\t20\t20\nA\t4\t20\t0\nA\t8\t20\t0"


def opened_run(text: str, question: str = "concentration", *changes: Change) -> Run:
    intake = understand(text)
    assert intake.readings is not None and intake.layout is not None
    layout, method = opened(intake.readings, intake.layout, question)
    for change in changes:
        layout, method = change.apply(intake.readings, layout, method)
    return intake.readings, layout, method


def with_steps(run: Run, *steps: Step) -> Outcome:
    readings, layout, method = run
    for step in steps:
        method = method.with_step(step)
    return evaluate(readings, layout, method, whole=True)


def _spiked() -> Run:
    readings, layout, method = opened_run(SPIKED)
    ids = {group.name: group.id for group in layout.groups}
    change = Assign(groups=(ids["Pond + 4"],), spike_of="Pond", level=4)
    layout, method = change.apply(readings, layout, method)
    return readings, layout, method


def _standards(*steps: Step, text: str = PHOSPHATE) -> Callable[[], Outcome]:
    return lambda: with_steps(opened_run(text), *steps)


def _doses(*steps: Step) -> Callable[[], Outcome]:
    ends = NormalizeStep(no_effect="typed", typed_no_effect=100, full_effect="typed", typed_full_effect=0)
    return lambda: with_steps(opened_run(DOSES, "dose"), ends, *steps)


def _counts(*steps: Step, text: str = COUNTED) -> Callable[[], Outcome]:
    return lambda: with_steps(opened_run(text, "mortality"), *steps)


def _plate(*steps: Step) -> Callable[[], Outcome]:
    return lambda: with_steps(opened_run(domoic_acid.plate(), "concentration", *domoic_acid.changes()), *steps)


def _diatom(*steps: Step) -> Callable[[], Outcome]:
    return lambda: with_steps(opened_run(diatom.plate(), "dose", *diatom.changes()), *steps)


DERIVED = DerivedColumn(name="Difference", expression="{450 nm} - {620 nm}", unit="mAU")
RUNS: dict[str, Callable[[], Outcome]] = {
    "marsh": _standards(text=bent_run()),
    "pier": _standards(text=clean_run()),
    "plate": _plate(),
    "plate_blanks_by_row": _plate(BlankStep(scope="row"), ReplicatesStep(combine="median")),
    "plate_blanks_by_column": _plate(BlankStep(scope="column", statistic="median")),
    "plate_blanks_by_columns": _plate(BlankStep(scope="columns", width=4)),
    "plate_turned": _plate(CurveStep(model="logistic4", way="concentration")),
    "plate_five": _plate(CurveStep(model="logistic5", weights="1/y"), LimitsStep(cv=0.1)),
    "phosphate_bare": _standards(BlankStep(on=False), DilutionStep(on=False), LimitsStep(on=False)),
    "phosphate_typed_blank": _standards(BlankStep(scope="typed", typed=0.01), ReplicatesStep(combine="geometric")),
    "phosphate_blank_to_type": _standards(BlankStep(scope="typed")),
    "phosphate_each": _standards(ReplicatesStep(combine="each"), ReadBackStep(extrapolate=True, level=0.9)),
    "phosphate_zero": _standards(CurveStep(model="line_through_zero", weights="1/x")),
    "phosphate_window": _standards(CurveStep(window=Window(lower=1, upper=5), fit_to="means", robust="huber")),
    "phosphate_left_out": _standards(CurveStep(leave_out=LeaveOut(lowest=1, highest=1), fixed={"slope": 0.04})),
    "phosphate_no_curve": _standards(CurveStep(window=Window(lower=100))),
    "phosphate_strict": _standards(ChecksStep(standard_recovery=0.01, lowest_recovery=0.01, qc_recovery=0.01)),
    "phosphate_excluded": lambda: with_steps(
        opened_run(PHOSPHATE, "concentration", Exclude(readings=(15, 16), reason="bubble"))
    ),
    "spiked": lambda: with_steps(_spiked()),
    "spiked_strict": lambda: with_steps(_spiked(), ChecksStep(spike_recovery=0.001), ReadBackStep(scatter="own")),
    "series": _standards(text=TWO),
    "series_pooled": _standards(CurveStep(per="run"), BlankStep(scope="series"), text=TWO),
    "series_derived": _standards(SignalStep(column="Difference", derived=(DERIVED,)), text=TWO),
    "series_reference": _standards(BlankStep(scope="reference", reference="620 nm"), text=TWO),
    "series_no_reference": _standards(BlankStep(scope="reference"), text=TWO),
    "series_other_channel": _standards(SignalStep(column="620 nm"), text=TWO),
    "series_no_column": _standards(SignalStep(column="nowhere"), text=TWO),
    "series_bad_column": _standards(
        SignalStep(column="D", derived=(DerivedColumn(name="D", expression="{none} + 1"),)), text=TWO
    ),
    "sigmoid": _standards(text=SIGMOID),
    "sigmoid_wide": _standards(ReadBackStep(scatter="own", level=0.99), CurveStep(model="logistic4"), text=SIGMOID),
    "sigmoid_line": _standards(CurveStep(), text=SIGMOID + "\nS5\t\t0.5"),
    "sigmoid_extrapolated": _standards(
        CurveStep(model="logistic4"), ReadBackStep(extrapolate=True), text=SIGMOID.replace("1.99", "1.97")
    ),
    "additions": lambda: with_steps(opened_run(ADDED, "additions")),
    "additions_wide": lambda: with_steps(opened_run(ADDED, "additions"), AdditionsStep(level=0.8)),
    "additions_curved": lambda: with_steps(opened_run(ADDED, "additions"), CurveStep(model="quadratic")),
    "additions_none": lambda: with_steps(opened_run(ADDED.replace("\t0\t", "\t1\t"), "additions")),
    "additions_negative": lambda: with_steps(opened_run(ADDED.replace("0.10", "-0.10"), "additions")),
    "additions_pooled": lambda: with_steps(
        opened_run("Name\tAdded (µM)\tA\nX\t0\t0.1\nY\t0\t0.11\nAdd\t5\t0.3\nAdd\t10\t0.52", "additions")
    ),
    "additions_flat": lambda: with_steps(opened_run("Name\tAdded (µM)\tA\nX\t0\t0.1\nX\t5\t0.1", "additions")),
    "diatom": _diatom(),
    "diatom_fraction": _diatom(
        NormalizeStep(scale="fraction", average_first=True, per="series"), EffectsStep(levels=(50, 10, 90))
    ),
    "diatom_raw": _diatom(DoseCurveStep(of="raw", share=("lower", "upper")), EffectsStep(method="profile")),
    "diatom_off": _diatom(NormalizeStep(on=False), BlankStep(on=False)),
    "diatom_hidden": _diatom(
        NormalizeStep(no_effect="lowest_dose", full_effect="highest_dose", references="hidden"),
        DoseCurveStep(fixed={"lower": 0.0}, robust="bisquare"),
    ),
    "diatom_strict": _diatom(DoseChecksStep(z_prime=0.99, spread=0.001), CompareStep(reference="Lot B", level=0.999)),
    "diatom_own": _diatom(DoseCurveStep(own={"Lot B": {"model": "weibull"}}), EffectsStep(extrapolate=True)),  # type: ignore[dict-item]
    "doses": _doses(),
    "doses_ends": _doses(NormalizeStep(no_effect="greatest_level", full_effect="least_level")),
    "doses_higher": _doses(NormalizeStep(no_effect="higher_end", full_effect="lower_end", per="series")),
    "doses_average": _doses(NormalizeStep(no_effect="average", full_effect="typed", typed_full_effect=0)),
    "doses_no_controls": _doses(NormalizeStep()),
    "doses_to_type": _doses(NormalizeStep(no_effect="typed")),
    "doses_total_nothing": _doses(NormalizeStep(no_effect="lowest_dose", full_effect="total")),
    "doses_levels": _doses(EffectsStep(levels=(20, 50, 80), interval=0.9), CompareStep(on=False)),
    "counts": _counts(),
    "shrimp": _counts(text=brine_shrimp.table()),
    "counts_logit": _counts(QuantalStep(link="logit", background="estimated"), LethalStep(method="profile")),
    "counts_linear": _counts(QuantalStep(link="cloglog", dose="linear", background="none"), LethalStep(method="delta")),
    "counts_vessels": _counts(CountsStep(pool="vessel"), LethalStep(levels=(50, 5), trim=0.2, symbol="LD")),
    "counts_strict": _counts(MortalityChecksStep(control=0.01, exposed=100), CompareLethalStep(reference="B")),
    "counts_alone": _counts(CompareLethalStep(on=False), text=COUNTED.replace("B\t", "A\t")),
    "counts_columns": _counts(CountsStep(exposed="nothing")),
    "counts_wrong": _counts(text=COUNTED.replace("20\t19", "20\t29")),
    "sudden": _counts(text=SUDDEN),
    "counts_solvent": _counts(text=SOLVENT),
    "counts_poor": _counts(text=COUNTED.replace("A\t2\t20\t6", "A\t2\t20\t17")),
    "counts_flat": _counts(
        text="\n".join(
            f"{line.rsplit(chr(9), 1)[0]}\t1" if line.startswith("B") else line for line in COUNTED.splitlines()
        )
    ),
    "counts_many": _counts(
        text="Lot\tDose (mg/L)\tExposed\tDead\n"
        + "\n".join(
            f"L{i}\t{x}\t20\t{r}"
            for i in range(13)
            for x, r in ((0, 0), (1, 2 + i % 3), (2, 9), (4, 15 + i % 4), (8, 19))
        )
    ),
    "spiked_own_90": lambda: with_steps(_spiked(), ReadBackStep(scatter="own", level=0.9)),
    "zeros_scatter": _standards(ReadBackStep(scatter="own", level=0.8), CurveStep(model="logistic4"), text=ZEROS),
    "series_shared_blanks": _standards(BlankStep(scope="series"), text=TWO.replace("0.04\tA", "0.04\t", 1)),
    "series_derived_excluded": lambda: with_steps(
        opened_run(TWO, "concentration", Exclude(readings=(2, 5), reason="bubble")),
        SignalStep(column="Difference", derived=(DERIVED,)),
    ),
    "three_channels": lambda: with_steps(opened_run(THREE), SignalStep(column="blue")),
    "counts_no_controls": _counts(text=COUNTED.replace("A\t0\t20\t1\n", "").replace("B\t0\t20\t1\n", "")),
    "doses_edges": lambda: with_steps(opened_run(EDGES, "dose")),
    "doses_edges_raw": lambda: with_steps(
        opened_run(EDGES, "dose"), NormalizeStep(on=False), EffectsStep(method="profile", levels=(50, 20, 80))
    ),
    "doses_below_zero": lambda: with_steps(
        opened_run(VOLTS, "dose"), NormalizeStep(on=False), DoseCurveStep(model="boltzmann")
    ),
    "pier_cv_strict": _standards(ReplicatesStep(cv_limit=0.0001), text=clean_run()),
    "doses_few": lambda: with_steps(
        opened_run("Compound\tDose (µM)\tResponse\nK7\t1\t80\nK7\t3\t40\nM2\t1\t90\nM2\t3\t70\nM2\t9\t20", "dose")
    ),
    "doses_absolute_out": _doses(EffectsStep(levels=(50, 2, 99.9), extrapolate=True)),
    "doses_total": _doses(NormalizeStep(no_effect="typed", typed_no_effect=100, full_effect="average")),
    "sigmoid_few": _standards(CurveStep(model="logistic5"), text="\n".join(SIGMOID.splitlines()[:9])),
    "zeros": _standards(text=ZEROS),
    "zeros_own_blank": _standards(BlankStep(scope="own"), CurveStep(model="hyperbola_offset"), text=ZEROS),
    "zeros_huber": _standards(CurveStep(model="logistic4", robust="huber"), LimitsStep(cv=0.001), text=ZEROS),
    "series_typed_blank": _standards(BlankStep(scope="typed", typed=0.01), text=TWO),
    "plates_each": _standards(text=PLATES),
    "plates_pooled": _standards(CurveStep(per="run"), BlankStep(scope="run"), text=PLATES),
    "plates_by_plate": _standards(CurveStep(per="plate", weights="1/x^2"), BlankStep(scope="plate"), text=PLATES),
}


def every() -> Iterator[tuple[str, Outcome]]:
    for name, make in RUNS.items():
        yield name, make()

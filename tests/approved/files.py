"""What leaves a run: files cell by cell, the terminal's text, and what lies between two revisions."""

import csv
import io
from collections.abc import Callable

from python_calamine import CalamineWorkbook

from dosis.demo.phosphate import clean_run
from dosis.output.exports.export import Subject
from dosis.output.exports.registry import EXPORTS
from dosis.output.terminal import answers_text
from dosis.run.bench import Bench
from dosis.run.changes import Assign, Exclude
from dosis.run.difference import difference
from dosis.run.evaluate import ask, evaluate
from dosis.run.layout import Layout
from dosis.run.outcome.told import Asked
from dosis.run.questions.dose.curve import DoseCurveStep
from dosis.run.questions.dose.effects import EffectsStep
from dosis.run.questions.dose.normalize import NormalizeStep
from dosis.run.questions.mortality.counts import CountsStep
from dosis.run.questions.mortality.lethal import LethalStep
from dosis.run.roles import Role
from dosis.run.standards.curve import CurveStep, LeaveOut, Window
from dosis.run.steps.blank import BlankStep
from dosis.run.steps.replicates import ReplicatesStep
from dosis.run.steps.signal import DerivedColumn, Lookup, SignalStep
from dosis.run.steps.step import Step
from tests.approved.runs import ADDED, COUNTED, DOSES, SIGMOID, TWO, Run, opened_run
from tests.approved.saying import digits
from tests.approved.tables import TEXTS
from tests.tables import PHOSPHATE


def leaving(run: Run) -> str:
    """Every file of a run and the text of the terminal."""
    readings, layout, method = run
    outcome = evaluate(readings, layout, method, whole=True)
    subject = Subject("A run: 1/2", readings, layout, outcome)
    pages = [answers_text(outcome)]
    for form, separator in (("csv", ","), ("tsv", "\t")):
        text = EXPORTS[form].make(subject).decode("utf-8-sig")
        assert text.count("\r\n") == text.count("\n")
        pages += [form, *(" | ".join(row) for row in csv.reader(io.StringIO(text), delimiter=separator))]
    book = CalamineWorkbook.from_filelike(io.BytesIO(EXPORTS["xlsx"].make(subject)))
    for name in book.sheet_names:
        rows = book.get_sheet_by_name(name).to_python()
        pages += [f"sheet {name}", *(" | ".join(map(_cell, row)) for row in rows)]
    return "\n".join(pages)


def _cell(cell: object) -> str:
    return f"{cell:.6g}" if isinstance(cell, float) else str(cell)


def between(run: Run, *steps: Step, then: Callable[[Layout], Layout] = lambda layout: layout) -> str:
    """What lies between a run as it is and with other settings, and the words of each change."""
    readings, layout, method = run
    new, words = method, []
    for step in steps:
        before = new.step(step.kind)
        words.append(step.words(before, layout.level.unit))
        new = new.with_step(step)
    after = then(layout)
    found = difference(
        (layout, method, evaluate(readings, layout, method)), (after, new, evaluate(readings, after, new))
    )
    parts = (("setting", found.settings), ("layout", found.layout), ("exclusion", found.exclusions))
    lines = [f"{name}: {each.what} | {each.before} | {each.after}" for name, part in parts for each in part]
    return "\n".join([*words, *lines, *(f"answer: {a.what} | {a.before} | {a.after}" for a in found.answers)])


def _edited(run: Run) -> Callable[[Layout], Layout]:
    readings, layout, method = run
    pier = next(group.id for group in layout.groups if group.name == "Pier N")

    def edit(layout: Layout) -> Layout:
        for change in (
            Exclude(readings=(5, 6), reason="air bubble"),
            Assign(groups=(pier,), role=Role.QC, name="Pier QC", level=20, dilution=2),
        ):
            layout, _ = change.apply(readings, layout, method)
        return layout

    return edit


def looks(*steps: SignalStep) -> str:
    """What the page shows of a signal while it is typed, and what the Ledger will say of it."""
    readings, layout, _ = opened_run(TWO)
    lines = []
    for step in steps:
        look = step.look(Bench(readings, layout), rows=5)
        lines += [
            step.words(None, ""),
            *(f"{each.name} ({each.unit}): {' '.join(each.shown)}" for each in look.columns),
        ]
        if look.problem is not None:
            lines.append(f"{look.problem.column} at {look.problem.position}: {look.problem.text}")
    return "\n".join(lines)


def _ratio(expression: str, *tables: Lookup, unit: str = "") -> SignalStep:
    return SignalStep(column="R", derived=(DerivedColumn(name="R", expression=expression, unit=unit),), tables=tables)


def asked(text: str, *steps: Step) -> str:
    """What the curve says where it is asked, within its standards and beyond, and where it has no value."""
    readings, layout, method = opened_run(text)
    for step in steps:
        method = method.with_step(step)
    questions = [
        *(Asked(level=x) for x in (2.0, 0.0, 500.0, -1.0)),
        *(Asked(signal=y) for y in (0.2, 1.4, 99.0)),
        Asked(),
    ]
    told = [(question, ask(readings, layout, method, question)) for question in questions]
    return "\n".join(f"{q.level} {q.signal}: {t.text} ({digits(t.value)})" for q, t in told)


def words(*pairs: tuple[Step | None, Step]) -> str:
    """What the Ledger says when a step is set, and what lies between the two."""
    lines = []
    for before, after in pairs:
        changes = "; ".join(f"{each.what}: {each.before} → {each.after}" for each in after.changes(before))
        lines.append(f"{after.words(before, 'µM')} | {changes}")
    return "\n".join(lines)


SENSOR = Lookup(name="Sensor", x=(0.0, 0.1, 1.0), y=(0.0, 5.0, 20.0), x_unit="", y_unit="pH")
PHOSPHATE_RUN, DOSE_RUN = opened_run(PHOSPHATE), opened_run(DOSES, "dose")
FILES: dict[str, Callable[[], str]] = {
    "phosphate": lambda: leaving(PHOSPHATE_RUN),
    "series": lambda: leaving(opened_run(TWO.replace("S1", "=S1"))),
    "additions": lambda: leaving(opened_run(ADDED, "additions")),
    "doses": lambda: leaving(DOSE_RUN),
    "counts": lambda: leaving(opened_run(COUNTED, "mortality")),
    "plate": lambda: leaving(opened_run(TEXTS["plate_of_words"])),
    "plates": lambda: leaving(opened_run(TEXTS["wells_two_plates"])),
    "channels": lambda: leaving(opened_run(TEXTS["wells_wavelengths"].replace("0.02", "OVER"))),
    "no_remarks": lambda: leaving(opened_run(clean_run())),
    "signal_looks": lambda: looks(
        SignalStep(),
        SignalStep(column="620 nm"),
        _ratio("{450 nm} / ({620 nm} - 0.05)"),
        _ratio("{450 nm} * 0"),
        _ratio("1e5 * {450 nm}"),
        _ratio("1e-7 * {450 nm}"),
        _ratio("lookup(Sensor, {450 nm})", SENSOR, unit="pH"),
        _ratio("lookup({450 nm}, Sensor)", SENSOR),
        _ratio("1 + Sensor", SENSOR),
        _ratio("{nowhere} + 1"),
        _ratio("{450 nm} +"),
        SignalStep(derived=(DerivedColumn(name="620 nm", expression="1"),)),
    ),
    "asked_line": lambda: asked(PHOSPHATE),
    "asked_sigmoid": lambda: asked(SIGMOID, CurveStep(model="logistic4")),
    "asked_turned": lambda: asked(PHOSPHATE, CurveStep(way="concentration")),
    "asked_without_spread": lambda: asked("Name\tConc (µM)\tA\nStd 1\t1\t0.1\nStd 2\t4\t0.4"),
    "asked_nothing": lambda: asked("Name\tConc (µM)\tA\nPier\t\t0.1\nMarsh\t\t0.4"),
    "words": lambda: words(
        (None, CurveStep()),
        (None, BlankStep()),
        (None, ReplicatesStep()),
        (BlankStep(), BlankStep()),
        (BlankStep(), BlankStep(on=False)),
        (BlankStep(on=False), BlankStep(scope="columns", width=4)),
        (CurveStep(), CurveStep(model="logistic5", weights="1/yhat^2", robust="huber", fit_to="means", per="plate")),
        (CurveStep(), CurveStep(way="concentration", window=Window(upper=5), fixed={"slope": 0.5})),
        (CurveStep(), CurveStep(leave_out=LeaveOut(lowest=1), window=Window(lower=1, upper=5), per="run")),
        (CurveStep(), CurveStep(model="custom", expression="a * x", start={"a": 1.0})),
        (DoseCurveStep(), DoseCurveStep(share=("upper",), of="raw", fixed={"lower": 0.0}, weights="1/y")),
        (DoseCurveStep(), DoseCurveStep(share=("lower", "upper"))),
        (EffectsStep(), EffectsStep(levels=(50, 10), interval=0.9, extrapolate=True)),
        (NormalizeStep(), NormalizeStep(no_effect="typed", typed_no_effect=1.5, scale="fraction")),
        (CountsStep(), CountsStep(exposed="n", pool="vessel")),
        (LethalStep(), LethalStep(trim=0.1, method="delta")),
        (SignalStep(), SignalStep(tables=(SENSOR,))),
    ),
    "nothing": lambda: leaving(opened_run("Std 1\t5\t0.1\nPier S\t\t0.2")),
    "between_settings": lambda: between(
        PHOSPHATE_RUN,
        CurveStep(model="quadratic", weights="1/x", window=Window(lower=1), per="run"),
        BlankStep(on=False),
    ),
    "between_layouts": lambda: between(PHOSPHATE_RUN, then=_edited(PHOSPHATE_RUN)),
    "between_doses": lambda: between(
        DOSE_RUN,
        DoseCurveStep(model="weibull", own={"Flat": {"fixed": {"lower": 0}}}),  # type: ignore[dict-item]
        EffectsStep(levels=(50, 10)),
    ),
}

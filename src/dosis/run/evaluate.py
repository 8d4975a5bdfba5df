"""`evaluate`: readings, layout and method in; the outcome out. Pure and deterministic."""

import math

from dosis.core.outliers import grubbs
from dosis.core.rounding import decimals_for, fixed, given, significant
from dosis.run.deviations import deviations
from dosis.run.effects.effect import Effect
from dosis.run.layout import PART, Group, Layout, Role, whole_id
from dosis.run.method import Method
from dosis.run.outcome.drawn import Curve
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.readings import GroupOutcome, ReadingOutcome
from dosis.run.outcome.value import Value
from dosis.run.outcome.working import WorkingLine
from dosis.run.questions.dose.curve import DoseCurveStep
from dosis.run.questions.dose.drawing import draw_doses, draw_series
from dosis.run.questions.mortality.drawing import draw_mortality
from dosis.run.questions.mortality.line import QuantalStep
from dosis.run.questions.mortality.time_course import time_courses
from dosis.run.readings import Readings
from dosis.run.record import changed
from dosis.run.saved_layout import misfits
from dosis.run.standards.answer import Answer
from dosis.run.standards.curve import CurveStep
from dosis.run.standards.drawing import draw
from dosis.run.standards.parts import split, together
from dosis.run.steps.replicates import percent
from dosis.run.steps.signal import SignalLook, SignalStep, highest
from dosis.run.verdict import conclude, conclude_doses
from dosis.run.workbench import Workbench

LEAST = 3  # replicates among which one can be an outlier
NOTHING = Value()
MATTERS = 0.05  # CV from which an outlier among three is worth a word


def work(
    readings: Readings, layout: Layout, method: Method, *, before: str = "", tag: str = "", whole: bool = False
) -> Workbench:
    """The steps worked through, and all they left; `before` names the kind of step to stop at, `whole` as `evaluate`.

    Raises ValueError as `evaluate`.
    """
    bench = Workbench(readings, layout, tag, whole)
    if method.question == "additions":
        bench.count_samples_as_no_addition()
    if method.signal_after_blank:
        bench.keep_channels()
    for step in method.steps:
        if step.kind == before:
            break
        bench.steps.append(step.run(bench))
    return bench


def look_at_signal(readings: Readings, layout: Layout, method: Method, step: SignalStep) -> SignalLook:
    """The first values of every column as this signal step would find them; nothing is stored."""
    return step.look(work(readings, layout, method, before="signal"))


def evaluate(readings: Readings, layout: Layout, method: Method, *, whole: bool = False) -> Outcome:
    """Work a run through its steps, in order; where plates or series have curves of their own, each by itself.

    whole : of a wall of dose–response curves every one with its parameters and their working; otherwise they are left
        until `look_at_curve` is asked for one.

    Raises
    ------
    ValueError : when the layout names readings that do not exist. Whatever the data cannot support is not an error
        but a flagged answer with its reason.
    """
    if method.question in ("dose", "mortality"):
        return _evaluate_doses(readings, layout, method, whole=whole)
    parts = split(readings, layout, curve_of(method).per)
    outcomes = [
        _evaluate(readings, part.layout, method, part.key, f"{i}." if len(parts) > 1 else "")
        for i, part in enumerate(parts)
    ]
    if len(outcomes) == 1:
        return outcomes[0]
    return together(readings, layout, parts, outcomes)


def look_at_curve(
    readings: Readings, layout: Layout, method: Method, name: str
) -> tuple[Curve, dict[str, tuple[WorkingLine, ...]]] | None:
    """One curve of a wall with its bands, parameters and statistics, and the working; None without such a series.

    The same steps from the same revision as made the wall. Raises ValueError as `evaluate`.
    """
    bench = work(readings, layout, method, whole=True)
    curve = draw_series(bench, _dose_curve_of(method), name)
    return None if curve is None else (curve, _whole_working(bench))


def _dose_curve_of(method: Method) -> DoseCurveStep:
    return next((step for step in method.steps if isinstance(step, DoseCurveStep)), None) or DoseCurveStep()


def curve_of(method: Method) -> CurveStep:
    """The method's curve step."""
    return next((step for step in method.steps if isinstance(step, CurveStep)), None) or CurveStep()


def _evaluate(readings: Readings, layout: Layout, method: Method, key: str, tag: str) -> Outcome:
    bench = work(readings, layout, method, tag=tag)
    answers = tuple(_answer(bench, group, key) for group in bench.answered())
    curve = draw(bench, curve_of(method), key)
    return Outcome.model_construct(  # its parts are what they were made as: looking at each again takes long
        signal_label=bench.layout.signal.label,
        level_unit=layout.level.unit,
        readings=_readings(bench, _suspects(bench, layout)),
        groups=_groups(bench, layout),
        steps=tuple(bench.steps),
        curve=curve,
        answers=answers,
        checks=tuple(bench.checks),
        verdict=conclude(bench.fit_problem, bench.steps, bench.checks, answers, laid_out=bool(layout.groups)),
        columns=bench.columns,
        peak_column=highest(bench.columns),
        layout=misfits(readings, layout),
        working=_whole_working(bench),
    )


def _evaluate_doses(readings: Readings, layout: Layout, method: Method, *, whole: bool) -> Outcome:
    bench = work(readings, layout, method, whole=whole)
    if method.question == "dose":
        curves = draw_doses(bench, _dose_curve_of(method))
    else:
        line = next((each for each in method.steps if isinstance(each, QuantalStep)), QuantalStep())
        curves = draw_mortality(bench, line)
    answers = tuple(_effect_answer(effect) for effect in bench.effects)
    return Outcome.model_construct(
        signal_label=bench.layout.signal.label,
        level_unit=layout.level.unit,
        readings=_readings(bench, _suspects(bench, layout) if method.question == "dose" else {}),
        groups=_groups(bench, layout),
        steps=tuple(bench.steps),
        curve=curves[0],
        curves=curves if len(curves) > 1 else (),
        answers=answers,
        effects=tuple(bench.effects),
        comparisons=tuple(bench.comparisons),
        over_time=time_courses(bench.effects) if method.question == "mortality" else (),
        checks=tuple(bench.checks),
        verdict=conclude_doses(
            bench.effects,
            bench.steps,
            bench.checks,
            layout.level.unit,
            laid_out=bool(curves[0].points or curves[0].means),
            counted=method.question == "mortality",
        ),
        references=tuple(bench.made_references),
        columns=bench.columns,
        peak_column=highest(bench.columns),
        layout=misfits(readings, layout),
        working=_whole_working(bench),
    )


def _effect_answer(effect: Effect) -> Answer:
    """A series among the answers of all runs: its leading effect dose."""
    dose = effect.doses[0].relative
    return Answer(
        key=effect.series, group=effect.group, curve=effect.name, role=Role.DOSE, name=effect.name, n=effect.n,
        n_all=effect.n, signal=None, shown_signal="—", sd=None, cv=None, shown_cv="—", dilution=1.0, shown_dilution="",
        in_reading=dose, in_sample=dose, remarks=effect.remarks,
    )  # fmt: skip


def _whole_working(bench: Workbench) -> dict[str, tuple[WorkingLine, ...]]:
    """What was written down, that of a group's parts under the group."""
    whole: dict[str, tuple[WorkingLine, ...]] = {}
    for id, lines in bench.working.items():
        of, _, part = id.partition(PART)
        named = [changed(line, label=f"{line.label} ({part})") for line in lines] if part else lines
        whole[of] = (*whole[of], *named) if of in whole else tuple(named)
    return whole


def _suspects(bench: Workbench, layout: Layout) -> dict[int, str]:
    """Readings that Grubbs's test points at among at least three replicates; nothing is done about them."""
    found = {}
    for group in layout.groups:
        if len(group.readings) < LEAST or group.role is Role.UNUSED:
            continue
        # Of three readings two alike make the third an outlier; it is pointed at only where it matters.
        summary = bench.summaries.get(group.id)
        mild = summary is None or (summary.cv or 0.0) < MATTERS
        if mild and len(group.readings) == LEAST:
            continue
        ids = bench.used(group)
        if len(ids) < LEAST or (mild and len(ids) == LEAST):
            continue
        test = grubbs([bench.values[id] for id in ids])
        if test.outlying and test.statistic is not None and test.critical is not None:
            size = f"G = {significant(test.statistic, 5)}, critical {significant(test.critical, 5)}"
            found[ids[test.suspect]] = f"outlying among its {len(ids)} replicates (Grubbs, {size})"
    return found


def _groups(bench: Workbench, layout: Layout) -> tuple[GroupOutcome, ...]:
    """Those of which there is a result, or a spread, to show."""
    found = []
    for group in layout.groups:
        summary, result = bench.summaries.get(group.id), bench.in_sample.get(group.id)
        cv = summary.cv if summary else None
        if result is None and cv is None:
            continue
        result = result or NOTHING
        shown_cv = "—" if cv is None else percent(cv).removesuffix(" %")
        found.append(GroupOutcome(group.id, result.value, result.shown, cv, shown_cv))
    return tuple(found)


def _readings(bench: Workbench, suspects: dict[int, str]) -> tuple[ReadingOutcome, ...]:
    off = deviations(bench)
    size = math.sqrt(sum(value * value for value in off.values()) / len(off)) if off else 0.0
    place = max(decimals_for(size), 0)  # the same for all wells, so that they can be compared at a glance
    values, why_not, counts, places = bench.values, bench.why_not, bench.counts, bench.places
    aside = _aside(bench)
    made = []
    for id in bench.by_id:
        value, why, deviation, gap = values.get(id), why_not.get(id, ""), off.get(id), ""
        shown = "—" if value is None else fixed(value, places)
        if id in counts:
            shown = "/".join(map(given, counts[id]))
        if deviation is not None:
            gap = f"+{fixed(deviation, place)}" if deviation > 0 else fixed(deviation, place)
        made.append(ReadingOutcome(
            id, value, shown, not why, why, deviation, gap, suspects.get(id, ""), "" if why else aside.get(id, "")
        ))  # fmt: skip
    return tuple(made)


def _aside(bench: Workbench) -> dict[int, str]:
    """Standards outside the window of the curve, and doses that made a reference and are hidden."""
    found: dict[int, str] = {}
    if bench.fit is not None:
        for group in bench.groups(Role.STANDARD):
            if group.level is not None and not bench.in_window(group.level):
                found |= dict.fromkeys(group.readings, "its level is left out of the curve")
    if bench.left_out:
        for group in bench.groups(Role.DOSE):
            if (group.series, group.level) in bench.left_out:
                found |= dict.fromkeys(group.readings, "a reference, left out of the curve")
    return found


def _answer(bench: Workbench, group: Group, key: str) -> Answer:
    summary = bench.summaries.get(group.id)
    cv = summary.cv if summary else None
    in_sample = bench.in_sample.get(group.id, NOTHING)
    spike = bench.recoveries.get(group.id)
    recovery = None if spike is None else spike.value
    if not group.spike_of and group.level and in_sample.value is not None:
        recovery = in_sample.value / group.level
    return Answer(
        key=group.id, group=whole_id(group.id), reading=group.readings[0] if PART in group.id else None, curve=key,
        role=Role.SAMPLE if bench.unknown else group.role, name=group.name,
        n=summary.n if summary else 0, n_all=len(group.readings),
        signal=summary.value if summary else None,
        shown_signal=bench.signal(summary.value) if summary else "—",
        sd=summary.sd if summary else None, cv=cv, shown_cv="—" if cv is None else percent(cv).removesuffix(" %"),
        dilution=group.dilution, shown_dilution=f"× {given(group.dilution)}" if group.dilution != 1 else "",
        in_reading=bench.in_reading.get(group.id, NOTHING), in_sample=in_sample,
        nominal=None if bench.unknown else group.level, recovery=recovery,
        shown_recovery="" if recovery is None else f"{fixed(100 * recovery, 0)} %",
        recovery_lower=None if spike is None else spike.lower, recovery_upper=None if spike is None else spike.upper,
        remarks=tuple(bench.remarks.get(group.id, ())),
    )  # fmt: skip

"""What an outcome says, as a page of text to be read: every sentence, answer, statistic and line of working."""

import re
from collections.abc import Iterator

from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.table import AnswerColumn


def said(outcome: Outcome) -> str:
    """The whole outcome; numbers to six digits, so that machines agree."""
    return "\n".join([*_steps(outcome), *_curves(outcome), *_answers(outcome), *_readings(outcome), *_working(outcome)])


def digits(value: float | None) -> str:
    return "–" if value is None else f"{value:.6g}"


def _steps(outcome: Outcome) -> Iterator[str]:
    verdict = outcome.verdict
    yield f"{verdict.state.value}: {verdict.headline} ({verdict.passed}, {verdict.to_look_at}, {verdict.failed})"
    yield "  " + "".join(f"[{part.group}]{part.text}" if part.group else part.text for part in verdict.detail)
    yield f"{outcome.signal_label} | {outcome.level_unit} | {outcome.part.model_dump_json()}"
    for step in outcome.steps:
        yield f"{step.kind} {step.title} {step.state.value}: {step.sentence} | {step.verdict}"
    for check in outcome.checks:
        yield f"check {check.id} {check.title} {check.state.value}: {check.found}; {check.threshold}; {check.why}"
        yield f"  {check.verdict} | {', '.join(check.groups)} | {check.working}"
    for remark in outcome.layout:
        yield f"layout {remark.state.value}: {remark.short}; {remark.text}"
    for column in outcome.columns:
        yield f"column {column.name} {column.unit} {column.derived} {digits(column.mean)}"
    yield f"peak {outcome.peak_column}"


def _curves(outcome: Outcome) -> Iterator[str]:
    for curve in outcome.curves:
        yield f"curve {curve.key} {curve.tag} {curve.model} {curve.name}: {curve.with_numbers} ({curve.equation})"
        yield f"  {curve.x_label} | {curve.y_label} | {curve.shown_range} | {curve.shown_working} | {curve.problem}"
        yield f"  {curve.comparison} turned={curve.turned} log={curve.logarithmic} own={curve.own} brief={curve.brief}"
        for row in curve.parameters:
            yield f"  {row.name} {row.unit}: {row.shown} ({row.shown_interval}), p {row.shown_p}"
        for each in curve.candidates:
            numbers = f"{each.shown_rmse} {each.shown_r_squared} {each.shown_aicc} {each.shown_lack_of_fit}"
            yield f"  candidate {each.name} {each.chosen} {numbers} {each.shown_missed} {each.about_zero}"
        for line in (*curve.statistics, *curve.limits):
            yield f"  {line.name} = {line.shown} | {line.working} | {line.guide}"
        if curve.suggestion:
            yield f"  suggested: {curve.suggestion}"
        yield f"  range {curve.range}"
        yield f"  levels {' '.join(map(digits, curve.levels))} rmse {digits(curve.rmse)}"
        for point in curve.points[:6]:
            yield f"  point {point.reading} {digits(point.x)} {digits(point.y)} {digits(point.residual)} {point.state}"
        for sample in curve.samples[:4]:
            yield f"  sample {sample.group} {sample.reading} {sample.role} {digits(sample.x)} {digits(sample.y)}"
        for mean in curve.means:
            yield "  mean " + " ".join(map(digits, (mean.x, mean.y, mean.sd, mean.sem, mean.lower, mean.upper)))
        for mark in curve.marks:
            yield f"  mark {digits(mark.x)} {digits(mark.y)} {mark.text}"
        for name in ("x", "y", "lower", "upper", "one_lower", "one_upper"):
            values = getattr(curve.line, name)
            ends = f"{' '.join(map(digits, values[:3]))} … {' '.join(map(digits, values[-2:]))}"
            yield f"  line {name} {len(values)}: {ends}"
        yield f"  ruler {len(curve.ruler)} {' '.join(map(digits, curve.ruler[:2]))}"


def _answers(outcome: Outcome) -> Iterator[str]:
    table = outcome.answers
    yield f"answers of {table.of}"
    for row in table.rows:
        yield f"  {row.key} {row.name} {row.group} {row.role} {row.reading} {row.curve} {row.series}"
        for remark in row.remarks:
            yield f"    {remark.state.value} {remark.short}: {remark.text}"
    for column in table.columns:
        looks = f"{column.kind} {column.where} {column.interval} {column.level} {column.lead} {column.working}"
        yield f"  column {column.id} {column.heading} | {column.short} | {looks} | {column.note}"
        yield "    " + "; ".join(_cells(column))


def _cells(column: AnswerColumn) -> Iterator[str]:
    for i, text in enumerate(column.texts):
        if column.kind == "text":
            yield text
        elif column.kind == "value":
            ends = (
                f"{digits(column.lowers[i])} {column.lower_texts[i]} {digits(column.uppers[i])} {column.upper_texts[i]}"
            )
            yield f"{digits(column.values[i])} {text} [{ends}] {column.censors[i]}"
        else:
            yield f"{digits(column.values[i])} {text}"


def _readings(outcome: Outcome) -> Iterator[str]:
    for reading in outcome.readings:
        told = (reading.why, reading.suspect, reading.aside, reading.shown_deviation)
        yield f"reading {reading.id} {digits(reading.corrected)} {reading.shown} {reading.used} {' | '.join(told)}"
    for group in outcome.groups:
        yield f"group {group.id} {digits(group.result)} {group.shown_result} {digits(group.cv)} {group.shown_cv}"


def _working(outcome: Outcome) -> Iterator[str]:
    for id, lines in outcome.working.items():
        yield f"working {id}"
        for line in lines:
            told = f"{' '.join(line.cells)} {line.text} = {line.result} ({digits(line.value)})"
            yield f"  {line.step} {line.label}: {told}"


def near(one: str, other: str) -> bool:
    """Whether two pages say the same: words alike, numbers to the last digit but one."""
    words = [re.split(r"(-?\d+(?:\.\d+)?(?:e[-+]?\d+)?)", text) for text in (one, other)]
    if len(words[0]) != len(words[1]):
        return False
    return all(a == b or _close(a, b) for a, b in zip(*words, strict=True))


def _close(a: str, b: str) -> bool:
    try:
        x, y = float(a), float(b)
    except ValueError:
        return False
    return abs(x - y) <= 2e-5 * max(abs(x), abs(y), 1e-9)

"""Answers and verdict as plain text, for a terminal."""

from collections.abc import Iterator

from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.table import AnswerColumn, AnswerTable


def answers_text(outcome: Outcome) -> str:
    """The answers in aligned columns, the curve, and the verdict as the last lines."""
    verdict = outcome.verdict
    curve = outcome.curve.with_numbers or outcome.curve.problem
    said = verdict.headline + " " + "".join(part.text for part in verdict.detail).strip()
    compared = [each.text.replace("**", "") for each in getattr(outcome.part, "comparisons", ())]
    table = _aligned(outcome.answers) if outcome.answers.rows else []
    for other in outcome.further:
        table += ["", other.title, *_aligned(other)]
    return "\n".join([*table, "", *compared, f"Curve    {curve}", f"Verdict  {said.strip()}"]).lstrip("\n") + "\n"


def _aligned(answers: AnswerTable) -> list[str]:
    columns = [(answers.of, [row.name for row in answers.rows])]
    columns += [pair for column in answers.columns if column.where == "always" for pair in _shown(column)]
    columns.append(("", [", ".join(remark.short for remark in row.remarks) for row in answers.rows]))
    widths = [max(len(cell) for cell in (heading, *cells)) for heading, cells in columns]
    last = len(columns) - 1
    lines = zip(*((heading, *cells) for heading, cells in columns), strict=True)
    return [
        "  ".join(
            cell.ljust(width) if i in (0, last) else cell.rjust(width)
            for i, (cell, width) in enumerate(zip(line, widths, strict=True))
        ).rstrip()
        for line in lines
    ]


def _shown(column: AnswerColumn) -> Iterator[tuple[str, list[str]]]:
    """A column, and its interval where the page shows it; what is empty all the way down is left out."""
    if not any(column.texts):
        return
    unit = column.unit if column.kind == "value" or not column.short else ""
    yield f"{column.short or column.name} {unit}".rstrip(), [*column.texts]
    if column.interval == "always" and column.level:
        ends = zip(column.lower_texts, column.upper_texts, strict=True)
        yield f"{100 * column.level:g} % interval", [f"{low} to {high}" if low else "" for low, high in ends]

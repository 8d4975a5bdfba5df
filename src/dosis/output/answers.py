"""The table of answers as rows for another program: full precision beside what is shown, whatever the question."""

from collections.abc import Iterator

from dosis.run.outcome.table import AnswerColumn, AnswerTable

Cell = str | float | None
ENDS = ("lower", "upper", "shown")  # what stands beside a number with an interval; no two headings are the same


def answer_cells(answers: AnswerTable) -> tuple[list[str], list[list[Cell]]]:
    """Headings and rows; a bound has no number, and what is shown says so."""
    headings, below = [answers.of], [list[Cell](row.name for row in answers.rows)]
    for column in answers.columns:
        for heading, cells in _columns(column):
            headings.append(heading)
            below.append(list(cells))
    headings.append("Remarks")
    below.append([" ".join(remark.text for remark in row.remarks) for row in answers.rows])
    return headings, [list(row) for row in zip(*below, strict=True)]


def _columns(column: AnswerColumn) -> Iterator[tuple[str, tuple[Cell, ...]]]:
    if column.kind == "text":
        yield column.heading, column.texts
        return
    yield column.heading, column.values
    if column.kind == "value":
        cells = (column.lowers, column.uppers, column.texts)
        yield from zip([f"{column.name}, {end}" for end in ENDS], cells, strict=True)

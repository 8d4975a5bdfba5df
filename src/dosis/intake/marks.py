"""Marks of a recording, words in a column beside its channels, and what each of these is of."""

import re
from collections.abc import Sequence
from typing import Any

from dosis.intake.columns import split_heading
from dosis.intake.table import Table
from dosis.run.layout import Quantity

MARKS = re.compile(r"^(comments?|marks?|markers?|notes?|events?|remarks?|annotations?)\b", re.IGNORECASE)
MAX_NAME, MAX_UNIT = 200, 40


def noted(table: Table, times: Sequence[float | None], readings: Sequence[int]) -> dict[str, Any]:
    """`marks`, each with its time; `marked_by`, the column they stand in; `of`, what each channel is of."""
    of = []
    for i in readings:
        name, unit = split_heading(table.headings[i])
        of.append(Quantity(name=name[:MAX_NAME] or "Signal", unit=unit[:MAX_UNIT]))
    others = [i for i in range(len(table.columns)) if i not in readings]
    by = next((i for i in others if MARKS.match(table.headings[i].strip())), None)
    if by is None:
        by = next((i for i in others if _words(table, i)), None)
    if by is None:
        return {"of": of}
    cells = zip(times, table.columns[by].numbers, strict=True)
    marks = [(time, cell.text.strip()[:MAX_NAME]) for time, cell in cells if time is not None and cell.text.strip()]
    return {"marks": marks, "marked_by": by, "of": of}


def _words(table: Table, column: int) -> bool:
    own = table.columns[column]
    return not own.numeric and any(cell.text.strip() for cell in own.numbers)

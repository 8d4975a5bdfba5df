"""The answers as CSV or tab-separated text: full precision beside what is shown."""

import csv
import io
from typing import Literal

from dosis.output.effects import Cell, effect_table
from dosis.run.layout import ROLE_NAMES
from dosis.run.outcome.outcome import Outcome
from dosis.run.standards.answer import Answer

_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def answers_table(outcome: Outcome, separator: Literal[",", "\t"]) -> str:
    """One row for each sample and QC, or series and effect, with a heading row; rows end in CRLF (RFC 4180)."""
    if outcome.effects:
        headings, rows = effect_table(outcome)
        return _written(headings, [[_cell(cell) for cell in row] for row in rows], separator)
    unit = f" ({outcome.level_unit})" if outcome.level_unit else ""
    headings = [
        "Name", "Role", "Readings used", "Readings", f"Signal ({outcome.signal_label})", "SD", "CV (%)",
        f"In reading{unit}", "In reading, lower", "In reading, upper", "In reading, shown",
        "Dilution", f"In sample{unit}", "In sample, lower", "In sample, upper", "In sample, shown",
        f"Known or added{unit}", "Recovery (%)", "Recovery, lower (%)", "Recovery, upper (%)", "Curve", "Remarks",
    ]  # fmt: skip
    return _written(headings, [_row(answer) for answer in outcome.answers], separator)


def _written(headings: list[str], rows: list[list[str]], separator: str) -> str:
    buffer = io.StringIO()
    writer = csv.writer(buffer, delimiter=separator, lineterminator="\r\n")
    writer.writerow(headings)
    writer.writerows(rows)
    return buffer.getvalue()


def _cell(cell: Cell) -> str:
    return _safe(cell) if isinstance(cell, str) else _full(cell)


def _row(answer: Answer) -> list[str]:
    reading, sample = answer.in_reading, answer.in_sample
    return [
        _safe(answer.name), ROLE_NAMES[answer.role], str(answer.n), str(answer.n_all),
        _full(answer.signal), _full(answer.sd), _percent(answer.cv),
        _full(reading.value), _full(reading.lower), _full(reading.upper), reading.shown,
        _full(answer.dilution), _full(sample.value), _full(sample.lower), _full(sample.upper), sample.shown,
        _full(answer.nominal), _percent(answer.recovery), _percent(answer.recovery_lower),
        _percent(answer.recovery_upper), _safe(answer.curve),
        _safe(" ".join(remark.text for remark in answer.remarks)),
    ]  # fmt: skip


def _full(value: float | None) -> str:
    return "" if value is None else repr(value + 0.0)  # a zero has no sign


def _percent(fraction: float | None) -> str:
    return "" if fraction is None else repr(100 * fraction + 0.0)


def _safe(text: str) -> str:
    """A name that a spreadsheet would run as a formula gets an apostrophe before it (OWASP, CSV injection)."""
    text = " ".join(text.split())
    return f"'{text}" if text.startswith(_FORMULA) else text

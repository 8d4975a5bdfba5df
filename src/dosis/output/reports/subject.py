"""What a report is of: runs as they stand in a revision, and which of its sections are wanted."""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal

from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.working import WorkingLine
from dosis.run.readings import Readings
from dosis.run.record import Record

Section = Literal["checks", "figure", "answers", "curves", "readings", "method", "working", "ledger", "signatures"]
SECTIONS: dict[Section, str] = {
    "checks": "Checks", "figure": "Figure", "answers": "Answers", "curves": "Curves and parameters",
    "readings": "Readings and layout", "method": "Method", "working": "Working", "ledger": "Ledger",
    "signatures": "Signatures",
}  # fmt: skip


class Wanted(Record):
    """The sections of a report, and its paper. working : of no answer, of the first, or of all."""

    sections: tuple[Section, ...] = tuple(SECTIONS)
    paper: Literal["A4", "Letter"] = "A4"
    working: Literal["none", "first", "all"] = "first"


@dataclass(frozen=True)
class LedgerLine:
    """One entry of the Ledger."""

    at: datetime
    author: str
    revision: int
    words: str


@dataclass(frozen=True)
class Signed:
    """An electronic signature of the revision. digest : SHA-256 of what was signed."""

    name: str
    meaning: str
    at: datetime
    digest: str


@dataclass(frozen=True)
class ReportedRun:
    """A run in a revision, with where it came from and what was done to it since.

    digest : SHA-256 of what was brought in. program : the version of Dosis that computed it. working : the lines behind
    the answers whose working is shown, by group.
    """

    title: str
    study: str
    source_name: str
    digest: str
    opened_at: datetime
    revision: int
    author: str
    at: datetime
    program: str
    readings: Readings
    layout: Layout
    method: Method
    outcome: Outcome
    ledger: tuple[LedgerLine, ...] = ()
    signed: tuple[Signed, ...] = ()
    working: dict[str, tuple[WorkingLine, ...]] = field(default_factory=dict)

"""The working of a revision as it is stored: apart from its outcome, for it is looked at one group at a time."""

from dosis.run.outcome.working import WorkingLine
from dosis.run.record import Record


class Working(Record):
    """The lines behind every value, by the id of its group or number."""

    lines: dict[str, tuple[WorkingLine, ...]]

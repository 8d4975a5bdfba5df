"""A sample or QC read back."""

from dataclasses import KW_ONLY

from dosis.run.layout import Role
from dosis.run.outcome.value import Remark, Value
from dosis.run.record import light


@light
class Answer:
    """A sample or QC read back.

    key : one of its kind in the run; the group's id, or with what tells this reading or plate from the group's others.
    reading : the one reading it is of, where each has its own answer. curve : the key of the curve it was read through.
    """

    _: KW_ONLY
    group: str
    key: str = ""
    reading: int | None = None
    curve: str = ""
    role: Role
    name: str
    n: int
    n_all: int
    signal: float | None
    shown_signal: str
    sd: float | None
    cv: float | None
    shown_cv: str
    dilution: float
    shown_dilution: str
    in_reading: Value
    in_sample: Value
    nominal: float | None = None
    recovery: float | None = None
    shown_recovery: str = ""
    recovery_lower: float | None = None
    recovery_upper: float | None = None
    remarks: tuple[Remark, ...] = ()

"""What became of each reading, of each group of them, and of the columns that can be the signal."""

from dosis.run.record import light


@light
class ReadingOutcome:
    """One reading after the blank; `why` says why it is not used.

    deviation : of a well from its curve, or from the mean of its group.
    """

    id: int
    corrected: float | None
    shown: str
    used: bool
    why: str = ""
    deviation: float | None = None
    shown_deviation: str = ""
    suspect: str = ""  # why an outlier test points at it among its replicates
    aside: str = ""  # why it is not part of the curve, though nobody excluded it: its level is left out


@light
class GroupOutcome:
    """A group as the plate shows it: its result, where it has one, and how far its replicates agree."""

    id: str
    result: float | None
    shown_result: str
    cv: float | None
    shown_cv: str


@light
class SignalColumn:
    """A column that can be the signal; `mean` is that over all readings, to find the peak of a scan by."""

    name: str
    unit: str
    derived: bool
    mean: float | None

"""What only the outcome of spectra has: what is marked on the scans, and how they change."""

from typing import Literal

from dosis.run.outcome.drawn import Curve
from dosis.run.outcome.findings import Part
from dosis.run.record import light


@light
class ScanPeak:
    """A place to be marked on a scan: where, how high, and as it is shown."""

    x: float
    y: float
    shown: str
    highest: bool = False


@light
class ScanMarks:
    """What is marked on one scan; `place` is that of its level among all levels, from 0 to 1, for its color; below it
    without a level.

    residual : of a mixture, what is left of the scan once its components are taken off, thinned.
    """

    key: str
    reading: int
    group: str
    role: str
    place: float
    peaks: tuple[ScanPeak, ...] = ()
    rest_x: tuple[float, ...] = ()
    rest_y: tuple[float, ...] = ()


class SpectrumPart(Part):
    """scans : in the order of the curves. places : where values are read off in all. window : of the peaks.

    followed, followed_at : whose change is followed, and where. changes : its curves, by series; timed : whether levels
    are times. isosbestic : where scans meet. taken_off : whether anything has been done to the scans since they were
    read, so that before and after differ.
    """

    kind: Literal["spectrum"] = "spectrum"
    scans: tuple[ScanMarks, ...] = ()
    places: tuple[float, ...] = ()
    x_label: str = ""
    y_label: str = ""
    level_label: str = ""
    followed: str = ""
    followed_at: float | None = None
    changes: tuple[Curve, ...] = ()
    timed: bool = False
    isosbestic: tuple[float, ...] = ()
    stages: tuple[str, ...] = ()

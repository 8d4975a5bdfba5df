"""Calibrations of channels kept by name, to be applied to other recordings."""

from typing import Annotated

from pydantic import Field

from dosis.run.layout import Level, Name, Unit
from dosis.run.record import Record


class KeptCurve(Record):
    """What turns a signal into a value, c₀ + c₁·signal + …, and between which signals it was made.

    signal : the unit of the signal. of : the run and the day it was made from, in words.
    """

    coefficients: Annotated[tuple[Level, ...], Field(min_length=2, max_length=4)]
    low: Level
    high: Level
    signal: Unit = ""
    of: Name = ""


class KeptChannel(Record):
    """One channel of a kept calibration: its name, what its value is called and in which unit, and its curve."""

    channel: Name
    name: Name = ""
    unit: Unit = ""
    decimals: Annotated[int, Field(ge=0, le=9)] | None = None
    curve: KeptCurve


class KeptCalibration(Record):
    """All channels of a logger that were calibrated together."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    channels: Annotated[tuple[KeptChannel, ...], Field(min_length=1, max_length=64)]

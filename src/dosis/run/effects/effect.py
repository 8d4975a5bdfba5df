"""What a series of doses does: its effect doses and the shape of its curve."""

from typing import Literal

from dosis.run.outcome.value import Remark, Value
from dosis.run.record import Record, light


@light
class EffectDose:
    """The dose with an effect of so many percent.

    relative : of the way between the curve's plateaus; absolute : on the scale of the references; between : by a
        straight line between the two doses around it.
    """

    percent: float
    relative: Value = Value()
    absolute: Value = Value()
    between: Value = Value()


@light
class EffectShape:
    """What else a curve says of its series, each with its interval; as in `Effect`."""

    minus_log: Value = Value()
    slope: Value = Value()
    lower: Value = Value()
    upper: Value = Value()
    area: Value = Value()


class Effect(Record):
    """What a series of doses does.

    symbol : one for the run, "IC" where all that show an effect fall, else "EC"; of counts "LC" or "LD".
    minus_log : −log10 of the leading relative dose, of mol/L where the unit is molar. area : under the curve, over log
        dose. other : the relative half-effect dose on the other scale, raw beside normalized.
    shape : the same and the plateaus, with intervals.
    spearman, trimmed : of counts, Spearman and Kärber's mean, plain and trimmed; shown_fit : chi-square of the line.
    """

    series: str
    name: str
    group: str
    n: int
    symbol: Literal["IC", "EC", "LC", "LD"] = "EC"
    doses: tuple[EffectDose, ...]
    minus_log: float | None = None
    shown_minus_log: str = "—"
    slope: float | None = None
    shown_slope: str = "—"
    shown_plateaus: str = "—"
    area: float | None = None
    shown_area: str = "—"
    shape: EffectShape = EffectShape()
    other: Value = Value()
    r_squared: float | None = None
    shown_r_squared: str = "—"
    about_zero: bool = False  # whether R² is, the model having no constant
    spearman: Value = Value()
    trimmed: Value = Value()
    shown_fit: str = ""
    remarks: tuple[Remark, ...] = ()

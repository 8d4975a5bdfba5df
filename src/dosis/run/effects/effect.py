"""What a series of doses does: its effect doses and the shape of its curve. It stays on the bench."""

from dataclasses import KW_ONLY
from typing import Literal

from dosis.run.outcome.value import Remark, Value
from dosis.run.record import light


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
class Shape:
    """What else a curve says of its series, each with its interval.

    minus_log : −log10 of the leading relative dose, of mol/L where the unit is molar. area : under the curve, over log
        dose. other : the relative half-effect dose on the other scale, raw beside normalized. threshold : the
        no-effect concentration of a curve that has one.
    """

    minus_log: Value = Value()
    slope: Value = Value()
    lower: Value = Value()
    upper: Value = Value()
    area: Value = Value()
    other: Value = Value()
    threshold: Value = Value()


@light
class Effect:
    """A series with its effect doses, the first of which leads.

    symbol : one for the run, "IC" where all that show an effect fall, else "EC"; of counts "LC" or "LD".
    about_zero : whether R² is, the model having no constant.
    spearman, trimmed : of counts, Spearman and Kärber's mean, plain and trimmed; shown_fit : chi-square of the line.
    """

    _: KW_ONLY
    series: str
    name: str
    group: str
    n: int
    symbol: Literal["IC", "EC", "LC", "LD"] = "EC"
    doses: tuple[EffectDose, ...]
    shape: Shape = Shape()
    r_squared: float | None = None
    about_zero: bool = False
    spearman: Value = Value()
    trimmed: Value = Value()
    shown_fit: str = ""
    remarks: tuple[Remark, ...] = ()

"""The table of answers of a dose–response run: a row for each series, with its effect doses and the curve's shape."""

from collections.abc import Iterator, Sequence

from dosis.core.rounding import fixed
from dosis.run.effects.effect import Effect
from dosis.run.effects.no_effect import no_effect_columns
from dosis.run.effects.table import common_symbol, effect_rows
from dosis.run.outcome.table import AnswerColumn, AnswerTable, bare, numbers, texts, values
from dosis.run.outcome.value import Value
from dosis.run.questions.dose.bench import DoseBench

RELATIVE = "Between the curve's own plateaus"
ABSOLUTE = "On the scale of the references"
OTHER = "Relative, on the other scale: raw beside normalized"
THRESHOLD = "No-effect concentration: the threshold of the curve, interval by profile likelihood"
INTERPOLATED = "By a straight line between the two doses around it, on log dose"


def dose_table(bench: DoseBench, effects: Sequence[Effect], unit: str, level: float) -> AnswerTable:
    """Effect doses in `unit`, with intervals of that level."""
    return AnswerTable(of="Series", rows=effect_rows(effects), columns=tuple(_columns(bench, effects, unit, level)))


def _columns(bench: DoseBench, effects: Sequence[Effect], unit: str, level: float) -> Iterator[AnswerColumn]:
    if not effects:
        return
    symbol = common_symbol(effects)
    yield texts("kind", "Kind", [effect.symbol for effect in effects], where="exports")
    for i, first in enumerate(effects[0].doses):
        doses, name = [effect.doses[i] for effect in effects], f"{symbol}{first.percent:g}"
        id, where = f"{first.percent:g}", "more" if i else "always"
        with_interval = {"unit": unit, "level": level, "interval": "always", "working": f"effect.{id}"}
        yield values(f"relative_{id}", f"{name} relative", [dose.relative for dose in doses], lead=True,
                     short=name if i else f"{name} relative", note=RELATIVE, **with_interval)  # fmt: skip
        yield values(f"absolute_{id}", f"{name} absolute", [dose.absolute for dose in doses], where=where,
                     short=f"{name} absolute", note=ABSOLUTE, **with_interval)  # fmt: skip
        yield bare(f"between_{id}", f"{name} interpolated", [dose.between for dose in doses], unit=unit, where=where,
                   short="Interpolated", note=INTERPOLATED)  # fmt: skip
    yield from no_effect_columns(bench, [effect.series for effect in effects], unit)
    yield from _shape(effects, unit, level, bench.of_raw)
    counts = [effect.n for effect in effects]
    yield numbers("n", "Readings", counts, map(str, counts), kind="count", where="exports")


def _shape(effects: Sequence[Effect], unit: str, level: float, of_raw: bool) -> Iterator[AnswerColumn]:
    shapes, leading = [effect.shape for effect in effects], f"effect.{effects[0].doses[0].percent:g}"
    more = {"level": level, "interval": "more"}
    if any(shape.threshold != Value() for shape in shapes):
        yield values("threshold", "NEC", [shape.threshold for shape in shapes], unit=unit, level=level, lead=True,
                     interval="always", note=THRESHOLD, working="parameter.threshold")  # fmt: skip
    yield values("slope", "Slope", [shape.slope for shape in shapes], working="parameter.slope", **more)
    yield numbers("r_squared", "R2", [effect.r_squared for effect in effects], map(_shown_square, effects), short="R²")
    yield texts("r_squared_about", "R2 about", map(_about, effects), where="exports")
    yield bare("other", "On the other scale", [shape.other for shape in shapes], unit=unit, where="more",
               short="normalized" if of_raw else "raw", note=OTHER)  # fmt: skip
    more["where"] = "more"
    yield values("minus_log", "-log10 of the dose", [shape.minus_log for shape in shapes], short="−log10",
                 working=leading, note="Of mol/L where the unit is molar", **more)  # fmt: skip
    yield values("lower", "Lower plateau", [shape.lower for shape in shapes], working="parameter.lower", **more)
    yield values("upper", "Upper plateau", [shape.upper for shape in shapes], working="parameter.upper", **more)
    yield values("area", "Area over log dose", [shape.area for shape in shapes], short="Area", working=leading,
                 note="Under the curve, over log10 dose", **more)  # fmt: skip


def _shown_square(effect: Effect) -> str:
    if effect.r_squared is None:
        return "—"
    return f"{'R₀² ' if effect.about_zero else ''}{fixed(effect.r_squared, 3)}"


def _about(effect: Effect) -> str:
    return "" if effect.r_squared is None else "zero" if effect.about_zero else "the mean"

"""The table of answers of a mortality run: a row for each series, with its lethal doses and what needs no line."""

from collections.abc import Iterator, Sequence

from dosis.run.effects.effect import Effect
from dosis.run.effects.no_effect import no_effect_columns
from dosis.run.effects.table import common_symbol, effect_rows
from dosis.run.outcome.table import AnswerColumn, AnswerTable, bare, numbers, texts, values
from dosis.run.questions.mortality.bench import CountBench


def lethal_table(bench: CountBench, effects: Sequence[Effect], unit: str, level: float) -> AnswerTable:
    """Lethal doses in `unit`, with intervals of that level."""
    return AnswerTable(of="Series", rows=effect_rows(effects), columns=tuple(_columns(bench, effects, unit, level)))


def _columns(bench: CountBench, effects: Sequence[Effect], unit: str, level: float) -> Iterator[AnswerColumn]:
    if not effects:
        return
    for i, first in enumerate(effects[0].doses):
        name = f"{common_symbol(effects)}{first.percent:g}"
        yield values(f"relative_{first.percent:g}", name, [effect.doses[i].relative for effect in effects], unit=unit,
                     short=name, level=level, interval="always", lead=True,
                     working=f"effect.{first.percent:g}")  # fmt: skip
    yield from no_effect_columns(bench, [effect.series for effect in effects], unit)
    yield bare("slope", "Slope", [effect.shape.slope for effect in effects])
    yield values("spearman", "Spearman–Kärber", [effect.spearman for effect in effects], unit=unit, level=level,
                 short="Spearman–Kärber", note="A mean of log10 dose, which needs no line")  # fmt: skip
    yield values("trimmed", "Trimmed", [effect.trimmed for effect in effects], unit=unit, level=level,
                 short="Trimmed", note="The same without the tails of the response")  # fmt: skip
    yield texts("fit", "Fit", [effect.shown_fit or "—" for effect in effects], where="more")
    counts = [effect.n for effect in effects]
    yield numbers("n", "Readings", counts, map(str, counts), kind="count", where="exports")

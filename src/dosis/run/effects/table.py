"""Rows of answers that are of series of doses."""

from collections.abc import Sequence

from dosis.run.effects.effect import Effect
from dosis.run.outcome.table import AnswerRow
from dosis.run.roles import Role


def effect_rows(effects: Sequence[Effect]) -> tuple[AnswerRow, ...]:
    """One for each series."""
    return tuple(
        AnswerRow(
            key=effect.series, name=effect.name, group=effect.group, role=Role.DOSE, curve=effect.name,
            series=effect.series, remarks=effect.remarks,
        )
        for effect in effects
    )  # fmt: skip


def common_symbol(effects: Sequence[Effect]) -> str:
    """What effect doses are called in a heading: as every series has it, else EC."""
    symbols = {effect.symbol for effect in effects}
    return symbols.pop() if len(symbols) == 1 else "EC"

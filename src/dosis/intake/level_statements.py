"""What is said of the levels of a table: their unit, logarithms, sums, errors, and those that could not be read."""

from dosis.core.rounding import given
from dosis.intake.dilutions import parse_dilution
from dosis.intake.table import Table
from dosis.intake.understanding import ColumnKind, Statement
from dosis.intake.wording import count_of, rows_named, small
from dosis.run.questions.registry import question_of
from dosis.run.roles import Role
from dosis.run.steps.summary import listed


def units_statement(table: Table) -> Statement | None:
    """The unit of the levels, and where it was found."""
    levels, asked = table.levels, question_of(table.question)
    at = table.index(ColumnKind.LEVEL)
    if by_dilution(table):
        text = "**Doses are the dilutions:** 1:100, or 100, is a dose of 0.01."
        return Statement(id="level", state="ok", text=text, change="columns")
    if at is None:
        text = f"**No column of {asked.levels} was found,** so there are no {asked.point}s. Choose one above the table."
        plated = table.index(ColumnKind.WELL) is not None
        return None if plated else Statement(id="level", state="look", text=text, change="columns")
    if levels.clash:
        return Statement(id="unit", state="look", text=f"**Units do not agree.** {levels.clash}", change="cells")
    unit, what = table.level[1], _level_words(table, at)
    free = asked.point == "point"  # x may be anything, with a unit or without
    if not unit:
        text = f"**{what}**, without a unit." if free else (
            f"**{asked.levels.capitalize()} have no unit.** Give one, so that the answers carry it."
        )  # fmt: skip
        return Statement(id="unit", state="ok" if free else "look", text=text, change="unit")
    shown = f" Converted from {levels.label}." if levels.label and levels.label != unit else ""
    text = f"**{what} in {unit}.**{shown}"
    if levels.lifted:
        cells = "1 cell" if levels.lifted == 1 else f"{levels.lifted} cells"
        how = f"; {', '.join(levels.converted)} converted" if levels.converted else ""
        text = f"**Units found** in {cells}: {small(what)} in **{unit}**{how}.{shown} The unit moved to the heading."
    return Statement(id="unit", state="ok", text=text, change="unit")


def by_dilution(table: Table) -> bool:
    """Whether dilutions are what the question calls levels, there being none."""
    if not question_of(table.question).diluted or ColumnKind.LEVEL in table.kinds:
        return False
    factors = {parse_dilution(table.cell(cells, ColumnKind.DILUTION), table.decimal) for _, cells in table.body}
    return bool(factors - {None, 1.0})


def _level_words(table: Table, at: int) -> str:
    asked = question_of(table.question)
    if asked.point == "point":
        named = bool(table.headings[at]) and table.level[0].casefold() != "x"
        return f"x is {table.level[0] if named else f'column {at + 1}'}"
    return f"{asked.levels.capitalize()} are"


def logged_statement(table: Table) -> Statement | None:
    """That levels were typed as logarithms, and whether the lowest of them stands for none."""
    if not table.levels.logged:
        return None
    text = "**Levels are typed as log10** and are turned into what they are the logarithm of."
    lowest, zero = table.levels.lowest, table.levels.zero
    if zero is not None:
        return Statement(id="log", state="ok", text=f"{text} {given(zero)} stands for none.", change="zero")
    if lowest is not None:
        text += f" **{given(lowest)} lies far below the next:** does it stand for none?"
        return Statement(id="log", state="look", text=text, change="zero")
    return Statement(id="log", state="ok", text=text, change="log")


def worked_statement(table: Table) -> Statement | None:
    """That sums typed in the place of a level were worked out, and that words stand for none."""
    said = []
    if worked := table.levels.worked:
        said.append(f"**Worked out:** {', '.join(worked[:3])}{' …' if len(worked) > 3 else ''}.")
    if table.levels.controls:
        said.append(f"**{count_of(len(table.levels.controls), 'control')}**, named among the levels, stand for none.")
    return Statement(id="worked", state="ok", text=" ".join(said), change="columns") if said else None


def errors_statement(table: Table) -> Statement | None:
    """Which columns are errors of others, and whether they are used."""
    at = [i for i, kind in enumerate(table.kinds) if kind is ColumnKind.ERROR]
    if not at:
        return None
    pairs = listed([f"{table.headings[i]} of {table.headings[i - 1] or 'the column before'}" for i in at])
    if question_of(table.question).point == "point":
        text = f"**Errors:** {pairs}; drawn as bars, and weights where they are chosen."
        return Statement(id="errors", state="ok", text=text, change="columns")
    text = f"**Errors are kept, not used:** {pairs}. Replicates as they were read say more."
    return Statement(id="errors", state="look", text=text, change="columns")


def levels_statement(table: Table) -> Statement | None:
    """Levels that could not be read, and standards that have none."""
    bare = [n for n, role in table.roles.items() if role is Role.STANDARD and n not in table.levels.values]
    unread = table.levels.unread
    if not bare and not unread:
        return None
    said = []
    if unread:
        row, text = next(iter(unread.items()))
        where, level = f"“{text}” in row {row}", question_of(table.question).one_level
        if all(map(table.named_by_level, unread.values())):
            others = f" and {len(unread) - 1} more" if len(unread) > 1 else ""
            said.append(f"**{where}{others}:** not {level}, but the name of what was read there.")
        else:
            said.append(unread_level(where, len(unread), level))
    if bare:
        one = len(bare) == 1
        standards = "The standard in" if one else "The standards in"
        left = "has no concentration and stays" if one else "have no concentration and stay"
        said.append(f"{standards} {rows_named(bare)} {left} out of the curve.")
    return Statement(id="levels", state="look", text=" ".join(said), change="roles")


def unread_level(where: str, count: int, level: str = "a concentration") -> str:
    """That a level could not be read; `where` is the first of so many."""
    if count > 1:
        return f"**{where} and {count - 1} more** cannot be read as {level}."
    return f"**{where}** cannot be read as {level}."

"""`understand`: from sheets of cells and a person's corrections to readings and a first layout."""

import re
from collections.abc import Sequence
from contextlib import suppress
from itertools import islice

import numpy as np

from dosis.core.numbers import Decimal, Meaning, TypedNumber, guess_decimal, parse_number
from dosis.core.units import is_unit
from dosis.intake.assemble import MAX_NAME, MAX_UNIT, assemble
from dosis.intake.called import called
from dosis.intake.columns import (
    SINGLE,
    ColumnCells,
    channel_of,
    columns_of,
    is_axis,
    split_heading,
    stem,
)
from dosis.intake.counted import split_shares
from dosis.intake.courses import find_courses
from dosis.intake.edits import edited, was
from dosis.intake.guess import guess_columns
from dosis.intake.heads import read_heads
from dosis.intake.kinds import kind_words
from dosis.intake.levels import Levels, read_levels, without_log
from dosis.intake.long_courses import NotLong, Room, lengthened
from dosis.intake.plates import find_blocks
from dosis.intake.proposal import propose
from dosis.intake.roles import guess_role
from dosis.intake.series import apart, columns_differ, common_words, guess_across, is_measured, tell_apart
from dosis.intake.shape import is_heading, should_turn, turned
from dosis.intake.sheets import Sheet, SourceFile, joined, sheets_of_files, sheets_of_text
from dosis.intake.statements import state_all
from dosis.intake.table import Table
from dosis.intake.text import MANY_CELLS, MAX_CELLS, MAX_COLUMNS, Grid, IntakeError
from dosis.intake.times import is_time
from dosis.intake.understand_plates import understand_plates
from dosis.intake.understanding import CellMark, Choices, Column, ColumnKind, Intake, Row, Understanding
from dosis.run.questions.registry import question_of
from dosis.run.roles import Role

AGAIN = "Bring in again"  # the sheet of a workbook that Dosis wrote
MOST_TITLES = 30  # lines of one cell above a table, beyond which they are no title
SIGNS = 50_000  # cells from which the decimal sign is told
SEEN = 2_000  # rows in which the shape of a sheet is looked for


def understand(
    text: str, choices: Choices | None = None, *, files: Sequence[SourceFile] = (), look_only: bool = False,
    first: int | None = None,
) -> Intake:  # fmt: skip
    """Understand a pasted table, or files in its place. Raises IntakeError as `understand_sheets`."""
    chosen = choices or Choices()

    def by(most: int) -> Intake:
        sheets = (
            sheets_of_files(files, chosen.separator, chosen.encoding, most=most)
            if files
            else sheets_of_text(text, chosen.separator, most=most)
        )
        return understand_sheets(sheets, chosen, files=len(files) or 1, look_only=look_only, first=first)

    # What a person set right stands in a cell, wherever that is.
    if len(files) <= 1 and not (chosen.edits or chosen.cells or chosen.rows):
        with suppress(NotLong):
            return by(MANY_CELLS)
    return by(MAX_CELLS)


def understand_sheets(
    sheets: Sequence[Sheet], choices: Choices | None = None, *, files: int = 1, look_only: bool = False,
    first: int | None = None, room: Room = np.empty,
) -> Intake:  # fmt: skip
    """Understand what a person brought: one sheet of several, or several files together.

    With `look_only` no readings are made of a table; they take as long again. With `first` only so many of a table's
    rows are described, for a first look; how many there are is said all the same. `room` makes the array that the
    numbers of a long table are put into.

    Raises
    ------
    IntakeError : when there is no table in it (empty, too large, an unclosed quote). A table that is one but cannot
        be evaluated comes back with `ready` False and a statement that says what is missing.
    """
    chosen = choices or Choices()
    sheet, number = _sheet(sheets, chosen, files)
    names = [s.name for s in sheets] if len(sheets) > 1 else []
    decimal: Decimal = chosen.decimal or guess_decimal(
        list(islice((cell for row in sheet.grid[:SEEN] for cell in row), SIGNS))
    )
    cells = len(sheet.grid) * max(map(len, sheet.grid), default=0)
    if cells > MAX_CELLS:
        raise IntakeError(
            f"This table has {cells:,} cells; {MAX_CELLS:,} are the most in one run. Split it, or leave out "
            "columns that are not needed."
        )
    sheet = sheet._replace(grid=_even(sheet.grid))
    plain = sheet._replace(grid=edited(sheet.grid, chosen.edits)) if chosen.edits else sheet
    blocks, notes = find_blocks(plain.grid, asked=chosen.shape == "plate") if chosen.shape != "table" else ([], [])
    if chosen.shape == "plate" and not blocks:
        raise IntakeError(
            "No plate grid was found in it: Dosis looks for columns headed 1, 2, 3 … and rows A, B, C … of a plate of "
            "24, 48, 96, 384 or 1536 wells. Choose “table” to read it as a table."
        )
    if blocks and sheet.tail is None:
        found = understand_plates(plain, decimal, blocks, notes, chosen, names, number)
        edits = was(sheet.grid, chosen.edits)
        return found.model_copy(update={"understanding": found.understanding.model_copy(update={"edited": edits})})
    asked = question_of(chosen.question) if chosen.question is not None else None
    of_samples, scans = asked is not None and asked.unknowns, asked is not None and asked.along == "wave"
    turn = chosen.turn
    if turn is None:
        turn = should_turn(sheet.grid[:SEEN], decimal, of_samples=of_samples, scans=scans)
    if turn and len(sheet.grid) > MAX_COLUMNS:
        raise IntakeError(
            f"This table has {len(sheet.grid):,} rows; at most {MAX_COLUMNS:,} can be turned into columns."
        )
    shown, shares = split_shares(turned(sheet.grid) if turn else sheet.grid)
    grid = edited(shown, chosen.edits)
    table = _table(sheet, decimal, grid, chosen, turn, names)
    table.shares = shares
    table.long = sheet.tail is not None and sheet.tail.later
    table.asks, table.why = propose(table)
    table.question = chosen.question or table.asks
    _controls(table, chosen)
    if (along := question_of(table.question).along) != "":
        table.courses = find_courses(table, along)
        if table.courses is not None and table.courses.by == "column" and chosen.signal_name is None:
            table.signal = _signal_of_courses(table)
        if table.courses is not None and table.across != "pairs":
            table.kinds[table.courses.at] = ColumnKind.TIME
    if sheet.tail is not None:
        table.courses = lengthened(table.courses, sheet.tail, table, room=room, look_only=look_only)
    statements, ready = state_all(table, chosen)
    readings, layout = assemble(table, chosen) if ready and not look_only else (None, None)
    several = table.across == "channels"
    return Intake(
        understanding=Understanding(
            asks=table.asks,
            why=table.why,
            question=table.question,
            kinds=kind_words(table.question),
            edited=was(shown, chosen.edits),
            heading_row=table.header_row,
            zero=table.levels.lowest if table.levels.zero is None else table.levels.zero,
            logged=table.levels.logged,
            called=called(table),
            shape="table",
            turned=turn,
            across=table.across,
            sheets=tuple(names),
            sheet=number,
            plates=(),
            channels=tuple(dict.fromkeys(table.channels)) if several else (),
            notes=tuple(" ".join(filter(None, grid[number - 1])) for number in table.asides),
            separator=sheet.separator,
            decimal=decimal,
            header=table.header_row is not None,
            columns=tuple(
                Column(
                    heading=heading,
                    kind=kind,
                    unit=table.level[1] if kind is ColumnKind.LEVEL else split_heading(heading)[1],
                )
                for heading, kind in zip(table.headings, table.kinds, strict=True)
            ),
            rows=_rows(table, first),
            row_count=sum(map(any, table.grid)) - len(table.heading_rows),
            statements=tuple(statements),
            ready=ready,
            signal_name=table.signal[0],
            signal_unit=table.signal[1],
            level_name=table.level[0],
            level_unit=table.level[1],
        ),
        readings=readings,
        layout=layout,
    )


def _sheet(sheets: Sequence[Sheet], chosen: Choices, files: int) -> tuple[Sheet, int | None]:
    if chosen.sheet is not None and chosen.sheet < len(sheets):
        return sheets[chosen.sheet], chosen.sheet
    if files > 1 and len(sheets) > 1:
        return joined(sheets), None
    if (own := next((i for i, sheet in enumerate(sheets) if sheet.name.endswith(AGAIN)), None)) is not None:
        return sheets[own], own
    if len(sheets) == 1:
        return sheets[0], None
    # The sheet with the most numbers is the one with the readings.
    counts = [sum(any(c.isdigit() for c in cell) for row in sheet.grid[:SEEN] for cell in row) for sheet in sheets]
    best = counts.index(max(counts))
    return sheets[best], best if len(sheets) > 1 else None


def _even(grid: Grid) -> Grid:
    width = max(map(len, grid), default=0)
    return [row + [""] * (width - len(row)) for row in grid]


def _table(
    sheet: Sheet, decimal: Decimal, grid: Grid, chosen: Choices, turn: bool, names: list[str]
) -> Table:  # fmt: skip
    width = len(grid[0])
    filled = [(number, row) for number, row in enumerate(grid, start=1) if any(row)]
    asides: list[int] = []
    # Lines of one cell above a table of several columns are its title; they stay with the pasted text.
    titles = next((i for i, (_, row) in enumerate(filled[:MOST_TITLES]) if sum(map(bool, row)) > 1), 0)
    if width > 1:
        asides = [number for number, _ in filled[:titles]]
        filled = filled[titles:]
    header = chosen.header if chosen.header is not None else _has_header([row for _, row in filled], decimal, turn)
    header_row = filled[0] if header and filled else None
    heads = read_heads([row for _, row in filled[:3]], decimal) if header_row else None
    headings = heads.headings if heads else [""] * width
    heading_rows = [number for number, _ in filled[: heads.rows]] if heads else []
    filled = filled[len(heading_rows) :]
    # After turning, the unit of the axis stands in the corner: "Wavelength (nm)" over 400, 401 …
    axis_unit = split_heading(headings[0])[1] if turn else ""
    axis = turn and is_axis(headings[0])
    columns = columns_of([row for _, row in filled], ["", *headings[1:]] if axis else headings, decimal)
    kinds = guess_columns(columns)
    for choice in chosen.columns:
        if 0 <= choice.column < width:
            kinds = _with_kind(kinds, columns, choice.column, choice.kind, several=chosen.across == "pairs")
    rows = [number for number, _ in filled]
    at_levels = {
        i: read_levels(
            dict(zip(rows, columns[i].numbers, strict=False)), split_heading(headings[i])[1], chosen,
            heading=split_heading(headings[i])[0],
        )
        for i, kind in enumerate(kinds) if kind is ColumnKind.LEVEL
    }  # fmt: skip
    level_column = min(at_levels, default=None)
    heading = "" if level_column is None else headings[level_column]
    levels = Levels({}, "") if level_column is None else at_levels[level_column]
    readings = [i for i, kind in enumerate(kinds) if kind is ColumnKind.READING]
    channels = [channel_of(headings[i], axis_unit) for i in readings]
    across = chosen.across or guess_across(channels, kinds)
    if chosen.across is None and heads is None and len(readings) > 1 and at_levels and _differ(columns, readings):
        across = "series"
    if across == "pairs":
        channels = tell_apart([split_heading(headings[i])[0] for i in readings])
    elif across == "series" and len(set(channels)) < len(channels) and (chosen.across is not None or heads is None):
        channels = apart(channels)
    xs = common_words([split_heading(headings[i])[0] for i in at_levels]) if len(at_levels) > 1 else ""
    signal_columns = [i for i, c in zip(readings, channels, strict=True) if c == channels[0]]
    table = Table(
        separator=sheet.separator, decimal=decimal, header_row=header_row[0] if header_row else None,
        heading_rows=heading_rows, headings=headings, grid=grid, body=filled, asides=asides, columns=columns,
        kinds=kinds, levels=levels, at_levels=at_levels,
        roles={}, odd=[], cleaned=sheet.cleaned, across=across, channels=channels, turned=turn, sheets=names,
        name=sheet.name,
        signal=_signal(headings, readings if across != "channels" else signal_columns, chosen),
        level=_level(heading, levels, chosen, xs),
    )  # fmt: skip
    given = {choice.row: choice.role for choice in chosen.rows}
    table.roles = {
        number: given.get(number) or guess_role(
            table.cell(cells, ColumnKind.ROLE), table.named(cells), number in levels.values
        )
        for number, cells in filled
    }  # fmt: skip
    mixed = [i for i in readings if not columns[i].plain]
    odd = ((at, i, cell) for i in mixed for at, cell in enumerate(columns[i].numbers) if _is_odd(cell))
    table.odd = [(filled[at][0], i, cell) for at, i, cell in sorted(odd)]
    return table


def _controls(table: Table, chosen: Choices) -> None:
    """Where the question has controls and no quality controls, what is called one is the other."""
    roles, given = question_of(table.question).roles, {choice.row for choice in chosen.rows}
    if Role.VEHICLE in roles and Role.QC not in roles:
        for number, role in table.roles.items():
            if role is Role.QC and number not in given:
                table.roles[number] = Role.VEHICLE


def _signal_of_courses(table: Table) -> tuple[str, str]:
    """Columns are named for what was read in them only where all have the same name; a line above may say it."""
    names = {stem(table.headings[i]) for i, kind in enumerate(table.kinds) if kind is ColumnKind.READING}
    if len(names) == 1 and is_measured(next(iter(names))):
        return names.pop()[:MAX_NAME], table.signal[1]
    for number in table.asides:
        name, unit = split_heading(next(filter(None, table.grid[number - 1]), ""))
        if is_measured(name):
            return name[:MAX_NAME], unit[:MAX_UNIT]
    return "Signal", table.signal[1]


def _plain(cell: TypedNumber) -> bool:
    return not cell.unit or is_unit(cell.unit)


def _is_odd(cell: TypedNumber) -> bool:
    if cell.meaning is Meaning.NUMBER:
        return bool(cell.unit) and not is_unit(cell.unit)
    return bool(cell.text.strip()) or bool(cell.unit and not is_unit(cell.unit))


def _with_kind(
    kinds: list[ColumnKind], columns: list[ColumnCells], column: int, kind: ColumnKind, *, several: bool
) -> list[ColumnKind]:  # fmt: skip
    """A column taken for `kind`; where only one can be that, the former one is read, or a note where it is words."""
    single = kind in SINGLE and not (several and kind is ColumnKind.LEVEL)
    freed = [ColumnKind.READING if each.numeric else ColumnKind.NOTE for each in columns]
    return [kind if i == column else freed[i] if single and old is kind else old for i, old in enumerate(kinds)]


def _differ(columns: list[ColumnCells], readings: list[int]) -> bool:
    """Whether columns without headings differ throughout, by their full rows."""
    rows = zip(*([cell.value for cell in columns[i].numbers] for i in readings), strict=True)
    return columns_differ([row for row in rows if None not in row])


def _has_header(rows: Grid, decimal: Decimal, turn: bool) -> bool:
    if len(rows) < 2:
        return False
    if turn and rows[0][0] and not parse_number(rows[0][0], decimal).value:
        return True  # what was the first column, words down the side
    first = [parse_number(cell, decimal) for cell in rows[0]]
    numbers = [c for c, n in zip(rows[0], first, strict=True) if n.meaning is Meaning.NUMBER and _plain(n)]
    if is_time(rows[0][0]) and not is_time(rows[1][0]):
        return True  # "Time, 0.5 mM, 1 mM": what is read at times may be named for its level
    if numbers:  # "Well, 450 nm, 620 nm": numbers are headings beside a word that is one
        wells = any(is_heading(cell) for cell in rows[0]) and not any(is_heading(cell) for cell in rows[1])
        return wells and all(re.match(r"^\d", channel_of(cell)) for cell in numbers)
    below = [parse_number(cell, decimal).meaning for row in rows[1:50] for cell in row]
    return Meaning.NUMBER in below and any(n.meaning is Meaning.TEXT for n in first)


def _signal(headings: list[str], readings: list[int], chosen: Choices) -> tuple[str, str]:
    if len(readings) > 1 and len({headings[i] for i in readings}) == 1:
        readings = readings[:1]
    names = [stem(headings[i]) if len(readings) > 1 else split_heading(headings[i])[0] for i in readings]
    units = {split_heading(headings[i])[1] for i in readings}
    unit = units.pop() if len(units) == 1 else ""
    if names and names[0].replace(".", "").isdigit():  # a wavelength or a time does not name what was read
        names = ["Signal"]
    name = names[0] if names and len(set(names)) == 1 and names[0] else "Signal"
    return chosen.signal_name or name[:MAX_NAME], unit[:MAX_UNIT] if chosen.signal_unit is None else chosen.signal_unit


def _level(heading: str, levels: Levels, chosen: Choices, xs: str) -> tuple[str, str]:
    quantity = split_heading(heading)[0].removeprefix("Level: ")
    if xs:
        quantity = xs  # "Time A" beside "Time B" is a time
    if levels.logged:
        quantity = without_log(quantity)
        quantity = quantity[:1].upper() + quantity[1:]
    name = "Concentration" if quantity.lower().rstrip(".") in ("", "c", "conc", "concn", "level") else quantity
    return chosen.level_name or name[:MAX_NAME], levels.unit[:MAX_UNIT]


def _rows(table: Table, first: int | None) -> tuple[Row, ...]:
    hidden = set(table.heading_rows)
    filled = (number for number, cells in enumerate(table.grid, start=1) if any(cells) and number not in hidden)
    shown = list(islice(filled, first))
    at = {number: i for i, (number, _) in enumerate(islice(table.body, first))}
    by_column = [_marks(table, column, first) for column in range(len(table.kinds))]
    plain, later = (CellMark.TEXT,) * len(table.kinds), table.courses is not None or table.undescribed
    body = list(zip(*by_column, strict=True))
    roles = {} if later else table.roles
    return tuple(
        Row.model_construct(  # a hundred thousand cells of our own need no second look
            number=number, role=roles.get(number) if number in at else None, cells=tuple(table.grid[number - 1]),
            marks=body[at[number]] if number in at else plain,
        )
        for number in shown
    )  # fmt: skip


_READING_MARKS = {
    Meaning.ABOVE: CellMark.ABOVE, Meaning.BELOW: CellMark.BELOW, Meaning.MISSING: CellMark.MISSING,
    Meaning.TEXT: CellMark.ODD,
}  # fmt: skip


def _marks(table: Table, column: int, first: int | None) -> list[CellMark]:
    """How each cell of a column was taken, down the body or its first rows."""
    kind, numbers = table.kinds[column], table.columns[column].numbers[:first]
    if kind is ColumnKind.READING:
        return [
            _READING_MARKS[n.meaning] if n.meaning is not Meaning.NUMBER else
            CellMark.NUMBER if not n.unit else CellMark.UNIT if is_unit(n.unit) else CellMark.ODD
            for n in numbers
        ]  # fmt: skip
    if kind is ColumnKind.LEVEL:
        known = table.at_levels[column].values
        return [
            (CellMark.UNIT if n.unit else CellMark.NUMBER) if number in known else
            CellMark.MISSING if n.meaning is Meaning.MISSING else CellMark.ODD
            for (number, _), n in zip(table.body, numbers, strict=False)
        ]  # fmt: skip
    if kind is ColumnKind.TIME:
        return [CellMark.NUMBER if n.meaning is Meaning.NUMBER and not n.unit else CellMark.TEXT for n in numbers]
    return [CellMark.TEXT] * len(numbers)

"""`understand`: from a pasted table and a person's corrections to readings and a first layout."""

from dosis.core.numbers import Decimal, Meaning, TypedNumber, guess_decimal, parse_number
from dosis.core.units import is_unit
from dosis.intake.assemble import assemble
from dosis.intake.columns import columns_of, guess_columns, split_heading, stem
from dosis.intake.levels import read_levels
from dosis.intake.roles import guess_role
from dosis.intake.statements import state_all
from dosis.intake.table import Table
from dosis.intake.text import Grid, IntakeError, Separator, check_size, guess_separator, split
from dosis.intake.understanding import CellMark, Choices, Column, ColumnKind, Intake, Row, Understanding


def understand(text: str, choices: Choices | None = None) -> Intake:
    """Understand a pasted table.

    Raises
    ------
    IntakeError : when there is no table in it (empty, too large, an unclosed quote). A table that is one but cannot
        be evaluated comes back with `ready` False and a statement that says what is missing.
    """
    chosen = choices or Choices()
    check_size(len(text.encode("utf-8", errors="replace")))
    clean = "".join(c for c in text if c in "\n\r\t" or (ord(c) >= 32 and c not in "\x7f\ufeff"))
    if not clean.strip():
        raise IntakeError("There is nothing to read yet. Paste a table: one row for each standard, blank and sample.")
    separator = chosen.separator or guess_separator(clean)
    grid = split(clean, separator)
    width = max(map(len, grid))
    grid = [row + [""] * (width - len(row)) for row in grid]
    decimal: Decimal = chosen.decimal or guess_decimal([cell for row in grid for cell in row])
    table = _table(clean, separator, decimal, grid, chosen, cleaned=len(text) - len(clean))
    statements, ready = state_all(table, chosen)
    readings, layout = assemble(table, chosen) if ready else (None, None)
    return Intake(
        understanding=Understanding(
            separator=separator,
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
            rows=_rows(table),
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


def _table(text: str, separator: Separator, decimal: Decimal, grid: Grid, chosen: Choices, cleaned: int) -> Table:
    width = len(grid[0])
    filled = [(number, row) for number, row in enumerate(grid, start=1) if any(row)]
    asides = []
    # A line of one cell above a table of several columns is a title; it stays with the pasted text.
    while width > 1 and len(filled) > 1 and sum(map(bool, filled[0][1])) == 1 and sum(map(bool, filled[1][1])) > 1:
        asides.append(filled.pop(0)[0])
    header = chosen.header if chosen.header is not None else _has_header([row for _, row in filled], decimal)
    header_row = filled.pop(0) if header and filled else None
    headings = header_row[1] if header_row else [""] * width
    columns = columns_of([row for _, row in filled], headings, decimal)
    kinds = guess_columns(columns)
    for choice in chosen.columns:
        if 0 <= choice.column < width:
            kinds = _with_kind(kinds, choice.column, choice.kind)
    level_column = kinds.index(ColumnKind.LEVEL) if ColumnKind.LEVEL in kinds else None
    numbers = () if level_column is None else columns[level_column].numbers
    heading = "" if level_column is None else headings[level_column]
    levels = read_levels(dict(zip((n for n, _ in filled), numbers, strict=False)), split_heading(heading)[1], chosen)
    readings = [i for i, kind in enumerate(kinds) if kind is ColumnKind.READING]
    table = Table(
        text=text, separator=separator, decimal=decimal, header_row=header_row[0] if header_row else None,
        headings=headings, grid=grid, body=filled, asides=asides, columns=columns, kinds=kinds, levels=levels,
        roles={}, odd=[], cleaned=cleaned,
        signal=_signal(headings, readings, chosen), level=_level(heading, levels.unit, chosen),
    )  # fmt: skip
    given = {choice.row: choice.role for choice in chosen.rows}
    table.roles = {
        number: given.get(number) or guess_role(
            table.cell(cells, ColumnKind.ROLE), table.cell(cells, ColumnKind.NAME), number in levels.values
        )
        for number, cells in filled
    }  # fmt: skip
    table.odd = [
        (number, i, columns[i].numbers[at])
        for at, (number, _) in enumerate(filled)
        for i in readings
        if _is_odd(columns[i].numbers[at])
    ]
    return table


def _is_odd(cell: TypedNumber) -> bool:
    return (cell.meaning is not Meaning.NUMBER and bool(cell.text.strip())) or bool(
        cell.unit and not is_unit(cell.unit)
    )


def _with_kind(kinds: list[ColumnKind], column: int, kind: ColumnKind) -> list[ColumnKind]:
    """A column taken for `kind`; where only one can be that, the former one becomes a note."""
    single = kind in (ColumnKind.NAME, ColumnKind.ROLE, ColumnKind.LEVEL, ColumnKind.DILUTION)
    return [kind if i == column else ColumnKind.NOTE if single and old is kind else old for i, old in enumerate(kinds)]


def _has_header(rows: Grid, decimal: Decimal) -> bool:
    if len(rows) < 2:
        return False
    first = [parse_number(cell, decimal) for cell in rows[0]]
    if any(n.meaning is Meaning.NUMBER and (not n.unit or is_unit(n.unit)) for n in first):
        return False
    below = [parse_number(cell, decimal).meaning for row in rows[1:50] for cell in row]
    return Meaning.NUMBER in below and any(n.meaning is Meaning.TEXT for n in first)


def _signal(headings: list[str], readings: list[int], chosen: Choices) -> tuple[str, str]:
    names = [stem(headings[i]) if len(readings) > 1 else split_heading(headings[i])[0] for i in readings]
    unit = split_heading(headings[readings[0]])[1] if readings else ""
    name = names[0] if names and len(set(names)) == 1 and names[0] else "Signal"
    return chosen.signal_name or name, unit if chosen.signal_unit is None else chosen.signal_unit


def _level(heading: str, unit: str, chosen: Choices) -> tuple[str, str]:
    quantity = split_heading(heading)[0]
    name = "Concentration" if quantity.lower().rstrip(".") in ("", "c", "x", "conc", "concn", "level") else quantity
    return chosen.level_name or name, unit if chosen.level_unit is None else chosen.level_unit


def _rows(table: Table) -> tuple[Row, ...]:
    at = {number: i for i, (number, _) in enumerate(table.body)}
    return tuple(
        Row(
            number=number, role=table.roles.get(number) if number in at else None, cells=tuple(cells),
            marks=tuple(_mark(table, number, i, at.get(number)) for i in range(len(cells))),
        )
        for number, cells in enumerate(table.grid, start=1)
        if number != table.header_row and any(cells)
    )  # fmt: skip


def _mark(table: Table, row: int, column: int, at: int | None) -> CellMark:
    kind = table.kinds[column]
    if at is None or kind not in (ColumnKind.READING, ColumnKind.LEVEL):
        return CellMark.TEXT
    number = table.columns[column].numbers[at]
    if kind is ColumnKind.LEVEL:
        if row in table.levels.values:
            return CellMark.UNIT if number.unit else CellMark.NUMBER
        return CellMark.MISSING if number.meaning is Meaning.MISSING else CellMark.ODD
    if number.meaning is Meaning.NUMBER:
        return CellMark.NUMBER if not number.unit else CellMark.UNIT if is_unit(number.unit) else CellMark.ODD
    return {Meaning.ABOVE: CellMark.ABOVE, Meaning.BELOW: CellMark.BELOW, Meaning.MISSING: CellMark.MISSING}.get(
        number.meaning, CellMark.ODD
    )

"""A look-up table from two pasted columns."""

from pydantic import ValidationError

from dosis.core.numbers import Meaning, guess_decimal, parse_number
from dosis.intake.columns import split_heading
from dosis.intake.sheets import sheets_of_text
from dosis.intake.text import IntakeError
from dosis.run.steps.signal import Lookup


def read_lookup(name: str, text: str) -> Lookup:
    """Two columns of numbers, with a heading row or without; units are taken from the headings.

    Raises
    ------
    IntakeError : naming the row that is not a pair of numbers, or saying why the pairs make no table.
    """
    rows = [
        (n, [cell for cell in row if cell]) for n, row in enumerate(sheets_of_text(text)[0].grid, start=1) if any(row)
    ]
    decimal = guess_decimal([cell for _, row in rows for cell in row])
    units = ["", ""]
    if rows and all(parse_number(cell, decimal).meaning is Meaning.TEXT for cell in rows[0][1]):
        units = [split_heading(cell)[1] for cell in (*rows[0][1], "", "")[:2]]
        rows = rows[1:]
    x, y = [], []
    for number, row in rows:
        pair = [parse_number(cell, decimal) for cell in row]
        if len(pair) != 2 or any(n.meaning is not Meaning.NUMBER or n.value is None for n in pair):
            raise IntakeError(f"Row {number} (“{' '.join(row)}”) is not two numbers. A look-up table has two columns.")
        x.append(pair[0].value or 0.0)
        y.append(pair[1].value or 0.0)
    if len(x) > 1 and len(set(x)) < 2:
        raise IntakeError("The first column of a look-up table needs at least two different numbers.")
    try:
        return Lookup(name=name, x=tuple(x), y=tuple(y), x_unit=units[0], y_unit=units[1])
    except ValidationError as error:
        said = str(error.errors()[0]["msg"]).removeprefix("Value error, ")
        raise IntakeError(said if len(x) > 1 else "A look-up table needs at least two rows of two numbers.") from error

"""Derived columns: an expression over the columns of a table, computed row by row, its units checked where known."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array
from dosis.core.expressions import Expression, parse
from dosis.core.expressions.tree import Binary, Call, Name, Node
from dosis.core.interpolation import LookupTable
from dosis.core.units import result_unit


@dataclass(frozen=True)
class Derived:
    """A derived column: values (rows,), NaN where they are not defined, and the filled rows where that is so.

    unit : None where a column's own is not known, or nothing could be told.
    """

    expression: Expression
    values: Array
    undefined: tuple[int, ...]
    unit: str | None


def derive(
    expression: str, columns: Mapping[str, ArrayLike], *, tables: Mapping[str, LookupTable] | None = None,
    units: Mapping[str, str] | None = None,
) -> Derived:  # fmt: skip
    """Compute an expression over columns.

    Parameters
    ----------
    expression : in ordinary notation, such as ``-log10(T/100)``; names with spaces in braces, ``{A 450} - {A 620}``.
    columns : (rows,) each, NaN where a cell is empty; tables : look-up tables by the name used in ``lookup(name, x)``
        and, from the second column to the first, ``lookback(name, y)``.
    units : of the columns, as far as they are known.

    Raises
    ------
    ExpressionError : where the expression stops making sense.
    ValueError : for a name that is not a column, naming those there are, columns of different lengths, or a look-up
        table that does not stand first in ``lookup`` or ``lookback``.
    UnitError : where units do not go together, such as mg/L added to µM.
    """
    parsed = parse(expression, columns=True)
    known = {name: np.atleast_1d(np.asarray(column, dtype=float)) for name, column in columns.items()}
    sizes = {column.size for column in known.values()}
    if len(sizes) > 1:
        raise ValueError(f"The columns have different lengths: {', '.join(map(str, sorted(sizes)))}.")
    lookups = dict(tables or {})
    unknown = sorted(parsed.names - set(known) - set(lookups))
    if unknown:
        there = ", ".join(f"{{{name}}}" if " " in name else name for name in (*known, *lookups)) or "none"
        raise ValueError(f"There is no column “{unknown[0]}”. The columns are: {there}.")
    _check_tables(parsed.root, lookups)
    rows = sizes.pop() if sizes else 1
    value = np.broadcast_to(np.asarray(parsed.value({**known, **lookups}), dtype=float), (rows,)).copy()
    value[~np.isfinite(value)] = np.nan
    used = parsed.names & set(known)
    filled = np.all([np.isfinite(known[name]) for name in used], axis=0) if used else np.ones(rows, dtype=bool)
    undefined = tuple(int(i) for i in np.flatnonzero(np.isnan(value) & filled))
    unit = None
    if units and not (parsed.names & set(lookups)) and used <= set(units):
        unit = result_unit(parsed.value, {name: units[name] for name in used})
    return Derived(parsed, value, undefined, unit)


def _check_tables(node: Node, tables: Mapping[str, LookupTable]) -> None:
    match node:
        case Name(name) if name in tables:
            raise ValueError(f"“{name}” is a look-up table; use it as lookup({name}, x) or lookback({name}, y).")
        case Binary(_, left, right):
            _check_tables(left, tables)
            _check_tables(right, tables)
        case Call(function, arguments):
            of_table = function in ("lookup", "lookback")
            if of_table and not (isinstance(arguments[0], Name) and arguments[0].name in tables):
                raise ValueError(f"{function} needs a look-up table first, as in {function}(table, x).")
            for argument in arguments[1:] if of_table else arguments:
                _check_tables(argument, tables)

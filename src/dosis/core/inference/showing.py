"""A fit as it is looked at in a terminal or a notebook: its equation, its parameters, how good it is."""

from __future__ import annotations

from html import escape
from typing import TYPE_CHECKING, Any

from dosis.core.inference.parameters import not_determined
from dosis.core.rounding import p_value, significant, with_interval

if TYPE_CHECKING:
    from dosis.core.inference.result import Fit

HEADINGS = ("parameter", "estimate", "standard error", "lower 95 %", "upper 95 %", "p")


def parameter_table(fit: Fit, level: float = 0.95) -> list[dict[str, Any]]:
    """A row for each parameter, numbers at full precision; None where the readings do not tell."""
    rows = []
    for name, each in fit.parameters.items():
        lower, upper = each.interval(level) or (None, None)
        rows.append({
            "parameter": name, "estimate": each.estimate, "standard_error": each.standard_error, "lower": lower,
            "upper": upper, "p_value": each.p_value, "held": name in fit.fixed,
        })  # fmt: skip
    return rows


def to_frame(fit: Fit, level: float = 0.95) -> Any:
    """The table of parameters as a data frame of pandas, by the names of the parameters.

    Raises
    ------
    ImportError : where pandas is not installed; `parameter_table` needs nothing.
    """
    try:
        import pandas
    except ImportError as error:
        raise ImportError("to_frame() needs pandas; parameter_table() gives the same as a list of rows.") from error
    return pandas.DataFrame(parameter_table(fit, level)).set_index("parameter")


def summary(fit: Fit) -> str:
    """Equation, parameters with their intervals, and goodness of fit, in lines of text."""
    rows = [HEADINGS, *_shown(fit)]
    widths = [max(len(row[i]) for row in rows) for i in range(len(HEADINGS))]
    lines = [
        "  ".join([row[0].ljust(widths[0]), *(c.rjust(w) for c, w in zip(row[1:], widths[1:], strict=True))])
        for row in rows
    ]
    warned = [f"! {warning}" for warning in fit.warnings]
    return "\n".join([f"{fit.model.name}: {fit.model.equation}", "", *lines, "", *_goodness(fit), *warned])


def as_html(fit: Fit) -> str:
    """The same as a table for a notebook."""
    head = "".join(f"<th>{escape(each)}</th>" for each in HEADINGS)
    body = "".join(
        "<tr>" + "".join(f"<td style='text-align:{'left' if i == 0 else 'right'}'>{escape(cell)}</td>"
                         for i, cell in enumerate(row)) + "</tr>"
        for row in _shown(fit)
    )  # fmt: skip
    good = "<br>".join(map(escape, [*_goodness(fit), *fit.warnings]))
    title = f"<b>{escape(fit.model.name)}</b> <i>{escape(fit.model.equation)}</i>"
    return f"<div>{title}<table><thead><tr>{head}</tr></thead><tbody>{body}</tbody></table>{good}</div>"


def _shown(fit: Fit) -> list[tuple[str, ...]]:
    lost = not_determined(fit)
    found: list[tuple[str, ...]] = []
    for name, each in fit.parameters.items():
        lower, upper = each.interval() or (None, None)
        shown, low, high = with_interval(each.estimate, lower, upper)
        error = (
            "held" if name in fit.fixed else "—" if each.standard_error is None else significant(each.standard_error, 3)
        )
        found.append((
            name, "not determined" if name in lost else shown, error, low if lower is not None else "—",
            high if upper is not None else "—", "—" if each.p_value is None else p_value(each.p_value),
        ))  # fmt: skip
    return found


def _goodness(fit: Fit) -> list[str]:
    square = "R²" if fit.model.intercept else "R₀² (about zero)"
    parts = [f"{fit.n} readings, {fit.degrees_of_freedom} degrees of freedom"]
    parts += [] if fit.rmse is None else [f"RMSE {significant(fit.rmse, 4)}"]
    parts += [] if fit.r_squared is None else [f"{square} {significant(fit.r_squared, 6)}"]
    parts += [] if fit.aicc is None else [f"AICc {significant(fit.aicc, 5)}"]
    lack = fit.lack_of_fit.p_value
    return [", ".join(parts), *([] if lack is None else [f"lack of fit p {p_value(lack)}"])]

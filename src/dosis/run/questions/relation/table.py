"""The table of answers of a relation: a row for each series with its parameters, to the digits that were asked for."""

from collections.abc import Iterator, Sequence

from dosis.core.inference.parameters import not_determined
from dosis.core.rounding import significant
from dosis.run.curves.words import r2_name, shown_r_squared
from dosis.run.outcome.table import AnswerColumn, AnswerRow, AnswerTable, numbers, texts, values
from dosis.run.outcome.value import Remark, State, Value
from dosis.run.questions.relation.bench import Line
from dosis.run.roles import Role

FEW = 3  # parameters up to which there is room for their intervals


def relation_table(lines: Sequence[Line], units: dict[str, str], digits: int | None, level: float) -> AnswerTable:
    """A row for each series; `units` of the parameters, by name."""
    return AnswerTable(of="Series", rows=tuple(map(_row, lines)), columns=tuple(_columns(lines, units, digits, level)))


def _row(line: Line) -> AnswerRow:
    remarks = []
    if line.problem:
        remarks.append(Remark(state=State.FAIL, short="no curve", text=line.problem))
    if line.fit is not None and (lost := not_determined(line.fit)):
        text = f"The points do not determine {', '.join(sorted(lost))}; a simpler curve, or more points, would."
        remarks.append(Remark(state=State.LOOK, short=f"{', '.join(sorted(lost))} not determined", text=text))
    if line.fit is not None and not line.fit.converged:
        remarks.append(Remark(state=State.LOOK, short="not settled", text=line.fit.message))
    return AnswerRow(
        key=line.key, name=line.name, group=line.groups[0].id if line.groups else "", role=Role.POINT, curve=line.key,
        series=line.key, remarks=tuple(remarks),
    )  # fmt: skip


def _columns(lines: Sequence[Line], units: dict[str, str], digits: int | None, level: float) -> Iterator[AnswerColumn]:
    fitted = next((line.fit for line in lines if line.fit is not None), None)
    if fitted is not None:
        for name in fitted.model.names:
            cells = [_parameter(line, name, digits, level) for line in lines]
            where = "always" if len(fitted.model.names) < FEW else "more"
            yield values(f"parameter_{name}", name, cells, unit=units.get(name, ""), level=level, lead=True,
                         interval=where, working=f"parameter.{name}")  # fmt: skip
        squares = [None if line.fit is None else line.fit.r_squared for line in lines]
        shown = ["—" if s is None else shown_r_squared(s) for s in squares]
        yield numbers("r_squared", "R2", squares, shown, short=r2_name(fitted), working="statistic.r2")
        spreads = [None if line.fit is None else line.fit.rmse for line in lines]
        yield numbers("rmse", "RMSE", spreads, ["—" if s is None else significant(s, 3) for s in spreads],
                      working="statistic.rmse")  # fmt: skip
        yield texts("equation", "Equation", [_equation(line) for line in lines], where="exports")
    counts = [len(line.x) for line in lines]
    yield numbers("n", "Points", counts, map(str, counts), kind="count")


def _equation(line: Line) -> str:
    return "" if line.fit is None else line.fit.model.equation


def _parameter(line: Line, name: str, digits: int | None, level: float) -> Value:
    if line.fit is None or name not in line.fit.parameters or name in not_determined(line.fit):
        return Value()
    estimate = line.fit.parameters[name]
    lower, upper = estimate.interval(level) or (None, None)
    if digits is None:
        return Value.of(estimate.estimate, lower, upper)
    ends = ["" if end is None else significant(end, digits) for end in (lower, upper)]
    return Value(estimate.estimate, lower, upper, "", significant(estimate.estimate, digits), *ends)

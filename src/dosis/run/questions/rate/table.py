"""The tables of answers: a row for each group of courses, and below it one for each curve against the level."""

from collections.abc import Iterator

from dosis.core.rounding import given, significant
from dosis.run.curves.words import shown_r_squared
from dosis.run.layout import Group
from dosis.run.outcome.table import AnswerColumn, AnswerRow, AnswerTable, numbers, texts, values
from dosis.run.outcome.value import Remark, State, Value
from dosis.run.questions.rate.against import AgainstStep, parameters_of
from dosis.run.questions.rate.bench import Course, RateBench
from dosis.run.questions.rate.drawing import titles
from dosis.run.roles import Role

ALWAYS = 4  # quantities for which there is room without being asked
INTERVALS = 2  # of which the interval stands beside the number


def rate_table(bench: RateBench, level: float) -> AnswerTable:
    """A row for each group; replicates count together."""
    members: dict[str, list[Course]] = {}
    for course in bench.courses:
        members.setdefault(course.group.id, []).append(course)
    own = [courses[0].group for courses in members.values()]
    own.sort(key=bench.place_of)
    rows = tuple(_row(bench, group, members[group.id]) for group in own)
    return AnswerTable(of="Course", rows=rows, columns=tuple(_columns(bench, own, members, level)))


def _row(bench: RateBench, group: Group, courses: list[Course]) -> AnswerRow:
    remarks = [
        Remark(state=State.FAIL, short="no value", text=f"{course.key}: {bench.problems[course.id]}")
        for course in courses if course.id in bench.problems
    ]  # fmt: skip
    return AnswerRow(
        key=group.id, name=group.name, group=group.id, role=Role.POINT, curve=courses[0].key,
        remarks=(*remarks, *bench.remarks.get(group.id, ())),
    )  # fmt: skip


def _columns(
    bench: RateBench, groups: list[Group], members: dict[str, list[Course]], level: float
) -> Iterator[AnswerColumn]:
    if any(group.series for group in groups):
        yield texts("series", "Series", [group.series for group in groups], where="more")
    if any(group.level is not None for group in groups):
        levels = [group.level for group in groups]
        quantity = bench.layout.level
        shown = ["—" if each is None else given(each) for each in levels]
        yield numbers("level", quantity.name, levels, shown, unit=quantity.unit)
    for i, found in enumerate(bench.found):
        cells = [bench.of_groups.get(group.id, {}).get(found.id, Value()) for group in groups]
        where = "always" if i < ALWAYS else "more"
        if found.id == "r_squared":
            shown = ["—" if each.value is None else shown_r_squared(each.value) for each in cells]
            yield numbers("r_squared", "R²", [each.value for each in cells], shown, short="R²")
            continue
        if found.id == "intercept":
            where = "more"
        if all(each.lower is None and each.upper is None for each in cells):
            shown = [each.shown for each in cells]
            yield numbers(found.id, found.name, [each.value for each in cells], shown, unit=found.unit, where=where,
                          lead=found.lead)  # fmt: skip
            continue
        yield values(found.id, found.name, cells, unit=found.unit, level=level, lead=found.lead, where=where,
                     interval="always" if i < INTERVALS else "more")  # fmt: skip
    if any(found.id == "intercept" for found in bench.found):
        yield texts("equation", "Equation", [_equation(bench, members[group.id]) for group in groups], where="more")
    counts = [len(members[group.id]) for group in groups]
    if any(count > 1 for count in counts):
        yield numbers("courses", "Courses", counts, map(str, counts), kind="count")
    n = [sum(_points(bench, course) for course in members[group.id]) for group in groups]
    yield numbers("n", "Points", n, map(str, n), kind="count", where="more")


def _equation(bench: RateBench, courses: list[Course]) -> str:
    """Of a single course; several have one each."""
    lines = bench.lines
    if lines is None or len(courses) > 1 or courses[0].id in bench.problems:
        return ""
    slope, start = float(lines.slope[courses[0].index]), float(lines.intercept[courses[0].index])
    sign = "−" if start < 0 else "+"
    return f"y = {significant(slope, 4)} · t {sign} {significant(abs(start), 4)}"


def _points(bench: RateBench, course: Course) -> int:
    if bench.lines is not None:
        return int(bench.lines.n[course.index])
    if bench.batch is not None:
        return int(bench.batch.n[course.index])
    found = bench.fits.get(course.id)
    return 0 if found is None else found.n


def against_table(bench: RateBench, step: AgainstStep) -> tuple[AnswerTable, ...]:
    """A row for each curve against the level, with its parameters; none where there is no such curve."""
    fitted = [second for second in bench.seconds if second.fit is not None or second.kinds]
    if not fitted:
        return ()
    shared = bool(fitted[0].kinds)
    some = fitted[:1] if shared else fitted
    lead = next(each for each in bench.found if each.id == bench.second_of)
    level = bench.level
    rules = {"y": lead.unit, "x": level.unit, "kJ/mol": "kJ/mol",
             "y/x": f"{lead.unit}/{level.unit}" if level.unit else lead.unit}  # fmt: skip
    rows = tuple(
        AnswerRow(
            key=second.tag or "second.", name="All series" if shared else second.key or lead.name,
            group=second.groups[0].id, role=Role.POINT, curve=second.key, series=second.key,
        )
        for second in some
    )  # fmt: skip
    columns = []
    asked = [list(parameters_of(step, second)) for second in some]
    for i, (name, rule, _) in enumerate(asked[0]):
        title = title_of(step.model, name)
        columns.append(values(f"against_{name}", title, [each[i][2] for each in asked], unit=rules.get(rule, ""),
                              level=step.level, lead=i < 2, interval="always",
                              working=f"parameter.{name}"))  # fmt: skip
    fits = [second.fit for second in some]
    if not shared:
        squares = [None if each is None else each.r_squared for each in fits]
        columns.append(numbers("against_r_squared", "R²", squares,
                               ["—" if s is None else shown_r_squared(s) for s in squares], short="R²"))  # fmt: skip
    counts = [sum(len(each.x) for each in fitted) if shared else len(second.x) for second in some]
    columns.append(numbers("against_n", "Points", counts, map(str, counts), kind="count", where="more"))
    model = fitted[0].kinds[0].kind.name + " inhibition" if shared else _model_name(fitted[0].fit)
    return (AnswerTable(of="Series", title=f"{model}: {lead.name.lower()} against {level.name.lower() or 'level'}",
                        rows=rows, columns=tuple(columns)),)  # fmt: skip


def _model_name(result: object) -> str:
    model = getattr(result, "model", None)
    return getattr(model, "name", "Curve")


KINETIC = {
    "maximum": "Vmax",
    "half": "Km",
    "inhibition": "Ki",
    "ki": "Ki",
    "ki_free": "Ki (free)",
    "ki_bound": "Ki (bound)",
}
ENZYME = ("hyperbola", "substrate_inhibition", "inhibition")


def title_of(model: str, name: str) -> str:
    """Of a saturation by the names that the trade has."""
    named = {"highest": "Best rate", "energy": "Activation energy", "rate_25": "Rate at 25 °C"}
    return KINETIC[name] if model in ENZYME and name in KINETIC else named.get(name) or titles([name])[0]

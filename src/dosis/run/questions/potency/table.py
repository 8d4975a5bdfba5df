"""The tables of a potency run: a row for each sample; below it the analysis of variance, shapes and assays."""

from collections.abc import Iterator

from dosis.core.rounding import given, p_value, significant
from dosis.run.outcome.table import AnswerColumn, AnswerRow, AnswerTable, numbers, texts, values
from dosis.run.outcome.value import Remark, State, Value
from dosis.run.questions.potency.bench import Assay, PotencyBench, Sample
from dosis.run.questions.potency.checks import MEASURES, remarks_of
from dosis.run.roles import Role

SHORT = {"parallel": "not parallel", "agree": "assays do not agree", "precise": "interval too wide"}
SHAPES = 0.90


def potency_table(bench: PotencyBench) -> AnswerTable:
    """A row for each sample, with its potency in units where these are known."""
    samples = bench.samples
    return AnswerTable(of="Sample", rows=tuple(_row(bench, sample) for sample in samples),
                       columns=tuple(_columns(bench, samples)))  # fmt: skip


def _row(bench: PotencyBench, sample: Sample) -> AnswerRow:
    remarks = [
        Remark(state=check.state, short=SHORT.get(check.id, check.title), text=f"{check.found}. {check.why}")
        for check in remarks_of(sample, bench.checks)
    ]
    if sample.problem:
        state, short = (State.FAIL, "no potency") if sample.relative.value is None else (State.LOOK, "one assay")
        remarks.insert(0, Remark(state=state, short=short, text=f"{sample.name}: {sample.problem}."))
    return AnswerRow(
        key=sample.name, name=sample.name, group=sample.groups[0].id, role=Role.DOSE, curve=sample.curve,
        series=sample.name, remarks=tuple(remarks),
    )  # fmt: skip


def _columns(bench: PotencyBench, samples: list[Sample]) -> Iterator[AnswerColumn]:
    if not samples:
        return
    level = bench.interval
    if bench.in_units:
        yield values("potency", "Potency", [sample.potency for sample in samples], unit=bench.unit, level=level,
                     lead=True, interval="always", working="potency")  # fmt: skip
    yield values("relative", "Relative potency", [sample.relative for sample in samples], level=level,
                 lead=not bench.in_units, interval="more" if bench.in_units else "always", short="Relative",
                 note=f"Of {bench.reference}; above 1, less does the same", working="potency")  # fmt: skip
    if any(sample.percent.value is not None for sample in samples):
        yield values("percent", "Of the assumed potency", [sample.percent for sample in samples], unit="%",
                     level=level, interval="more", short="% of assumed", working="potency")  # fmt: skip
    tests = [_least(sample) for sample in samples]
    yield numbers("parallel", "Parallel, p", tests, ["—" if p is None else p_value(p) for p in tests],
                  note="Of the difference in shape from the reference, the smallest of its assays")  # fmt: skip
    counts = [len(sample.each) for sample in samples]
    if len(bench.assays) > 1:
        yield numbers("assays", "Assays", counts, map(str, counts), kind="count")
    errors = [sample.log_error for sample in samples]
    yield numbers("log_error", "SE of ln potency", errors, ["—" if e is None else significant(e, 3) for e in errors],
                  where="exports")  # fmt: skip
    dfs = [sample.degrees_of_freedom for sample in samples]
    yield numbers("df", "Degrees of freedom", dfs, ["—" if df is None else str(df) for df in dfs], kind="count",
                  where="exports")  # fmt: skip
    readings = [sum(assay.preparation.count(sample.name) for assay, _ in sample.each) for sample in samples]
    yield numbers("n", "Readings", readings, map(str, readings), kind="count", where="exports")


def _least(sample: Sample) -> float | None:
    found = [each.own_parallel.p_value for _, each in sample.each if each.own_parallel.p_value is not None]
    return min(found, default=None)


def further_tables(bench: PotencyBench) -> Iterator[AnswerTable]:
    """Assays beside each other where there are several, shapes, and an analysis of variance for each assay."""
    if len(bench.assays) > 1 and any(sample.each for sample in bench.samples):
        yield _assays(bench)
    if any(found.alike for sample in bench.samples for _, found in sample.each):
        yield _shapes(bench)
    for assay in bench.assays:
        if assay.analysis is not None and not assay.problem:
            yield _variance(assay)


def _assays(bench: PotencyBench) -> AnswerTable:
    pairs = [(sample, i) for sample in bench.samples for i in range(len(sample.each))]
    found = [sample.each[i] for sample, i in pairs]
    weights = [
        100 * sample.combined.weights[i]
        if sample.combined and len(sample.combined.weights) == len(sample.each)
        else None
        for sample, i in pairs
    ]
    cells = [Value.of(each.estimate, each.lower, each.upper) for _, each in found]
    return AnswerTable(
        of="Sample · assay", title="Independent assays",
        rows=tuple(_plain(f"assay {k}", assay.called(sample.name))
                   for k, ((sample, _), (assay, _)) in enumerate(zip(pairs, found, strict=True))),
        columns=(
            values("relative", "Relative potency", cells, level=bench.interval, interval="always"),
            numbers("weight", "Weight", weights, ["—" if w is None else f"{w:.0f}" for w in weights], unit="%"),
            numbers("df", "Degrees of freedom", [each.degrees_of_freedom for _, each in found],
                    [str(each.degrees_of_freedom) for _, each in found], kind="count", short="df"),
        ),
    )  # fmt: skip


def _shapes(bench: PotencyBench) -> AnswerTable:
    rows: list[AnswerRow] = []
    cells, margins, said = [], [], []
    for sample in bench.samples:
        for assay, found in sample.each:
            for each in found.alike:
                factor = 1 if each.of == "slope" else 100
                ends = [None if end is None else factor * end for end in (each.lower, each.upper)]
                name = assay.called(sample.name)
                of = f"{MEASURES[each.of]}, {'ratio' if factor == 1 else '% of the span'}"
                rows.append(_plain(f"shape {len(rows)}", f"{name}: {of}"))
                known = each.estimate == each.estimate and ends[0] is not None
                cells.append(Value.of(factor * each.estimate, *ends) if known else Value())
                margins.append(" to ".join(given(factor * end).replace("-", "−") for end in each.margins))
                said.append("within" if each.passed else "not shown")
    return AnswerTable(
        of="Measure", title="Shapes beside the reference", rows=tuple(rows),
        columns=(values("estimate", "Estimate", cells, level=SHAPES, interval="always"),
                 texts("margins", "Margins", margins), texts("equivalent", "Equivalent", said)),
    )  # fmt: skip


def _variance(assay: Assay) -> AnswerTable:
    assert assay.analysis is not None
    rows = assay.analysis.sources
    where = f" · {assay.name}" if assay.name else ""
    return AnswerTable(
        of="Source", title=f"Analysis of variance{where}",
        rows=tuple(_plain(f"variance {assay.name} {row.name}", row.name) for row in rows),
        columns=(
            numbers("df", "Degrees of freedom", [row.degrees_of_freedom for row in rows],
                    [str(row.degrees_of_freedom) for row in rows], kind="count", short="df"),
            _bare("squares", "Sum of squares", [row.sum_of_squares for row in rows]),
            _bare("mean", "Mean square", [row.mean_square for row in rows]),
            _bare("f", "F", [row.f for row in rows]),
            numbers("p", "p", [row.p_value for row in rows],
                    ["—" if row.p_value is None else p_value(row.p_value) for row in rows]),
        ),
    )  # fmt: skip


def _bare(id: str, name: str, cells: list[float | None]) -> AnswerColumn:
    return numbers(id, name, cells, ["—" if cell is None else significant(cell, 4) for cell in cells])


def _plain(key: str, name: str) -> AnswerRow:
    return AnswerRow(key=key, name=name, group="", role=Role.DOSE)

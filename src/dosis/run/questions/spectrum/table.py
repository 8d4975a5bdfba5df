"""The tables of spectra: a row for each scan, one for each of its peaks, and one for each series that changes."""

from collections.abc import Iterator

from dosis.core.rounding import given, significant
from dosis.run.curves.words import shown_r_squared
from dosis.run.outcome.table import AnswerColumn, AnswerRow, AnswerTable, numbers, texts, values
from dosis.run.outcome.value import Value
from dosis.run.questions.spectrum.bench import SpectrumBench
from dosis.run.questions.spectrum.change import NAMES
from dosis.run.questions.spectrum.intervals import LEVEL
from dosis.run.roles import Role

ALWAYS = 8  # columns for which there is room without being asked
MOST_PEAKS = 2_000  # rows of a table of peaks


def scan_table(bench: SpectrumBench) -> AnswerTable:
    """A row for each scan."""
    rows = tuple(
        AnswerRow(key=f"{scan.group.id}:{scan.id}", name=scan.key, group=scan.group.id, role=scan.group.role,
                  curve=scan.key, remarks=tuple(bench.remarks.get(scan.group.id, ())))
        for scan in bench.scans
    )  # fmt: skip
    return AnswerTable(of="Scan", rows=rows, columns=tuple(_columns(bench)))


def _columns(bench: SpectrumBench) -> Iterator[AnswerColumn]:
    groups = [scan.group for scan in bench.scans]
    if any(group.series for group in groups):
        yield texts("series", "Series", [group.series for group in groups], where="more")
    if any(group.level is not None for group in groups):
        levels = [group.level for group in groups]
        quantity = bench.layout.level
        shown = ["—" if each is None else given(each) for each in levels]
        yield numbers("level", quantity.name, levels, shown, unit=quantity.unit)
    for i, read in enumerate(bench.reads):
        where = "always" if i < ALWAYS else "more"
        if all(cell.lower is None and cell.upper is None for cell in read.cells) and read.id != "highest":
            yield numbers(read.id, read.name, [cell.value for cell in read.cells], [cell.shown for cell in read.cells],
                          unit=read.unit, where=where, short=read.short)  # fmt: skip
            continue
        interval = "always" if any(cell.lower is not None for cell in read.cells) else "exports"
        yield values(read.id, read.name, read.cells, unit=read.unit, level=LEVEL, lead=read.id == "highest",
                     where=where, interval=interval, short=read.short)  # fmt: skip
    counts = [len(bench.peaks[scan.index]) if bench.peaks else 0 for scan in bench.scans]
    yield numbers("peaks", "Peaks", counts, map(str, counts), kind="count", where="more")


def peak_table(bench: SpectrumBench) -> tuple[AnswerTable, ...]:
    """A row for each peak of each scan, in the order of the axis."""
    found = [
        (scan, k, peak) for scan in bench.scans if bench.peaks for k, peak in enumerate(bench.peaks[scan.index], 1)
    ]
    found = found[:MOST_PEAKS]
    if not found:
        return ()
    rows = tuple(
        AnswerRow(key=f"{scan.group.id}:{scan.id}:{k}", name=scan.key, group=scan.group.id, role=scan.group.role,
                  curve=scan.key)
        for scan, k, _ in found
    )  # fmt: skip
    unit, own = bench.axis.unit, bench.quantity.unit
    peaks = [peak for _, _, peak in found]
    by_area = " · ".join(filter(None, (own, unit)))
    places = [peak.wavelength for peak in peaks]
    columns = (
        numbers("peak_at", "Peak at", places, [bench.shown_place(place) for place in places], unit=unit),
        _column("peak_value", bench.quantity.name, [peak.value for peak in peaks], own, 4),
        _column("prominence", "Prominence", [peak.prominence for peak in peaks], own, 3),
        _column("width", "Width at half", [peak.width for peak in peaks], unit, 3),
        _column("peak_area", "Area", [peak.area for peak in peaks], by_area, 3),
    )
    return (AnswerTable(of="Scan", title="Peaks", rows=rows, columns=columns),)


def _column(id: str, name: str, values: list[float], unit: str, digits: int) -> AnswerColumn:
    return numbers(id, name, values, [significant(value, digits) for value in values], unit=unit)


def change_table(bench: SpectrumBench) -> tuple[AnswerTable, ...]:
    """A row for each series whose change has a rate."""
    made = [change for change in bench.changes if change.fit is not None]
    if not made:
        return ()
    unit = bench.layout.level.unit
    zero = made[0].chosen == "zero"
    per = (f"{bench.quantity.unit or '1'}/{unit}" if zero else f"1/{unit}") if unit else ""
    rows = tuple(
        AnswerRow(key=change.tag, name=change.key or bench.followed, group="", role=Role.POINT, curve=change.key,
                  series=change.key)
        for change in made
    )  # fmt: skip
    fits = [change.fit for change in made]
    last = [change.values.get("left", Value()) for change in made]
    columns = [
        texts("order", "Order", [NAMES[change.chosen] for change in made]),
        values("rate", "Rate" if zero else "Rate constant", [c.values["rate"] for c in made], unit=per, level=LEVEL,
               interval="always", working="rate"),
        values("half_life", "Half-life", [c.values["half_life"] for c in made], unit=unit, level=LEVEL,
               interval="always", working="half_life"),
        numbers("left", "Left at the end", [v.value for v in last], [v.shown for v in last], unit="%"),
        numbers("r_squared", "R²", [f.r_squared if f else None for f in fits],
                [shown_r_squared(f.r_squared) if f and f.r_squared is not None else "—" for f in fits]),
    ]  # fmt: skip
    return (AnswerTable(of="Series" if len(made) > 1 else "Change", title="Change", rows=rows, columns=tuple(columns)),)

"""The check that a plate reads alike everywhere: no edge effect, no drift along its rows or columns."""

from dosis.core.plates import Pattern, plate_patterns
from dosis.core.rounding import p_value, significant
from dosis.run.deviations import deviations
from dosis.run.outcome.step import Check
from dosis.run.outcome.value import State
from dosis.run.questions.dose.bench import DoseBench
from dosis.run.readings import Reading
from dosis.run.steps.summary import NAMED, listed

WELLS = 24  # on a plate from which a pattern can be told
UNEVEN = 0.01  # common practice, no source: what chance does to less than one plate in a hundred
PATTERNS = {"edge": "edge wells against inner", "rows": "first row to last", "columns": "first column to last"}


def even_plates(bench: DoseBench) -> Check | None:
    """Every plate with enough wells that have something to expect of them; None where there is none."""
    off = deviations(bench)
    uneven, tested = [], False
    for i, plate in enumerate(bench.readings.plates):
        wells = [bench.by_id[id] for id in off if bench.by_id[id].plate == i]
        if len(wells) < WELLS:
            continue
        name = plate.name or f"plate {i + 1}"
        for found in _patterns(wells, off, plate.rows, plate.columns):
            tested = True
            size = f"{'+' if found.size > 0 else ''}{significant(found.size, 2)} {bench.layout.signal.unit}".rstrip()
            said = f"{size} (p {p_value(found.p_value)})"
            bench.write("check.even", f"{name}, {PATTERNS[found.kind]}", text=f"mean deviations of {len(wells)} wells",
                        result=said, value=found.size)  # fmt: skip
            if found.p_value < UNEVEN:
                where = f"{name}, " if len(bench.readings.plates) > 1 else ""
                uneven.append(f"{where}{PATTERNS[found.kind]} {said}")
    if not tested:
        return None
    return Check(
        id="even", title="The plate reads alike everywhere", state=State.LOOK if uneven else State.PASS,
        found="; ".join(uneven[:NAMED]) or "no edge effect, no drift", threshold=f"p ≥ {UNEVEN:g}",
        why="Wells at the edge dry out or warm up first, and a plate that is filled or read slowly drifts. Let the "
        "wells show their deviations; leave the edge empty, or spread the doses over the plate.",
        verdict=f"The plate is uneven: {listed(uneven, 1)}.",
    )  # fmt: skip


def _patterns(wells: list[Reading], off: dict[int, float], rows: int, columns: int) -> tuple[Pattern, ...]:
    return plate_patterns(
        [well.row or 0 for well in wells], [well.column or 0 for well in wells], [off[well.id] for well in wells],
        rows, columns,
    )  # fmt: skip

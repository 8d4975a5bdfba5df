"""What next? Levels and numbers of readings by which an answer would be known as well as is wanted."""

import math
from collections.abc import Callable, Sequence
from dataclasses import replace

from dosis.core.inference.result import Fit
from dosis.core.plan import Criterion, Design, Wanted, best_design, half_width, simulated
from dosis.core.rounding import given, significant
from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.questions.registry import question_of
from dosis.run.readings import Readings
from dosis.run.record import Record

SIZES = (1, 1.5, 2, 3, 4, 6, 8, 12, 16, 24)  # times the present readings, for which a width is worked out
MOST = 5_000  # readings that are planned at most
SAMPLE = 100  # readings of the sample itself


class PlannedDesign(Record):
    """Levels, the share of the readings that each takes, and the half-width for each number of readings.

    needed : readings for the wanted half-width, None where more than 5,000 would be; counts : how they fall on levels.
    """

    name: str
    levels: tuple[float, ...]
    shown_levels: tuple[str, ...]
    counts: tuple[int, ...]
    needed: int | None
    readings: tuple[int, ...]
    widths: tuple[float | None, ...]


class Planned(Record):
    """width : the half-width wanted, now : as it stands, both shares of the answer. said : what to do, in a sentence.

    simulated : within how much 95 % of refitted answers lay by the plan that is proposed; None where it was not tried.
    """

    answer: str
    of: str
    unit: str
    width: float
    now: float | None
    said: str
    simulated: float | None
    designs: tuple[PlannedDesign, ...]


def plan(readings: Readings, layout: Layout, method: Method, answer: str, width: float | None) -> Planned | None:
    """Plan for one answer; None where its question has no curve to plan by, or it has no number.

    answer : the key of its row. width : the half-width of the 95 % interval that is wanted, a share of the answer; half
    of the present one where none is.
    """
    found = question_of(method.question).to_plan(readings, layout, method.steps, answer)
    if found is None:
        return None
    name, curve, wanted = found
    levels, counts = _now(curve)
    span = min(level for level in levels if level > 0 or min(levels) < 0), max(levels)
    of = wanted.parameter or f"a sample of {significant(wanted.level, 3)}"
    total, now = sum(counts), half_width(curve, wanted, levels, counts)
    if width is None:
        width = float(f"{now / 2:.1g}") if math.isfinite(now) else 0.05
    designs = [_planned("as now", Design(levels, tuple(n / total for n in counts)), curve, wanted, width, total)]
    criteria: tuple[Criterion, Criterion] = ("D", "c")
    for title, criterion in zip(("for the whole curve (D)", "for this answer (c)"), criteria, strict=True):
        try:
            best = best_design(curve, wanted, criterion, *span)
        except ValueError:
            continue
        designs.append(_planned(title, best, curve, wanted, width, total))
    able = [each for each in designs if each.needed is not None]
    best_of = min(able, key=lambda each: each.needed or 0, default=None)
    drawn = None
    if best_of is not None:
        size, good = simulated(curve, wanted, best_of.levels, best_of.counts)
        drawn = size if good >= 100 and math.isfinite(size) else None
    return Planned(
        answer=name, of=of, unit=layout.level.unit, width=width, now=now if math.isfinite(now) else None,
        said=_said(name, now, width, designs, best_of, layout.level.unit) + _of_sample(curve, wanted, width),
        simulated=drawn, designs=tuple(designs),
    )  # fmt: skip


def _now(curve: Fit) -> tuple[tuple[float, ...], tuple[int, ...]]:
    levels = sorted(set(curve.x.tolist()))
    return tuple(levels), tuple(int((curve.x == level).sum()) for level in levels)


def _planned(name: str, design: Design, curve: Fit, wanted: Wanted, width: float, now: int) -> PlannedDesign:
    def at(n: int) -> float:
        return half_width(curve, wanted, design.levels, design.counts(n))

    sizes = tuple(dict.fromkeys(max(round(now * size), len(design.levels)) for size in SIZES))
    widths = tuple(at(n) for n in sizes)
    needed = _needed(at, len(design.levels), width)
    return PlannedDesign(
        name=name, levels=design.levels, shown_levels=tuple(map(given, design.levels)),
        counts=design.counts(needed or now), needed=needed, readings=sizes,
        widths=tuple(each if math.isfinite(each) else None for each in widths),
    )  # fmt: skip


def _needed(at: Callable[[int], float], least: int, width: float) -> int | None:
    """The fewest readings for that half-width."""
    high = least
    while not at(high) <= width:
        if high >= MOST:
            return None
        high = min(2 * high, MOST)
    low = least
    while low < high:
        middle = (low + high) // 2
        low, high = (low, middle) if at(middle) <= width else (middle + 1, high)
    return high


def _said(
    name: str, now: float, width: float, designs: Sequence[PlannedDesign], best: PlannedDesign | None, unit: str
) -> str:  # fmt: skip
    wanted = f"± {significant(100 * width, 2)} %"
    stands = f"{name} stands at ± {significant(100 * now, 2)} %. " if math.isfinite(now) else ""
    if best is None:
        return (
            f"{stands}No number of readings up to {MOST:,} of standards or doses brings it to {wanted}: what is left "
            "is the sample's own reading, or the curve does not determine it."
        )
    as_now = designs[0]
    same = "" if as_now.needed is None else f"; {as_now.needed} at the present levels"
    levels = ", ".join(f"{n} × {level}" for n, level in zip(best.counts, best.shown_levels, strict=True))
    return f"{stands}{best.needed} readings bring it to {wanted}{same}: {levels} {unit}".rstrip() + "."


def _of_sample(curve: Fit, wanted: Wanted, width: float) -> str:
    """How often the sample itself would have to be read, the curve being as it is."""
    levels, counts = _now(curve)
    if wanted.parameter:
        return ""
    for m in range(wanted.readings, SAMPLE + 1):
        if half_width(curve, replace(wanted, readings=m), levels, counts) <= width:
            if m == wanted.readings:
                return " The present curve and the sample's own readings are enough."
            return f" With the present curve the sample would have to be read {m} times."
    return f" With the present curve even {SAMPLE} readings of the sample would not do."

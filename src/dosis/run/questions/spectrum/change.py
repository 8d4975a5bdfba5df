"""Step: how scans change — what is left of a value over time, at what rate, and where nothing changes."""

import math
import re
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from dosis.core.fitting.fit import fit
from dosis.core.rounding import fixed, given, significant
from dosis.core.spectra import area, half_life, half_life_of_line, highest, isosbestic_points
from dosis.run.curves.ends import Range
from dosis.run.layout import Level
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State, Value
from dosis.run.questions.spectrum.bench import Followed, Read, Scan, SpectrumBench
from dosis.run.questions.spectrum.windows import span
from dosis.run.roles import Role
from dosis.run.steps.step import Step

TIME_UNITS = frozenset(("ms", "s", "min", "h", "d"))
MODELS = {"zero": "line", "first": "exponential_decay", "first_plateau": "exponential_decay_plateau"}
NAMES = {"zero": "Zero order", "first": "First order, to zero", "first_plateau": "First order, to a plateau"}
LEAST = 3  # levels from which a change is followed
Order = Literal["best", "zero", "first", "first_plateau", "off"]
_TIME = re.compile(r"time|age|exposure", re.IGNORECASE)


class ChangeStep(Step):
    """of : what is followed, the value at a place, that of each scan's highest point, or an area. at : the place; where
    it is open, that of the highest point of all. order : of the change over time; "best" is the one with the
    lowest AICc of all series together. tolerance : how far scans may lie apart where they meet, as a share of how far
    they lie apart at most.
    """

    title = "Change"
    names: ClassVar = {"of": "of", "at": "at", "tolerance": "isosbestic within"}
    kind: Literal["change"] = "change"
    of: Literal["at", "peak", "area"] = "at"
    at: Level | None = None
    window: Range = Range()
    order: Order = "best"
    tolerance: Annotated[float, Field(gt=0, le=1)] = 0.02

    def run(self, bench: SpectrumBench) -> StepOutcome:
        """Follow it in every series."""
        followed = [scan for scan in bench.scans if scan.group.role is Role.POINT and scan.group.level is not None]
        levels = sorted({scan.group.level for scan in followed if scan.group.level is not None})
        if len(levels) < 2:
            return self.told("Scans have no times or levels; give them some to follow a change.", State.PASS)
        self._follow(bench, followed)
        if is_time(bench):
            self._left(bench)
        self._isosbestic(bench, followed)
        what = bench.followed
        if not is_time(bench):
            ends = f"{given(levels[0])} to {given(levels[-1])} {bench.layout.level.unit}".rstrip()
            said = f"**{what}** over {bench.layout.level.name.lower()} {ends}: make a standard curve of it."
            return self.told(f"{said}{self._meets(bench)}", State.PASS)
        if self.order == "off":
            return self.told(f"**{what}** is followed without a rate.{self._meets(bench)}", State.PASS)
        if len(levels) < LEAST:
            return self.told(f"**{what}** at {len(levels)} times; a rate takes {LEAST} or more.", State.LOOK)
        self._fit(bench)
        return self._tell(bench)

    def _follow(self, bench: SpectrumBench, followed: list[Scan]) -> None:
        unit, own = bench.axis.unit, bench.quantity
        place = self.at
        if self.of == "at" and place is None:
            tops = [each for scan in followed if (each := bench.highest[scan.index]) is not None]
            top = max(tops, key=lambda each: each.value, default=None)
            place = None if top is None else float(bench.shown_place(top.wavelength).replace("−", "-"))
        low, high = span(self.window, bench.x)
        if self.of == "at":
            bench.followed_at = place
            bench.followed = f"{own.name} at {given(place or 0.0)} {unit}".rstrip()
        elif self.of == "peak":
            bench.followed = f"{own.name} at the highest point"
        else:
            bench.followed = f"Area {given(low)} to {given(high)} {unit}".rstrip()
        series: dict[str, Followed] = {}
        for scan in followed:
            x, y = bench.part(scan)
            inside = (x >= low) & (x <= high)
            if self.of == "at":
                value = bench.at(bench.s[scan.index], place) if place is not None else math.nan
            elif self.of == "peak":
                value = highest(x[inside], y[inside]).value if inside.any() else math.nan
            else:
                value = area(x[inside], y[inside]) if inside.sum() > 1 else math.nan
            if not math.isfinite(value):
                continue
            name = scan.group.series
            made = series.setdefault(name, Followed(name, f"change{len(series)}." if name else "change."))
            made.scans.append(scan)
            made.x.append(scan.group.level or 0.0)
            made.y.append(value)
            bench.note(scan.group, self.kind, bench.followed, text=scan.key, result=significant(value, 5), value=value)
        bench.changes = list(series.values())

    def _left(self, bench: SpectrumBench) -> None:
        """In percent of the value at the first level, scan by scan."""
        cells = [Value() for _ in bench.scans]
        for change in bench.changes:
            start = min(change.x)
            base = float(np.mean([y for x, y in zip(change.x, change.y, strict=True) if x == start]))
            for scan, y in zip(change.scans, change.y, strict=True):
                if base:
                    share = 100 * y / base
                    change.values["left"] = Value(share, None, None, "", fixed(share, 1))
                    cells[scan.index] = Value(share, None, None, "", fixed(share, 1))
                    how = f"100 · {significant(y, 5)} ÷ {significant(base, 5)}"
                    result = f"{fixed(share, 1)} %"
                    bench.note(scan.group, self.kind, "Left", text=how, result=result, value=share)
        bench.reads.append(Read("left", f"{bench.followed}, left", "%", cells, short="Left %"))

    def _isosbestic(self, bench: SpectrumBench, followed: list[Scan]) -> None:
        if len(followed) < LEAST or len({scan.group.series for scan in followed}) > 1:
            return
        order = sorted(followed, key=lambda scan: scan.group.level or 0.0)
        rows = bench.s[[scan.index for scan in order]]
        there = np.isfinite(rows).all(axis=0)
        if there.sum() > 2:
            bench.isosbestic = isosbestic_points(bench.x[there], rows[:, there], tolerance=self.tolerance)

    def _fit(self, bench: SpectrumBench) -> None:
        wanted = list(MODELS) if self.order == "best" else [self.order]
        for change in bench.changes:
            for order in wanted:
                if len(set(change.x)) < (3 if order == "first_plateau" else 2) + 1:
                    continue
                try:
                    found = fit(MODELS[order], change.x, change.y)
                except ValueError as error:
                    change.problem = str(error)
                    continue
                if found.converged and (order == "zero" or found.named["rate"] > 0):
                    change.fits[order] = found
        fitted = [change for change in bench.changes if change.fits]
        common = [order for order in wanted if fitted and all(order in change.fits for change in fitted)]
        if not common:
            for change in bench.changes:
                change.problem = change.problem or "No order of change describes these."
            return
        known = [order for order in common if all(c.fits[order].aicc is not None for c in fitted)] or common[:1]
        best = min(known, key=lambda order: sum(c.fits[order].aicc or 0.0 for c in fitted))
        for change in fitted:
            change.chosen, change.problem = best, ""
            self._values(bench, change)

    def _values(self, bench: SpectrumBench, change: Followed) -> None:
        result = change.fit
        assert result is not None
        unit = bench.layout.level.unit
        if change.chosen == "zero":
            slope = result.parameters["slope"]
            ends = slope.interval() or (None, None)
            rate = Value.of(
                -slope.estimate, None if ends[1] is None else -ends[1], None if ends[0] is None else -ends[0]
            )
            half, low, high = half_life_of_line(result) or (None, None, None)
            how = "value at the start ÷ (2 · rate)"
        else:
            constant = result.parameters["rate"]
            interval = constant.interval()
            rate = Value.of(constant.estimate, *(interval or (None, None)))
            half, low, high = half_life(constant.estimate, interval)
            how = "ln 2 ÷ rate constant"
        life = Value() if half is None else Value.of(half, low, high)
        change.values |= {"rate": rate, "half_life": life}
        per = f"1/{unit}" if unit else ""
        own = f"{bench.quantity.unit or '1'}/{unit}" if unit else bench.quantity.unit
        bench.write(
            f"{change.tag}rate", "Rate",
            text=f"{NAMES[change.chosen]}: {result.model.equation}, through {result.n} scans",
            result=f"{rate.shown} {own if change.chosen == 'zero' else per}".rstrip(), value=rate.value,
        )  # fmt: skip
        if half is not None:
            bench.write(
                f"{change.tag}half_life", "Half-life", text=how, result=f"{life.shown} {unit}".rstrip(), value=half
            )

    def _tell(self, bench: SpectrumBench) -> StepOutcome:
        made = [change for change in bench.changes if change.fit is not None]
        if not made:
            why = next((change.problem for change in bench.changes if change.problem), "nothing to follow")
            return self.told(f"**{bench.followed}**: no rate. {why}", State.LOOK, f"{bench.followed}: no rate.")
        unit = bench.layout.level.unit
        shown = []
        for change in made:
            half = change.values["half_life"]
            text = f"{half.shown} {unit}".rstrip() + (
                f" ({half.shown_lower} to {half.shown_upper})" if half.lower is not None else ""
            )
            shown.append(f"{change.key}: **{text}**" if change.key else f"**{text}**")
        why = ""
        if self.order == "best":
            why = ", the order with the lowest AICc" if len(made[0].fits) > 1 else ""
        text = (
            f"**{bench.followed}** changes by {NAMES[made[0].chosen].lower()}{why}; half-life {'; '.join(shown[:4])}."
        )
        return self.told(f"{text}{self._meets(bench)}", State.PASS)

    def _meets(self, bench: SpectrumBench) -> str:
        if not bench.isosbestic:
            return ""
        places = ", ".join(bench.shown_place(each) for each in bench.isosbestic)
        return f" Scans meet at **{places} {bench.axis.unit}**".rstrip() + " (isosbestic)."


def is_time(bench: SpectrumBench) -> bool:
    """Whether levels are times."""
    level = bench.layout.level
    return level.unit in TIME_UNITS or (not level.unit and bool(_TIME.search(level.name)))

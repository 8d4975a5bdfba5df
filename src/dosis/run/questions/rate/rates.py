"""Step: what each group comes to — replicate courses together, with an interval from how far they agree."""

import math
from dataclasses import dataclass, field
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from dosis.core.arrays import Array
from dosis.core.distributions import t_quantile
from dosis.core.kinetics import between
from dosis.core.replicates import summarize
from dosis.core.rounding import significant
from dosis.run.curves.equation import put
from dosis.run.layout import Group
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State, Value
from dosis.run.questions.rate.bench import Course, Estimated, Found, RateBench
from dosis.run.questions.rate.found import ends
from dosis.run.steps.replicates import percent
from dosis.run.steps.step import Step


class RatesStep(Step):
    """Replicate courses of a group by their mean; of a single one the interval is that of its own fit.

    spread : of replicates. "pooled" takes how far courses disagree beyond their own errors, as a share of the rate,
        from all groups together; "own" from each group alone, which of two courses makes wide intervals.
    digits : significant digits; None as intervals decide. cv_limit : CV of replicate rates from which they disagree.
    """

    title = "Rates"
    kind: Literal["rates"] = "rates"
    spread: Literal["pooled", "own"] = "pooled"
    digits: Annotated[int, Field(ge=1, le=10)] | None = None
    cv_limit: Annotated[float, Field(gt=0, le=10)] = 0.20
    level: Annotated[float, Field(ge=0.5, le=0.999)] = 0.95

    def run(self, bench: RateBench) -> StepOutcome:
        """Bring the courses of every group together."""
        bench.cv_limit = self.cv_limit
        lead = bench.lead()
        if lead is None:
            return self.told("Waiting for courses.", State.FAIL)
        own = {each.id: ends(each, self.level) for each in bench.found}
        members: dict[str, list[Course]] = {}
        for course in bench.courses:
            members.setdefault(course.group.id, []).append(course)
        pooled = {each.id: _pooled(each, list(members.values())) for each in bench.found}
        for courses in members.values():
            group = courses[0].group
            bench.of_groups[group.id] = {
                each.id: self._value(bench, group, each, courses, *own[each.id], pooled[each.id])
                for each in bench.found
            }
            self._reach(bench, group, lead)
        known = [(c.key, bench.values[c.id]) for c in bench.courses if c.id in bench.values]
        if not known:
            return self.told("No course gives a value.", State.FAIL)
        low, high = min(known, key=lambda each: each[1]), max(known, key=lambda each: each[1])
        several = sum(len(courses) > 1 for courses in members.values())
        how = f"Replicate courses by their mean, for {several} of {len(members)} groups; " if several else ""
        unit = f" {lead.unit}".rstrip()
        if len(known) == 1:
            said = f"{lead.name} **{significant(low[1], 3)}{unit}**."
        else:
            span = f"**{significant(low[1], 3)}** ({low[0]}) to **{significant(high[1], 3)}{unit}** ({high[0]})"
            said = f"{lead.name} from {span}."
        said = how + said[:1].lower() + said[1:] if how else said
        return self.told(said, State.PASS)

    def _value(
        self, bench: RateBench, group: Group, found: Found, courses: list[Course], lower: Array, upper: Array,
        pooled: "Pooled",
    ) -> Value:  # fmt: skip
        at = [course.index for course in courses if math.isfinite(found.values[course.index])]
        if not at:
            return Value()
        if len(at) == 1:
            i = at[0]
            if found.lead:
                error = float(found.errors[i]) if math.isfinite(found.errors[i]) else None
                bench.estimated.append(Estimated(group.name, float(found.values[i]), error, float(found.df[i])))
            return self._shown(float(found.values[i]), _end(lower[i]), _end(upper[i]))
        values = found.values[at]
        mean, sd = float(values.mean()), float(values.std(ddof=1))
        spread, df = sd, float(len(at) - 1)
        if self.spread == "pooled":
            inside = float(np.mean(np.square(found.errors[at]))) if np.isfinite(found.errors[at]).all() else 0.0
            spread, df = math.sqrt(inside + pooled.share * mean * mean), pooled.df[at[0]]
        half = t_quantile((1 + self.level) / 2, df) * spread / math.sqrt(len(at))
        if found.lead:
            bench.estimated.append(Estimated(group.name, mean, spread / math.sqrt(len(at)), df))
            summary = summarize(values.tolist())
            bench.summaries[group.id] = summary
            cv = "" if summary.cv is None else f", CV {percent(abs(summary.cv))}"
            how = "SD"
            if df > len(at) - 1:
                how = f"{put(spread)}, the courses' own error and what all groups disagree by beyond it,"
            ends_text = f"± t({significant(df, 3)}) × {how} ÷ √{len(at)} = ± {put(half)}"
            text = f"mean of {len(at)} courses, SD {put(sd)}{cv}; {ends_text}"
            bench.note(group, self.kind, found.name, text=text, value=mean, result=f"{put(mean)} {found.unit}".rstrip())
        return self._shown(mean, mean - half, mean + half)

    def _reach(self, bench: RateBench, group: Group, lead: Found) -> None:
        """The interval of a straight part that was cut short reaches to that of the slope at the start."""
        own = bench.of_groups[group.id]
        other = own.get("start_rate") if bench.tangent is not None else None
        value = own[lead.id]
        if other is None or None in (value.value, value.lower, value.upper, other.lower, other.upper):
            return
        lower, upper = min(value.lower, other.lower), max(value.upper, other.upper)  # type: ignore[type-var]
        own[lead.id] = self._shown(value.value or 0.0, lower, upper)
        start = f"{other.shown_lower} to {other.shown_upper}"
        text = f"own {value.shown_lower} to {value.shown_upper}; of the slope at the start {start}"
        bench.note(group, self.kind, "Interval", text=text)

    def _shown(self, value: float, lower: float | None, upper: float | None) -> Value:
        if self.digits is None:
            return Value.of(value, lower, upper)
        ends_shown = ["" if end is None else significant(end, self.digits) for end in (lower, upper)]
        return Value(value, lower, upper, "", significant(value, self.digits), *ends_shown)


@dataclass(frozen=True)
class Pooled:
    """What groups with replicates disagree by, and the degrees of freedom of each by the place of its first course."""

    share: float = 0.0
    df: dict[int, float] = field(default_factory=dict)


def _pooled(found: Found, members: list[list[Course]]) -> Pooled:
    rows = []
    for courses in members:
        at = [course.index for course in courses if math.isfinite(found.values[course.index])]
        if len(at) > 1:
            values, errors = found.values[at], found.errors[at]
            own = float(np.mean(np.square(errors))) if np.isfinite(errors).all() else 0.0
            rows.append((at[0], float(values.mean()), float(values.var(ddof=1)), own, len(at)))
    if not rows:
        return Pooled()
    first, means, variances, own_errors, counts = zip(*rows, strict=True)
    made = between(means, variances, own_errors, counts)
    return Pooled(made.share, dict(zip(first, made.df.tolist(), strict=True)))


def _end(value: float) -> float | None:
    return float(value) if math.isfinite(value) else None

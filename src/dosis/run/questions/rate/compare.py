"""Step: whether series differ — their curves against the level, or what each group of courses comes to."""

import math
from typing import Literal

from dosis.core.distributions import t_quantile, t_two_sided_p
from dosis.core.rounding import p_value, significant
from dosis.run.curves.equation import put
from dosis.run.curves.pairs import DIFFERENT, pair
from dosis.run.layout import Name
from dosis.run.outcome.comparison import Comparison
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State, Value
from dosis.run.questions.rate.bench import Estimated, RateBench
from dosis.run.steps.step import Step

MOST = 40  # series or groups up to which they are compared in pairs with one of them


class CompareRatesStep(Step):
    """Hold each series, or each group where there is no curve against the level, against one of them.

    Curves by the extra sum of squares; values by their difference with its interval (Welch 1947, Biometrika 34, 28).
    """

    title = "Compare"
    kind: Literal["compare_rates"] = "compare_rates"
    on: bool = True
    reference: Name = ""

    def run(self, bench: RateBench) -> StepOutcome:
        """Compare in pairs."""
        if not self.on:
            return self.told("Switched off.", State.PASS)
        fitted = {second.key: (second.key or "All", second.fit) for second in bench.seconds if second.fit is not None}
        if len(fitted) > 1:
            reference = self.reference if self.reference in fitted else next(iter(fitted))
            others = [key for key in fitted if key != reference]
            for i, key in enumerate(others[:MOST]):
                bench.comparisons.append(pair(bench, fitted[reference], fitted[key], f"compare.{i}"))
            return self._told(bench, len(others))
        known = {each.name: each for each in bench.estimated if each.error is not None}
        if bench.seconds or len(known) < 2:
            return self.told("Fewer than two series; there is nothing to compare.", State.PASS)
        if len(known) > MOST:
            return self.told(f"{len(known):,} groups are too many to compare in pairs.", State.PASS)
        reference = self.reference if self.reference in known else next(iter(known))
        others = [name for name in known if name != reference]
        lead = bench.lead()
        unit = lead.unit if lead else ""
        for i, name in enumerate(others):
            bench.comparisons.append(_difference(bench, known[reference], known[name], unit, f"compare.{i}"))
        return self._told(bench, len(others))

    def _told(self, bench: RateBench, count: int) -> StepOutcome:
        more = f" {count - 1} more compared." if count > 1 else ""
        return self.told(f"{bench.comparisons[0].text}{more}", State.PASS)


def _difference(bench: RateBench, one: Estimated, other: Estimated, unit: str, id: str) -> Comparison:
    """Other less one, with 95 % interval and p."""
    assert one.error is not None and other.error is not None
    parts = [(each.error**2, max(each.df, 1.0)) for each in (one, other)]  # type: ignore[operator]
    variance = sum(v for v, _ in parts)
    if variance == 0:
        text = f"{one.name} and {other.name} have no spread to be compared by."
        return Comparison(reference=one.name, name=other.name, state=State.LOOK, text=text)
    df = variance**2 / sum(v * v / n for v, n in parts)
    gap, error = other.value - one.value, math.sqrt(variance)
    half = t_quantile(0.975, df) * error
    p = t_two_sided_p(gap / error, df)
    value = Value.of(gap, gap - half, gap + half)
    bench.write(id, "Difference", text=f"{put(other.value)} − {put(one.value)}", result=f"{put(gap)} {unit}".rstrip(),
                value=gap)  # fmt: skip
    bench.write(id, "95 % interval", result=f"{value.shown_lower} to {value.shown_upper}",
                text=f"± t({significant(df, 3)}) × √({put(one.error)}² + {put(other.error)}²)")  # fmt: skip
    said = "differ" if p < DIFFERENT else "are not told apart"
    text = (
        f"{one.name} and {other.name} **{said}** by {value.shown} {unit}".rstrip()
        + f" ({value.shown_lower} to {value.shown_upper}; p {p_value(p)})."
    )
    return Comparison(reference=one.name, name=other.name, state=State.PASS, text=text, ratio=Value(), working=id)

"""Step: whether one curve serves several series."""

from typing import Literal

from dosis.core.fitting.compare import extra_sum_of_squares
from dosis.core.fitting.fit import fit
from dosis.core.inference.joint import SharedFit
from dosis.core.rounding import p_value, significant
from dosis.run.layout import Name
from dosis.run.outcome.comparison import Comparison
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.relation.bench import Line, RelationBench
from dosis.run.steps.step import Step

MOST = 40  # series up to which they are compared in pairs with one of them
DIFFERENT = 0.05  # p below which two curves are told apart


class CompareRelationsStep(Step):
    """Hold each series against one of them, by the extra sum of squares (Bates & Watts 1988, 3.10)."""

    title = "Compare"
    kind: Literal["compare_relations"] = "compare_relations"
    on: bool = True
    reference: Name = ""

    def run(self, bench: RelationBench) -> StepOutcome:
        """Compare in pairs."""
        if not self.on:
            return self.told("Switched off.", State.PASS)
        fitted = {key: line for key, line in bench.lines.items() if line.fit is not None}
        if len(fitted) < 2:
            return self.told("Fewer than two curves; there is nothing to compare.", State.PASS)
        if len(fitted) > MOST:
            return self.told(f"{len(fitted)} series are too many to compare in pairs.", State.PASS)
        reference = self.reference if self.reference in fitted else next(iter(fitted))
        others = [key for key in fitted if key != reference]
        for i, key in enumerate(others):
            bench.comparisons.append(_pair(bench, fitted[reference], fitted[key], f"compare.{i}"))
        more = f" {len(others) - 1} more compared." if len(others) > 1 else ""
        return self.told(f"{bench.comparisons[0].text}{more}", State.PASS)


def _pair(bench: RelationBench, one: Line, other: Line, id: str) -> Comparison:
    names = f"{one.name} and {other.name}"
    separate, common = _together(one, other, shared=False), _together(one, other, shared=True)
    if separate is None or common is None:
        text = f"{names} cannot be compared: one of them does not determine the curve."
        return Comparison(reference=one.name, name=other.name, state=State.LOOK, text=text)
    test = extra_sum_of_squares(common, separate)
    if test.p_value is None or test.statistic is None:
        return Comparison(reference=one.name, name=other.name, state=State.LOOK, text=f"{names}: {test.reason}")
    df = ", ".join(map(str, test.degrees_of_freedom))
    bench.write(id, "One curve or two", text=f"extra sum of squares, F({df}) = {significant(test.statistic, 3)}",
                result=f"p {p_value(test.p_value)}", value=test.p_value)  # fmt: skip
    differ = test.p_value < DIFFERENT
    text = f"{names} are **{'not the same' if differ else 'not told apart'}** (p {p_value(test.p_value)})."
    return Comparison(reference=one.name, name=other.name, state=State.PASS, text=text, working=id)


def _together(one: Line, other: Line, *, shared: bool) -> SharedFit | None:
    """Both at once, with every parameter in common or with none; the weights are those they were fitted with."""
    assert one.fit is not None and other.fit is not None
    fits = (one.fit, other.fit)
    x, y, weights = ([*one, *two] for one, two in zip(*((f.x, f.y, f.weights) for f in fits), strict=True))
    labels = [0] * fits[0].n + [1] * fits[1].n
    model = fits[0].model
    fixed = {name: fits[0].named[name] for name in fits[0].fixed}
    share = [name for name in model.names if name not in fixed] if shared else []
    try:
        return fit(model, x, y, series=labels, share=share, fixed=fixed or None, weights=weights,
                   start=dict(fits[0].named) if model.id == "custom" else None)  # fmt: skip
    except ValueError:
        return None

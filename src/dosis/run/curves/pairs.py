"""Whether one curve serves two series: by the extra sum of squares, with the words for it."""

from dosis.core.fitting.compare import extra_sum_of_squares
from dosis.core.fitting.fit import fit
from dosis.core.inference.joint import SharedFit
from dosis.core.inference.result import Fit
from dosis.core.rounding import p_value, significant
from dosis.run.bench import Bench
from dosis.run.outcome.comparison import Comparison
from dosis.run.outcome.value import State

DIFFERENT = 0.05  # p below which two curves are told apart


def pair(bench: Bench, one: tuple[str, Fit], other: tuple[str, Fit], id: str) -> Comparison:
    """Two fitted series, each by name, held against each other (Bates & Watts 1988, 3.10); working under `id`."""
    (name, first), (second_name, second) = one, other
    names = f"{name} and {second_name}"
    separate, common = _together(first, second, shared=False), _together(first, second, shared=True)
    if separate is None or common is None:
        text = f"{names} cannot be compared: one of them does not determine the curve."
        return Comparison(reference=name, name=second_name, state=State.LOOK, text=text)
    test = extra_sum_of_squares(common, separate)
    if test.p_value is None or test.statistic is None:
        return Comparison(reference=name, name=second_name, state=State.LOOK, text=f"{names}: {test.reason}")
    df = ", ".join(map(str, test.degrees_of_freedom))
    bench.write(id, "One curve or two", text=f"extra sum of squares, F({df}) = {significant(test.statistic, 3)}",
                result=f"p {p_value(test.p_value)}", value=test.p_value)  # fmt: skip
    differ = test.p_value < DIFFERENT
    text = f"{names} are **{'not the same' if differ else 'not told apart'}** (p {p_value(test.p_value)})."
    return Comparison(reference=name, name=second_name, state=State.PASS, text=text, working=id)


def _together(one: Fit, other: Fit, *, shared: bool) -> SharedFit | None:
    """Both at once, with every parameter in common or with none; the weights are those they were fitted with."""
    x, y, weights = ([*first, *second] for first, second in
                     zip(*((f.x, f.y, f.weights) for f in (one, other)), strict=True))  # fmt: skip
    labels = [0] * one.n + [1] * other.n
    model = one.model
    fixed = {name: one.named[name] for name in one.fixed}
    share = [name for name in model.names if name not in fixed] if shared else []
    try:
        return fit(model, x, y, series=labels, share=share, fixed=fixed or None, weights=weights,
                   start=dict(one.named) if model.id == "custom" else None)  # fmt: skip
    except ValueError:
        return None

"""Other models beside the chosen one, and what is proposed where a straight line misleads."""

from collections.abc import Callable

import numpy as np

from dosis.core.fitting.fit import fit
from dosis.core.inference.result import Fit
from dosis.core.models import MODELS, Model
from dosis.core.rounding import p_value, significant
from dosis.run.curves.candidates import candidate, compared
from dosis.run.curves.words import bent
from dosis.run.outcome.drawn import Suggestion
from dosis.run.questions.relation.bench import Line

BETTER = 4.0  # AICc by which another model is clearly better (Burnham & Anderson 2002, 2.6)
LEAST = 5  # different x from which a rise and a fall can be told
PLAIN = 0.01  # p of the curvature below which it is plain
UNEQUAL = 1.5  # times the least error that the largest is, from which weights are proposed
BENDS = "bends"  # what a curve does that turns beyond the points, or near their ends
INSIDE = 0.1  # share of the range of x that the turning point is away from both ends at least


def beside(line: Line, chosen: str, fitted: Callable[[Model, Line], Fit]) -> None:
    """Fit a few others for comparison, and say which describes the points best."""
    assert line.fit is not None
    line.turn = turns(line)
    found: dict[str, Fit] = {chosen: line.fit}
    for id in (
        "line",
        "line_through_zero",
        "quadratic",
        *(("optimum",) if line.turn is not None and line.turn[1] != BENDS else ()),
    ):
        if id == chosen or len(set(line.x)) <= len(MODELS[id].names):
            continue
        try:
            found[id] = fitted(MODELS[id], line)
        except ValueError:
            continue
    line.candidates = tuple(candidate(id, result, chosen=id == chosen) for id, result in found.items())
    line.comparison = compared(line.candidates, "points", BETTER)


def proposed(line: Line, chosen: str) -> Suggestion | None:
    """Another curve where the chosen straight line goes through a rise and a fall, or another is clearly better."""
    if chosen not in ("line", "line_through_zero"):
        return None
    turn = line.turn
    if turn is not None and turn[1] != BENDS:
        peaked = min(line.y) >= 0 and turn[1] == "rises and falls"
        model = "optimum" if peaked and len(set(line.x)) > len(MODELS["optimum"].names) else "quadratic"
        text = f"y {turn[1]} over these x; a straight line through it misleads."
        return Suggestion(lower=None, upper=None, model=model, text=text, action=f"Use {MODELS[model].name}")
    errors = [error for error in line.errors if error is not None]
    if (
        len(errors) == len(line.x)
        and max(errors) > UNEQUAL * min(errors)
        and line.fit is not None
        and line.fit.weighting == "none"
    ):
        factor = significant(max(errors) / min(errors), 2)
        text = f"The errors of these points differ by a factor of {factor}, and all count alike."
        return Suggestion(lower=None, upper=None, weights="error", text=text, action="Weight them by their errors")
    mine = next((c for c in line.candidates if c.chosen), None)
    better = [c for c in line.candidates if c.aicc is not None and not c.chosen and not c.about_zero]
    best = min(better, key=lambda c: c.aicc or 0.0, default=None)
    if mine is None or best is None or mine.aicc is None or mine.aicc - (best.aicc or 0.0) < BETTER:
        return None
    if line.fit is not None and not bent(line.fit) and line.fit.lack_of_fit.p_value is not None:
        return None
    text = f"{best.name} describes these points better: AICc {best.shown_aicc} against {mine.shown_aicc}."
    return Suggestion(lower=None, upper=None, model=best.model, text=text, action=f"Use {best.name}")


def turns(line: Line) -> tuple[float, str, str] | None:
    """Where a curved y turns, whether it rises and falls, falls and rises or only bends within x, and the p of it."""
    if len(set(line.x)) < LEAST:
        return None
    x = np.array(line.x)
    low, high = float(x.min()), float(x.max())
    try:
        found = fit("quadratic", ((x - low) / (high - low)).tolist(), line.y)
    except ValueError:
        return None
    slope, curvature = found.parameters["c1"], found.parameters["c2"]
    if curvature.p_value is None or curvature.p_value > PLAIN or not curvature.estimate:
        return None
    at = -slope.estimate / (2 * curvature.estimate)
    way = "rises and falls" if curvature.estimate < 0 else "falls and rises"
    if not INSIDE < at < 1 - INSIDE:
        way = BENDS
    return low + at * (high - low), way, p_value(curvature.p_value)

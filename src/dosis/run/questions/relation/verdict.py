"""The verdict of a relation: what each series comes to, or what was read off."""

from collections.abc import Sequence

from dosis.run.curves.words import r2_name, shown_r_squared
from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.verdict import Verdict, VerdictPart
from dosis.run.questions.relation.bench import Line
from dosis.run.questions.relation.part import Prediction
from dosis.run.verdict import NAMED, found_by, of_steps, said_by, stuck_at, verdict


def conclude(
    lines: Sequence[Line], predictions: Sequence[Prediction], units: tuple[str, str], steps: Sequence[StepOutcome],
    checks: Sequence[Check],
) -> Verdict:  # fmt: skip
    """Sum up; predictions lead where some were asked for. units : of x and of y."""
    made = [line for line in lines if line.fit is not None or line.table is not None]
    if not lines:
        headline = "No points yet."
    elif not made:
        headline = "No curve."
    elif predictions:
        headline = f"{'; '.join(_said(each, units, many=len(lines) > 1) for each in predictions[:NAMED])}."
        if len(predictions) > NAMED:
            headline = f"{headline[:-1]}; {len(predictions) - NAMED} more below."
    elif made[0].table is not None:
        headline = f"A table of {sum(len(line.x) for line in made)} points to read off."
    elif len(lines) == 1 and made[0].fit is not None:
        fit = made[0].fit
        r2 = "" if fit.r_squared is None else f", {r2_name(fit)} {shown_r_squared(fit.r_squared)}"
        headline = f"{fit.model.name} through {fit.n} points{r2}."
    else:
        headline = f"{len(made)} of {len(lines)} series have a curve."
    detail = of_steps(steps) + ([] if made else stuck_at(steps)) + said_by(checks) or found_by(checks)
    if not lines:
        detail = [VerdictPart(text="Say which readings are points, and their x.")]
    return verdict(headline, detail, checks, failed=not made, look=len(made) < len(lines) or bool(of_steps(steps)))


def _said(each: Prediction, units: tuple[str, str], *, many: bool) -> str:
    at, of = units if each.asked == "x" else units[::-1]
    name = "y" if each.asked == "x" else "x"
    whose = f"{each.of} " if many and each.of else ""
    value = each.value.shown if each.value.value is not None else f"none ({each.beyond})"
    return f"{whose}{name} {value} {of}".rstrip() + f" at {each.asked} = {each.shown_at} {at}".rstrip()

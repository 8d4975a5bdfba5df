"""The verdict of a run about doses: each effect dose where there are few, how many where there are many."""

from collections.abc import Sequence
from dataclasses import dataclass

from dosis.run.effects.effect import Effect
from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.verdict import Verdict, VerdictPart
from dosis.run.verdict import NAMED, found_by, of_steps, said_by, stuck_at, verdict


@dataclass(frozen=True)
class Words:
    """What a question about doses calls things.

    none : the headline without any effect dose. half : a dose with half the effect, with its article.
    wanted : the roles to be given where nothing is laid out.
    """

    none: str
    half: str
    wanted: str


def conclude(
    effects: Sequence[Effect], steps: Sequence[StepOutcome], checks: Sequence[Check], unit: str, words: Words, *,
    laid_out: bool,
) -> Verdict:  # fmt: skip
    """Sum up effect doses, steps and checks."""
    found = [effect for effect in effects if effect.doses[0].relative.value is not None]
    if not laid_out:
        headline = "No doses are laid out yet."
    elif not effects:
        headline = words.none
    elif len(effects) <= NAMED:
        headline = f"{', '.join(_potency(effect, unit) for effect in effects)}."
    else:
        names = " or ".join(dict.fromkeys(f"{effect.symbol}{effect.doses[0].percent:g}" for effect in effects))
        what = words.half if effects[0].doses[0].percent == 50 else f"an {names}"
        headline = f"{len(found):,} of {len(effects):,} series have {what}."
    detail = of_steps(steps) + ([] if effects else stuck_at(steps)) + said_by(checks) or found_by(checks)
    if not laid_out:
        detail = [VerdictPart(text=f"Say which wells are {words.wanted}.")]
    look = len(found) < len(effects) or bool(of_steps(steps))
    return verdict(headline, detail, checks, failed=not effects, look=look)


def _potency(effect: Effect, unit: str) -> str:
    """ "TP-17 IC50 3.2 µM"; of a series without effect never anything that reads like a potency."""
    dose = effect.doses[0].relative
    if dose.value is None and not dose.censor and dose.lower is None:
        why = next((remark.short for remark in effect.remarks), "no half-effect dose")
        return f"{effect.name}: {why}"
    return f"{effect.name} {effect.symbol}{effect.doses[0].percent:g} {dose.shown} {unit}".rstrip()

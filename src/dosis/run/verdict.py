"""The Verdict: a run in one line, with the way out where something is not right."""

from collections.abc import Sequence

from dosis.run.effects.effect import Effect
from dosis.run.layout import Role
from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.value import State
from dosis.run.outcome.verdict import Verdict, VerdictPart
from dosis.run.standards.answer import Answer

NAMED = 3  # at most so many samples by name; a line that lists thirty is not read


def conclude(
    problem: str, steps: Sequence[StepOutcome], checks: Sequence[Check], answers: Sequence[Answer], *, laid_out: bool
) -> Verdict:
    """Sum up answers, steps and checks.

    problem : why there is no curve at all; laid_out : whether wells have roles.
    """
    samples = [answer for answer in answers if answer.role is Role.SAMPLE]
    read = sum([answer.in_reading.value is not None for answer in samples])
    count = _counted(checks)
    detail = [VerdictPart(text=f"{problem} ")] if problem else _detail(samples, checks)
    detail = [*_of_steps(steps), *detail]
    if not detail and laid_out:  # a verdict that is not passed says why
        detail = _of_checks(checks)
    if not laid_out:
        detail = [VerdictPart(text="Say which wells are blanks, standards and samples.")]
        headline = "Nothing is laid out yet."
    elif problem:
        headline = "No curve, so no answers." if samples else "No curve."
    elif not samples:
        headline = "The standard curve is ready; there are no samples to read."
    elif len(samples) == 1:
        headline = f"{samples[0].name} read." if read else f"{samples[0].name} could not be read as a number."
    else:
        headline = f"{read:,} of {len(samples):,} samples read."
    if problem or count[State.FAIL]:
        state = State.FAIL
    elif count[State.LOOK] or read < len(samples) or _of_steps(steps):
        state = State.LOOK
    else:
        state = State.PASS
    return Verdict(
        state=state, headline=headline, detail=tuple(detail),
        passed=count[State.PASS], to_look_at=count[State.LOOK], failed=count[State.FAIL],
    )  # fmt: skip


def conclude_doses(
    effects: Sequence[Effect], steps: Sequence[StepOutcome], checks: Sequence[Check], unit: str, *, laid_out: bool,
    counted: bool = False,
) -> Verdict:  # fmt: skip
    """Sum up a dose–response run: each half-effect dose where there are few, how many where there are many.

    counted : whether it is of counts.
    """
    count = _counted(checks)
    found = [effect for effect in effects if effect.doses[0].relative.value is not None]
    if not laid_out:
        headline = "No doses are laid out yet."
    elif not effects:
        headline = "No line, so no lethal dose." if counted else "No curve, so no half-effect dose."
    elif len(effects) <= NAMED:
        headline = f"{', '.join(_potency(effect, unit) for effect in effects)}."
    else:
        half = "half-lethal dose" if effects[0].symbol in ("LC", "LD") else "half-effect dose"
        names = " or ".join(dict.fromkeys(f"{effect.symbol}{effect.doses[0].percent:g}" for effect in effects))
        what = f"a {half}" if effects[0].doses[0].percent == 50 else f"an {names}"
        headline = f"{len(found):,} of {len(effects):,} series have {what}."
    detail = _of_steps(steps) + [
        VerdictPart(text=f"{check.verdict} ") for check in checks if check.verdict and check.state is not State.PASS
    ] or _of_checks(checks)
    if not laid_out:
        wanted = "controls and doses" if counted else "vehicle, full effect and doses"
        detail = [VerdictPart(text=f"Say which wells are {wanted}.")]
    failed = not effects or count[State.FAIL]
    look = count[State.LOOK] or len(found) < len(effects) or _of_steps(steps)
    return Verdict(
        state=State.FAIL if failed else State.LOOK if look else State.PASS, headline=headline, detail=tuple(detail),
        passed=count[State.PASS], to_look_at=count[State.LOOK], failed=count[State.FAIL],
    )  # fmt: skip


def _of_steps(steps: Sequence[StepOutcome]) -> list[VerdictPart]:
    return [VerdictPart(text=f"{step.verdict} ") for step in steps if step.verdict and step.state is not State.PASS]


def _of_checks(checks: Sequence[Check]) -> list[VerdictPart]:
    """Checks that are not passed, in what they found."""
    off = [check for check in checks if check.state is not State.PASS]
    return [VerdictPart(text=f"{check.title}? {check.found}. ") for check in off[:NAMED]]


def _potency(effect: Effect, unit: str) -> str:
    """ "TP-17 IC50 3.2 µM"; of a series without effect never anything that reads like a potency."""
    dose = effect.doses[0].relative
    if dose.value is None and not dose.censor and dose.lower is None:
        why = next((remark.short for remark in effect.remarks), "no half-effect dose")
        return f"{effect.name}: {why}"
    return f"{effect.name} {effect.symbol}{effect.doses[0].percent:g} {dose.shown} {unit}".rstrip()


def _counted(checks: Sequence[Check]) -> dict[State, int]:
    states = [check.state for check in checks]
    return {state: states.count(state) for state in (State.PASS, State.LOOK, State.FAIL)}


def _detail(samples: Sequence[Answer], checks: Sequence[Check]) -> list[VerdictPart]:
    parts: list[VerdictPart] = []
    remarked = [answer for answer in samples if answer.remarks]
    for short, one, several, said in (
        ("above top standard", "is", "are", "above the top standard: dilute and rerun"),
        ("below lowest standard", "is", "are", "below the lowest standard"),
        ("over range", "has", "have", "a reading over the instrument's range: dilute and rerun"),
        ("under range", "has", "have", "a reading under the instrument's range: dilute and rerun"),
        (
            "over range, so low",
            "has",
            "have",
            "a reading over the instrument's range, so little that it cannot be read",
        ),
        ("under range, so low", "has", "have", "a reading under the instrument's range: too little to be read"),
    ):
        named = [answer for answer in remarked if any(remark.short == short for remark in answer.remarks)]
        if not named:
            continue
        for i, answer in enumerate(named[:NAMED]):
            parts += [VerdictPart(text=", ")] if i else []
            parts.append(VerdictPart(text=answer.name, group=answer.group))
        more = f" and {len(named) - NAMED} more" if len(named) > NAMED else ""
        parts.append(VerdictPart(text=f"{more} {several if len(named) > 1 else one} {said}. "))
    for check in checks:
        if check.verdict and check.state is not State.PASS:
            parts.append(VerdictPart(text=f"{check.verdict} "))
    return parts

"""The verdict of a run with a standard curve: how many samples were read, and what stands in the way."""

from collections.abc import Sequence

from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.table import AnswerRow, AnswerTable
from dosis.run.outcome.verdict import Verdict, VerdictPart
from dosis.run.roles import Role
from dosis.run.verdict import NAMED, found_by, of_steps, said_by, stuck_at, verdict

# A remark on an answer; "is" or "has" of one and "are" or "have" of several; what is said of them.
REMARKED = (
    ("above top standard", "is", "are", "above the top standard: dilute and rerun"),
    ("below lowest standard", "is", "are", "below the lowest standard"),
    ("over range", "has", "have", "a reading over the instrument's range: dilute and rerun"),
    ("under range", "has", "have", "a reading under the instrument's range: dilute and rerun"),
    ("over range, so low", "has", "have", "a reading over the instrument's range, so little that it cannot be read"),
    ("under range, so low", "has", "have", "a reading under the instrument's range: too little to be read"),
)


def conclude(
    problem: str, steps: Sequence[StepOutcome], checks: Sequence[Check], answers: AnswerTable, *, laid_out: bool
) -> Verdict:
    """Sum up answers, steps and checks.

    problem : why there is no curve at all; laid_out : whether wells have roles.
    """
    found = answers.column("in_reading").values
    samples = [row for row in answers.rows if row.role is Role.SAMPLE]
    read = sum([row.role is Role.SAMPLE and value is not None for row, value in zip(answers.rows, found, strict=True)])
    stuck = [] if problem else stuck_at(steps)
    detail = [VerdictPart(text=f"{problem} ")] if problem else stuck + _remarked(samples) + said_by(checks)
    detail = [*of_steps(steps), *detail]
    if not detail and laid_out:  # a verdict that is not passed says why
        detail = found_by(checks)
    if not laid_out:
        detail = [VerdictPart(text="Say which wells are blanks, standards and samples.")]
        headline = "Nothing is laid out yet."
    elif problem:
        headline = "No curve, so no answers." if samples else "No curve."
    elif not samples and stuck:
        headline = "No answers yet."
    elif not samples:
        headline = "The standard curve is ready; there are no samples to read."
    elif len(samples) == 1:
        headline = f"{samples[0].name} read." if read else f"{samples[0].name} could not be read as a number."
    else:
        headline = f"{read:,} of {len(samples):,} samples read."
    look = read < len(samples) or bool(of_steps(steps))
    return verdict(headline, detail, checks, failed=bool(problem or stuck), look=look)


def _remarked(samples: Sequence[AnswerRow]) -> list[VerdictPart]:
    parts: list[VerdictPart] = []
    with_remarks = [row for row in samples if row.remarks]
    for short, one, several, said in REMARKED:
        named = [row for row in with_remarks if any(remark.short == short for remark in row.remarks)]
        if not named:
            continue
        for i, row in enumerate(named[:NAMED]):
            parts += [VerdictPart(text=", ")] if i else []
            parts.append(VerdictPart(text=row.name, group=row.group))
        more = f" and {len(named) - NAMED} more" if len(named) > NAMED else ""
        parts.append(VerdictPart(text=f"{more} {several if len(named) > 1 else one} {said}. "))
    return parts

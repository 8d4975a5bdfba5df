"""The verdict of rates: what the courses come to, and what they depend on."""

from dosis.core.rounding import significant
from dosis.run.outcome.value import State
from dosis.run.outcome.verdict import Verdict, VerdictPart
from dosis.run.questions.rate.against import AgainstStep, parameters_of
from dosis.run.questions.rate.bench import RateBench, Second
from dosis.run.questions.rate.table import title_of
from dosis.run.verdict import found_by, of_steps, said_by, stuck_at, verdict


def conclude(bench: RateBench, step: AgainstStep) -> Verdict:
    """Sum up; what rates depend on leads where it was asked for."""
    lead = bench.lead()
    known = [(course.key, bench.values[course.id]) for course in bench.courses if course.id in bench.values]
    seconds = [each for each in bench.seconds if each.fit is not None or each.kinds]
    if not bench.courses:
        headline = "No courses yet."
    elif lead is None or not known:
        headline = "No rate."
    elif seconds:
        headline = _of_seconds(seconds, step, bench)
    elif len(known) == 1:
        headline = f"{lead.name} {_of(bench, bench.courses[0].group.id, lead.id)} {lead.unit}".rstrip() + "."
    else:
        low, high = min(value for _, value in known), max(value for _, value in known)
        headline = (
            f"{lead.name} from {significant(low, 3)} to {significant(high, 3)} {lead.unit}".rstrip()
            + f" in {len(known):,} courses."
        )
    steps = bench.steps
    detail = of_steps(steps) + ([] if known else stuck_at(steps)) + said_by(bench.checks) or found_by(bench.checks)
    if not bench.courses:
        detail = [VerdictPart(text="Say which readings are courses.")]
    failed = not known or any(step.state is State.FAIL for step in steps)
    return verdict(headline, detail, bench.checks, failed=failed, look=bool(bench.problems) or bool(of_steps(steps)))


def _of(bench: RateBench, group: str, id: str) -> str:
    value = bench.of_groups.get(group, {}).get(id)
    if value is None:
        return "—"
    return f"{value.shown} ({value.shown_lower} to {value.shown_upper})" if value.shown_lower else value.shown


def _of_seconds(seconds: list[Second], step: AgainstStep, bench: RateBench) -> str:
    first = seconds[0]
    lead = next(each for each in bench.found if each.id == bench.second_of)
    rules = {"y": lead.unit, "x": bench.level.unit, "kJ/mol": "kJ/mol"}
    said = []
    for name, rule, value in list(parameters_of(step, first))[: 3 if first.kinds else 2]:
        unit = rules.get(rule, "")
        ends = f" ({value.shown_lower} to {value.shown_upper})" if value.shown_lower and value.shown_upper else ""
        said.append(f"{title_of(step.model, name)} {value.shown} {unit}".rstrip() + ends)
    kind = f"{first.kinds[0].kind.name} inhibition: " if first.kinds else ""
    more = f"; {len(seconds) - 1} more series below" if len(seconds) > 1 and not first.kinds else ""
    return f"{kind}{', '.join(said)}{more}."

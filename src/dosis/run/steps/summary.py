"""How the checks of a run are summed up, whatever it is asked."""

import re
from collections.abc import Iterable, Sequence

from dosis.run.bench import Bench
from dosis.run.layout import Group, named_series
from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.value import State
from dosis.run.record import changed
from dosis.run.roles import Role

WORST = (State.FAIL, State.LOOK, State.PASS)
ASIDE = 3  # of what is not used, at most so many by name
NAMED = 4  # at most so many by name; a line that lists sixteen is not read


def sum_up(bench: Bench, kind: str, made: Iterable[Check | None]) -> StepOutcome:
    """Put the checks that could be made on the bench, each with the id of its working where it has one."""
    bench.checks = [
        changed(check, working=f"check.{check.id}") if f"{bench.tag}check.{check.id}" in bench.working else check
        for check in made
        if check
    ]
    passed = sum(check.state is State.PASS for check in bench.checks)
    state = min((check.state for check in bench.checks), key=WORST.index, default=State.PASS)
    sentence = f"{passed} of {len(bench.checks)} pass." if bench.checks else "Nothing to check yet."
    return StepOutcome(kind=kind, title="Checks", sentence=sentence, state=state)


def listed(names: Sequence[str], most: int = NAMED) -> str:
    """The first of them by name, the others counted."""
    return ", ".join(names[:most]) + (f" and {len(names) - most} more" if len(names) > most else "")


def not_doses(bench: Bench) -> str:
    """A sentence on what is neither a dose nor a control where the question is about doses; empty without."""
    aside = [group.name for group in bench.groups(Role.STANDARD, Role.SAMPLE, Role.QC)]
    aside += [group.name for group in bench.groups(Role.DOSE) if group.level is None]
    return f" Neither dose nor control, and so not used: {listed(aside, ASIDE)}." if aside else ""


def pooled_names(groups: Sequence[Group]) -> str:
    """A sentence on doses of several names, each at several levels, that no series keeps apart; empty without."""
    apart = {group.series for group in named_series([g.model_copy(update={"name": stem(g.name)}) for g in groups])}
    if len(apart - {""}) < 2 or any(group.series for group in groups):
        return ""
    return f" **{listed(sorted(apart - {''}))} are pooled in one curve.** Give each a series to keep them apart."


def stem(name: str) -> str:
    """A name without the number it counts its doses by: "Azo-2 3" is the third of "Azo-2"."""
    return re.sub(r" \d+$", "", name)

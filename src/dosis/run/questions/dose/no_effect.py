"""Step: NOEC and LOEC of responses."""

from collections.abc import Iterator
from typing import Literal

from dosis.core.no_effect import NoEffect, no_effect
from dosis.core.replicates import summarize
from dosis.core.rounding import significant
from dosis.run.effects.no_effect import AgainstControlStep
from dosis.run.questions.dose.bench import DoseBench
from dosis.run.roles import Role


class NoEffectStep(AgainstControlStep):
    """By Dunnett's, Williams's or Jonckheere and Terpstra's test, one-sided the way the highest dose goes."""

    kind: Literal["no_effect"] = "no_effect"
    test: Literal["off", "dunnett", "williams", "jonckheere"] = "off"

    def series(self, bench: DoseBench) -> Iterator[tuple[str, str, str]]:  # type: ignore[override]
        """The compounds."""
        return ((key, compound.name, compound.tag) for key, compound in bench.compounds.items())

    def tested(self, bench: DoseBench, key: str) -> tuple[NoEffect, list[str]]:  # type: ignore[override]
        """On the scale that was fitted."""
        values = bench.responses
        at: dict[float, list[float]] = {}
        own = bench.compounds[key].groups
        for group in (*bench.groups(Role.VEHICLE), *own):
            level = 0.0 if group.role is Role.VEHICLE else group.level
            if level is not None and not (group.role is Role.VEHICLE and group.series not in ("", own[0].series)):
                at.setdefault(level, []).extend(values[id] for id in bench.used(group) if id in values)
        doses = sorted(level for level, found in at.items() if found)
        if not doses or doses[0] != 0 or len(doses) < 2:
            raise ValueError("there is no control to test against; give it the role vehicle, or a dose of zero.")
        groups = [at[dose] for dose in doses]
        means = [sum(group) / len(group) for group in groups]
        assert self.test != "off"
        found = no_effect(doses, groups, self.test, falling=means[-1] < means[0], alpha=self.alpha)
        return found, [_shown(group) for group in groups]


def _shown(readings: list[float]) -> str:
    summary = summarize(readings)
    spread = "" if summary.sd is None else f" ± {significant(summary.sd, 2)}"
    return f"{significant(summary.mean, 4)}{spread} ({summary.n})"

"""Step: which columns say how many were exposed and how many were affected, and what each vessel's counts are."""

from typing import Literal

from dosis.core.rounding import given
from dosis.run.layout import Group, Name
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.mortality.bench import CountBench, Treatment
from dosis.run.roles import Role
from dosis.run.steps.step import Step
from dosis.run.steps.summary import pooled_names
from dosis.run.trade_words import counted

COUNTED = (Role.DOSE, Role.VEHICLE)


class CountsStep(Step):
    """Affected out of exposed, of every vessel.

    exposed, affected : names of columns; empty to find them by their headings. A column of survivors serves as well.
    pool : vessels of the same dose are added up, or each stands for itself.
    """

    title = "Counts"
    kind: Literal["counts"] = "counts"
    exposed: Name = ""
    affected: Name = ""
    pool: Literal["dose", "vessel"] = "vessel"

    def run(self, bench: CountBench) -> StepOutcome:
        """Put the counts on the bench, by series; what makes no sense is left out, with its reason."""
        names = bench.channel_names()
        kinds = {counted(name): name for name in reversed(names)}
        exposed = self.exposed or kinds.get("exposed", "")
        affected = self.affected or kinds.get("affected", "")
        alive = "" if affected else kinds.get("alive", "")
        taken = affected or alive
        if exposed not in names or taken not in names:
            has = ", ".join(names)
            return self.told(f"Choose the columns of exposed and affected; there are {has}.", State.FAIL)
        total, other = bench.channel(names.index(exposed)), bench.channel(names.index(taken))
        wrong = []
        for group in bench.groups(*COUNTED):
            for id in bench.used(group):
                n, r = total.get(id), other.get(id)
                r = n - r if alive and n is not None and r is not None else r
                if n is None or r is None or n <= 0 or not 0 <= r <= n:
                    bench.why_not[id] = "none were exposed" if n == 0 else (
                        "no such counts: affected must lie between none and all of those exposed"
                    )  # fmt: skip
                    wrong.append(group.name)
                    continue
                bench.counts[id] = (r, n)
                bench.values[id] = 100 * r / n
        self._collect(bench)
        bench.decimals = 0
        for group in bench.groups(*COUNTED):
            cells = tuple(
                f"{given(bench.counts[id][0])} of {given(bench.counts[id][1])}" if id in bench.counts else "—"
                for id in group.readings
            )
            bench.note(group, self.kind, "Affected", cells=cells)
        exposed_all = sum(n for _, n in bench.counts.values())
        affected_all = sum(r for r, _ in bench.counts.values())
        pooled = "pooled by dose" if self.pool == "dose" else "each vessel on its own"
        of = f"{taken} counted as survivors" if alive else taken
        lost = ""
        said = f"**{given(affected_all)} of {given(exposed_all)}** affected ({of}, of {exposed}), {pooled}."
        if wrong:
            lost = f"{len(wrong)} left out, whose counts make no sense: {', '.join(wrong[:3])}."
            said += f" {lost}"
        bare = [group.name for group in bench.groups(Role.DOSE) if group.level is None]
        if bare:
            said += f" Without a dose, and so not used: {', '.join(bare[:3])}{' …' if len(bare) > 3 else ''}."
        pooled = pooled_names(bench.groups(Role.DOSE))
        said += pooled
        state = State.FAIL if not bench.counts else State.LOOK if wrong or bare or pooled else State.PASS
        return self.told(said, state, f"{lost}{pooled}".replace("**", "").strip())

    def _collect(self, bench: CountBench) -> None:
        for group in sorted(bench.groups(Role.DOSE), key=bench.place_of):
            if group.level is not None and not (group.level == 0 and self._serves_all(bench, group)):
                made = bench.treatments.setdefault(group.series, Treatment(name=group.series or "All doses"))
                self._take(bench, made, group, group.level)
        for group in bench.groups(*COUNTED):
            if self._serves_all(bench, group) and (group.role is Role.VEHICLE or group.level == 0):
                for made in bench.treatments.values():
                    self._take(bench, made, group, 0.0)
            elif group.role is Role.VEHICLE and group.series in bench.treatments:
                self._take(bench, bench.treatments[group.series], group, 0.0)
        for i, made in enumerate(bench.treatments.values()):
            made.rows.sort()
            made.tag = f"{i}." if len(bench.treatments) > 1 else ""

    def _serves_all(self, bench: CountBench, group: Group) -> bool:
        """Whether a control belongs to no series, where there are series: it is the control of each of them."""
        doses = bench.groups(Role.DOSE)
        return not group.series and (group.role is Role.VEHICLE or any(other.series for other in doses))

    def _take(self, bench: CountBench, made: Treatment, group: Group, dose: float) -> None:
        made.groups.append(group)
        vessels = [bench.counts[id] for id in group.readings if id in bench.counts]
        if self.pool == "dose" and vessels:
            self._add(made, dose, sum(r for r, _ in vessels), sum(n for _, n in vessels))
        else:
            made.rows += [(dose, r, n) for r, n in vessels]

    def _add(self, made: Treatment, dose: float, affected: float, exposed: float) -> None:
        """To the vessels of the same dose that may stand in another group."""
        for i, (level, r, n) in enumerate(made.rows):
            if level == dose:
                made.rows[i] = (dose, r + affected, n + exposed)
                return
        made.rows.append((dose, affected, exposed))

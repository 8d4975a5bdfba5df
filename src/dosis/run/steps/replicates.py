"""Step: one value for each group of replicate readings, and how far they agree."""

from functools import lru_cache
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from dosis.core.replicates import Replicates, summarize
from dosis.core.rounding import decimals_for, fixed, significant
from dosis.run.bench import Bench
from dosis.run.layout import Group, part_id, part_name
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.roles import Role
from dosis.run.steps.step import Step


@lru_cache(maxsize=8192)  # as `significant`
def percent(fraction: float) -> str:
    """A fraction in percent with two significant digits ("1.4 %", "12 %")."""
    return f"{significant(100 * fraction, 2)} %"


class ReplicatesStep(Step):
    """Combine replicates by their mean or median; point at a CV above the limit, remove nothing.

    combine : "each" leaves every reading of a sample or QC on its own, with an answer of its own.
    """

    title = "Replicates"
    names: ClassVar = {"cv_limit": "CV limit"}
    kind: Literal["replicates"] = "replicates"
    combine: Literal["mean", "median", "geometric", "each"] = "mean"
    cv_limit: Annotated[float, Field(gt=0, le=10)] = 0.10

    @property
    def _name(self) -> str:
        if self.combine == "each":
            return "Mean"  # of standards and blanks, and of what agrees among a sample's readings
        return "Geometric mean" if self.combine == "geometric" else self.combine.capitalize()

    def run(self, bench: Bench) -> StepOutcome:
        """Summarize every group; blanks were dealt with by their own step."""
        bench.cv_limit = self.cv_limit
        worst: tuple[float, Group] | None = None
        left_out, refused, name = 0, "", self._name
        combine, values = "mean" if self.combine == "each" else self.combine, bench.values
        for group in bench.layout.groups:
            if group.role is Role.UNUSED:
                continue
            ids = bench.used(group)
            left_out += len(group.readings) - len(ids)
            if not ids:
                bench.note(group, self.kind, name, text="No usable reading.")
                continue
            try:
                summary = summarize([values[id] for id in ids], combine)
            except ValueError as error:
                bench.note(group, self.kind, name, text=str(error))
                if group.role is not Role.BLANK:
                    refused = refused or f" {group.name}: {error}"
                continue
            bench.summaries[group.id] = summary
            if group.role is Role.DOSE and len(group.readings) == 1:
                continue  # the mean of one reading is the reading, and a screen has thousands of them
            if bench.writes(group):
                bench.note(
                    group, self.kind, name, text=_agreement(summary, len(group.readings)),
                    result=bench.signal(summary.value), value=summary.value,
                )  # fmt: skip
            # Near zero, as without any or normalized, a CV says nothing.
            judged = group.role is not Role.BLANK and not bench.between_references and group.level != 0
            if judged and summary.cv is not None and (worst is None or summary.cv > worst[0]):
                worst = (summary.cv, group)
        if self.combine == "each":
            self._part(bench)
        title, name = "Replicates", "Each reading on its own" if self.combine == "each" else name
        aside = f" {left_out} {'reading' if left_out == 1 else 'readings'} left out." if left_out else ""
        if refused:
            return StepOutcome(kind=self.kind, title=title, sentence=f"{name}.{refused}{aside}", state=State.LOOK)
        if bench.between_references:
            sentence = f"{name} of each dose, of its normalized readings.{aside}"
            return StepOutcome(kind=self.kind, title=title, sentence=sentence, state=State.PASS)
        if worst is None:
            sentence = f"One reading each; there is no spread to judge.{aside}"
            return StepOutcome(kind=self.kind, title=title, sentence=sentence, state=State.PASS)
        of = "" if self.combine == "each" else " of each group"
        sentence = f"{name}{of}. Worst CV **{percent(worst[0])}** ({worst[1].name}).{aside}"
        state = State.LOOK if worst[0] > self.cv_limit else State.PASS
        return StepOutcome(kind=self.kind, title=title, sentence=sentence, state=state)

    def _part(self, bench: Bench) -> None:
        """Make every reading of a sample or QC a group of its own, so that what follows is done to each."""
        groups: list[Group] = []
        for group in bench.layout.groups:
            if group.role not in (Role.SAMPLE, Role.QC) or len(group.readings) < 2:
                groups.append(group)
                continue
            for i, id in enumerate(group.readings, start=1):
                own = group.model_copy(update={
                    "id": part_id(group.id, str(i)), "name": part_name(group.name, str(i)), "readings": (id,),
                })  # fmt: skip
                groups.append(own)
                if id not in bench.why_not:
                    bench.summaries[own.id] = summarize([bench.values[id]])
        bench.layout = bench.layout.model_copy(update={"groups": tuple(groups)})


@lru_cache(maxsize=8192)  # as `significant`
def _agreement(summary: Replicates, n_all: int) -> str:
    n = f"n = {summary.n}" + (f" of {n_all}" if n_all != summary.n else "")
    if summary.sd is None:
        return f"({n})"
    spread = f"± {fixed(summary.sd, decimals_for(summary.sd))}" if summary.sd else "± 0"
    sem = f", SEM {fixed(summary.sem, decimals_for(summary.sem))}" if summary.sem else ""
    return f"{spread} ({n}{sem}" + (f", CV {percent(summary.cv)})" if summary.cv is not None else ")")

"""Step: what was in the sample before known amounts were added to it — where the line reaches zero signal."""

import math
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from dosis.run.curves.equation import put
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import Remark, State, Value
from dosis.run.questions.additions.bench import AdditionsBench
from dosis.run.steps.step import Step
from dosis.run.steps.summary import listed


class AdditionsStep(Step):
    """Extrapolate the line of the additions to zero signal (Miller & Miller, Statistics and Chemometrics, 5.8)."""

    title = "Additions"
    kind: Literal["additions"] = "additions"
    level: Annotated[float, Field(ge=0.5, le=0.999)] = 0.95

    def run(self, bench: AdditionsBench) -> StepOutcome:
        """Concentration = intercept ÷ slope, its interval by Fieller's theorem with no signal as exact."""
        fit = bench.fit
        for group in bench.answered():
            bench.in_reading[group.id] = Value()
        if fit is None or bench.fit_problem:
            return self.told("Waiting for a line.", State.FAIL)
        if fit.model.id != "line" or fit.fixed:
            return self.told("Additions need a straight line with an intercept; choose Line.", State.FAIL)
        if not bench.answered():
            none = "Which reading is the sample itself? Give it the role sample, or an addition of zero."
            return self.told(none, State.FAIL)
        # No signal is exactly none on the scale of corrected readings; the error of the blank is in all of these.
        found = fit.read_back_many([0.0], [math.inf], self.level, carries=np.zeros((len(fit.common), 1)))[0]
        if found.estimate is None or found.estimate >= 0:
            why = "The line reaches zero signal at an addition above zero, so it gives no concentration."
            for group in bench.answered():
                bench.remark(group, Remark(state=State.LOOK, short="not above zero", text=f"{group.name}: {why}"))
            return self.told(why, State.FAIL)
        # Turned round: the lower end of where the line meets zero is the upper end of the concentration.
        ends = [None if end is None else -end for end in (found.upper, found.lower)]
        value = Value.of(-found.estimate, ends[0], ends[1])
        shown, low, high = value.shown, value.shown_lower, value.shown_upper
        unit = bench.layout.level.unit
        text = f"{put(fit.named['intercept'])} ÷ {put(fit.named['slope'])}"
        for group in bench.answered():
            bench.in_reading[group.id] = value
            bench.note(group, self.kind, "Intercept ÷ slope", text=text, result=f"{shown} {unit}".rstrip(),
                       value=value.value)  # fmt: skip
            why = f" ({found.reason})" if found.lower is None and found.reason else ""
            bench.note(
                group, self.kind, f"{self.level * 100:g} % interval", text=f"{low} to {high} {unit}{why}".strip()
            )
        said = f"Extended back to zero signal, the line gives **{f'{shown} {unit}'.rstrip()}**."
        names = [*dict.fromkeys(group.name for group in bench.answered())]
        if len(names) > 1:
            pooled = f"{listed(names)} stand on one line and so have one answer"
            said += f" **{pooled}.** If they are different samples, give each a series of its own."
            for group in bench.answered():
                text = f"{group.name}: {pooled}; give each a series of its own."
                bench.remark(group, Remark(state=State.LOOK, short="several samples on one line", text=text))
            return self.told(said, State.LOOK, f"{pooled}.")
        return self.told(said, State.PASS)

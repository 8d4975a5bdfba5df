"""Step: the line of mortality on dose, by maximum likelihood, and how the deaths of the controls are dealt with."""

from typing import Literal

from dosis.core import quantal
from dosis.core.rounding import p_value, significant
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.mortality.bench import CountBench, Treatment
from dosis.run.steps.step import Step

LINKS = {"probit": "Probit", "logit": "Logit", "cloglog": "Complementary log-log"}
BACKGROUND = {"none": "", "abbott": ", Abbott's correction for control deaths", "estimated": ", background estimated"}


class QuantalStep(Step):
    """Probit, logit or complementary log-log on log or linear dose.

    background : "estimated" fits the share affected without dose together with the line, "abbott" corrects by that of
        the controls; without any control neither does anything, and the step says so.
    scatter : when intervals are widened by how much more the counts scatter than chance allows: "always" that they do,
        for a "poor" fit only, or "never".
    """

    title = "Line"
    kind: Literal["quantal"] = "quantal"
    link: Literal["probit", "logit", "cloglog"] = "probit"
    dose: Literal["log", "linear"] = "log"
    background: Literal["none", "abbott", "estimated"] = "estimated"
    scatter: Literal["always", "poor", "never"] = "always"

    def run(self, bench: CountBench) -> StepOutcome:
        """Fit each series; with too little partial response what can still be said is said."""
        if not any(made.rows for made in bench.treatments.values()):
            return self.told("Waiting for counts.", State.FAIL)
        poor, lost, none = [], [], []
        for made in bench.treatments.values():
            dose, affected, exposed = made.columns
            controls = any(level == 0 for level in dose)
            background = None if self.background == "none" or not controls else self.background
            if self.background != "none" and not controls:
                none.append(made.name)
            try:
                made.fit = quantal.fit(dose, affected, exposed, link=self.link, background=background,
                                       log_dose=self.dose == "log", known_controls=False,
                                       widened=self.scatter)  # fmt: skip
            except ValueError as error:
                made.problem = str(error)
                lost.append(made.name)
                continue
            if made.fit.widening > 1:
                poor.append(made)
            if not made.fit.converged:
                lost.append(made.name)
                made.problem = made.fit.message
        said = f"{LINKS[self.link]} line on {'log10 dose' if self.dose == 'log' else 'dose'}"
        if len(none) == len(bench.treatments):
            said += ". No controls (dose zero), so there is no background to correct for."
        else:
            said += f"{BACKGROUND[self.background]}."
        for made in poor[:2]:
            said += self._widened(made)
        if lost:
            why = next(made.problem for made in bench.treatments.values() if made.problem)
            said += f" No line for {', '.join(lost[:3])}: {why}"
        state = State.FAIL if len(lost) == len(bench.treatments) else State.LOOK if lost or poor else State.PASS
        return self.told(said, state)

    def _widened(self, made: Treatment) -> str:
        fit = made.fit
        if fit is None or fit.pearson_p is None:
            return ""
        return (
            f" {made.name}: counts scatter more than chance allows (χ² p {p_value(fit.pearson_p)}): intervals are "
            f"widened by the heterogeneity factor **{significant(fit.widening, 3)}**."
        )


def controls_of(made: Treatment) -> tuple[float, float]:
    """Affected and exposed at dose zero."""
    return sum(r for x, r, _ in made.rows if x == 0), sum(n for x, _, n in made.rows if x == 0)

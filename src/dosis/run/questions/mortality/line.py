"""Step: the line of mortality on dose, by maximum likelihood, and how the deaths of the controls are dealt with."""

from typing import Literal

from dosis.core import quantal
from dosis.core.quantal.fitted import POOR_FIT
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
        for a "poor" fit only, or "never"; or whether it is fitted with the line, "beta-binomial".
    """

    title = "Line"
    kind: Literal["quantal"] = "quantal"
    link: Literal["probit", "logit", "cloglog"] = "probit"
    dose: Literal["log", "linear"] = "log"
    background: Literal["none", "abbott", "estimated"] = "estimated"
    scatter: Literal["always", "poor", "never", "beta-binomial"] = "always"

    def run(self, bench: CountBench) -> StepOutcome:
        """Fit each series; with too little partial response what can still be said is said."""
        if not any(made.rows for made in bench.treatments.values()):
            return self.told("Waiting for counts.", State.FAIL)
        wide, lost, none = [], [], []
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
            if made.fit.widening > 1 and made.fit.converged:
                wide.append(made)
            if not made.fit.converged:
                lost.append(made.name)
                made.problem = made.fit.message
        said = f"{LINKS[self.link]} line on {'log10 dose' if self.dose == 'log' else 'dose'}"
        if len(none) == len(bench.treatments):
            said += ". No controls (dose zero), so there is no background to correct for."
        else:
            said += f"{BACKGROUND[self.background]}.{self._shares(bench)}"
        for made in bench.treatments.values():
            if made.fit is not None and made.fit.correlation is not None:
                rho = significant(made.fit.correlation, 2)
                said += f" {made.name}: animals of a vessel are alike by a correlation of **{rho}** (beta-binomial)."
        for made in wide[:2]:
            said += self._widened(made)
        poor = [made for made in wide if made.fit and made.fit.pearson_p is not None and made.fit.pearson_p < POOR_FIT]
        if lost:
            why = next(made.problem for made in bench.treatments.values() if made.problem)
            said += f" No line for {', '.join(lost[:3])}: {why}"
        state = State.FAIL if len(lost) == len(bench.treatments) else State.LOOK if lost or poor else State.PASS
        return self.told(said, state)

    def _shares(self, bench: CountBench) -> str:
        """The backgrounds that were fitted, and what is to be known of Abbott's correction where controls died."""
        fits = [
            (made.name, made.fit) for made in bench.treatments.values() if made.fit is not None and made.fit.converged
        ]
        if self.background == "abbott" and any(fit.background for _, fit in fits):
            return (
                " It takes what it leaves below none as none, which draws the doses of small effects down: their "
                "intervals hold less often than they say. Estimate the background instead."
            )
        found = [(name, fit.background) for name, fit in fits if fit.background_of == "estimated"]
        if not found:
            return ""
        several = len({share for _, share in found}) > 1
        shown = [f"{name + ' ' if several else ''}{significant(100 * share, 2)} %" for name, share in found[:3]]
        return f" Without dose **{', '.join(shown if several else shown[:1])}** are affected."

    def _widened(self, made: Treatment) -> str:
        fit = made.fit
        if fit is None or fit.pearson_p is None:
            return ""
        return (
            f" {made.name}: counts vary **{significant(fit.widening, 3)} times** as much as by chance alone (χ² p "
            f"{p_value(fit.pearson_p)}), by which the variance of every dose is multiplied."
        )


def controls_of(made: Treatment) -> tuple[float, float]:
    """Affected and exposed at dose zero."""
    return sum(r for x, r, _ in made.rows if x == 0), sum(n for x, _, n in made.rows if x == 0)

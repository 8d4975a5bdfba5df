"""Step: NOEC and LOEC of counts."""

from collections.abc import Iterator
from typing import Literal

from dosis.core.no_effect import NoEffect, no_effect_of_counts
from dosis.core.rounding import given
from dosis.run.effects.no_effect import AgainstControlStep
from dosis.run.questions.mortality.bench import CountBench


class NoEffectCountsStep(AgainstControlStep):
    """By Fisher's exact test with Holm's correction, or Cochran and Armitage's trend; vessels of a dose together."""

    kind: Literal["no_effect_counts"] = "no_effect_counts"
    test: Literal["off", "fisher", "cochran_armitage"] = "off"

    def series(self, bench: CountBench) -> Iterator[tuple[str, str, str]]:  # type: ignore[override]
        """The treatments."""
        return ((key, made.name, made.tag) for key, made in bench.treatments.items())

    def tested(self, bench: CountBench, key: str) -> tuple[NoEffect, list[str]]:  # type: ignore[override]
        """Affected of exposed at each dose."""
        at: dict[float, tuple[float, float]] = {}
        for dose, affected, exposed in bench.treatments[key].rows:
            had = at.get(dose, (0.0, 0.0))
            at[dose] = had[0] + affected, had[1] + exposed
        doses = sorted(at)
        if not doses or doses[0] != 0 or len(doses) < 2:
            raise ValueError("there is no control to test against; give it the role control, or a dose of zero.")
        if any(value != int(value) for counts in at.values() for value in counts):
            raise ValueError("counts must be whole numbers.")
        assert self.test != "off"
        found = no_effect_of_counts(doses, [at[dose] for dose in doses], self.test, alpha=self.alpha)
        return found, [f"{given(r)} of {given(n)}" for r, n in (at[dose] for dose in doses)]

"""Step: the highest dose without a shown effect, and the lowest with one, against the control."""

import math
from abc import abstractmethod
from collections.abc import Iterator
from typing import Annotated, ClassVar

from pydantic import Field

from dosis.core.no_effect import NoEffect
from dosis.core.rounding import given, p_value, significant
from dosis.run.effects.bench import EffectBench, Shown
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.table import AnswerColumn, AnswerRow, AnswerTable, numbers, texts, values
from dosis.run.outcome.value import State, Value
from dosis.run.roles import Role
from dosis.run.steps.step import Step
from dosis.run.steps.summary import listed

MOST = 12  # series that are tested
TESTS = {
    "dunnett": "Dunnett", "williams": "Williams", "jonckheere": "Jonckheere–Terpstra", "fisher": "Fisher, Holm",
    "cochran_armitage": "Cochran–Armitage",
}  # fmt: skip


class AgainstControlStep(Step):
    """NOEC and LOEC by a test; off at first, for an effect dose says more (OECD Series 54). alpha : the risk."""

    title = "No effect"
    names: ClassVar = {"alpha": "risk"}
    kind: str
    test: str = "off"
    alpha: Annotated[float, Field(gt=0, lt=0.5)] = 0.05

    @abstractmethod
    def series(self, bench: EffectBench) -> Iterator[tuple[str, str, str]]:
        """Key, name and the beginning of ids of each series."""

    @abstractmethod
    def tested(self, bench: EffectBench, key: str) -> tuple[NoEffect, list[str]]:
        """NOEC and LOEC of a series, and what each dose, the control's first, came to. Raises ValueError."""

    def run(self, bench: EffectBench) -> StepOutcome:
        """Test each series against the control."""
        if self.test == "off":
            return self.told("Switched off; an effect dose says more.", State.PASS)
        every = list(self.series(bench))
        if not every:
            return self.told("Waiting for doses.", State.PASS)
        if len(every) > MOST:
            return self.told(f"{len(every)} series are too many to be tested for no effect.", State.LOOK)
        lost = []
        for key, name, tag in every:
            try:
                found, shown = self.tested(bench, key)
            except ValueError as error:
                lost.append(f"{name}: {error}")
                continue
            bench.against[key] = Shown(name, found, tuple(shown))
            self._write(bench, tag, found, shown)
        return self._report(bench, lost)

    def _write(self, bench: EffectBench, tag: str, found: NoEffect, shown: list[str]) -> None:
        before, bench.tag = bench.tag, tag
        unit = bench.layout.level.unit
        bench.write("no_effect", "Control", result=shown[0])
        for each, said in zip(found.tested, shown[1:], strict=True):
            label = f"{given(each.dose)} {unit}".rstrip()
            if each.p_value is None:
                bench.write("no_effect", label, text=f"{said}; not tested, the trend had ended above it")
                continue
            bench.write("no_effect", label, text=said, result=f"p {p_value(each.p_value)}", value=each.p_value)
        bench.write("no_effect", "NOEC", text=f"{TESTS[self.test]}, one-sided risk {100 * self.alpha:g} %",
                    result=noec_of(found).shown, value=found.noec)  # fmt: skip
        bench.write("no_effect", "LOEC", text="the lowest dose with a shown effect that all above it have, too",
                    result=loec_of(found).shown, value=found.loec)  # fmt: skip
        bench.tag = before

    def _report(self, bench: EffectBench, lost: list[str]) -> StepOutcome:
        unit = bench.layout.level.unit
        said = [
            f"{each.name}: NOEC **{noec_of(each.found).shown}**, LOEC **{loec_of(each.found).shown}** {unit}".rstrip()
            for each in bench.against.values()
        ]
        sentence = f"{TESTS[self.test]}. {'; '.join(said[:3])}{f' and {len(said) - 3} more' if len(said) > 3 else ''}."
        broken = [each.name for each in bench.against.values() if each.found.broken]
        verdict = ""
        if broken:
            verdict = f"An effect is shown at a low dose and not at a higher one: {listed(broken)}."
        if lost:
            verdict = f"Not tested: {listed(lost)}"
        if not said:
            return self.told(verdict or "Nothing could be tested.", State.LOOK, verdict)
        return self.told(f"{sentence} {verdict}".strip(), State.LOOK if verdict else State.PASS, verdict)


def noec_of(found: NoEffect) -> Value:
    """The NOEC, or that it lies below the lowest dose."""
    if found.noec is not None:
        return Value(value=found.noec, shown=given(found.noec))
    return Value(censor="<", shown=f"< {given(found.tested[0].dose)}")


def loec_of(found: NoEffect) -> Value:
    """The LOEC, or that it lies above the highest dose."""
    if found.loec is not None:
        return Value(value=found.loec, shown=given(found.loec))
    return Value(censor=">", shown=f"> {given(found.tested[-1].dose)}")


def no_effect_columns(bench: EffectBench, keys: list[str], unit: str) -> Iterator[AnswerColumn]:
    """NOEC and LOEC of each series, where they were tested for."""
    if not bench.against:
        return
    for id, name, of in (("noec", "NOEC", noec_of), ("loec", "LOEC", loec_of)):
        cells = [of(bench.against[key].found) if key in bench.against else Value() for key in keys]
        yield values(id, name, cells, unit=unit, short=name, lead=True, working="no_effect")


def no_effect_tables(bench: EffectBench) -> Iterator[AnswerTable]:
    """Each dose against the control, series by series."""
    unit = bench.layout.level.unit
    for key, shown in bench.against.items():
        tested = shown.found.tested
        ps = [each.p_value for each in tested]
        statistics = [each.statistic for each in tested]
        yield AnswerTable(
            of="Dose", title=f"Against the control · {shown.name}",
            rows=tuple(_row(key, each.dose, unit) for each in tested),
            columns=(
                texts("found", "Found", shown.texts[1:]),
                numbers("statistic", "Statistic", statistics,
                        ["—" if s is None or not math.isfinite(s) else significant(s, 3) for s in statistics]),
                numbers("p", "p", ps, ["—" if p is None else p_value(p) for p in ps]),
                texts("shown", "Effect", ["shown" if each.shown else "not shown" for each in tested]),
            ),
        )  # fmt: skip


def _row(key: str, dose: float, unit: str) -> AnswerRow:
    return AnswerRow(key=f"against {key} {dose:g}", name=f"{given(dose)} {unit}".rstrip(), group="", role=Role.DOSE)

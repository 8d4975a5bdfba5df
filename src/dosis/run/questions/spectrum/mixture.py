"""Step: how much of each component there is in a scan, from reference scans of the components alone."""

from typing import ClassVar, Literal

import numpy as np

from dosis.core.rounding import given, significant
from dosis.core.spectra import components
from dosis.run.curves.ends import Range
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State, Value
from dosis.run.questions.spectrum.bench import Read, SpectrumBench
from dosis.run.questions.spectrum.windows import span, within
from dosis.run.roles import Role
from dosis.run.steps.step import Step

MOST = 4  # components
ALIKE = 300.0  # condition of the references from which they are too much alike to be told apart well


class MixtureStep(Step):
    """Scans as sums of the references, by least squares over the window, wherever there are references.

    not_negative : no component below zero. constant : a level that is the same everywhere, besides.
    """

    title = "Mixture"
    kind: Literal["mixture"] = "mixture"
    names: ClassVar = {"not_negative": "none below zero", "constant": "with a constant level"}
    window: Range = Range()
    not_negative: bool = False
    constant: bool = False

    def run(self, bench: SpectrumBench) -> StepOutcome:
        """Take every scan apart."""
        bench.references = [scan for scan in bench.scans if scan.group.role is Role.STANDARD]
        mixed = [scan for scan in bench.scans if scan.group.role is Role.POINT]
        if not bench.references:
            return self.told("No scan is a reference, so nothing is taken apart.", State.PASS)
        if len(bench.references) > MOST:
            text = f"There are {len(bench.references)} references; {MOST} are the most. Make the others scans."
            return self.told(text, State.FAIL, text)
        if not mixed:
            return self.told("All scans are references; there is none to take apart.", State.LOOK)
        rows = [scan.index for scan in bench.references]
        bench.inside = within(self.window, bench.x) & np.isfinite(bench.s[rows]).all(axis=0)
        known = [1.0 if scan.group.level is None else scan.group.level for scan in bench.references]
        problems = []
        for scan in mixed:
            there = bench.inside & np.isfinite(bench.s[scan.index])
            try:
                bench.mixtures[scan.index] = components(
                    bench.s[scan.index, there],
                    list(bench.s[rows][:, there]),
                    known,
                    not_negative=self.not_negative,
                    constant=self.constant,
                )
            except ValueError as error:
                problems.append(f"{scan.key}: {error}")
        self._read(bench)
        low, high = span(self.window, bench.x)
        names = ", ".join(scan.key for scan in bench.references)
        if not bench.mixtures:
            return self.told(problems[0], State.FAIL, problems[0])
        condition = max(each.condition for each in bench.mixtures.values())
        alike = ""
        if condition > ALIKE:
            alike = (
                f" These references are so much alike that errors grow up to {significant(condition, 2)} times; a "
                "window in which they differ more helps."
            )
        unknown = [scan.key for scan in bench.references if scan.group.level is None]
        per = (
            f" Amounts are in units of {', '.join(unknown)} as scanned: give references their level." if unknown else ""
        )
        text = (
            f"**{len(bench.mixtures)} of {len(mixed)} scans** as sums of {names}, by least squares from {given(low)} "
            f"to {given(high)} {bench.axis.unit}"
        ).rstrip()
        more = f"{alike}{' ' + problems[0] if problems else ''}"
        return self.told(f"{text}.{per}{more}", State.LOOK if more else State.PASS, more.strip())

    def _read(self, bench: SpectrumBench) -> None:
        leveled = all(scan.group.level is not None for scan in bench.references)
        unit = bench.layout.level.unit if leveled else ""
        for k, reference in enumerate(bench.references):
            cells = []
            for scan in bench.scans:
                found = bench.mixtures.get(scan.index)
                if found is None:
                    cells.append(Value())
                    continue
                ends = found.interval()[k]
                value = float(found.amounts[k])
                cells.append(Value.of(value, *(ends or (None, None))))
                error = found.standard_errors[k]
                text = "held at zero" if ends is None else f"± t({found.df}) × {significant(float(error), 3)}"
                bench.note(scan.group, self.kind, f"{reference.key} in {scan.key}", text=text,
                           result=f"{cells[-1].shown} {unit}".rstrip(), value=value)  # fmt: skip
            bench.reads.append(Read(f"amount_{k}", reference.key, unit, cells))
        rest = [bench.mixtures.get(scan.index) for scan in bench.scans]
        cells = [Value() if each is None else Value.of(each.rmse, None, None) for each in rest]
        bench.reads.append(Read("rest", "Left over (RMSE)", bench.quantity.unit, cells))

"""Step: what rates depend on — a second curve of them against the level: substrate, inhibitor, pH, temperature."""

import math
import re
from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from dosis.core.fitting.fit import fit
from dosis.core.inference.result import Fit
from dosis.core.kinetics import INHIBITIONS, inhibition
from dosis.core.models import MODELS
from dosis.core.numbers import Meaning, parse_number
from dosis.core.rounding import p_value, significant
from dosis.run.curves.words import bent
from dosis.run.layout import Group
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State, Value
from dosis.run.questions.rate.bench import Found, RateBench, Second
from dosis.run.questions.rate.straightened import straightened
from dosis.run.roles import Role
from dosis.run.steps.step import Step
from dosis.run.steps.summary import listed

INHIBITED = "inhibition"
SHAPES = ("hyperbola", "hyperbola_offset", "hill", "substrate_inhibition", "optimum", "gaussian", "arrhenius", "line",
          "line_through_zero", "quadratic")  # fmt: skip
LEAST = 4  # levels from which a curve through them is worth drawing unasked
KELVIN = 273.15
BETTER = 4.0  # AICc by which another kind is clearly better (Burnham & Anderson 2002, 2.6)
_NUMBER = re.compile(r"[-+]?\d[\d.,]*(?:[eE][-+]?\d+)?")
_NO_INHIBITOR = re.compile(r"^(no|none|without|control|uninhibited)\b|^$", re.IGNORECASE)
Weights = Literal["none", "1/y", "1/y^2", "1/yhat^2"]


class AgainstStep(Step):
    """A curve of what was found of the courses against the level of their groups, one for each series.

    model : of the curve; "off"; "inhibition", one fit of the whole family, each series at its level of the inhibitor,
        which its name says ("5 µM") or `inhibitors` does; `inhibited` : how, "best" by AICc.
    of : what is held against the level, by id; empty for what leads. fit_to : every course, or the means of groups.
    """

    title = "Against level"
    names: ClassVar = {"of": "what is held against the level", "inhibited": "inhibition"}
    kind: Literal["against_level"] = "against_level"
    model: Literal[(*SHAPES, INHIBITED, "off")] = "off"  # type: ignore[valid-type]
    of: Annotated[str, Field(max_length=60)] = ""
    weights: Weights = "none"
    fit_to: Literal["courses", "means"] = "courses"
    inhibited: Literal["best", "competitive", "uncompetitive", "noncompetitive", "mixed"] = "best"
    inhibitors: dict[str, Annotated[float, Field(ge=0, le=1e12)]] = Field(default_factory=dict)
    interval: Literal["wald", "profile"] = "profile"
    level: Annotated[float, Field(ge=0.5, le=0.999)] = 0.95

    def run(self, bench: RateBench) -> StepOutcome:
        """Fit what was found against the level."""
        if self.model == "off":
            levels = {group.level for group in bench.groups(Role.POINT) if group.level is not None}
            few = "Give courses their levels to draw rates against them." if len(levels) < 2 else "Switched off."
            return self.told(few, State.PASS)
        found = next((each for each in bench.found if each.id == self.of), None) or bench.lead()
        if found is None:
            return self.told("Waiting for rates.", State.FAIL)
        bench.second_of = found.id
        bench.seconds = self._sorted(bench, found)
        if not bench.seconds:
            return self.told("No course has a level yet. Give them their levels, such as the substrate.", State.LOOK)
        bare = [group.name for group in bench.groups(Role.POINT) if group.level is None]
        if self.model == INHIBITED:
            said = self._family(bench)
        else:
            for second in bench.seconds:
                second.fit, second.problem = self._fitted(bench, second)
                if second.fit is not None:
                    second.values = {name: self.value(second.fit, name) for name in second.fit.model.names}
                    second.straightened = straightened(bench, second, found, self.model)
            said = self._tell(bench, found)
        if bare:
            lost = f" Without a level, and so not used: {listed(bare)}."
            return self.told(said.sentence + lost, State.LOOK if said.state is State.PASS else said.state, lost.strip())
        return said

    def _sorted(self, bench: RateBench, found: Found) -> list[Second]:
        """The points of each series: a course each, or the mean of a group."""
        seconds: dict[str, Second] = {}
        for course in bench.courses:
            group, value = course.group, float(found.values[course.index])
            if group.level is None or not math.isfinite(value):
                continue
            second = seconds.setdefault(group.series, Second(group.series, ""))
            if group not in second.groups:
                second.groups.append(group)
            second.ids.append(course.id)
            second.x.append(_x(bench, group))
            second.y.append(value)
        if self.fit_to == "means":
            for second in seconds.values():
                _to_means(second)
        for i, second in enumerate(seconds.values()):
            second.tag = f"second{i}." if len(seconds) > 1 else "second."
        return list(seconds.values())

    def _fitted(self, bench: RateBench, second: Second) -> tuple[Fit | None, str]:
        model = MODELS[self.model]
        levels = len(set(second.x))
        if levels < len(model.names):
            have = f"{levels} levels" if levels != 1 else "Only one level"
            return None, f"{have}; {model.name.lower()} needs {len(model.names)} or more."
        try:
            return fit(model, second.x, second.y, weights=self.weights), ""
        except ValueError as error:
            return None, str(error)

    def _family(self, bench: RateBench) -> StepOutcome:
        """All series at once: substrate is the level, the inhibitor what the series is called."""
        levels: dict[str, float] = {}
        unread = []
        for second in bench.seconds:
            level = self.inhibitors.get(second.key, _inhibitor(second.key))
            if level is None:
                unread.append(second.key)
            else:
                levels[second.key] = level
        if unread:
            return self.told(f"Type the inhibitor's level of {listed(unread)}; the name says none.", State.LOOK)
        x = [v for second in bench.seconds for v in second.x]
        y = [v for second in bench.seconds for v in second.y]
        i = [levels[second.key] for second in bench.seconds for _ in second.x]
        try:
            kinds = [inhibition(kind, x, i, y) for kind in INHIBITIONS]
        except ValueError as error:
            return self.told(str(error), State.FAIL)
        judged = [each for each in kinds if each.aicc is not None and each.converged]
        best = min(judged or kinds, key=lambda each: math.inf if each.aicc is None else each.aicc)
        chosen = best if self.inhibited == "best" else next(each for each in kinds if each.kind.id == self.inhibited)
        for second in bench.seconds:
            second.kinds, second.family = [chosen, *[each for each in kinds if each is not chosen]], levels
        constants = ", ".join(
            f"{name} {significant(chosen.named[name], 3)}" for name in chosen.kind.constants if chosen.interval(name)
        )
        rivals = [e for e in judged if e is not chosen and chosen.aicc is not None
                  and (e.aicc or 0.0) - chosen.aicc < BETTER]  # fmt: skip
        close = ""
        if rivals:
            close = f" {listed([each.kind.name.lower() for each in rivals])} cannot be told apart from it by AICc."
            close = close[:2].upper() + close[2:]
        open_ = [name for name in chosen.names if chosen.interval(name) is None]
        lost = f" Not determined: {', '.join(open_)}." if open_ else ""
        text = (
            f"**{chosen.kind.name} inhibition**, {constants}, by one fit of {len(bench.seconds)} series.{close}{lost}"
        )
        return self.told(text, State.LOOK if lost or not chosen.converged else State.PASS, lost.strip())

    def _tell(self, bench: RateBench, found: Found) -> StepOutcome:
        made = [second for second in bench.seconds if second.fit is not None]
        failed = [second for second in bench.seconds if second.fit is None]
        if not made:
            return self.told(failed[0].problem, State.FAIL)
        fits = [second.fit for second in made if second.fit is not None]
        name = MODELS[self.model].name
        if len(made) == 1:
            shown = "; ".join(_shown(name, value) for name, value in list(made[0].values.items())[:3])
            text = f"**{name}** through {fits[0].n} {found.name.lower()}s: {shown}."
        else:
            text = f"**{name}** through the {found.name.lower()}s of {len(made)} of {len(bench.seconds)} series."
        why = "; ".join(f"{second.key or 'All'}: {second.problem}" for second in failed[:3])
        off = next((f.lack_of_fit.p_value for f in fits if bent(f)), None)
        bend = f" The curve misses the points (lack of fit p {p_value(off)})." if off is not None else ""
        warned = next((w for each in fits for w in each.warnings), "")
        look = bool(why or bend or warned)
        verdict = " ".join(filter(None, (why, bend.strip(), warned)))
        return self.told(
            " ".join(filter(None, (text + bend, why, warned))), State.LOOK if look else State.PASS, verdict
        )

    def value(self, result: Fit, name: str) -> Value:
        """A parameter with its interval, by the method that is chosen."""
        estimate = result.parameters[name]
        lower, upper = estimate.interval(self.level, self.interval) or (None, None)
        return Value.of(estimate.estimate, lower, upper)


def parameters_of(step: AgainstStep, second: Second) -> Iterator[tuple[str, str, Value]]:
    """Name, unit rule and value of every parameter of a second curve."""
    if second.fit is not None:
        for parameter in second.fit.model.parameters:
            yield parameter.name, parameter.unit, second.values[parameter.name]
    elif second.kinds:
        chosen = second.kinds[0]
        for name in chosen.names:
            ends = chosen.interval(name, step.level) or (None, None)
            rule = "y" if name == "maximum" else "x" if name == "half" else "inhibitor"
            yield name, rule, Value.of(chosen.named[name], *ends)


def _x(bench: RateBench, group: Group) -> float:
    """The level, a temperature in kelvins as one in °C, in which models of temperature are written."""
    assert group.level is not None
    return group.level - KELVIN if bench.layout.level.unit == "K" else group.level


def _to_means(second: Second) -> None:
    of = {id: group.id for group in second.groups for id in group.readings}
    first: dict[str, int] = {}
    rows: dict[str, list[tuple[float, float]]] = {}
    for id, x, y in zip(second.ids, second.x, second.y, strict=True):
        first.setdefault(of[id], id)
        rows.setdefault(of[id], []).append((x, y))
    second.ids = list(first.values())
    second.x = [own[0][0] for own in rows.values()]
    second.y = [float(np.mean([y for _, y in own])) for own in rows.values()]


def _inhibitor(name: str) -> float | None:
    """The level that a series is named for: 5 of "TP-17, 5 µM", zero of "none"; None where it names none."""
    if _NO_INHIBITOR.match(name.strip()):
        return 0.0
    numbers = [parse_number(each) for each in _NUMBER.findall(re.sub(r"[A-Za-z]+-?\d+", "", name))]
    known = [n.value for n in numbers if n.meaning is Meaning.NUMBER and n.value is not None and n.value >= 0]
    return known[-1] if known else None


def _shown(name: str, value: Value) -> str:
    ends = f" ({value.shown_lower} to {value.shown_upper})" if value.shown_lower and value.shown_upper else ""
    return f"{name} {value.shown}{ends}"

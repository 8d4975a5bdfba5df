"""What a step of the working is: its choices as data, what it does on the bench, and its own words."""

from collections.abc import Collection, Iterator, Sequence
from typing import Any, ClassVar, TypeVar

from dosis.core.models import MODELS
from dosis.core.rounding import given
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.record import Record, changed, light


@light
class Changed:
    """One thing that is not the same: what, and how it stood before and after; empty where it was not there."""

    what: str
    before: str
    after: str


class Step(Record):
    """A kind of step. Each is one file: fields are its choices, `run` works with a bench of the question's own.

    title : on the page. names : what its fields are called where a change is told, if not as they are written.
    """

    title: ClassVar[str]
    names: ClassVar[dict[str, str]] = {}
    kind: str

    def run(self, bench: Any) -> StepOutcome:
        """Do it, leave what comes of it on the bench, and say so."""
        raise NotImplementedError

    def told(self, sentence: str, state: State, verdict: str = "") -> StepOutcome:
        """What it says of itself; `verdict` is for what no check tells of."""
        return StepOutcome(kind=self.kind, title=self.title, sentence=sentence, state=state, verdict=verdict)

    def words(self, before: "Step | None", unit: str) -> str:
        """What choosing this instead of `before` is called in the ledger; `unit` is that of the levels."""
        said = ", ".join(
            f"switched {each.after}" if each.what == "on" else f"{each.what} {each.after}"
            for each in self.changes(before)
        ) or "as before"  # fmt: skip
        return f"{self.title}: {said}"

    def changes(self, before: "Step | None") -> list[Changed]:
        """Its choices that are not those of `before`; every one, when there was no such step."""
        new, old = self.model_dump(mode="json"), {} if before is None else before.model_dump(mode="json")
        return [
            Changed(self.names.get(key, key.replace("_", " ")), plain(key, old.get(key)), plain(key, new.get(key)))
            for key in {**old, **new}
            if key != "kind" and old.get(key) != new.get(key)
        ]


Kind = TypeVar("Kind", bound=Step)
Steps = tuple[Step, ...]


def one(steps: Sequence[Step], kind: type[Kind]) -> Kind:
    """The step of that kind, as it is by default where there is none."""
    return next((step for step in steps if isinstance(step, kind)), None) or kind()  # type: ignore[call-arg]


def settings_between(before: Sequence[Step], after: Sequence[Step], but: Collection[str] = ()) -> Iterator[Changed]:
    """The settings in which steps differ, each told with its step; those of the kinds `but` are passed over."""
    old = {step.kind: step for step in before}
    for step in after:
        if step.kind not in but:
            for each in step.changes(old.get(step.kind)):
                yield changed(each, what=f"{step.title} · {each.what}")


def with_step(steps: Steps, new: Step) -> Steps:
    """The same steps with that one in the place of its kind."""
    return tuple(new if step.kind == new.kind else step for step in steps)


def plain(key: str, value: object) -> str:
    """A choice as a person reads it."""
    if key == "model" and value in MODELS:
        return MODELS[str(value)].name
    if isinstance(value, dict):
        return ", ".join(f"{k.replace('_', ' ')} {plain(k, v)}" for k, v in value.items()) or "none"
    if isinstance(value, float):
        return given(value)
    if isinstance(value, list):
        return ", ".join(plain("", each) for each in value) or "none"
    return {"True": "on", "False": "off", "None": "open", "": "none"}.get(str(value), str(value).replace("_", " "))

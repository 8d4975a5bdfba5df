"""Wells of a simulated run: what stands on the plate, read by an instrument that gives six digits."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from dosis.core.numbers import Meaning
from dosis.run.evaluate import evaluate
from dosis.run.layout import Group, Layout, Quantity
from dosis.run.method import Method
from dosis.run.outcome.outcome import Outcome
from dosis.run.readings import Cell, Reading, Readings
from dosis.run.roles import Role


@dataclass(frozen=True)
class Wells:
    """Replicate wells of one thing. values : what is read in each; more : of each, what further channels read."""

    role: Role
    name: str
    values: Sequence[float]
    level: float | None = None
    series: str = ""
    dilution: float = 1.0
    spike_of: str = ""
    more: Sequence[Sequence[float]] = ()


def _cell(value: float, digits: int = 6) -> tuple[str, float]:
    text = f"{value:.{digits}g}"
    return text, float(text)


def laid_out(
    wells: Iterable[Wells], *, channels: Sequence[str] = (), level: str = "µM", signal: str = ""
) -> tuple[Readings, Layout]:
    """Readings and layout of these wells, in their order."""
    readings: list[Reading] = []
    groups: list[Group] = []
    for i, each in enumerate(wells):
        ids = []
        for k, value in enumerate(each.values):
            text, number = _cell(value)
            others = tuple(
                Cell(text=said, meaning=Meaning.NUMBER, value=read)
                for said, read in (_cell(channel[k]) for channel in each.more)
            )
            ids.append(len(readings))
            readings.append(
                Reading(id=ids[-1], row=ids[-1], column=1, text=text, meaning=Meaning.NUMBER, value=number, more=others)
            )
        groups.append(
            Group(
                id=f"g{i}", role=each.role, name=each.name, level=each.level, series=each.series,
                dilution=each.dilution, spike_of=each.spike_of, readings=tuple(ids),
            )
        )  # fmt: skip
    named = tuple(Quantity(name=name) for name in channels)
    return (
        Readings(readings=tuple(readings), channels=named),
        Layout(
            signal=Quantity(name=channels[0] if channels else "Signal", unit=signal),
            level=Quantity(name="Level", unit=level),
            groups=tuple(groups),
        ),
    )


def worked(wells: Iterable[Wells], method: Method, *, channels: Sequence[str] = ()) -> Outcome:
    """The run through all its steps."""
    return evaluate(*laid_out(wells, channels=channels), method)

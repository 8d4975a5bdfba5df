"""What an own equation would give, while it is typed; nothing of it is stored."""

from pydantic import Field

from dosis.run.record import Record


class EquationAsked(Record):
    """An equation in x and parameters, where to start from, and the key of the series it is tried on."""

    equation: str
    start: dict[str, float] = Field(default_factory=dict)
    series: str = ""


class EquationParameter(Record):
    """A parameter found in it: where the search begins, whether it can be solved for directly, and what it came to."""

    name: str
    start: float | None
    linear: bool
    value: float | None = None
    shown: str = "—"


class TriedStart(Record):
    """One start of the search, and where it ended; `best` came to the least sum of squares."""

    start: tuple[float | None, ...]
    end: tuple[float | None, ...]
    shown_start: tuple[str, ...]
    shown_end: tuple[str, ...]
    shown_sse: str
    converged: bool
    best: bool


class EquationLook(Record):
    """The parameters, the curve through the points of a series, and every start that was tried.

    problem : why there is none, with the `position` in the equation where it stops making sense.
    """

    problem: str = ""
    position: int | None = None
    parameters: tuple[EquationParameter, ...] = ()
    x: tuple[float, ...] = ()
    y: tuple[float, ...] = ()
    points_x: tuple[float, ...] = ()
    points_y: tuple[float, ...] = ()
    tried: tuple[TriedStart, ...] = ()
    said: str = ""

"""Using an instrument: which there are, what can be set, starting, watching, and the values as a table."""

from bisect import bisect_left
from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from dosis.instruments.protocol import OVER_RANGE, InstrumentError, Line, Status
from dosis.run.record import Record

Kind = Literal["plate reader", "spectrophotometer", "voltage logger"]
STATES = {"READY": "ready", "WARM": "warming", "READ": "reading", "DONE": "done", "FAULT": "fault"}


class Setting(Record):
    """One thing that can be set: a number within limits, one of a few choices, or a list of numbers."""

    id: str
    text: str
    unit: str = ""
    value: str
    choices: tuple[str, ...] = ()


SETTINGS: dict[Kind, tuple[Setting, ...]] = {
    "plate reader": (
        Setting(id="CONF:PLAT", text="Wells", value="96", choices=("24", "48", "96", "384")),
        Setting(id="CONF:WAV", text="Wavelengths", unit="nm", value="450, 620"),
    ),
    "spectrophotometer": (
        Setting(id="CONF:MODE", text="Reads", value="scan", choices=("scan", "single")),
        Setting(id="CONF:STAR", text="From", unit="nm", value="400"),
        Setting(id="CONF:STOP", text="To", unit="nm", value="700"),
        Setting(id="CONF:STEP", text="Step", unit="nm", value="5"),
        Setting(id="CONF:WAV", text="Single wavelengths", unit="nm", value="880"),
        Setting(id="CONF:CELL", text="Cuvettes", value="6"),
    ),
    "voltage logger": (
        Setting(id="CONF:RATE", text="Readings each second", value="20"),
        Setting(id="CONF:TIME", text="For", unit="s", value="10"),
    ),
}


class Instrument(Record):
    """An instrument that is connected. `panel` are switches of a simulated one, state by name."""

    address: str
    name: str
    kind: Kind
    settings: tuple[Setting, ...]
    status: Status
    panel: dict[str, str]


class Mark(Record):
    """What was noted while an instrument read, and at which of its times."""

    x: Annotated[float, Field(ge=-1e12, le=1e12)]
    text: Annotated[str, Field(min_length=1, max_length=200)]


class SoFar(Record):
    """Part of a reading that is under way: its headings, and rows of numbers from sample `first` on."""

    heads: tuple[str, ...]
    first: int
    rows: tuple[tuple[float | None, ...], ...]


class Chosen(Record):
    """A setting as chosen."""

    id: str
    value: str


def found(address: str) -> Instrument:
    """Who answers at an address ("host:port"). Raises InstrumentError when nobody does, or an unknown kind."""
    with _line(address) as line:
        maker, model, serial, _ = (*line.ask("*IDN?").split(","), "", "", "", "")[:4]
        kind = line.ask("SYST:KIND?")
        if kind not in SETTINGS:
            raise InstrumentError(f"The instrument at {address} is a “{kind}”, which Dosis does not know.")
        panel = dict(part.split("=", 1) for part in line.ask("SIM:PAN?").split(";") if "=" in part)
        name = f"{maker} {model}, no. {serial}".strip()
        return Instrument(
            address=address, name=name, kind=kind, settings=SETTINGS[kind], status=_status(line), panel=panel
        )


def start(address: str, chosen: Sequence[Chosen]) -> Status:
    """Set what was chosen and begin to read. Raises InstrumentError in the instrument's words."""
    with _line(address) as line:
        known = {setting.id for kind in SETTINGS.values() for setting in kind}
        for setting in chosen:
            if setting.id not in known:
                raise InstrumentError(f"There is no setting “{setting.id}”.")
            line.do(f"{setting.id} {_ascii(setting.value)}")
        line.do("INIT")
        return _status(line)


def progress(address: str) -> Status:
    """How far it is."""
    with _line(address) as line:
        return _status(line)


def stop(address: str) -> Status:
    """Stop reading; what was read so far is thrown away by the instrument."""
    with _line(address) as line:
        line.do("ABOR")
        return _status(line)


def switch(address: str, name: str, value: str) -> Instrument:
    """Turn a switch of a simulated instrument's panel, such as its lid."""
    with _line(address) as line:
        line.do(f"SIM:{_ascii(name)} {_ascii(value)}")
    return found(address)


def values(address: str, marks: Sequence[Mark] = ()) -> str:
    """What was read, as a table for intake; over-range values as the word OVER.

    marks : what was noted while it was read, each put beside the first row at or after its time.
    """
    with _line(address) as line:
        text = line.block("FETC?").decode("ascii", errors="replace")
    rows = [[_cell(cell) for cell in row.split(",")] for row in text.splitlines()]
    return "\n".join("\t".join(row) for row in (_marked(rows, marks) if marks and len(rows) > 1 else rows))


def so_far(address: str, first: int) -> SoFar:
    """What has been read since the reading began, from that sample on. Raises InstrumentError where it cannot say."""
    with _line(address) as line:
        text = line.block(f"FETC:PART? {first}").decode("ascii", errors="replace")
    heading, *rows = text.splitlines() or [""]
    numbers = tuple(tuple(_number(cell) for cell in row.split(",")) for row in rows)
    return SoFar(heads=tuple(heading.split(",")), first=first, rows=numbers)


def _marked(rows: list[list[str]], marks: Sequence[Mark]) -> list[list[str]]:
    heading, *body = rows
    times = [_number(row[0]) or 0.0 for row in body]
    notes: dict[int, list[str]] = {}
    for mark in sorted(marks, key=lambda each: each.x):
        at = min(bisect_left(times, mark.x), len(body) - 1)
        notes.setdefault(at, []).append(" ".join(mark.text.split()))
    return [[*heading, "Comment"], *([*row, "; ".join(notes.get(i, []))] for i, row in enumerate(body))]


def _number(cell: str) -> float | None:
    try:
        value = float(cell)
    except ValueError:
        return None
    return value if abs(value) < OVER_RANGE else None


def _cell(cell: str) -> str:
    try:
        return "OVER" if float(cell) >= OVER_RANGE else cell
    except ValueError:
        return cell


def _status(line: Line) -> Status:
    word, percent, text = (*line.ask("STAT?").split(",", 2), "", "")[:3]
    if word not in STATES:
        raise InstrumentError(f"The instrument says “{word}”, which means nothing to Dosis.")
    return Status(state=STATES[word], percent=int(percent or 0), text=text.strip().strip('"'))


def _line(address: str) -> Line:
    host, _, port = address.rpartition(":")
    if not host or not port.isdigit():
        raise InstrumentError(f"“{address}” is not the address of an instrument; write it as 127.0.0.1:5025.")
    return Line(host, int(port))


def _ascii(text: str) -> str:
    """One line of plain characters, so that a value cannot smuggle in a command."""
    clean = "".join(c for c in text if c.isascii() and c.isprintable() and c not in ";\n\r")
    return clean.strip()[:200]

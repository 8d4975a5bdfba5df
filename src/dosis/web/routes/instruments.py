"""Instruments: which are connected, reading with one, and its values as a table to bring in."""

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import Field

from dosis.instruments import session
from dosis.instruments.protocol import InstrumentError, Status
from dosis.run.record import Record
from dosis.web.access import READ, WORK
from dosis.web.context import Here
from dosis.web.problems import NotFound

router = APIRouter(prefix="/api/instruments", tags=["instruments"])


class Connected(Record):
    """An instrument as the screen lists it; None with the reason where nobody answers at its address."""

    number: int
    address: str
    instrument: session.Instrument | None
    problem: str = ""


class Start(Record):
    """What to set before reading."""

    settings: Annotated[tuple[session.Chosen, ...], Field(max_length=20)] = ()


class Switch(Record):
    """A switch of a simulated instrument's panel."""

    name: Annotated[str, Field(max_length=20)]
    value: Annotated[str, Field(max_length=20)]


class Noted(Record):
    """Marks set while an instrument read."""

    marks: Annotated[tuple[session.Mark, ...], Field(max_length=1000)] = ()


class Values(Record):
    """What was read, as a table."""

    text: str


@router.get("", dependencies=[READ])
def list_instruments(here: Here) -> list[Connected]:
    """Every instrument there is an address for."""
    return [_connected(here.instruments, number) for number in range(len(here.instruments))]


@router.post("/{number}/start", dependencies=[WORK])
def start(number: int, wanted: Start, here: Here) -> Status:
    """Set and begin to read."""
    return session.start(_address(here.instruments, number), wanted.settings)


@router.get("/{number}/status", dependencies=[WORK])
def status(number: int, here: Here) -> Status:
    """How far it is, or what it waits for."""
    return session.progress(_address(here.instruments, number))


@router.post("/{number}/stop", dependencies=[WORK])
def stop(number: int, here: Here) -> Status:
    """Stop reading."""
    return session.stop(_address(here.instruments, number))


@router.get("/{number}/values", dependencies=[WORK])
def values(number: int, here: Here) -> Values:
    """The finished reading."""
    return Values(text=session.values(_address(here.instruments, number)))


@router.post("/{number}/values", dependencies=[WORK])
def marked_values(number: int, noted: Noted, here: Here) -> Values:
    """The finished reading with what was noted while it was read."""
    return Values(text=session.values(_address(here.instruments, number), noted.marks))


@router.get("/{number}/so-far", dependencies=[WORK])
def so_far(number: int, here: Here, first: Annotated[int, Query(ge=0)] = 0) -> session.SoFar:
    """What has been read so far, from that sample on; of instruments that give values while they read."""
    return session.so_far(_address(here.instruments, number), first)


@router.post("/{number}/panel", dependencies=[WORK])
def turn(number: int, switch: Switch, here: Here) -> Connected:
    """Turn a switch of a simulated instrument."""
    address = _address(here.instruments, number)
    session.switch(address, switch.name, switch.value)
    return _connected(here.instruments, number)


def _connected(addresses: tuple[str, ...], number: int) -> Connected:
    try:
        found = session.found(addresses[number])
    except InstrumentError as error:
        return Connected(number=number, address=addresses[number], instrument=None, problem=str(error))
    return Connected(number=number, address=addresses[number], instrument=found)


def _address(addresses: tuple[str, ...], number: int) -> str:
    # Only addresses the settings name are ever spoken to.
    if not 0 <= number < len(addresses):
        raise NotFound("instrument")
    return addresses[number]

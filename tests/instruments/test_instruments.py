"""Instruments by the protocol: identified, set, read, and their faults said in words and survived."""

import socket
import threading
import time
from collections.abc import Iterator

import pytest

from dosis.instruments import session
from dosis.instruments.protocol import InstrumentError, Line
from dosis.instruments.simulated.device import Device, Refused
from dosis.instruments.simulated.devices import DEVICES, PlateReader, Spectrophotometer, VoltageLogger
from dosis.instruments.stand_ins import stand_ins
from dosis.intake.understand import understand


class Clock:
    """Time that passes when told to."""

    def __init__(self) -> None:
        self.now = 100.0

    def __call__(self) -> float:
        return self.now


def said(device: Device, line: str) -> str:
    return (device.answer(line) or b"").decode().strip()


@pytest.fixture
def addresses() -> Iterator[tuple[str, ...]]:
    """Instruments of its own for each test, since a test opens lids and pulls cables."""
    with stand_ins() as found:
        yield found


@pytest.mark.parametrize("kind", DEVICES)
def test_a_device_warms_up_reads_and_hands_its_values_over_in_a_block(kind: type[Device]) -> None:
    clock = Clock()
    device = kind(clock)
    if device.warm_up:
        assert said(device, "STAT?").startswith("WARM")
        device.answer("INIT")
        assert "warming up" in said(device, "SYST:ERR?")
        clock.now += device.warm_up
    assert said(device, "STAT?").startswith("READY")
    device.answer("INIT")
    assert said(device, "SYST:ERR?") == '0,"No error"'
    clock.now += 0.5 * device.duration
    assert said(device, "STAT?").startswith("READ,50")
    assert said(device, "FETC?") == "" and "no values yet" in said(device, "SYST:ERR?")
    clock.now += 0.5 * device.duration
    block = device.answer("FETC?") or b""
    digits = int(block[1:2])
    length = int(block[2 : 2 + digits])
    assert block[:1] == b"#" and len(block) == 2 + digits + length + 1  # IEEE 488.2, 8.7.9


def test_settings_outside_what_it_can_do_are_refused_in_words() -> None:
    device = PlateReader(Clock())
    device.answer("CONF:PLAT 97")
    assert "no plate of 97 wells" in said(device, "SYST:ERR?")
    device.answer("CONF:WAV 12")
    assert "give numbers from 230 to 1000" in said(device, "SYST:ERR?")
    device.answer("NONSENSE 1")
    assert "Unknown command" in said(device, "SYST:ERR?")
    scan = Spectrophotometer(Clock())
    scan.answer("CONF:STAR 700")
    scan.answer("CONF:STOP 400")
    with pytest.raises(Refused, match="ends before it begins"):
        scan.measure()


def test_what_each_reads_is_understood() -> None:
    def table(device: Device) -> str:
        return "\n".join(device.measure()).replace("9.9E37", "OVER")

    reader = PlateReader(Clock())
    reader.settings["CONF:WAV"] = "450, 620"
    plate = understand(table(reader)).readings
    assert plate is not None and (plate.plates[0].rows, plate.plates[0].columns) == (8, 12)
    assert [c.name for c in plate.channels] == ["450 nm", "620 nm"]
    assert [r.meaning.value for r in plate.readings].count("above") == 1
    scan = understand(table(Spectrophotometer(Clock())))
    assert scan.readings is not None and scan.readings.recording.y.shape == (6, 61)
    assert scan.understanding.asks == "spectrum" and scan.readings.axis.quantity.unit == "nm"
    assert [group.name for group in scan.layout.groups] == [f"Cuvette {i}" for i in range(1, 7)]
    trace = understand(table(VoltageLogger(Clock())))
    assert trace.readings is not None and trace.layout is not None and trace.readings.recording is not None
    assert trace.readings.recording.y.shape == (2, 201)
    assert (trace.readings.axis.quantity.unit, trace.layout.signal.unit) == ("s", "V")


def test_the_stand_ins_answer_over_tcp(addresses: tuple[str, ...]) -> None:
    kinds = [session.found(address).kind for address in addresses]
    assert kinds == ["plate reader", "spectrophotometer", "voltage logger"]


def test_a_reading_over_tcp_from_setting_to_values(addresses: tuple[str, ...]) -> None:
    logger = addresses[2]
    assert session.start(logger, (session.Chosen(id="CONF:TIME", value="1"),)).state == "reading"
    while session.progress(logger).state == "reading":
        pass
    assert session.values(logger).splitlines()[0] == "Time (s)\tChannel 1 (V)\tChannel 2 (V)"
    assert len(session.values(logger).splitlines()) == 22
    marked = session.values(
        logger, [session.Mark(x=0.52, text="acid\nin"), session.Mark(x=99, text="late")]
    ).splitlines()
    assert marked[0].endswith("\tComment") and len(marked) == 22
    assert marked[12].startswith("0.550\t") and marked[12].endswith("\tacid in") and marked[-1].endswith("\tlate")


def test_a_logger_says_what_it_has_read_so_far_and_a_reader_does_not(addresses: tuple[str, ...]) -> None:
    reader, _, logger = addresses
    session.start(logger, (session.Chosen(id="CONF:TIME", value="3"), session.Chosen(id="CONF:RATE", value="50")))
    began = time.monotonic()
    first = session.so_far(logger, 0)
    assert first.heads == ("Time (s)", "Channel 1 (V)", "Channel 2 (V)")
    time.sleep(0.5)
    more = session.so_far(logger, len(first.rows))
    took = time.monotonic() - began
    assert 20 <= len(more.rows) <= 50 * took + 5 and more.rows[0][0] == pytest.approx(len(first.rows) / 50)
    session.stop(logger)
    with pytest.raises(InstrumentError, match="values"):
        session.so_far(reader, 0)


def test_an_open_lid_stops_a_reading_and_closing_it_lets_it_go_on(addresses: tuple[str, ...]) -> None:
    logger = addresses[2]
    session.start(logger, ())
    assert session.switch(logger, "probe", "out").status.text == "No probe on channel 1. Plug it in and read again."
    with pytest.raises(InstrumentError, match="No probe"):
        session.start(logger, ())
    assert session.switch(logger, "probe", "in").status.state == "ready"
    assert session.start(logger, ()).state == "reading"
    assert session.stop(logger).state == "ready"


def test_a_lost_connection_is_said_and_the_values_can_be_fetched_again(addresses: tuple[str, ...]) -> None:
    logger = addresses[2]
    session.switch(logger, "cable", "loose")
    session.start(logger, ())
    while session.progress(logger).state == "reading":
        pass
    with pytest.raises(InstrumentError, match="connection to the instrument was lost"):
        session.values(logger)
    assert session.values(logger).startswith("Time (s)")


def test_a_command_cannot_be_smuggled_in_with_a_setting(addresses: tuple[str, ...]) -> None:
    with pytest.raises(InstrumentError):
        session.start(addresses[2], (session.Chosen(id="CONF:RATE", value="5\nSIM:PROBE out"),))
    assert session.found(addresses[2]).panel["probe"] == "in"
    with pytest.raises(InstrumentError, match="no setting"):
        session.start(addresses[2], (session.Chosen(id="*RST", value=""),))


@pytest.mark.parametrize(
    ("answer", "why"),
    [
        (b"", "lost"),
        (b"hello\n", "not a block"),
        (b"#9999999999", "999 MB|1000 MB"),
        (b"#14ab", "lost"),
        (b"#xx", "lost"),
    ],
)
def test_an_instrument_that_answers_nonsense_is_not_believed(answer: bytes, why: str) -> None:
    listener = socket.create_server(("127.0.0.1", 0))

    def serve() -> None:
        with listener, listener.accept()[0] as connection:
            connection.recv(100)
            connection.sendall(answer)

    thread = threading.Thread(target=serve)
    thread.start()
    with Line("127.0.0.1", listener.getsockname()[1]) as line, pytest.raises(InstrumentError, match=why):
        line.block("FETC?")
    thread.join()


def test_nobody_there_is_said() -> None:
    with pytest.raises(InstrumentError, match="does not answer"):
        session.found("127.0.0.1:1")
    with pytest.raises(InstrumentError, match="not the address"):
        session.found("somewhere")

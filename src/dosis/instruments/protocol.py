"""The protocol of an instrument: one line asks, one line (or one block) answers. See docs/instruments.md.

Commands follow IEEE 488.2 and SCPI-99: ``*IDN?``, ``SYSTem:ERRor?``, ``INITiate``, ``ABORt``, ``FETCh?`` with a
definite-length block (``#`` digits, length, bytes), and 9.9E37 for what is over range.
"""

import socket
from types import TracebackType

from dosis.run.record import Record

OVER_RANGE = 9.9e37  # SCPI-99, volume 1, 7.2.1.4
TIMEOUT = 3.0  # seconds for a line: an instrument that is there answers in milliseconds
MAX_BLOCK = 8_000_000


class InstrumentError(Exception):
    """What an instrument could not do, or that it is not there; the message says so and what to do."""


class Status(Record):
    """Where an instrument stands. `percent` of a measurement; `text` says what is wrong or waited for."""

    state: str  # ready, warming, reading, done, fault
    percent: int = 0
    text: str = ""


class Line:
    """A connection to one instrument, used for one exchange after the other."""

    def __init__(self, host: str, port: int) -> None:
        try:
            self._socket = socket.create_connection((host, port), timeout=TIMEOUT)
        except OSError as error:
            raise InstrumentError(
                f"The instrument at {host}:{port} does not answer. Is it switched on and connected?"
            ) from error
        self._stream = self._socket.makefile("rwb")

    def __enter__(self) -> "Line":
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:  # fmt: skip
        self._stream.close()
        self._socket.close()

    def ask(self, command: str) -> str:
        """Send a query, return its line. Raises InstrumentError when the line is lost."""
        self._send(command)
        return self._line()

    def do(self, command: str) -> None:
        """Send a command and see that the instrument took it.

        Raises
        ------
        InstrumentError : with the instrument's own words when it did not.
        """
        self._send(command)
        code, _, words = self.ask("SYST:ERR?").partition(",")
        if code.strip() not in ("0", "+0"):
            raise InstrumentError(words.strip().strip('"'))

    def block(self, command: str) -> bytes:
        """Send a query that is answered by a definite-length block (IEEE 488.2, 8.7.9)."""
        self._send(command)
        try:
            first = self._stream.read(1)
            if not first:
                raise InstrumentError(LOST)
            if first != b"#":
                raise InstrumentError(
                    "The instrument answered with something that is not a block of values. Read again."
                )
            digits = int(self._stream.read(1))
            length = int(self._stream.read(digits))
            if length > MAX_BLOCK:
                raise InstrumentError(f"The instrument wants to send {length / 1e6:.0f} MB at once; that is refused.")
            data = self._stream.read(length)
            self._stream.readline()
        except (OSError, ValueError) as error:
            raise InstrumentError(LOST) from error
        if len(data) < length:
            raise InstrumentError(LOST)
        return data

    def _send(self, command: str) -> None:
        try:
            self._stream.write(command.encode("ascii") + b"\n")
            self._stream.flush()
        except OSError as error:
            raise InstrumentError(LOST) from error

    def _line(self) -> str:
        try:
            line = self._stream.readline(10_000)
        except OSError as error:
            raise InstrumentError(LOST) from error
        if not line.endswith(b"\n"):
            raise InstrumentError(LOST)
        return line.decode("ascii", errors="replace").strip()


LOST = "The connection to the instrument was lost. Check the cable and read again; nothing that was kept is gone."

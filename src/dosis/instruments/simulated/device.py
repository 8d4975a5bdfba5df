"""What every simulated instrument does: say who it is, warm up, take settings, read, and fail as real ones do."""

import time
from collections.abc import Callable

OVER = "9.9E37"
PART = 4_000  # lines of a reading under way that are given at once
NO_ERROR = '0,"No error"'


class Refused(Exception):
    """A command the instrument does not take, in its words."""


class Device:
    """Commands in, lines out. Subclasses say what can be set and what is measured.

    warm_up, seconds : of the lamp after switching on; duration : of one measurement.
    """

    maker, model, serial, kind = "Ternhaven Works", "", "0001", ""
    warm_up = 0.0
    duration = 1.5

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._on = clock()
        self._begun: float | None = None
        self._errors: list[str] = []
        self.settings: dict[str, str] = {}
        self.panel: dict[str, str] = {}

    def answer(self, line: str) -> bytes | None:
        """The answer to a line; None for a command. A refused one goes to the error queue, as IEEE 488.2 has it."""
        word, _, value = line.strip().partition(" ")
        word = word.upper()
        try:
            if word.endswith("?"):
                return self._query(word, value.strip())
            self._command(word, value.strip())
        except Refused as error:
            self._errors.append(f'-200,"{error}"')
            return b"\n" if word.endswith("?") else None
        return None

    def _query(self, word: str, value: str) -> bytes:
        match word:
            case "FETC?":
                return self._fetch()
            case "FETC:PART?":
                return self._part(value)
            case "*IDN?":
                text = f"{self.maker},{self.model},{self.serial},1.0"
            case "SYST:KIND?":
                text = self.kind
            case "SYST:ERR?":
                text = self._errors.pop(0) if self._errors else NO_ERROR
            case "SIM:PAN?":
                text = ";".join(f"{name}={state}" for name, state in self.panel.items())
            case "STAT?":
                text = self._status()
            case _:
                raise Refused(f"Unknown query {word}")
        return f"{text}\n".encode()

    def _command(self, word: str, value: str) -> None:
        if word in ("*RST", "ABOR"):
            self._begun = None
        elif word == "INIT":
            if fault := self.fault():
                raise Refused(fault)
            if (left := self._cold()) > 0:
                raise Refused(f"The lamp is warming up; ready in {left:.0f} s.")
            self._begun = self._clock()
        elif word.startswith("CONF:"):
            self.set(word, value)
        elif word.startswith("SIM:"):
            name = word[4:].lower()
            if name == "lamp":
                self._on = self._clock()
            elif name in self.panel:
                self.panel[name] = value.lower()
            else:
                raise Refused(f"There is no switch {name}.")
        else:
            raise Refused(f"Unknown command {word}")

    def set(self, word: str, value: str) -> None:
        """Take a setting, or refuse it in words."""
        if word not in self.settings:
            raise Refused(f"{self.model} has no setting {word}.")
        self.settings[word] = value

    def fault(self) -> str:
        """What keeps it from reading; empty when nothing does."""
        return ""

    def measure(self) -> list[str]:
        """The lines of a finished measurement."""
        raise NotImplementedError

    def number(self, word: str, least: float, most: float) -> float:
        """A setting as a number within limits."""
        try:
            value = float(self.settings[word])
        except ValueError:
            value = float("nan")
        if not least <= value <= most:
            raise Refused(f"{self.settings[word]} is outside {least:g} to {most:g}.")
        return value

    def numbers(self, word: str, least: float, most: float) -> list[float]:
        """A setting as a list of numbers within limits."""
        try:
            found = [float(part) for part in self.settings[word].replace(",", " ").split()]
        except ValueError:
            found = []
        if not found or any(not least <= value <= most for value in found):
            raise Refused(f"{self.settings[word] or 'Nothing'}: give numbers from {least:g} to {most:g}.")
        return found

    def _cold(self) -> float:
        return self.warm_up - (self._clock() - self._on)

    def _status(self) -> str:
        if fault := self.fault():
            self._begun = None
            return f'FAULT,0,"{fault}"'
        if (left := self._cold()) > 0:
            return f'WARM,0,"The lamp is warming up; ready in {left:.0f} s."'
        if self._begun is None:
            return 'READY,0,""'
        share = min((self._clock() - self._begun) / self.duration, 1.0)
        return f'{"DONE" if share >= 1 else "READ"},{100 * share:.0f},""'

    def _fetch(self) -> bytes:
        if self._begun is None or self._clock() - self._begun < self.duration:
            raise Refused("There are no values yet.")
        data = "\n".join(self.measure()).encode()
        return _block(data)

    def so_far(self, seconds: float) -> list[str]:
        """The heading and the lines that were read after so many seconds; refused where values come at the end only."""
        raise Refused(f"{self.model} has no values before it is done.")

    def _part(self, value: str) -> bytes:
        if self._begun is None:
            raise Refused("Nothing is being read.")
        heading, *rows = self.so_far(self._clock() - self._begun)
        first = int(value) if value.isdigit() else 0
        return _block("\n".join([heading, *rows[first : first + PART]]).encode())


def _block(data: bytes) -> bytes:
    """A definite-length block (IEEE 488.2, 8.7.9)."""
    length = str(len(data))
    return f"#{len(length)}{length}".encode() + data + b"\n"

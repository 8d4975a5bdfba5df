"""The stand-ins: a plate reader, a spectrophotometer and a two-channel voltage logger. All they read is invented."""

import numpy as np

from dosis.instruments.simulated.device import OVER, Device, Refused
from dosis.run.wells import SIZES, well_name

TOP = 4.0  # absorbance above which a detector sees no light


def _shown(value: float, places: int = 4) -> str:
    return OVER if value > TOP else f"{value:.{places}f}"


class PlateReader(Device):
    """Reads an immunoassay plate: eight standards in duplicate, samples in triplicate, one well over range."""

    model, kind, serial, warm_up = "PR-12", "plate reader", "1204", 2.0

    def __init__(self, *args: object) -> None:
        super().__init__(*args)  # type: ignore[arg-type]
        self.settings = {"CONF:PLAT": "96", "CONF:WAV": "450"}
        self.panel = {"lid": "closed", "cable": "firm"}

    def fault(self) -> str:
        return "The lid is open. Close it and read again." if self.panel["lid"] == "open" else ""

    def set(self, word: str, value: str) -> None:
        super().set(word, value)
        if word == "CONF:PLAT" and value not in map(str, SIZES):
            raise Refused(f"There is no plate of {value} wells.")
        if word == "CONF:WAV":
            self.numbers("CONF:WAV", 230, 1000)

    def measure(self) -> list[str]:
        rows, columns = SIZES[int(self.settings["CONF:PLAT"])]
        wavelengths = self.numbers("CONF:WAV", 230, 1000)
        rng = np.random.default_rng(1204)
        level = np.exp(rng.uniform(np.log(0.1), np.log(12), (rows, columns)))
        level[:, 2:] = np.repeat(level[:, 2::3], 3, axis=1)[:, : columns - 2]
        level[:, :2] = (20 / 3.0 ** np.arange(rows))[:, None]
        signal = 0.09 + 2.03 / (1 + (level / 1.62) ** 1.18)
        signal[:, -1] = 0.0
        signal *= 1 + 0.02 * rng.standard_normal(signal.shape)
        lines = ["Well," + ",".join(f"{w:g} nm" for w in wavelengths)]
        for r in range(rows):
            for c in range(columns):
                read = [signal[r, c] * (1.0 if w < 550 else 0.02) + 0.04 for w in wavelengths]
                if (r, c) == (rows - 1, 4):
                    read[0] = TOP + 1
                lines.append(f"{well_name(r, c)}," + ",".join(_shown(value) for value in read))
        return lines


class Spectrophotometer(Device):
    """Scans the pigment of a red alga, or reads single wavelengths, in up to eight cuvettes."""

    model, kind, serial, warm_up = "SP-2", "spectrophotometer", "0377", 3.0

    def __init__(self, *args: object) -> None:
        super().__init__(*args)  # type: ignore[arg-type]
        self.settings = {
            "CONF:MODE": "scan", "CONF:STAR": "400", "CONF:STOP": "700", "CONF:STEP": "5", "CONF:WAV": "880",
            "CONF:CELL": "6",
        }  # fmt: skip
        self.panel = {"lid": "closed", "cable": "firm"}

    def fault(self) -> str:
        return "The cell compartment is open. Close it and read again." if self.panel["lid"] == "open" else ""

    def set(self, word: str, value: str) -> None:
        super().set(word, value)
        if word in ("CONF:STAR", "CONF:STOP"):
            self.number(word, 190, 1100)
        elif word == "CONF:STEP":
            self.number(word, 0.5, 50)
        elif word == "CONF:CELL":
            self.number(word, 1, 8)
        elif word == "CONF:WAV":
            self.numbers(word, 190, 1100)

    def measure(self) -> list[str]:
        cells = int(self.number("CONF:CELL", 1, 8))
        if self.settings["CONF:MODE"] == "single":
            at = np.array(self.numbers("CONF:WAV", 190, 1100))
        else:
            first, last = self.number("CONF:STAR", 190, 1100), self.number("CONF:STOP", 190, 1100)
            if last <= first:
                raise Refused("The scan ends before it begins.")
            at = np.arange(first, last + 1e-9, self.number("CONF:STEP", 0.5, 50))
        rng = np.random.default_rng(377)
        shape = 0.9 * np.exp(-(((at - 566) / 22) ** 2)) + 0.7 * np.exp(-(((at - 498) / 18) ** 2)) + 0.12
        strength = 0.25 * np.arange(1, cells + 1)
        read = shape[:, None] * strength + 0.002 * rng.standard_normal((at.size, cells))
        lines = ["Wavelength (nm)," + ",".join(f"Cuvette {i + 1}" for i in range(cells))]
        return lines + [f"{w:g}," + ",".join(_shown(v) for v in row) for w, row in zip(at, read, strict=True)]


class VoltageLogger(Device):
    """Records two channels: a turbidity probe over a tide, and its temperature sensor."""

    model, kind, serial = "VL-2", "voltage logger", "0058"

    def __init__(self, *args: object) -> None:
        super().__init__(*args)  # type: ignore[arg-type]
        self.settings = {"CONF:RATE": "20", "CONF:TIME": "10"}
        self.panel = {"probe": "in", "cable": "firm"}

    def fault(self) -> str:
        return "No probe on channel 1. Plug it in and read again." if self.panel["probe"] == "out" else ""

    def set(self, word: str, value: str) -> None:
        super().set(word, value)
        self.number(word, 0.1, 100 if word == "CONF:RATE" else 600)

    @property
    def duration(self) -> float:  # type: ignore[override]
        """A logger takes as long as it records."""
        return self.number("CONF:TIME", 0.1, 600)

    def so_far(self, seconds: float) -> list[str]:
        heading, *rows = self.measure()
        return [heading, *rows[: int(seconds * self.number("CONF:RATE", 0.1, 100)) + 1]]

    def measure(self) -> list[str]:
        rate, seconds = self.number("CONF:RATE", 0.1, 100), self.number("CONF:TIME", 0.1, 600)
        t = np.arange(0, seconds + 1e-9, 1 / rate)
        rng = np.random.default_rng(58)
        turbidity = 0.4 + 0.9 * np.sin(np.pi * t / seconds) ** 2 + 0.01 * rng.standard_normal(t.size)
        warmth = 1.25 + 0.02 * t / seconds + 0.002 * rng.standard_normal(t.size)
        rows = zip(t, turbidity, warmth, strict=True)
        return ["Time (s),Channel 1 (V),Channel 2 (V)", *(f"{a:.3f},{b:.5f},{c:.5f}" for a, b, c in rows)]


DEVICES = (PlateReader, Spectrophotometer, VoltageLogger)

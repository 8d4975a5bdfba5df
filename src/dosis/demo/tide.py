"""A turbidity probe over a tide, six minutes at 20 samples a second: standards, the channel, standards again."""

import numpy as np

from dosis.run.changes import Change, SetStep
from dosis.run.questions.recording.calibrate import CalibrateStep, ChannelCalibration, KnownStretch
from dosis.run.questions.recording.stretches import NamedStretch, StretchesStep

RATE = 20  # samples a second
STEPS = (
    ("0 NTU", 0.0, 0.0), ("40 NTU", 40.0, 45.0), ("100 NTU", 100.0, 90.0), ("Channel, flood", None, 135.0),
    ("0 NTU again", 0.0, 285.0), ("100 NTU again", 100.0, 322.0),
)  # fmt: skip
END = 360.0


def tide() -> str:
    """A table of time, two voltages and what was noted."""
    rng = np.random.default_rng(58)
    t = np.arange(0, END, 1 / RATE)
    truth = np.zeros(t.size)
    for (_, value, start), (*_, stop) in zip(STEPS, [*STEPS[1:], ("", None, END)], strict=True):
        inside = (t >= start) & (t < stop)
        own = t[inside] - start
        flood = 22 + 38 * np.sin(np.pi * own / 150) ** 2 + 3 * np.sin(own / 2.3)
        truth[inside] = flood if value is None else value
    settled = np.convolve(truth, np.exp(-np.arange(40) / 8) / np.exp(-np.arange(40) / 8).sum())[: t.size]
    volts = 0.412 + 0.0213 * (1 + 0.00006 * t) * settled + rng.normal(0, 0.004, t.size)
    warmth = 1.214 + 0.00011 * t + rng.normal(0, 0.0015, t.size)
    notes = {round(start * RATE): name for name, _, start in STEPS}
    rows = [f"{t[i]:.2f}\t{volts[i]:.4f}\t{warmth[i]:.4f}\t{notes.get(i, '')}" for i in range(t.size)]
    return "\n".join(["Time (s)\tTurbidity (V)\tTemperature (V)\tComment", *rows])


def tide_changes() -> list[Change]:
    """Stretches of the standards and of the flood, and the calibration through them, with drift."""
    ends = [start for *_, start in STEPS[1:]] + [END]
    stretches = [
        NamedStretch(name=name, start=start + 10, stop=stop - 2)
        for (name, _, start), stop in zip(STEPS, ends, strict=True)
    ]
    known = [KnownStretch(stretch=name, value=value) for name, value, _ in STEPS if value is not None]
    probe = ChannelCalibration(known=tuple(known[:3]), after=tuple(known[3:]), name="Turbidity", unit="NTU")
    return [
        SetStep(kind="set_step", step=StretchesStep(stretches=tuple(stretches))),
        SetStep(kind="set_step", step=CalibrateStep(channels={"Turbidity": probe})),
    ]

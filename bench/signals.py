"""Speed of scans and recordings: peaks of a shelf of spectra, and a window of a long recording as it is drawn."""

import time
from statistics import median

import numpy as np

from bench.figures import Figure
from dosis.core.numbers import Meaning
from dosis.core.spectra import noise_of, peaks_of
from dosis.run.layout import Group, Layout, Quantity
from dosis.run.method import default_method
from dosis.run.outcome.courses import CoursesWanted
from dosis.run.questions.registry import question_of
from dosis.run.readings import Reading, Readings
from dosis.run.recording import Recording, axis_of
from dosis.run.roles import Role

SCANS, POINTS = 2_000, 4_000
SAMPLES = 2_000_000  # of each of two channels, the most that is brought in at once
WINDOWS = 15


def peaks() -> Figure:
    """All peaks above a prominence of 2,000 noisy scans of 4,000 points, with width and area."""
    rng = np.random.default_rng(4_000)
    x = np.linspace(200, 1000, POINTS)
    y = np.exp(-(((x - rng.uniform(300, 900, (SCANS, 1))) / 30) ** 2)) + 0.003 * rng.standard_normal((SCANS, POINTS))
    peaks_of(x, y[0], 0.05)  # what is loaded at first use is loaded before
    start = time.perf_counter()
    noise = noise_of(y)
    count = sum(len(peaks_of(x, row, 0.05, noise=own)) for row, own in zip(y, noise.tolist(), strict=True))
    took = time.perf_counter() - start
    return Figure("peaks of 2,000 scans of 4,000 points", took, "s", 1, f"({count:,} peaks)")


def window() -> Figure:
    """The lines of a window of two channels of 2,000,000 samples, as the page asks for them."""
    rng = np.random.default_rng(2)
    t = np.arange(SAMPLES) / 1000
    recording = Recording(t, np.stack([np.sin(t), np.cos(t / 3)]) + 0.01 * rng.standard_normal((2, SAMPLES)))
    quantity = Quantity(name="Time", unit="s")
    readings = Readings(
        readings=tuple(Reading(id=i, row=1, column=i, text="", meaning=Meaning.NUMBER, value=0.0) for i in (1, 2)),
        axis=axis_of(quantity, recording), recording=recording,
    )  # fmt: skip
    groups = tuple(Group(id=f"g{i}", role=Role.POINT, name=f"Channel {i}", readings=(i,)) for i in (1, 2))
    layout = Layout(signal=Quantity(name="Signal", unit="V"), level=Quantity(name="Level"), groups=groups)
    asked, steps = question_of("recording"), default_method("recording").steps
    took = []
    for i in range(WINDOWS):
        start = time.perf_counter()
        asked.look_at_courses(
            readings, layout, steps, CoursesWanted(points=1_300, lower=100.0 * i, upper=100.0 * i + 500)
        )
        took.append(1000 * (time.perf_counter() - start))
    return Figure("a window of 500,000 of 2,000,000 samples, two channels, median", median(took), "ms", 150)

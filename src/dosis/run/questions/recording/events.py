"""Step: events of a channel, peaks or crossings of a level, counted with their rate."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from dosis.core.events import NOISES, PROMINENT, crossings, peak_times
from dosis.core.rounding import given, significant
from dosis.core.spectra import noise_of
from dosis.run.layout import Level, Name
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.recording.bench import RecordingBench
from dosis.run.steps.step import Step


class EventsStep(Step):
    """find : "peaks" that stand out by `prominence`, or "rises" and "falls" through `level`, in units as shown.
    channel : of which, by name; the first where it is empty. Where `prominence` is open it is a tenth of its range.
    """

    title = "Events"
    names: ClassVar = {"find": "counted"}
    kind: Literal["events"] = "events"
    find: Literal["off", "peaks", "rises", "falls"] = "off"
    channel: Name = ""
    level: Level | None = None
    prominence: Annotated[float, Field(gt=0, le=1e12)] | None = None

    def run(self, bench: RecordingBench) -> StepOutcome:
        """Count them."""
        if self.find == "off" or not bench.channels:
            return self.told("No events are counted.", State.PASS)
        channel = next((each for each in bench.channels if each.key == self.channel), bench.channels[0])
        y = bench.value(channel)
        there = np.isfinite(y)
        x, y = bench.x[there], y[there]
        unit = f" {bench.quantity(channel).unit}".rstrip()
        if y.size < 3:
            return self.told(f"{channel.key} has too few samples to count events in.", State.LOOK)
        if self.find == "peaks":
            least = self.prominence or PROMINENT * float(np.ptp(y))
            found = peak_times(x, y, least) if least > 0 else np.empty(0)
            bench.event_words = f"peaks that stand out by {significant(least, 3)}{unit}"
        else:
            if self.level is None:
                return self.told("Type the level that is crossed.", State.LOOK, "No level to cross is typed.")
            noise = float(noise_of(y[:100_000])[0])
            back = NOISES * noise if np.isfinite(noise) else 0.0
            found = crossings(x, y, self.level, rising=self.find == "rises", back=back)
            bench.event_words = f"{self.find} through {given(self.level)}{unit}"
        bench.events[channel.index] = found
        span = float(x[-1] - x[0])
        rate = f", {significant(found.size / span, 3)} per {bench.time.unit or 'unit of time'}" if span > 0 else ""
        bench.note(
            channel.group, self.kind, "Events", text=bench.event_words, result=str(found.size), value=float(found.size)
        )
        return self.told(f"**{found.size:,} {bench.event_words}** in {channel.key}{rate}.", State.PASS)

"""The verdict of recordings: what its channels are calibrated in, and what stretches come to."""

from dosis.run.outcome.value import State
from dosis.run.outcome.verdict import Verdict, VerdictPart
from dosis.run.questions.recording.bench import RecordingBench
from dosis.run.questions.recording.measure import value_of
from dosis.run.verdict import found_by, of_steps, said_by, stuck_at, verdict


def conclude(bench: RecordingBench) -> Verdict:
    """Sum up."""
    ready = [made for made in bench.calibrated.values() if made.ready]
    if not bench.channels:
        headline = "No channels yet."
    elif not bench.measured:
        count = len(bench.channels)
        headline = f"{count} {'channel' if count == 1 else 'channels'} recorded; no stretch is set yet."
    else:
        first = bench.measured[0]
        unit = bench.quantity(first.channel).unit
        own = f"{first.channel.key} {value_of(bench, first).shown} {unit}".rstrip()
        more = len(bench.measured) - 1
        headline = f"{first.stretch.name}: {own}" + (
            f"; {more} more {'mean' if more == 1 else 'means'} below." if more else "."
        )
        if ready:
            headline = f"{len(ready)} of {len(bench.channels)} channels calibrated. {headline}"
    steps = bench.steps
    detail = of_steps(steps) + stuck_at(steps) + said_by(bench.checks) or found_by(bench.checks)
    if not bench.channels:
        detail = [VerdictPart(text="Say which readings are channels.")]
    failed = not bench.channels or any(step.state is State.FAIL for step in steps)
    return verdict(headline, detail, bench.checks, failed=failed, look=bool(of_steps(steps)))

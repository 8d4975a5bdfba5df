"""How far each well reads from what it should: its curve, or the mean of its group. What a plate is judged even by."""

from dosis.run.bench import Bench
from dosis.run.roles import Role

PAIR = 2  # readings of which a mean says something about each


def deviations(bench: Bench) -> dict[int, float]:
    """Of every used reading on a plate, in the unit of the fitted responses; not of one with nothing to expect.

    Once the curves are fitted; the check and the plate share them.
    """
    if bench.deviations is None:
        bench.deviations = _deviations(bench) if bench.readings.plates else {}
    return bench.deviations


def _deviations(bench: Bench) -> dict[int, float]:
    values, expected = bench.responses, bench.expected()
    lost = bench.readings.elsewhere | (bench.by_id.keys() - values.keys())
    found: dict[int, float] = {}
    for group in bench.layout.groups:
        if not bench.comparable(group):
            continue
        ids = bench.used(group)
        if lost:
            ids = [id for id in ids if id not in lost]
        at = expected.get(group.id)
        if at is None and (len(ids) < PAIR or group.role is Role.UNUSED):
            continue
        if at is None:
            at = sum([values[id] for id in ids]) / len(ids)
        for id in ids:
            found[id] = values[id] - at
    return found

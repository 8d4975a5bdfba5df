"""How far each well reads from what it should: its curve, or the mean of its group. What a plate is judged even by."""

from dosis.run.layout import Role
from dosis.run.workbench import Workbench

NORMALIZED = (Role.DOSE, Role.VEHICLE, Role.FULL)
PAIR = 2  # readings of which a mean says something about each


def deviations(bench: Workbench) -> dict[int, float]:
    """Of every used reading on a plate, in the unit of the fitted responses; not of one with nothing to expect.

    Once the curves are fitted; the check and the plate share them.
    """
    if bench.deviations is None:
        bench.deviations = _deviations(bench) if bench.readings.plates else {}
    return bench.deviations


def _deviations(bench: Workbench) -> dict[int, float]:
    values = bench.raw if bench.of_raw and bench.raw else bench.values
    expected = _on_curves(bench)
    lost = bench.readings.elsewhere | (bench.by_id.keys() - values.keys())
    found: dict[int, float] = {}
    normalized = bool(bench.references) and not bench.of_raw
    for group in bench.layout.groups:
        if normalized and group.role not in NORMALIZED:
            continue  # blanks stay in the unit that was read
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


def _on_curves(bench: Workbench) -> dict[str, float]:
    """What doses and standards read on their curves, by group."""
    curves = [(compound.groups, compound.fit) for compound in bench.compounds.values()]
    if bench.fit is not None and not bench.turned:
        curves.append((bench.groups(Role.STANDARD), bench.fit))
    found: dict[str, float] = {}
    for groups, fit in curves:
        known = {group.id: group.level for group in groups if group.level is not None}
        if fit is not None and known:
            found |= dict(zip(known, fit.predict(list(known.values())).tolist(), strict=True))
    return found

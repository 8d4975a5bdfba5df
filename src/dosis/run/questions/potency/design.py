"""Which readings are one assay, and how they are blocked."""

from collections.abc import Sequence
from typing import Literal

import numpy as np

from dosis.core.arrays import Rows
from dosis.run.questions.potency.bench import Assay, PotencyBench, dose_of

Blocked = Literal["random", "replicates", "plates", "rows", "columns", "square", "names", "cross_over"]
Assays = Literal["auto", "one", "plates"]
BY = {
    "random": "completely randomized", "replicates": "in blocks by the order of replicates",
    "plates": "in blocks by plate", "rows": "in blocks by row", "columns": "in blocks by column",
    "square": "in a square of rows and columns", "names": "in blocks by name",
    "cross_over": "a cross-over, animals by their names and periods by their notes",
}  # fmt: skip


def assays_of(bench: PotencyBench, how: Assays) -> list[tuple[str, frozenset[int] | None]]:
    """The name and the plate of each assay; one without either where all readings are one.

    On their own, plates are assays where each of several has two preparations or more.
    """
    at: dict[int, set[str]] = {}
    for name, groups in bench.preparations.items():
        for group in groups:
            for id in bench.used(group):
                plate = bench.by_id[id].plate
                if plate is not None:
                    at.setdefault(plate, set()).add(name)
    apart = how == "plates" or (how == "auto" and all(len(names) > 1 for names in at.values()))
    if len(at) < 2 or not apart:
        return [("", None)]
    plates = bench.readings.plates
    return [(plates[i].name or f"Plate {i + 1}", frozenset({i})) for i in sorted(at)]


def blocks_of(bench: PotencyBench, assay: Assay, by: Blocked) -> tuple[Rows, ...]:
    """The number of the block of every reading, for each way they are blocked; nothing where that makes one block."""
    at = [bench.by_id[id] for id in assay.ids]
    plates = [each.plate or 0 for each in at]
    keys: list[Sequence[tuple[int | str, ...]]] = []
    if by == "replicates":
        order = _order(bench)
        keys = [[(order[id],) for id in assay.ids]]
    elif by == "plates":
        keys = [[(plate,) for plate in plates]]
    if by in ("rows", "square"):
        keys.append([(plate, each.row) for plate, each in zip(plates, at, strict=True)])
    if by in ("columns", "square"):
        keys.append([(plate, each.column) for plate, each in zip(plates, at, strict=True)])
    if by in ("names", "cross_over"):
        groups = {id: group for each in bench.preparations.values() for group in each for id in group.readings}
        keys.append([(groups[id].name if id in groups else "",) for id in assay.ids])
        if by == "cross_over":
            keys.append([(groups[id].note if id in groups else "",) for id in assay.ids])
    found = []
    for key in keys:
        names = {each: i for i, each in enumerate(sorted(set(key)))}
        if len(names) > 1:
            found.append(np.array([names[each] for each in key], dtype=np.intp))
    return tuple(found)


def _order(bench: PotencyBench) -> dict[int, int]:
    """Which replicate of its dose each reading is, those that are left out counted too."""
    seen: dict[tuple[str, float], int] = {}
    found = {}
    for name, groups in bench.preparations.items():
        for group in groups:
            for id in group.readings:
                key = (name, dose_of(group))
                found[id] = seen.get(key, 0)
                seen[key] = found[id] + 1
    return found

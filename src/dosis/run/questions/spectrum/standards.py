"""Scans at known concentrations, handed on: their values at one place as the readings of a standard curve."""

import numpy as np

from dosis.core.rounding import given
from dosis.run.outcome.handed import HandedOn
from dosis.run.questions.spectrum.bench import SpectrumBench
from dosis.run.roles import Role


def standards_of(bench: SpectrumBench, place: float | None) -> HandedOn | None:
    """A table of a row for each scan as read: its name, its level where it is known, and its value there.

    place : on the axis; where it is None, that of what is followed. None where nothing is followed.
    """
    at = bench.followed_at if place is None else place
    if at is None:
        return None
    level, own = bench.layout.level, bench.quantity
    where = f"{given(at)} {bench.axis.unit}".rstrip()
    head = ["Name", "Role", f"Level: {level.name} ({level.unit})" if level.unit else f"Level: {level.name}"]
    reading = f"{own.name} at {where}" + (f" ({own.unit})" if own.unit else "")
    rows = ["\t".join([*head, reading])]
    for group in bench.groups(Role.POINT, Role.STANDARD):
        role = "sample" if group.level is None else "standard"
        for id in bench.used(group):
            value = bench.at(bench.y[bench.row_of[id]], at)
            if np.isfinite(value):
                rows.append(
                    "\t".join(
                        [_plain(group.name), role, "" if group.level is None else repr(group.level), f"{value:.6g}"]
                    )
                )
    return HandedOn("concentration", f"standard curve at {where}", "\n".join(rows))


def _plain(name: str) -> str:
    return " ".join(name.split())

"""Recovery of a known amount added to a sample: what of it is found again."""

import math

from dosis.core.rounding import fixed, given
from dosis.run.outcome.value import Remark, State, Value
from dosis.run.roles import Role
from dosis.run.standards.bench import StandardBench


def recover_spikes(bench: StandardBench) -> None:
    """For every spiked sample (found − without) ÷ added, after dilution; leaves it on the bench with its working.

    The interval is made from those of the two concentrations and their correlation, since the curve they were both read
    off moves them together (Zou & Donner 2008, Statist. Med. 27, 1693).
    """
    unit = bench.layout.level.unit
    plain = {group.name: group for group in bench.groups(Role.SAMPLE) if not group.spike_of}
    for group in bench.groups(Role.SAMPLE):
        if not group.spike_of:
            continue
        base = plain.get(group.spike_of)
        found, without = bench.in_sample.get(group.id, Value()), bench.in_sample.get(base.id if base else "", Value())
        why = ""
        if base is None:
            why = f"there is no sample “{group.spike_of}” without the addition"
        elif not group.level:
            why = "what was added is not given"
        elif found.value is None or without.value is None:
            why = f"{(group if found.value is None else base).name} has no concentration"
        if why or base is None or not group.level or found.value is None or without.value is None:
            text = f"{group.name}: no recovery, because {why}."
            bench.remark(group, Remark(state=State.LOOK, short="no recovery", text=text))
            continue
        added, net = group.level, found.value - without.value
        ends: list[float] = []
        if None not in (found.lower, found.upper, without.lower, without.upper):
            r = _correlation(bench, group.id, base.id)
            below = _apart(found.value - (found.lower or 0.0), (without.upper or 0.0) - without.value, r)
            above = _apart((found.upper or 0.0) - found.value, without.value - (without.lower or 0.0), r)
            ends = sorted(((net - below) / added, (net + above) / added))
        bench.recoveries[group.id] = Value(
            value=net / added, lower=ends[0] if ends else None, upper=ends[1] if ends else None
        )
        bench.note(
            group, "recovery", "Recovered", text=f"({found.shown} − {without.shown}) ÷ {given(added)} {unit}".rstrip(),
            result=f"{fixed(100 * net / added, 1)} %", value=net / added,
        )  # fmt: skip
        if ends:
            span = f"{fixed(100 * ends[0], 0)} to {fixed(100 * ends[1], 0)} %"
            bench.note(group, "recovery", "95 % interval", text=span)


def _apart(one: float, other: float, r: float) -> float:
    """How far a difference may be off, of two quantities that may be off by so much each."""
    return math.sqrt(max(one * one + other * other - 2 * r * one * other, 0.0))


def _correlation(bench: StandardBench, one: str, other: str) -> float:
    """Of two concentrations that were read off the same curve; none where that is not known."""
    first, second = bench.read_backs[one], bench.read_backs[other]
    fit = bench.judged.fit if bench.judged is not None else bench.fit
    if fit is None or bench.turned or first.estimate is None or second.estimate is None:
        return 0.0
    shared = fit.covariance_between(first.estimate, second.estimate)
    if shared is None or not first.standard_error or not second.standard_error:
        return 0.0
    return max(-1.0, min(1.0, shared / (first.standard_error * second.standard_error)))

"""Descents of curve after curve: from given starts, from the other side of the axis, and on towards limits."""

import math

import numpy as np

from dosis.core.arrays import Array, Flags
from dosis.core.fitting.sigmoids.asymmetry import moved_at, with_power
from dosis.core.fitting.sigmoids.compiled import compiled, inlined
from dosis.core.fitting.sigmoids.descent import FAR, REACH, SHARPEST, STEEPEST, descend, within
from dosis.core.fitting.sigmoids.look import ROWS, Theta, look
from dosis.core.fitting.sigmoids.shape import LOGISTIC, NOWHERE, POWERED

FURTHER = 2.0  # of ln g that a leap goes on towards a Gompertz curve or a kink
KINKED, ROUNDER, LOPSIDED = -2.5, -1.5, 5.0  # ln g of a curve with a kink, of a rounder one, and next to Gompertz's
DEEP = 22.0  # ±ln g of a curve all but at its limit
ROUNDS = 8  # of leaping and descending for a curve that comes to no end
Steps = tuple[int, int, int]
# Steps before a descent may be given up, before it is tried at a limit, and after that:
USUAL, ROUGHLY, ANEW = (8, 8, 15), (8, 8, 0), (1, 6, 60)
NOT_YET_A_STEP, NOT_YET_BARE = 16.0, 8.0  # u over the least distance of places, and at the nearest place


@compiled
def descend_all(
    form: int, sign: float, t: Array, y: Array, w: Array, pure: Array, total: Array, closest: float, start: Array,
    steps: Steps, theta: Array, half: Array, converged: Flags, side: Array,
) -> None:  # fmt: skip
    """Descend every curve from its start (curves, 3), and keep what is better than where it stands, on any side.

    t : (n,), on the side `sign` of the axis; y : (curves, n), w : (curves, n) or (1, n); pure, total : (curves,);
    closest : least distance between two places; steps : see `descend_once`; theta (curves, 3), half, converged, side
    (curves,) : where the curves stand, as `Ends`, written over.
    """
    states = np.empty((2, ROWS, t.size))
    for i in range(len(y)):
        own = w[i if len(w) > 1 else 0]
        at, end, there = descend_once(
            form, t, y[i], own, max(own.sum(), 1e-300), closest, pure[i], total[i], steps, half[i],
            (start[i, 0], start[i, 1], start[i, 2]), states,
        )  # fmt: skip
        if end < half[i]:
            theta[i, 0], theta[i, 1], theta[i, 2] = at
            half[i], converged[i], side[i] = end, there, sign


@compiled
def begin_with_power(
    t: Array, y: Array, w: Array, pure: Array, total: Array, closest: float, start: Array,
    theta: Array, half: Array, converged: Flags, side: Array,
) -> None:  # fmt: skip
    """The first descents with a power, from the best curve without one, on the side on which it rises.

    start : (curves, 3), where that is looked for. Arguments as for `descend_all`, t on the side it is.
    """
    states, turned = np.empty((2, ROWS, t.size)), -t
    for i in range(len(y)):
        own = w[i if len(w) > 1 else 0]
        begun = (start[i, 0], start[i, 1], start[i, 2])
        at, half[i], converged[i], side[i] = with_power_from(
            t, turned, y[i], own, max(own.sum(), 1e-300), closest, pure[i], total[i], begun, states
        )
        theta[i, 0], theta[i, 1], theta[i, 2] = at


@compiled
def with_power_from(
    t: Array, turned: Array, y: Array, w: Array, weight: float, closest: float, pure: float, total: float, at: Theta,
    states: Array,
) -> tuple[Theta, float, bool, float]:  # fmt: skip
    """The same of one curve: θ, ½ SSE, whether at a minimum, and its side; `turned` is t on the other.

    Turned round, a falling curve rises from lower to upper. Its mirror image, which falls from lower to upper on the
    first side, is a curve of another shape, and not looked for.
    """
    at, _, _ = descend_once(LOGISTIC, t, y, w, weight, closest, pure, total, ROUGHLY, np.inf, at, states)
    a, b, power = at
    sign = 1.0 if look(LOGISTIC, t, y, w, weight, at, 1.0, states, 0)[1] >= 0 else -1.0
    # Not so far at a limit that nothing draws a curve back.
    steepness = min(b, NOT_YET_A_STEP / closest)
    reach = steepness + NOT_YET_BARE
    a = min(max(a * (steepness / b), -reach), reach)
    # Turned round, the curve without a power is the same with a changed in sign.
    at, end, there = descend_once(
        POWERED, t if sign > 0 else turned, y, w, weight, closest, pure, total, USUAL, np.inf,
        (sign * a, steepness, power), states,
    )  # fmt: skip
    return at, end, there, sign


@compiled
def descend_once(
    form: int, t: Array, y: Array, w: Array, weight: float, closest: float, pure: float, total: float,
    steps: Steps, bound: float, at: Theta, states: Array,
) -> tuple[Theta, float, bool]:  # fmt: skip
    """From one start in two parts, between which the curve is tried at the limit it may be on its way to.

    steps : how many before it may be given up, how many in the first part and how many in the second.
    """
    patience, first, second = steps
    at, end, promise, there = descend(
        form, t, y, w, weight, closest, pure, total, patience, first, bound, within(form, at), states
    )
    if not there and second and end - REACH * promise <= bound:
        at = leap(form, t, y, w, weight, closest, end, at, states)
        at, end, promise, there = descend(
            form, t, y, w, weight, closest, pure, total, min(patience, 2), second, bound, at, states
        )
    return at, end, there


@compiled
def finish(
    form: int, sign: float, t: Array, y: Array, w: Array, pure: Array, total: Array, closest: float, steps: Steps,
    theta: Array, half: Array, converged: Flags, side: Array,
) -> None:  # fmt: skip
    """Go on with what has come to no end on this side of the axis, by turns leaping and descending."""
    states = np.empty((2, ROWS, t.size))
    patience, _, most = steps
    for i in range(len(y)):
        own = w[i if len(w) > 1 else 0]
        weight = max(own.sum(), 1e-300)
        if side[i] != sign:
            continue
        at = (theta[i, 0], theta[i, 1], theta[i, 2])
        for _ in range(ROUNDS):
            if converged[i]:
                break
            at = leap(form, t, y[i], own, weight, closest, half[i], at, states)
            at, half[i], _, converged[i] = descend(
                form, t, y[i], own, weight, closest, pure[i], total[i], most, most, np.inf, at, states
            )
        if form == POWERED and at[2] < KINKED:
            # From a kink no slope leads back to a rounder curve that is better still.
            rounder, end, _, there = descend(
                form, t, y[i], own, weight, closest, pure[i], total[i], patience, most, half[i],
                within(form, with_power(at, ROUNDER)), states,
            )  # fmt: skip
            if end < half[i]:
                at, half[i], converged[i] = rounder, end, there
        if form == POWERED and (at[2] < KINKED or at[2] > LOPSIDED):
            end, limit = deepest(form, t, y[i], own, weight, half[i], at, states)
            if end < half[i]:
                at, half[i], _, there = descend(
                    form, t, y[i], own, weight, closest, pure[i], total[i], most, most, np.inf, limit, states
                )
                converged[i] |= there
        theta[i, 0], theta[i, 1], theta[i, 2] = at


@inlined
def deepest(
    form: int, t: Array, y: Array, w: Array, weight: float, half: float, theta: Theta, states: Array
) -> tuple[float, Theta]:
    """A curve on its way to a Gompertz curve or a kink is all but there: ½ SSE and θ, where that is better."""
    a, b, power = theta
    if power > 0:
        tried = with_power(theta, DEEP)
    else:
        further = min(power + DEEP, math.log(SHARPEST / b))
        tried = (a * math.exp(further), b * math.exp(further), power - further)
    tried = within(form, tried)
    end = look(form, t, y, w, weight, tried, math.exp(tried[2]), states, 0)[0]
    return (end, tried) if end < half else (half, theta)


@compiled
def leap(
    form: int, t: Array, y: Array, w: Array, weight: float, closest: float, half: float, theta: Theta,
    states: Array,
) -> Theta:  # fmt: skip
    """Take a curve on its way to a limit there at once, where that is better.

    A steep curve keeps its u at the nearest reading and becomes a step; one with its midpoint beyond the readings
    keeps its slope and goes all the way out. With a power it may become a Gompertz curve, or get a kink, either
    where it is or at the nearest place.
    """
    a, b, power = theta
    middle = -a / b
    nearest = np.inf
    for place in t:
        if abs(place) < -NOWHERE and abs(place - middle) < abs(nearest - middle):
            nearest = place
    # With a power, not so far that the way back cannot be seen.
    far, steepest = (8.0, 16.0 / closest) if form == POWERED else (0.95 * FAR, min(60.0 / closest, STEEPEST))
    best = theta
    for way in range(5 if form == POWERED else 2):
        if way == 0 and abs(middle) > 1:
            tried = (-far - b if middle > 1 else far + b, b, power)
        elif way == 1 and abs(middle) <= 1 and b < steepest:
            tried = (a + (b - steepest) * nearest, steepest, power)
        elif way == 2 and power > 0:
            tried = with_power(theta, power + FURTHER)
        elif way == 3 and power < 0:
            tried = (a * np.exp(FURTHER), b * np.exp(FURTHER), power - FURTHER)
        elif way == 4 and power < 0 and abs(middle) <= 1:
            tried = moved_at(nearest, theta, (-FURTHER, 0.0, -FURTHER))
        else:
            continue
        tried = within(form, tried)
        there = look(form, t, y, w, weight, tried, math.exp(tried[2]), states, 0)[0]
        if there < half:
            best, half = tried, there
    return best

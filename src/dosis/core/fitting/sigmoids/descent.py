"""Newton's method for one sigmoid: exact second derivatives near the minimum, within a trust radius."""

import math

from dosis.core.arrays import Array
from dosis.core.fitting.sigmoids.asymmetry import Half, half_point, moved, moved_at, turned, turned_at
from dosis.core.fitting.sigmoids.compiled import compiled, inlined
from dosis.core.fitting.sigmoids.look import Theta, look, slopes
from dosis.core.fitting.sigmoids.shape import GOMPERTZ, POWERED, WEIBULL
from dosis.core.fitting.sigmoids.step import Step, dot, promised, shortened, solve_shifted

NEAR = 0.1  # promise against the sum of squares at which Gauss and Newton's step, safe from afar, gives way to Newton's
CLOSE = 1e-10  # the same at which the last step is taken
SHORT = 0.01  # length of a last step that needs no look at where it leads
EXACT = 1e-26  # the same against the curve's whole variation, for readings that lie on the curve
STEEPEST, FLATTEST = 2000.0, 1e-3  # b: the range of x holds 2·b units of u
SHARPEST = 1e12  # b with a power, where more still counts
FAR = 24.0  # u at the nearest reading beyond which a midpoint outside the readings changes nothing
FAR_UP = 3.2  # the same where the shape nears its plateau as e^−e^u
SMALL, SHARP = -1.5, 12.0  # ln g and u between places at which a curve has a kink
LINEAR = -2.5  # ln g below which h is all but 1 − g·ln(1 + e^−u), and (a, b, ln g) the better coordinates
AFTER = (4.0, 14.0)  # u at the first place that is beyond it, by turns: which of them is better is not known
WIDE = 3.0  # most that a step may change the half point in units of u, the log slope or the log power
LONGEST = 16.0  # most a step is stretched
SHORTEST, WIDEST = 1e-6, 1e3  # radii that say that rounding rules, and that there is no limit
HIDDEN = 1e-6  # promise against the sum of squares that rounding may hide
REACH = 8.0  # promised falls within which a descent may still end lower than another
SURE, EQUAL = 1e-6, 3e-9  # promise at which it tells to how much where a descent will end, and what is no lower
LEAST_POWER, MOST_POWER = -26.0, 22.0  # ln g


@compiled
def within(form: int, theta: Theta) -> Theta:
    """θ brought into the box that holds every curve that can be told from a limit."""
    b = min(max(theta[1], FLATTEST), SHARPEST if form == POWERED else STEEPEST)
    below, above = (FAR_UP if form == GOMPERTZ else FAR), (FAR_UP if form == WEIBULL else FAR)
    return min(max(theta[0], -b - below), b + above), b, min(max(theta[2], LEAST_POWER), MOST_POWER)


@inlined
def kink_of(t: Array, theta: Theta, closest: float, after: float) -> float:
    """The place that says where the kink of a curve is, endless where it has none."""
    a, b, power = theta
    last = math.inf
    if power < SMALL and b * closest > SHARP and a > -b:
        for place in t:
            if a + b * place < after and not (last < math.inf and place < last):
                last = place
    return last


@inlined
def step_from(
    form: int, t: Array, w: Array, weight: float, theta: Theta, rise: float, size: float, exact: float, radius: float,
    kink: float, half: Half, states: Array, now: int,
) -> tuple[Step, float]:  # fmt: skip
    """The step within its radius, and the fall of ½ SSE it promises; `kink` is the place of one, or endless."""
    gradient, matrix, scale = slopes(form, t, w, weight, rise, size, exact, states, now)
    two = form != POWERED
    if kink < math.inf:
        gradient, matrix = turned_at(kink, theta, exact, gradient, matrix)
    elif not two and theta[2] > LINEAR:
        gradient, matrix = turned(theta, half, exact, gradient, matrix)
    over = 1.0 / max(scale, 1e-300)
    right = (-over * gradient[0], -over * gradient[1], -over * gradient[2])
    m00, m10, m11, m20, m21, m22 = matrix
    held = two or (theta[2] <= LEAST_POWER and right[2] < 0) or (theta[2] >= MOST_POWER and right[2] > 0)
    if held:
        right, m20, m21 = (right[0], right[1], 0.0), 0.0, 0.0
    matrix = (over * m00, over * m10, over * m11, over * m20, over * m21, 1.0 if held else over * m22)
    step, least = solve_shifted(matrix, right, 0.0)
    most = min(radius, 3.0 + 0.5 * theta[1] if two else WIDE)
    if least < 1e-9 or not dot(step, step) <= most * most:
        step = shortened(matrix, right, step, most, two, least > 1e-9)
    return step, promised(matrix, right, step) / over


@inlined
def stepped(theta: Theta, step: Step, kink: float, turning: bool, before: Half, after: Half) -> Theta:
    """θ after a step in the coordinates it was made in."""
    if turning:
        return moved(theta, step, before, after)
    if kink < math.inf:
        return moved_at(kink, theta, step)
    return theta[0] + step[0], theta[1] + step[1], theta[2] + step[2]


@compiled
def descend(
    form: int, t: Array, y: Array, w: Array, weight: float, closest: float, pure: float, total: float,
    patience: int, most: int, bound: float, theta: Theta, states: Array,
) -> tuple[Theta, float, float, bool]:  # fmt: skip
    """Minimize from θ in at most so many steps: θ, ½ SSE, half the fall still promised, and whether at a minimum.

    A curve is done when its next step promises less than rounding; that step is still taken, which squares the
    precision. Towards a minimum at infinity each Newton step takes the rest down by e: such steps are doubled.

    patience, bound : after so many steps a descent is given up when it seems to end above this ½ SSE.
    states : (2, 7, n), to work in.
    """
    g = math.exp(theta[2])
    half, rise, size, _ = look(form, t, y, w, weight, theta, g, states, 0)
    now = 0
    # The half points of the curve as it is, and as it is tried; each is worked out once.
    before = after = half_point(theta[2], g)
    ready = True
    exact, radius, stretch, last, promise = 0.0, math.inf, 1.0, math.inf, math.inf
    for turn in range(most + 1):
        kink = kink_of(t, theta, closest, AFTER[turn % 2]) if form == POWERED else math.inf
        turning = form == POWERED and not kink < math.inf and theta[2] > LINEAR
        if turning and not ready:
            before, ready = half_point(theta[2], g), True
        step, promise = step_from(form, t, w, weight, theta, rise, size, exact, radius, kink, before, states, now)
        length = math.sqrt(dot(step, step))
        level = half + 0.5 * pure
        # Where rounding hides any further fall, the step that promises it counts as the last.
        done = promise <= CLOSE * level + EXACT * total or (radius < SHORTEST and promise <= HIDDEN * level)
        hopeless = half - REACH * promise > bound if promise > SURE * level else half - promise > bound - EQUAL * level
        if not done and (turn == most or (turn >= patience and hopeless)):
            break
        crawling = exact > 0 and length < 0.99 * radius and promise > 0.3 * math.exp(-stretch) * last
        stretch = min(2.0 * stretch, LONGEST) if crawling and not done else 1.0
        power = min(max(stretch * step[2], LEAST_POWER - theta[2]), MOST_POWER - theta[2])
        step = (stretch * step[0], stretch * step[1], power)
        onward = theta[2] + step[2]
        tried_g = math.exp(onward) if form == POWERED else 1.0
        if turning:
            after = half_point(onward, tried_g)
        tried = within(form, stepped(theta, step, kink, turning, before, after))
        if done and length < SHORT and not kink < math.inf:
            return tried, half, promise, True
        there, rise_there, size_there, _ = look(form, t, y, w, weight, tried, tried_g, states, 1 - now)
        if done:
            # A long step, along a direction in which nothing changes, may leave the valley at its far end.
            if there <= half + CLOSE * level + EXACT * total:
                theta, half = tried, there
            return theta, half, promise, True
        gain = (half - there) / promise
        exact, last = (1.0 if promise <= NEAR * level else 0.0), promise
        # A bad quarter of what was promised shortens the next step, three good ones lengthen it.
        if not gain >= 0.25 and stretch == 1.0:
            radius = 0.25 * length
        elif gain > 0.75 and length > 0.9 * radius:
            radius = 2.5 * radius if 2.5 * radius <= WIDEST else math.inf
        if gain > 0:
            before, ready = after, turning
            theta, g, half, rise, size = tried, tried_g, there, rise_there, size_there
            now = 1 - now
        else:
            last = math.inf
    return theta, half, promise, False

"""Exponential and logarithm in plain arithmetic, so that a loop over readings runs in wide registers.

A call of the system's functions inside a loop keeps it from being vectorized, and then takes nine tenths of a descent.
"""

import math
from collections.abc import Callable
from typing import Any

from llvmlite import ir
from numba import types
from numba.extending import intrinsic

from dosis.core.fitting.sigmoids.compiled import exactly

LN2_HIGH, LN2_LOW = 6.93147180369123816490e-01, 1.90821492927058770002e-10  # the first has 20 trailing zero bits
LN2 = math.log(2.0)
LOWEST = -600.0  # e^−600 is zero to anything it is added to, and its products are not yet denormal
ROOT = math.sqrt(2.0) - 1.0
E3, E4, E5, E6, E7, E8, E9, E10, E11, E12, E13 = (1.0 / math.factorial(k) for k in range(3, 14))
L3, L5, L7, L9, L11, L13, L15, L17, L19, L21 = (2.0 / k for k in range(3, 22, 2))


def _split(_context: Any, x: Any) -> tuple[Any, Any]:
    def generate(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        double, word = ir.DoubleType(), ir.IntType(64)
        magic = ir.Constant(double, 1.5 * 2.0**52)
        shifted = builder.fadd(builder.fmul(arguments[0], ir.Constant(double, 1.0 / LN2)), magic)
        bits = builder.add(builder.bitcast(shifted, word), ir.Constant(word, 1023))
        scale = builder.bitcast(builder.shl(bits, ir.Constant(word, 52)), double)
        return context.make_tuple(builder, signature.return_type, (builder.fsub(shifted, magic), scale))

    return types.UniTuple(types.float64, 2)(types.float64), generate


# The integer k next to x/ln 2, as a float, and 2^k: by adding 1.5·2^52, whose last bits then hold k.
power_of_two: Callable[[float], tuple[float, float]] = intrinsic(_split)


@exactly
def exponential(x: float) -> tuple[float, float]:
    """e^x and e^x − 1 for x ≤ 700, both to the last bits; below −600 as at −600."""
    x = max(x, LOWEST)
    k, scale = power_of_two(x)
    r = (x - k * LN2_HIGH) - k * LN2_LOW
    # Estrin's scheme, of which the parts do not wait for one another.
    r2 = r * r
    r4 = r2 * r2
    low, middle, high = (0.5 + r * E3) + r2 * (E4 + r * E5), (E6 + r * E7) + r2 * (E8 + r * E9), E10 + r * E11
    p = r + r2 * ((low + r4 * middle) + r4 * r4 * (high + r2 * (E12 + r * E13)))
    less = scale * p + (scale - 1.0)
    return scale * p + scale, less


@exactly
def log_of_one_and(e: float) -> float:
    """ln(1 + e) for 0 ≤ e ≤ 1, to the last bits also of small e, by the series of the inverse hyperbolic tangent."""
    far = e > ROOT
    s = ((e - 1.0) if far else e) / ((e + 3.0) if far else (e + 2.0))
    q = s * s
    q2 = q * q
    q4 = q2 * q2
    low, high = (L3 + q * L5) + q2 * (L7 + q * L9), (L11 + q * L13) + q2 * (L15 + q * L17)
    return s * (2.0 + q * ((low + q4 * high) + q4 * q4 * (L19 + q * L21))) + (LN2 if far else 0.0)

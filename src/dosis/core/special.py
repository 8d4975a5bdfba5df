"""scipy.special, loaded when one of its functions is first called: importing it takes longer than the whole core."""

from collections.abc import Callable
from functools import cache
from typing import Any


@cache
def _library() -> Any:
    from scipy import special

    return special


def _of(name: str) -> Callable[..., Any]:
    def call(*arguments: Any) -> Any:
        return getattr(_library(), name)(*arguments)

    return call


betaincinv, chdtrc, erf, expit, fdtrc, logit = map(_of, ("betaincinv", "chdtrc", "erf", "expit", "fdtrc", "logit"))
ndtr, ndtri, stdtr, stdtrit, xlogy = map(_of, ("ndtr", "ndtri", "stdtr", "stdtrit", "xlogy"))

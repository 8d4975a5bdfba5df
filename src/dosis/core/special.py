"""scipy.special, loaded when one of its functions is first called: importing it takes longer than the whole core."""

from collections.abc import Callable
from functools import cache
from typing import Any


def _of(name: str) -> Callable[..., Any]:
    @cache
    def function() -> Callable[..., Any]:
        from scipy import special

        found: Callable[..., Any] = getattr(special, name)
        return found

    def call(*arguments: Any) -> Any:
        return function()(*arguments)

    return call


betaln = _of("betaln")
betaincinv, chdtrc, erf, expit, fdtrc, logit = map(_of, ("betaincinv", "chdtrc", "erf", "expit", "fdtrc", "logit"))
fdtr, ncfdtr, nctdtrinc, ndtr, ndtri, stdtr, stdtrit, xlogy = map(
    _of, ("fdtr", "ncfdtr", "nctdtrinc", "ndtr", "ndtri", "stdtr", "stdtrit", "xlogy")
)

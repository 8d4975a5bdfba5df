"""Several tests at once."""

from collections.abc import Sequence


def holm(ps: Sequence[float]) -> list[float]:
    """p-values adjusted so that the risk of any false positive is kept (Holm 1979, Scand. J. Statist. 6, 65).

    Example
    -------
    >>> holm([0.01, 0.04, 0.03])
    [0.03, 0.06, 0.06]
    """
    adjusted, largest = [1.0] * len(ps), 0.0
    for rank, i in enumerate(sorted(range(len(ps)), key=ps.__getitem__)):
        largest = max(largest, min(1.0, (len(ps) - rank) * ps[i]))
        adjusted[i] = largest
    return adjusted

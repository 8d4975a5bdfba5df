"""Which preparations an assay compares, the reference first."""

from collections.abc import Hashable, Sequence


def preparations(labels: Sequence[Hashable], reference: Hashable | None) -> list[Hashable]:
    """The different labels in the order they come, the reference (by default the first) before the others.

    Raises
    ------
    ValueError : for fewer than 2, or a reference that is not among them.
    """
    names = list(dict.fromkeys(labels))
    first = names[0] if reference is None and names else reference
    if len(names) < 2 or first not in names:
        raise ValueError(f"A relative potency needs 2 preparations, one of them the reference; there are {names}.")
    names.remove(first)
    return [first, *names]

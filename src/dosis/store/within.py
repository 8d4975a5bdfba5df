"""Parts of queries that several lists share: from where on, within which studies, and with which words."""

from collections.abc import Collection
from typing import Annotated

from pydantic import Field

MOST_WORDS = 8
First = Annotated[int, Field(ge=0, le=1_000_000_000)]  # rows that are passed over


def within(column: str, studies: Collection[int] | None) -> tuple[str, list[object]]:
    """A condition and its values that keep a list within what a person may look into; None stands for all studies.

    >>> within("run.study_id", {3})
    ('run.study_id IN (%s)', [3])
    """
    if studies is None:
        return "TRUE", []
    if not studies:
        return "FALSE", []
    return f"{column} IN ({', '.join(['%s'] * len(studies))})", [*sorted(studies)]


def patterns(words: str) -> list[str]:
    """Each of the words as LIKE looks for it anywhere in a text.

    >>> patterns("pier 5%")
    ['%pier%', '%5\\\\%%']
    """
    escaped = (
        word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") for word in words.split()[:MOST_WORDS]
    )
    return [f"%{word}%" for word in escaped]

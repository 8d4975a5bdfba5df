"""Words of the trade in several languages: what a heading or the name of a row says, where English does not tell."""

import re
import tomllib
import unicodedata
from collections.abc import Iterable, Mapping
from functools import cache, lru_cache
from pathlib import Path
from typing import Literal

Counted = Literal["exposed", "affected", "alive"]

# English, in which most tables are written. Two things a column counts are told apart by these, too.
COUNTED: tuple[tuple[Counted, re.Pattern[str]], ...] = tuple(
    (kind, re.compile(rf"^({words})$", re.IGNORECASE))  # type: ignore[misc]
    for kind, words in (
        ("exposed", r"n|total|totals|exposed|tested|animals|number|no\.? exposed|number (exposed|tested)|n exposed"
                    r"|total (number|exposed)|(daphnia|shrimp|larvae|fish|seeds|embryos|organisms|neonates|insects)"),
        ("affected", r"affected|dead|died|killed|deaths?|mortality|immobili[sz]ed|immobile|responding|responded"
                     r"|(no\.?|number|n)( of)? (dead|affected|immobile|responding)|moribund|dead or immobile"),
        ("alive", r"alive|living|live|surviv(ors?|ing|ed)|(no\.?|number|n)( of)? (alive|surviv(ors|ing))|mobile"),
    )
)  # fmt: skip

# Headings of these kinds may go on after the word: "Konzentration Zink", "Standardabweichung von A880".
BEGINNING = ("level", "dilution", "error")


def column_word(text: str) -> str | None:
    """What a heading in another language than English says its column holds, such as "level"; None where it says not.

    Example: ``column_word("Verdünnung") == "dilution"``.
    """
    plain = _plain(text)
    kind = _meaning(plain, "columns")
    return kind if kind in BEGINNING or plain in _table()["columns"] else None


def role_word(text: str) -> str | None:
    """The role that the name of a row says in another language; the number it may end in makes no difference.

    Example: ``role_word("Blindwert 2") == "blank"``.
    """
    plain = _plain(text.rstrip("0123456789 .#-_"))
    head, _, tail = plain.rpartition(" ")
    # "Blanc A" is a blank; "Blanc Sablon" is a place.
    return _meaning(plain, "roles", whole=True) or (_meaning(head, "roles", whole=True) if len(tail) < 3 else None)


def counted(heading: str) -> Counted | None:
    """Whether a heading counts those exposed, those affected or those alive."""
    words = " ".join(heading.split())
    kind = next((kind for kind, pattern in COUNTED if pattern.match(words)), None)
    if kind is None and (word := column_word(words)) in ("exposed", "affected", "alive"):
        return word  # type: ignore[return-value]
    return kind


def are_counts(names: Iterable[str]) -> bool:
    """Whether these headings tell of how many were exposed and how many affected, or how many live."""
    kinds = {counted(count_and_time(name)[0]) for name in names}
    return "exposed" in kinds and len(kinds - {None}) > 1


_WITH_TIME = re.compile(
    r"^(?P<count>.+?)[\s,(@_-]+(?:at |after |t ?= ?)?(?P<time>\d+(?:[.,]\d+)?\s*(?:h|hr|hrs|hours?|d|days?|min))\)?$"
    r"|^(?P<first>\d+(?:[.,]\d+)?\s*(?:h|hr|hrs|hours?|d|days?|min))[\s,:_-]+(?P<what>.+)$", re.IGNORECASE,
)  # fmt: skip


def count_and_time(heading: str) -> tuple[str, str]:
    """A heading of counts and the time it names: "Dead 48 h" → ("Dead", "48 h")."""
    match = _WITH_TIME.match(heading.strip())
    if match is None:
        return heading.strip(), ""
    return (match["count"] or match["what"]).strip(" ()"), (match["time"] or match["first"]).strip()


@lru_cache(maxsize=4096)  # thousands of rows share a few names
def _meaning(plain: str, of: str, *, whole: bool = False) -> str | None:
    table = _table()[of]
    if whole:
        return table.get(plain)
    parts = plain.split(" ")
    # The longest word that the text is or begins with decides.
    return next((table[word] for n in range(min(len(parts), 4), 0, -1) if (word := " ".join(parts[:n])) in table), None)


@cache
def _table() -> Mapping[str, Mapping[str, str]]:
    with Path(__file__).with_suffix(".toml").open("rb") as file:
        found = tomllib.load(file)
    return {
        of: {_plain(word): kind for kind, languages in kinds.items() for words in languages.values() for word in words}
        for of, kinds in found.items()
    }


def _plain(text: str) -> str:
    letters = unicodedata.normalize("NFKD", text.casefold())
    return " ".join("".join(c for c in letters if not unicodedata.combining(c)).split())

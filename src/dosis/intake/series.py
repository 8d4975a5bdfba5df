"""What several columns of readings are to each other: replicates, channels of one place, or series of their own."""

import re
from collections import Counter
from collections.abc import Sequence

import numpy as np

from dosis.core.distributions import f_upper_p
from dosis.intake.understanding import Across, ColumnKind
from dosis.run.trade_words import are_counts, column_word

LEAST_ROWS = 3  # from which columns without headings can be told apart
PLAIN = 0.001  # p below which they plainly differ
_NUMBERED = re.compile(r"[\s_#.,(-]*\d+\)?$")
_SAID = re.compile(
    r"[\s_#.,(-]*(?:rep(?:licate|eat|l)?s?|readings?|dup(?:licate)?s?|det(?:ermination)?s?|no|nr|#)\.?\s*\d+\)?$", re.I
)
# What is measured; numbered, it was measured several times. Numbered names of things are things.
_MEASURED = re.compile(
    r"^(|a|a\s*[(_]?\d{3,4}\)?.*|abs(orbance)?.*|od\W*\d*.*|optical density|signals?|y|values?|responses?|results?"
    r"|counts?|areas?|peak areas?|heights?|rfu|rlu|fluorescence|luminescence|intensity|rates?|readings?|e\s*\d{3,4}"
    r"|extinction|(cell )?viab(ility)?\.?|survival|inhibition|% ?\w+|activity|growth|binding|effect|c[tq]"
    r"|transmittance|%\s?t|mv|dpm|cpm)$",
    re.I,
)
_NUMBER = re.compile(r"^\d")
# Numbered, these are different things read in one row.
_OF_ITS_OWN = re.compile(
    r"^(peak|channel|ch|marker|analyte|component|compound|target|gene|band|filter|detector|wavelength|λ|line|ion|time|t"
    r"|hour|h|day|d|min|cycle|plate|element|isotope|species|dye|probe|standard|std|is)\b",
    re.I,
)


def is_measured(quantity: str) -> bool:
    """Whether a heading is that of what an instrument gives."""
    return bool(_MEASURED.match(quantity)) or column_word(quantity) == "reading"


def unnumbered(label: str) -> str:
    """A label without the number at its end: "S 1" → "S"."""
    return _NUMBERED.sub("", label).strip()


def without_number(quantity: str) -> str:
    """A heading without its replicate number, where the number is one: "A880 rep 1" and "A880 2" → "A880".

    "Trial 2", "EX-07" and "Flask 1" are names of things and stay as they are.
    """
    if said := _SAID.search(quantity):
        return quantity[: said.start()].strip()
    plain = unnumbered(quantity)
    return plain if is_measured(plain) else quantity.strip()


def _numbered_alike(labels: Sequence[str]) -> bool:
    """Whether columns are one thing numbered, "Run 1, Run 2", beside rows that are named: the same rows read again.

    Peaks and channels are numbered, too, and each is a reading of its own.
    """
    stems = {unnumbered(label).casefold() for label in labels}
    return len(stems) == 1 and bool(stem := stems.pop()) and not _OF_ITS_OWN.match(stem)


def guess_across(labels: Sequence[str], kinds: Sequence[ColumnKind]) -> Across:
    """What columns of readings with those labels are, beside columns of those kinds."""
    different = list(dict.fromkeys(labels))
    if kinds.count(ColumnKind.LEVEL) > 1:
        return "pairs"
    if len(different) < 2:
        return "replicates"
    by_row = ColumnKind.NAME in kinds or ColumnKind.WELL in kinds
    again = (by_row or ColumnKind.SERIES in kinds) and _numbered_alike(different)
    if again or (by_row and all(label.casefold() in ("a", "b", "c") for label in different)):
        return "replicates"
    if 2 * sum(bool(_NUMBER.match(label)) for label in different) > len(different) or are_counts(different):
        return "channels"
    return "series" if ColumnKind.LEVEL in kinds and not by_row else "channels"


def apart(labels: Sequence[str]) -> list[str]:
    """The labels with a number where several are the same or empty, so that each names one column."""
    many, seen = Counter(labels), Counter[str]()
    found = []
    for label in labels:
        seen[label] += 1
        found.append(label if label and many[label] == 1 else f"{label or 'y'} {seen[label]}")
    return found


def tell_apart(headings: Sequence[str]) -> list[str]:
    """What tells headings from each other, without the words that all of them begin or end with.

    Example: ``tell_apart(["Compound A response", "Compound B response"]) == ["A", "B"]``.
    """
    words = [heading.split() for heading in headings]
    first = _shared([list(w) for w in words])
    last = _shared([list(reversed(w[first:])) for w in words])
    found = [" ".join(w[first : len(w) - last]) for w in words]
    return found if all(found) and len(set(found)) == len(found) else apart([" ".join(w) for w in words])


def common_words(headings: Sequence[str]) -> str:
    """The words that all headings end with, or else those that they begin with; empty without."""
    words = [heading.split() for heading in headings]
    last, first = _shared([list(reversed(w)) for w in words]), _shared(words)
    return " ".join(words[0][len(words[0]) - last :] if last else words[0][:first])


def _shared(words: Sequence[Sequence[str]]) -> int:
    """How many words from the beginning are the same in all, one at least being left of each."""
    most = min(map(len, words), default=1) - 1
    return next((n for n in range(max(most, 0)) if len({w[n] for w in words}) > 1), max(most, 0))


def columns_differ(values: Sequence[Sequence[float]]) -> bool:
    """Whether columns (rows × columns) differ throughout, by the F test of a two-way layout without replicates."""
    rows, columns = len(values), min(map(len, values), default=0)
    if rows < LEAST_ROWS or columns < 2:
        return False
    y = np.array(values, dtype=float)
    rest = y - y.mean(axis=1, keepdims=True) - y.mean(axis=0, keepdims=True) + y.mean()
    between = rows * np.square(y.mean(axis=0) - y.mean()).sum() / (columns - 1)
    within = np.square(rest).sum() / ((rows - 1) * (columns - 1))
    if within == 0:
        return bool(between > 0)
    return f_upper_p(float(between / within), columns - 1, (rows - 1) * (columns - 1)) < PLAIN

"""Numbers as people and instruments type them, kept apart into value, unit and censoring.

A cell such as ``3,1 mg/L``, ``<0.05`` or ``OVER`` means something; reading it as a bare float loses it.
"""

import re
from collections.abc import Sequence
from enum import StrEnum
from itertools import repeat
from typing import Literal, NamedTuple

Decimal = Literal[".", ","]
LARGEST = 1e100  # beyond it a number is text to us: nothing is read or weighed in at that size, and squares end soon


class Meaning(StrEnum):
    """What a cell stands for."""

    NUMBER = "number"
    ABOVE = "above"  # above the range of the instrument: "OVER", "> 4.0"
    BELOW = "below"  # below it: "UNDER", "< 0.05"
    MISSING = "missing"  # empty, a dash, "n/a"
    TEXT = "text"  # anything else


class TypedNumber(NamedTuple):
    """One cell as understood. ``value`` is the number itself, or the bound of a censored one ("> 4.0" → 4.0)."""

    text: str
    meaning: Meaning
    value: float | None = None
    unit: str = ""


OVER_WORDS = frozenset({"over", "overflow", "ovrflw", "ovfl", "over range", "sat", "saturated", "high", "hi", "+inf"})
UNDER_WORDS = frozenset({"under", "underflow", "undrflw", "under range", "low", "lo", "-inf"})
MISSING_WORDS = frozenset(
    {
        "",
        "-",
        "--",
        "---",
        "–",
        "—",
        "−",
        ".",
        "?",
        "na",
        "n/a",
        "n.a.",
        "nan",
        "nil",
        "none",
        "null",
        "missing",
        "empty",
    }
)

WORDS = {
    **dict.fromkeys(MISSING_WORDS, Meaning.MISSING),
    **dict.fromkeys(OVER_WORDS, Meaning.ABOVE),
    **dict.fromkeys(UNDER_WORDS, Meaning.BELOW),
}

_SIGNS = str.maketrans({"−": "-", "–": "-", "＋": "+", "\u00a0": " ", "\u202f": " ", "\u2009": " ", "\u2007": " "})
_NUMBER = re.compile(
    r"""^(?P<censor>[<>≤≥]=?|~)?\s*
        (?P<number>[+-]?\s?(?:\d[\d\s.,'’]*|[.,]\d+))
        (?:\s*(?:[eE]|[x×·*]\s*10\s*\^?)\s*(?P<exponent>[+-]?\d+|[⁺⁻]?[⁰¹²³⁴⁵⁶⁷⁸⁹]+))?
        \s*(?P<unit>[A-Za-zµμ%‰°Ω].*)?$""",
    re.VERBOSE,
)
_SUPERSCRIPTS = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁺⁻", "0123456789+-")
_GROUPED = {
    ".": re.compile(r"^[+-]?\d{1,3}([,\s'’]\d{3})+(\.\d*)?$"),
    ",": re.compile(r"^[+-]?\d{1,3}([.\s'’]\d{3})+(,\d*)?$"),
}
_COLUMN = {
    sign: re.compile(rf"(?:-?\d{{1,15}}(?:[{sign}]\d{{1,15}})?)?(?:\n(?:-?\d{{1,15}}(?:[{sign}]\d{{1,15}})?)?)*")
    for sign in (".", ",")
}
_PLAIN = {
    ".": re.compile(r"^[+-]?(\d+\.?\d*|\.\d+)$"),
    ",": re.compile(r"^[+-]?(\d+,?\d*|,\d+)$"),
}


_EMPTY = TypedNumber("", Meaning.MISSING)


def parse_number(text: str, decimal: Decimal = ".") -> TypedNumber:
    """Read one cell as typed.

    Understands decimal comma or point, thousands separators (the other sign, a space or an apostrophe), exponents
    (``1e-3``, ``1 × 10⁻³``), the Unicode minus, a unit suffix, percent, ``<``/``>`` bounds and the usual words for
    over range, under range and missing. A cell that is none of these comes back as ``Meaning.TEXT``; nothing raises.

    Parameters
    ----------
    text : the cell; surrounding white space is ignored.
    decimal : the decimal sign of the table, ``"."`` or ``","``.
    """
    cleaned = " ".join(text.translate(_SIGNS).split())
    if meaning := WORDS.get(cleaned.casefold()):
        return TypedNumber(text, meaning)
    match = None if cleaned[:1].isalpha() else _NUMBER.match(cleaned)
    if match is None:
        return TypedNumber(text, Meaning.TEXT)
    value = _value(match["number"].strip(), match["exponent"], decimal)
    if value is None or match["censor"] == "~":
        return TypedNumber(text, Meaning.TEXT)
    censor = (match["censor"] or "")[:1]
    meaning = Meaning.BELOW if censor in ("<", "≤") else Meaning.ABOVE if censor in (">", "≥") else Meaning.NUMBER
    return TypedNumber(text, meaning, value, (match["unit"] or "").strip())


def parse_numbers(cells: Sequence[str], decimal: Decimal = ".") -> tuple[TypedNumber, ...]:
    """A column of cells, each as `parse_number` reads it; plain numbers and empty cells by the thousand."""
    if "\n" not in "".join(cells) and _COLUMN[decimal].fullmatch("\n".join(cells)):
        number = Meaning.NUMBER
        plain = cells if decimal == "." else [cell.replace(",", ".") for cell in cells]
        if not all(cells):
            read = zip(cells, plain, strict=True)
            return tuple(TypedNumber(cell, number, float(text)) if cell else _EMPTY for cell, text in read)
        return tuple(map(TypedNumber._make, zip(cells, repeat(number), map(float, plain), repeat(""), strict=False)))
    # A word that ends in a digit, such as "Sample 12", is neither a number nor a word with a meaning.
    known = {
        cell: TypedNumber(cell, Meaning.TEXT)
        if cell[:1].isalpha() and cell[-1].isdigit()
        else parse_number(cell, decimal)
        for cell in set(cells)
    }
    return tuple(known[cell] for cell in cells)


def _value(number: str, exponent: str | None, decimal: Decimal) -> float | None:
    compact = re.sub(r"^([+-])\s", r"\1", number)
    if _GROUPED[decimal].match(compact):
        compact = re.sub(r"[\s'’" + ("," if decimal == "." else ".") + "]", "", compact)
    elif not _PLAIN[decimal].match(compact):
        return None
    power = exponent.translate(_SUPERSCRIPTS) if exponent else "0"
    value = float(f"{compact.replace(',', '.')}e{power}")
    if value == 0 and any(digit in compact for digit in "123456789"):
        return None  # too small to be held is not nothing
    return value if abs(value) <= LARGEST else None


def guess_decimal(cells: list[str]) -> Decimal:
    """The decimal sign a table uses, from all its cells; a point where nothing decides.

    A sign decides when it stands before anything but exactly three digits ("0,38"), or when both stand in one
    number and it is the last of the two ("1.234,5").
    """
    votes = {".": 0, ",": 0}
    for cell in cells:
        match = re.match(r"^\s*[<>≤≥]?\s*[+−–-]?\s*(\d[\d.,]*|[.,]\d+)", cell)
        if match is None:
            continue
        number = match[1].rstrip(".,")
        last = max(number.rfind("."), number.rfind(","))
        if last < 0:
            continue
        sign, other = (".", ",") if number[last] == "." else (",", ".")
        if other in number or (number.count(sign) == 1 and (len(number) - last != 4 or number[:last] in ("", "0"))):
            votes[sign] += 1
    return "," if votes[","] > votes["."] else "."

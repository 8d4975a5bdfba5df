"""The light notation of a figure's words: x^2, mL^-1, H_2O, *italic*, **bold**, \\alpha; into pieces to be set.

What makes no sense as notation stands as it was typed, so that nothing is lost.
"""

import re
from dataclasses import dataclass
from typing import Literal

Level = Literal["line", "up", "down"]


@dataclass(frozen=True)
class Piece:
    """A stretch of text in one face; `level` : on the line, raised or lowered."""

    text: str
    italic: bool = False
    bold: bool = False
    level: Level = "line"


GREEK = {
    "alpha": "α", "beta": "β", "gamma": "γ", "delta": "δ", "epsilon": "ε", "zeta": "ζ", "eta": "η", "theta": "θ",
    "iota": "ι", "kappa": "κ", "lambda": "λ", "mu": "µ", "nu": "ν", "xi": "ξ", "pi": "π", "rho": "ρ", "sigma": "σ",
    "tau": "τ", "upsilon": "υ", "phi": "φ", "chi": "χ", "psi": "ψ", "omega": "ω", "Gamma": "Γ", "Delta": "Δ",
    "Theta": "Θ", "Lambda": "Λ", "Xi": "Ξ", "Pi": "Π", "Sigma": "Σ", "Phi": "Φ", "Psi": "Ψ", "Omega": "Ω",
    "degree": "°", "pm": "±", "times": "×", "cdot": "·", "ge": "≥", "le": "≤", "approx": "≈", "infinity": "∞",
}  # fmt: skip
_GREEK = re.compile(r"\\([A-Za-z]+)")
_ESCAPED = re.compile(r"\\([\\^_*{}])")
# After ^ a number with its signs, a sign or a letter; after _ a number or small letters; in braces anything.
_UP = re.compile(r"\^(?:\{([^{}]*)\}|([-−+]?\d+(?:\.\d+)?[-−+]?|[-−+*]|[A-Za-zα-ω′]))")
_DOWN = re.compile(r"_(?:\{([^{}]*)\}|(\d+(?:\.\d+)?|[a-z]+|[A-Z]))")
_STYLES = re.compile(r"(\*\*|\*)(?=\S)(.+?)(?<=\S)\1(?!\*)", re.DOTALL)
_HIDDEN = {char: chr(0xE000 + i) for i, char in enumerate("\\^_*{}")}  # what was escaped, out of the notation's way
_SHOWN = str.maketrans({hidden: char for char, hidden in _HIDDEN.items()})


def pieces(text: str) -> tuple[Piece, ...]:
    """What is to be set, in order; line breaks become spaces.

    >>> [(each.text, each.level) for each in pieces("mL^-1")]
    [('mL', 'line'), ('−1', 'up')]
    """
    text = "".join(char if char.isprintable() else " " for char in text)
    text = _ESCAPED.sub(lambda found: _HIDDEN[found[1]], text)
    text = _GREEK.sub(lambda found: GREEK.get(found[1], found[0]), text)
    return tuple(_joined(_styled(text, italic=False, bold=False)))


def literal(text: str) -> str:
    """A text that has no notation, such as a name out of the data, so that it is set as it stands."""
    return re.sub(r"([\\^_*{}])", r"\\\1", text)


def plain(text: str) -> str:
    """The text without its notation, for a screen reader and a file's name."""
    return "".join(piece.text for piece in pieces(text))


def _styled(text: str, *, italic: bool, bold: bool) -> list[Piece]:
    made, at = [], 0
    for found in _STYLES.finditer(text):
        made += _leveled(text[at : found.start()], italic=italic, bold=bold)
        strong = found[1] == "**"
        made += _styled(found[2], italic=italic or not strong, bold=bold or strong)
        at = found.end()
    return made + _leveled(text[at:], italic=italic, bold=bold)


def _leveled(text: str, *, italic: bool, bold: bool) -> list[Piece]:
    made: list[Piece] = []
    at = i = 0
    while i < len(text):
        # Neither begins a text, nor follows a space: a lone ^ or _ is itself.
        pattern = {"^": _UP, "_": _DOWN}.get(text[i]) if (i and not text[i - 1].isspace()) or text[i] == "^" else None
        found = pattern.match(text, i) if pattern else None
        if found is None:
            i += 1
            continue
        made.append(Piece(text[at:i], italic, bold))
        inner = found[1] if found[1] is not None else found[2]
        made.append(Piece(_minus(inner), italic, bold, "up" if text[i] == "^" else "down"))
        at = i = found.end()
    return [*made, Piece(text[at:], italic, bold)]


def _minus(text: str) -> str:
    return text.replace("-", "−") if re.search(r"\d|^[-+]$", text) else text


def _joined(made: list[Piece]) -> list[Piece]:
    return [Piece(piece.text.translate(_SHOWN), piece.italic, piece.bold, piece.level) for piece in made if piece.text]

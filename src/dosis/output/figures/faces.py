"""The faces of figures, which ship with Dosis: metric-compatible with the sans and the serif that journals ask for.

Text is measured by the faces themselves, so that a figure is laid out before anything is drawn.
"""

from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import Literal

from matplotlib.font_manager import FontProperties, fontManager
from matplotlib.ft2font import FT2Font, LoadFlags

from dosis.output.figures.markup import Piece, pieces

Face = Literal["sans", "serif"]
NAMES: dict[Face, str] = {"sans": "LiberationSans", "serif": "LiberationSerif"}
FAMILIES: dict[Face, str] = {"sans": "Liberation Sans", "serif": "Liberation Serif"}
SMALL, UP, DOWN = 0.7, 0.36, 0.16  # of a raised or lowered piece: its size, and how far it is moved, of the text's size
ASCENT, DESCENT = 0.73, 0.21  # of a line of text, of its size
_MEASURED = 64.0  # points at which a text is measured


def _path(face: Face, *, bold: bool, italic: bool) -> str:
    style = {(False, False): "Regular", (True, False): "Bold", (False, True): "Italic", (True, True): "BoldItalic"}
    return str(files("dosis.output.figures") / "fonts" / f"{NAMES[face]}-{style[bold, italic]}.ttf")


@lru_cache(maxsize=16)
def font(face: Face, bold: bool = False, italic: bool = False) -> FontProperties:
    """A face as it is drawn; its family is known by name, so that text in an SVG stays text in that family."""
    path = _path(face, bold=bold, italic=italic)
    if not any(entry.fname == path for entry in fontManager.ttflist):
        fontManager.addfont(path)
        fontManager.ttflist.insert(0, fontManager.ttflist.pop())  # before one of the machine's of the same name
    style: Literal["italic", "normal"] = "italic" if italic else "normal"
    # What a face lacks is taken from one that comes with the drawing library.
    return FontProperties(family=[FAMILIES[face], "DejaVu Sans"], weight="bold" if bold else "normal", style=style)


@lru_cache(maxsize=16)
def _measuring(face: Face, bold: bool, italic: bool) -> FT2Font:
    made = FT2Font(_path(face, bold=bold, italic=italic))
    made.set_size(_MEASURED, 72)
    return made


@lru_cache(maxsize=4096)
def width(text: str, size: float, face: Face, bold: bool = False, italic: bool = False) -> float:
    """Of a text without notation, in points."""
    measuring = _measuring(face, bold, italic)
    # What the face lacks is drawn in another, about as wide as an M.
    known = "".join(char if measuring.get_char_index(ord(char)) else "M" for char in text)
    measuring.set_text(known, 0.0, flags=LoadFlags.NO_HINTING)
    advance: float = measuring.get_width_height()[0] / 64
    return advance * size / _MEASURED


@dataclass(frozen=True)
class Set:
    """A piece where it stands: from the beginning of the text, and above its line, in points."""

    piece: Piece
    size: float
    along: float
    above: float


@dataclass(frozen=True)
class SetText:
    """A text set in one line: its pieces, and its width, ascent and descent in points."""

    pieces: tuple[Set, ...]
    width: float
    ascent: float
    descent: float


@lru_cache(maxsize=1024)
def set_text(text: str, size: float, face: Face) -> SetText:
    """A text in the light notation, set in a line."""
    along, made = 0.0, []
    top, bottom = ASCENT * size, DESCENT * size
    for piece in pieces(text):
        own, above = size, 0.0
        if piece.level != "line":
            own, above = SMALL * size, UP * size if piece.level == "up" else -DOWN * size
            top, bottom = max(top, above + ASCENT * own), max(bottom, DESCENT * own - above)
        made.append(Set(piece, own, along, above))
        along += advance(piece.text, own, face, piece.bold, piece.italic)
    return SetText(tuple(made), along, top, bottom)


def advance(text: str, size: float, face: Face, bold: bool, italic: bool) -> float:
    """How far a text moves on what follows it, with the spaces at its ends, which are measured as nothing."""
    rim = width("||", size, face, bold, italic)
    return width(f"|{text}|", size, face, bold, italic) - rim


def broken(text: str, size: float, face: Face, room: float, most: int = 4) -> tuple[str, ...]:
    """A text in lines that fit into so many points; what needs more than `most` lines is cut with "…"."""
    words, lines = text.split(), [""]
    for word in words:
        longer = f"{lines[-1]} {word}".strip()
        if set_text(longer, size, face).width <= room or not lines[-1]:
            lines[-1] = longer
        else:
            lines.append(word)
    cut = [_cut(line, size, face, room) for line in lines[:most]]
    if len(lines) > most:
        cut[-1] = _cut(cut[-1] + " …", size, face, room) if not cut[-1].endswith("…") else cut[-1]
    return tuple(cut)


def _cut(line: str, size: float, face: Face, room: float) -> str:
    if set_text(line, size, face).width <= room:
        return line
    low, high = 0, len(line)
    while low < high:
        middle = (low + high + 1) // 2
        if set_text(line[:middle] + "…", size, face).width <= room:
            low = middle
        else:
            high = middle - 1
    return line[:low] + "…"

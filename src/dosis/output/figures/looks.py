"""Colors, markers and dashes of series: told apart in color by any eyes, and in gray print by their shapes."""

from dataclasses import dataclass
from itertools import cycle, islice

from dosis.run.look import Dash, Marker, Series

# Sequences that stay apart under every common color blindness: the first after Okabe & Ito (2008), tuned to white
# paper; the second after Paul Tol's "muted" set (2021). "order" runs from dark to light in one hue.
CLEAR = ("#1c5f9e", "#c2500a", "#17724f", "#87226a", "#8a6d00", "#3a8fc7", "#5b5f6b", "#b0301c")
DEEP = ("#332288", "#117733", "#882255", "#44aa99", "#999933", "#aa4499", "#cc6677", "#88ccee")
GRAY = ("#000000", "#5a5a5a", "#8c8c8c", "#2e2e2e", "#707070", "#a5a5a5")
DARK, LIGHT = (0x3D, 0x0B, 0x30), (0xDD, 0xA3, 0xCB)  # the ends of "order"

MARKERS: dict[Marker, str] = {
    "circle": "o", "square": "s", "triangle": "^", "diamond": "D", "down": "v", "cross": "X", "plus": "P", "star": "*",
}  # fmt: skip
DASHES: dict[Dash, tuple[float, tuple[float, ...] | None]] = {
    "solid": (0, None), "dashed": (0, (5, 2)), "dotted": (0, (1, 1.6)), "dashdot": (0, (6, 2, 1, 2)),
}  # fmt: skip
SHAPES: tuple[Marker, ...] = ("circle", "square", "triangle", "diamond", "down", "cross", "plus", "star")
STROKES: tuple[Dash, ...] = ("solid", "dashed", "dashdot", "dotted")


@dataclass(frozen=True)
class Look:
    """How one series is drawn."""

    color: str
    marker: str
    dash: tuple[float, tuple[float, ...] | None]


def looks_of(keys: list[str], series: Series) -> dict[str, Look]:
    """The look of every series, in their order: each differs in color, marker and line from its neighbors."""
    count = len(keys)
    colors = list(islice(cycle(_sequence(series.palette, count)), count))
    made = {}
    for i, key in enumerate(keys):
        own = series.of(key)
        marker = own.marker or SHAPES[i % len(SHAPES)]
        # In a sequence from dark to light all lines are whole: their order tells them apart.
        dash = own.dash or ("solid" if series.palette == "order" or count == 1 else STROKES[i % len(STROKES)])
        made[key] = Look(own.color or colors[i], MARKERS[marker], DASHES[dash])
    return made


def _sequence(palette: str, count: int) -> tuple[str, ...]:
    if palette != "order":
        return {"clear": CLEAR, "deep": DEEP, "gray": GRAY}[palette]
    part = [i / max(count - 1, 1) for i in range(count)]
    mixed = [[round(a + (b - a) * at) for a, b in zip(DARK, LIGHT, strict=True)] for at in part]
    return tuple("#{:02x}{:02x}{:02x}".format(*rgb) for rgb in mixed)

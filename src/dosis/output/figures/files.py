"""Figures as files: exactly the millimeters and dots per inch that were asked for, with their faces embedded."""

import io
import re
import warnings
from typing import Any, Literal

import matplotlib as mpl
import numpy as np
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.backends.backend_pdf import FigureCanvasPdf
from matplotlib.backends.backend_svg import FigureCanvasSVG
from PIL import Image

from dosis.output.figures.canvas import Canvas
from dosis.output.figures.faces import FAMILIES
from dosis.run.look import FigureLook

File = Literal["svg", "pdf", "png", "tiff"]
MEDIA: dict[File, str] = {
    "svg": "image/svg+xml", "pdf": "application/pdf", "png": "image/png", "tiff": "image/tiff",
}  # fmt: skip
BESIDE = {"sans": "Arial, Helvetica, sans-serif", "serif": "'Times New Roman', Times, serif"}  # of the same metrics
MOST_PIXELS = 180_000_000  # of which a picture takes half a gigabyte while it is made


class TooLarge(ValueError):
    """A picture of more dots than can be made; the message says what to do."""


def written(canvas: Canvas, look: FigureLook, kind: File, *, alt: str, outlines: bool = False) -> bytes:
    """The file.

    Raises
    ------
    TooLarge : when it would have more dots than fit into memory.
    """
    settings: Any = {
        "svg.fonttype": "path" if outlines else "none",
        "pdf.fonttype": 42,
        "svg.hashsalt": "dosis",
        "text.hinting": "no_hinting",
    }  # text takes the room that was measured, at any size
    with warnings.catch_warnings(), mpl.rc_context(settings):
        warnings.filterwarnings("ignore", message="Glyph .* missing")  # drawn as a box, in whichever face
        if kind == "svg":
            return _svg(canvas, look, alt)
        if kind == "pdf":
            return _pdf(canvas, alt)
        return _picture(canvas, look, kind)


def pixels(look: FigureLook) -> tuple[int, int]:
    """Of a picture, across and down."""
    width, height = look.paper.size
    return round(width / 25.4 * look.paper.dpi), round(height / 25.4 * look.paper.dpi)


def _svg(canvas: Canvas, look: FigureLook, alt: str) -> bytes:
    made = io.BytesIO()
    FigureCanvasSVG(canvas.figure)
    canvas.figure.savefig(made, format="svg", metadata={"Date": None, "Creator": "Dosis", "Description": alt or None})
    # Without the address of a definition that some programs would fetch.
    text = re.sub(r"<!DOCTYPE[^>]*>\s*", "", made.getvalue().decode(), count=1)
    width, height = look.paper.size
    text = re.sub(r'(<svg [^>]*?)height="[^"]*"', rf'\g<1>height="{height:g}mm"', text, count=1, flags=re.DOTALL)
    text = re.sub(r'(<svg [^>]*?)width="[^"]*"', rf'\g<1>width="{width:g}mm"', text, count=1, flags=re.DOTALL)
    face = look.words.face
    return text.replace(f"'{FAMILIES[face]}'", f"'{FAMILIES[face]}', {BESIDE[face]}").encode()


def _pdf(canvas: Canvas, alt: str) -> bytes:
    made = io.BytesIO()
    FigureCanvasPdf(canvas.figure)
    canvas.figure.savefig(
        made, format="pdf", metadata={"CreationDate": None, "Creator": "Dosis", "Subject": alt or None}
    )
    return made.getvalue()


def _picture(canvas: Canvas, look: FigureLook, kind: File) -> bytes:
    across, down = pixels(look)
    if across * down > MOST_PIXELS:
        raise TooLarge(
            f"At {look.paper.dpi} dpi this figure would have {across:,} × {down:,} dots, more than can be made. "
            "Choose fewer dots per inch or smaller paper, or save it as PDF, which has none."
        )
    figure = canvas.figure
    figure.set_dpi(look.paper.dpi)
    figure.set_size_inches(across / look.paper.dpi, down / look.paper.dpi)
    agg: Any = FigureCanvasAgg(figure)
    agg.draw()
    image = Image.fromarray(np.asarray(agg.buffer_rgba()))
    if image.size != (across, down):
        image = image.resize((across, down))
    if look.paper.background == "white":
        image = image.convert("RGB")
    if look.series.palette == "gray" and look.paper.background == "white":
        image = image.convert("L")
    made, dpi = io.BytesIO(), (look.paper.dpi, look.paper.dpi)
    if kind == "png":
        image.save(made, "PNG", dpi=dpi)
    else:
        image.save(made, "TIFF", dpi=dpi, compression="tiff_lzw")
    return made.getvalue()

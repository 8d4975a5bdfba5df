"""The figure of a fit made in Python, drawn by the same renderer as the figures of runs."""

import numpy as np

from dosis.core.arrays import geometric
from dosis.core.inference.result import Fit
from dosis.core.rounding import significant
from dosis.output.figures.content import Content, Dot, Trace, equation_of
from dosis.output.figures.figure import Figure
from dosis.output.figures.unit_setting import set_title
from dosis.run.look import FigureLook, Paper, Words

GRID = 200  # places of the curve
DECADES = 25.0  # highest over lowest x from which a model of positive x is shown on a log axis


def figure_of_fit(
    fit: Fit, *, x: str = "x", y: str = "y", title: str = "", width: float = 130, height: float = 90,
    look: FigureLook | None = None,
) -> Figure:  # fmt: skip
    """Points and curve of a fit.

    Parameters
    ----------
    fit : as `dosis.core.fit` returns it.
    x, y, title : in the light notation; units after a slash or in brackets are set.
    width, height : of the paper in mm, 20 to 1200.
    look : every other choice; its words and paper count before those given here.

    Examples
    --------
    >>> from dosis.core import fit
    >>> fit("line", [1, 2, 3, 4], [0.11, 0.2, 0.31, 0.39]).figure(x="Phosphate / uM").file("pdf")[:5]
    b'%PDF-'
    """
    if look is None:
        paper = Paper(purpose="one_and_a_half", width=width, height=height)
        look = FigureLook(words=Words(title=title, x=x, y=y), paper=paper)
    low, high = float(np.min(fit.x)), float(np.max(fit.x))
    above = fit.x[fit.x > 0]
    log = fit.model.positive_x and above.size > 1 and float(above.max()) > DECADES * float(above.min())
    grid = geometric(float(above.min()), high, GRID) if log else np.linspace(low, high, GRID)
    bands = fit.bands(grid)
    line = fit.predict(grid) if bands is None else bands[0]
    there = np.isfinite(line)
    band = () if bands is None else tuple(
        zip(grid[there].tolist(), bands[1][there].tolist(), bands[2][there].tolist(), strict=True)
    )  # fmt: skip
    trace = Trace(
        key="", name="", dots=tuple(Dot(a, b) for a, b in zip(fit.x.tolist(), fit.y.tolist(), strict=True)),
        line=tuple(zip(grid[there].tolist(), line[there].tolist(), strict=True)), band=band, count=int(fit.x.size),
        equation=equation_of(fit.model.equation, fit.named, look.notes.digits),
        r_squared="" if fit.r_squared is None else significant(fit.r_squared, 5),
    )  # fmt: skip
    content = Content((trace,), set_title(x), set_title(y), log)
    return Figure((content,), look, f"{y} against {x}, with {fit.model.name.lower()}.")

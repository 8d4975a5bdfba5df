"""Reports as PDF and as one self-contained HTML file, from the same template."""

from collections.abc import Sequence
from datetime import datetime
from importlib.metadata import version
from importlib.resources import files
from pathlib import Path

import matplotlib
from jinja2 import Environment, PackageLoader, StrictUndefined

from dosis import __version__
from dosis.output.reports.pages import page_of
from dosis.output.reports.subject import SECTIONS, ReportedRun, Wanted

COMPUTING = ("numpy", "scipy", "numba")


def as_html(
    runs: Sequence[ReportedRun], wanted: Wanted, *, title: str, author: str, made_at: datetime, page: bool = True,
    outlines: bool = True,
) -> str:  # fmt: skip
    """The report of a run, or of a study's runs with a contents page.

    page : whether it stands by itself, as a file; otherwise its styles and body alone, to be shown within a page.
    outlines : whether letters of figures are shapes, as they must be where our faces are not at hand.
    """
    template = environment().get_template("report.html")
    pages = [page_of(run, wanted, f"run-{i}", outlines=outlines) for i, run in enumerate(runs, start=1)]
    return template.render(
        pages=pages, title=title, author=author, made_at=f"{made_at:%Y-%m-%d %H:%M} UTC", wanted=wanted, style=style(),
        paper=wanted.paper,
        sections=SECTIONS, version=__version__, whole=page,
        computing=", ".join(f"{name} {version(name)}" for name in COMPUTING),
    )  # fmt: skip


def as_pdf(
    runs: Sequence[ReportedRun], wanted: Wanted, *, title: str, author: str, made_at: datetime
) -> bytes:  # fmt: skip
    """The same as PDF: tagged, its faces embedded, with numbered pages."""
    return pdf_of(as_html(runs, wanted, title=title, author=author, made_at=made_at, outlines=False))


def style() -> str:
    """How all reports look."""
    return (files("dosis.output.reports") / "templates" / "report.css").read_text("utf-8")


def pdf_of(text: str) -> bytes:
    """HTML as PDF: tagged, our faces embedded, and nothing fetched."""
    from weasyprint import CSS, HTML, URLFetcher  # takes most of a second to import
    from weasyprint.text.fonts import FontConfiguration

    fonts = FontConfiguration()
    faces = CSS(string=_faces(), font_config=fonts, base_url=str(files("dosis.output.figures") / "fonts") + "/")
    # What a report shows is within it: nothing is fetched because a name in it says so.
    within = URLFetcher(allowed_protocols=("data",))
    made: bytes = HTML(string=text, base_url="data:", url_fetcher=within).write_pdf(
        stylesheets=[faces], font_config=fonts, pdf_variant="pdf/ua-1"
    )
    return made


def _faces() -> str:
    """Our faces, and one that has what they lack, such as a raised minus."""
    other = Path(matplotlib.get_data_path()) / "fonts" / "ttf" / "DejaVuSans.ttf"
    made = [f'@font-face {{ font-family: "DejaVu Sans"; src: url("{other.as_uri()}"); }}']
    for family, name in (("Liberation Sans", "LiberationSans"), ("Liberation Serif", "LiberationSerif")):
        for style, weight, slope in (
            ("Regular", 400, "normal"), ("Bold", 700, "normal"),
            ("Italic", 400, "italic"), ("BoldItalic", 700, "italic"),
        ):  # fmt: skip
            made.append(
                f'@font-face {{ font-family: "{family}"; src: url("{name}-{style}.ttf"); '
                f"font-weight: {weight}; font-style: {slope}; }}"
            )
    return "\n".join(made)


def environment() -> Environment:
    """What templates are filled in by."""
    loader = PackageLoader("dosis.output.reports", "templates")
    return Environment(loader=loader, autoescape=True, undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True)

"""Figures and reports from the command line: of files, without a server, or of a run of the server that is running."""

import hashlib
import re
import urllib.error
from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, get_args

from pydantic import ValidationError

from dosis import __version__
from dosis.from_files import Refused, WorkedOut, work_out
from dosis.output.figures.content import Shown
from dosis.output.figures.figure import figure_of
from dosis.output.figures.files import File
from dosis.output.reports.report import as_html, as_pdf
from dosis.output.reports.subject import ReportedRun, Wanted
from dosis.run.look import FigureLook
from dosis.served import address, served
from dosis.settings import Settings

_LENGTH = re.compile(r"([0-9]+(?:[.,][0-9]+)?)\s*(mm|cm|in)?", re.IGNORECASE)
_IN_MM = {"mm": 1.0, "cm": 10.0, "in": 25.4}


def millimeters(text: str) -> float:
    """ "85mm", "8.5 cm", "3.35in" or "85" in mm. Raises Refused."""
    found = _LENGTH.fullmatch(text.strip())
    if not found:
        raise Refused(f"“{text}” is not a length; type it as 85mm, 8.5cm or 3.35in.")
    return float(found[1].replace(",", ".")) * _IN_MM[(found[2] or "mm").lower()]


def draw_files(
    what: Sequence[str], out: Path, *, dpi: int = 300, width: str | None = None, height: str | None = None,
    look: Path | None = None, question: str | None = None, model: str | None = None,
) -> list[str]:  # fmt: skip
    """The figure of files, or of a run of the server, written to `out`; what there is to know of it.

    Raises
    ------
    Refused : for a kind of file, a size or a look that there is not, and for what cannot be read.
    """
    ending = out.suffix.removeprefix(".").lower()
    kind = "tiff" if ending == "tif" else ending
    if kind not in get_args(File):
        raise Refused(f"A figure is saved as .svg, .pdf, .png or .tiff, not as “{out.name}”.")
    if (run := _run(what)) is not None:
        if width or height or look or dpi != 300:
            raise Refused("The figure of a run has the size and look it has there; change them on its page.")
        out.write_bytes(_served(f"runs/{run}/figure.{kind}"))
        return []
    done, warned = _done(what, question, model)
    try:
        chosen: dict[str, Any] = (
            {} if look is None else FigureLook.model_validate_json(look.read_text("utf-8")).model_dump()
        )
        paper = {**chosen.get("paper", {}), "dpi": dpi}
        paper |= {side: millimeters(text) for side, text in (("width", width), ("height", height)) if text}
        used = FigureLook.model_validate({**chosen, "paper": paper})
    except (OSError, ValidationError) as error:
        why = error.errors()[0] if isinstance(error, ValidationError) else None
        raise Refused(str(error) if why is None else f"{'.'.join(map(str, why['loc']))}: {why['msg']}") from error
    figure = figure_of(Shown(_title(what), done.outcome, done.layout, done.readings), used)
    try:
        out.write_bytes(figure.file(kind))  # type: ignore[arg-type]
    except ValueError as error:
        raise Refused(str(error)) from error
    return [*warned, *figure.remarks()]


def report_files(
    what: Sequence[str], out: Path, *, question: str | None = None, model: str | None = None, paper: str = "A4"
) -> list[str]:  # fmt: skip
    """The report of files, or of a run of the server, written to `out` as PDF or HTML; what there is to know of it.

    Raises
    ------
    Refused : as `draw_files`.
    """
    form = out.suffix.removeprefix(".").lower()
    if form not in ("pdf", "html"):
        raise Refused(f"A report is saved as .pdf or .html, not as “{out.name}”.")
    if paper not in ("A4", "Letter"):
        raise Refused(f"The paper is A4 or Letter, not “{paper}”.")
    if (run := _run(what)) is not None:
        out.write_bytes(_served(f"runs/{run}/report.{form}?paper={paper}"))
        return []
    done, warned = _done(what, question, model)
    now, author = datetime.now(UTC), Settings().author
    rows = done.outcome.answers.rows[:1]
    reported = ReportedRun(
        title=_title(what), study="—", source_name=", ".join(Path(each).name for each in what),
        digest=hashlib.sha256(b"".join(Path(each).read_bytes() for each in what)).hexdigest(), opened_at=now,
        revision=1, author=author, at=now, program=__version__, readings=done.readings, layout=done.layout,
        method=done.method, outcome=done.outcome,
        working={row.name: done.outcome.working[row.group] for row in rows if row.group in done.outcome.working},
    )  # fmt: skip
    wanted, title = Wanted.model_validate({"paper": paper}), f"{reported.title} report"
    if form == "html":
        out.write_text(as_html([reported], wanted, title=title, author=author, made_at=now), "utf-8")
    else:
        out.write_bytes(as_pdf([reported], wanted, title=title, author=author, made_at=now))
    return warned


def _done(what: Sequence[str], question: str | None, model: str | None) -> tuple[WorkedOut, list[str]]:
    done, warned = work_out([Path(each) for each in what], question=question, model=model, whole=True)
    if done is None:
        raise Refused(" ".join(warned) or "These readings are not understood.")
    return done, warned


def _title(what: Sequence[str]) -> str:
    return Path(what[0]).stem


def _run(what: Sequence[str]) -> int | None:
    """The number of a run, where that is what was named and no file is called so."""
    return int(what[0]) if len(what) == 1 and what[0].isdigit() and not Path(what[0]).exists() else None


def _served(path: str) -> bytes:
    try:
        return served(path)
    except urllib.error.HTTPError as error:
        raise Refused(f"The server has no such run ({error.code}): {address()}/api/{path}") from error
    except OSError as error:
        at = address().removeprefix("http://")
        raise Refused(f"Dosis is not running at {at}. Start it with ./dosis serve, or name a file.") from error

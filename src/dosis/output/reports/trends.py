"""The trends of a method as a report: what is out of control, the summary for a validation, and every chart."""

from collections.abc import Sequence
from datetime import datetime
from importlib.metadata import version

from dosis import __version__
from dosis.output.reports.charts import chart
from dosis.output.reports.report import COMPUTING, environment, pdf_of, style
from dosis.run.record import Record
from dosis.run.trends import Trend, TrendSummary


class Reported(Record):
    """What is reported: the method, its runs by name, what is watched of them, and of which runs precision is."""

    method: str
    runs: tuple[str, ...]
    watched: tuple[Trend, ...]
    said: tuple[str, ...]
    summary: TrendSummary
    counted: int


def trends_html(found: Reported, *, author: str, made_at: datetime) -> str:
    """The report as one self-contained HTML file."""
    shown = [each for each in found.watched if _moves(each)]
    every = found.counted == len(found.runs)
    return environment().get_template("trends.html").render(
        title=f"{found.method}: trends", runs=[{"title": title} for title in found.runs], watched=shown,
        charts=[chart(each) for each in shown], said=found.said, summary=found.summary, author=author, paper="A4",
        made_at=f"{made_at:%Y-%m-%d %H:%M} UTC", version=__version__, style=style(),
        counted="" if every else f"Of {found.counted} chosen runs.",
        computing=", ".join(f"{name} {version(name)}" for name in COMPUTING),
    )  # fmt: skip


def trends_pdf(found: Reported, *, author: str, made_at: datetime) -> bytes:
    """The same as PDF."""
    return pdf_of(trends_html(found, author=author, made_at=made_at))


def _moves(trend: Trend) -> bool:
    """What never changes is no trend; it stands in the summary."""
    values: Sequence[float] = [point.value for point in trend.points]
    return bool(trend.signals) or any(value != values[0] for value in values)

"""The numbers behind a figure as a table, at full precision: what is drawn, and nothing else."""

import csv
import io

from dosis.output.figures.figure import Figure
from dosis.output.figures.markup import plain

HEADINGS = ("panel", "series", "part", "x", "y", "low", "high")


def as_csv(figure: Figure) -> bytes:
    """One row for each point, and for each place of a line; UTF-8 with its mark, as spreadsheets want it."""
    made = io.StringIO()
    rows = csv.writer(made, lineterminator="\r\n")
    rows.writerow(HEADINGS)
    for i, content in enumerate(figure.contents, start=1):
        rows.writerow([i, "", "axis titles", plain(content.x), plain(content.y), "", ""])
        for trace in content.traces:
            name = plain(trace.name)
            for dot in trace.dots:
                part = "excluded point" if dot.excluded else "point"
                rows.writerow([i, name, part, *map(_full, (dot.x, dot.y, dot.low, dot.high))])
            band = {x: (low, high) for x, low, high in trace.band}
            for x, y in trace.line:
                rows.writerow([i, name, "line", *map(_full, (x, y, *band.get(x, (None, None))))])
    return made.getvalue().encode("utf-8-sig")


def _full(value: float | None) -> str:
    return "" if value is None else repr(float(value))

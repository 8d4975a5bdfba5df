"""Pasted tables that several tests use."""

from dosis.run.wells import row_letters, well_name
from tests.conftest import reference

PHOSPHATE = """Sample\tConc\tA880 rep 1\tA880 rep 2\tDil\tNote
Blank\t0\t0.021\t0.019\t\t
Std 1\t0.5 µM\t0.038\t0.040\t\t
Std 2\t1 µM\t0.057\t0.060\t\t
Std 3\t2.5 µM\t0.112\t0.109\t\t
Std 4\t5 µM\t0.204\t0.208\t\t
Std 5\t10 µM\t0.391\t0.386\t\t
Pier N\t\t0.143\t0.147\t× 5\t
Marsh 2\t\tOVER\t0.302\t× 2\trecheck
QC low\t2 µM\t0.094\t0.096\t\t
"""


def fluorescein_table() -> str:
    """Miller & Miller's fluorescein standards with their three unknowns, as a person would paste them."""
    data = reference("cal_linear_fluorescein")
    rows = ["Name\tConc (pg/mL)\tFluorescence"]
    rows += [f"Std\t{x}\t{y}" for x, y in zip(data["data"]["x"], data["data"]["y"], strict=True)]
    rows += [f"Unknown {y0}\t\t{y0}" for y0 in (2.9, 13.5, 23.0)]
    return "\n".join(rows)


def plate_text(rows: int, columns: int, empty: tuple[str, ...] = (), title: str = "") -> str:
    """A plate grid with headings, as a reader prints it; every well has its own number, falling along the plate."""
    lines = [title] if title else []
    lines.append("\t".join(["", *(str(c + 1) for c in range(columns))]))
    for r in range(rows):
        cells = [
            "" if well_name(r, c) in empty else f"{2 - (r * columns + c) / (rows * columns):.4f}"
            for c in range(columns)
        ]
        lines.append("\t".join([row_letters(r), *cells]))
    return "\n".join(lines)


# Five readings: the smallest table that has an answer.
SMALL = "Level\tReading\n0\t0.05\n1\t0.26\n2\t0.45\n4\t0.86\nUnknown\t0.5\n"

"""JCAMP-DX spectra (McDonald & Wilks 1988, Appl. Spectrosc. 42, 151): plain and compressed numbers, blocks, ntuples."""

import re
from dataclasses import dataclass, field

from dosis.intake.side_by_side import on_one_axis
from dosis.intake.text import Grid, IntakeError

_LABEL = re.compile(r"^\s*##\s*([^=]*)=(.*)$")
_COMMENT = re.compile(r"\$\$.*$")
# An exponent has a sign, because a letter E alone is the digit 5 of the squeezed form.
_TOKEN = re.compile(r"([@A-Ia-i%J-Rj-rS-Zs]|[+-])?\s*(\d*\.?\d*(?:[eE][+-]\d+)?)")
SQUEEZED = {c: str(i) for i, c in enumerate("@ABCDEFGHI")} | {c: f"-{i}" for i, c in enumerate("abcdefghi", start=1)}
DIFFERENCE = {c: str(i) for i, c in enumerate("%JKLMNOPQR")} | {c: f"-{i}" for i, c in enumerate("jklmnopqr", start=1)}
REPEATED = {c: str(i) for i, c in enumerate("STUVWXYZs", start=1)}
AXES = {
    "1/CM": "Wavenumber (1/cm)", "CM-1": "Wavenumber (1/cm)", "NANOMETERS": "Wavelength (nm)",
    "NM": "Wavelength (nm)", "MICROMETERS": "Wavelength (µm)", "SECONDS": "Time (s)", "MINUTES": "Time (min)",
    "HZ": "Frequency (Hz)", "PPM": "Shift (ppm)", "M/Z": "m/z",
}  # fmt: skip
PAGES = {"SECONDS": "s", "MINUTES": "min", "HOURS": "h"}
CLOSE = 1e-6  # share of the range by which two x axes may differ that are one


@dataclass
class Spectrum:
    """One spectrum: its title, axis, and numbers; `told` is how many it says to have."""

    title: str
    axis: str
    signal: str
    x: list[float] = field(default_factory=list)
    y: list[float] = field(default_factory=list)
    told: int | None = None


def is_jcamp(text: str) -> bool:
    """Whether a text begins as such a file does."""
    return bool(re.match(r"^\s*##\s*TITLE\s*=", text, re.IGNORECASE))


def jcamp_grid(text: str) -> Grid:
    """Spectra as a table: x and a column for each of them, with gaps where their places differ.

    Raises
    ------
    IntakeError : where there is no data in it, their axes are of different kinds, or a line cannot be read.
    """
    found = [each for each in _spectra(text) if each.x]
    if not found:
        raise IntakeError("This JCAMP-DX file has no table of data that Dosis reads (XYDATA, XYPOINTS or NTUPLES).")
    notes = [
        [f"“{each.title}” says {each.told:,} points and has {len(each.x):,}."]
        for each in found if each.told is not None and each.told != len(each.x)
    ]  # fmt: skip
    first = found[0]
    if first.signal and all(each.signal == first.signal for each in found):
        notes.append([first.signal])
    if all(_same_axis(first, each) for each in found):
        rows = [[_text(x), *(_text(each.y[i]) for each in found)] for i, x in enumerate(first.x)]
        return [*notes, [first.axis, *_names(found)], *rows]
    scans = [[[_text(x), _text(y)] for x, y in zip(each.x, each.y, strict=False)] for each in found]
    if len({each.axis for each in found}) > 1:
        raise IntakeError(
            f"The spectra of this JCAMP-DX file are not along one axis ({', '.join(sorted({e.axis for e in found}))}). "
            "Bring them in one file each."
        )
    return [*notes, [first.axis, *_names(found)], *on_one_axis(scans)]


def decode(lines: list[str]) -> tuple[list[float], list[float]]:
    """The x that each line begins with, and all ordinates in turn, of a table (X++(Y..Y)) in any of its forms.

    Example: ``decode(["1000@VKT%"])[1] == [0, 0, 0, 0, 2, 4, 4]``.
    """
    starts: list[float] = []
    y: list[float] = []
    step: float | None = None  # of the last ordinate, where it was written as a difference
    for line in lines:
        tokens = [m for m in _TOKEN.findall(line) if any(m)]
        first = True
        checked = step is not None  # after differences, the first ordinate of a line repeats the last
        for letter, digits in tokens:
            if first:
                starts.append(float(f"{SQUEEZED.get(letter, letter)}{digits}"))
                first = False
                continue
            if letter in REPEATED:
                times = int(REPEATED[letter] + digits) - 1
                for _ in range(times):
                    y.append(y[-1] + (step or 0.0))
                continue
            if letter in DIFFERENCE:
                step = float(DIFFERENCE[letter] + digits)
                y.append(y[-1] + step)
                checked = False
                continue
            value = float(f"{SQUEEZED.get(letter, letter)}{digits}")
            step = None
            if checked and y:
                checked = False
                if value != y[-1]:
                    raise IntakeError(
                        f"The line that begins with {starts[-1]:g} does not go on where the one before ends ({value:g} "
                        f"after {y[-1]:g}); the file is damaged."
                    )
                continue
            y.append(value)
    return starts, y


def _spectra(text: str) -> list[Spectrum]:
    found: list[Spectrum] = []
    labels: dict[str, str] = {}
    label, body = "", list[str]()

    def close() -> None:
        if label in ("XYDATA", "XYPOINTS", "PEAKTABLE", "DATATABLE"):
            found.append(_spectrum(labels, label, body))
        elif label == "TITLE":
            labels.clear()  # a block of its own begins
            labels["TITLE"] = " ".join(body).strip()
        elif label:
            labels[label] = "\n".join(body).strip()

    for raw in text.splitlines():
        line = _COMMENT.sub("", raw).rstrip()
        match = _LABEL.match(line)
        if match:
            close()
            label = re.sub(r"[\s/_-]", "", match[1]).upper()
            body = [match[2].strip()]
        elif line.strip():
            body.append(line.strip())
    close()
    return found


def _spectrum(labels: dict[str, str], kind: str, body: list[str]) -> Spectrum:
    form, lines = body[0], body[1:]
    x_at, y_at = 0, 1
    if kind == "DATATABLE":
        symbols = [each.strip() for each in labels.get("SYMBOL", "X,Y").split(",")]
        names = re.findall(r"[A-Za-z]\w*", form)
        x_at = symbols.index(names[0]) if names and names[0] in symbols else 0
        y_at = symbols.index(names[1]) if len(names) > 1 and names[1] in symbols else min(1, len(symbols) - 1)
    units = _of_variable(labels, "UNITS", x_at, labels.get("XUNITS", "")).upper()
    signal = _of_variable(labels, "UNITS", y_at, labels.get("YUNITS", "")).capitalize()
    title = labels.get("TITLE", "")
    if page := labels.get("PAGE"):
        title = f"{title} {page} {_unit_of_page(labels, page)}".strip()
    made = Spectrum(title, AXES.get(units, units.capitalize() or "x"), signal)
    points = _of_variable(labels, "VARDIM", y_at, labels.get("NPOINTS", ""))
    made.told = int(float(points)) if _is_number(points) else None
    x_factor = _number(_of_variable(labels, "FACTOR", x_at, labels.get("XFACTOR", "")), 1.0)
    y_factor = _number(_of_variable(labels, "FACTOR", y_at, labels.get("YFACTOR", "")), 1.0)
    if "++" not in form:
        numbers = [float(n) for n in re.findall(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?", " ".join(lines))]
        made.x = [value * x_factor for value in numbers[::2]][: len(numbers) // 2]
        made.y = [value * y_factor for value in numbers[1::2]]
        return made
    try:
        starts, y = decode(lines)
    except (ValueError, IndexError) as error:
        said = str(error) if isinstance(error, IntakeError) else "a line of its table cannot be read"
        raise IntakeError(f"“{title}”: {said}.".replace("..", ".")) from error
    made.y = [value * y_factor for value in y]
    first = _number(
        _of_variable(labels, "FIRST", x_at, labels.get("FIRSTX", "")), starts[0] * x_factor if starts else 0
    )
    last = _of_variable(labels, "LAST", x_at, labels.get("LASTX", ""))
    step = _number(labels.get("DELTAX", ""), 1.0)
    if _is_number(last) and len(y) > 1:
        step = (float(last) - first) / (len(y) - 1)
    made.x = [first + i * step for i in range(len(y))]
    return made


def _unit_of_page(labels: dict[str, str], page: str) -> str:
    """The unit of what pages are told apart by, such as s of "T=60"."""
    symbols = [each.strip() for each in labels.get("SYMBOL", "").split(",")]
    symbol = page.partition("=")[0].strip()
    if symbol not in symbols:
        return ""
    return PAGES.get(_of_variable(labels, "UNITS", symbols.index(symbol), "").upper(), "")


def _of_variable(labels: dict[str, str], label: str, at: int, other: str) -> str:
    """What an ntuple says of its variable, or what the block says where it is none."""
    parts = [each.strip() for each in labels.get(label, "").split(",")]
    return parts[at] if at < len(parts) and parts[at] else other


def _same_axis(one: Spectrum, other: Spectrum) -> bool:
    if len(one.x) != len(other.x) or one.axis != other.axis:
        return False
    slack = CLOSE * (max(one.x) - min(one.x))
    return all(abs(a - b) <= slack for a, b in zip(one.x, other.x, strict=True))


def _names(found: list[Spectrum]) -> list[str]:
    titles = [each.title or each.signal or "y" for each in found]
    if len(set(titles)) == len(titles):
        return titles
    return [f"{title} {n}" for n, title in enumerate(titles, start=1)]


def _is_number(text: str) -> bool:
    return bool(re.fullmatch(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?", text.strip()))


def _number(text: str, other: float) -> float:
    return float(text) if _is_number(text) else other


def _text(value: float) -> str:
    return f"{value:.10g}"

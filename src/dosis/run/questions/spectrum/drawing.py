"""What is drawn of spectra: the scans, what is marked on them, and the curve of their change."""

import numpy as np

from dosis.core.arrays import Array
from dosis.core.models import MODELS as CURVES
from dosis.core.rounding import given
from dosis.run.curves.bands import with_bands
from dosis.run.curves.candidates import candidate, compared
from dosis.run.curves.fitted import listed_with
from dosis.run.curves.thinning import course_lines, seen, thinned
from dosis.run.layout import Quantity
from dosis.run.outcome.courses import CourseLine, CoursesWanted
from dosis.run.outcome.drawn import Candidate, Curve, Line, MeanPoint, Point, Span
from dosis.run.questions.spectrum.bench import Followed, Scan, SpectrumBench
from dosis.run.questions.spectrum.change import MODELS, NAMES
from dosis.run.questions.spectrum.part import ScanMarks, ScanPeak
from dosis.run.record import changed

DRAWN, BRIEF = 1_200, 40  # points of a line that is looked at, and of one of very many
LABELLED = 12  # peaks of a scan that are marked
LINE_POINTS = 96
BETTER = 2.0
NO_LEVEL = -1.0  # the place of a scan that has none where others do
NOTHING = Line((), (), (), ())


def draw_scans(bench: SpectrumBench, *, whole: bool) -> tuple[Curve, ...]:
    """A line for each scan; a run without scans has an empty one."""
    points = DRAWN if whole or not bench.many else 0
    made = tuple(_scan(bench, scan, points, brief=bench.many and not whole) for scan in bench.scans)
    return made or (_curve(bench, None, NOTHING, problem="There are no scans yet."),)


def draw_scan(bench: SpectrumBench, key: str) -> Curve | None:
    """The scan of that name; None where there is none."""
    scan = next((each for each in bench.scans if each.key == key), None)
    return None if scan is None else _scan(bench, scan, DRAWN, brief=False)


def _scan(bench: SpectrumBench, scan: Scan, points: int, *, brief: bool) -> Curve:
    x, y = bench.part(scan)
    if points == 0:
        return _curve(bench, scan, NOTHING, brief=brief)
    at = thinned(x, y, points)
    line = Line(tuple(x[at].tolist()), tuple(y[at].tolist()), (), ())
    return _curve(bench, scan, line, brief=brief, thinned=x.size > points)


def _curve(
    bench: SpectrumBench, scan: Scan | None, line: Line, *, brief: bool = False, thinned: bool = False,
    problem: str = "",
) -> Curve:  # fmt: skip
    return Curve(
        key=scan.key if scan else "", tag=f"s{scan.index}." if scan else "", reading=scan.id if scan else None,
        brief=brief, model="", name="Scan", equation="", with_numbers="", x_label=bench.axis.label,
        y_label=bench.quantity.label, parameters=(), candidates=(), statistics=(), points=(), samples=(), line=line,
        range=None, shown_range="", levels=(), thinned=thinned, problem=problem,
    )  # fmt: skip


def marks_of(bench: SpectrumBench) -> tuple[ScanMarks, ...]:
    """What is marked on every scan, with its place among the levels."""
    places = places_of(bench.scans)
    return tuple(_marks(bench, scan, place) for scan, place in zip(bench.scans, places, strict=True))


def places_of(scans: list[Scan]) -> list[float]:
    """Where each scan stands among the others, from 0 to 1: by the rank of its level, else by their order.

    A scan without a level among others that have one has none, and stands apart.
    """
    levels = sorted({scan.group.level for scan in scans if scan.group.level is not None})
    if len(levels) > 1:
        rank = {level: i / (len(levels) - 1) for i, level in enumerate(levels)}
        return [NO_LEVEL if scan.group.level is None else rank[scan.group.level] for scan in scans]
    return [scan.index / max(len(scans) - 1, 1) for scan in scans]


def _marks(bench: SpectrumBench, scan: Scan, place: float) -> ScanMarks:
    peaks: list[ScanPeak] = []
    if not bench.many and bench.peaks:
        top = bench.highest[scan.index]
        if top is not None:
            peaks.append(ScanPeak(top.wavelength, top.value, bench.shown_place(top.wavelength), highest=True))
        own = sorted(bench.peaks[scan.index], key=lambda peak: -peak.prominence)[:LABELLED]
        own += [peak for peak in bench.picked[scan.index] if peak is not None and peak not in own]
        for peak in own:
            if top is None or abs(peak.wavelength - top.wavelength) > bench.spacing / 2:
                peaks.append(ScanPeak(peak.wavelength, peak.value, bench.shown_place(peak.wavelength)))
    rest_x: tuple[float, ...] = ()
    rest_y: tuple[float, ...] = ()
    if (mixture := bench.mixtures.get(scan.index)) is not None and not bench.many:
        x = bench.x[bench.inside & np.isfinite(bench.s[scan.index])]
        at = thinned(x, mixture.rest, DRAWN // 2)
        rest_x, rest_y = tuple(x[at].tolist()), tuple(mixture.rest[at].tolist())
    return ScanMarks(scan.key, scan.id, scan.group.id, scan.group.role.value, place, tuple(peaks), rest_x, rest_y)


def draw_changes(bench: SpectrumBench) -> tuple[Curve, ...]:
    """The curves of what is followed against the levels, by series."""
    y = Quantity(name=bench.followed[:200], unit=bench.quantity.unit)
    return tuple(_change(bench, change, y) for change in bench.changes)


def _change(bench: SpectrumBench, change: Followed, y: Quantity) -> Curve:
    x = bench.layout.level
    xs, ys = np.array(change.x), np.array(change.y)
    result = change.fit
    fitted = result.predict(xs) if result is not None else np.full(xs.shape, np.nan)
    points = tuple(
        Point(scan.id, scan.group.id, a, b, b - f if np.isfinite(f) else None, "used")
        for scan, a, b, f in zip(change.scans, change.x, change.y, fitted.tolist(), strict=True)
    )
    found = _candidates(change)
    model = CURVES[MODELS[change.chosen]] if change.chosen else None
    curve = Curve(
        key=change.key, tag=change.tag, model=model.id if model else "",
        name=NAMES.get(change.chosen, ""), equation=model.equation if model else "", with_numbers="",
        x_label=x.label, y_label=y.label, parameters=(), candidates=found, comparison=compared(found, "scans", BETTER),
        statistics=(), points=points, samples=(), means=_means(change), line=_line(change, xs),
        range=None if result is None else Span(*result.range),
        shown_range="" if result is None else " – ".join(map(given, result.range)), levels=tuple(sorted(set(change.x))),
        rmse=None if result is None else result.rmse, problem="" if ys.size else change.problem,
    )  # fmt: skip
    return curve if result is None else changed(curve, **listed_with(bench, change.tag, result, x, y))


def _candidates(change: Followed) -> tuple[Candidate, ...]:
    made = [candidate(MODELS[order], fit, chosen=order == change.chosen) for order, fit in change.fits.items()]
    return tuple(changed(each, name=NAMES[order]) for each, order in zip(made, change.fits, strict=True))


def _means(change: Followed) -> tuple[MeanPoint, ...]:
    at: dict[float, list[float]] = {}
    for x, y in zip(change.x, change.y, strict=True):
        at.setdefault(x, []).append(y)
    return tuple(
        MeanPoint(x=x, y=float(np.mean(ys)), sd=float(np.std(ys, ddof=1)) if len(ys) > 1 else None)
        for x, ys in sorted(at.items())
    )


def _line(change: Followed, xs: Array) -> Line:
    if change.fit is None or not xs.size:
        return NOTHING
    grid = np.linspace(float(xs.min()), float(xs.max()), LINE_POINTS)
    with np.errstate(all="ignore"):
        y, bands = change.fit.predict(grid), change.fit.bands(grid)
    there = np.isfinite(y)
    return with_bands(grid[there].tolist(), y[there].tolist(), None if bands is None else bands[:, there])


def lines_of(bench: SpectrumBench, wanted: CoursesWanted) -> tuple[CourseLine, ...]:
    """The wanted scans as lines; as they stood before the wanted step, if any."""
    if bench.before is not None:
        x, y = bench.before
        y = y[[bench.row_of[scan.id] for scan in bench.scans]]
    else:
        x, y = bench.x, bench.s
    within = seen(x, wanted)
    some = [i for i, scan in enumerate(bench.scans) if wanted.key in ("", scan.key)]
    of = [(bench.scans[i].key, bench.scans[i].id) for i in some]
    return tuple(course_lines(of, x[within], y[some][:, within], wanted.points))

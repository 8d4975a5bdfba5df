"""Speed of the computation, as ratios against a general-purpose reference."""

import subprocess
import sys
import time
import warnings
from collections.abc import Callable
from functools import partial
from statistics import median

import numpy as np
from scipy import special
from scipy.optimize import curve_fit, least_squares
from scipy.stats import linregress

from bench.curves import logistic, made, mixed, wall
from bench.figures import Figure
from dosis.core import fit, fit_many, quantal
from dosis.demo import domoic_acid
from dosis.intake.understand import understand
from dosis.run.evaluate import evaluate
from dosis.run.method import default_method
from dosis.run.questions.registry import question_of
from dosis.web.workers import collect_seldom

ROUNDS = 60
MANY = 10_000


def table_of_96() -> str:
    """A pasted table of 96 readings: 2 blanks, 8 standards, 2 QCs and 20 samples, three readings each."""
    rng = np.random.default_rng(96)
    levels = [0.5, 1, 2, 4, 6, 8, 12, 16]
    rows = [(f"Blank {i}", "", 0.0) for i in (1, 2)]
    rows += [(f"Std {i}", f"{level} µM", level) for i, level in enumerate(levels, start=1)]
    rows += [("QC low", "3 µM", 3.0), ("QC high", "10 µM", 10.0)]
    rows += [(f"Sample {i}", "", float(rng.uniform(1, 15))) for i in range(1, 21)]
    lines = ["Sample\tConc\tA 1\tA 2\tA 3"]
    for name, level, true in rows:
        readings = 0.02 + 0.034 * true + rng.normal(0, 0.002, 3)
        lines.append("\t".join([name, level, *(f"{value:.4f}" for value in readings)]))
    return "\n".join(lines)


def evaluation() -> Figure:
    """evaluate() of a 96-reading run against scipy.stats.linregress on the same standards, interleaved.

    The target, ten times linregress plus 5 ms, is given as a multiple of linregress as measured here.
    """
    intake, method = understand(table_of_96()), default_method("concentration")
    if intake.readings is None or intake.layout is None:
        raise RuntimeError("The table of the benchmark is not understood.")
    readings, layout = intake.readings, intake.layout
    used = [(g.level, id) for g in layout.groups if g.role == "standard" for id in g.readings]
    value = readings.numbers
    x, y = [level for level, _ in used], [value[id] for _, id in used]
    ours, theirs = _interleaved(lambda: evaluate(readings, layout, method), lambda: linregress(x, y))
    return Figure(
        "evaluate() of 96 readings / one linregress", ours / theirs, "×", 10 + 5e-3 / theirs,
        f"(evaluate {1e3 * ours:.2f} ms, linregress {1e3 * theirs:.2f} ms; limit is 10 × plus 5 ms)",
    )  # fmt: skip


def plate_evaluation() -> Figure:
    """evaluate() of a 96-well four-parameter run, with intervals, against one bare curve_fit of the same curve."""
    collect_seldom()  # as where it is served
    intake, method = understand(domoic_acid.plate()), default_method("concentration")
    if intake.readings is None or intake.layout is None:
        raise RuntimeError("The plate of the demo is not understood.")
    readings, layout = intake.readings, intake.layout
    for change in domoic_acid.changes():
        layout, method = change.apply(readings, layout, method)
    used = [(g.level, id) for g in layout.groups if g.role == "standard" for id in g.readings]
    value = readings.numbers
    x, y = np.array([level for level, _ in used]), np.array([value[id] for _, id in used])
    start = [y.min(), y.max(), float(np.median(x)), 1.0]
    ours, theirs = _interleaved(
        lambda: evaluate(readings, layout, method), lambda: curve_fit(logistic, x, y, p0=start, maxfev=10_000)
    )
    note = f"(evaluate {1e3 * ours:.1f} ms, curve_fit {1e3 * theirs:.2f} ms)"
    return Figure("evaluate() of a 96-well 4-parameter run / one curve_fit", ours / theirs, "×", 6, note)


def wall_evaluation() -> Figure:
    """evaluate() of 2,000 series of 8 doses, against a loop of one bare curve_fit for each."""
    doses, series, text = wall()
    intake, method = understand(text), default_method("dose")
    if intake.readings is None or intake.layout is None:
        raise RuntimeError("The table of the benchmark is not understood.")
    readings, layout = intake.readings, question_of("dose").asked(intake.layout)
    collect_seldom()  # as where it is served
    evaluate(readings, layout, method)
    start = time.perf_counter()
    evaluate(readings, layout, method)
    ours = time.perf_counter() - start
    start = time.perf_counter()
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        for y in series[:200]:
            curve_fit(logistic, doses, y, p0=[y.min(), y.max(), 1.0, 1.0], maxfev=10_000)
    theirs = 10 * (time.perf_counter() - start)
    note = f"(evaluate {ours:.2f} s, curve_fit {theirs:.2f} s)"
    return Figure("evaluate() of a wall of 2,000 curves", ours, "s", 2, note)


def one_curve() -> Figure:
    """One four-parameter curve of 8 doses in triplicate with all its statistics, against default curve_fit."""
    x, regular, theirs = _regular(np.repeat(np.geomspace(0.01, 100, 8), 3))
    turn = iter(range(10**9))

    def ours() -> object:
        result = fit("logistic4", x, regular[next(turn) % len(regular)])
        return result.parameters, result.r_squared, result.aicc, result.lack_of_fit, result.runs_test

    one, reference = _interleaved(ours, theirs)
    return Figure("one fit(logistic4) with statistics / one curve_fit", one / reference, "×", 1.5)


def many_curves() -> list[Figure]:
    """10,000 curves of all kinds at once, against a loop of default curve_fit on regular ones."""
    triplicate, distinct = np.repeat(np.geomspace(0.01, 100, 8), 3), np.geomspace(0.01, 100, 24)
    return [
        _many("logistic4", triplicate, "8 doses × 3", 90),
        _many("logistic4", triplicate, "8 doses × 3, regular ones only", 90, of=partial(made, "regular")),
        _many("logistic4", distinct, "24 doses", 25),
        _many("logistic5", triplicate, "8 doses × 3", 30),
    ]


def intervals() -> list[Figure]:
    """1,000 bootstrap refits of one curve and 1,000 profile intervals of the midpoint, fits included."""
    x, regular, theirs = _regular(np.repeat(np.geomspace(0.01, 100, 8), 3))
    curve = fit("logistic4", x, regular[0])
    y = np.tile(regular, (3, 1))[:1000]
    drawn, one = _interleaved(lambda: curve.bootstrap("midpoint", 0.95), theirs)
    profiled, other = _interleaved(
        lambda: fit_many("logistic4", x, y).interval("midpoint", method="profile"), theirs, rounds=10
    )
    return [
        Figure("1,000 bootstrap refits / one curve_fit", drawn / one, "×", 20),
        Figure("1,000 profile intervals, fits included / one curve_fit", profiled / other, "×", 250),
    ]


def counts() -> list[Figure]:
    """10,000 sets of 6 doses with 20 animals each at once, against a loop of statsmodels' GLM."""
    import statsmodels.api as sm

    rng = np.random.default_rng(6)
    dose, exposed = np.geomspace(1, 32, 6), np.full(6, 20.0)
    middle, slope = rng.uniform(0.4, 1.1, (MANY, 1)), rng.uniform(1.5, 5, (MANY, 1))
    affected = rng.binomial(20, 1 / (1 + 10 ** (-slope * (np.log10(dose) - middle)))).astype(float)
    design = sm.add_constant(np.log10(dose))
    turn = iter(range(10**9))
    figures = []
    for link, theirs in (("probit", sm.families.links.Probit()), ("logit", sm.families.links.Logit())):

        def glm(of: object = theirs) -> object:
            killed = affected[next(turn) % MANY]
            with warnings.catch_warnings():
                warnings.simplefilter("ignore")
                return sm.GLM(np.column_stack((killed, 20 - killed)), design, family=sm.families.Binomial(of)).fit()

        lines = partial(quantal.fit_many, dose, affected, exposed, link=link)
        ours, one = _interleaved(lines, glm, rounds=15)
        figures.append(
            Figure(f"GLM loop / 10,000 {link} lines of 6 doses", MANY * one / ours, "×", 1000, at_least=True,
                   note=f"({1e6 * ours / MANY:.1f} µs a line)")
        )  # fmt: skip
    return figures


def memory() -> Figure:
    """Peak memory of 100,000 four-parameter curves of 8 doses in triplicate, in a process of its own."""
    program = (
        "import resource, numpy as np\n"
        "from bench.curves import mixed\n"
        "from dosis.core import fit_many\n"
        "x = np.repeat(np.geomspace(0.01, 100, 8), 3)\n"
        "fit_many('logistic4', x, mixed(100_000, x, np.random.default_rng(1)))\n"
        "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6)\n"
    )
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=True)
    return Figure("memory for 100,000 curves", float(done.stdout), "GB", 1.5)


def agreement() -> list[Figure]:
    """Share of curves whose sum of squares is within 1e-8 of the best found by many starts of a general optimizer."""
    x = np.repeat(np.geomspace(0.01, 100, 8), 3)
    figures = []
    for model, best, count in (("logistic4", _best, 150), ("logistic5", _best_with_power, 60)):
        for what, y, least in (
            ("regular", made("regular", count // 2, x, np.random.default_rng(9)), 100.0),
            ("mixed", mixed(count, x, np.random.default_rng(10)), 99.9),
        ):
            found = fit_many(model, x, y).sse
            good = [sse <= least * (1 + 1e-8) for sse, least in zip(found, map(partial(best, x), y), strict=True)]
            share = 100 * float(np.mean(good))
            name = f"{what} curves of {model} at the best minimum, of {len(y)}"
            figures.append(Figure(name, share, "%", least, at_least=True))
    return figures


def _best(x: np.ndarray, y: np.ndarray) -> float:
    """Least sum of squares over many starts of scipy's least_squares."""
    t = np.log(x)

    def residuals(p: np.ndarray) -> np.ndarray:
        value: np.ndarray = y - p[0] - (p[1] - p[0]) * special.expit(p[3] * (t - p[2]))
        return value

    middles, slopes = np.linspace(t.min(), t.max(), 6), (0.5, 2.0, 8.0)
    return _least(residuals, [(*_plateaus(t, y, m), m, s) for m in middles for s in slopes])


def _best_with_power(x: np.ndarray, y: np.ndarray) -> float:
    """The same with a power, rising and falling."""
    t = np.log(x)

    def residuals(p: np.ndarray) -> np.ndarray:
        logarithm = -np.exp(min(p[4], 30.0)) * np.logaddexp(0.0, -p[3] * (t - p[2]))
        value: np.ndarray = y - p[0] - (p[1] - p[0]) * np.exp(logarithm)
        return value

    starts = [
        (*_plateaus(t, y, m)[:: 1 if s > 0 else -1], m, s, power)
        for m in np.linspace(t.min(), t.max(), 5)
        for s in (-5.0, -1.0, 1.0, 5.0)
        for power in (-2.0, 2.0)
    ]
    return _least(residuals, starts)


def _plateaus(t: np.ndarray, y: np.ndarray, middle: float) -> tuple[float, float]:
    return float(y[t <= middle].mean()), float(y[t >= middle].mean())


def _least(residuals: Callable[[np.ndarray], np.ndarray], starts: list[tuple[float, ...]]) -> float:
    best = np.inf
    for start in starts:
        with np.errstate(all="ignore"):
            done = least_squares(residuals, start, ftol=1e-14, xtol=1e-14, gtol=1e-14, max_nfev=400)
        best = min(best, 2 * float(done.cost))
    return best


def _many(model: str, x: np.ndarray, what: str, target: float, of: Callable[..., np.ndarray] = mixed) -> Figure:
    y = of(MANY, x, np.random.default_rng(7))
    x, _, theirs = _regular(x)
    ours: list[float] = []
    reference: list[float] = []
    for _ in range(5):
        start = time.process_time()
        for _ in range(100):
            theirs()
        between = time.process_time()
        fit_many(model, x, y)
        reference.append((between - start) / 100)
        ours.append((time.process_time() - between) / MANY)
    ratio = median(r / o for r, o in zip(reference, ours, strict=True))
    return Figure(
        f"curve_fit loop / fit_many({model}), 10,000 curves of {what}", ratio, "×", target, at_least=True,
        note=f"({1e6 * median(ours):.1f} µs a curve; one curve_fit {1e6 * median(reference):.0f} µs)",
    )  # fmt: skip


def _regular(x: np.ndarray) -> tuple[np.ndarray, np.ndarray, Callable[[], object]]:
    """x, regular curves on it, and a call that fits the next of them by curve_fit as it comes."""
    regular = made("regular", 400, x, np.random.default_rng(4))
    turn = iter(range(10**9))

    def theirs() -> object:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            return curve_fit(logistic, x, regular[next(turn) % len(regular)])

    return x, regular, theirs


def _interleaved(
    first: Callable[[], object], second: Callable[[], object], rounds: int = ROUNDS
) -> tuple[float, float]:
    """Median CPU seconds of each, taken in turn so that a drifting machine hits both."""
    times: tuple[list[float], list[float]] = ([], [])
    for _ in range(rounds):
        for call, found in zip((first, second), times, strict=True):
            start = time.process_time()
            call()
            found.append(time.process_time() - start)
    return median(times[0]), median(times[1])

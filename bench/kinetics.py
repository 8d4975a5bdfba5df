"""Speed of courses: growth curves against a loop of a general optimizer, and plates of them as a person meets them."""

import re
import time
from pathlib import Path
from statistics import median
from uuid import uuid4

import numpy as np
from scipy.optimize import curve_fit

from bench.figures import Figure
from bench.pages import CLOCK, SCROLL, demo, page_of
from dosis.core import fit_many
from dosis.core.arrays import Array
from dosis.intake.understand import understand
from dosis.run.evaluate import evaluate
from dosis.run.opening import opened
from dosis.run.wells import row_letters

CHANGES = 12


def _growth(t: Array, start: float, amplitude: float, rate: float, lag: float) -> Array:
    """As one would write it for a general optimizer."""
    value: Array = start + amplitude / (1 + np.exp(4 * rate / amplitude * (lag - t) + 2))
    return value


def growth() -> Figure:
    """384 growth curves of 96 points by a four-parameter model, against one curve_fit after the other."""
    rng = np.random.default_rng(384)
    t = np.linspace(0, 24, 96)
    truth = np.column_stack([rng.uniform(*ends, 384) for ends in ((-3.2, -2.8), (2, 4), (0.3, 0.9), (2, 7))])
    y = np.array([_growth(t, *each) for each in truth]) + rng.normal(0, 0.03, (384, t.size))
    fit_many("growth_logistic", t, y[:4])  # what is compiled is compiled before
    took_us = []
    for _ in range(7):
        start = time.perf_counter()
        found = fit_many("growth_logistic", t, y)
        took_us.append(time.perf_counter() - start)
    ours = median(took_us)
    start = time.perf_counter()
    theirs = []
    for row in y:
        first = [row.min(), np.ptp(row), 4 * np.ptp(row) / np.ptp(t), t[t.size // 4]]
        try:
            theirs.append(curve_fit(_growth, t, row, p0=first, maxfev=10_000)[0])
        except RuntimeError:
            theirs.append(np.full(4, np.nan))
    took = time.perf_counter() - start
    miss = np.abs(found.values / np.array(theirs) - 1).max(axis=1)
    note = f"({1e3 * ours:.0f} ms, the loop {took:.2f} s; {int((miss < 1e-4).sum())} of 384 agree to four digits)"
    return Figure("a curve_fit loop / 384 growth curves at once", took / ours, "×", 40, note, at_least=True)


def kinetic_plate(wells: int = 1536, times: int = 500) -> str:
    """A table of time and a column for each well, with courses that bend a little."""
    rng = np.random.default_rng(1536)
    t = np.arange(times) * 2.0
    rate = rng.uniform(2e-4, 2e-3, wells)
    y = 0.08 + rate[:, None] * 1500 * (1 - np.exp(-t / 1500)) + rng.normal(0, 0.003, (wells, times))
    columns = 48
    head = "\t".join(["Time (s)", *(f"{row_letters(i // columns)}{i % columns + 1}" for i in range(wells))])
    rows = ["\t".join([f"{at:g}", *(f"{value:.4f}" for value in y[:, i])]) for i, at in enumerate(t)]
    return "\n".join([head, *rows])


def courses_computed() -> list[Figure]:
    """A plate of 1,536 courses of 500 times: until it is understood, and until all its rates are there."""
    text = kinetic_plate()
    start = time.perf_counter()
    intake = understand(text)
    understood = time.perf_counter() - start
    if intake.readings is None or intake.layout is None:
        raise RuntimeError("The courses of the benchmark are not understood.")
    layout, method = opened(intake.readings, intake.layout, "rate")
    took = []
    for _ in range(5):
        start = time.perf_counter()
        evaluate(intake.readings, layout, method)
        took.append(time.perf_counter() - start)
    return [
        Figure("1,536 courses of 500 times understood", understood, "s", 3),
        Figure("all their rates evaluated, median of 5", median(took), "s", 1.5),
    ]


def courses_shown(home: Path) -> list[Figure]:
    """The same plate in the page: its window changed, and its wall scrolled."""
    with demo(home) as url, page_of() as page:
        body = {"study": 1, "title": "1,536 courses", "key": str(uuid4()), "text": kinetic_plate(), "question": "rate"}
        view = page.request.post(f"{url}/api/runs", data=body, timeout=120_000).json()
        page.goto(f"{url}/runs/{view['run']['id']}")
        page.get_by_role("slider", name="End of the window").focus()
        page.evaluate(CLOCK)
        for i in range(CHANGES):
            page.keyboard.press("ArrowRight")
            page.wait_for_function(f"window.__clock.took.length === {i + 1}", polling=40)
            page.get_by_role("slider", name="End of the window").focus()
        took: list[float] = page.evaluate("window.__clock.took")
        page.get_by_role("tab", name="Wall").click()
        wall = page.get_by_role("region", name="All courses")
        wall.get_by_role("button", name=re.compile("^A1:")).wait_for()
        page.wait_for_timeout(2000)  # until the page has come to rest; nobody scrolls while it opens
        list_ = wall.locator("div.overflow-y-auto")
        longest = median(list_.evaluate(SCROLL) for _ in range(3))
    return [
        Figure("change of window to repainted plate of 1,536 courses, median", median(took), "ms", 300),
        Figure("longest frame while 1,536 courses are scrolled, median of 3", longest, "ms", 100),
    ]

"""Speed as a person meets it, in headless Chromium on the built pages."""

import gzip
import os
import re
import signal
import socket
import subprocess
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from statistics import median, quantiles
from uuid import uuid4

import numpy as np
from playwright.sync_api import Page, sync_playwright

from bench.computing import table_of_96
from bench.curves import wall
from bench.figures import Figure
from dosis.intake.understand import understand
from dosis.intake.understanding import Intake
from dosis.run.evaluate import evaluate
from dosis.run.opening import opened
from dosis.run.outcome.outcome import Outcome
from dosis.run.wells import row_letters
from dosis.settings import ROOT
from dosis.store.packing import pack_text
from dosis.store.revisions import EVERY, LARGE
from dosis.store.worked import worked

PRESSES = 40
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-sync",
]

# Milliseconds from the release of the key that excludes (or includes) to the frame that shows the next revision. The
# form is sent when Enter goes down, so the clock is started there: never later than the release.
CLOCK = """() => {
  window.__clock = { start: 0, took: [] };
  const keys = ["Enter", "x", "ArrowRight"];
  const begin = (event) => { if (keys.includes(event.key)) window.__clock.start = performance.now(); };
  window.addEventListener("keydown", begin, true);
  const shown = () => [...document.querySelectorAll("header span")].find((s) => s.textContent.startsWith("Revision "));
  let last = shown().textContent;
  new MutationObserver(() => {
    const now = shown()?.textContent;
    if (!now || now === last) return;
    last = now;
    const start = window.__clock.start;
    requestAnimationFrame(() => setTimeout(() => window.__clock.took.push(performance.now() - start), 0));
  }).observe(document.body, { subtree: true, childList: true, characterData: true });
}"""


def first_load() -> Figure:
    """Scripts fetched for the first page, gzipped."""
    scripts = (ROOT / "frontend" / "dist" / "assets").glob("*.js")
    size = sum(len(gzip.compress(script.read_bytes(), 9)) for script in scripts)
    return Figure("JavaScript at first load, gzipped", size / 1000, "kB", 250)


def second_start(home: Path) -> Figure:
    """Seconds from `./dosis demo` to the first page with its cards, the second time."""
    with demo(home) as url, page_of() as page:
        _wait_for_cards(page, url)
    start = time.perf_counter()
    with page_of() as page:
        launched = time.perf_counter() - start  # Chromium itself is the person's, not ours
        start = time.perf_counter()
        with demo(home) as url:
            _wait_for_cards(page, url)
            took = time.perf_counter() - start
    return Figure(
        "second start of ./dosis demo to first page", took, "s", 6, f"(Chromium's own start {launched:.1f} s)"
    )


def interaction(home: Path) -> list[Figure]:
    """Key to painted answers on a 96-reading run: excluding and including a reading in turn."""
    with demo(home) as url, page_of() as page:
        body = {"study": 1, "title": "96 readings", "key": str(uuid4()), "text": table_of_96()}
        run = page.request.post(f"{url}/api/runs", data=body).json()["run"]["id"]
        page.goto(f"{url}/runs/{run}")
        page.get_by_role("gridcell", name="Std 4 reading 2").click()
        took = _presses(page)
    return [
        Figure("key to painted answers, 96 readings, median", median(took), "ms", 100),
        Figure("key to painted answers, 96 readings, 95th percentile", quantiles(took, n=20)[-1], "ms"),
    ]


# Milliseconds from a paste, put into the page as the browser does it, to the frame that shows the statements.
PASTE = """text => new Promise((done) => {
  const data = new DataTransfer();
  data.setData("text/plain", text);
  const start = performance.now();
  const watch = new MutationObserver(() => {
    if (!document.querySelector("aside li")) return;
    watch.disconnect();
    requestAnimationFrame(() => setTimeout(() => done(performance.now() - start), 0));
  });
  watch.observe(document.body, { subtree: true, childList: true });
  document.body.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true }));
})"""
# The longest frame, in milliseconds, while a list is scrolled from top to bottom in 60 steps.
SCROLL = """list => new Promise((done) => {
  let step = 0, last = performance.now(), longest = 0;
  const next = () => {
    const now = performance.now();
    longest = Math.max(longest, now - last);
    last = now;
    if (++step > 60) return done(longest);
    list.scrollTo(0, (list.scrollHeight * step) / 60);
    requestAnimationFrame(next);
  };
  requestAnimationFrame(next);
})"""
# Milliseconds from a pointer on a column's heading to the frame in which its wells are selected.
SELECT = """heading => new Promise((done) => {
  const start = performance.now();
  heading.dispatchEvent(new PointerEvent("pointerdown", { bubbles: true, button: 0, buttons: 1 }));
  requestAnimationFrame(() => setTimeout(() => done(performance.now() - start), 0));
})"""


def bringing_in(home: Path) -> list[Figure]:
    """Large tables and plates: how long until they are understood, and whether they stay smooth."""
    rows = "\n".join(f"Sample {i}\t\t{0.1 + i * 1e-5:.5f}\t{0.1 + i * 1e-5:.5f}\t× 5" for i in range(20_000))
    table = f"Sample\tConc (µM)\tReading 1\tReading 2\tDilution\nStd 1\t1\t0.2\t0.2\t\n{rows}"
    grid = "\n".join([
        "\t".join(["", *(str(c + 1) for c in range(48))]),
        *("\t".join([row_letters(r), *(f"{0.1 + 0.01 * r + 0.001 * c:.3f}" for c in range(48))]) for r in range(32)),
    ])  # fmt: skip
    with demo(home) as url, page_of() as page:
        understood = {}
        for name, text in (("20,000-row table", table), ("1536-well plate", grid)):
            took = []
            for _ in range(5):
                page.goto(f"{url}/studies/1/new")
                page.get_by_label("Table of readings").wait_for()
                took.append(page.evaluate(PASTE, text))
            understood[name] = median(took)
            if name.startswith("20"):
                longest = page.get_by_role("table", name="Pasted table").evaluate(SCROLL)
        body = {"study": 1, "title": "1536 wells", "key": str(uuid4()), "text": grid}
        run = page.request.post(f"{url}/api/runs", data=body).json()["run"]["id"]
        page.goto(f"{url}/runs/{run}")
        page.locator("#well-0-0").wait_for()
        headings = page.get_by_role("columnheader", name=re.compile("^Column")).all()
        selecting = median(heading.evaluate(SELECT) for heading in headings[:24])
    return [
        *(Figure(f"paste to understood, {name}", took, "ms", 1000) for name, took in understood.items()),
        Figure("longest frame while 20,000 rows are scrolled", longest, "ms", 100),
        Figure("column of a 1536-well plate selected and painted", selecting, "ms", 100),
    ]


def plate_interaction(home: Path) -> list[Figure]:
    """Key to painted answers on the demo's immunoassay plate, four parameters with intervals."""
    with demo(home) as url, page_of() as page:
        page.goto(f"{url}/runs/3")
        page.locator("#well-3-0").click()
        took = _presses(page)
    return [
        Figure("key to painted answers, 96-well 4-parameter plate, median", median(took), "ms", 120),
        Figure("key to painted answers, the same, 95th percentile", quantiles(took, n=20)[-1], "ms", 200),
    ]


def screening_interaction(home: Path) -> Figure:
    """The same on a 384-well plate: 8 standards in duplicate, 8 blanks, 120 samples in triplicate."""
    levels = [20 / 2.5**row for row in range(8)]
    rng = np.random.default_rng(384)

    def signal(level: float) -> float:
        return 0.13 + 2.04 / (1 + (level / 1.62) ** 1.18)

    wells = np.array([[signal(20 / 2.5 ** (6 * c / 24)) for c in range(24)] for _ in range(16)])
    wells[:8, :2] = np.array([[signal(level)] * 2 for level in levels])
    wells[8:, 0] = 0.0
    wells = 0.043 + wells * (1 + 0.015 * rng.standard_normal(wells.shape))
    grid = ["\t".join(["", *map(str, range(1, 25))])]
    grid += ["\t".join([row_letters(r), *(f"{value:.3f}" for value in wells[r])]) for r in range(16)]

    def ids(rows: range, columns: range) -> list[int]:
        return [24 * r + c + 1 for r in rows for c in columns]

    changes = [
        {"kind": "fill_series", "readings": ids(range(8), range(2)), "top": "20", "factor": 2.5, "replicates": 2},
        {"kind": "assign_wells", "readings": ids(range(8, 16), range(1)), "role": "blank"},
        {"kind": "number_samples", "readings": ids(range(15), range(3, 24)), "first": "S-1", "replicates": 3},
    ]
    with demo(home) as url, page_of() as page:
        body = {"study": 1, "title": "384 wells", "key": str(uuid4()), "text": "\n".join(grid)}
        view = page.request.post(f"{url}/api/runs", data=body).json()
        curve = next(step for step in view["revision"]["method"]["steps"] if step["kind"] == "curve")
        save = {
            "based_on": 1, "key": str(uuid4()),
            "changes": [*changes, {"kind": "set_step", "step": {**curve, "model": "logistic4"}}],
        }  # fmt: skip
        run = view["run"]["id"]
        if not page.request.post(f"{url}/api/runs/{run}/changes", data=save).ok:
            raise RuntimeError("The plate of the benchmark could not be laid out.")
        page.goto(f"{url}/runs/{run}")
        page.locator("#well-3-0").click()
        took = _presses(page)
    return Figure("key to painted answers, 384-well 4-parameter plate, median", median(took), "ms", 300)


def wall_interaction(home: Path) -> Figure:
    """A change of setting to the repainted wall of the demo's screen: 384 wells, 40 curves."""
    with demo(home) as url, page_of() as page:
        page.goto(f"{url}/runs/6")
        page.get_by_role("tab", name="Wall").click()
        page.get_by_role("region", name="Wall of curves").wait_for()
        page.evaluate(CLOCK)
        for i in range(12):
            page.keyboard.press("Control+k")
            page.get_by_placeholder("Find a run").fill("fit raw" if i % 2 == 0 else "fit normalized")
            page.get_by_role("option", name=re.compile("^Fit")).first.wait_for()
            page.keyboard.press("Enter")
            page.wait_for_function(f"window.__clock.took.length === {i + 1}", polling=40)
        took: list[float] = page.evaluate("window.__clock.took")
    return Figure("change of setting to repainted wall, 40 curves, median", median(took), "ms", 400)


def wall_scrolling(home: Path) -> Figure:
    """A wall of 2,000 curves scrolled from top to bottom."""
    with demo(home) as url, page_of() as page:
        body = {"study": 1, "title": "2,000 curves", "key": str(uuid4()), "text": wall()[2], "question": "dose"}
        run = page.request.post(f"{url}/api/runs", data=body, timeout=120_000).json()["run"]["id"]
        page.goto(f"{url}/runs/{run}")
        page.get_by_role("tab", name="Wall").click()
        shown = page.get_by_role("region", name="Wall of curves")
        shown.get_by_role("listitem").first.wait_for()
        page.wait_for_timeout(2000)  # until the page has come to rest; nobody scrolls while it opens
        list_ = shown.locator("div.overflow-y-auto")
        longest = median(list_.evaluate(SCROLL) for _ in range(3))
    return Figure("longest frame while a wall of 2,000 curves is scrolled, median of 3", longest, "ms", 100)


def large_runs(home: Path) -> list[Figure]:
    """A standard changed in runs of 5,000 and 20,000 samples: key to painted answers, and what a revision takes."""
    figures = []
    rng = np.random.default_rng(5)
    signal = [f"Std {i}\t{2**i}\t{0.02 + 0.05 * 2**i + 0.002 * rng.standard_normal():.4f}" for i in range(6)]
    for count, aim in ((5_000, 700), (20_000, 2_500)):
        samples = [f"Pond {i}\t\t{value:.4f}" for i, value in enumerate(rng.uniform(0.1, 1.5, count))]
        text = "\n".join(["Sample\tConc (µM)\tA880", "Blank\t\t0.020", "Blank\t\t0.021", *signal, *samples])
        with demo(home) as url, page_of() as page:
            body = {"study": 1, "title": f"{count} samples", "key": str(uuid4()), "text": text}
            view = page.request.post(f"{url}/api/runs", data=body, timeout=120_000).json()
            page.goto(f"{url}/runs/{view['run']['id']}")
            page.get_by_role("gridcell", name="Std 4").first.click()
            took = _presses(page, 8)
        revision = revision_size(understand(text))
        figures += [
            Figure(f"key to painted answers, {count:,} samples, median", median(took), "ms", aim),
            Figure(f"a stored revision of {count:,} samples", revision / 1000, "kB"),
        ]
    return figures


# Milliseconds from a size of the text that was not drawn before to the redrawn figure.
REDRAWN = """size => new Promise((done) => {
  const field = document.querySelector("[aria-label='Size of the text in points']");
  field.focus();
  Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(field, String(size));
  field.dispatchEvent(new Event("input", { bubbles: true }));
  const watch = new MutationObserver(() => {
    watch.disconnect();
    requestAnimationFrame(() => setTimeout(() => done(performance.now() - start), 0));
  });
  watch.observe(document.querySelector("[data-figure]").shadowRoot, { childList: true });
  const start = performance.now();
  field.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true }));
})"""


def printing(home: Path) -> list[Figure]:
    """A choice of the figure to its redrawn picture; reports of a plate and of 40 curves as PDF."""
    with demo(home) as url, page_of() as page:
        page.goto(f"{url}/studies/1")
        page.get_by_role("searchbox", name="Find runs").fill("Diatom growth, TP-17")
        page.get_by_role("link", name="Diatom growth, TP-17").click()
        page.get_by_role("tab", name="Figure").click()
        page.locator("[data-figure] svg").wait_for()
        page.get_by_label("Size of the text in points").wait_for()
        took = []
        for press in range(20):
            took.append(page.evaluate(REDRAWN, 6.1 + 0.1 * press))
            page.wait_for_timeout(300)
        figures = [Figure("choice of a figure to redrawn figure, median", median(took), "ms", 250)]
        for title, run, aim in (
            ("Domoic acid, plate 3", "a 96-well run", 3),
            ("Extract screen, plate 1", "40 curves", 8),
        ):
            id = next(r["id"] for r in page.request.get(f"{url}/api/runs", params={"find": title}).json())
            address = f"{url}/api/runs/{id}/report.pdf"
            page.request.get(address, timeout=120_000)  # the first starts the process that sets the pages
            start = time.perf_counter()
            page.request.get(address, timeout=120_000)
            figures.append(Figure(f"report of {run} as PDF", time.perf_counter() - start, "s", aim))
    return figures


def revision_size(intake: Intake) -> float:
    """Bytes of a run's revision as it is stored, the mean of those with a whole outcome and those without."""
    if intake.readings is None or intake.layout is None:
        raise RuntimeError("The table of the benchmark was not understood.")
    layout, method = opened(intake.readings, intake.layout, "concentration")
    made = worked(layout, method, evaluate(intake.readings, layout, method))
    state = [made.layout, made.method, made.working, made.card]
    outcome = len(pack_text(Outcome, made.outcome))
    return sum(map(len, state)) + outcome / (EVERY if len(made.outcome) >= LARGE else 1)


def _presses(page: Page, presses: int = PRESSES) -> list[float]:
    """Exclude and include in turn; milliseconds of each, from key to painted answers."""
    page.evaluate(CLOCK)
    for press in range(presses):
        page.keyboard.press("x")
        if press % 2 == 0:
            page.get_by_label("Reason").wait_for()
            page.keyboard.press("Enter")
        # Asked seldom and cheaply: searching the page for a text at every frame would be measured too.
        page.wait_for_function(f"window.__clock.took.length === {press + 1}", polling=40)
    took: list[float] = page.evaluate("window.__clock.took")
    return took


@contextmanager
def demo(home: Path) -> Iterator[str]:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    process = subprocess.Popen(
        [ROOT / "dosis", "demo"], stdout=subprocess.DEVNULL,
        env={**os.environ, "DOSIS_HOME": str(home), "DOSIS_PORT": str(port)},
    )  # fmt: skip
    url = f"http://127.0.0.1:{port}"
    try:
        while process.poll() is None:
            try:
                urllib.request.urlopen(f"{url}/api/health", timeout=5).close()
                break
            except urllib.error.URLError:
                time.sleep(0.02)
        yield url
    finally:
        process.send_signal(signal.SIGINT)
        process.wait(timeout=60)


@contextmanager
def page_of() -> Iterator[Page]:
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield chromium.new_page(viewport={"width": 1280, "height": 800}, bypass_csp=True)
        chromium.close()


def _wait_for_cards(page: Page, url: str) -> None:
    page.goto(url)
    page.get_by_role("list", name="Runs").get_by_role("heading").first.wait_for()

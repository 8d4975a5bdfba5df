"""Speed of large files in the page: brought in, looked through, and scans by the thousand drawn."""

import os
import time
from pathlib import Path
from statistics import median

import numpy as np
import pyarrow as pa
from playwright.sync_api import Page
from pyarrow import csv

from bench.figures import Figure
from bench.pages import demo, page_of

SAMPLES = 10_000_000  # of each of two channels
SCANS, POINTS = 2_000, 4_000
PATIENCE = 300_000  # ms

FRAMES = """() => { window.frames_ = []; let last = performance.now();
  const tick = () => { const now = performance.now(); window.frames_.push(now - last); last = now;
    requestAnimationFrame(tick) }; requestAnimationFrame(tick) }"""
DRAWN = """() => { const canvas = [...document.querySelectorAll('canvas')].find(each => each.width > 300)
  if (!canvas) return false
  const data = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height).data
  let filled = 0; for (let i = 3; i < data.length; i += 400) if (data[i]) filled++
  return filled > 20 }"""


def large_files(home: Path) -> list[Figure]:
    """20 million samples from a file of about 300 MB to the drawn run, its windows, and 2,000 scans drawn."""
    probe, scans = home / "probe.csv", home / "scans.csv"
    rng = np.random.default_rng(20)
    t = np.arange(SAMPLES) / 1000
    columns = {"Time (s)": t, "Probe (V)": 1 + 0.3 * np.sin(t / 300), "Depth (V)": 2 + 0.1 * np.cos(t / 50)}
    for name in ("Probe (V)", "Depth (V)"):
        columns[name] = np.round(columns[name] + 0.01 * rng.standard_normal(SAMPLES), 6)
    csv.write_csv(pa.table(columns), probe)
    x = 200 + 0.2 * np.arange(POINTS)
    tops = 300 + 0.3 * np.arange(SCANS)
    spectra = {f"{k} min": np.round(np.exp(-(((x - top) / 30) ** 2)), 5) for k, top in enumerate(tops.tolist())}
    csv.write_csv(pa.table({"Wavelength (nm)": x, **spectra}), scans)
    with demo(home) as url, page_of() as page:
        took, run = _brought_in(page, url, probe)
        most = _greatest_memory()
        windows = _windows(page, f"{url}/api/runs/{run}/revisions/1/courses")
        frames = _frames(page)
        _, spectra_run = _brought_in(page, url, scans)
        start = time.perf_counter()
        page.request.get(f"{url}/api/runs/{spectra_run}/revisions/1/courses?points=120")
        fetched = time.perf_counter() - start
        page.reload()
        page.locator("canvas").first.wait_for(timeout=PATIENCE)
        start = time.perf_counter()
        page.wait_for_function(DRAWN, timeout=PATIENCE)
        drawn = max(fetched, time.perf_counter() - start)
    size = f"({probe.stat().st_size / 1e6:.0f} MB)"
    return [
        Figure("20 million samples, file to drawn run", took, "s", 90, size),
        Figure("  the most memory of one process meanwhile", most, "MB", 1500),
        Figure("  a window of them, asked for and there, median", median(windows), "ms", 150),
        Figure("  longest frame while they are zoomed and moved", max(frames), "ms", 50),
        Figure("2,000 scans of 4,000 points, drawn", drawn, "s", 1),
    ]


def _brought_in(page: Page, url: str, file: Path) -> tuple[float, int]:
    page.goto(f"{url}/studies/1/new")
    page.get_by_role("radio", name="File").click()
    start = time.perf_counter()
    page.get_by_label("Files of readings").set_input_files(file)
    page.get_by_text("rows in all", exact=False).wait_for(timeout=PATIENCE)
    page.get_by_role("button", name="Open run").click(timeout=PATIENCE)
    page.get_by_role("region", name="Answers").wait_for(timeout=PATIENCE)
    page.locator("path[data-trace][d*='L'], canvas").first.wait_for(timeout=PATIENCE)
    return time.perf_counter() - start, int(page.url.rsplit("/", 1)[1])


def _windows(page: Page, asked: str) -> list[float]:
    took = []
    for k in range(20):
        start = time.perf_counter()
        page.request.get(f"{asked}?points=1300&lower={300 * k}&upper={300 * k + (50, 500, 3000)[k % 3]}")
        took.append(1000 * (time.perf_counter() - start))
    return took


def _frames(page: Page) -> list[float]:
    box = page.locator("[data-traces]").bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.evaluate(FRAMES)
    for k in range(40):
        page.mouse.wheel(0, -120 if k < 25 else 120)
        page.wait_for_timeout(30)
    page.mouse.down()
    for k in range(40):
        page.mouse.move(x - 4 * k, y)
        page.wait_for_timeout(16)
    page.mouse.up()
    return [float(each) for each in page.evaluate("window.frames_")[2:]]


def _greatest_memory() -> float:
    """Of any Python process of Dosis, in MB; what it read of files it maps is counted with it."""
    most = 0.0
    for process in os.listdir("/proc"):
        status, command = Path("/proc", process, "status"), Path("/proc", process, "cmdline")
        try:
            if process.isdigit() and int(process) != os.getpid() and b"python" in command.read_bytes():
                peak = next(line for line in status.read_text("utf-8").splitlines() if line.startswith("VmHWM"))
                most = max(most, int(peak.split()[1]) / 1000)
        except (OSError, StopIteration):
            continue
    return most

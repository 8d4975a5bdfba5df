"""Recordings in the browser: traces zoomed and read, stretches set, channels calibrated and written."""

import re
from pathlib import Path

import numpy as np
from playwright.sync_api import Locator, Page, expect

from dosis.demo import tide
from tests.browser.conftest import paste
from tests.browser.test_published_curves import choose, draft
from tests.conftest import Site

T = np.arange(0, 60, 0.05)
NOTES = {0: "air", 400: "standard", 800: "pond"}


def recording(values: tuple[float, ...] = (0, 100, 60)) -> str:
    rng = np.random.default_rng(3)
    truth = np.select([T < 20, T < 40], values[:2], values[2])
    probe, warmth = 0.5 + 0.02 * truth + rng.normal(0, 0.002, T.size), 1.2 + rng.normal(0, 0.001, T.size)
    rows = [
        f"{t:.2f}\t{a:.4f}\t{b:.4f}\t{NOTES.get(i, '')}"
        for i, (t, a, b) in enumerate(zip(T, probe, warmth, strict=True))
    ]
    return "\n".join(["Time (s)\tProbe (V)\tSensor (V)\tComment", *rows])


def opened(page: Page, text: str) -> int:
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    paste(page, text)
    expect(page.get_by_text("What does this signal mean? Recordings").first).to_be_visible()
    page.get_by_role("button", name="Open run").click()
    page.get_by_role("region", name="Answers").wait_for()
    expect(page.locator("path[data-trace]").first).to_have_attribute("d", re.compile("L"))
    return int(page.url.rsplit("/", 1)[1])


def step(page: Page, name: str) -> Locator:
    return page.get_by_role("button", name=re.compile(f"^{name}"))


def typed(page: Page, label: str, text: str) -> None:
    field = page.get_by_label(label, exact=True)
    field.fill(text)
    field.press("Enter")


def figure(page: Page) -> Locator:
    return page.get_by_role("group", name=re.compile("channels against Time"))


def at(page: Page, share: float) -> tuple[float, float]:
    box = page.locator("[data-traces]").bounding_box()
    assert box
    return box["x"] + share * box["width"], box["y"] + box["height"] / 2


def seen(page: Page) -> tuple[float, float]:
    """Which share of the recording is seen, by the frame in the overview."""
    frame, whole = page.locator("[data-seen]").bounding_box(), page.locator("[data-overview] rect").first.bounding_box()
    assert frame and whole
    return (frame["x"] - whole["x"]) / whole["width"], (frame["x"] + frame["width"] - whole["x"]) / whole["width"]


def means(site: Site, run: int) -> dict[str, float]:
    answers = site.client.get(f"/api/runs/{run}").json()["revision"]["outcome"]["answers"]
    column = next(each for each in answers["columns"] if each["id"] == "mean")
    return {row["name"]: float(v) for row, v in zip(answers["rows"], column["values"], strict=True)}


def test_traces_lie_under_each_other_with_marks_and_are_zoomed_and_moved(page: Page) -> None:
    opened(page, recording())
    expect(page.locator("path[data-trace]")).to_have_count(2)
    boxes = [page.locator(f"path[data-trace={name}]").bounding_box() for name in ("Probe", "Sensor")]
    assert boxes[0] and boxes[1] and boxes[0]["y"] + boxes[0]["height"] <= boxes[1]["y"]
    expect(page.locator("[data-mark]")).to_have_count(3)
    expect(page.locator("[data-mark=standard] text")).to_have_text("standard")
    page.mouse.move(*at(page, 0.5))
    expect(page.locator("[data-readout=Probe]")).to_contain_text(re.compile(r"2\.\d+ V"))
    expect(page.locator("[data-readout=Sensor]")).to_contain_text(re.compile(r"1\.\d+ V"))
    for _ in range(4):
        page.mouse.wheel(0, -200)
    low, high = seen(page)
    assert 0.3 < high - low < 0.6 and abs((low + high) / 2 - 0.5) < 0.03
    page.mouse.down()
    page.mouse.move(*at(page, 0.9), steps=4)
    page.mouse.up()
    moved = seen(page)
    assert moved[0] < low - 0.1 and abs((moved[1] - moved[0]) - (high - low)) < 0.01
    page.get_by_role("button", name="Show all").click()
    assert seen(page)[0] < 0.01 and seen(page)[1] > 0.99


def test_stretches_are_dragged_or_come_from_marks_and_calibrate_a_channel(page: Page, site: Site) -> None:
    run = opened(page, recording())
    page.get_by_role("radio", name="sets a stretch").click()
    page.mouse.move(*at(page, 0.05))
    page.mouse.down()
    page.mouse.move(*at(page, 0.30), steps=5)
    page.mouse.up()
    draft(page, 2)
    expect(page.locator("[data-stretch='Stretch 1']")).to_have_count(1)
    assert abs(means(site, run)["Stretch 1, Probe"] - 0.5) < 0.001
    typed(page, "Name of stretch 1", "zero")
    draft(page, 3)
    choose(page, "From mark to mark", "on")
    draft(page, 4)
    assert set(means(site, run)) == {
        f"{s}, {c}" for s in ("zero", "air", "standard", "pond") for c in ("Probe", "Sensor")
    }
    step(page, "Calibrate").click()
    typed(page, "Unit of the value", "NTU")
    draft(page, 5)
    typed(page, "zero is", "0")
    draft(page, 6)
    expect(page.get_by_text("One known stretch calibrates only with a sensitivity").first).to_be_visible()
    typed(page, "standard is", "100")
    draft(page, 7)
    found = means(site, run)
    assert abs(found["pond, Probe"] - 60) < 0.1 and abs(found["standard, Probe"] - 100) < 0.1
    expect(page.locator("[data-channel=Probe]")).to_contain_text("Probe / NTU")
    expect(page.locator("[data-raw-axis]")).to_contain_text("Probe / V")
    expect(page.get_by_role("table", name="Proof of the calibration").get_by_role("row")).to_have_count(3)
    page.mouse.move(*at(page, 0.8))
    expect(page.locator("[data-readout=Probe]")).to_contain_text("NTU")
    page.get_by_label("as recorded").check()
    expect(page.locator("[data-channel=Probe]")).to_contain_text("Probe / V")
    text = site.client.get(f"/api/runs/{run}/recording.csv?every=100").raise_for_status().text
    lines = text.removeprefix("\ufeff").strip().split("\r\n")
    assert lines[0] == "Time (s),Probe (NTU),Sensor (V),Mark" and len(lines) == 13
    assert abs(float(lines[-1].split(",")[1]) - 60) < 1
    page.locator("body").click(position={"x": 5, "y": 700})
    page.keyboard.press("Control+z")
    draft(page, 8)
    assert abs(means(site, run)["pond, Probe"] - 1.7) < 0.01


def test_a_calibration_is_kept_and_applied_to_another_recording(page: Page, site: Site) -> None:
    run = opened(page, tide.tide())
    for change in tide.tide_changes():
        revision = site.client.get(f"/api/runs/{run}").json()["revision"]["number"]
        body = {
            "based_on": revision,
            "key": f"5a0e8f1e-3c7a-4d0a-9a57-00000000000{revision}",
            "changes": [change.model_dump(mode="json")],
        }
        site.client.post(f"/api/runs/{run}/changes", json=body).raise_for_status()
    page.reload()
    page.get_by_role("region", name="Answers").wait_for()
    step(page, "Calibrate").click()
    page.get_by_label("Name to keep the calibration by").fill("Tide probe")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("Kept as “Tide probe”.")).to_be_visible()
    other = opened(page, recording((0, 60, 200)))
    step(page, "Calibrate").click()
    choose(page, "Kept calibration", "Tide probe")
    draft(page, 2)
    expect(page.get_by_text("the kept calibration may not fit").first).to_be_visible()
    part = site.client.get(f"/api/runs/{other}").json()["revision"]["outcome"]["part"]
    assert part["channels"][0]["unit"] == "NTU" and part["channels"][0]["calibrated"]


def test_a_stretch_is_set_and_events_are_counted_by_key(page: Page, site: Site) -> None:
    run = opened(page, recording())
    figure(page).focus()
    for _ in range(2):
        page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    for _ in range(10):
        page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    draft(page, 2)
    assert abs(means(site, run)["Stretch 1, Probe"] - 2.5) < 0.002
    figure(page).focus()
    page.keyboard.press("+")
    assert seen(page)[1] - seen(page)[0] < 0.85
    page.keyboard.press("Home")
    assert seen(page)[1] - seen(page)[0] > 0.98
    step(page, "Events").click()
    choose(page, "Events", "rises through a level")
    draft(page, 3)
    typed(page, "Level that is crossed", "1.5")
    draft(page, 4)
    expect(page.get_by_text("1 rises through 1.5 V")).to_be_visible()
    expect(page.locator("[data-event]")).to_have_count(1)


def test_a_logger_is_read_live_and_the_moment_is_marked_by_a_key(page: Page) -> None:
    page.goto("/studies/1/new")
    page.get_by_role("radio", name="Instrument").click()
    page.get_by_role("button", name=re.compile("voltage logger", re.IGNORECASE)).click()
    page.get_by_label("For", exact=False).last.fill("4")
    page.get_by_role("button", name="Read", exact=True).click()
    trace = page.locator("path[data-live]").first
    expect(trace).to_have_attribute("d", re.compile("L"))
    early = len(trace.get_attribute("d") or "")
    page.keyboard.press("m")
    page.get_by_label("Text of the mark").fill("standard in")
    page.keyboard.press("Enter")
    expect(page.get_by_text("standard in")).to_be_visible()
    expect(trace).to_have_attribute("d", re.compile(f"^.{{{early + 40},}}$"))
    expect(page.get_by_text("1 mark")).to_be_visible()
    page.get_by_role("button", name="Open run").click()
    expect(page.locator("[data-mark='standard in']")).to_have_count(1)


def test_a_large_file_is_sent_in_pieces_read_in_and_opened_again(page: Page, site: Site, tmp_path: Path) -> None:
    rng = np.random.default_rng(12)
    t = np.arange(700_000) / 200
    np.save(tmp_path / "pond.npy", np.column_stack((t, 1 + 0.1 * np.sin(t / 99), rng.normal(2, 0.1, t.size))))
    page.goto("/studies/1/new")
    page.get_by_role("radio", name="File").click()
    page.get_by_label("Files of readings").set_input_files(tmp_path / "pond.npy")
    expect(page.get_by_role("progressbar", name="Sending pond.npy …")).to_be_visible()
    page.get_by_role("button", name="Stop").click()
    expect(page.get_by_role("progressbar")).to_have_count(0)
    expect(page.get_by_text("Drop files here")).to_be_visible()

    page.get_by_label("Files of readings").set_input_files(tmp_path / "pond.npy")
    expect(page.get_by_text("About 700,000 rows", exact=False)).to_be_visible(timeout=30_000)
    expect(page.get_by_text("What does this signal mean? Recordings").first).to_be_visible()
    page.get_by_role("button", name="Open run").click()
    page.get_by_role("region", name="Answers").wait_for(timeout=60_000)
    expect(page.get_by_text("2 channels of 700,000 samples")).to_be_visible()
    expect(page.locator("path[data-trace]").first).to_have_attribute("d", re.compile("L"))
    page.get_by_role("link", name="Intake…").click()
    expect(page.get_by_text("About 700,000 rows", exact=False)).to_be_visible(timeout=30_000)
    expect(page.get_by_text("pond.npy").first).to_be_visible()

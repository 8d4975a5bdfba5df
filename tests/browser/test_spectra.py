"""Spectra in the browser: scans over each other, peaks, corrections, change and what is handed on; by mouse and key."""

import re

import numpy as np
from playwright.sync_api import Locator, Page, expect

from dosis.demo import scans
from tests.browser.conftest import paste
from tests.browser.hand import Hand
from tests.browser.test_published_curves import choose, draft
from tests.conftest import Site

NM = np.arange(400, 801, 1.0)


def band(at: float, height: float, width: float = 25.0) -> np.ndarray:
    return height * np.exp(-(((NM - at) / width) ** 2) / 2)


def table(columns: dict[str, np.ndarray]) -> str:
    rows = ["\t".join([f"{x:g}", *(f"{column[i]:.5f}" for column in columns.values())]) for i, x in enumerate(NM)]
    return "\n".join(["Absorbance (AU)", "\t".join(["Wavelength (nm)", *columns]), *rows])


def opened(page: Page, text: str) -> int:
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    paste(page, text)
    expect(page.get_by_text("What do these scans show? Spectra").first).to_be_visible()
    page.get_by_role("button", name="Open run").click()
    page.get_by_role("region", name="Answers").wait_for()
    return int(page.url.rsplit("/", 1)[1])


def step(page: Page, name: str) -> Locator:
    return page.get_by_role("button", name=re.compile(f"^{name}"))


def typed(page: Page, label: str, text: str) -> None:
    field = page.get_by_label(label)
    field.fill(text)
    field.press("Enter")


def figure(page: Page) -> Locator:
    return page.get_by_role("group", name=re.compile("against Wavelength"))


def column(site: Site, run: int, name: str) -> list[float]:
    outcome = site.client.get(f"/api/runs/{run}").json()["revision"]["outcome"]
    tables = [outcome["answers"], *outcome["further"]]
    found = next(each for table in tables for each in table["columns"] if each["id"] == name)
    return [float(value) for value in found["values"] if value is not None]


def test_seven_scans_lie_over_each_other_in_the_colors_of_their_order(page: Page) -> None:
    opened(page, scans.fading_scans())
    lines = page.locator("path[data-scan]")
    expect(lines).to_have_count(7)
    strokes = {line.get_attribute("data-scan"): line.get_attribute("stroke") for line in lines.all()}
    assert len(set(strokes.values())) == 7
    lightness = [sum(map(int, re.findall(r"\d+", str(strokes[f"{t} min"])))) for t in (0, 30, 60)]
    assert lightness == sorted(lightness)
    expect(page.locator("[data-points]")).to_have_count(0)
    expect(page.get_by_role("tab", name="Plate")).to_have_count(0)
    legend = page.get_by_role("list", name="Scans")
    expect(legend.get_by_role("button")).to_have_text([f"{t} min" for t in range(0, 61, 10)])
    page.get_by_role("table", name="Answers").get_by_text("20 min").click()
    expect(legend.get_by_role("button", name="20 min")).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="Axes…").click()
    ends = page.get_by_role("dialog").or_(page.get_by_label("Ends of the axes"))
    ends.get_by_label("From").nth(0).fill("450")
    ends.get_by_label("To").nth(0).fill("650")
    ends.get_by_label("From").nth(1).fill("0")
    ends.get_by_label("To").nth(1).fill("1.5")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Show all")).to_be_visible()
    texts = figure(page).locator("text").all_text_contents()
    assert "640" in texts and "800" not in texts and "1.4" in texts


def test_the_wavelength_of_a_plain_table_in_two_actions(page: Page) -> None:
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    hand = Hand(page)
    hand.paste("\n".join(["nm\tA", *(f"{x:g}\t{v:.5f}" for x, v in zip(NM, band(562.3, 0.8), strict=True))]))
    hand.click(page.get_by_role("button", name="Open run"))
    expect(page.get_by_role("status", name="Verdict")).to_contain_text("Highest at 562.3 nm")
    assert hand.actions == 2
    expect(page.locator("[data-peak]")).to_have_text("562.3")


def test_peaks_are_picked_by_a_click_and_values_typed(page: Page, site: Site) -> None:
    run = opened(page, table({"one": band(470, 1.0, 15) + band(620, 0.03, 12), "two": band(472, 0.5, 15)}))
    peaks = page.get_by_role("table", name="Peaks")
    expect(peaks.get_by_role("row")).to_have_count(3)
    choose(page, "A click", "click: pick a peak")
    box = page.locator("[data-zoom=plot]").bounding_box()
    assert box
    span = (620 - 380) / (820 - 380)  # the axis goes a little beyond the scans
    page.mouse.click(box["x"] + box["width"] * span, box["y"] + box["height"] / 2)
    draft(page, 2)
    picked = column(site, run, "picked_0")
    assert abs(picked[0] - 620) < 0.5
    typed(page, "Least prominence", "0.02")
    draft(page, 3)
    expect(peaks.get_by_role("row")).to_have_count(4)
    typed(page, "Window of the peaks", "550–700")
    draft(page, 4)
    expect(peaks.get_by_role("row")).to_have_count(2)
    step(page, "At").click()
    typed(page, "Values at", "470; 620")
    draft(page, 5)
    typed(page, "Areas from", "400–550")
    draft(page, 6)
    typed(page, "Ratios of", "620/470")
    draft(page, 7)
    assert abs(column(site, run, "at_0")[0] - 1.0) < 1e-4
    assert abs(column(site, run, "area_0")[0] - 15 * np.sqrt(2 * np.pi)) < 0.02
    assert abs(column(site, run, "ratio_0")[0] - 0.03) < 1e-3
    typed(page, "Values at", "here")
    expect(page.get_by_text("Type places, such as 498; 565.")).to_be_visible()


def test_scans_are_corrected_seen_before_and_after_and_undone(page: Page, site: Site) -> None:
    under = 0.05 + 0.0003 * (NM - 400)
    run = opened(page, table({"Blank": np.full(NM.size, 0.02), "one": band(565, 0.8, 15) + under + 0.02}))
    expect(page.get_by_text("Baseline away from zero: one").first).to_be_visible()
    step(page, "Correct").click()
    choose(page, "Baseline", "a straight line")
    draft(page, 2)
    expect(page.get_by_text("Say where nothing absorbs").first).to_be_visible()
    typed(page, "Windows of the baseline", "400–480; 660–800")
    draft(page, 3)
    assert abs(column(site, run, "height")[0] - 0.8) < 1e-3
    after = page.locator("path[data-scan=one]").get_attribute("d")
    choose(page, "Scans shown", "before Correct")
    expect(page.locator("path[data-scan=one]")).not_to_have_attribute("d", after or "")
    choose(page, "Scans shown", "as they stand")
    step(page, "Smooth").click()
    choose(page, "Derivative", "their first derivative")
    draft(page, 4)
    expect(page.get_by_text("First derivative of Absorbance / AU/nm").first).to_be_visible()
    page.locator("body").click(position={"x": 5, "y": 500})
    page.keyboard.press("Control+z")
    draft(page, 5)
    assert abs(column(site, run, "height")[0] - 0.8) < 1e-3


def test_a_fading_has_its_half_life_its_figure_and_where_scans_meet(page: Page, site: Site) -> None:
    run = opened(page, scans.fading_scans())
    expect(page.get_by_role("status", name="Verdict")).to_contain_text(re.compile(r"half-life 3[23]\.\d+ min"))
    assert abs(column(site, run, "half_life")[0] - np.log(2) / scans.LIGHT) < 0.6
    expect(page.get_by_text("all meet at")).to_be_visible()
    page.get_by_role("radio", name="Change").click()
    expect(page.get_by_text("Absorbance at 562", exact=False).first).to_be_visible()
    step(page, "Change").click()
    typed(page, "Place that is followed", "498")
    draft(page, 2)
    choose(page, "Order of the change", "zero order")
    draft(page, 3)
    expect(page.get_by_text("Absorbance at 498 nm changes by zero order")).to_be_visible()
    page.get_by_role("table", name="Change").get_by_role("button").nth(1).click()
    expect(page.get_by_text("value at the start ÷ (2 · rate)")).to_be_visible()


def test_known_levels_are_handed_on_to_a_standard_curve_and_back(page: Page, site: Site) -> None:
    columns = {f"{c:g} mg/L": band(452, 0.11 * c) for c in (0.5, 1, 2, 4, 8)}
    run = opened(page, table({**columns, "pond": band(452, 0.37)}))
    step(page, "Change").click()
    page.get_by_role("button", name="Make a standard curve at 452").click()
    back = page.get_by_role("link", name="← Scans")
    back.wait_for()
    made = int(page.url.rsplit("/", 1)[1])
    rows = site.client.get(f"/api/runs/{made}").json()["revision"]["outcome"]["answers"]
    value = next(each for each in rows["columns"] if each["lead"])["values"][0]
    assert abs(value - 0.37 / 0.11) < 0.02
    back.click()
    page.wait_for_url(f"**/runs/{run}")
    step(page, "Change").click()
    expect(page.get_by_role("link", name=re.compile("standard curve at 452 nm"))).to_be_visible()


def test_a_mixture_is_taken_apart_and_what_is_left_is_drawn(page: Page, site: Site) -> None:
    pure = {"Reference A": band(470, 0.9), "Reference B": band(560, 1.2)}
    rng = np.random.default_rng(2)
    mixed = 0.5 * pure["Reference A"] + 0.25 * pure["Reference B"] + 0.002 * rng.standard_normal(NM.size)
    run = opened(page, table({**pure, "pond": mixed}))
    assert abs(column(site, run, "amount_0")[0] - 0.5) < 0.01 and abs(column(site, run, "amount_1")[0] - 0.25) < 0.01
    page.get_by_role("list", name="Scans").get_by_role("button", name="pond").click()
    expect(page.locator("[data-rest=pond]")).to_have_count(1)


def test_scans_are_read_along_by_key(page: Page) -> None:
    opened(page, scans.fading_scans())
    figure(page).focus()
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("list", name="Scans").get_by_role("button", name="10 min")).to_have_attribute(
        "aria-pressed", "true"
    )
    for _ in range(3):
        page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("[data-readout]")).to_contain_text("10 min · ")

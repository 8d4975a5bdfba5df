"""Rates in the browser: five trials, a kinetic plate, growth, and a saturation curve — by mouse and by key."""

import csv
import io
import re

import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect

from dosis.demo import courses
from tests.browser.conftest import paste
from tests.browser.hand import Hand, described, well
from tests.browser.test_published_curves import choose, draft
from tests.conftest import Site, reference

T = np.arange(0.0, 200.0, 10.0)


def trials() -> str:
    rng = np.random.default_rng(1)
    columns = [0.1 + 0.001 * (k + 1) * T + rng.normal(0, 0.002, T.size) for k in range(5)]
    rows = ["\t".join(f"{v:.4f}" for v in row) for row in zip(T, *columns, strict=True)]
    return "Time (s)\t" + "\t".join(f"Trial {k}" for k in range(1, 6)) + "\n" + "\n".join(rows)


def opened(page: Page, text: str) -> int:
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    paste(page, text)
    expect(page.get_by_text("How fast is it? Rates of time courses.")).to_be_visible()
    page.get_by_role("button", name="Open run").click()
    page.get_by_role("region", name="Answers").wait_for()
    return int(page.url.rsplit("/", 1)[1])


def exported(site: Site, run: int) -> list[dict[str, str]]:
    text = site.client.get(f"/api/runs/{run}/answers.csv").raise_for_status().text.removeprefix("\ufeff")
    heading, *rows = csv.reader(io.StringIO(text.split("\r\n\r\n")[0]))
    return [dict(zip(heading, row, strict=True)) for row in rows]


def points(site: Site, run: int) -> list[float]:
    """How many of each course are taken in."""
    return [float(row["Points"]) for row in exported(site, run)]


def _middle(handle: Locator) -> float:
    """Where a handle stands: the line of the start is at its left edge's middle."""
    box = handle.locator("rect").bounding_box()
    assert box
    return box["x"] + box["width"] / 2


def step(page: Page, name: str) -> Locator:
    return page.get_by_role("button", name=re.compile(f"^{name}"))


def test_five_trials_a_dragged_window_and_three_points_left_out_of_all(page: Page, site: Site) -> None:
    run = opened(page, trials())
    answers = page.get_by_role("table", name="Answers")
    expect(answers.get_by_role("row")).to_have_count(6)
    expect(page.locator("[data-course]")).to_have_count(5)
    colors = {path.get_attribute("fill") for path in page.locator("[data-points=used]").all()}
    marks = {(path.get_attribute("d") or "")[:40] for path in page.locator("[data-points=used]").all()}
    assert len(colors) == 5 and len(marks) == 5
    expect(page.locator("[data-names]")).to_contain_text("Trial 5")
    expect(page.get_by_text("in no course does a quadratic term differ from zero")).to_be_visible()
    ends = [page.locator(f"[data-window={end}]") for end in ("lower", "upper")]
    first, last = (_middle(end) for end in ends)
    span = float(ends[1].get_attribute("aria-valuenow") or 0)
    box = ends[1].bounding_box()
    assert box
    y = box["y"] + box["height"] / 2
    page.mouse.move(last, y)
    page.mouse.down()
    page.mouse.move(first + (last - first) * 121 / span, y, steps=6)
    page.mouse.up()
    draft(page, 2)
    expect(page.get_by_text("A line through 0 to 120 s")).to_be_visible()
    assert points(site, run) == [13] * 5
    page.get_by_label("Most points that may be left out at either end").fill("3")
    page.keyboard.press("Enter")
    draft(page, 3)
    expect(page.get_by_text("the rule of this run allows 3").first).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_label("End of the window in time").fill("")
    page.keyboard.press("Enter")
    draft(page, 4)
    page.get_by_label("First points left out").fill("3")
    page.keyboard.press("Enter")
    draft(page, 5)
    assert points(site, run) == [17] * 5
    page.locator("body").click(position={"x": 5, "y": 500})
    page.keyboard.press("Control+z")
    draft(page, 6)
    assert points(site, run) == [20] * 5


def test_a_point_is_excluded_by_key_and_the_window_moved_by_key(page: Page, site: Site) -> None:
    run = opened(page, trials())
    page.get_by_role("group", name=re.compile("against Time")).focus()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    page.keyboard.press("x")
    page.get_by_role("dialog").get_by_label("Reason").fill("bubble")
    page.keyboard.press("Enter")
    draft(page, 2)
    expect(page.locator("[data-points=excluded]")).to_have_count(1)
    assert points(site, run) == [17, 18, 18, 18, 18]
    page.get_by_role("slider", name="End of the window").focus()
    page.keyboard.press("ArrowLeft")
    draft(page, 3)
    assert points(site, run) == [16, 17, 17, 17, 17]
    page.get_by_role("button", name="Ledger").or_(page.get_by_role("tab", name="Ledger")).first.click()
    expect(page.get_by_text("Excluded Trial 1 at 20 s: bubble")).to_be_visible()


def test_a_kinetic_plate_is_laid_out_colored_and_looked_at(page: Page, site: Site) -> None:
    run = opened(page, courses.temperature_plate())
    hand = Hand(page)
    hand.drag("C5", "D6")
    page.keyboard.press("b")
    draft(page, 2)
    assert described(page, "D6").startswith("Blank")
    for first, last, level in (
        ("A1", "A2", "8 °C"),
        ("A3", "A4", "12 °C"),
        ("A5", "A6", "16 °C"),
        ("B1", "B2", "20 °C"),
    ):
        hand.drag(first, last)
        page.keyboard.press("a")
        page.get_by_label("Name", exact=True).fill(level)
        page.get_by_label(re.compile("^Level")).fill(level)
        page.keyboard.press("Enter")
        expect(well(page, first)).to_have_attribute("aria-label", re.compile(re.escape(level)))
    choose(page, "Wells show", "Rate / 1/min")
    page.get_by_label("shade").check()
    expect(well(page, "B1")).to_contain_text("0.02")
    page.get_by_role("button", name="Wall").or_(page.get_by_role("tab", name="Wall")).first.click()
    tiles = page.get_by_role("region", name="All courses").get_by_role("button", name=re.compile(r": [−\d.]+"))
    assert tiles.count() > 10
    page.get_by_role("button", name=re.compile("^20 °C · 2")).click()
    expect(page.get_by_role("combobox", name="Course looked at")).to_have_text("20 °C · 2")
    well(page, "A3").click()
    expect(page.get_by_role("combobox", name="Course looked at")).to_have_text("12 °C · 1")
    expect(page.get_by_role("region", name="Show working")).to_contain_text("− the mean of 4 blank courses")
    rows = {row["Course"]: row for row in exported(site, run)}
    assert float(rows["20 °C"]["Rate (1/min)"]) == pytest.approx(0.0210, rel=0.05)  # what the demo draws it from


def test_growth_by_other_models_scales_and_without_one(page: Page, site: Site) -> None:
    run = opened(page, courses.growth_table())
    answers = page.get_by_role("table", name="Answers")
    expect(answers).to_contain_text("Doubling time")
    logistic = float(exported(site, run)[0]["Greatest specific rate (1/h)"])
    assert logistic == pytest.approx(0.058, rel=0.05)
    page.get_by_role("radio", name="Baranyi").click()
    draft(page, 2)
    assert float(exported(site, run)[0]["Potential specific rate (1/h)"]) > logistic
    choose(page, "Scale of y", "percent of its greatest y")
    draft(page, 3)
    expect(page.get_by_role("group", name=re.compile("% of the greatest"))).to_be_visible()
    page.get_by_role("button", name="Own equation").click()
    page.get_by_label("Equation in x and parameters").fill("top/(1 + exp(-k*(x - mid)))")
    page.get_by_role("button", name="Use this equation").click()
    draft(page, 4)
    expect(answers).to_contain_text("k")
    expect(page.get_by_role("list", name="Comparisons")).to_contain_text("Flask A and Flask B")


def test_the_rates_of_puromycin_come_to_km_and_are_straightened_for_teaching(page: Page, site: Site) -> None:
    """Bates & Watts (1988): Km 0.0641 ppm, 0.0469 to 0.0862 by profile (tests/reference/mm_puromycin_treated)."""
    case = reference("mm_puromycin_treated")
    rows = [
        f"S{k}\t{x}\t{t}\t{y * t}"
        for k, (x, y) in enumerate(zip(case["data"]["x"], case["data"]["y"], strict=True)) for t in range(6)
    ]  # fmt: skip
    run = opened(page, "Name\tSubstrate (ppm)\tTime (min)\tSignal\n" + "\n".join(rows))
    below = page.get_by_role("table", name=re.compile("^Hyperbola: rate against"))
    expect(below).to_contain_text("0.064")
    below.locator("[data-column=against_half] button").click()
    expect(page.get_by_role("region", name="Show working")).to_contain_text("x at half the maximum")
    page.get_by_role("radio", name="Against level").click()
    expect(page.get_by_role("img", name=re.compile("^Rate .* against"))).to_be_visible()
    page.get_by_role("radio", name="Straightened").click()
    expect(page.get_by_text("A line through these points would give maximum 196 (the curve: 213)")).to_be_visible()
    choose(page, "Straightened as", "Level over rate")
    expect(page.get_by_text("maximum 216")).to_be_visible()
    step(page, "Against level").first.click()
    choose(page, "Curve against the level", "substrate inhibition")
    draft(page, 2)
    expect(page.get_by_role("table", name=re.compile("^Substrate inhibition"))).to_contain_text("Ki")
    choose(page, "Curve against the level", "saturation (Vmax, Km)")
    draft(page, 3)
    text = site.client.get(f"/api/runs/{run}/answers.csv").raise_for_status().text
    second = dict(zip(*list(csv.reader(io.StringIO(text.split("\r\n\r\n")[1])))[1:3], strict=True))
    assert float(second["Km (ppm)"]) == pytest.approx(case["expected"]["Km"], rel=1e-6)


def test_rates_are_brought_to_real_units_and_wrong_ones_are_said(page: Page) -> None:
    opened(page, trials())
    step(page, "Scale").first.click()
    page.get_by_label("absorptivity value").fill("6220")
    page.keyboard.press("Enter")
    draft(page, 2)
    expect(page.get_by_text("Scale: rates").or_(page.get_by_text("÷ absorptivity 6220"))).to_be_visible()
    page.get_by_label("path value").fill("1")
    page.keyboard.press("Enter")
    draft(page, 3)
    expect(page.get_by_role("table", name="Answers")).to_contain_text("µmol/L/min")
    page.get_by_label("Unit of the rates").fill("blubs")
    page.keyboard.press("Enter")
    draft(page, 4)
    expect(page.get_by_text("“blubs” is no unit Dosis knows.").first).to_be_visible()

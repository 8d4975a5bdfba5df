"""Published standard curves done whole in the browser: what the screen shows and what the exports hold."""

import csv
import io
import re
from collections.abc import Sequence
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import open_run, paste
from tests.conftest import Site, reference


def table(x: Sequence[float], y: Sequence[float], samples: dict[str, Sequence[float]], unit: str) -> str:
    rows = [f"Std {level:g}\t{level!r}\t{signal!r}" for level, signal in zip(x, y, strict=True)]
    rows += [f"{name}\t\t{signal!r}" for name, signals in samples.items() for signal in signals]
    return "\n".join([f"Sample\tConc ({unit})\tSignal", *rows])


def exported(site: Site, run: int) -> dict[str, dict[str, str]]:
    text = site.client.get(f"/api/runs/{run}/answers.csv").raise_for_status().text.removeprefix("\ufeff")
    heading, *rows = csv.reader(io.StringIO(text))
    return {row[0]: dict(zip(heading, row, strict=True)) for row in rows}


def choose(page: Page, label: str, option: str) -> None:
    page.get_by_role("combobox", name=label, exact=True).click()
    page.get_by_role("option", name=option, exact=True).click()


def draft(page: Page, number: int) -> None:
    expect(page.get_by_text(f"Revision {number}", exact=True)).to_be_visible()


def inverse(name: str) -> dict[str, Any]:
    """The published read-back of a single reading."""
    expected = reference(name)["expected"]
    known: list[dict[str, Any]] = expected.get("ols", expected)["inverse"]
    return next(each for each in known if each["m"] == 1)


@pytest.mark.parametrize("name", ["cal_linear_fluorescein", "cal_quadratic_curvature"])
def test_a_published_calibration_reads_a_sample_back(page: Page, site: Site, name: str) -> None:
    """Miller & Miller, Statistics and Chemometrics for Analytical Chemistry: fluorescein; the curved calibration."""
    data, known = reference(name)["data"], inverse(name)
    run = open_run(page, site, table(data["x"], data["y"], {"Unknown": [known["y0"]]}, "ng/mL"))
    if "quadratic" in name:
        page.get_by_role("button", name=re.compile("^All")).click()
        page.get_by_role("dialog").get_by_role("radio", name="Quadratic").click()
        draft(page, 2)
    if known["x"] < min(x for x in data["x"] if x > 0):  # between the zero standard and the lowest one above it
        page.get_by_role("button", name=re.compile("^Read back")).click()
        choose(page, "Extrapolate", "extrapolated, and marked")
    row = page.get_by_role("table", name="Answers").get_by_role("row").filter(has_text="Unknown")
    expect(row).to_contain_text(f"{known['x']:.2g}"[:3])
    out = exported(site, run)["Unknown"]
    interval = known.get("ci95_fieller") or known["ci95_inversion"]
    assert float(out["In reading (ng/mL)"]) == pytest.approx(known["x"], rel=1e-8)
    assert [float(out[f"In reading, {end}"]) for end in ("lower", "upper")] == pytest.approx(interval, rel=1e-7)


def test_published_cadmium_with_its_lack_of_fit_and_through_zero(page: Page, site: Site) -> None:
    """EURACHEM/CITAC Guide, Quantifying Uncertainty in Analytical Measurement, A5: cadmium by AAS."""
    known = reference("cal_linear_quam_cadmium")
    data, line = known["data"], known["expected"]["ols"]
    open_run(page, site, table(data["x"], data["y"], {"Unknown": [0.1, 0.101]}, "mg/L"))
    expect(page.get_by_text("weighted by their spread")).to_be_visible()  # as these standards plainly need it
    choose(page, "Weights", "nothing: all alike")
    draft(page, 2)
    slope = page.get_by_role("row").filter(has=page.get_by_role("button", name="Working of slope"))
    expect(slope).to_contain_text(f"{line['slope']:.3f}")
    slope.get_by_role("button", name="Working of slope").click()
    compared = page.get_by_role("table", name="Curves compared")
    expect(compared).to_contain_text(f"R² {line['r_squared']:.4f}")
    working = page.get_by_role("region", name="Show working")
    expect(working).to_contain_text("Sxy ÷ Sxx")
    expect(working).to_contain_text(f"{line['se_slope']:.3g}".rstrip("0"))
    page.get_by_text("All statistics").click()
    page.get_by_title("Show working").filter(has_text="F(").click()
    expect(working).to_contain_text("Pure error")
    page.get_by_role("radio", name="Line through zero").click()
    draft(page, 3)
    expect(page.get_by_role("row").filter(has_text="slope")).to_have_count(1)
    expect(compared).to_contain_text("Line")


def test_published_standard_additions_from_question_to_answer(page: Page, site: Site) -> None:
    """Miller & Miller: silver in photographic waste, 17.3 µg/mL, by Fieller 15.4 to 19.3."""
    known = reference("standard_addition_silver")
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    choose(page, "The question", "How much is in my sample? Standard additions")
    rows = [
        f"{'Waste' if x == 0 else f'Added {x}'}\t{x or ''}\t{y}"
        for x, y in zip(known["data"]["x"], known["data"]["y"], strict=True)
    ]
    paste(page, "\n".join(["Sample\tAdded (µg/mL)\tA", *rows]))
    page.get_by_role("button", name="Open run").click()
    row = page.get_by_role("table", name="Answers").get_by_role("row").filter(has_text="Waste")
    expect(row).to_contain_text("15.4 – 19.3")
    row.click()
    expect(page.get_by_role("region", name="Show working")).to_contain_text("0.321786 ÷ 0.0186429")
    out = exported(site, int(page.url.rsplit("/", 1)[1]))["Waste"]
    assert float(out["In reading (µg/mL)"]) == pytest.approx(known["expected"]["x_intercept_magnitude"], rel=1e-10)


def lots() -> str:
    rows = ["Blank\t\t0.05\t"]
    for lot, slope in (("Lot A", 0.2), ("Lot B", 0.26)):
        rows += [f"{lot} std {x:g}\t{x}\t{0.05 + slope * x + r:.3f}\t{lot}" for x in (0.5, 1, 2, 4) for r in (0, 0.004)]
        rows.append(f"{lot} sample\t\t{0.05 + slope * 2.5:.3f}\t{lot}")
    return "\n".join(["Sample\tConc (µM)\tA\tSeries", *rows])


def test_two_series_have_a_curve_each_on_one_figure(page: Page, site: Site) -> None:
    open_run(page, site, lots())  # each lot has standards of its own, and every sample says which are its
    expect(page.get_by_role("combobox", name="Curve of")).to_have_text("Lot A")
    expect(page.locator("[data-curve]")).to_have_count(1)
    answers = page.get_by_role("table", name="Answers")
    answers.get_by_text("Lot B sample").click()  # leads to the curve it was read through
    expect(page.get_by_role("combobox", name="Curve of")).to_have_text("Lot B")
    slope = page.get_by_role("row").filter(has=page.get_by_role("button", name="Working of slope"))
    expect(slope).to_contain_text("0.260")
    page.get_by_role("button", name="Working of slope").click()
    expect(page.get_by_role("region", name="Show working")).to_contain_text("Estimate")
    # One setting for all of them.
    page.get_by_role("radio", name="Line through zero").click()
    draft(page, 2)
    expect(page.get_by_role("region", name="Working", exact=True)).to_contain_text("Lot B: Line through zero")


def test_the_axes_are_zoomed_by_a_frame_dragged_and_typed(page: Page, site: Site) -> None:
    open_run(page, site, lots())
    choose(page, "One curve for", "one curve for the run")
    draft(page, 2)
    figure = page.get_by_role("img", name=re.compile("against"))
    marks = page.locator("[data-point]")
    expect(marks).to_have_count(16)
    pane = page.locator("[data-zoom=plot]").bounding_box()
    assert pane
    page.mouse.move(pane["x"] + pane["width"] * 0.45, pane["y"] + pane["height"] * 0.95)
    page.mouse.down()
    page.mouse.move(pane["x"] + pane["width"] * 0.99, pane["y"] + 3, steps=5)
    page.mouse.up()
    expect(figure).to_contain_text("outside these axes")
    assert 0 < marks.count() < 16
    page.get_by_role("button", name="Show all").click()
    expect(marks).to_have_count(16)
    page.get_by_role("button", name="Axes…").click()
    axes = page.get_by_role("dialog", name="Ends of the axes")
    axes.get_by_label("From").first.fill("2.5")
    axes.get_by_label("To").first.fill("1")
    expect(axes.get_by_text("From is above to.")).to_be_visible()
    axes.get_by_label("To").first.fill("5.5")
    page.keyboard.press("Enter")
    expect(marks).to_have_count(4)  # those at 4 µM
    axis = page.locator("[data-zoom=x]").bounding_box()
    assert axis
    page.mouse.move(axis["x"] + axis["width"] * 0.1, axis["y"] + 12)
    page.mouse.down()
    page.mouse.move(axis["x"] + axis["width"] * 0.5, axis["y"] + 12, steps=5)
    page.mouse.up()
    expect(marks).to_have_count(8)  # moved on by less than half its length, 2 µM is seen and 4 µM is not gone
    draft(page, 2)  # views change nothing


def test_a_spiked_sample_and_each_reading_on_its_own(page: Page, site: Site) -> None:
    rows = "Std 1\t1\t0.1\nStd 2\t10\t1\nStd 3\t5\t0.5\nPond\t\t0.3\nPond\t\t0.31\nPond + 4\t\t0.69\nPond + 4\t\t0.71"
    open_run(page, site, f"Sample\tConc (µM)\tA\n{rows}")
    answers = page.get_by_role("table", name="Answers")
    answers.get_by_text("Pond + 4").click()
    page.keyboard.press("a")
    dialog = page.get_by_role("dialog")
    choose(page, "An amount was added to", "Pond")
    dialog.get_by_label("Added / µM").fill("4")
    dialog.get_by_role("button", name="Assign").click()
    draft(page, 2)
    expect(answers.get_by_role("row").filter(has_text="Pond + 4")).to_contain_text("99 %")
    page.get_by_role("button", name=re.compile("^Checks")).click()
    page.get_by_role("button", name="Working of Additions recovered").click()
    expect(page.get_by_role("region", name="Show working")).to_contain_text("of 4 added to Pond")
    page.keyboard.press("Control+k")
    page.keyboard.type("each on its own")
    page.keyboard.press("Enter")
    draft(page, 3)
    expect(answers.get_by_text("Pond · 2", exact=True)).to_be_visible()
    answers.get_by_text("Pond · 2", exact=True).click()
    expect(page.get_by_role("region", name="Show working")).to_contain_text("Read back (2)")

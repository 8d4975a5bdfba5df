"""Dose–response in the browser: from a pasted assay or a plate to half-effect doses and their comparison."""

import csv
import io
import math
import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import current_draft, open_card, paste
from tests.browser.test_published_curves import choose, draft
from tests.conftest import Site, reference


def opened(page: Page, text: str, question: str = "Which dose has half the effect? Dose–response") -> int:
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    choose(page, "The question", question)
    paste(page, text)
    page.get_by_role("button", name="Open run").click()
    page.get_by_role("region", name="Answers").wait_for()
    return int(page.url.rsplit("/", 1)[1])


def assay(name: str) -> str:
    data = reference(name)["data"]
    series = data.get("group", ["Only"] * len(data["x"]))
    rows = [f"Dose\t{x!r}\t{y!r}\t{s}" for x, y, s in zip(data["x"], data["y"], series, strict=True)]
    return "\n".join(["Sample\tDose (mM)\tResponse\tSeries", *rows])


def test_a_published_ec50_normalized_and_raw(page: Page, site: Site) -> None:
    """Inderjit, Streibig & Olofsdotter (2002), Physiol. Plant. 114, 422: ferulic acid, EC50 3.06 mM."""
    known = reference("fpl_ryegrass")["expected"]
    run = opened(page, assay("fpl_ryegrass"))
    answers = page.get_by_role("table", name="Answers")
    expect(answers).to_contain_text("3.06")
    choose(page, "What counts as no effect?", "the lowest dose")
    choose(page, "What counts as full effect?", "the highest dose")
    draft(page, 3)
    expect(page.get_by_role("region", name="Curve")).to_contain_text("Response / %")
    expect(page.get_by_role("img", name=re.compile("^Responses on the scale, with [1-9]"))).to_be_visible()
    page.get_by_role("button", name=re.compile("^Half effect")).click()
    choose(page, "Interval by", "by profile likelihood")
    draft(page, 4)
    page.get_by_label("Effects in percent").fill("50, 120")
    page.keyboard.press("Enter")
    expect(page.get_by_text("One to six numbers between 0 and 100")).to_be_visible()
    page.get_by_label("Effects in percent").fill("50, 10")
    page.keyboard.press("Enter")
    draft(page, 5)
    expect(answers).to_contain_text("IC10")
    answers.get_by_title("Show working").first.click()
    expect(page.get_by_role("region", name="Show working")).to_contain_text("Interpolated")
    text = site.client.get(f"/api/runs/{run}/answers.csv").raise_for_status().text.removeprefix("\ufeff")
    heading, first, *_ = csv.reader(io.StringIO(text))
    row = dict(zip(heading, first, strict=True))
    assert float(row["IC50 relative (mM)"]) == pytest.approx(known["e"], rel=1e-6)
    bounds = [float(row[f"IC50 relative, {end}"]) for end in ("lower", "upper")]
    assert bounds == pytest.approx(known["ci95_EC50_profile"], rel=1e-4)


def test_two_published_curves_are_told_apart_and_share_what_is_ticked(page: Page) -> None:
    """Streibig (1998), Pesticide Science 55, 137: diuron on spinach, assays 4 and 5."""
    known = reference("ftest_spinach_diuron_assays")["expected"]
    opened(page, assay("ftest_spinach_diuron_assays"))
    expect(page.get_by_role("list", name="Comparisons")).to_contain_text("not the same")
    page.locator("[data-answer='5'] button, [data-answer='2'] button").first.click()
    expect(page.get_by_role("combobox", name="Curve of")).to_have_text("2")
    page.get_by_role("button", name=re.compile("^Curve")).first.click()
    page.get_by_label("lower", exact=True).click()
    draft(page, 2)
    page.get_by_label("upper", exact=True).click()
    draft(page, 3)
    page.get_by_role("button", name="Working of upper").click()
    shared = known["common_asymptotes"]["d"]
    expect(page.get_by_role("region", name="Show working")).to_contain_text(f"{shared:.2f}")


def test_the_demo_plate_by_mouse_and_keyboard(page: Page) -> None:
    page.goto("/studies/1")
    open_card(page, "Diatom growth, TP-17")
    expect(page.get_by_text("Lot A IC50 0.639 mg/L, Lot B IC50 1.48 mg/L.")).to_be_visible()
    first = current_draft(page)
    page.locator("#well-4-1").click()  # the clump of cells
    page.keyboard.press("x")
    page.keyboard.press("Enter")
    draft(page, first + 1)
    expect(page.get_by_text("Lot A IC50 0.611 mg/L, Lot B")).to_be_visible()  # 0.61 is what it was made from
    page.keyboard.press("Control+z")
    draft(page, first + 2)
    page.keyboard.press("Control+k")
    page.keyboard.type("fit raw")
    page.keyboard.press("Enter")
    draft(page, first + 3)
    expect(page.get_by_role("region", name="Curve")).to_contain_text("Fluorescence")
    choose(page, "Bars show", "95 %")
    page.get_by_label("readings", exact=True).click()
    page.locator("#well-0-0").click()
    page.keyboard.press("f")  # a vehicle well said to be full effect by mistake
    draft(page, first + 4)
    expect(page.get_by_text("Z′ is")).to_be_visible()
    for undone in range(5, 7):  # back to how it was
        page.keyboard.press("Control+z")
        draft(page, first + undone)


@pytest.mark.parametrize(
    ("link", "text"), [("probit", "probit"), ("logit", "logit"), ("cloglog", "complementary log-log")]
)
def test_published_counts_give_their_ld50_by_every_link(page: Page, site: Site, link: str, text: str) -> None:
    """Bliss (1935), Ann. Appl. Biol. 22, 134: beetles exposed to carbon disulphide."""
    data, known = reference("ld50_beetles_bliss")["data"], reference("ld50_beetles_bliss")["expected"][link]
    rows = [
        f"Beetles\t{10**x!r}\t{n}\t{r}"
        for x, n, r in zip(data["log10_dose"], data["total"], data["affected"], strict=True)
    ]
    table = "\n".join(["Treatment\tDose (mg/L)\tExposed\tDead", *rows])
    run = opened(page, table, "Which dose kills half? Counts")
    answers = page.get_by_role("table", name="Answers")
    expect(answers).to_contain_text("LC50")
    if link != "probit":
        choose(page, "Link", text)
        draft(page, 2)
    choose(page, "Scatter beyond chance", "nothing")  # as the book has it
    draft(page, 2 if link == "probit" else 3)
    slope = page.get_by_role("row").filter(has=page.get_by_role("button", name="Working of slope"))
    expect(slope).to_contain_text(f"{known['slope']:.1f}")
    answers.get_by_title("Show working").first.click()
    expect(page.get_by_role("region", name="Show working")).to_contain_text("by profile likelihood")
    text_out = site.client.get(f"/api/runs/{run}/answers.csv").raise_for_status().text.removeprefix("\ufeff")
    heading, first, *_ = csv.reader(io.StringIO(text_out))
    row = dict(zip(heading, first, strict=True))
    assert float(row["LC50 (mg/L)"]) == pytest.approx(known["LD50"]["dose"], rel=1e-6)
    bounds = [math.log10(float(row[f"LC50, {end}"])) for end in ("lower", "upper")]
    assert bounds == pytest.approx(known["LD50"]["ci95_log_fieller"], rel=1e-6)
    expect(page.get_by_text("affected / exposed")).to_be_visible()


def test_a_wall_of_curves_is_sorted_and_leads_to_the_curve(page: Page) -> None:
    page.goto("/studies/1")
    open_card(page, "Extract screen, plate 1")
    page.get_by_role("tab", name="Wall").click()
    first = current_draft(page)
    wall = page.get_by_role("region", name="Wall of curves")
    tiles = wall.get_by_role("listitem")
    expect(tiles).to_have_count(40)
    expect(tiles.first).to_contain_text("EX-01")
    wall.get_by_role("radio", name="Potency").click()
    shown = [text.split("IC50 ")[-1] for text in tiles.all_inner_texts() if "IC50" in text]
    doses = [float(re.match(r"[\d.]+", text)[0]) for text in shown]  # type: ignore[index]
    assert doses == sorted(doses) and len(doses) > 25
    expect(tiles.last).to_contain_text("none shown")
    wall.get_by_role("button", name=re.compile("^EX-26")).click()
    expect(page.get_by_role("combobox", name="Curve of")).to_have_text("EX-26")
    # One setting for all of them, seen on the wall at once.
    page.get_by_role("tab", name="Wall").click()
    page.keyboard.press("Control+k")
    page.keyboard.type("5-parameter")
    page.keyboard.press("Enter")
    draft(page, first + 1)
    expect(wall).to_be_visible()
    page.keyboard.press("Control+z")
    draft(page, first + 2)


def test_one_curve_of_the_wall_gets_a_setting_of_its_own(page: Page, site: Site) -> None:
    """What is left out of a wall is there when a curve is looked at; an exception is marked, and can be taken back."""
    (found,) = site.client.get("/api/runs", params={"find": "Extract screen, plate 1"}).json()["runs"]
    id = found["id"]
    page.goto(f"/runs/{id}")
    page.get_by_role("tab", name="Wall").click()
    page.get_by_role("button", name=re.compile("^EX-07")).click()
    working = page.get_by_role("region", name="Working", exact=True)
    working.get_by_role("button", name=re.compile("^Curve")).click()
    page.get_by_role("button", name="Working of slope").click()
    expect(page.get_by_role("region", name="Show working")).to_contain_text("What it is")
    choose(page, "This setting applies to", "of EX-07 alone")
    expect(working).to_contain_text("A setting of its own: EX-07.")
    page.get_by_role("radio", name="Hormesis").click()
    expect(working).to_contain_text("stimulation")
    page.get_by_role("tab", name="Wall").click()
    wall = page.get_by_role("region", name="Wall of curves")
    expect(wall).to_contain_text("all but 1 with a setting of its own")
    expect(wall.get_by_role("button", name=re.compile("^EX-07.*a setting of its own"))).to_contain_text("Hormesis")
    page.get_by_role("tab", name="Ledger").click()
    expect(page.get_by_text(re.compile("EX-07: Hormesis")).first).to_be_visible()
    page.get_by_role("tab", name="Work").click()
    choose(page, "This setting applies to", "of all series")
    expect(working).not_to_contain_text("A setting of its own")


def test_wells_show_how_far_they_lie_from_their_curve(page: Page) -> None:
    page.goto("/studies/1")
    open_card(page, "Diatom growth, TP-17")
    choose(page, "Wells show", "Deviation")
    expect(page.locator("#well-0-4")).to_contain_text(re.compile(r"[+−]\d"))
    expect(page.get_by_text("no edge effect, no drift").first).to_be_visible()
    shades = page.locator("[role=gridcell]").evaluate_all("wells => new Set(wells.map(w => w.style.background)).size")
    assert shades > 40


def test_counts_over_time_and_on_the_scale_of_their_link(page: Page) -> None:
    """Bliss's beetles at two times, as if the second had taken half the dose; the table itself asks the question."""
    data = reference("ld50_beetles_bliss")["data"]
    rows = [
        f"Beetles\t{hours}\t{10**x * factor!r}\t{n}\t{r}"
        for hours, factor in ((24, 1.0), (48, 0.5))
        for x, n, r in zip(data["log10_dose"], data["total"], data["affected"], strict=True)
    ]
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    paste(page, "\n".join(["Treatment\tTime (h)\tDose (mg/L)\tExposed\tDead", *rows]))
    expect(page.get_by_role("combobox", name="The question")).to_contain_text("Which dose kills half?")
    page.get_by_role("button", name="Open run").click()
    figure = page.get_by_role("region", name="Curve")
    page.get_by_role("radio", name="over time").click()
    drawn = page.get_by_role("img", name="LC50 against time")
    expect(drawn).to_contain_text("Time of exposure / h")
    assert [mark.split(" ")[1] for mark in drawn.locator("g > title").all_text_contents()] == ["24", "48"]
    page.get_by_role("radio", name="by dose").click()
    page.get_by_role("radio", name="probit y").click()
    expect(figure).to_contain_text("stand at the edges")
    expect(figure.get_by_text("95", exact=True)).to_be_visible()
    # On its own scale the line is straight: the middle of the path lies on the chord of its ends.
    path = figure.locator("path[clip-path='url(#inside-range)']").get_attribute("d") or ""
    points = [tuple(map(float, pair)) for pair in re.findall(r"(-?[\d.]+)[ ,](-?[\d.]+)", path)]
    height = figure.locator("#inside-plot rect").bounding_box()
    assert height is not None and len(points) > 20
    inside = [p for p in points if 20 < p[1] < height["height"]]
    (x0, y0), (x1, y1) = inside[0], inside[-1]
    for x, y in inside:
        assert y == pytest.approx(y0 + (y1 - y0) * (x - x0) / (x1 - x0), abs=2)


def test_spearman_and_karber_of_published_counts(page: Page, site: Site) -> None:
    """Finney (1971), Probit Analysis: rotenone, trimmed as by Hamilton, Russo & Thurston (1977)."""
    data = reference("ld50_rotenone_finney")["data"]
    known = reference("spearman_karber_rotenone")["expected"]["trim_0.2"]
    doses = data.get("dose") or [10**x for x in data["log10_dose"]]
    rows = [f"Aphids\t{x!r}\t{n}\t{r}" for x, n, r in zip(doses, data["total"], data["affected"], strict=True)]
    run = opened(page, "\n".join(["Treatment\tDose (mg/L)\tExposed\tDead", *rows]), "Which dose kills half? Counts")
    page.get_by_role("button", name=re.compile("^Lethal dose")).click()
    trim = page.get_by_label(re.compile("rim"))
    trim.fill("20")
    trim.press("Enter")
    draft(page, 2)
    expect(page.get_by_role("table", name="Answers")).to_contain_text(f"{known['LD50']:.2f}")
    text = site.client.get(f"/api/runs/{run}/answers.csv").raise_for_status().text.removeprefix("\ufeff")
    heading, first, *_ = csv.reader(io.StringIO(text))
    assert float(first[heading.index("Trimmed (mg/L)")]) == pytest.approx(known["LD50"], rel=1e-9)

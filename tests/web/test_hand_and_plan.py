"""What the hand does: lines drawn, paths tilted, plans made, standards edited."""

from __future__ import annotations

import itertools
import re

import pytest
from playwright.sync_api import Page, expect
from screen import MEASURING_MS, boxes, open_demo
from waiting import until


def test_the_finish_line_is_corrected_by_hand(page: Page) -> None:
    """A point dragged inward is kept as drawn and judged; undo brings the found line back; a stretch is drawn."""
    open_demo(page)
    page.get_by_role("button", name="Attempt 2").click()
    page.keyboard.press("4")
    tools = page.get_by_role("group", name="By hand")
    expect(tools).to_be_visible()
    page.wait_for_load_state("networkidle")
    handles = page.get_by_role("button", name=re.compile("of the finish line"))
    expect(handles.first).to_be_visible()
    assert handles.count() > 8
    tools.get_by_label("snap to the finish line").uncheck()
    box, sheet = handles.nth(3).bounding_box(), page.locator("canvas").first.bounding_box()
    assert box is not None
    assert sheet is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    middle = sheet["x"] + sheet["width"] / 2, sheet["y"] + sheet["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 0.12 * (middle[0] - x), y + 0.12 * (middle[1] - y), steps=4)
    page.mouse.up()
    undo = tools.get_by_role("button", name="Undo")
    expect(undo).to_be_enabled(timeout=MEASURING_MS)
    expect(tools.get_by_role("button", name="As found")).to_be_visible()
    undo.click()
    expect(tools.get_by_role("button", name="As found")).to_be_hidden(timeout=MEASURING_MS)

    tools.get_by_role("button", name="Draw line").click()
    for index in (0.0, 0.08):
        page.mouse.click(middle[0] + index * sheet["width"], middle[1])
    expect(tools.get_by_role("button", name="Use stretch")).to_be_enabled()
    tools.get_by_role("button", name="Take point back").click()
    expect(tools.get_by_role("button", name="Use stretch")).to_be_disabled()


@pytest.mark.long
@pytest.mark.opens("SM-0212")
def test_the_path_is_tilted_on_the_rose(page: Page) -> None:
    """The tipped 47 is blocked by the premolar on its own path; dragged upright it is free, with an undercut."""
    page.goto("/")
    page.get_by_role("link", name=re.compile("SM-0212")).click()
    blocked = page.locator("aside li", has_text=re.compile("blocked"))
    expect(blocked).to_be_visible()
    page.keyboard.press("r")
    path = page.get_by_role("slider", name=re.compile("Path of insertion"))
    box = path.bounding_box()
    assert box is not None
    before = path.get_attribute("aria-valuetext")
    rose = page.get_by_role("group", name=re.compile("Taper by azimuth")).bounding_box()
    assert rose is not None
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(rose["x"] + rose["width"] / 2, rose["y"] + rose["height"] / 2, steps=6)
    page.mouse.up()
    tried = page.get_by_text(re.compile("Along this path: undercut 0"))  # ahead of the judgement
    expect(tried).to_be_visible(timeout=MEASURING_MS)
    best = page.get_by_role("button", name="Best path")
    expect(best).to_be_enabled(timeout=MEASURING_MS)
    assert path.get_attribute("aria-valuetext") != before
    expect(page.get_by_text("Path of insertion: yours")).to_be_visible()
    expect(page.locator("aside li", has_text="undercut").first).to_be_visible()
    best.click()
    expect(best).to_be_hidden(timeout=MEASURING_MS)
    expect(blocked).to_be_visible()


def test_decide_plan_and_print(page: Page) -> None:
    """The old crown's 32: choices, the plan with its depths, another taper, the order of work, one page to print."""
    page.goto("/")
    page.locator("li", has_text="SM-0231").get_by_role("link", name="Plan", exact=True).click()
    expect(page.get_by_label(re.compile("surface before cutting is: Old crown, its form"))).to_be_visible()
    page.get_by_role("button", name="Make the plan").click()
    expect(page.get_by_role("button", name="Depths")).to_be_visible(timeout=MEASURING_MS)
    expect(page.locator("aside li", has_text="incisal edge")).to_contain_text("1.5")
    expect(page.locator("aside")).to_contain_text("old crown's contour")
    pin = page.get_by_role("button", name="lingual fossa: 0.7 mm")
    expect(pin).to_be_visible()
    pin.click()
    page.get_by_role("button", name="From facial (F)").click()
    expect(page.get_by_role("button", name="facial surface, middle third: 0.7 mm")).to_be_visible()
    labels = page.get_by_role("button", name=re.compile(r": [0-9.]+ mm$"))
    shown = until(lambda: boxes(labels), lambda found: len(found) >= 3)
    for a, b in itertools.combinations(shown, 2):
        aside = a["right"] <= b["left"] or b["right"] <= a["left"]
        assert aside or a["bottom"] <= b["top"] or b["bottom"] <= a["top"]
    page.get_by_role("button", name="Order", exact=True).click()
    expect(page.locator("aside")).to_contain_text("anaesthetic")
    expect(page.locator("aside")).to_contain_text("planes one by one")
    page.get_by_role("button", name="Choose").click()
    page.get_by_label(re.compile("^Taper:")).click()
    page.get_by_role("option", name=re.compile("3° a wall")).click()
    expect(page.get_by_role("progressbar")).to_be_visible()
    expect(page.get_by_role("progressbar")).to_be_hidden(timeout=MEASURING_MS)
    address = page.get_by_role("link", name="Print").get_attribute("href")
    assert address is not None
    with page.expect_download() as download:
        page.get_by_role("link", name="Target as STL").click()
    assert download.value.path().stat().st_size > 50_000
    page.goto(address)
    expect(page.get_by_role("heading", name="SM-0231 · tooth 32")).to_be_visible()
    expect(page.locator("body")).to_contain_text("walls 3 degrees each")
    assert page.pdf(format="A4").count(b"/Type /Page\n") == 1


def test_a_standard_is_copied_edited_and_kept(page: Page) -> None:
    """What is wrong in it is said while typing; kept, it can be chosen, compared and edited on."""
    page.goto("/library")
    page.get_by_role("button", name="Copy and edit").first.click()
    groove = page.get_by_label("reduction, groove, min")
    groove.fill("1.9")
    expect(page.get_by_role("alert")).to_contain_text("min < target")
    expect(page.get_by_role("button", name="Keep as our own")).to_be_disabled()
    groove.fill("1.1")
    page.get_by_label("Title").fill("Ours for the back")
    page.get_by_role("button", name="Keep as our own").click()
    expect(page.get_by_text("Kept: Ours for the back, version 1")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("Ours for the back.*own, version 1"))).to_be_visible()
    page.get_by_role("button", name="Mill", exact=True).click()
    radius = page.get_by_label("Radius of its finest bur, mm")
    expect(radius).to_have_value("0.5")
    page.get_by_role("button", name="Bur tray").click()
    expect(page.get_by_label("Name of bur 1", exact=True)).to_have_value("ball, 1.0")
    page.get_by_role("button", name="Orders of work").click()
    expect(page.get_by_text("Occlusal first")).to_be_visible()

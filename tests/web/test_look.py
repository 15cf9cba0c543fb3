"""Looking closer: pins and tapes, the section dragged on the sheet, two sheets, help, pictures, a standard tried."""

from __future__ import annotations

import io
import json
import re
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Locator, Page, expect
from quiet import quiet
from screen import MEASURING_MS, canvas, open_demo
from waiting import until

from vane_line.report.package import opened


def middle_of(page: Page) -> tuple[float, float]:
    box = page.locator("canvas").first.bounding_box()
    assert box is not None
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def mm_in(text: str) -> list[float]:
    return [float(v) for v in re.findall(r"(\d+\.\d+) mm", text)]


@pytest.mark.long
def test_pins_read_every_lens_measure_and_stay(page: Page) -> None:
    """Two presses, two pins: straight is not longer than along the surface; named, kept over a reload, taken out."""
    open_demo(page)
    quiet(page)
    x, y = middle_of(page)
    page.keyboard.press("i")
    pins = page.get_by_label("Pins", exact=True)
    page.mouse.click(x - 60, y - 20)
    expect(pins.locator("li")).to_have_count(1)
    page.mouse.click(x + 70, y + 30)
    expect(pins.locator("li")).to_have_count(2)
    told = pins.get_by_role("status")
    expect(told).to_contain_text("along the surface", timeout=MEASURING_MS)
    straight, along = mm_in(told.inner_text())
    assert 1.0 < straight <= along < 3 * straight
    expect(pins.locator("li").first).to_contain_text("cut,")
    page.keyboard.press("2")
    expect(pins.locator("li").first).to_contain_text("of room")
    pins.get_by_label("Name of pin 1").fill("central groove")
    pins.get_by_label("Name of pin 1").press("Enter")
    expect(page.get_by_role("button", name=re.compile("^Pin 1: central groove"))).to_be_visible()
    page.reload()
    expect(pins.get_by_label("Name of pin 1")).to_have_value("central groove")
    record = page.get_by_role("dialog", name="Record and package")
    page.get_by_role("button", name="Record").click()
    with page.expect_download() as download:
        record.get_by_role("link", name=re.compile("^Answer")).click()
    page.keyboard.press("Escape")
    for left in (1, 0):
        pins.get_by_role("button", name="Take out pin 1").click()
        expect(pins.locator("li")).to_have_count(left)
    page.get_by_role("button", name="Record").click()
    for said in ("2 marks were taken in", "0 marks were taken in"):
        record.get_by_label("Answer to take in").set_input_files(download.value.path())
        expect(record.get_by_role("status")).to_contain_text(said)
    page.keyboard.press("Escape")
    expect(pins.get_by_label("Name of pin 1")).to_have_value("central groove")
    for left in (1, 0):
        pins.get_by_role("button", name="Take out pin 1").click()
        expect(pins.locator("li")).to_have_count(left)


def figures(section: Locator) -> list[str]:
    return [t for t in section.locator("svg text").all_text_contents() if re.fullmatch(r"\d\.\d\d", t)]


@pytest.mark.long
def test_the_section_is_dragged_on_the_sheet(page: Page) -> None:
    """Its figures stand in the drawing and change as its end is dragged; the attempt before follows, dotted."""
    open_demo(page)
    page.get_by_role("button", name="Attempt 2").click()
    expect(page.get_by_text("Since attempt 1")).to_be_visible()
    page.keyboard.press("s")
    section = page.get_by_label("Section", exact=True)
    expect(section.locator("svg text").filter(has_text=re.compile(r"^\d\.\d\d$"))).not_to_have_count(
        0, timeout=MEASURING_MS
    )
    before = figures(section)
    assert len(before) >= 4  # two walls, cusps and the groove between them
    assert all(0.2 < float(v) < 4 for v in before)
    expect(section.locator('path[stroke-dasharray="0.08 0.12"][d^="M"]')).to_have_count(1, timeout=MEASURING_MS)
    end = page.get_by_role("button", name="Move the section")
    box = end.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 22, box["y"] + 22)
    page.mouse.down()
    page.mouse.move(box["x"] + 82, box["y"] + 22, steps=4)
    page.mouse.up()
    expect(section.get_by_text(re.compile(r"Offset -?[1-5]\.\d mm"))).to_be_visible()
    expect(section.locator("svg text").first).not_to_have_text(before[0], timeout=MEASURING_MS)
    page.get_by_role("button", name="Turn the section").press("ArrowUp")
    expect(section.get_by_text("Turn 5°")).to_be_visible()


def test_two_attempts_lie_side_by_side_and_are_wiped(page: Page) -> None:
    """The other attempt turns with this one and wears the same lens; wiped, the edge tells how much of each is seen."""
    open_demo(page)
    quiet(page)
    page.keyboard.press("c")
    group = page.get_by_role("group", name="Two sheets")
    expect(group).to_contain_text("Attempt 1")
    expect(page.locator("canvas")).to_have_count(2)
    other = page.get_by_role("img", name=re.compile("^Attempt 2, depth lens"))
    expect(other).to_be_visible()
    quiet(page)
    first = other.screenshot()
    assert np.asarray(Image.open(io.BytesIO(first)).convert("L")).std() > 8  # a tooth, not an empty ground
    page.keyboard.press("f")
    quiet(page)
    assert other.screenshot() != first
    group.get_by_role("button", name="Wipe").click()
    quiet(page)
    half = page.screenshot()
    slider = group.get_by_role("slider")
    slider.focus()
    slider.press("End")
    expect(slider).to_have_attribute("aria-valuenow", "1")
    until(lambda: page.screenshot() != half)
    group.get_by_role("button", name="Close").click()
    expect(page.locator("canvas")).to_have_count(1)


def test_help_tells_parts_keys_and_words_and_walks_once(page: Page) -> None:
    """`?` anywhere; the words come from the core; the first walk has five steps and can be left."""
    page.goto("/")
    page.get_by_role("button", name="First walk").click()
    walk = page.get_by_role("dialog", name=re.compile("First walk"))
    expect(walk).to_contain_text("1 of 5")
    expect(page.locator("aside").get_by_role("status").first).to_be_visible()
    for step in range(2, 6):
        walk.get_by_role("button", name="On", exact=True).click()
        expect(walk).to_contain_text(f"{step} of 5")
    walk.get_by_role("button", name="Done").click()
    expect(walk).to_have_count(0)
    page.keyboard.press("?")
    dialog = page.get_by_role("dialog", name="Help")
    expect(dialog.locator("ol li")).not_to_have_count(0)
    expect(dialog.get_by_text("simulate strokes")).to_be_visible()
    dialog.get_by_role("button", name="Words").click()
    dialog.get_by_role("searchbox").fill("ferrule")
    expect(dialog.locator("dt").first).to_have_text(re.compile("ferrule", re.IGNORECASE))
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)


@pytest.mark.long
def test_a_view_is_kept_as_a_picture_with_its_legend(page: Page, tmp_path: Path) -> None:
    """A PNG as wide as the sheet and higher: title above, legend below, nothing that is pressed in it."""
    open_demo(page)
    quiet(page)
    with page.expect_download() as download:
        page.get_by_role("button", name="Picture of this view").click()
    assert download.value.suggested_filename == "SM-0147_36_attempt-1_depth.png"
    download.value.save_as(tmp_path / "view.png")
    picture = np.asarray(Image.open(tmp_path / "view.png").convert("L"), dtype=float)
    sheet = np.asarray(Image.open(io.BytesIO(canvas(page))).convert("L"))
    assert picture.shape[1] >= sheet.shape[1]
    assert picture.shape[0] > sheet.shape[0] + 60
    assert picture[:44].std() > 5  # the title
    assert picture[-60:].std() > 5  # the legend
    assert picture[100:-150].std() > 10  # the tooth


@pytest.mark.long
def test_the_record_and_the_package_are_taken_from_the_sheet(page: Page) -> None:
    """The page in the browser fits one sheet and holds the answer; the package brings what was wished."""
    open_demo(page)
    answer = page.locator("aside").get_by_role("status").first.inner_text().splitlines()[0]
    page.get_by_role("button", name="Record").click()
    panel = page.get_by_role("dialog", name="Record and package")
    panel.get_by_label("Shade").fill("edge translucent & light")
    with page.expect_download() as download:
        panel.get_by_role("link", name="Package").click()
    files = opened(Path(download.value.path()).read_bytes())
    assert json.loads(files["prescription.json"])["wishes"] == "edge translucent & light"
    address = panel.get_by_role("link", name="The same in the browser").get_attribute("href")
    assert address is not None
    page.goto(address)
    expect(page.get_by_text(answer, exact=True)).to_be_visible()
    drawn = page.locator("svg").first
    boxes = drawn.evaluate("s => [...s.querySelectorAll('text')].map(t => t.getBBox()).map(b => [b.x, b.x + b.width])")
    assert len(boxes) > 50
    assert all(left >= 11 and right <= 199.5 for left, right in boxes)


def test_an_edited_standard_says_what_it_would_change(page: Page) -> None:
    """Before it is kept: which open cases would be answered otherwise."""
    page.goto("/library")
    page.get_by_role("button", name="Copy and edit").first.click()
    page.get_by_label("reduction, functional cusp, target").fill("2.4")
    page.get_by_label("reduction, functional cusp, max").fill("2.8")
    page.get_by_label("reduction, functional cusp, min").fill("2.1")
    page.get_by_role("button", name="What would change?").click()
    told = page.get_by_label("What it would change")
    expect(told).to_contain_text("SM-0147 · 36", timeout=MEASURING_MS)
    expect(told).to_contain_text(re.compile(r"verdicts? turns?"))
    page.get_by_role("button", name="Give up").click()
    expect(page.get_by_label("What it would change")).to_have_count(0)

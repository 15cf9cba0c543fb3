"""A veneer through a mock-up, from a new case to a corrected edge, in the browser."""

from __future__ import annotations

import re
from dataclasses import replace

import pytest
from playwright.sync_api import Page, expect
from quiet import quiet
from screen import MEASURING_MS, add_scans, begin_case, drawn, drop, measure_as_guessed, press, written
from windows import Window

SHALLOW = Window(
    grid_mm=0.22, noise_um=6, depth_mm=0.45, incisal_mm=0.35, neck_mm=1.0, planes_deg=9.0, distal_side_mm=1.1,
    thicker_mm=0.2, longer_mm=0.25, mocked=True, seed=4,
)  # fmt: skip
MENDED = replace(SHALLOW, incisal_mm=1.2, seed=5)


@pytest.fixture(scope="session")
def veneer_files(tmp_path_factory: pytest.TempPathFactory) -> dict[str, str]:
    """An edge that was hardly shortened beside a scoop, the tooth before, the mock-up, and the next attempt."""
    folder = tmp_path_factory.mktemp("veneer")
    made = {
        "veneer_prep.stl": SHALLOW.prep(), "veneer_before.stl": SHALLOW.preop(), "veneer_mockup.stl": SHALLOW.mockup(),
        "veneer_prep_2.stl": MENDED.prep(),
    }  # fmt: skip
    return written(folder, made)


@pytest.mark.long
def test_a_veneer_from_a_new_case_to_the_next_attempt(page: Page, veneer_files: dict[str, str]) -> None:
    """The kind chosen, three scans told by their names, axes confirmed; the short edge and the scoop are told, the
    thirds stand side by side; ticked as dark it is judged again; the line round the face is unrolled; the next scan
    dropped, the edge has its room; planned through the mock-up, over the edge and under it."""
    begin_case(page, "SM-0911", "Veneer", "11")
    expect(page.get_by_label("Material and standard")).to_contain_text("veneer")
    page.get_by_role("button", name="Next: add scans").click()
    names = ("veneer_prep.stl", "veneer_before.stl", "veneer_mockup.stl")
    add_scans(page, [veneer_files[name] for name in names])
    measure_as_guessed(page)

    expect(page.get_by_role("heading", name="Findings")).to_be_visible(timeout=MEASURING_MS)
    findings = page.locator("aside")
    expect(findings).to_contain_text("room at the incisal edge", timeout=MEASURING_MS)
    expect(findings).to_contain_text("scoop")
    table = page.get_by_role("table", name="Face by thirds")
    expect(table).to_contain_text("to the mock-up")
    expect(table).to_contain_text("likely through")
    expect(findings).to_contain_text("short of the contact")
    quiet(page)

    dark = page.get_by_label("the tooth is dark: it needs more room")
    expect(dark).not_to_be_checked()
    dark.check()
    expect(dark).to_be_enabled(timeout=MEASURING_MS)
    expect(dark).to_be_checked()
    dark.uncheck()
    expect(dark).to_be_enabled(timeout=MEASURING_MS)
    expect(findings).to_contain_text("scoop", timeout=MEASURING_MS)

    page.get_by_role("button", name="Taper, line").click()
    form = page.get_by_role("region", name="Form")
    expect(form.get_by_role("img", name=re.compile("Finish line unrolled"))).to_be_visible()
    expect(form).to_contain_text("how far facial it runs")
    expect(form.get_by_role("heading", name=re.compile("Taper of the walls"))).to_have_count(0)
    page.get_by_role("button", name="Taper, line").click()

    page.get_by_role("button", name=re.compile("To do")).click()
    expect(findings).to_contain_text("shorten the edge by")
    drop(page, veneer_files["veneer_prep_2.stl"])
    expect(page.get_by_role("button", name="Attempt 2")).to_be_visible(timeout=MEASURING_MS)
    page.get_by_role("button", name=re.compile("^Findings")).click()
    expect(page.get_by_role("button", name=re.compile("room at the incisal edge"))).to_have_count(
        0, timeout=MEASURING_MS
    )
    expect(findings).to_contain_text("scoop", timeout=MEASURING_MS)

    page.get_by_role("button", name="Plan", exact=True).click()
    drawn(page)
    quiet(page)
    page.get_by_role("button", name="Press on the tooth").click()
    press(page)
    page.get_by_role("button", name="Mark its facial side").click()
    press(page, 0, -60)
    expect(page.get_by_label(re.compile("^Taper"))).to_have_count(0)
    page.get_by_role("button", name="Make the plan").click()
    expect(page.get_by_role("button", name="Depths")).to_be_visible(timeout=MEASURING_MS)
    expect(page.locator("aside li", has_text="incisal edge")).to_contain_text("1.5")
    expect(page.locator("aside")).to_contain_text("the mock-up")
    page.get_by_role("button", name="Order", exact=True).click()
    expect(page.locator("aside")).to_contain_text("square to the tooth's axis")
    page.get_by_role("button", name="Choose").click()
    page.get_by_label(re.compile("^Incisal end:")).click()
    page.get_by_role("option", name="under the edge").click()
    expect(page.get_by_role("progressbar")).to_be_visible()
    expect(page.get_by_role("progressbar")).to_be_hidden(timeout=MEASURING_MS)
    expect(page.get_by_label(re.compile("^Incisal end:"))).to_contain_text("under the edge")

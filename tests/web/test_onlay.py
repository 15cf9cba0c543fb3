"""An onlay from a new case to a corrected cavity, in the browser."""

from __future__ import annotations

import re
from dataclasses import replace

import pytest
from cavities import Cavity
from playwright.sync_api import Page, expect
from quiet import quiet
from screen import MEASURING_MS, add_scans, begin_case, drop, measure_as_guessed, press, written

WIDE = Cavity(grid_mm=0.22, noise_um=6, facial_mm=3.9, lingual_wall_mm=2.3, box_depth_mm=1.4, seed=4)
MENDED = replace(WIDE, covered=("mesiolingual", "distolingual"), cover_mm=2.0, seed=5)


@pytest.fixture(scope="session")
def cavity_files(tmp_path_factory: pytest.TempPathFactory) -> dict[str, str]:
    """A wide cavity beside thin lingual cusps, the tooth before it, and the next attempt with those cusps covered."""
    folder = tmp_path_factory.mktemp("onlay")
    made = {"onlay_prep.stl": WIDE.prep(), "onlay_before.stl": WIDE.preop(), "onlay_prep_2.stl": MENDED.prep()}
    return written(folder, made)


def test_an_onlay_from_a_new_case_to_the_next_attempt(page: Page, cavity_files: dict[str, str]) -> None:
    """The kind chosen, its standards offered, measured; the thin cusp is the gravest, shown under its own lens, and to
    be covered; the next scan dropped, the cusps are covered and it is said."""
    begin_case(page, "SM-0910", "Onlay", "37")
    expect(page.get_by_label("Material and standard")).to_contain_text("inlay or onlay")
    page.get_by_role("button", name="Next: add scans").click()
    add_scans(page, [cavity_files["onlay_prep.stl"], cavity_files["onlay_before.stl"]])
    measure_as_guessed(page)

    expect(page.get_by_role("heading", name="Findings")).to_be_visible(timeout=MEASURING_MS)
    expect(page.get_by_text(re.compile("Not yet: thickness of the standing cusp")).first).to_be_visible(
        timeout=MEASURING_MS
    )
    expect(page.get_by_role("button", name="Plan")).to_be_visible()
    expect(page.get_by_role("table", name="Decide, cusp by cusp")).to_contain_text("about")
    page.get_by_role("radio", name=re.compile("Standing cusps")).click()
    expect(page.get_by_role("list", name="Legend: Standing cusps")).to_contain_text("thick enough")
    quiet(page)

    page.get_by_role("button", name="Taper, line").click()
    form = page.get_by_role("region", name="Form")
    expect(form.get_by_role("heading", name=re.compile("Divergence of the walls"))).to_be_visible()
    expect(form.get_by_role("group", name=re.compile("Divergence of the walls: faciolingual 12°"))).to_be_visible()
    expect(form.get_by_role("img", name=re.compile("Outline unrolled"))).to_be_visible()
    page.get_by_role("button", name="Taper, line").click()

    page.get_by_role("button", name=re.compile("To do")).click()
    expect(page.locator("aside")).to_contain_text("cover this cusp: reduce it by 1.0 mm at least")

    drop(page, cavity_files["onlay_prep_2.stl"])
    expect(page.get_by_role("button", name="Attempt 2")).to_be_visible(timeout=MEASURING_MS)
    page.get_by_role("button", name=re.compile("^Findings")).click()
    expect(page.get_by_text(re.compile("thickness of the standing cusp")).first).not_to_be_visible(timeout=MEASURING_MS)
    expect(page.locator("aside")).to_contain_text("checks meet the standard", timeout=MEASURING_MS)


@pytest.mark.long
def test_a_cavity_is_planned_on_the_tooth(page: Page, cavity_files: dict[str, str]) -> None:
    """Before cutting: a box chosen, the tooth pressed, planned; another cusp covered by a press; the outline drawn by
    hand, a point taken back."""
    begin_case(page, "SM-0911", "Onlay", "37")
    page.get_by_role("button", name="Next: add scans").click()
    add_scans(page, [cavity_files["onlay_before.stl"]])
    page.goto("/")
    page.locator("li", has_text="SM-0911").get_by_role("link", name="Plan", exact=True).click()
    aside = page.locator("aside")
    aside.get_by_role("button", name="mesial").click()
    expect(aside.get_by_role("button", name="mesial")).to_have_attribute("aria-pressed", "true")
    aside.get_by_role("button", name="Press on the tooth").click()
    expect(page.locator("canvas[data-drawn=yes]")).to_be_visible()
    quiet(page)
    press(page)
    aside.get_by_role("button", name="Make the plan").click()
    cusps = page.get_by_role("region", name="Cusps")
    expect(cusps).to_contain_text("mm³", timeout=MEASURING_MS)
    expect(cusps.get_by_role("row", name=re.compile("mesiofacial covered"))).to_be_visible()
    expect(cusps.get_by_role("row", name=re.compile(r"distolingual \d"))).to_be_visible()
    expect(aside.get_by_role("button", name=re.compile("floor of the cavity"))).to_be_visible()
    expect(page.get_by_role("link", name="Target as STL")).to_be_visible()

    page.get_by_role("button", name="Choose").click()
    aside.get_by_role("button", name="distolingual").click()
    expect(aside.get_by_role("button", name="distolingual")).to_have_attribute(
        "aria-pressed", "true", timeout=MEASURING_MS
    )
    expect(page.get_by_role("progressbar")).to_be_hidden(timeout=MEASURING_MS)

    aside.get_by_role("button", name="Draw it").click()
    expect(page.locator("canvas[data-drawn=yes]")).to_be_visible()
    quiet(page)
    for n, (x, y) in enumerate([(-150, -40), (0, -50), (150, -40), (165, 0), (150, 40), (0, 50), (-150, 40)], 1):
        press(page, x, y)
        expect(aside.get_by_role("status")).to_contain_text(f"after the other: {n}.")
    aside.get_by_role("button", name="Take back a point").click()
    expect(aside.get_by_role("status")).to_contain_text("after the other: 6.")
    aside.get_by_role("button", name="Close and use").click()
    expect(aside.get_by_role("button", name="Drawn; draw anew")).to_have_attribute(
        "aria-pressed", "true", timeout=MEASURING_MS
    )
    expect(page.get_by_role("progressbar")).to_be_hidden(timeout=MEASURING_MS)
    page.get_by_role("button", name="Depths").click()
    expect(cusps.get_by_role("row", name=re.compile("distolingual covered"))).to_be_visible()

"""A partial crown from a new case over a deeper groove to the plan that had it, in the browser."""

from __future__ import annotations

import re
from dataclasses import replace

import pytest
from made import coarse, demo_made, kept_case
from playwright.sync_api import Page, expect
from quiet import quiet
from screen import MEASURING_MS, add_scans, begin_case, drawn, drop, measure_as_guessed, press, written

from vane_line.demo.cases import MadeCase
from vane_line.demo.partial import Furrow, OpenFace
from vane_line.demo.recipes import open_faced_molar

MIDDLE = (-50, 5)  # of the first molar on the sheet, in pixels from the sheet's middle


def deeper() -> MadeCase:
    """The same tooth with the groove cut as deep as the other one."""
    recipe = open_faced_molar()
    both = OpenFace(furrows=(Furrow(1.0, deep_mm=1.1, ends_mm=1.1), Furrow(-1.0, deep_mm=1.1, ends_mm=1.1)))
    return kept_case("SM-0319-deeper", coarse(replace(recipe, standing=both)), first=False)


@pytest.fixture(scope="session")
def partial_files(tmp_path_factory: pytest.TempPathFactory) -> dict[str, str]:
    """A molar cut with its face left and one groove too shallow, the arch before, the opposing teeth; the next try."""
    first = demo_made("SM-0319")
    assert first.preop is not None
    assert first.opposing is not None
    made = {
        "26_prep.stl": first.prep, "26_before.stl": first.preop, "26_opposing.stl": first.opposing,
        "26_prep_2.stl": deeper().prep,
    }  # fmt: skip
    return written(tmp_path_factory.mktemp("partial"), made)


@pytest.mark.long
def test_a_partial_crown_from_a_new_case_to_the_next_attempt(page: Page, partial_files: dict[str, str]) -> None:
    """The kind chosen, measured; the shallow groove is told in the table and is to be deepened; the next scan dropped,
    it is deep enough. Planned on the tooth before, the grooves stand among the depths and in the order of work."""
    begin_case(page, "SM-0912", "Partial crown", "26")
    page.get_by_label("Material and standard").click()
    page.get_by_role("option", name=re.compile("[Gg]old|metal")).first.click()
    page.get_by_role("button", name="Next: add scans").click()
    add_scans(page, [partial_files[name] for name in ("26_prep.stl", "26_before.stl", "26_opposing.stl")])
    measure_as_guessed(page)

    findings = page.locator("aside")
    expect(page.get_by_role("heading", name="Findings")).to_be_visible(timeout=MEASURING_MS)
    table = page.get_by_role("table", name="Grooves and pins")
    expect(table).to_contain_text("mesial", timeout=MEASURING_MS)
    expect(findings).to_contain_text("groove, mesial depth of the groove, short of minimum")
    page.get_by_role("button", name=re.compile("To do")).click()
    expect(findings).to_contain_text(re.compile("deepen the groove by 0.[12] mm to the minimum"))

    drop(page, partial_files["26_prep_2.stl"])
    expect(page.get_by_role("button", name="Attempt 2")).to_be_visible(timeout=MEASURING_MS)
    page.get_by_role("button", name=re.compile("^Findings")).click()
    expect(findings).to_contain_text(re.compile("Since attempt 1: [1-9] corrected"), timeout=MEASURING_MS)
    expect(page.get_by_text("depth of the groove, short of minimum")).to_have_count(0)

    page.get_by_role("button", name="Plan", exact=True).click()
    drawn(page)
    quiet(page)
    page.get_by_role("button", name="Press on the tooth").click()
    press(page, *MIDDLE)
    page.get_by_role("button", name="Make the plan").click()
    expect(page.get_by_role("button", name="Depths")).to_be_visible(timeout=MEASURING_MS)
    expect(findings).to_contain_text("What would hold it")
    expect(findings).to_contain_text(re.compile(r"groove, mesial\s*deep\s*\d\.\d\d mm"))
    page.get_by_role("button", name="Order", exact=True).click()
    expect(findings).to_contain_text(
        re.compile("One groove, then the other to it.*1.0 mm at its middle: along the path")
    )

"""A casting held by pins: its table, and a gauge's depth entered; a crown's materials compared. In the browser."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from castings import Pinned
from playwright.sync_api import Page, expect
from screen import MEASURING_MS

from vane_line.core.mesh.write import stl_bytes

MADE = Pinned(noise_um=6, deep_mm=1.4)


@pytest.fixture
def pin_case(page: Page) -> Iterator[str]:
    """A case with its scans and axes, measured by the application; taken away afterwards."""
    ask = page.request
    body = {"code": "SM-0970", "tooth": "11", "material": "full-metal", "restoration": "pin-casting"}
    made = ask.post("/api/cases", data=body).json()
    reading = made["sites"][0]["readings"][0]
    for role, surface in (("prep", MADE.prep()), ("preop", MADE.preop())):
        file = {"name": f"{role}.stl", "mimeType": "model/stl", "buffer": stl_bytes(surface)}
        at = f"/api/cases/{made['id']}/attempts/{reading['attempt_id']}/scans"
        assert ask.post(at, multipart={"file": file, "role": role, "unit": "mm"}).ok
    axes = {"occlusal": [0, 0, 1], "facial": [0, 1, 0], "near": None}
    assert ask.put(f"/api/readings/{reading['id']}/axes", data=axes, headers={"If-Match": "0"}).ok
    assert ask.post(f"/api/readings/{reading['id']}/measure").ok
    yield made["id"]
    ask.delete(f"/api/cases/{made['id']}")
    ask.delete(f"/api/cases/{made['id']}?for_good=true")


@pytest.mark.long
def test_a_shallow_hole_is_gauged(page: Page, pin_case: str) -> None:
    """Read from the scan its depth is a least one and doubtful; gauged it is judged, and short."""
    page.goto(f"/case/{pin_case}")
    table = page.get_by_role("table", name="Grooves and pins")
    expect(table).to_contain_text("pin hole, mesial", timeout=MEASURING_MS)
    expect(table).to_contain_text("≥ 1.4")
    page.get_by_label("gauge in the mesial hole, mm").fill("1.5")
    page.keyboard.press("Enter")
    expect(table).to_contain_text("1.50", timeout=MEASURING_MS)
    expect(page.locator("aside")).to_contain_text(re.compile("depth of the pin hole"), timeout=MEASURING_MS)
    page.get_by_label("gauge in the mesial hole, mm").fill("15")
    page.keyboard.press("Enter")
    expect(page.locator("aside")).to_contain_text(re.compile("less than or equal to 5"))


@pytest.mark.long
def test_the_materials_are_compared_on_the_plan(page: Page) -> None:
    """One row a standard, the least tooth first; another one is chosen from the table."""
    page.goto("/")
    page.locator("li", has_text="SM-0147").get_by_role("link", name="Plan", exact=True).click()
    page.get_by_role("button", name=re.compile("^(Material|Which material can it take\\?)$")).first.click()
    page.get_by_role("button", name="Compare the materials").click()
    rows = page.get_by_role("list", name="Materials").get_by_role("listitem")
    expect(rows.first).to_contain_text("mm³", timeout=4 * MEASURING_MS)
    cut = [int(re.search(r"(\d+) mm³", text).group(1)) for text in rows.all_inner_texts()]  # type: ignore[union-attr]
    assert cut == sorted(cut)
    assert len(cut) > 8
    expect(page.get_by_text("the dentist decides").first).to_be_visible()

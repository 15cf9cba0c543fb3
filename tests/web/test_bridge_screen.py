"""Two teeth of a case held together as a bridge, in the browser."""

from __future__ import annotations

import re
from collections.abc import Iterator

import numpy as np
import pytest
from playwright.sync_api import Page, expect
from screen import MEASURING_MS
from spans import Span

from vane_line.core.mesh.write import stl_bytes

SPAN = Span(tip_deg=18.0, grid_mm=0.28)


@pytest.fixture
def span_case(page: Page) -> Iterator[str]:
    """A case with both abutments, their scans and axes; taken away afterwards."""
    ask = page.request
    made = ask.post("/api/cases", data={"code": "SM-0960", "tooth": "35", "material": "zirconia"}).json()
    case, first = made["id"], made["sites"][0]["readings"][0]
    for role, surface in (("prep", SPAN.scan(True)), ("preop", SPAN.scan(False))):
        file = {"name": f"{role}.stl", "mimeType": "model/stl", "buffer": stl_bytes(surface)}
        answer = ask.post(
            f"/api/cases/{case}/attempts/{first['attempt_id']}/scans",
            multipart={"file": file, "role": role, "unit": "mm"},
        )
        assert answer.ok, answer.text()
    both = ask.post(f"/api/cases/{case}/sites", data={"tooth": "37", "material": "zirconia"}).json()
    for site, x in zip(both["sites"], (SPAN.half_mm, -SPAN.half_mm), strict=True):
        axes = {"occlusal": [0, 0, 1], "facial": [0, 1, 0], "near": [x, 0, 5.0]}
        at = f"/api/readings/{site['readings'][0]['id']}/axes"
        assert ask.put(at, data=axes, headers={"If-Match": "0"}).ok
    yield case
    ask.delete(f"/api/cases/{case}")
    ask.delete(f"/api/cases/{case}?for_good=true")


def test_the_common_path_is_one_needle(page: Page, span_case: str) -> None:
    """Measured together from the case; no path is there, and which wall forbids it; the needle moved on one tooth moves
    on the other, and back; both strokes that would open a path are named."""
    page.goto(f"/case/{span_case}/bridge")
    page.get_by_role("button", name="Measure together").click()
    expect(page.locator("aside").get_by_role("status")).to_contain_text("No common path", timeout=MEASURING_MS)
    aside = page.locator("aside")
    expect(aside).to_contain_text("wall of 37 lacks")
    expect(aside).to_contain_text("What opens a path")
    expect(aside).to_contain_text("36: ")
    best = page.get_by_text(re.compile("the least draft is")).inner_text()
    assert "the best" in best
    assert "-" in best  # a wall leans back along the best of them
    needles = page.get_by_role("slider")
    expect(needles).to_have_count(2)
    before = [needles.nth(k).get_attribute("aria-valuetext") for k in (0, 1)]
    needles.nth(0).focus()
    for _ in range(4):
        page.keyboard.press("ArrowUp")
    after = [needles.nth(k).get_attribute("aria-valuetext") for k in (0, 1)]
    assert all(a != b for a, b in zip(after, before, strict=True))
    expect(page.get_by_text(re.compile("the least draft is"))).to_contain_text("tried")
    expect(page.get_by_role("table", name="Least draft of each wall of 37")).to_contain_text("leans back")
    page.get_by_role("button", name="Back to the best path").click()
    expect(page.get_by_text(re.compile("the least draft is"))).to_have_text(best)
    page.get_by_role("button", name="One by one").click()
    expect(page.get_by_role("group", name="Teeth of the case")).to_be_visible()
    page.get_by_role("button", name="As one bridge").click()
    expect(page.locator("aside").get_by_role("status")).to_contain_text("No common path")


@pytest.mark.long
def test_the_bridge_is_planned_before_cutting(page: Page, span_case: str) -> None:
    """Each tooth has to be shown first; then one path for both, what others would take, and a target of both."""
    page.goto(f"/case/{span_case}/bridge")
    page.get_by_role("button", name="Planned").click()
    page.get_by_role("button", name="Plan together").click()
    expect(page.locator("aside")).to_contain_text("Show where 35 is first")
    ask = page.request
    case = ask.get(f"/api/cases/{span_case}").json()
    for site, x in zip(case["sites"], (SPAN.half_mm, -SPAN.half_mm), strict=True):
        at = f"/api/readings/{site['readings'][0]['id']}/plan"
        assert ask.put(at, data={"near": [x, 0, 5.0], "facial": [0, 1, 0]}, headers={"If-Match": "0"}).ok
    page.get_by_role("button", name="Plan together").click()
    table = page.get_by_role("table", name="Paths side by side")
    expect(table).to_contain_text("least tooth", timeout=MEASURING_MS)
    expect(table.get_by_role("row")).to_have_count(5)
    aside = page.locator("aside")
    for tooth in ("35", "37"):
        expect(aside.get_by_role("region", name=f"Abutment {tooth}")).to_contain_text("mm³ cut")
    expect(page.locator("canvas[data-drawn=yes]")).to_be_visible()
    with page.expect_download() as coming:
        aside.get_by_role("link", name="All targets as one STL").click()
    assert coming.value.suggested_filename.endswith(".stl")
    page.reload()  # the plans' choices were given from elsewhere
    page.get_by_role("button", name="Planned").click()
    reading = case["sites"][0]["readings"][0]["id"]
    least = np.array(ask.get(f"/api/readings/{reading}/bridge/plan").json()["document"]["direction"])
    lean = aside.get_by_role("group", name="Lean the path by hand")
    with page.expect_request("**/bridge/plan/path") as leaning:
        lean.get_by_role("button", name="facial").click()
    path = np.array(leaning.value.post_data_json["direction"])
    assert np.degrees(np.arccos(path @ least)) == pytest.approx(2.0, abs=0.05)
    assert path[1] > least[1]  # the solid's facial direction
    aside.get_by_role("button", name="Cancel").click()
    aside.get_by_role("button", name="Plan of 37").click()
    expect(page.get_by_role("heading", name=re.compile("tooth 37"))).to_be_visible()

"""Nothing is lost by a press: cases, attempts and scans are put away, taken back, or deleted after asking."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Locator, Page, expect
from quiet import quiet
from screen import MEASURING_MS
from solids import Stump
from waiting import until

from vane_line.core.mesh.write import stl_bytes

STUMP = Stump(grid_mm=0.3)


@pytest.fixture
def case(page: Page) -> tuple[str, str]:
    """A case of its own with two scans, and the reading of its first attempt."""
    made = page.request.post("/api/cases", data={"code": "SM-0950", "tooth": "36", "material": "zirconia"}).json()
    reading = made["sites"][0]["readings"][0]
    for role, surface in (("prep", STUMP.prep()), ("preop", STUMP.preop())):
        file = {"name": f"{role}.stl", "mimeType": "model/stl", "buffer": stl_bytes(surface)}
        answer = page.request.post(
            f"/api/cases/{made['id']}/attempts/{reading['attempt_id']}/scans",
            multipart={"file": file, "role": role, "unit": "mm"},
        )
        assert answer.ok, answer.text()
    return made["id"], reading["id"]


def forget(page: Page, case_id: str) -> None:
    page.request.delete(f"/api/cases/{case_id}")
    assert page.request.delete(f"/api/cases/{case_id}?for_good=true").ok


def test_a_case_is_put_away_taken_back_and_deleted_after_asking(page: Page, case: tuple[str, str]) -> None:
    """Out of the list at once with a way back; for good only from among those put away, and only after asking."""
    page.goto("/")
    link = page.get_by_role("link", name=re.compile("SM-0950"))
    expect(link).to_be_visible()
    page.get_by_role("button", name="Put SM-0950 away").click()
    expect(link).to_have_count(0)
    note = page.get_by_role("status", name="Put away")
    expect(note).to_contain_text("SM-0950 was put away.")
    note.get_by_role("button", name="Take back").click()
    expect(link).to_be_visible()
    expect(note).to_have_count(0)

    page.get_by_role("button", name="Put SM-0950 away").click()
    page.get_by_text(re.compile("^Put away: ")).click()
    row = page.get_by_role("listitem", name="SM-0950, put away")
    row.get_by_role("button", name="Delete").click()
    dialog = page.get_by_role("alertdialog")
    expect(dialog).to_contain_text("cannot be undone")
    dialog.get_by_role("button", name="Keep it").click()
    expect(row).to_be_visible()
    row.get_by_role("button", name="Delete").click()
    dialog.get_by_role("button", name="Delete for good").click()
    expect(row).to_have_count(0)
    assert page.request.get(f"/api/cases/{case[0]}").status == 404


@pytest.mark.long
def test_an_attempt_is_added_put_away_and_taken_back(page: Page, case: tuple[str, str]) -> None:
    """From the sheet to the new attempt's scans; put away after asking, with a way back that lasts."""
    page.goto(f"/case/{case[0]}")
    page.get_by_role("button", name="New attempt").click()
    expect(page.get_by_role("heading", name="SM-0950 · scans of tooth 36, attempt 2")).to_be_visible()
    page.get_by_role("button", name="Put this attempt away").click()
    page.get_by_role("alertdialog").get_by_role("button", name="Put away").click()
    expect(page.get_by_role("button", name="Attempt 1")).to_be_visible()
    expect(page.get_by_role("button", name="Attempt 2")).to_have_count(0)
    page.get_by_role("status", name="Put away").get_by_role("button", name="Close").click()
    page.get_by_role("button", name="Scans").click()
    expect(page.get_by_text(re.compile("Attempt 2 was put away on"))).to_be_visible()
    page.get_by_role("button", name="Take back").click()
    expect(page.get_by_role("heading", name=re.compile("attempt 2"))).to_be_visible()
    forget(page, case[0])


def test_a_scan_is_taken_out_only_after_asking(page: Page, case: tuple[str, str]) -> None:
    """Kept on second thoughts; then it is gone."""
    page.goto(f"/case/{case[0]}/scans?attempt={case[1]}")
    row = page.get_by_role("listitem", name="Scan preop.stl")
    row.get_by_role("button", name="Take out").click()
    dialog = page.get_by_role("alertdialog")
    expect(dialog).to_contain_text("for all its attempts")
    dialog.get_by_role("button", name="Keep it").click()
    expect(row).to_be_visible()
    row.get_by_role("button", name="Take out").click()
    dialog.get_by_role("button", name="Take out").click()
    expect(row).to_have_count(0)
    forget(page, case[0])


def test_the_same_places_are_pointed_at_on_two_scans(page: Page, case: tuple[str, str]) -> None:
    """Three on each, in turn; kept, there again after loading, and forgotten."""
    address = f"/case/{case[0]}/scans?attempt={case[1]}&pairs=preop"
    page.goto(address)
    theirs = page.get_by_role("img", name=re.compile("^The scan before cutting"))
    ours = page.get_by_role("img", name=re.compile("^The preparation, "))
    keep = page.get_by_role("button", name="Keep these places")
    expect(keep).to_be_disabled()

    def pressed(view: Locator, at: tuple[float, float]) -> str:
        page.mouse.click(*at)
        quiet(page)
        return view.get_attribute("aria-label") or ""

    expect(theirs).to_contain_text("press place 1")
    for count, (x, y) in enumerate(((0.5, 0.42), (0.42, 0.55), (0.58, 0.55)), start=1):
        for view in (theirs, ours):
            view.scroll_into_view_if_needed()
            box = view.bounding_box()
            assert box is not None
            at = box["x"] + x * box["width"], box["y"] + y * box["height"]
            # Until the scan has come, a press meets nothing: it is pressed again.
            until(lambda view=view, at=at: pressed(view, at), lambda said, count=count: f", {count} places" in said)
    expect(page.get_by_text("3 places on both")).to_be_visible()
    keep.click()
    expect(page.get_by_text("3 places kept")).to_be_visible()
    page.goto(address)
    expect(theirs).to_have_attribute("aria-label", re.compile(", 3 places"), timeout=MEASURING_MS)
    page.get_by_role("button", name="Forget them").click()
    expect(page.get_by_text("0 of 3 places are on both.")).to_be_visible()
    assert page.request.get(f"/api/readings/{case[1]}").json()["pairs"] == {}
    forget(page, case[0])


def test_the_list_is_put_in_order_and_its_address_remembers(page: Page) -> None:
    """By tooth: numbers rise from row to row; the same after loading the address again."""
    body = {"restoration": "full-crown", "material": "zirconia"}
    made = [
        page.request.post("/api/cases", data=body | {"code": f"SM-08{tooth}", "tooth": tooth}).json()["id"]
        for tooth in ("11", "47", "24")
    ]
    page.goto("/")
    rows = page.get_by_role("link", name=re.compile("SM-08"))

    in_order = ["SM-0811", "SM-0824", "SM-0847"]
    expect(rows).to_have_count(3)
    assert [code for text in rows.all_inner_texts() for code in in_order if code in text] != in_order
    page.get_by_label("Order").click()
    page.get_by_role("option", name="By tooth").click()
    expect(page).to_have_url(re.compile("sort=tooth"))
    expect(rows).to_contain_text(in_order)
    page.reload()
    expect(rows).to_contain_text(in_order)
    for case in made:
        forget(page, case)

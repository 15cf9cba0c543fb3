"""The room while the jaw moves: asked for on the sheet, judged, played, and left as it was."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect
from screen import MEASURING_MS, open_demo, settled


@pytest.mark.long
def test_movements_are_judged_and_played(page: Page) -> None:
    """A tick measures again; three movements with their least room; playing moves the opposing teeth; taken back."""
    page.emulate_media(reduced_motion="reduce")  # straight to the tightest step
    open_demo(page)
    page.locator("summary", has_text="While the jaw moves").click()
    asked = page.get_by_label("judge the room in movement too")
    asked.check()
    try:
        rows = page.get_by_role("list", name="Movements of the lower jaw").get_by_role("listitem")
        expect(rows).to_have_count(3, timeout=MEASURING_MS)
        expect(rows.first).to_contain_text(re.compile(r"Forward: \d\.\d\d mm"))
        before = settled(page)
        rows.last.get_by_role("button", name="Play: To the other side").click()
        told = page.get_by_role("status").filter(has_text=re.compile("into the movement|no nearer"))
        expect(told).to_be_visible()
        assert settled(page) != before
        page.get_by_role("button", name="Teeth together").click()
        expect(told).to_have_count(0)
        page.get_by_label("condyle's path").fill("95")
        page.get_by_label("condyle's path").press("Enter")
        assert page.get_by_label("condyle's path").evaluate("field => !field.checkValidity()")
    finally:
        page.reload()
        expect(asked).to_be_enabled(timeout=MEASURING_MS)
        asked.uncheck()
        expect(page.get_by_role("list", name="Movements of the lower jaw")).to_have_count(0, timeout=MEASURING_MS)

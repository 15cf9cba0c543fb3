"""What every test of the interface needs: the demo opened, the picture on the sheet, once it has come to rest."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

MEASURING_MS = 90_000


def canvas(page: Page) -> bytes:
    """The sheet as it is seen."""
    return page.locator("canvas").first.screenshot()


def settled(page: Page) -> bytes:
    """The sheet once it has stopped changing."""
    before = canvas(page)
    for _ in range(40):
        page.wait_for_timeout(300)
        now = canvas(page)
        if now == before:
            return now
        before = now
    raise AssertionError("the sheet never came to rest")


def open_demo(page: Page) -> None:
    page.goto("/")
    page.get_by_role("link", name=re.compile("SM-0147")).click()
    page.get_by_role("button", name="Attempt 1").click()
    expect(page.get_by_role("heading", name="Findings")).to_be_visible()
    expect(page.locator("aside li", has_text="minimum").first).to_be_visible()

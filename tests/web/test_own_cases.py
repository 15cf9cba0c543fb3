"""Own cases together, in the browser: what they say as a whole, narrowed, and as a table."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect


def test_own_cases_are_looked_at_together(page: Page) -> None:
    """The demo's teeth: their depths in time, how many passes each took; one tooth alone; the table of all faults."""
    page.goto("/")
    page.get_by_role("button", name="Own cases together").click()
    depths = page.get_by_role("img", name=re.compile(r"Depths of \d+ first attempts"))
    expect(depths).to_be_visible()
    count = int(re.findall(r"\d+", depths.get_attribute("aria-label") or "")[0])
    assert count >= 2
    passes = page.get_by_role("region", name="Passes").get_by_role("listitem")
    teeth = [int(re.findall(r"(\d+) t", text)[-1]) for text in passes.all_inner_texts()]
    assert sum(teeth) >= count
    page.get_by_role("combobox", name="Tooth: All teeth").click()
    page.get_by_role("option", name="36", exact=True).click()
    expect(page.get_by_role("combobox", name="Tooth: 36")).to_be_visible()
    expect(passes).to_have_count(1)
    expect(passes).to_contain_text("1 tooth")
    address = page.get_by_role("link", name="As a table").get_attribute("href")
    assert address is not None
    assert "tooth=36" in address
    table = page.request.get(address).text().splitlines()
    assert table[0].startswith("code,tooth,restoration")
    assert len(table) > 1
    assert all(line.split(",")[1] == "36" for line in table[1:])

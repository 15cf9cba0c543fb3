"""A whole case taken as one file from the sheet, and brought back in as another case."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect
from screen import MEASURING_MS, open_demo


@pytest.mark.long
def test_a_case_goes_out_and_comes_in(page: Page, tmp_path: Path) -> None:
    open_demo(page)
    expect(page.locator("aside li").first).to_be_visible(timeout=MEASURING_MS)
    page.get_by_role("button", name="Record").click()
    with page.expect_download() as waiting:
        page.get_by_role("link", name=re.compile("Whole case as one file")).click()
    kept = tmp_path / waiting.value.suggested_filename
    waiting.value.save_as(kept)
    assert kept.name.endswith("_case.zip")

    page.goto("/")
    expect(page.get_by_role("button", name="Bring a case from a file")).to_be_visible()
    (tmp_path / "other.zip").write_bytes(b"no case")
    page.get_by_label("Case file").set_input_files(tmp_path / "other.zip")
    expect(page.get_by_role("alert")).to_contain_text("no zip that can be read")
    page.get_by_label("Case file").set_input_files(kept)
    expect(page).to_have_url(re.compile("/case/"), timeout=MEASURING_MS)
    expect(page.locator("aside li").first).to_be_visible(timeout=MEASURING_MS)  # judged again, from what is known
    brought = page.url.split("/case/")[1].split("?")[0]
    page.goto("/")
    row = page.get_by_role("listitem").filter(has=page.locator(f'a[href="/case/{brought}"]'))
    row.get_by_role("button", name=re.compile("away")).click()  # as the other tests found it
    expect(row).to_have_count(0)

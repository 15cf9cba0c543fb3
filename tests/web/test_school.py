"""An exercise in the browser: made, handed in, looked at first, marked, overruled, seen as a class."""

from __future__ import annotations

import re
from pathlib import Path

from conftest import ready_scans
from made import COARSE_MM
from playwright.sync_api import Page, expect
from quiet import quiet
from screen import MEASURING_MS, press

from vane_line.core.mesh.write import stl_bytes


def test_an_exercise_from_handing_out_to_the_class(page: Page, tmp_path: Path) -> None:
    prep = ready_scans("SM-0147", 0, COARSE_MM).surfaces["prep"]
    (tmp_path / "S-01_prep.stl").write_bytes(stl_bytes(prep))
    (tmp_path / "S-02_prep.stl").write_bytes(b"no scan at all")
    page.goto("/")
    page.get_by_role("button", name="Exercises").click()
    rubrics = page.get_by_label("Rubrics", exact=True)
    rubrics.get_by_role("button", name="Copy and edit").click()
    rubrics.get_by_label("Title").fill("Crown, stricter")
    rubrics.get_by_label("Weight of row 1", exact=True).fill("40")
    rubrics.get_by_role("button", name="Take out row 2", exact=True).click()
    rubrics.get_by_label("Most marks under cap 1").fill("50")
    rubrics.get_by_role("button", name="Keep").click()
    expect(rubrics.get_by_role("status")).to_contain_text("Kept: Crown, stricter, version 1")
    expect(rubrics.get_by_role("listitem").filter(has_text="Crown, stricter")).to_contain_text("Reduction 40")
    rubrics.get_by_role("listitem").filter(has_text="Crown, stricter").get_by_role("button", name="Edit").click()
    rubrics.get_by_label("Least of grade 3").fill("10")
    rubrics.get_by_role("button", name="Keep").click()
    expect(rubrics.get_by_role("alert")).to_contain_text("the last begins at 0")
    rubrics.get_by_role("button", name="Give up").click()
    page.get_by_label("Name").fill("First molar")
    page.get_by_label(re.compile("Case whose scan before cutting")).first.click()
    page.get_by_role("option", name="SM-0147, tooth 36").click()
    page.get_by_role("button", name="Make the exercise").click()
    expect(page.get_by_text("Nothing was handed in yet")).to_be_visible()

    page.get_by_label("Scans to hand in").set_input_files([tmp_path / f"S-0{k}_prep.stl" for k in (1, 2)])
    expect(page.get_by_text("Not taken: S-02_prep.stl")).to_be_visible(timeout=MEASURING_MS)
    row = page.get_by_role("table", name="Marks").get_by_role("row", name=re.compile("S-01"))
    expect(row).to_contain_text("Not yet", timeout=MEASURING_MS)
    mark = row.get_by_role("cell").first.inner_text()
    assert 0 <= float(mark) <= 55  # an undercut caps it
    page.get_by_role("button", name="Sheets").click()
    expect(page.get_by_role("img", name="Sheet of S-01")).to_be_visible()
    page.get_by_role("button", name="Where all fall short").click()
    expect(page.get_by_role("list", name="Where all fall short").get_by_role("listitem").first).to_contain_text(
        "1 of 1"
    )

    page.get_by_role("button", name="On the tooth").click()
    expect(page.get_by_role("list", name="Legend")).to_contain_text("Median of 1 preparation")
    expect(page.locator("canvas[data-drawn=yes]")).to_be_visible()
    quiet(page)
    press(page)
    expect(page.get_by_role("status", name="What the class did there")).to_contain_text("taken off, the median")

    page.get_by_role("button", name="Marks").click()
    row.get_by_role("link", name="S-01").click()
    expect(page.get_by_role("heading", name=re.compile("Look first"))).to_be_visible()
    expect(page.locator("canvas[data-drawn=yes]")).to_be_visible()
    quiet(page)
    page.get_by_role("button", name="undercut").click()
    page.get_by_role("button", name="0.2 mm").click()
    press(page)
    expect(page.get_by_role("list", name="Marked places").get_by_role("listitem")).to_contain_text("undercut, 0.2 mm")
    page.get_by_role("button", name="show the verdict").click()

    told = page.locator("summary", has_text="of 100")
    expect(told).to_contain_text(f"Mark {mark}")
    told.click()
    expect(page.get_by_role("table", name="Marks by row").get_by_role("row").first).to_contain_text("Reduction")
    expect(page.get_by_role("list", name="Seen and missed")).to_contain_text("Missed")
    page.get_by_label("own mark").fill("58")
    page.get_by_label("why").fill("neat finish line")
    page.get_by_role("button", name="Keep beside the tool's").click()
    expect(page.locator("summary", has_text="by the instructor")).to_contain_text(
        f"58 by the instructor; the tool's {mark}"
    )

    page.get_by_role("button", name="The class").click()
    expect(row).to_contain_text("58")
    expect(row).to_contain_text(re.compile(r"\d of \d"))  # seen of all
    with page.expect_download() as waiting:
        page.get_by_role("link", name="For the books (CSV)").click()
    assert "S-01" in Path(waiting.value.path()).read_text("utf-8-sig")

    page.goto("/")  # what was handed in is reached from its class
    expect(page.get_by_role("link", name=re.compile("SM-0147"))).to_be_visible()
    expect(page.get_by_role("link", name=re.compile("S-01"))).to_have_count(0)

"""From files to findings, and the loop at the chair."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect
from screen import MEASURING_MS, measure_as_guessed, open_demo
from screen import drawn as tooth_drawn
from solids import Stump, turned

from vane_line.core.mesh.surface import merge
from vane_line.core.mesh.write import stl_bytes, write_surface
from vane_line.demo.saltmarsh import partial, scans_of
from vane_line.demo.scanner import stray_piece


@pytest.fixture(scope="session")
def own_files(tmp_path_factory: pytest.TempPathFactory) -> dict[str, str]:
    """Scans unlike the demo's: plain solids, in centimetres, one ASCII, one PLY, one OBJ, with a stray piece."""
    folder = tmp_path_factory.mktemp("own")
    stump = Stump(grid_mm=0.24, noise_um=5, seed=8)
    prep = merge([stump.prep(), stray_piece(np.array([28.0, 14, 12]), np.random.default_rng(1))])
    made = {
        "mine_prep.ply": prep, "before.obj": stump.preop().moved(turned((0, 1, 1), 20, (2, 1, 0))),
        "opposing.stl": stump.opposing(0.7),
    }  # fmt: skip
    for name, surface in made.items():
        write_surface(folder / name, surface.with_vertices(surface.vertices / 10))
    (folder / "broken.stl").write_bytes(Path(folder / "opposing.stl").read_bytes()[:3000])
    return {name: str(folder / name) for name in [*made, "broken.stl"]}


@pytest.mark.long
def test_a_new_case_from_files_to_findings(page: Page, own_files: dict[str, str]) -> None:
    """Tooth, material, files by drop, facts and doubts in words, axes confirmed, measured with progress, a result."""
    page.goto("/")
    page.get_by_role("button", name="New case").click()
    page.get_by_label("Case code").fill("SM-0900")
    page.get_by_role("button", name="Next: add scans").click()
    expect(page.get_by_text("Choose the tooth first.")).to_be_visible()
    page.get_by_role("button", name="Tooth 36").click()
    page.get_by_role("button", name="Next: add scans").click()
    expect(page.get_by_text("Drop scan files here")).to_be_visible()

    chooser = page.get_by_label("Scan files")
    chooser.set_input_files(own_files["broken.stl"])
    expect(page.get_by_text("Not added.")).to_be_visible()
    expect(page.get_by_text("cut short")).to_be_visible()
    chooser.set_input_files([own_files[n] for n in ("mine_prep.ply", "before.obj", "opposing.stl")])
    rows = {name: page.get_by_role("listitem", name=f"Scan {name}") for name in own_files if name != "broken.stl"}
    for row in rows.values():
        expect(row).to_contain_text("triangles", timeout=MEASURING_MS)
    expect(rows["mine_prep.ply"]).to_contain_text("loose piece")
    expect(rows["mine_prep.ply"]).to_contain_text("Preparation")
    expect(rows["before.obj"]).to_contain_text("Before cutting")
    expect(rows["opposing.stl"]).to_contain_text("Opposing teeth")
    for row in rows.values():
        expect(row).to_contain_text("centimetres")
        confirm = row.get_by_role("button", name="Yes")
        if confirm.count():
            confirm.click()
            expect(confirm).to_have_count(0)

    measure_as_guessed(page)
    expect(page.get_by_role("progressbar")).to_be_visible()
    expect(page.get_by_role("heading", name="Findings")).to_be_visible(timeout=MEASURING_MS)
    expect(page.locator("aside")).to_contain_text("clearance", timeout=MEASURING_MS)
    expect(page.locator("aside")).to_contain_text(re.compile(r"0\.[234] ?mm"))


def test_a_running_measurement_is_cancelled(page: Page, own_files: dict[str, str]) -> None:
    """Cancel stops it, says so, and nothing is lost."""
    page.goto("/new")
    page.get_by_label("Case code").fill("SM-0901")
    page.get_by_role("button", name="Tooth 36").click()
    page.get_by_role("button", name="Next: add scans").click()
    page.get_by_label("Scan files").set_input_files(own_files["mine_prep.ply"])
    row = page.get_by_role("listitem", name="Scan mine_prep.ply")
    expect(row).to_contain_text("triangles", timeout=MEASURING_MS)
    if row.get_by_role("button", name="Yes").count():
        row.get_by_role("button", name="Yes").click()
    page.get_by_role("button", name="Measure", exact=True).click()
    page.get_by_role("button", name="Cancel").click()
    expect(page.get_by_text("Cancelled; nothing was lost.")).to_be_visible()
    page.reload()
    expect(page.get_by_role("listitem", name="Scan mine_prep.ply")).to_be_visible()


def test_the_loop_at_the_chair(page: Page, served_folder: Path) -> None:
    """By keys: to do, tick, try a stroke; a dropped part of a scan is announced, opened, and shows what it changed."""
    open_demo(page)
    page.get_by_role("button", name="Attempt 1").click()
    expect(page.locator("aside li", has_text="Distolingual cusp").first).to_be_visible(timeout=MEASURING_MS)
    page.keyboard.press("w")
    worklist = page.get_by_role("list", name="Worklist, in the order of work")
    first = worklist.locator("li", has_text="Distolingual cusp")
    expect(first).to_contain_text("to the target")
    expect(first).to_contain_text("ball")
    tick = page.get_by_role("button", name="Tick off Distolingual cusp").or_(
        page.get_by_role("button", name="Tick off distolingual cusp"))  # fmt: skip
    page.keyboard.press("n")
    expect(worklist.locator("li").first).to_have_attribute("aria-current", "true")
    page.keyboard.press("k")
    expect(tick.first).to_have_attribute("aria-pressed", "true")
    page.reload()
    expect(page.locator("aside li").first).to_be_visible(timeout=MEASURING_MS)
    page.keyboard.press("w")
    expect(tick.first).to_have_attribute("aria-pressed", "true")

    page.keyboard.press("w")
    page.keyboard.press("b")
    tooth_drawn(page)
    box = page.locator("canvas").first.bounding_box()
    assert box is not None
    for x, y in ((0.52, 0.5), (0.54, 0.54)):
        page.mouse.click(box["x"] + box["width"] * x, box["y"] + box["height"] * y)
    page.get_by_role("button", name="What would follow?").click()
    expect(page.get_by_text(re.compile("mm³ of tooth would go"))).to_be_visible(timeout=MEASURING_MS)
    page.keyboard.press("b")

    made = scans_of("SM-0147", 1, 0.26)
    name = served_folder / "inbox" / "SM-0147_prep_1015.stl"
    name.write_bytes(stl_bytes(partial(made.surfaces["prep"], made)))
    note = page.get_by_role("status", name="New scans")
    expect(note).to_contain_text("attempt 3: measured", timeout=MEASURING_MS)
    expect(page.get_by_role("button", name="Attempt 1")).to_have_attribute("aria-pressed", "true")  # the view stays
    note.get_by_role("button", name="Open").click()
    expect(page.get_by_role("button", name="Attempt 3")).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_text("Since attempt 2:")).to_be_visible(timeout=MEASURING_MS)
    page.keyboard.press("7")
    expect(page.get_by_text("taken off since the attempt before")).to_be_visible()
    page.keyboard.press("s")
    page.get_by_role("button", name="Across").click()
    drawn = page.get_by_role("region", name="Section").locator("svg > path[stroke-width='0.12']")
    expect(drawn).to_be_visible(timeout=MEASURING_MS)
    with page.expect_download() as download:
        page.get_by_role("link", name="SVG").click()
    assert download.value.path().read_text().startswith("<svg")

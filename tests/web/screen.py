"""What every test of the interface needs: the demo opened, the picture on the sheet, once it has come to rest."""

from __future__ import annotations

import base64
import re
from collections.abc import Sequence
from pathlib import Path

from playwright.sync_api import Locator, Page, expect
from quiet import quiet

from vane_line.core.mesh.surface import Surface
from vane_line.core.mesh.write import write_surface

MEASURING_MS = 600_000


def canvas(page: Page) -> bytes:
    """The sheet as it is seen."""
    return page.locator("canvas").first.screenshot()


def settled(page: Page) -> bytes:
    """The sheet once it has stopped changing."""
    quiet(page)
    return canvas(page)


def boxes(found: Locator) -> list[dict[str, float]]:
    """Where controls lie, all at one moment: labels on the tooth come and go while it turns."""
    made = found.evaluate_all("all => all.map((e) => e.getBoundingClientRect().toJSON())")
    return [box for box in made if box["width"]]


def drawn(page: Page) -> None:
    """Waits till the tooth stands on the sheet: a press before that meets nothing."""
    expect(page.locator("canvas[data-drawn=yes]").first).to_be_visible(timeout=MEASURING_MS)


def open_demo(page: Page) -> None:
    page.goto("/")
    page.get_by_role("link", name=re.compile("SM-0147")).click()
    page.get_by_role("button", name="Attempt 1").click()
    expect(page.get_by_role("heading", name="Findings")).to_be_visible()
    expect(page.locator("aside li", has_text="minimum").first).to_be_visible()
    drawn(page)


def add_scans(page: Page, files: Sequence[str]) -> None:
    """The files handed in on the sheet of scans; each is read, and where its kind is asked for, the guess confirmed."""
    page.get_by_label("Scan files").set_input_files(list(files))
    for name in (Path(file).name for file in files):
        row = page.get_by_role("listitem", name=f"Scan {name}")
        expect(row).to_contain_text("triangles", timeout=MEASURING_MS)
        confirm = row.get_by_role("button", name="Yes")
        if confirm.count():
            confirm.click()


def written(folder: Path, made: dict[str, Surface]) -> dict[str, str]:
    """Surfaces as scan files in a folder: their paths by name."""
    for name, surface in made.items():
        write_surface(folder / name, surface)
    return {name: str(folder / name) for name in made}


def begin_case(page: Page, code: str, restoration: str, tooth: str) -> None:
    """A new case as far as its tooth, by pressing."""
    page.goto("/")
    page.get_by_role("button", name="New case").click()
    page.get_by_label("Case code").fill(code)
    page.get_by_label("Restoration").click()
    page.get_by_role("option", name=restoration).click()
    page.get_by_role("button", name=f"Tooth {tooth}").click()


def measure_as_guessed(page: Page) -> None:
    """On the sheet of scans: the guessed axes are looked at and confirmed, and it is measured."""
    page.get_by_role("button", name="Show the guessed axes").click()
    expect(page.get_by_role("button", name="Yes, that is right")).to_be_visible(timeout=MEASURING_MS)
    page.get_by_role("button", name="Yes, that is right").click()
    expect(page.get_by_role("button", name="Confirmed")).to_be_visible()
    page.get_by_role("button", name="Measure", exact=True).click()


def drop(page: Page, file: str) -> None:
    """A file dropped on the window, as from a folder."""
    page.evaluate(
        """async ([name, text]) => {
            const bytes = Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
            const data = new DataTransfer();
            data.items.add(new File([bytes], name));
            window.dispatchEvent(new DragEvent('drop', { dataTransfer: data, bubbles: true, cancelable: true }));
        }""",
        [Path(file).name, base64.b64encode(Path(file).read_bytes()).decode()],
    )


def press(page: Page, x: float = 0.0, y: float = 0.0) -> None:
    """On the sheet, so many pixels from its middle."""
    box = page.locator("canvas").bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] / 2 + x, box["y"] + box["height"] / 2 + y)

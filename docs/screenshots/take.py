"""Take the current picture of each main view from the demo: `make screenshots`.

Starts the application as a user would, in a folder of its own, and writes one PNG a view beside this file. With
`--address` an application that already runs is used.
"""

from __future__ import annotations

import argparse
import re
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

FOLDER = Path(__file__).parent
FLAGS = [
    "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--ignore-gpu-blocklist", "--disable-quic",
    "--no-sandbox",
]  # fmt: skip
START_S = 420


def wait_for(address: str) -> None:
    """Until the server answers."""
    end = time.monotonic() + START_S
    while True:
        try:
            urllib.request.urlopen(f"{address}/api/health", timeout=2)
            return
        except OSError:
            if time.monotonic() > end:
                raise
            time.sleep(0.5)


def rest(page: Page) -> None:
    """Until the sheet has drawn its full mesh and stands still."""
    page.wait_for_timeout(2500)


def opened(page: Page, code: str, finding: str) -> None:
    """A case opened from the list, once a finding of it is told."""
    page.goto("/")
    page.get_by_role("link", name=re.compile(code)).click()
    page.locator("aside li", has_text=finding).first.wait_for()


def case(page: Page, attempt: int = 1) -> None:
    """The demo's first molar with its findings."""
    opened(page, "SM-0147", "minimum")
    page.get_by_role("button", name=f"Attempt {attempt}").click()
    rest(page)


def keys(*presses: str) -> Callable[[Page], None]:
    """The demo after some keys."""

    def go(page: Page) -> None:
        case(page)
        for press in presses:
            page.keyboard.press(press)
            page.wait_for_timeout(500)
        rest(page)

    return go


def cases(page: Page) -> None:
    page.goto("/")
    page.get_by_role("link", name=re.compile("SM-0147")).wait_for()
    page.wait_for_timeout(1500)  # the small pictures come when they are seen


def new_case(page: Page) -> None:
    page.goto("/new")
    page.get_by_label("Case code").fill("SM-0150")
    page.get_by_role("button", name="Tooth 36").click()
    page.wait_for_timeout(300)


def scans(page: Page) -> None:
    case(page)
    page.get_by_role("button", name="Scans").click()
    page.get_by_role("button", name="Show the guessed axes").click()
    page.get_by_role("button", name="Yes, that is right").wait_for(timeout=60_000)
    page.get_by_role("button", name="Yes, that is right").scroll_into_view_if_needed()
    rest(page)


def pins(page: Page) -> None:
    """The lateral incisor from behind, its guide pins, and their table."""
    page.goto("/")
    page.get_by_role("link", name=re.compile("SM-0288")).first.click()
    page.locator("canvas[data-drawn=yes]").first.wait_for(timeout=60_000)
    rest(page)
    page.keyboard.press("l")
    rest(page)
    page.get_by_text("Grooves and pins").scroll_into_view_if_needed()
    rest(page)


def visit(page: Page) -> None:
    """The first molar's visit: a step under way, two timers beside it."""
    case(page)
    page.get_by_role("button", name="Visit", exact=True).click()
    page.get_by_role("button", name="Start: Cut").click()
    for timer in ("Cord in the sulcus", "Primer"):
        page.get_by_role("button", name=re.compile(f"^{timer}")).first.click()
    page.get_by_role("region", name="What is running").get_by_text("Primer").wait_for()
    page.wait_for_timeout(1500)


def unvisit(page: Page) -> None:
    """What a picture of the visit started is ended again."""
    page.get_by_role("button", name="End: Cut").click()
    running = page.get_by_role("region", name="What is running").get_by_role("button", name=re.compile("left|done"))
    while running.count():
        running.first.click()
        page.wait_for_timeout(500)


def plan(page: Page) -> None:
    """An onlay's plan: its box chosen, made where there is none."""
    page.goto("/")
    page.locator("li", has_text="SM-0260").get_by_role("link", name="Plan", exact=True).click()
    made, make = page.get_by_role("button", name="Depths"), page.get_by_role("button", name="Make the plan")
    made.or_(make).first.wait_for()
    if make.is_visible():
        box = page.get_by_role("button", name="mesial")
        if box.get_attribute("aria-pressed") != "true":
            box.click()
        page.locator("button[aria-pressed=true]", has_text="mesial").wait_for()
        make.click()
    made.wait_for(timeout=90_000)
    rest(page)
    page.get_by_role("region", name="Cusps").scroll_into_view_if_needed()
    rest(page)


def tried(page: Page) -> None:
    """A stroke over the first molar's distolingual cusp, and what would follow."""
    case(page)
    page.keyboard.press("b")
    page.get_by_label("Simulate strokes").wait_for()  # beside the sheet, which is narrower now
    rest(page)
    box = page.locator("canvas").first.bounding_box()
    assert box is not None
    middle = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    for x, y in ((-0.147, 0.12), (-0.116, 0.14), (-0.084, 0.155)):  # of the sheet's height, which is 19 mm
        page.mouse.click(middle[0] + box["height"] * x, middle[1] + box["height"] * y)
    page.get_by_role("button", name="What would follow?").click()
    page.get_by_text("of tooth would go").wait_for(timeout=90_000)
    rest(page)


def veneer(page: Page) -> None:
    """A veneer through its mock-up, from its face, beside its twin: room along the row, left against right."""
    opened(page, "SM-0274", "maximum")
    rest(page)
    page.get_by_role("table", name="Veneers side by side").wait_for()
    page.get_by_role("heading", name="Left against right").scroll_into_view_if_needed()
    page.wait_for_timeout(500)


def child_crown(page: Page) -> None:
    """The 55 with a size of the set laid over it that binds."""
    opened(page, "SM-0296", "minimum")
    rest(page)
    page.get_by_role("button", name="Lay size 2 over the tooth").click()
    page.locator("summary", has_text="Crowns of the set").scroll_into_view_if_needed()
    rest(page)


def onlay(page: Page) -> None:
    """The 46: its thin cusp, seen by what stands behind the cavity's wall."""
    opened(page, "SM-0260", "minimum")
    rest(page)
    page.keyboard.press("n")
    rest(page)
    page.keyboard.press("o")
    rest(page)


def school(page: Page) -> None:
    """The class's sheets, once all are measured."""
    page.goto("/school")
    page.get_by_role("link", name=re.compile("First molar")).first.click()
    page.get_by_text("handed in").first.wait_for()
    page.locator("p", has_text="being measured").wait_for(state="hidden", timeout=300_000)
    page.get_by_role("button", name="Sheets").click()
    page.wait_for_timeout(1500)


def contacts(page: Page) -> None:
    """Where the teeth meet, under the clearance lens."""
    case(page, attempt=2)
    page.keyboard.press("2")
    told = page.locator("summary", has_text="on the other teeth")
    told.click()
    told.scroll_into_view_if_needed()
    rest(page)


def bridge(page: Page) -> None:
    """The demo's bridge, measured together."""
    page.goto("/")
    address = page.get_by_role("link", name=re.compile("SM-0310")).first.get_attribute("href") or ""
    page.goto(f"{address.split('?')[0]}/bridge")
    page.locator("canvas[data-drawn=yes]").wait_for()
    page.get_by_role("button", name="From facial").click()
    rest(page)


def standards(page: Page) -> None:
    page.goto("/library")
    page.get_by_role("button", name=re.compile("^Metal-ceramic, moderate")).click()
    page.wait_for_timeout(500)


VIEWS: dict[str, Callable[[Page], None]] = {
    "cases": cases,
    "new-case": new_case,
    "scans": scans,
    "depth": keys("n"),
    "space": contacts,
    "draw": keys("3", "r", "f"),
    "finish-line": keys("4", "r", "o"),
    "section": keys("n", "s"),
    "bridge": bridge,
    "pins": pins,
    "onlay": onlay,
    "veneer": veneer,
    "class": school,
    "plan": plan,
    "child-crown": child_crown,
    "try": tried,
    "standards": standards,
    "two-sheets": keys("c", "o"),
    "visit": visit,
}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--address", help="of an application that runs already")
    parser.add_argument("--only", nargs="*", choices=list(VIEWS), help="some of the views")
    parser.add_argument("--out", type=Path, default=FOLDER)
    args = parser.parse_args()
    process = None
    address = args.address
    with tempfile.TemporaryDirectory() as folder:
        if address is None:
            with socket.socket() as s:
                s.bind(("127.0.0.1", 0))
                port = s.getsockname()[1]
            address = f"http://127.0.0.1:{port}"
            command = [sys.executable, "-m", "vane_line", "serve", "--demo", "--data", folder, "--port", str(port)]
            process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
        try:
            wait_for(address)
            with sync_playwright() as p:
                browser = p.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
                for name in args.only or VIEWS:
                    page = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address).new_page()
                    VIEWS[name](page)
                    page.screenshot(path=args.out / f"{name}.png")
                    if name == "visit":
                        unvisit(page)
                    page.context.close()
                browser.close()
        finally:
            if process:
                process.terminate()
                process.wait(timeout=20)


if __name__ == "__main__":
    main()

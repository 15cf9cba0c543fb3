"""Every screen for people who see, point or read otherwise: axe finds nothing, nothing overlaps or is cut off."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import pytest
from long import first
from playwright.sync_api import Page, expect
from quiet import quiet
from screen import MEASURING_MS, open_demo
from waiting import until

AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
SIZES = {"desk": (1280, 800), "tablet": (1024, 768), "large": (1920, 1080)}
Visit = Callable[[Page], None]


def examine(*keys: str) -> Visit:
    def go(page: Page) -> None:
        open_demo(page)
        for key in keys:
            page.keyboard.press(key)
        page.wait_for_load_state("networkidle")

    return go


def visit(path: str, ready: str) -> Visit:
    def go(page: Page) -> None:
        page.goto(path)
        expect(page.get_by_role("button", name=re.compile(ready)).first).to_be_visible()

    return go


def scans(page: Page) -> None:
    open_demo(page)
    page.get_by_role("button", name="Scans").click()
    expect(page.get_by_role("button", name="Show the guessed axes")).to_be_visible()


def plan(page: Page) -> None:
    page.goto("/")
    page.locator("li", has_text="SM-0147").get_by_role("link", name="Plan", exact=True).click()
    made, make = page.get_by_role("button", name="Depths"), page.get_by_role("button", name="Make the plan")
    expect(made.or_(make).first).to_be_visible()
    if make.is_visible():
        make.click()
    expect(made).to_be_visible(timeout=MEASURING_MS)


def record(page: Page) -> None:
    open_demo(page)
    page.get_by_role("button", name="Record").click()
    expect(page.get_by_role("dialog", name="Record and package")).to_be_visible()


def own_cases(page: Page) -> None:
    page.goto("/career")
    expect(page.get_by_role("heading", name="Cut too deep")).to_be_visible()


SCREENS: dict[str, Visit] = {
    "record": record,
    "cases": visit("/", "Put SM-0147"),
    "new case": visit("/new", "Tooth 36"),
    "findings": examine("n"),
    "to do": examine("w"),
    "finish line, rose and strip": examine("4", "r"),
    "section": examine("s"),
    "simulate": examine("b"),
    "clearance": examine("2"),
    "undercut": examine("3"),
    "two sheets": examine("c"),
    "pins": examine("i"),
    "help": examine("?"),
    "scans": scans,
    "plan": plan,
    "library": visit("/library", "Copy and edit"),
    "own cases": own_cases,
}
APART = (
    "record",
    "cases",
    "new case",
    "scans",
    "plan",
    "library",
    "own cases",
)  # that lie on pages of their own, or over one
# On the sheet one after the other, as a person goes through them: what opens each, and what closes it again.
ON_SHEET = {
    "findings": (("n",), ()), "to do": (("w",), ("w",)), "finish line, rose and strip": (("4", "r"), ("r",)),
    "section": (("s",), ("s",)), "simulate": (("b",), ("b",)), "clearance": (("2",), ()), "undercut": (("3",), ("1",)),
    "two sheets": (("c",), ("c",)), "pins": (("i",), ("i",)), "help": (("?",), ("Escape",)),
}  # fmt: skip


def violations(page: Page) -> list[str]:
    """Of any severity, by the rules of axe-core (Deque Systems, MPL-2.0)."""
    page.evaluate(AXE.read_text(encoding="utf-8"))  # not as a script of the page: its policy lets in none but its own
    found = page.evaluate("axe.run(document, {resultTypes: ['violations']})")
    assert len(found["passes"]) > 5  # the rules did run
    return [f"{v['id']} ({v['impact']}): {n['html'][:140]}" for v in found["violations"] for n in v["nodes"]]


@pytest.mark.parametrize("screen", APART)
def test_axe_finds_nothing(page: Page, screen: str) -> None:
    SCREENS[screen](page)
    assert violations(page) == []


def test_axe_finds_nothing_on_the_sheet(page: Page) -> None:
    """Every tool and panel of it, one after the other."""
    assert set(ON_SHEET) | set(APART) == set(SCREENS)
    open_demo(page)
    said = {}
    for name, (opens, closes) in ON_SHEET.items():
        for key in opens:
            page.keyboard.press(key)
        page.wait_for_load_state("networkidle")
        said[name] = violations(page)
        for key in closes:
            page.keyboard.press(key)
    assert said == {name: [] for name in ON_SHEET}


OVERLAPS = """() => {
  const shown = (e) => {
    const b = e.getBoundingClientRect(), s = getComputedStyle(e);
    return b.width > 1 && b.height > 1 && s.visibility !== "hidden" && s.opacity !== "0";
  };
  const inSheet = (e) => e.closest("[role=application], [role=img]") !== null;
  // What is open over the page covers it on purpose: of that alone is asked.
  const open = [...document.querySelectorAll("[role=dialog], [role=alertdialog]")].filter(shown).at(-1);
  const all = [...(open ?? document).querySelectorAll("button, a, input, select, [role=radio]")]
    .filter((e) => shown(e) && !inSheet(e) && !e.closest("svg"));
  const out = [];
  const scrolled = (e) => { for (let p = e.parentElement; p; p = p.parentElement)
    if (/auto|scroll/.test(getComputedStyle(p).overflowY) && p.scrollHeight > p.clientHeight + 1) return p; };
  for (const [k, a] of all.entries()) {
    const A = a.getBoundingClientRect(), box = scrolled(a);
    if (A.right > innerWidth + 1 || A.left < -1) out.push("beside the page: " + a.outerHTML.slice(0, 90));
    if (!box && document.scrollingElement.scrollHeight <= innerHeight + 1 && A.bottom > innerHeight + 1)
      out.push("below the page: " + a.outerHTML.slice(0, 90));
    if (a.scrollWidth > a.clientWidth + 2 && a.clientWidth > 0 && !/INPUT|SELECT/.test(a.tagName)
        && !a.querySelector(".truncate")) out.push("cut off: " + a.outerHTML.slice(0, 90));
    for (const b of all.slice(k + 1)) {
      if (a.contains(b) || b.contains(a) || scrolled(b) !== box) continue;
      const B = b.getBoundingClientRect();
      const w = Math.min(A.right, B.right) - Math.max(A.left, B.left);
      const h = Math.min(A.bottom, B.bottom) - Math.max(A.top, B.top);
      if (w > 2 && h > 2) out.push("overlap: " + a.outerHTML.slice(0, 70) + " | " + b.outerHTML.slice(0, 70));
    }
  }
  return out;
}"""


TWICE_AS_LARGE = ("findings", "cases", "library")


@pytest.mark.parametrize("screen", first(3, *TWICE_AS_LARGE, "plan", *[s for s in SCREENS if s not in (
    *TWICE_AS_LARGE, "plan")]))  # fmt: skip
def test_nothing_overlaps_or_is_cut_off(page: Page, screen: str) -> None:
    """Controls lie beside each other and inside the page, at a desk, on a chairside tablet and on a large screen; at
    200 % of the text's size every control can still be reached: nothing lies on another."""
    SCREENS[screen](page)
    said = {}
    for size, (width, height) in SIZES.items():
        page.set_viewport_size({"width": width, "height": height})
        quiet(page)
        said[size] = page.evaluate(OVERLAPS)
    assert said == {size: [] for size in SIZES}
    if screen in TWICE_AS_LARGE:
        page.set_viewport_size(dict(zip(("width", "height"), SIZES["desk"], strict=True)))
        page.evaluate("document.documentElement.style.fontSize = '32px'")
        quiet(page)
        assert [row for row in page.evaluate(OVERLAPS) if row.startswith("overlap")] == []


def test_the_whole_loop_by_keyboard_alone(page: Page) -> None:
    """From the list to the worst place, to the next one, its section, the tooth turned, and back: no pointer."""
    page.goto("/")
    expect(page.get_by_role("link", name=re.compile("SM-0147")).first).to_be_visible()
    for _ in range(40):
        page.keyboard.press("Tab")
        if "SM-0147" in page.evaluate("document.activeElement.innerText ?? ''"):
            break
    page.keyboard.press("Enter")
    expect(page.locator("aside").get_by_role("status").first).to_be_visible(timeout=MEASURING_MS)
    page.keyboard.press("n")
    expect(page.locator("aside [aria-expanded=true]")).to_have_count(1)
    chosen = page.locator("aside [aria-expanded=true]").inner_text()
    page.keyboard.press("n")
    expect(page.locator("aside [aria-expanded=true]")).not_to_have_text(chosen)
    page.keyboard.press("s")
    expect(page.get_by_role("region", name=re.compile("section", re.IGNORECASE))).to_be_visible()
    page.keyboard.press("s")
    before = page.locator("canvas").first.screenshot()
    page.get_by_role("application").first.focus()
    page.keyboard.press("ArrowLeft")
    until(lambda: page.locator("canvas").first.screenshot() != before)

"""Every text on every screen reads against its ground."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Page
from quiet import quiet
from screen import open_demo

Visit = Callable[[Page], None]
SCREENS: dict[str, Visit] = {
    "cases": lambda p: p.goto("/") and p.get_by_role("link", name=re.compile("SM-0147")).wait_for(),
    "new case": lambda p: p.goto("/new") and p.get_by_role("button", name="Tooth 36").wait_for(),
    "examine": open_demo,
}


@pytest.mark.parametrize("screen", SCREENS)
def test_every_text_reads_against_its_ground(page: Page, screen: str) -> None:
    """Contrast 4.5 to 1 (3 to 1 from 24 px on), in both themes; every control has a name; nothing runs off the side."""
    SCREENS[screen](page)
    poor = {"light": page.evaluate(CONTRAST)}
    page.evaluate("document.documentElement.dataset.theme = 'dim'")
    quiet(page)
    poor["dim"] = page.evaluate(CONTRAST)
    assert poor == {"light": [], "dim": []}
    nameless = page.evaluate(
        "[...document.querySelectorAll('button, a, input')].filter(e => !(e.innerText || e.ariaLabel || e.title || "
        "(e.labels && e.labels.length))).map(e => e.outerHTML.slice(0, 120))"
    )
    assert nameless == []
    assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth")


CONTRAST = """() => {
  const canvas = document.createElement("canvas").getContext("2d", { willReadFrequently: true });
  const rgb = (c) => {
    canvas.clearRect(0, 0, 1, 1); canvas.fillStyle = c; canvas.fillRect(0, 0, 1, 1);
    return [...canvas.getImageData(0, 0, 1, 1).data];
  };
  const lum = ([r, g, b]) => [r, g, b].map((v) => v / 255)
    .map((v) => v <= 0.03928 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)
    .reduce((s, v, k) => s + v * [0.2126, 0.7152, 0.0722][k], 0);
  const ground = (e) => {
    for (; e; e = e.parentElement) {
      const c = rgb(getComputedStyle(e).backgroundColor);
      if (c[3] > 200) return c;
    }
    return [255, 255, 255, 255];
  };
  const poor = [];
  for (const e of document.querySelectorAll("body *")) {
    const text = [...e.childNodes].filter((n) => n.nodeType === 3).map((n) => n.textContent.trim()).join("");
    const box = e.getBoundingClientRect();
    if (!text || !box.width || getComputedStyle(e).visibility === "hidden" || e.closest("svg, [disabled]")) continue;
    let alpha = 1;
    for (let p = e; p; p = p.parentElement) alpha *= Number(getComputedStyle(p).opacity);
    const back = ground(e), front = rgb(getComputedStyle(e).color).map((v, k) => v * alpha + back[k] * (1 - alpha));
    const [a, b] = [lum(front), lum(back)].sort((x, y) => y - x);
    const ratio = (a + 0.05) / (b + 0.05);
    if (ratio < (parseFloat(getComputedStyle(e).fontSize) >= 24 ? 3 : 4.5)) poor.push(`${text}: ${ratio.toFixed(1)}`);
  }
  return poor;
}"""

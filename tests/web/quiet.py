"""When a page has come to rest: nothing asked for, no frame to be drawn, no short wait running, nothing moving."""

from __future__ import annotations

from playwright.sync_api import Page
from waiting import until

# Runs before the page's own script and counts what it leaves under way. What is put off for longer than a second is
# not waited for: it asks again now and then.
COUNTS = """(() => {
  const open = new Set();
  const { fetch, requestAnimationFrame, cancelAnimationFrame, setTimeout, clearTimeout } = window;
  window.fetch = async (...asked) => {
    const mine = {};
    open.add(mine);
    try {
      const answer = await fetch(...asked);
      answer.clone().arrayBuffer().finally(() => open.delete(mine));
      return answer;
    } catch (error) {
      open.delete(mine);
      throw error;
    }
  };
  window.requestAnimationFrame = (draw) => {
    const id = requestAnimationFrame((now) => { open.delete(`frame ${id}`); draw(now); });
    open.add(`frame ${id}`);
    return id;
  };
  window.cancelAnimationFrame = (id) => { open.delete(`frame ${id}`); cancelAnimationFrame(id); };
  window.setTimeout = (act, after, ...rest) => {
    const id = setTimeout((...given) => { open.delete(`wait ${id}`); act(...given); }, after, ...rest);
    if (!(after > 1000)) open.add(`wait ${id}`);
    return id;
  };
  window.clearTimeout = (id) => { open.delete(`wait ${id}`); clearTimeout(id); };
  const moving = () => document.getAnimations().filter((a) => a.effect.getTiming().iterations !== Infinity).length;
  const frame = () => new Promise((done) => requestAnimationFrame(done));
  window.comesToRest = async () => {
    for (let k = 0; k < 3; k++) {
      if (open.size || moving()) return false;
      await frame();
    }
    return !open.size && !moving();
  };
})()"""


def quiet(page: Page) -> None:
    """Waits until nothing is under way on a page that was opened with `COUNTS`."""
    until(lambda: page.evaluate("window.comesToRest()"))

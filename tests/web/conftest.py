"""The real application, started as a user starts it, in headless Chromium."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from made import COARSE_MM, demo_made
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright
from quiet import COUNTS

from vane_line.demo.saltmarsh import SALTMARSH, DemoScans, case_of
from vane_line.service.demo import fill_demo
from vane_line.service.surgery import Surgery
from vane_line.store.database import Database

CHROMIUM = "/usr/bin/chromium"
FLAGS = [
    "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--ignore-gpu-blocklist", "--disable-quic",
    "--no-sandbox", "--disable-gpu-rasterization", "--disable-gpu-compositing",  # the simulated card draws teeth alone
    "--process-per-site",
]  # fmt: skip
PATIENCE_MS = 300_000  # for a state to come on a machine that is busy with other work
SEEN = ("SM-0147", "SM-0231")  # that many tests open; others by the mark `opens`. Each costs its measurement


expect.set_options(timeout=PATIENCE_MS)


def free_port() -> int:
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return int(s.getsockname()[1])


@pytest.fixture(scope="session")
def served_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The data folder of the server."""
    return tmp_path_factory.mktemp("served")


def ready_scans(code: str, attempt: int, grid_mm: float) -> DemoScans:
    """The scans of a demo case, made once and kept from run to run."""
    assert grid_mm == COARSE_MM
    return DemoScans.of(case_of(code), demo_made(code, attempt))


@pytest.fixture(scope="session")
def served(served_folder: Path, request: pytest.FixtureRequest) -> Iterator[str]:
    """The address of a server with the Saltmarsh demo in a fresh folder."""
    opened_by_mark = [mark.args[0] for item in request.session.items for mark in item.iter_markers("opens")]
    seen = {*SEEN, *opened_by_mark}
    db = Database(served_folder / "vane-line.sqlite")
    surgery = Surgery.open(db, served_folder / "vane-line.sqlite")
    fill_demo(surgery, print, COARSE_MM, ready_scans, [case for case in SALTMARSH if case.code in seen], pupils=0)
    surgery.close()
    db.close()
    with started(served_folder) as address:
        yield address


@contextmanager
def started(folder: Path, **environment: str) -> Iterator[str]:
    """The address of a server on a data folder, as a user starts it."""
    port = free_port()
    command = [sys.executable, "-m", "vane_line", "serve", "--data", str(folder), "--port", str(port)]
    process = subprocess.Popen(
        command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, env=os.environ | environment
    )
    address = f"http://127.0.0.1:{port}"
    try:
        while True:  # as long as it takes to start; a server that has died is said
            try:
                urllib.request.urlopen(f"{address}/api/health", timeout=10)
                break
            except OSError:
                if process.poll() is not None:
                    raise AssertionError(
                        f"the server did not start: {process.stdout and process.stdout.read()}"
                    ) from None
                time.sleep(0.2)
        yield address
    finally:
        process.terminate()
        process.wait(timeout=60)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    executable = os.environ.get("VANE_LINE_CHROMIUM", CHROMIUM)
    assert Path(executable).exists(), "Chromium is missing; `make chromium` installs it."
    with sync_playwright() as p:
        browser = p.chromium.launch(executable_path=executable, args=FLAGS)
        yield browser
        browser.close()


@pytest.fixture(scope="session")
def kept_context(browser: Browser, served: str) -> Iterator[BrowserContext]:
    """What the pages of the demo's server lie in: one, with a page that stays, so that each new one finds the process
    that drew the last, with the scripts compiled."""
    with visitor(browser, served) as context:
        context.new_page().goto("/mark.svg")
        yield context


@pytest.fixture
def page(kept_context: BrowserContext, served: str) -> Iterator[Page]:
    """A page at 1280 x 800 that remembers nothing; an error in the browser's console or a request elsewhere fails the
    test."""
    stays, *others = kept_context.pages
    for other in others:
        other.close()
    kept_context.clear_cookies()
    stays.evaluate("localStorage.clear()")
    with watched(kept_context, served) as page:
        yield page


@contextmanager
def opened(browser: Browser, served: str) -> Iterator[Page]:
    """A page of a server, as somebody else's browser opens it; troubles fail on leaving it."""
    with visitor(browser, served) as context, watched(context, served) as page:
        yield page


@contextmanager
def visitor(browser: Browser, served: str) -> Iterator[BrowserContext]:
    """A browser's storage of its own, with the scripts that tell when a page has come to rest."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=served)
    context.add_init_script(COUNTS)
    yield context
    context.close()


@contextmanager
def watched(context: BrowserContext, served: str) -> Iterator[Page]:
    """A page whose troubles fail on leaving it."""
    page = context.new_page()
    page.set_default_timeout(PATIENCE_MS)
    troubles: list[str] = []
    page.on("pageerror", lambda e: troubles.append(str(e)))
    page.on("request", lambda r: None if r.url.startswith((served, "data:", "blob:")) else troubles.append(r.url))
    try:
        yield page
    finally:
        page.close()
    assert troubles == []

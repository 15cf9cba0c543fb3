"""A server in a process of its own that is worked, and killed: for tests and for `bench/kills.py`, `bench/day.py`."""

from __future__ import annotations

import os
import signal
import socket
import sqlite3
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import httpx
from solids import Stump
from waiting import until_ended

from vane_line.core.mesh.write import stl_bytes

STUMP = Stump(grid_mm=0.4, neighbours=False, seed=31)
PREP, PREOP = stl_bytes(STUMP.prep()), stl_bytes(STUMP.preop())
AXES = {"occlusal": [0, 0, 1], "facial": [0, 1, 0], "near": None}


class Clinic:
    """A server in a process of its own, and what it has said yes to."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.cases: list[str] = []
        self.scans: list[tuple[str, str]] = []  # reading, scan
        self.axes: dict[str, int] = {}
        self.jobs: list[str] = []

    def start(self) -> None:
        with socket.socket() as s:
            s.bind(("127.0.0.1", 0))
            port = s.getsockname()[1]
        command = [sys.executable, "-m", "vane_line", "serve", "--data", str(self.folder), "--port", str(port)]
        self.process = subprocess.Popen(
            command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True
        )
        self.http = httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=60)
        while True:
            try:
                self.http.get("/api/health").raise_for_status()
                return
            except httpx.HTTPError:
                assert self.process.poll() is None, "the server did not start again"
                time.sleep(0.1)

    def kill(self) -> None:
        """The server and all that it started, without a word."""
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait()
        self.http.close()

    def kill_a_worker(self) -> None:
        """One of the processes that work for the server, if there is any: copies of one that it started."""
        listed = subprocess.run(["ps", "-o", "pid=,ppid="], capture_output=True, text=True, check=False).stdout
        parents = {int(pid): int(parent) for pid, parent in (line.split() for line in listed.splitlines())}
        workers = [pid for pid, parent in parents.items() if parents.get(parent) == self.process.pid]
        for pid in workers[-1:]:
            os.kill(pid, signal.SIGKILL)

    def work(self) -> None:
        """A day's work until the line goes dead: a case, its scans, its axes, a measurement; over and over."""
        try:
            while True:
                self._one_case(f"SM-{len(self.cases):04d}")
        except httpx.HTTPError:
            return

    def _one_case(self, code: str) -> None:
        made = self._ok(self.http.post("/api/cases", json={"code": code, "tooth": "36", "material": "zirconia"}))
        self.cases.append(made["id"])
        reading = made["sites"][0]["readings"][0]
        at = f"/api/cases/{made['id']}/attempts/{reading['attempt_id']}/scans"
        for role, data in (("prep", PREP), ("preop", PREOP)):
            files = {"file": (f"{role}.stl", data)}
            scan = self._ok(self.http.post(at, files=files, data={"role": role, "unit": "mm"}))
            self.scans.append((reading["id"], scan["id"]))
        axes = self.http.put(f"/api/readings/{reading['id']}/axes", json=AXES, headers={"If-Match": "0"})
        self.axes[reading["id"]] = self._ok(axes)["revision"]
        self.jobs.append(self._ok(self.http.post(f"/api/readings/{reading['id']}/measure"))["id"])

    @staticmethod
    def _ok(answer: httpx.Response) -> Any:
        if answer.status_code >= 500:  # a worker was killed under it: it said so, and nothing counts as done
            raise httpx.HTTPError(answer.text)
        answer.raise_for_status()
        return answer.json()

    def ended(self, job: str) -> str:
        """Wait until a job is at its end; its state then."""
        return str(until_ended(self.http, job)["state"])

    def check(self) -> None:
        """Everything that was acknowledged is there, whole."""
        there = {c["case"]["id"] for c in self.http.get("/api/cases").json()}
        assert set(self.cases) <= there
        for reading, scan in self.scans:
            detail = self.http.get(f"/api/readings/{reading}").json()
            found = {s["id"]: s for s in detail["scans"]}
            assert scan in found
            assert self.http.get(f"/api/blobs/{found[scan]['rest_hash']}").status_code == 200
            assert detail["revisions"]["axes"] >= self.axes.get(reading, 0)
        for job in self.jobs:
            now = self.http.get(f"/api/jobs/{job}").json()
            assert now["state"] in ("waiting", "running", "done"), now["error"]


def sound(folder: Path) -> None:
    """SQLite itself finds nothing wrong, and no row points at nothing."""
    db = sqlite3.connect(folder / "vane-line.sqlite")
    assert db.execute("PRAGMA integrity_check").fetchone() == ("ok",)
    assert db.execute("PRAGMA foreign_key_check").fetchall() == []
    without = "SELECT hash FROM blobs WHERE hash NOT IN (SELECT hash FROM chunks)"
    assert db.execute(without).fetchall() == []
    db.close()

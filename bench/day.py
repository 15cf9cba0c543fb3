"""Eight hours of a practice's day in some minutes: is memory flat, are files closed, does anything fail?

A server in a process of its own; patients come one after another: a case is opened, scans are brought in and measured,
axes are corrected and taken back, the result, sections, the record and the package are asked for, some teeth are
scanned again, some cases put away; a backup is taken now and then. Meanwhile memory and open files of the server with
all that it started are sampled. The figures of docs/reliability.md.
"""

from __future__ import annotations

import argparse
import subprocess
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path
from typing import Any

import httpx
import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from clinic import AXES, PREOP, PREP, STUMP, Clinic
from processes import of_group

from vane_line.core.mesh.write import stl_bytes

OPPOSING = stl_bytes(STUMP.opposing())
Query = list[tuple[str, float]]
UP: Query = [("direction", v) for v in (0.0, 0.0, 1.0)]
ACROSS: Query = [("one", v) for v in (-4.0, 0.0, 3.0)] + [("other", v) for v in (4.0, 0.0, 3.0)]
PLANE: Query = [(name, v) for name, place in (("origin", (0, 0, 3)), ("normal", (1, 0, 0)), ("up", (0, 0, 1)))
                for v in place]  # fmt: skip
ASKED: list[tuple[str, Query]] = [
    ("result", []), ("draw", UP), ("undercut", UP), ("section", PLANE), ("tape", ACROSS),
    ("record.pdf", []), ("record.html", []), ("package.zip", []), ("changes", []), ("edits", []),
]  # fmt: skip
THIRD = 3


class Patient:
    """One that is treated: what is asked of the server in a visit."""

    def __init__(self, clinic: Clinic, number: int, told: Counter[str]) -> None:
        self.clinic, self.told = clinic, told
        answer = self.post("/api/cases", json={"code": f"SM-{number:04d}", "tooth": "36", "material": "zirconia"})
        self.case = answer["id"]
        self.reading = answer["sites"][0]["readings"][0]

    def ask(self, method: str, path: str, **more: Any) -> httpx.Response:
        """An answer of 5xx is what must not be; nothing that is asked here should be refused either."""
        answer = self.clinic.http.request(method, path, **more)
        self.told[f"{answer.status_code // 100}xx"] += 1
        if answer.status_code >= 400:
            self.told[f"{method} {path.split('/')[-1]}: {answer.status_code}"] += 1
        return answer

    def post(self, path: str, **more: Any) -> Any:
        """What was made."""
        answer = self.ask("POST", path, **more)
        answer.raise_for_status()
        return answer.json()

    def bring(self, attempt: str, **scans: bytes) -> None:
        """Scans of an attempt, by role."""
        for role, data in scans.items():
            files = {"file": (f"{role}.stl", data)}
            self.post(
                f"/api/cases/{self.case}/attempts/{attempt}/scans", files=files, data={"role": role, "unit": "mm"}
            )

    def measured(self, reading: str) -> None:
        """Wait until it is."""
        job = self.post(f"/api/readings/{reading}/measure")["id"]
        self.told[f"measured: {self.clinic.ended(job)}"] += 1

    def visit(self, random: np.random.Generator) -> None:
        """From the first scan to the record."""
        self.bring(self.reading["attempt_id"], preop=PREOP, opposing=OPPOSING, prep=PREP)
        at = f"/api/readings/{self.reading['id']}"
        self.ask("PUT", f"{at}/axes", json=AXES, headers={"If-Match": "0"}).raise_for_status()
        self.measured(self.reading["id"])
        for asked, by in ASKED:
            self.ask("GET", f"{at}/{asked}", params=by)
        tilted = AXES | {"occlusal": [0.02, 0, 1]}
        self.ask("PUT", f"{at}/axes", json=tilted, headers={"If-Match": "1"})
        self.ask("POST", f"{at}/edits/axes/undo", headers={"If-Match": "2"})
        self.ask("GET", f"/api/cases/{self.case}/visit")
        self.ask("GET", "/api/cases")
        self.ask("GET", "/api/career")
        if random.random() < 0.3:  # cut a little more, and scanned again
            added = self.post(f"/api/cases/{self.case}/attempts")
            again = added["sites"][0]["readings"][-1]
            self.bring(again["attempt_id"], prep=PREP)
            self.measured(again["id"])
        if random.random() < 0.2:
            self.ask("DELETE", f"/api/cases/{self.case}")


def sample(clinic: Clinic) -> tuple[float, int, int]:
    """Memory (MB; what processes share is counted once) and open files of the server with its workers, and how many."""
    memory, files, found = 0.0, 0, of_group(clinic.process.pid)
    for entry in found:
        try:
            rolled = (entry / "smaps_rollup").read_text().splitlines()
            memory += next(int(line.split()[1]) for line in rolled if line.startswith("Pss:")) / 1000
            files += sum(1 for _ in (entry / "fd").iterdir())
        except (OSError, StopIteration):
            continue
    return memory, files, len(found)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--minutes", type=float, default=10.0)
    parser.add_argument("--seed", type=int, default=0)
    args = parser.parse_args()
    random, told, samples = np.random.default_rng(args.seed), Counter[str](), []
    with tempfile.TemporaryDirectory() as temporary:
        clinic = Clinic(Path(temporary) / "data")
        clinic.start()
        until = time.monotonic() + 60 * args.minutes
        while time.monotonic() < until:
            Patient(clinic, told["patients"], told).visit(random)
            told["patients"] += 1
            samples.append(sample(clinic))
            if told["patients"] % 20 == 0:
                command = [sys.executable, "-m", "vane_line", "backup", "--data", str(clinic.folder)]
                subprocess.run([*command, "--to", f"{temporary}/backups", "--keep", "2"], check=True,
                               stdout=subprocess.DEVNULL)  # fmt: skip
        clinic.kill()
    print(", ".join(f"{name} {count}" for name, count in sorted(told.items())))
    rows = np.array(samples)
    part = len(rows) // THIRD
    for name, column in (("memory (MB)", 0), ("open files", 1), ("processes", 2)):
        thirds = [f"{np.median(rows[k * part : (k + 1) * part, column]):.0f}" for k in range(THIRD)]
        print(f"  {name}: median of the first, second and last third {', '.join(thirds)}; "
              f"at most {rows[:, column].max():.0f}")  # fmt: skip


if __name__ == "__main__":
    main()

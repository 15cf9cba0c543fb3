"""The server and what it starts, killed (-9) at drawn moments while it imports, measures, takes edits and is backed up.

After every kill SQLite finds the store whole, the server is started again, and everything that it had said yes to is
there. In the end each folder's queue runs empty, and every backup that has its name is restored and read. Prints what
was acknowledged, what was lost, and how long the server takes to stand again. The figures of docs/reliability.md.
"""

from __future__ import annotations

import argparse
import os
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from clinic import Clinic, sound

from vane_line.store import backup
from vane_line.store.database import Database

KILLS_A_FOLDER = 20  # then a fresh store: with each case the checking takes longer
LONGEST_S = 5.0  # from the first acknowledged scan to the kill
WORKER_SHARE, BACKUP_SHARE = 0.3, 0.5


def backing_up(clinic: Clinic, to: Path) -> subprocess.Popen[bytes]:
    """A backup beside the running server, in a process of its own."""
    command = [sys.executable, "-m", "vane_line", "backup", "--data", str(clinic.folder), "--to", str(to)]
    return subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True)


def killed_once(clinic: Clinic, to: Path, random: np.random.Generator, told: Counter[str]) -> None:
    """Work until something is acknowledged, and a while longer; then everything is killed."""
    known = len(clinic.scans)
    work = threading.Thread(target=clinic.work)
    work.start()
    while len(clinic.scans) == known and work.is_alive():
        time.sleep(0.02)
    backup_beside = backing_up(clinic, to) if random.random() < BACKUP_SHARE else None
    time.sleep(float(random.uniform(0.0, LONGEST_S)))
    if random.random() < WORKER_SHARE:
        clinic.kill_a_worker()
        told["workers killed"] += 1
        time.sleep(float(random.uniform(0.0, 1.0)))
    clinic.kill()
    told["servers killed"] += 1
    if backup_beside is not None:
        if random.random() < 0.5 and backup_beside.poll() is None:
            os.killpg(backup_beside.pid, signal.SIGKILL)
            told["backups killed"] += 1
        backup_beside.wait()
    work.join()


def restored(folder: Path, into: Path, told: Counter[str]) -> None:
    """Every backup that has its name is whole: restored it is a store that SQLite finds nothing wrong with."""
    for number, path in enumerate(backup.backups(folder)):
        database = into / str(number) / "vane-line.sqlite"
        backup.restore(path, database)
        Database(database).close()
        sound(database.parent)
        told["backups restored"] += 1


def one_folder(seed: int, kills: int, told: Counter[str], standing: list[float]) -> None:
    """A fresh store, killed so often, and looked through."""
    random = np.random.default_rng(seed)
    with tempfile.TemporaryDirectory() as temporary:
        clinic, to = Clinic(Path(temporary) / "data"), Path(temporary) / "backups"
        for turn in range(kills + 1):
            began = time.perf_counter()
            clinic.start()
            standing.append(time.perf_counter() - began)
            clinic.check()
            if turn < kills:
                killed_once(clinic, to, random, told)
                sound(clinic.folder)
        for job in clinic.jobs:
            state = clinic.ended(job)
            assert state == "done", state
        clinic.kill()
        told["cases"] += len(clinic.cases)
        told["scans"] += len(clinic.scans)
        told["edits"] += len(clinic.axes)
        told["measurements done"] += len(clinic.jobs)
        restored(to, Path(temporary) / "restored", told)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=200)
    parser.add_argument("--first", type=int, default=0, help="seed of the first folder")
    args = parser.parse_args()
    told, standing = Counter[str](), list[float]()
    while (left := args.count - told["servers killed"]) > 0:
        one_folder(args.first + told["servers killed"], min(KILLS_A_FOLDER, left), told, standing)
        print(f"  {told['servers killed']} of {args.count}", flush=True)
    print(", ".join(f"{name} {count}" for name, count in told.items()))
    print("nothing that was acknowledged is missing, nothing is half written")
    late = ", ".join(f"{s:.1f}" for s in sorted(standing)[-3:])
    print(f"stood again after {np.median(standing):.1f} s (median of {len(standing)}), the slowest three {late} s")


if __name__ == "__main__":
    main()

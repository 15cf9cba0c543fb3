"""A class of many through `vane-line batch`: how it goes from one worker to two, how much memory, and after a kill.

Makes the class once (`vane-line demo --class`, kept in .cache/class), then measures it in parts, each on one worker and
on two, in turns, as whole process groups whose memory is sampled; and once more on two, killed with all its workers
when a third is done and begun again. Prints times, the share of linear, memory in the first and the last third, and
what was done twice.
"""

from __future__ import annotations

import argparse
import os
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
from processes import of_group

CACHE = Path(".cache/class")
SAMPLED_S = 1.0
PAGE = os.sysconf("SC_PAGE_SIZE")


def made(count: int) -> Path:
    """The folder of a class, made once."""
    folder = CACHE / str(count)
    if not (folder / "done").exists():
        shutil.rmtree(folder, ignore_errors=True)
        command = [sys.executable, "-m", "vane_line", "demo", "--class", str(count), "--out", str(folder)]
        subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
        (folder / "done").touch()
    return folder


def command(folder: Path, out: Path, workers: int) -> list[str]:
    """Of one run."""
    hand_ins = CACHE / f"{folder.name}-hand-ins"
    hand_ins.mkdir(parents=True, exist_ok=True)
    for path in folder.glob("*_prep.stl"):
        if not (hand_ins / path.name).exists():
            os.link(path, hand_ins / path.name)
    ours = [sys.executable, "-m", "vane_line", "batch", str(hand_ins), "--out", str(out), "--workers", str(workers)]
    ours += ["--tooth", "36", "--material", "lithium-disilicate", "--opposing-frame", "preop"]
    for role in ("preop", "opposing"):
        ours += [f"--{role}", str(folder / f"before_{role}.stl")]
    return ours


def group_memory(group: int) -> int:
    """Bytes of memory that a process group holds now (shared pages counted in each)."""
    total = 0
    for entry in of_group(group):
        try:
            total += int((entry / "statm").read_text().split()[1]) * PAGE
        except (OSError, ValueError, IndexError):
            continue
    return total


def run(folder: Path, out: Path, workers: int, kill_after: int | None = None) -> tuple[float, list[int]]:
    """Wall seconds, and memory as sampled. kill_after: documents, at which everything is killed."""
    began = time.perf_counter()
    ours = subprocess.Popen(command(folder, out, workers), stdout=subprocess.DEVNULL, start_new_session=True)
    memory = []
    while ours.poll() is None:
        memory.append(group_memory(ours.pid))
        if kill_after is not None and len(documents(out)) >= kill_after:
            os.killpg(ours.pid, signal.SIGKILL)
        time.sleep(SAMPLED_S)
    if ours.returncode not in (0, 4, -signal.SIGKILL):
        raise SystemExit(f"batch ended with {ours.returncode}")
    return time.perf_counter() - began, memory


def documents(out: Path) -> dict[str, int]:
    """When each document was written, ns."""
    return {p.name: p.stat().st_mtime_ns for p in (out / "documents").glob("*.json")}


def thirds(memory: list[int]) -> str:
    """Median of the first and of the last third, and the most, GB."""
    part = max(len(memory) // 3, 1)
    first, last = np.median(memory[:part]) / 1e9, np.median(memory[-part:]) / 1e9
    return f"memory {first:.2f} GB in the first third, {last:.2f} in the last, {max(memory) / 1e9:.2f} at most"


def parts(folder: Path, turns: int) -> list[Path]:
    """The class's folder in so many parts, each a folder of its own with the scans from before."""
    out = []
    preps = sorted(folder.glob("*_prep.stl"))
    for k in range(turns):
        part = CACHE / f"{folder.name}-{k + 1}-of-{turns}"
        part.mkdir(parents=True, exist_ok=True)
        for path in [*preps[k::turns], *folder.glob("before_*.stl")]:
            if not (part / path.name).exists():
                os.link(path, part / path.name)
        out.append(part)
    return out


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=200)
    parser.add_argument("--turns", type=int, default=4)
    parser.add_argument("--from-turn", type=int, default=1, help="only this part and those after it; none is killed")
    args = parser.parse_args()
    folder = made(args.count)
    spent = dict.fromkeys((1, 2), 0.0)
    # In turns: a machine that is shared runs faster at one time than at another.
    for turn, part in list(enumerate(parts(folder, args.turns)))[args.from_turn - 1 :]:
        for workers in (1, 2) if turn % 2 == 0 else (2, 1):
            out = CACHE / f"out-{workers}-{turn}"
            shutil.rmtree(out, ignore_errors=True)
            seconds, memory = run(part, out, workers)
            spent[workers] += seconds
            print(f"part {turn + 1} on {workers}: {seconds:.0f} s, {thirds(memory)}", flush=True)
    print(f"all of them on 1: {spent[1]:.0f} s, on 2: {spent[2]:.0f} s", flush=True)
    print(f"from one to two: {spent[1] / (2 * spent[2]):.2f} of linear", flush=True)
    if args.from_turn > 1:
        return
    out = CACHE / "out-killed"
    shutil.rmtree(out, ignore_errors=True)
    run(folder, out, 2, kill_after=args.count // 3)
    before = documents(out)
    again, memory = run(folder, out, 2)
    after = documents(out)
    twice = sum(after[name] != when for name, when in before.items())
    print(
        f"killed at {len(before)}, begun again: {again:.0f} s, {thirds(memory)}, {len(after)} documents, "
        f"{twice} done twice", flush=True,
    )  # fmt: skip


if __name__ == "__main__":
    main()

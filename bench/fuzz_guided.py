"""Scan files mutated towards what the readers have not yet done: coverage-guided fuzzing, in one process a seed.

A file that takes a reader over a step from line to line that no file before it took is kept, and mutated on. So the
readers' rarer branches are reached, which blind mutation (`bench/fuzz.py`) passes by. What goes wrong is kept in
.cache/fuzz. The figures of docs/reliability.md.
"""

from __future__ import annotations

import argparse
import multiprocessing
import random
import sys
import time
from collections import Counter
from pathlib import Path
from types import CodeType, FrameType
from typing import Any

sys.path.insert(0, str(Path(__file__).parent))

from fuzz import KEPT, LONGEST_S, mutated, originals

from vane_line.core.mesh import read
from vane_line.core.mesh.read import read_soup
from vane_line.core.mesh.weld import weld
from vane_line.errors import VaneLineError

READERS = {
    str(path) for path in Path(read.__file__).parent.glob("*.py") if path.stem not in ("surface", "light", "tape")
}
LARGEST, SMALL = 60_000, 12  # bytes of a kept file; faces along a side of the surfaces begun with
WHOLE_SHARE = 0.5
SPLICED = 0.15  # of the mutants are two files joined
Step = tuple[CodeType, int, int]


class Steps:
    """Which steps from line to line the readers took."""

    def __init__(self) -> None:
        self.known: set[Step] = set()
        self._new: set[Step] = set()

    def _trace(self, frame: FrameType, event: str, _arg: Any) -> Any:
        if frame.f_code.co_filename not in READERS:
            return None
        before = [frame.f_lineno]

        def line(here: FrameType, event: str, _arg: Any) -> Any:
            if event == "line":
                step = (here.f_code, before[0], here.f_lineno)
                before[0] = here.f_lineno
                if step not in self.known:
                    self._new.add(step)
            return line

        return line

    def of(self, data: bytes, name: str) -> tuple[str, bool]:
        """What became of a file, and whether it took a new step."""
        self._new = set()
        sys.settrace(self._trace)
        try:
            weld(read_soup(data, name), "mm", name)
            told = "taken"
        except VaneLineError:
            told = "refused in words"
        except Exception as error:  # anything else is a crash
            told = f"crash: {type(error).__name__}: {error}"
        finally:
            sys.settrace(None)
        self.known |= self._new
        return told, bool(self._new)


def guided(task: tuple[int, int]) -> tuple[Counter[str], int, int, int, float, list[str]]:
    """One seed for so many files: what became of them, steps at first and in the end, files kept, longest, faults."""
    seed, count = task
    dice, steps, told = random.Random(seed), Steps(), Counter[str]()
    kept = originals()
    begun = len(kept)
    for name, data in kept:
        steps.of(data, name)
    first, longest, wrong = len(steps.known), 0.0, []
    for number in range(count):
        # The newer the likelier; but most of what is new is refused early: the files begun with have their share.
        whole = dice.random() < WHOLE_SHARE
        name, data = dice.choice(kept[:begun]) if whole else kept[int(len(kept) * dice.random() ** 0.5)]
        given = mutated(data, dice)
        if dice.random() < SPLICED:
            other = dice.choice(kept)[1]
            given = given[: dice.randrange(len(given) + 1)] + other[dice.randrange(len(other) + 1) :]
        began = time.perf_counter()
        outcome, new = steps.of(given, name)
        spent = time.perf_counter() - began
        longest = max(longest, spent)
        told[outcome.partition(":")[0]] += 1
        if new and len(given) < LARGEST:
            kept.append((name, given))
        if outcome.startswith("crash") or spent > LONGEST_S:
            KEPT.mkdir(parents=True, exist_ok=True)
            (KEPT / f"guided-{seed}-{number}-{name}").write_bytes(given)
            wrong.append(f"{seed}-{number} {name}: {outcome}, {spent:.1f} s")
    return told, first, len(steps.known), len(kept), longest, wrong


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=20_000, help="files of each seed")
    parser.add_argument("--seeds", type=int, default=2)
    parser.add_argument("--first", type=int, default=0)
    parser.add_argument("--processes", type=int, default=2)
    args = parser.parse_args()
    tasks = [(seed, args.count) for seed in range(args.first, args.first + args.seeds)]
    with multiprocessing.get_context("spawn").Pool(args.processes) as pool:
        for told, first, last, kept, longest, wrong in pool.imap(guided, tasks):
            print(f"{dict(told)}; {first} steps with the files begun with, {last} in the end, {kept} files kept; "
                  f"the slowest took {longest:.2f} s traced")  # fmt: skip
            print("\n".join(wrong[:20]))


if __name__ == "__main__":
    main()

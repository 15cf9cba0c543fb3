"""The same preparation scanned finely and coarsely: which proven verdicts contradict each other.

Each of the demo's teeth, as `bench/repeatability.py` has them, under the simulated scanner on grids of 0.13 to 0.22 mm,
with the noise that it has. What is proven on one must not be proven otherwise on another.
"""

from __future__ import annotations

import argparse
import sys
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from repeatability import CASES, scanned
from repeats import PROVEN, answer

from vane_line.demo.scene import Scene

GRIDS_MM = (0.13, 0.16, 0.19, 0.22)
Key = tuple[str, str, str]
Told = tuple[str, float | None, float | None]


def told(task: tuple[str, float]) -> dict[Key, Told]:
    """Verdicts of a tooth's scan on a grid."""
    tooth, grid = task
    recipe, material, kind = CASES[tooth]
    made = recipe()
    scans = scanned(Scene.of(replace(made, scan=replace(made.scan, grid_mm=grid))))
    return answer(scans, tooth, material, None, kind).verdicts


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--teeth", default=",".join(CASES))
    parser.add_argument("--processes", type=int, default=2)
    args = parser.parse_args()
    print("| tooth | proven on one grid at least | contradicting |\n|---|---|---|")
    with ProcessPoolExecutor(args.processes) as pool:
        for tooth in args.teeth.split(","):
            found = dict(zip(GRIDS_MM, pool.map(told, [(tooth, grid) for grid in GRIDS_MM]), strict=True))
            keys = sorted(set().union(*found.values()))
            proven = {k: {v[k][0] for v in found.values() if k in v and v[k][0] in PROVEN} for k in keys}
            torn = [k for k in keys if len(proven[k]) > 1]
            print(f"| {tooth} | {sum(bool(p) for p in proven.values())} | {len(torn)} |", flush=True)
            for key in torn:
                print(f"  {' '.join(key)}: { ({grid: v.get(key) for grid, v in found.items()}) }", flush=True)


if __name__ == "__main__":
    main()

"""How often the stated uncertainty covers the truth, over many simulated preparations of known form.

The same runs as `tests/core/test_calibration.py`, or with --cavities or --windows those of the other kinds:
the table of docs/uncertainty.md, per measure the median and the worst error, the bias, the stated U and the share
covered.
"""

from __future__ import annotations

import argparse
import sys
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))


def one(seed: int) -> tuple[dict[str, tuple[float, float]], list[str]]:
    """Errors of everything for one seed, and the faults of the flawless preparation."""
    from calibration import faulty, flawless
    from calibration_parts import parts

    errors, faults = flawless(seed)
    return errors | faulty(seed) | parts(seed), faults


def cavity(seed: int) -> tuple[dict[str, tuple[float, float]], list[str]]:
    """Errors of everything of one cavity."""
    from calibration_cavities import told

    return told(seed).errors, []


def window(seed: int) -> tuple[dict[str, tuple[float, float]], list[str]]:
    """Errors of everything of one veneer's preparation."""
    from calibration_windows import told

    return told(seed).errors, []


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=200)
    parser.add_argument("--first", type=int, default=0, help="number of the first of them")
    parser.add_argument("--processes", type=int, default=2)
    parser.add_argument("--cavities", action="store_true", help="cavities instead of crown preparations")
    parser.add_argument("--windows", action="store_true", help="veneers instead of crown preparations")
    args = parser.parse_args()
    measured = cavity if args.cavities else window if args.windows else one
    rows: dict[str, list[tuple[float, float]]] = defaultdict(list)
    faults: list[str] = []
    with ProcessPoolExecutor(args.processes) as pool:
        for errors, found in pool.map(measured, range(args.first, args.first + args.count)):
            faults += found
            for name, value in errors.items():
                kept = name if name.startswith(("reduction", "finish line width")) else name.split(",")[0]
                rows[kept].append(value)
    print(f"{args.count} simulated preparations; faults given to flawless ones: {faults or 'none'}")
    print("| measure | n | median error | worst | bias | U stated | covered |\n|---|---|---|---|---|---|---|")
    for name, values in rows.items():
        error, u = np.array(values).T
        covered = 100 * np.mean(np.abs(error) <= u)
        print(f"| {name} | {len(values)} | {np.median(np.abs(error)):.3f} | {np.abs(error).max():.3f} "
              f"| {np.mean(error):+.3f} | {np.median(u):.3f} | {covered:.1f} % |")  # fmt: skip


if __name__ == "__main__":
    main()

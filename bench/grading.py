"""What marks are worth: the same preparations scanned again and marked again, and marks against drawn faults.

Students' preparations of one tooth (`demo.classroom`), each scanned several times with noise and triangles of its own.
Prints how often proven verdicts contradict each other between two scans of one preparation, how far its marks spread,
the intraclass correlation of scans as markers, how often the range told with a mark holds the mean of all scans of that
preparation, and how often a grade turned that was not told as doubtful. With --truth each preparation is marked once
from a scan and once from its own surface, finely and without noise, on which every drawn fault is as deep as it was
drawn and no verdict is in doubt: prints the limits of agreement of the two marks. The commands in docs/uncertainty.md
repeat it.
"""

from __future__ import annotations

import argparse
import sys
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from repeats import Answer, flipped_share

from vane_line.core.case import measure
from vane_line.core.grade.agreement import intraclass, limits_of_agreement
from vane_line.core.grade.mark import mark
from vane_line.core.grade.rubric import find_rubric
from vane_line.core.judge.document import document
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import Options
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.cases import MadeCase
from vane_line.demo.classroom import pupil
from vane_line.demo.recipes import timid_first_molar
from vane_line.demo.scene import Scene

TOOTH = ToothNumber("36")
FIRST_SEED = 40_000
EXACT, EXACT_GRID_MM = -1, 0.13


@lru_cache(maxsize=2)
def given(grid_mm: float, exact: bool = False) -> tuple[Surface, Surface]:
    """The scan before cutting and the opposing teeth that everybody is given."""
    recipe = timid_first_molar(1)
    scan = replace(recipe.scan, grid_mm=grid_mm)
    made = MadeCase(replace(recipe, scan=replace(scan, noise_um=0.0, wave_um=0.0) if exact else scan))
    assert made.opposing is not None
    return made.preop, made.opposing


def scanned(task: tuple[int, int, float]) -> dict[str, Any]:
    """One scan of one preparation, marked: (student, scan, grid) -> mark, range, grades, proven verdicts.

    Scan EXACT is no scan but the surfaces themselves.
    """
    student, number, grid_mm = task
    recipe = pupil(student)
    scan = replace(recipe.scan, grid_mm=grid_mm, seed=FIRST_SEED + 100 * student + number)
    if number == EXACT:
        scan = replace(scan, noise_um=0.0, wave_um=0.0, seed=recipe.scan.seed)
    prep = Scene.of(replace(recipe, scan=scan)).prep()
    preop, opposing = given(grid_mm, number == EXACT)
    geometry = measure(Scans(prep, preop, None, opposing), Options(TOOTH, opposing_frame="preop"))
    told = document(geometry, judge(geometry, choose("lithium-disilicate", "full-crown", None, TOOTH)))
    if number == EXACT:
        told["verdicts"] = [settled(v) for v in told["verdicts"]]
    marked = mark(told["verdicts"], find_rubric("crown"))
    verdicts = {(v["criterion"], v["zone"], v["bound"]): (v["status"], v["value"], v["U"]) for v in told["verdicts"]}
    return {
        "student": student, "mark": marked.mark, "low": marked.low, "high": marked.high, "grade": marked.grade,
        "could_be": marked.could_be,
        "answer": Answer({}, verdicts, geometry.path.direction, geometry.frame.occlusal),
    }  # fmt: skip


def settled(verdict: dict[str, Any]) -> dict[str, Any]:
    """A verdict on a value that is exact: there is no doubt left."""
    value, limit, least = verdict["value"], verdict["limit"], verdict["bound"] == "min"
    if value is None or limit is None:
        return verdict
    met = value >= limit if least else value <= limit
    return verdict | {"U": 0.0, "status": "meets" if met else "short" if least else "over"}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--preparations", type=int, default=20)
    parser.add_argument("--scans", type=int, default=10)
    parser.add_argument("--grid", type=float, default=0.2)
    parser.add_argument("--processes", type=int, default=2)
    parser.add_argument("--truth", action="store_true")
    args = parser.parse_args()
    if args.truth:
        return against_truth(args.preparations, args.grid, args.processes)
    tasks = [(s, k, args.grid) for s in range(1, args.preparations + 1) for k in range(args.scans)]
    with ProcessPoolExecutor(args.processes) as pool:
        rows = list(pool.map(scanned, tasks))
    report(rows, args.preparations, args.scans)


def against_truth(preparations: int, grid_mm: float, processes: int) -> None:
    """Print how marks of scans agree with those of the surfaces themselves."""
    students = range(1, preparations + 1)
    tasks = [(s, EXACT, EXACT_GRID_MM) for s in students] + [(s, 0, grid_mm) for s in students]
    with ProcessPoolExecutor(processes) as pool:
        rows = list(pool.map(scanned, tasks))
    pairs = [(a, b) for a, b in zip(rows[:preparations], rows[preparations:], strict=True)
             if a["mark"] is not None and b["mark"] is not None]  # fmt: skip
    exact, told = (np.array([pair[k]["mark"] for pair in pairs]) for k in (0, 1))
    limits = limits_of_agreement(exact, told)
    held = [b["low"] - 0.5 <= a["mark"] <= b["high"] + 0.5 for a, b in pairs]
    graded = [a["grade"] in b["could_be"] for a, b in pairs]
    agreement = intraclass(np.stack([exact, told], axis=1))
    print(f"{len(pairs)} of {preparations} preparations, a scan of each against its own surface")
    if limits is not None:
        print(
            f"  scans mark {limits.bias:+.1f} against the surface, 95 % between {limits.low:.1f} and {limits.high:.1f}"
        )
    print(
        f"  the greatest difference {np.abs(told - exact).max():.1f}, the median {np.median(np.abs(told - exact)):.1f}"
    )
    print(f"  intraclass correlation {'none' if agreement is None else f'{agreement:.2f}'}")
    print(f"  the range told holds the surface's mark in {100 * np.mean(held):.0f} %, its grade is among those told in "
          f"{100 * np.mean(graded):.0f} %")  # fmt: skip


def report(rows: list[dict[str, Any]], preparations: int, scans: int) -> None:
    """Print the figures."""
    groups = [rows[k * scans : (k + 1) * scans] for k in range(preparations)]
    shares = [flipped_share([row["answer"] for row in group]) for group in groups]
    turned, pairs = (sum(column) for column in zip(*shares, strict=True))
    whole = [g for g in groups if all(r["mark"] is not None for r in g)]
    marks = np.array([[r["mark"] for r in g] for g in whole])
    spread = marks.std(axis=1, ddof=1)
    mean = marks.mean(axis=1)
    held = [r["low"] - 0.5 <= m <= r["high"] + 0.5 for g, m in zip(whole, mean, strict=True) for r in g]
    unsaid = [
        other["grade"] not in one["could_be"] for g in whole for one in g for other in g if one is not other
    ]  # fmt: skip
    agreement = intraclass(marks)
    print(f"{preparations} preparations, {scans} scans each ({len(whole)} with a mark every time)")
    print(f"  proven verdicts contradict in {turned} of {pairs} pairs ({100 * turned / max(pairs, 1):.2f} %)")
    print(f"  marks spread by {np.median(spread):.1f} (median standard deviation), worst {spread.max():.1f} of 100")
    print(f"  intraclass correlation {'none' if agreement is None else f'{agreement:.2f}'}")
    print(f"  the range told holds the mean of all scans in {100 * np.mean(held):.0f} %")
    print(f"  another scan's grade was not among those told in {100 * np.mean(unsaid):.1f} % of pairs")


if __name__ == "__main__":
    main()

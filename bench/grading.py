"""What marks are worth: the same preparations scanned again and marked again, and marks against drawn faults.

Students' preparations of one tooth (`demo.classroom`), each scanned several times with noise and triangles of its own.
Prints how often proven verdicts contradict each other between two scans of one preparation, how far its marks spread,
the intraclass correlation of scans as markers, how often the range told with a mark holds the mean of all scans of that
preparation, and how often a grade turned that was not told as doubtful. The command in docs/uncertainty.md repeats it.
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
from vane_line.core.grade.agreement import intraclass
from vane_line.core.grade.mark import mark
from vane_line.core.grade.rubric import find_rubric
from vane_line.core.judge.document import document
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standards import choose
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import Options
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.cases import make_case
from vane_line.demo.classroom import pupil
from vane_line.demo.recipes import timid_first_molar

TOOTH = ToothNumber("36")
FIRST_SEED = 40_000


@lru_cache(maxsize=2)
def given(grid_mm: float) -> tuple[Surface, Surface]:
    """The scan before cutting and the opposing teeth that everybody is given."""
    recipe = timid_first_molar(1)
    made = make_case(replace(recipe, scan=replace(recipe.scan, grid_mm=grid_mm)))
    assert made.opposing is not None
    return made.preop, made.opposing


def scanned(task: tuple[int, int, float]) -> dict[str, Any]:
    """One scan of one preparation, marked: (student, scan, grid) -> mark, range, grades, proven verdicts."""
    student, number, grid_mm = task
    recipe = pupil(student)
    scan = replace(recipe.scan, grid_mm=grid_mm, seed=FIRST_SEED + 100 * student + number)
    prep = make_case(replace(recipe, scan=scan), prep_only=True).prep
    preop, opposing = given(grid_mm)
    geometry = measure(Scans(prep, preop, None, opposing), Options(TOOTH, opposing_frame="preop"))
    told = document(geometry, judge(geometry, choose("lithium-disilicate", "full-crown", None, TOOTH)))
    marked = mark(told["verdicts"], find_rubric("crown"))
    verdicts = {(v["criterion"], v["zone"], v["bound"]): (v["status"], v["value"], v["U"]) for v in told["verdicts"]}
    return {
        "student": student, "mark": marked.mark, "low": marked.low, "high": marked.high, "grade": marked.grade,
        "could_be": marked.could_be,
        "answer": Answer({}, verdicts, geometry.path.direction, geometry.frame.occlusal),
    }  # fmt: skip


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--preparations", type=int, default=20)
    parser.add_argument("--scans", type=int, default=10)
    parser.add_argument("--grid", type=float, default=0.2)
    parser.add_argument("--processes", type=int, default=2)
    args = parser.parse_args()
    tasks = [(s, k, args.grid) for s in range(1, args.preparations + 1) for k in range(args.scans)]
    with ProcessPoolExecutor(args.processes) as pool:
        rows = list(pool.map(scanned, tasks))
    report(rows, args.preparations, args.scans)


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

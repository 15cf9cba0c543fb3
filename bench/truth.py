"""What is measured on cuts of random form, held against their exact shapes.

Each cut is scanned on three grids, from nearly the surface itself to twice as rough as scanners give it. Over the very
places that were measured, the least distance of each zone is taken from the shapes themselves: no scan, nothing hidden
by a contact, no alignment. How often it lies within the verdict's U, and what was proven to be what it is not; of
crowns also how far the finish line lies from the cut's own.
"""

from __future__ import annotations

import argparse
import sys
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from exact import FAR_MM, Exact, Row, held_truly, off_line
from grids import FORMS, ROUGHER
from repeatability import scanned

from vane_line.core.apart import alone
from vane_line.core.case import measure
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.options import Options
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.scene import Scene
from vane_line.errors import UnfitScans

SHOWN = 5  # furthest of each criterion


def held(task: tuple[str, int]) -> tuple[list[tuple[str, Row]], list[str]]:
    """A form's rows, each with where it is from, and what is to be said of its line."""
    kind, seed = task
    recipe = FORMS[kind](seed)
    exact = Exact.of(Scene.of(recipe))
    rows, said = [], []
    for grid, noise in ROUGHER:
        scene = Scene.of(replace(recipe, scan=replace(recipe.scan, grid_mm=grid, noise_um=noise)))
        options = Options(ToothNumber(recipe.tooth), opposing_frame="preop", restoration=kind)
        name = f"{seed} ({recipe.tooth}), {grid}"
        try:
            with alone():
                geometry = measure(Scans(**scanned(scene)), options)
        except UnfitScans as error:
            said.append(f"{name}: {error}")
            continue
        judged = judge(geometry, choose(recipe.material, kind, None, options.tooth))
        rows += [(name, row) for row in held_truly(scene, exact, geometry, judged)]
        if kind == "full-crown":
            away, unsaid = off_line(scene, geometry)
            said.append(f"{name}: line off {np.median(away):.3f} (median), {100 * np.mean(away > FAR_MM):.0f} % of it "
                        f"by more than {FAR_MM}, {unsaid} places of these where an edge is told")  # fmt: skip
    return rows, said


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--forms", default="1000:20", help="the first seed, and how many")
    parser.add_argument("--kind", choices=list(FORMS), default="full-crown", help="of the forms")
    parser.add_argument("--processes", type=int, default=2)
    args = parser.parse_args()
    first, count = (int(n) for n in args.forms.split(":"))
    by_criterion: dict[str, list[tuple[str, Row]]] = defaultdict(list)
    with ProcessPoolExecutor(args.processes) as pool:
        for rows, said in pool.map(held, [(args.kind, first + k) for k in range(count)]):
            print("\n".join(said), flush=True)
            for name, row in rows:
                by_criterion[row.criterion].append((name, row))
    for criterion, found in by_criterion.items():
        off = np.array([row.value - row.truth for _, row in found])
        within = 100 * np.mean([row.within for _, row in found])
        print(f"{criterion}: {len(found)}, off {np.median(np.abs(off)):.3f} (median), {np.abs(off).max():.3f} at most, "
              f"bias {off.mean():+.3f}, within U {within:.1f} %, "
              f"proven otherwise {sum(row.wrong for _, row in found)}")  # fmt: skip
        furthest = sorted(found, key=lambda one: -abs(one[1].value - one[1].truth) / one[1].u)[:SHOWN]
        for name, row in [*(one for one in found if one[1].wrong), *furthest]:
            print(f"  {name}: {row.zone} {row.status} {row.value:.3f} ± {row.u:.3f}, is {row.truth:.3f}")


if __name__ == "__main__":
    main()

"""The two tables of repeatability in docs/uncertainty.md.

First: the demo's scans shuffled, turned, rounded, with 10 nm of noise: how far each figure moves, which verdicts turn.
Then: each demo tooth scanned again and again, with triangles and noise of its own: what spreads, against the U that is
stated, and how many proven verdicts contradict each other.
"""

from __future__ import annotations

import argparse
import sys
from collections import defaultdict
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from functools import lru_cache
from pathlib import Path

import numpy as np
import trimesh

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from repeats import KINDS, Answer, answer, flipped_share, flips, moved, variant

from vane_line.core.mesh.read import read_soup
from vane_line.core.mesh.soup import Soup
from vane_line.core.mesh.surface import Surface
from vane_line.core.mesh.weld import weld
from vane_line.demo import recipes, scanner
from vane_line.demo.scene import Scene

CASES = {
    "36": (recipes.timid_first_molar, "lithium-disilicate", "full-crown"),
    "47": (recipes.tipped_second_molar, "zirconia", "full-crown"),
    "32": (recipes.lower_lateral_incisor, "zirconia", "full-crown"),
    "22": (recipes.guiding_lateral, "layered-zirconia", "full-crown"),
    "15": (recipes.worn_premolar, "lithium-disilicate", "full-crown"),
    "46": (recipes.wide_first_molar_onlay, "lithium-disilicate", "onlay"),
    "14": (recipes.gold_premolar_inlay, "full-metal", "inlay"),
    "24": (recipes.crossed_premolar, "lithium-disilicate", "veneer"),
    "26": (recipes.open_faced_molar, "full-metal", "partial-crown"),
    "12": (recipes.pinned_lateral, "full-metal", "pin-casting"),
    "55": (recipes.child_s_second_molar, "preformed-metal", "child-crown"),
    "51": (recipes.child_s_central, "preformed-zirconia", "child-crown"),
}
EXPORTS = ("stl", "stl_ascii", "ply", "obj")


@lru_cache(maxsize=1)
def scans_of(tooth: str) -> dict[str, Surface]:
    """The demo's scans of a tooth, as it makes them."""
    return scanned(Scene.of(CASES[tooth][0]()))


def scanned(scene: Scene) -> dict[str, Surface]:
    """Scans of a mouth by what they show."""
    found = {"prep": scene.prep(), "preop": scene.preop(), "opposing": scene.opposing()}
    mockup = scene.mockup()
    return found if mockup is None else found | {"mockup": mockup}


def altered(task: tuple[str, str, int]) -> Answer:
    """Measured after one alteration; kinds beginning with `export` go through a general-purpose library's writer."""
    tooth, kind, seed = task
    if not kind.startswith("export"):
        return answer(*_swapped(variant(scans_of(tooth), kind, seed), tooth))
    out = {}
    for role, surface in scans_of(tooth).items():
        form = kind.removeprefix("export ")
        made = trimesh.Trimesh(surface.vertices, surface.faces, process=False).export(file_type=form)
        data = made.encode() if isinstance(made, str) else made
        suffix = "stl" if form == "stl_ascii" else form
        out[role] = weld(read_soup(data, f"{role}.{suffix}"), "mm", role).surface
    return answer(out, tooth, CASES[tooth][1], None, CASES[tooth][2])


def _swapped(made: tuple[dict[str, Surface], np.ndarray], tooth: str) -> tuple:
    scans, turn = made
    return scans, tooth, CASES[tooth][1], turn, CASES[tooth][2]


def scanned_again(task: tuple[str, int]) -> Answer:
    """The same mouth under the simulated scanner once more: another grid, another noise."""
    tooth, k = task
    scene = Scene.of(CASES[tooth][0]())
    off = np.random.default_rng(1000 + k).uniform(0, 0.16, 3)
    usual: Callable = scanner.surface_of
    scanner.surface_of = lambda shape, low, high, grid: usual(shape, low - off, high, grid)
    try:
        scan = replace(scene.recipe.scan, seed=scene.recipe.scan.seed + 37 * k + 11)
        scans = scanned(replace(scene, recipe=replace(scene.recipe, scan=scan)))
    finally:
        scanner.surface_of = usual
    return answer({r: weld_surface(s, r) for r, s in scans.items()}, tooth, CASES[tooth][1], None, CASES[tooth][2])


def weld_surface(surface: Surface, role: str) -> Surface:
    return weld(Soup(surface.vertices, surface.faces, None, "made"), "mm", role).surface


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--variants", type=int, default=20)
    parser.add_argument("--rescans", type=int, default=10)
    parser.add_argument("--teeth", default=",".join(CASES))
    args = parser.parse_args()
    teeth = args.teeth.split(",")
    with ProcessPoolExecutor(2) as pool:
        print("| tooth | alterations | figures | worst, in 5 µm or 0.05° | moved further | proven verdicts turned |")
        print("|---|---|---|---|---|---|")
        for tooth in teeth:
            kinds = [*(f"export {e}" for e in EXPORTS)]
            kinds += [KINDS[k % len(KINDS)] for k in range(args.variants - len(kinds))]
            answers = list(pool.map(altered, [(tooth, "as it is", 0)] + [(tooth, k, n) for n, k in enumerate(kinds)]))
            base, others = answers[0], answers[1:]
            shares = [moved(base, other) for other in others]
            worst = max(max(s.values()) for s in shares)
            names = sorted({n for s in shares for n, v in s.items() if v > 1})
            turned = sum(len(flips(base, other)) for other in others)
            far = ", ".join(names) or "-"
            print(f"| {tooth} | {len(others)} | {len(shares[0])} | {worst:.2f} | {far} | {turned} |")
        print("\n| tooth | rescans | pairs of proven verdicts | contradicting | % |\n|---|---|---|---|---|")
        spreads: dict[str, list[tuple[float, float]]] = defaultdict(list)
        for tooth in teeth if args.rescans else ():
            answers = list(pool.map(scanned_again, [(tooth, k) for k in range(args.rescans)]))
            turned, pairs = flipped_share(answers)
            print(f"| {tooth} | {len(answers)} | {pairs} | {turned} | {100 * turned / max(pairs, 1):.2f} |")
            for key in set.intersection(*(set(a.verdicts) for a in answers)):
                rows = [a.verdicts[key] for a in answers]
                if all(r[1] is not None and r[2] for r in rows):
                    values, u = np.array([[r[1], r[2]] for r in rows], dtype=float).T
                    spreads[key[0]].append((2 * float(values.std(ddof=1)), float(np.median(u))))
    print("\n| criterion | places | 2 s over rescans: median | greatest | U: median | 2 s within U |")
    print("|---|---|---|---|---|---|")
    for name, rows in sorted(spreads.items()):
        spread, u = np.array(rows).T
        print(f"| {name} | {len(rows)} | {np.median(spread):.3f} | {spread.max():.3f} | {np.median(u):.3f} "
              f"| {100 * np.mean(spread <= u):.0f} % |")  # fmt: skip


if __name__ == "__main__":
    main()

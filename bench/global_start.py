"""How often scans in different coordinate systems are brought together, and how exactly.

A preparation scan and the scan before it, both with two uncut teeth, the gingiva moved and a hole in the earlier one,
the earlier one laid into random positions. Prints how many came together within TOGETHER_MM at the tooth, the worst of
those, how many were trusted, and the time.
"""

from __future__ import annotations

import argparse
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from functools import lru_cache

import numpy as np
from scipy.spatial.transform import Rotation

from vane_line.core.align.fine import register
from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.rigid import move
from vane_line.demo.recipes import sound_recipe
from vane_line.demo.scanner import placed
from vane_line.demo.scene import Scene

TOGETHER_MM = 0.1
HOLE_MM = 1.5
KEPT_MM = 13.0  # of the arch to either side of the cut tooth: a neighbour on each side and hardly more


@lru_cache(maxsize=4)
def pair(tooth: str, grid_mm: float = 0.18) -> tuple[Surface, Surface, Floats]:
    """The preparation scan, the scan before it in the same coordinates, and the middle of the cut tooth (3,)."""
    recipe = sound_recipe(tooth, "zirconia", seed=int(tooth), same_frame=True)
    scene = Scene.of(replace(recipe, scan=replace(recipe.scan, grid_mm=grid_mm)))
    middle = move(scene.to_prep, scene.mine.to_arch(np.array([[0.0, 0, 3.0]])))[0]
    prep, preop = (_cropped(s, middle) for s in (scene.prep(), scene.preop()))
    random = np.random.default_rng(7)
    hole = preop.vertices[random.integers(preop.n_vertices)]
    preop, _ = preop.keep_vertices(np.linalg.norm(preop.vertices - hole, axis=1) > HOLE_MM)
    return prep, preop, middle


def _cropped(surface: Surface, middle: Floats) -> Surface:
    part, _ = surface.keep_vertices(np.linalg.norm(surface.vertices - middle, axis=1) < KEPT_MM)
    number = part.pieces[part.faces[:, 0]]
    return part.keep_faces(number == np.bincount(number).argmax())[0]


def random_position(seed: int) -> Floats:
    """A rigid (4, 4) matrix: any turn, up to 60 mm away."""
    random = np.random.default_rng(seed)
    matrix = np.eye(4)
    matrix[:3, :3] = Rotation.random(random_state=seed).as_matrix()
    matrix[:3, 3] = random.uniform(-60, 60, 3)
    return matrix


def one(task: tuple[str, int]) -> tuple[float, float, float]:
    """Error at the tooth (mm), u_align (µm) and seconds of one random position."""
    tooth, seed = task
    prep, preop, middle = pair(tooth)
    there = random_position(seed)
    began = time.perf_counter()
    fit = register(placed(preop, there), prep)
    spent = time.perf_counter() - began
    back = move(fit.matrix, move(there, middle[None]))[0]
    return float(np.linalg.norm(back - middle)), fit.u_align_um(middle[None]), spent


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=200)
    parser.add_argument("--teeth", default="36,16,45,26")
    parser.add_argument("--processes", type=int, default=2)
    args = parser.parse_args()
    teeth = args.teeth.split(",")
    tasks = [(teeth[k % len(teeth)], k) for k in range(args.count)]
    with ProcessPoolExecutor(args.processes) as pool:
        rows = np.array(list(pool.map(one, sorted(tasks), chunksize=5)))
    error, _, spent = rows.T
    together = error < TOGETHER_MM
    print(f"{together.sum()} of {len(rows)} came together ({100 * together.mean():.1f} %); "
          f"of these median {1000 * np.median(error[together]):.1f} µm, worst {1000 * error[together].max():.1f} µm "
          f"at the tooth; the others {np.round(error[~together], 1).tolist()} mm; "
          f"median {np.median(spent):.1f} s, slowest {spent.max():.1f} s")  # fmt: skip


if __name__ == "__main__":
    main()

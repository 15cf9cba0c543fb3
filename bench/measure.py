"""How long a measurement takes, and against the bare library calls in the same run.

Makes three scans of the wanted size once (kept in .cache/bench), then times the command line as a whole process and,
in turn with it, a process that only reads, registers and takes distances. Quote medians and the ratio.
"""

from __future__ import annotations

import argparse
import json
import resource
import statistics
import subprocess
import sys
import time
from dataclasses import replace
from pathlib import Path

import numpy as np

from vane_line.core.mesh.keys import edge_keys
from vane_line.core.mesh.surface import Surface

CACHE = Path(".cache/bench")
ROLES = ("prep", "preop", "opposing")
BARE = """
import sys, numpy as np, igl, small_gicp
from pathlib import Path
from vane_line.core.mesh.read import read_file
from vane_line.core.mesh.weld import weld
s = [weld(read_file(Path(p)), 'mm', p).surface for p in sys.argv[1:]]
prep, preop, opposing = s
cloud = lambda m: small_gicp.preprocess_points(m.vertices, 0.25, 12, 2)
target, tree = cloud(prep); source, _ = cloud(preop)
T = small_gicp.align(target, source, tree, np.eye(4), 'GICP', max_correspondence_distance=0.5, num_threads=2)
moved = preop.moved(T.T_target_source)
moved.closest(prep.vertices)
near = np.linalg.norm(prep.vertices - prep.vertices.mean(0), axis=1) < 9
opposing.closest(prep.vertices[near])
"""


def scans(triangles: int) -> dict[str, Path]:
    """Files of about `triangles` each, made once: the demo's scan, its triangles split until there are enough."""
    from vane_line.core.mesh.light import lightened
    from vane_line.core.mesh.write import write_surface
    from vane_line.demo.cases import MadeCase
    from vane_line.demo.recipes import sound_recipe

    paths = {role: CACHE / f"{triangles}_{role}.stl" for role in ROLES}
    if all(p.exists() for p in paths.values()):
        return paths
    CACHE.mkdir(parents=True, exist_ok=True)
    recipe = sound_recipe("36", "zirconia", seed=5, same_frame=True)
    case = MadeCase(replace(recipe, scan=replace(recipe.scan, grid_mm=0.13)))
    for role, path in paths.items():
        surface = getattr(case, role)
        while surface.n_faces < triangles:
            surface = split(surface)
        print(f"{role}: {surface.n_faces} triangles made", flush=True)
        write_surface(path, lightened(surface, triangles))
    return paths


def split(surface: Surface) -> Surface:
    """Every triangle in four by its edges' midpoints, with noise of its own: a finer scan of the same mouth."""
    edges = surface.edges
    a, b, c = surface.faces.T
    key = edge_keys(edges[:, 0], edges[:, 1], surface.n_vertices)
    sides = (edge_keys(i, j, surface.n_vertices) for i, j in ((a, b), (b, c), (c, a)))
    ab, bc, ca = (surface.n_vertices + np.searchsorted(key, side) for side in sides)
    faces = np.concatenate([np.stack(f, axis=1) for f in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))])
    points = np.concatenate([surface.vertices, surface.vertices[edges].mean(axis=1)])
    noise = 0.004 * np.random.default_rng(surface.n_faces).standard_normal(points.shape)
    return Surface(points + noise, faces.astype(np.int64))


def timed(command: list[str]) -> tuple[float, float]:
    """Wall seconds and peak memory (GB) of a whole process."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss
    began = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
    after = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss
    return time.perf_counter() - began, max(before, after) / 1e6


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--triangles", type=int, default=200_000)
    parser.add_argument("--runs", type=int, default=5)
    args = parser.parse_args()
    paths = scans(args.triangles)
    files = [str(paths[role]) for role in ROLES]
    out = CACHE / "result.json"
    ours = [sys.executable, "-m", "vane_line", "measure", "--tooth", "36", "--restoration", "full-crown"]
    ours += ["--material", "zirconia", "--json", str(out)]
    for role, path in paths.items():
        ours += [f"--{role}", str(path)]
    bare = [sys.executable, "-c", BARE, *files]
    rows, parts = [], []
    for _ in range(args.runs):
        b, _ = timed(bare)
        a, memory = timed(ours)
        parts.append(json.loads(out.read_text())["timing_s"])
        rows.append((a, b, memory))
    a, b = (statistics.median(r[k] for r in rows) for k in (0, 1))
    print(f"{args.triangles} triangles a scan, {args.runs} runs, medians of whole processes:")
    print(
        f"  measure {a:.2f} s   bare library calls {b:.2f} s   ratio {statistics.median(r[0] / r[1] for r in rows):.2f}"
    )
    print(f"  peak memory {max(r[2] for r in rows):.2f} GB")
    print("  inside: " + ", ".join(f"{k} {statistics.median(p[k] for p in parts):.2f} s" for k in parts[0]))


if __name__ == "__main__":
    main()

"""A class at the practice jaw: one tooth, cut by many hands, each with faults of its own."""

from __future__ import annotations

import multiprocessing
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path

import numpy as np

from vane_line.core.mesh.surface import Surface
from vane_line.core.mesh.write import write_surface
from vane_line.demo.burs import AxialCut, OcclusalCut, bump, constant, step
from vane_line.demo.cases import MadeCase
from vane_line.demo.recipes import Recipe, following_papillae, timid_first_molar

GRID_MM = 0.26  # of a class's scans: coarse, many are made
CUSPS = ("mesiofacial", "distofacial", "mesiolingual", "distolingual")
MAKERS = 2


def pupil(number: int) -> Recipe:
    """What a student (from 1) made of the demo's 36: drawn by the number, the same each time."""
    draw = np.random.default_rng(9000 + number)
    depth = {"other": float(draw.uniform(1.2, 1.9))}
    for cusp in draw.choice(CUSPS, size=int(draw.integers(0, 3)), replace=False):
        depth[str(cusp)] = float(draw.uniform(0.4, 1.3))
    taper = constant(float(draw.uniform(4.0, 12.0)))
    if draw.random() < 0.3:  # leant out on one side
        taper = bump(taper, float(draw.uniform(0, 360)), 20, float(-draw.uniform(9, 14)))
    height = following_papillae(float(draw.uniform(1.1, 1.5)))
    if draw.random() < 0.3:
        start = float(draw.uniform(0, 300))
        height = step(height, start, start + 45, float(draw.uniform(0.25, 0.5)))
    return replace(
        timid_first_molar(1),
        code=code_of(number),
        occlusal=OcclusalCut(depth),
        axial=AxialCut(height, constant(float(draw.uniform(0.6, 1.3))), taper, tip_radius_mm=0.35),
        nick_mm=float(draw.uniform(0.1, 0.3)) if draw.random() < 0.25 else 0.0,
    )


def code_of(number: int) -> str:
    """A student's code."""
    return f"S-{number:03d}"


def scan_of(number: int, grid_mm: float = GRID_MM) -> Surface:
    """The scan that a student hands in."""
    recipe = pupil(number)
    return MadeCase(replace(recipe, scan=replace(recipe.scan, grid_mm=grid_mm)), first=False).prep


def write_class(folder: Path, count: int, grid_mm: float, say: Callable[[str], None]) -> list[Path]:
    """Files of a whole class: the scan before cutting, the opposing teeth (in its coordinates), and everybody's."""
    folder.mkdir(parents=True, exist_ok=True)
    recipe = timid_first_molar(1)
    given = MadeCase(replace(recipe, scan=replace(recipe.scan, grid_mm=grid_mm)))
    out = []
    for role, surface in (("preop", given.preop), ("opposing", given.opposing)):
        assert surface is not None
        out.append(folder / f"before_{role}.stl")
        write_surface(out[-1], surface)
    with ProcessPoolExecutor(MAKERS, multiprocessing.get_context("spawn")) as makers:
        for number, surface in enumerate(makers.map(scan_of, range(1, count + 1), [grid_mm] * count), start=1):
            out.append(folder / f"{code_of(number)}_prep.stl")
            write_surface(out[-1], surface)
            say(f"{code_of(number)} cut and scanned")
    return out

"""Edges, nicks and blocked paths of random size on surfaces made for one measure alone: error and stated U of each."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.judge.uncertainty import Budget, u_scan_mm
from vane_line.core.measure.edges import find_edges
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.insertion import check_insertion
from vane_line.core.measure.neighbours import Neighbour, compare_side
from vane_line.core.mesh.surface import Surface
from vane_line.core.trace.section import Axes
from vane_line.demo.scanner import surface_of

AXES = Axes.make(np.zeros(3), np.array([0.0, 0, 1]), np.array([0.0, 1, 0]), np.array([1.0, 0, 0]))
BUR_MM = 0.5
GRID_MM = (0.12, 0.24)


def parts(seed: int) -> dict[str, tuple[float, float]]:
    """One of each."""
    random = np.random.default_rng(seed)
    noise = float(random.uniform(0, 10))
    grid = float(random.uniform(*GRID_MM))
    budget = Budget(u_scan_mm(noise, None), 0.0, 0.0, grid)
    radius, found = edge(random, noise, grid)
    out = {"edge radius": (found - radius, budget.of("edge-radius"))}
    depth, nick = groove(random, noise, grid)
    out["nick"] = (nick - depth, budget.of("neighbour-nick"))
    true, blocked = leaning(random, noise)
    out["path blocked"] = (blocked - true, budget.of("insertion"))
    return out


def noisy(surface: Surface, noise_um: float, random: np.random.Generator) -> Surface:
    """Moved along the normals by white noise."""
    amount = noise_um / 1000 * random.standard_normal(surface.n_vertices)
    return surface.with_vertices(surface.vertices + amount[:, None] * surface.vertex_normals)


def edge(random: np.random.Generator, noise_um: float, grid: float) -> tuple[float, float]:
    """True and found radius of a roof's ridge under the milling bur's; the roof lies anyhow on the grid."""
    radius, a = float(random.uniform(0.12, 0.38)), np.radians(random.uniform(80, 105) / 2)
    turn = float(random.uniform(0, 0.8))
    low = -radius / np.sin(a)

    def shape(p: Floats) -> Floats:
        x = np.abs(p[:, 0] * np.cos(turn) + p[:, 1] * np.sin(turn))
        z = p[:, 2]
        roof = x * np.cos(a) + z * np.sin(a)
        return np.where((z - low) > x * np.tan(a), np.hypot(x, z - low) - radius, roof)

    surface = surface_of(shape, np.array([-1.8, -1.8, -1.6]), np.array([1.8, 1.8, 0.4]), grid)
    surface = noisy(surface, noise_um, random).smoothed(4)
    surface = surface.keep_vertices((np.abs(surface.vertices[:, :2]) < 1.6).all(axis=1))[0]
    far, one, flag = np.array([[50.0, 0, 0]]), np.ones(1), np.ones(1, dtype=bool)
    line = FinishLine(far, one, one, one, one, flag, np.ones(1, dtype=np.int64), 0.0, ~flag, one)
    found = find_edges(surface, line, AXES, BUR_MM)
    return radius, found.sharpest_mm if found.sharpest_mm is not None else BUR_MM


def groove(random: np.random.Generator, noise_um: float, grid: float) -> tuple[float, float]:
    """True and found depth of a bur's groove in a neighbour's plain side, 1.2 from the preparation."""
    depth, bur = float(random.uniform(0.10, 0.35)), float(random.uniform(0.5, 0.8))
    return depth, grooved(depth, bur, random, noise_um, grid).nick_depth_mm or 0.0


def grooved(depth: float, bur: float, random: np.random.Generator, noise_um: float, grid: float) -> Neighbour:
    """What is told of a groove so deep (mm), by a bur of that radius, in a neighbour 1.2 from the preparation."""

    def wall(cut: float) -> Surface:
        def shape(p: Floats) -> Floats:
            off = p - [-bur + cut, 0.0, 0.0]
            stroke = np.hypot(np.hypot(off[:, 0], off[:, 1]), np.maximum(np.abs(off[:, 2]) - 1.0, 0)) - bur
            body = -p[:, 0] + 0.02 * (p[:, 1] ** 2)
            return np.maximum(body, -stroke) if cut > 0 else body

        low = np.array([-0.6, -3.0, -2.6]) - 0.01 * float(random.uniform(0, 5))
        surface = noisy(surface_of(shape, low, np.array([1.6, 3.0, 2.6]), grid), noise_um, random)
        return surface.keep_vertices((np.abs(surface.vertices[:, 1]) < 2.7) & (np.abs(surface.vertices[:, 2]) < 2.3))[0]

    prep, base = wall(depth), wall(0.0)
    inside = surface_of(lambda p: p[:, 0] + 1.2, np.array([-1.5, -2.0, -2.0]), np.array([-0.9, 2.0, 2.0]), 0.3)
    return compare_side("mesial", prep, inside, base, np.ones(prep.n_vertices, dtype=bool))


def leaning(random: np.random.Generator, noise_um: float) -> tuple[float, float]:
    """True and found overlap of a round crown with a flat neighbour that leans over it from mesial."""
    lean, near = float(random.uniform(6, 16)), float(random.uniform(5.0, 5.15))
    a, z = (v.ravel() for v in np.meshgrid(np.arange(0, 2 * np.pi, 0.02), np.arange(1.6, 7, 0.1)))
    crown = np.stack([5 * np.sin(a), 5 * np.cos(a), z], axis=1)
    y, z = (v.ravel() for v in np.meshgrid(np.arange(-2, 2, 0.1), np.arange(1.6, 8.01, 0.1)))
    x = near - np.maximum(z - 4, 0) * np.tan(np.radians(lean)) + noise_um / 1000 * random.standard_normal(len(z))
    ring = np.arange(0, 360, 1.0)
    level = np.full(360, 1.6)
    flag = np.ones(360, dtype=bool)
    line = FinishLine(
        AXES.places(ring, 5 * np.ones(360), level), ring, 5 * np.ones(360), level, level, flag,
        np.ones(360, dtype=np.int64), 0.0, ~flag, level,
    )  # fmt: skip
    found = check_insertion(crown, np.stack([x, y, z], axis=1), AXES, line)
    return 4 * np.tan(np.radians(lean)) - (near - 5.0), found.amount_mm

"""The preparation read along its path: axes, profiles all round, walls, and the finish line as it is found."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.measure.convergence import Walls, fit_walls
from vane_line.core.measure.finish_line import FinishLine, find_finish_line
from vane_line.core.measure.line_by_hand import follow
from vane_line.core.measure.line_window import begun_uncut
from vane_line.core.measure.path import Path, best_path, least_draft
from vane_line.core.measure.straight_run import ASKED_OTHERWISE
from vane_line.core.measure.undercut import Undercut, find_undercut
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import Options
from vane_line.core.placed import Placed
from vane_line.core.tooth.frame import Frame
from vane_line.core.trace.dents import without_grooves
from vane_line.core.trace.section import STEP_MM, Axes, Profiles, middle_of_ring, profiles
from vane_line.core.trace.wall import WallRuns, find_walls
from vane_line.core.vectors import degrees_between, perpendicular, unit
from vane_line.errors import UnfitScans

ROUGH_AZIMUTHS, PATH_AZIMUTHS = 60, 180
MOST_ROUNDS, SETTLED_DEG = 4, 0.1  # of walls and path in turn; a path that moves by less has settled
UNSETTLED_DEG = 2.0  # … and one that moves by more in the last of them never will
UNLIKE_DEG, UNLIKE_SHARE = 0.5, 0.05  # walls that lean otherwise by so much in so many directions may lead elsewhere
DEPTH_EVERY = 3  # samples of a profile that share one distance
DEPTH_PAST_FOOT_MM = 3.6
RUNS_OUT_SHARE = 0.2  # of directions in which the cut runs out on the root
MIN_WALLS = 0.5  # share of directions in which a wall must be seen


@dataclass(frozen=True, eq=False)
class Survey:
    """What the path decides, of every kind. found: the line round the cut without any hand in it."""

    axes: Axes
    path: Path
    found: FinishLine


@dataclass(frozen=True, eq=False)
class RingSurvey(Survey):
    """Of a preparation all round. runs: where each profile's wall stands. otherwise: the walls as they may as well be
    told."""

    rings: Profiles
    runs: WallRuns
    walls: Walls
    otherwise: tuple[Walls, ...]


def survey(placed: Placed, options: Options) -> RingSurvey:
    """Walls, path and finish line. Raises UnfitScans where there is no preparation."""
    axes, path, rings, runs = axis_and_path(placed, options)
    found = find_finish_line(rings, runs, profile_depth(rings, runs, placed.base))
    above = runs.above(found.index, found.told)
    told = options.path is None and path.settled
    if told and (above.found & (above.foot < runs.foot)).mean() > RUNS_OUT_SHARE:
        # The path was told from walls that went on down the root: once more, from what was cut alone.
        frame = placed.frame
        path = _path_of(fit_walls(rings, above, placed.noise_um), axes, frame)
        axes = Axes.make(axes.origin, path.direction, frame.facial, frame.mesial)
        rings, runs = walls_of(profiles(placed.crop, axes))
        found = find_finish_line(rings, runs, profile_depth(rings, runs, placed.base))
        above = runs.above(found.index, found.told)
    walls = fit_walls(rings, above, placed.noise_um)
    path = replace(path, least_draft_deg=least_draft(*walls.samples(axes), axes.up))
    otherwise = tuple(fit_walls(rings, above, placed.noise_um, asked) for asked in ASKED_OTHERWISE)
    if told:
        path = path.or_else(_paths_otherwise(walls, otherwise, axes, placed.frame))
    return RingSurvey(axes=axes, path=path, found=found, rings=rings, runs=runs, walls=walls, otherwise=otherwise)


def _paths_otherwise(walls: Walls, otherwise: tuple[Walls, ...], axes: Axes, frame: Frame) -> list[Floats]:
    """What else (3,) the path may be: by the walls above the line, and as these may as well be told, where that is told
    differently."""
    lean = np.nan_to_num(walls.taper_deg)
    differing = [w for w in otherwise if (np.abs(np.nan_to_num(w.taper_deg) - lean) > UNLIKE_DEG).mean() > UNLIKE_SHARE]
    return [_path_of(w, axes, frame).direction for w in (walls, *differing)]


def _path_of(walls: Walls, axes: Axes, frame: Frame) -> Path:
    return best_path(*walls.samples(axes), frame.occlusal, perpendicular(frame.facial, frame.occlusal))


def axis_and_path(placed: Placed, options: Options) -> tuple[Axes, Path, Profiles, WallRuns]:
    """Walls are found along o first, give the path, and are found again along it about the line's middle, until both
    agree: on a tipped tooth o is far from the path, and what is told on the way there hangs on where it began. Where
    they never agree, each path showing other walls, the tooth's own axis is the path."""
    frame = placed.frame
    up = unit(options.path) if options.path is not None else frame.occlusal
    axes = Axes.make(placed.centre, up, frame.facial, frame.mesial)
    path, tried = Path(up, float("nan"), "given"), [up]
    rounds = [ROUGH_AZIMUTHS, *[PATH_AZIMUTHS] * (MOST_ROUNDS if options.path is None else 1)]
    while True:
        azimuths = rounds.pop(0) if rounds else None
        rings = profiles(placed.crop, axes) if azimuths is None else profiles(placed.crop, axes, azimuths)
        rings, runs = walls_of(rings)
        if runs.found.mean() < MIN_WALLS:
            raise UnfitScans(
                "prep: no preparation with walls is found there; give a point on the cut tooth (near) or its axis "
                "(occlusal)."
            )
        if azimuths is None:
            return axes, path, rings, runs
        if options.path is None:
            path = _path_of(fit_walls(rings, runs, placed.noise_um), axes, frame)
        feet = rings.places(np.maximum(runs.foot, 0))[runs.found]
        if azimuths == PATH_AZIMUTHS:
            moved = float(degrees_between(path.direction, axes.up))
            if moved < SETTLED_DEG:
                rounds = []
            elif not rounds and moved > UNSETTLED_DEG:
                others = [*tried[2:], path.direction]
                path = Path(frame.occlusal, float("nan"), "best", settled=False).or_else(others)
        tried.append(path.direction)
        axes = Axes.make(middle_of_ring(feet, axes), path.direction, frame.facial, frame.mesial)


def walls_of(rings: Profiles) -> tuple[Profiles, WallRuns]:
    """Profiles laid over the grooves in the walls, and where each one's wall stands."""
    runs = find_walls(rings)
    plain, inside = without_grooves(rings, runs)
    return (plain, find_walls(plain)) if inside.any() else (rings, runs)


def undercut_along(placed: Placed, line_points: Floats, drawn: Bools, direction: Floats) -> tuple[Undercut, float]:
    """Undercuts inside a known finish line (A, 3), and the least draft, along a path that is only tried."""
    axes = Axes.make(line_points.mean(axis=0), unit(direction), placed.frame.facial, placed.frame.mesial)
    rings, runs = walls_of(profiles(placed.crop, axes))
    normals, areas = fit_walls(rings, runs, placed.noise_um).samples(axes)
    found = find_undercut(rings, follow(rings, line_points, drawn), placed.noise_um, normals, areas)
    return found, least_draft(normals, areas, axes.up)


def profile_depth(rings: Profiles, walls: WallRuns, base: Surface | None) -> Floats | None:
    """Signed distance of the profile samples to the earlier surface, from the wall's top outward and, where that is not
    cut, from above it too; nan elsewhere."""
    if base is None:
        return None
    arc = np.arange(0, rings.radius.shape[1], DEPTH_EVERY)
    foot, top = np.maximum(walls.foot, 0)[:, None], np.maximum(walls.top, 0)[:, None]
    wanted = (arc[None] >= top - 4) & (arc[None] <= foot + round(DEPTH_PAST_FOOT_MM / STEP_MM))
    wanted |= ~walls.found[:, None]
    near = np.isfinite(rings.radius[:, arc]) & (rings.radius[:, arc] < 9.0)
    depth = _depths(rings, base, arc, wanted & near)
    root = begun_uncut(walls, depth)
    if root.any():
        depth[root] = _depths(rings, base, arc, (wanted | (arc[None] < top)) & near & root[:, None])[root]
    return depth


def _depths(rings: Profiles, base: Surface, arc: Ints, wanted: Bools) -> Floats:
    """(A, M) signed distances to the earlier surface at each profile's samples `arc` (K,) as far as `wanted` (A, K)."""
    azimuth = np.broadcast_to(rings.azimuth_deg[:, None], wanted.shape)
    points = rings.axes.places(azimuth[wanted], rings.radius[:, arc][wanted], rings.height[:, arc][wanted])
    coarse = np.full(wanted.shape, np.nan)
    coarse[wanted] = base.signed_distance(points)[0]
    return np.repeat(coarse, DEPTH_EVERY, axis=1)[:, : rings.radius.shape[1]]

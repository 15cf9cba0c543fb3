"""Where a cut without a ledge ends: at its edge where one is seen, else where the tooth goes under the gingiva.

A crown's finish line looks for the first convex edge beyond the foot of the wall. A child's crown has none: the cut
runs out on the tooth, or goes on below what the scanner sees.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from scipy.ndimage import uniform_filter1d

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.measure.convergence import fit_walls
from vane_line.core.measure.finish_line import FinishLine, find_finish_line, nearest_sample
from vane_line.core.measure.path import Path, least_draft
from vane_line.core.options import Options
from vane_line.core.placed import Placed
from vane_line.core.rings import degrees_apart, in_runs, running_median
from vane_line.core.survey import RingSurvey, axis_and_path, profile_depth
from vane_line.core.trace.section import STEP_MM, Profiles
from vane_line.core.trace.wall import WallRuns, below_hollow
from vane_line.errors import UnfitScans

EASE_MM = 0.15  # along a profile, over which its noise is averaged
SAME_LEVEL_MM = 0.05
LEVELLED_DEG = -30.0  # flatter than this below the wall it is the gingiva, or a ledge
REACH_MM = 3.0  # below the wall's foot, within which the tooth goes under
EASE_DEG, LEAST_FEET = 6, 4
LEAST_RUN_DEG = 5  # over which a cut runs out on the tooth: a single place at the bulge is none
BEHIND_DEG = 75.0  # of lingual, within which a front tooth is hollow over its neck
LEAST_SEEN = 0.25  # of the way round, below which there is no line to speak of


def survey(placed: Placed, options: Options) -> RingSurvey:
    """Walls as of a crown, down to where the tooth goes under. Raises UnfitScans where there is none.

    The path is the tooth's own axis unless it is given: where a bulge is wanted no draft tells it. The line lies at the
    seam with the gingiva, but where the cut is seen to run out on the tooth below its contour: over that, uncut facial
    and lingual walls begin at an edge of the top, and the gingiva's crest is an edge too.
    """
    along = placed.frame.occlusal if options.path is None else options.path
    axes, path, rings, runs = axis_and_path(placed, replace(options, path=along))
    if options.tooth.front:
        runs = below_hollow(rings, runs, hollow_behind(rings.azimuth_deg))
    walls = fit_walls(rings, runs, placed.noise_um)
    found = find_finish_line(rings, runs, profile_depth(rings, runs, placed.base), cut_all_round=False)
    rows = np.arange(len(runs.foot))
    below = rings.height[rows, found.index] <= rings.height[rows, contour(rings, runs)] + SAME_LEVEL_MM
    source = "best" if options.path is None else "given"
    path = Path(path.direction, least_draft(*walls.samples(axes), axes.up), source)
    line = _ended(found, rings, runs, in_runs(np.isfinite(found.band_mm) & below, LEAST_RUN_DEG))
    return RingSurvey(axes=axes, path=path, found=line, rings=rings, runs=runs, walls=walls, otherwise=())


def hollow_behind(azimuth_deg: Floats) -> Bools:
    """(A,) where a front tooth is hollow over its neck."""
    return degrees_apart(azimuth_deg, 180.0) < BEHIND_DEG


def contour(rings: Profiles, runs: WallRuns) -> Ints:
    """(A,) arc index of each wall's greatest radius, free of single odd samples; of its top where there is no wall."""
    arc = np.arange(rings.radius.shape[1])[None]
    wall = np.isfinite(rings.radius) & (arc >= np.maximum(runs.top, 0)[:, None]) & (arc <= runs.foot[:, None])
    return np.asarray(np.argmax(np.where(wall, eased_radius(rings), -np.inf), axis=1))


def eased_radius(rings: Profiles) -> Floats:
    """(A, M) radii averaged over EASE_MM of each profile; nought counts where nothing is seen."""
    seen = np.where(np.isfinite(rings.radius), rings.radius, 0.0)
    return np.asarray(uniform_filter1d(seen, round(EASE_MM / STEP_MM), axis=1, mode="nearest"))


def _ended(line: FinishLine, rings: Profiles, runs: WallRuns, told: Bools) -> FinishLine:
    """The line with every place that is not `told` (A,) brought to the seam. Raises UnfitScans where none is seen."""
    index, seen = seam(rings, runs)
    if seen.mean() < LEAST_SEEN:
        raise UnfitScans(
            "prep: the tooth is hardly anywhere seen down to where it goes under the gingiva; tilt the tip, scan again "
            "below its greatest contour."
        )
    rows = np.arange(len(index))
    smooth = [running_median(np.where(seen, f[rows, index], np.nan), EASE_DEG, LEAST_FEET)
              for f in (rings.radius, rings.height)]  # fmt: skip
    # Where no wall was followed down the course goes straight over to the next that was.
    radius, height = (
        np.where(told, own, np.interp(rows, rows[ok], there[ok], period=len(rows)))
        for own, there in zip((line.radius, line.height), smooth, strict=True)
        for ok in (np.isfinite(there),)
    )
    at = np.where(told, line.index, nearest_sample(rings, radius, height))
    return replace(
        line, radius=radius, height=height, index=at, points=rings.axes.places(rings.azimuth_deg, radius, height),
        clear=np.zeros(len(rows), dtype=bool), band_mm=np.where(told, line.band_mm, np.nan),
    )  # fmt: skip


def seam(rings: Profiles, runs: WallRuns) -> tuple[Ints, Bools]:
    """(A,) arc index at which the surface below each wall turns level, and whether it does before the scan ends."""
    arc = np.arange(rings.radius.shape[1])[None]
    foot = runs.foot[:, None]
    level = np.isfinite(rings.radius) & (runs.angle > LEVELLED_DEG) & (arc >= foot)
    level &= arc <= foot + round(REACH_MM / STEP_MM)
    seen = runs.found & level.any(axis=1)
    last = np.isfinite(rings.radius).sum(axis=1) - 1
    index = np.where(seen, np.argmax(level, axis=1), np.minimum(runs.foot, last))
    return np.maximum(index, 0), np.asarray(seen)

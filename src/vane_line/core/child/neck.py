"""The tooth below its greatest contour: the bulge that holds a metal crown, and the ledge that would stop one."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.child.seam import contour, eased_radius, hollow_behind, seam
from vane_line.core.measure.convergence import Walls, fit_walls, outline_cosine, robust_at
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.mesh.surface import Surface
from vane_line.core.trace.section import STEP_MM, Profiles, tangent_angle
from vane_line.core.trace.wall import WallRuns
from vane_line.core.vectors import xyz

BELOW_FOOT_MM = 0.6  # the wall's foot is told up to so much too high where a bulge leans back over it
OVERHANG_DEG = -90.0  # what leans back further below the foot is the bulge still
CORNER_MM = 0.30  # of the profile nearest to where the tooth goes under, which scan and gingiva round off
LEVEL_DEG, LEVEL_WINDOW_MM = -45.0, 0.15  # what is flatter than this is level
EASED_MM = 0.8  # of the line's course, over which a ledge's width is a median
OVER_MM, BELOW_MM, LEAVE_MM = 0.6, 0.5, 0.1  # of wall over a ledge and of tooth below it that tell its width
LEDGE_REACH_MM, ON_TOOTH_MM, WITHIN_MM = 1.5, 0.10, 0.06
UNTOLD_MM = 0.10  # of a level stretch that runs out of the scan
CREST_MM = 0.15  # by which gingiva rises on the way out, and no ledge that a bur cut does
DROP_MM = 0.12  # by which the tooth goes on down below a ledge
CERVICAL_MM = 1.7  # of wall over its foot, of which the taper below the gingiva is told
SMOOTH_UM, ROUGH_UM = 0.0, 12.0  # noise of the smoothest and of a rough scan
WALL_MM, LEAST_WALL_MM = 1.5, 0.6  # of the wall over it that tells how it goes on
HELD_SIDES = {"facial": 0.0, "lingual": 180.0}  # where a metal crown is sprung over the tooth
ACROSS = {"faciolingual": 0.0, "mesiodistal": 90.0}

Place = tuple[float, float, float]


@dataclass(frozen=True, eq=False)
class Neck:
    """bulge_mm: (A,) greatest contour less the neck below it, across the path, nan where no wall is seen.

    undercut_mm: of each side that holds a crown; at: the neck there. taper_deg: lean of the facing walls' lowest run
    to each other; bent_deg: how far that hangs on how much of a wall is straight. ledge_mm: the widest that is seen
    along the line, nought where there is none; ledge_bent_mm: how far that hangs on how much of the tooth below it
    counts; ledge_at: its place. ledge_is_least: the scan ends on it. unseen_share: of the directions in which the scan
    ends on the wall, before the tooth goes under, or on a level stretch at its foot, of which nobody can say whether it
    is a ledge.
    """

    bulge_mm: Floats
    undercut_mm: dict[str, float]
    at: dict[str, Place]
    taper_deg: dict[str, float]
    bent_deg: dict[str, float]
    ledge_mm: float
    ledge_bent_mm: float
    ledge_at: Place | None
    ledge_is_least: bool
    unseen_share: float

    @property
    def least_undercut_mm(self) -> float | None:
        """The lesser of the two sides, None where one is not seen."""
        return min(self.undercut_mm.values()) if len(self.undercut_mm) == len(HELD_SIDES) else None

    @property
    def greatest_taper_deg(self) -> float | None:
        return max(self.taper_deg.values(), default=None)


def find_neck(
    rings: Profiles, runs: WallRuns, noise_um: float, line: FinishLine, earlier: Surface | None, front: bool
) -> Neck:
    """noise_um: of the scan. earlier: the tooth before cutting, where known. front: whether it is a front tooth, which
    is hollow behind."""
    gone_under = seam(rings, runs)[1]
    bulge, at_neck = _bulges(rings, runs, line)
    bulge[~gone_under] = np.nan
    undercut, at = {}, {}
    for side, azimuth in HELD_SIDES.items():
        value = robust_at(rings.azimuth_deg, bulge, azimuth)
        if np.isfinite(value):
            row = round(azimuth * len(bulge) / 360) % len(bulge)
            undercut[side] = max(value, 0.0)
            at[side] = xyz(rings.places(at_neck)[row])
    lowest = _down_to(rings, runs, noise_um, runs.foot)
    told, own = (_across(walls.over(line)) for walls in (_between(rings, runs, noise_um, lowest), lowest))
    # How far a bent wall is straight hangs on the noise that is allowed for: its taper is no surer than that.
    others = [_across(_down_to(rings, runs, um, runs.foot).over(line)) for um in (SMOOTH_UM, ROUGH_UM)]
    bent = {zone: float(np.nanmax(np.abs([0.0, *(other[zone] - v for other in others)]))) for zone, v in own.items()}
    widest = widest_ledge(rings, runs, line, earlier, hollow_behind(rings.azimuth_deg) & front)
    unseen = float((~gone_under | widest.untold).mean())
    return Neck(
        bulge_mm=bulge, undercut_mm=undercut, at=at, taper_deg={z: v for z, v in told.items() if np.isfinite(v)},
        bent_deg=bent, ledge_mm=widest.width_mm, ledge_bent_mm=widest.bent_mm, ledge_at=widest.at,
        ledge_is_least=widest.is_least, unseen_share=unseen,
    )  # fmt: skip


def _across(walls: Walls) -> dict[str, float]:
    """Convergence of the facing walls, degrees, nan where one is not seen."""
    return {zone: walls.convergence_at(azimuth) for zone, azimuth in ACROSS.items()}


def _down_to(rings: Profiles, runs: WallRuns, noise_um: float, foot: Ints) -> Walls:
    """Walls by their lowest part alone, down to a foot (A,): further up a front tooth's face and back go their own
    ways."""
    top = np.maximum(runs.top, foot - round(CERVICAL_MM / STEP_MM))
    return fit_walls(rings, replace(runs, top=top, foot=foot), noise_um)


def _between(rings: Profiles, runs: WallRuns, noise_um: float, walls: Walls) -> Walls:
    """The lowest `walls` down to where they end between two samples: so short a run leans by half a degree otherwise
    when it gains or loses a whole one."""
    less, more = (_down_to(rings, runs, noise_um, runs.foot + k * runs.found) for k in (-1, 1))
    past = np.where(less.found & more.found, runs.past_foot, np.nan)

    def mean(name: str) -> Floats:
        """Over half a sample to either side of where the wall ends."""
        short, middle, long = (getattr(w, name) for w in (less, walls, more))
        return np.asarray(np.where(np.isnan(past), middle, ((1 - past) * short + middle + past * long) / 2))

    return replace(walls, taper_deg=mean("taper_deg"), top=mean("top"))


def _bulges(rings: Profiles, runs: WallRuns, line: FinishLine) -> tuple[Floats, Ints]:
    """(A,) greatest radius of each wall less the least below it, and the arc index of the latter.

    Scan and gingiva round the corner in which the tooth goes under, or meets a ledge: the wall is prolonged into it.
    """
    rows = np.arange(len(rings.azimuth_deg))
    arc = np.arange(rings.radius.shape[1])[None]
    past = (arc >= runs.foot[:, None]) & ~(runs.angle < OVERHANG_DEG)
    overhung = np.where(past.any(axis=1), np.argmax(past, axis=1), runs.foot)
    lowest = np.maximum(overhung + round(CORNER_MM / STEP_MM), runs.foot + round(BELOW_FOOT_MM / STEP_MM))
    end = np.where(runs.found, np.clip(line.index, runs.foot, lowest), -1)
    radius = eased_radius(rings)
    wall = np.isfinite(rings.radius) & (arc >= np.maximum(runs.top, 0)[:, None])
    widest = contour(rings, runs)
    below = wall & (arc >= widest[:, None]) & (arc <= (end - round(CORNER_MM / STEP_MM))[:, None])
    narrow = np.argmin(np.where(below, radius, np.inf), axis=1)
    least = np.where(below.any(axis=1), radius[rows, narrow], np.inf)
    neck = np.minimum(np.minimum(least, _prolonged(rings, runs, below, end)), radius[rows, widest])
    return (radius[rows, widest] - neck) * outline_cosine(line.radius), narrow


def _prolonged(rings: Profiles, runs: WallRuns, below: Bools, end: Ints) -> Floats:
    """(A,) radius of each wall's lowest stretch carried on to the level at which it ends; inf where it is too short.

    A parabola over WALL_MM of it; below: (A, M) the samples that the corner does not bend.
    """
    out = np.full(len(end), np.inf)
    for k in np.flatnonzero(runs.found):
        here = np.flatnonzero(below[k])[-round(WALL_MM / STEP_MM) :]
        last = rings.height[k, end[k]]
        if len(here) < round(LEAST_WALL_MM / STEP_MM) or not np.isfinite(last):
            continue
        middle = rings.height[k, here].mean()
        fit = np.polyfit(rings.height[k, here] - middle, rings.radius[k, here], 2)
        out[k] = np.polyval(fit, last - middle)
    return out


@dataclass(frozen=True, eq=False)
class Widest:
    """A ledge's width and place, nought and None where there is none; how far that hangs on how much of the tooth below
    counts; whether it may be wider; and (A,) where a level stretch runs out of the scan and nobody can say what it is.
    """

    width_mm: float
    bent_mm: float
    at: Place | None
    is_least: bool
    untold: Bools


@dataclass(frozen=True)
class _Step:
    """A level stretch on one profile: its width, how far it rises on the way out, and the arc indices of its middle, of
    itself and of what is below; how far its width hangs on how much of that counts."""

    width_mm: float
    rise_mm: float
    middle: int
    level: Ints
    below: Ints  # empty where the scan ends on the stretch: then its width is a least one
    bent_mm: float = 0.0


def widest_ledge(rings: Profiles, runs: WallRuns, line: FinishLine, earlier: Surface | None, hollow: Bools) -> Widest:
    """The widest ledge on the way down from the top, over EASED_MM of its course.

    A ledge is a level stretch with the tooth going on below it: how far the wall over it, prolonged, stands inside the
    one below it, at the ledge's level. The gingiva's crest has the same form: what lies below a ledge is the tooth as
    it was before (`earlier`, where that was seen). hollow: (A,) where the tooth is hollow over its neck: that hollow
    lies level too, and what lies below it was cut as well.
    """
    angle = tangent_angle(rings, LEVEL_WINDOW_MM)
    steps = {
        int(k): step for k in np.flatnonzero(runs.found)
        if (step := _step(rings.radius[k], rings.height[k], angle[k], int(runs.top[k]), int(runs.foot[k]))) is not None
    }  # fmt: skip
    width, bent = np.zeros((2, len(runs.foot)))
    index = np.full(len(runs.foot), -1, dtype=np.int64)
    told, untold = _of_the_tooth(steps, rings, earlier, hollow)
    for k in told:
        width[k], bent[k], index[k] = steps[k].width_mm, steps[k].bent_mm, steps[k].middle
    cosine = outline_cosine(line.radius)
    width, bent = width * cosine, bent * cosine
    step_mm = np.radians(360 / len(width)) * line.radius
    half = np.maximum(np.round(EASED_MM / 2 / step_mm).astype(int), 1)
    around = [np.arange(k - h, k + h + 1) % len(width) for k, h in enumerate(half)]
    eased = np.array([np.median(width[rows]) for rows in around])
    widest = int(np.argmax(eased))
    if eased[widest] <= 0:
        return Widest(0.0, 0.0, None, False, untold)
    known = np.flatnonzero(index >= 0)
    like = int(known[np.argmin(np.abs(width[known] - eased[widest]))])
    at = xyz(rings.places(np.maximum(index, 0))[like])
    unsure = float(np.median(bent[around[widest]]))
    return Widest(float(eased[widest]), unsure, at, len(steps[like].below) == 0, untold)


def _of_the_tooth(
    steps: dict[int, _Step], rings: Profiles, earlier: Surface | None, hollow: Bools
) -> tuple[list[int], Bools]:
    """Rows whose level stretch is a ledge, and (A,) where nobody can say.

    It is one where it lies within the tooth as it was, or where the tooth as it was goes on below it: gingiva does
    neither. Without the earlier scan the form alone tells, where the scan does not end on the stretch; not where the
    tooth is `hollow` (A,), which has that form of its own.
    """
    untold = np.zeros(len(rings.azimuth_deg), dtype=bool)
    if earlier is None:
        untold[[k for k, step in steps.items() if not len(step.below) or hollow[k]]] = True
        return [k for k, step in steps.items() if len(step.below) and not hollow[k]], untold
    if not steps:
        return [], untold
    parts = [(k, part) for k, step in steps.items() for part in (step.level, step.below)]
    row, at = np.repeat([k for k, _ in parts], [len(p) for _, p in parts]), np.concatenate([p for _, p in parts])
    places = rings.axes.places(rings.azimuth_deg[row], rings.radius[row, at], rings.height[row, at])
    signed, face, place = earlier.signed_distance(places)
    seen, told, begin = ~earlier.at_rim(face, place), [], 0
    for k, step in steps.items():
        level = slice(begin, begin + len(step.level))
        below = slice(level.stop, level.stop + len(step.below))
        begin = below.stop
        within = (seen & (signed < -WITHIN_MM))[level].mean() > 1 / 2
        on = len(step.below) and (seen & (np.abs(signed) < ON_TOOTH_MM))[below].mean() > 1 / 2
        if within and not on and step.rise_mm > CREST_MM:
            continue  # a papilla that stood under the bulge, where the earlier scan spanned the gap
        if hollow[k] and within and not on and len(step.below):
            continue  # cut through and through: the hollow behind a front tooth
        if within or on:
            told.append(k)
            continue
        nothing = not seen[level].any() and not seen[below].any()
        outside = (seen & (signed > ON_TOOTH_MM))[level].any()  # the earlier tooth: gingiva
        untold[k] = nothing or not (len(step.below) or outside)
    return told, untold


def _step(r: Floats, h: Floats, angle: Floats, top: int, foot: int) -> _Step | None:
    """The widest level stretch on one profile between its wall's top and LEDGE_REACH_MM below its foot."""
    last = int(np.isfinite(r).sum()) - 1
    end = min(foot + round(LEDGE_REACH_MM / STEP_MM), last)
    out = None
    level = np.flatnonzero(angle[top : end + 1] > LEVEL_DEG) + top
    for run in np.split(level, np.flatnonzero(np.diff(level) > 2) + 1):
        if len(run) == 0 or run[0] <= top + round(OVER_MM / STEP_MM) or h[run[0]] > h[top] - OVER_MM:
            continue
        first, then = int(run[0]), int(run[-1])
        stretch, rise = np.arange(first, then + 1), _rise(h[first : then + 1])
        over = np.arange(max(first - round((OVER_MM + LEAVE_MM) / STEP_MM), top), first - round(LEAVE_MM / STEP_MM))
        below = np.arange(then + round(LEAVE_MM / STEP_MM), min(then + round(BELOW_MM / STEP_MM), last) + 1)
        if len(over) >= 5 and then >= last - 2 and r[then] - r[first] > UNTOLD_MM and out is None:
            inner = np.polyval(np.polyfit(h[over], r[over], 1), h[then])
            out = _Step(max(float(r[then] - inner), 0.0), rise, (first + then) // 2, stretch, below[:0])
        if len(below) < 5 or len(over) < 5 or h[below[0]] - h[below].min() < DROP_MM:
            continue  # it ends in rising ground, or with the scan
        below = below[: int(np.argmin(h[below])) + 1]
        if len(below) < 5:
            continue
        at = (h[first] + h[then]) / 2
        outer, near = (
            np.polyval(np.polyfit(h[part], r[part], 1), h[then]) for part in (below, below[: (len(below) + 1) // 2])
        )
        inner = np.polyval(np.polyfit(h[over], r[over], 1), at)
        if out is None or outer - inner > out.width_mm:
            out = _Step(float(outer - inner), rise, (first + then) // 2, stretch, below, float(abs(outer - near)))
    return out


def _rise(height: Floats) -> float:
    """From the lowest place of a stretch to the highest beyond it."""
    return float(height[int(np.argmin(height)) :].max() - height.min())

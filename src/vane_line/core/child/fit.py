"""Each crown of a set laid over the preparation: where it binds, whether it snaps, how far it stands proud.

A crown is moved in plan and turned a little until it binds least: what is left is what a hand would feel. It is lowered
along the path as far as its place, or as far as it goes.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot, sqrt
from typing import NamedTuple

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.child.sizes import Size
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.rings import running_median
from vane_line.core.trace.section import Axes, Profiles
from vane_line.core.vectors import bounds, xyz

EVERY_DEG, LEVEL_MM = 5, 0.2  # spacing of the places that are laid into the crown
EASE_DEG, LEAST = 4, 3
MOST_TURN_DEG = 8.0
HIGHEST_MM, CLOSE_MM = 2.0, 0.01  # a crown that stands prouder does not go on at all; how closely that is told
HOPELESS_MM = 0.8  # one that binds so much is not tried further up
TOUCH_MM = 0.02  # what a hand would not feel
U_BINDS_MM = 0.02  # of how far a crown binds: 95 of 100 scans of one tooth agree within it
FURTHER_UP_MM = 0.3  # where that is tried again

Place = tuple[float, float, float]


@dataclass(frozen=True, eq=False)
class Body:
    """The preparation inside its line as places on rings: (N, 2) mesial and facial, (N,) height along the path, mm, and
    their points (N, 3). top_mm: its highest; line_mm: the line's mean height; axes: along the path."""

    axes: Axes
    plan: Floats
    height: Floats
    points: Floats
    top_mm: float
    line_mm: float


@dataclass(frozen=True, eq=False)
class Fit:
    """One size on this preparation.

    binds_mm: how far the preparation stands beyond the inside, in the best place, nought where it is free; what the
    crown gives is not taken off. at: where it binds most. snap_mm: contour that the rim has to be sprung over, None for
    a crown that does not give. proud_mm: how far it stays over the earlier tooth's height, None where that is not
    known or where it does not go on at all. rim_mm: how far its rim reaches over (positive) or below the line, seated.
    seat: (4, 4) rigid, from the crown's own coordinates (`child.shell`) to the preparation's, where it stands as far
    on as it goes.
    """

    size: Size
    binds_mm: float
    at: Place
    sector_deg: float
    snap_mm: float | None
    proud_mm: float | None
    rim_mm: float
    goes_on: bool
    seat: Floats


class Tried(NamedTuple):
    """A crown at one height, where it binds least. places: (N, 2) of the body in it, beyond reach where they stand
    under its rim; over_mm: how far it binds, at place `at`; move: along mesial and facial, mm, and turned, degrees."""

    places: Floats
    over_mm: float
    at: int
    move: Floats


def body_of(rings: Profiles, line: FinishLine) -> Body:
    """Radii by azimuth and level, free of single odd ones."""
    rows = np.arange(0, len(rings.azimuth_deg), max(1, EVERY_DEG * len(rings.azimuth_deg) // 360))
    arc = np.arange(rings.radius.shape[1])[None]
    seen = np.isfinite(rings.radius) & (arc <= line.index[:, None])
    height = np.where(seen, rings.height, np.nan)
    top = float(np.nanquantile(height, 0.999))
    levels = np.arange(float(np.nanmin(line.height)), top - LEVEL_MM / 2, LEVEL_MM)
    radius = np.full((len(rings.azimuth_deg), len(levels)), np.nan)
    for k, level in enumerate(levels):
        here = seen & (np.abs(rings.height - level) < LEVEL_MM / 2)
        widest = np.where(here, rings.radius, -np.inf).max(axis=1)
        radius[:, k] = running_median(np.where(np.isfinite(widest), widest, np.nan), EASE_DEG, LEAST)
    told = np.isfinite(radius[rows])
    azimuth = np.broadcast_to(rings.azimuth_deg[rows][:, None], told.shape)[told]
    own, level = radius[rows][told], np.broadcast_to(levels, told.shape)[told]
    turn = np.radians(azimuth)
    plan = own[:, None] * np.stack([np.sin(turn), np.cos(turn)], axis=1)
    return Body(rings.axes, plan, level, rings.axes.places(azimuth, own, level), top, float(np.mean(line.height)))


def lay_over(body: Body, crowns: list[Size], before_top_mm: float | None) -> list[Fit]:
    """Every size; before_top_mm: height of the tooth before cutting, or of what the crown shall reach to."""
    return [_laid(body, size, before_top_mm) for size in crowns]


def smallest(fits: list[Fit]) -> Fit | None:
    """The smallest that goes on; None where none does."""
    return next((f for f in fits if f.goes_on), None)


def of_width(fits: list[Fit], mesiodistal_mm: float) -> Fit:
    """The size nearest to a tooth's own width: what would be tried first."""
    return min(fits, key=lambda f: abs(f.size.mesiodistal_mm - mesiodistal_mm))


def height_unsure(body: Body, fit: Fit) -> float:
    """Standard uncertainty (mm) of how proud a crown stays, from how surely it binds: on steep walls a little more or
    less of that moves it far. Nought where it goes on: a hand would not feel the little."""
    if fit.proud_mm is None or fit.goes_on:
        return 0.0
    stands = float((fit.seat[:3, 3] - body.axes.origin) @ body.axes.up)
    here, over = (_least(body, fit.size, rim).over_mm for rim in (stands, stands + FURTHER_UP_MM))
    steep = max(here - over, 1e-6) / FURTHER_UP_MM
    free = here < fit.size.set.gives_mm + TOUCH_MM - U_BINDS_MM  # its top stands on the tooth
    # Where a ring slips out under the rim, it binds less at once.
    return hypot(0.0 if free else min(U_BINDS_MM / steep, HIGHEST_MM / 2), LEVEL_MM / sqrt(12))


def _laid(body: Body, size: Size, before_top_mm: float | None) -> Fit:
    touch = body.top_mm - size.inner_height_mm  # the rim's height when the top touches
    wanted = touch if before_top_mm is None else before_top_mm - size.height_mm
    rim = max(wanted, touch)
    tried = _least(body, size, rim)
    gives, binds = size.set.gives_mm + TOUCH_MM, tried.over_mm
    stands, proud = rim, None
    if before_top_mm is not None:
        free = rim if binds <= gives else _free(body, size, rim, gives) if binds < HOPELESS_MM else None
        proud = None if free is None else free - wanted
        stands = rim if free is None else free
    snap = None
    if size.set.drawn_in_mm > 0:
        # What has to pass the rim is all that stands above it.
        above = body.height >= rim
        over = size.overlap(tried.places[above], np.zeros(int(above.sum())))
        snap = max(float(over.max(initial=0.0)), 0.0)
    on = binds <= gives and (before_top_mm is None or (proud is not None and proud <= 2 * TOUCH_MM))
    k = tried.at
    azimuth = float(np.degrees(np.arctan2(body.plan[k, 0], body.plan[k, 1])) % 360)
    move = tried.move if stands == rim else _least(body, size, stands).move
    return Fit(
        size=size, binds_mm=max(binds, 0.0), at=xyz(body.points[k]), sector_deg=azimuth, snap_mm=snap, proud_mm=proud,
        rim_mm=rim - body.line_mm, goes_on=on, seat=_seat(body.axes, move, stands),
    )  # fmt: skip


def _least(body: Body, size: Size, rim_mm: float) -> Tried:
    """The crown with its rim at a height."""
    from scipy.optimize import minimize  # a fifth of a second to import, for children's crowns alone

    inside = np.flatnonzero(body.height >= rim_mm)
    if len(inside) == 0:
        return Tried(body.plan, 0.0, 0, np.zeros(3))
    half, plan = size.halves(body.height[inside] - rim_mm), body.plan[inside]

    def placed(move: Floats) -> Floats:
        c, s = _turned(move)
        return np.asarray((plan - move[:2]) @ np.array([[c, s], [-s, c]]))

    def worst(move: Floats) -> float:
        return float(size.beyond(placed(move), half).max()) + 1e-4 * abs(float(move[2]))

    middle = np.add(*bounds(plan)) / 2
    start = np.array([*middle, 0.0])
    simplex = start + np.array([[0, 0, 0], [0.2, 0, 0], [0, 0.2, 0], [0, 0, 3.0]])
    found = minimize(worst, start, method="Nelder-Mead",
                     options={"initial_simplex": simplex, "xatol": 0.002, "fatol": 0.0005, "maxiter": 160})  # fmt: skip
    over = size.beyond(placed(found.x), half)
    k = int(np.argmax(over))
    whole = np.full_like(body.plan, np.inf)
    whole[inside] = placed(found.x)
    return Tried(whole, float(over[k]), int(inside[k]), np.asarray(found.x))


def _turned(move: Floats) -> tuple[float, float]:
    """Cosine and sine of how far a crown is turned."""
    turn = np.radians(np.clip(move[2], -MOST_TURN_DEG, MOST_TURN_DEG))
    return float(np.cos(turn)), float(np.sin(turn))


def _seat(axes: Axes, move: Floats, rim_mm: float) -> Floats:
    """(4, 4) of a crown moved in plan, turned, and lowered until its rim stands at a height along `axes`."""
    c, s = _turned(move)
    y = s * axes.quarter + c * axes.zero
    out = np.eye(4)
    # Mesial may lie on either hand; a crown is the same both ways round, and a seat no mirror.
    out[:3, :3] = np.stack([np.cross(y, axes.up), y, axes.up], axis=1)
    out[:3, 3] = axes.origin + move[0] * axes.quarter + move[1] * axes.zero + rim_mm * axes.up
    return out


def _free(body: Body, size: Size, rim_mm: float, gives_mm: float) -> float | None:
    """The lowest height of the rim at which the crown no longer binds; None where HIGHEST_MM do not do."""
    low, high = rim_mm, rim_mm + HIGHEST_MM
    if _least(body, size, high).over_mm > gives_mm:
        return None
    while high - low > CLOSE_MM:
        middle = (low + high) / 2
        low, high = (middle, high) if _least(body, size, middle).over_mm > gives_mm else (low, middle)
    return high

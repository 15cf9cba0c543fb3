"""A finish line that a hand drew: read where it was put, or a stretch of it put along the edge."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.measure.finish_line import (
    FinishLine,
    nearest_sample,
    placed_on,
    turn_near,
)
from vane_line.core.rings import degrees_past
from vane_line.core.trace.crease import CLEAR_TURN_DEG, crease_turn
from vane_line.core.trace.section import STEP_MM, Profiles
from vane_line.core.trace.strip import Strip, closed_path
from vane_line.errors import BadOption

SNAP_MM = 0.35  # a drawn stretch goes to the clearest crease within this
MAX_RADIUS_MM = 12.0  # of a drawn curve: beyond it is another tooth


def follow(profiles: Profiles, points: Floats, drawn: Bools) -> FinishLine:
    """A line given as `points` (N, 3) in order round the axis, `drawn` (N,) by hand, read on these profiles.

    It stays where it was put. Raises BadOption when it does not go round once.
    """
    azimuth, radius, height = _course(profiles, points, closed=True)
    rows = profiles.azimuth_deg

    def at(values: Floats) -> Floats:
        return np.asarray(np.interp(rows, azimuth[:-1], values[: len(azimuth) - 1], period=360))

    r, h = at(radius), at(height)
    index = nearest_sample(profiles, r, h)
    turn = crease_turn(profiles)
    turn_at = turn_near(turn, index)
    by_hand = at(drawn.astype(np.float64)) > 0.5
    clear = (turn_at >= CLEAR_TURN_DEG) | by_hand
    places = profiles.axes.places(rows, r, h)
    return FinishLine(
        points=places,
        azimuth_deg=rows,
        radius=r,
        height=h,
        turn_deg=turn_at,
        clear=clear,
        index=index,
        gap_deg=0.0,
        drawn=by_hand,
        band_mm=np.full(len(rows), np.nan),
    )


def redraw(line: FinishLine, profiles: Profiles, stroke: Floats, snap: bool, closed: bool) -> FinishLine:
    """`line` with the stretch that a hand's `stroke` (N, 3) covers put along it; the whole when it is `closed`.

    With `snap` the stretch goes along the clearest crease within SNAP_MM of the stroke. Raises BadOption when the
    stroke cannot be read as a course round the preparation.
    """
    azimuth, radius, height = _course(profiles, stroke, closed)
    n = len(profiles.azimuth_deg)
    if azimuth[-1] < azimuth[0]:
        azimuth, radius, height = azimuth[::-1], radius[::-1], height[::-1]
    azimuth = np.maximum.accumulate(azimuth + np.arange(len(azimuth)) * 1e-9)
    step = 360.0 / n
    first, last = int(np.ceil(azimuth[0] / step)), int(np.floor(azimuth[-1] / step))
    covered = np.arange(first, first + min(last - first + 1, n))
    rows = covered % n
    if len(rows) < 2:
        raise BadOption("finish line: the stroke is too short; draw along it for half a millimetre or more.")
    r, h = (np.interp(covered * step, azimuth, values) for values in (radius, height))
    wanted = line.index.copy()
    wanted[rows] = nearest_sample(profiles, r, h, rows)
    turn = crease_turn(profiles)
    touched = np.zeros(n, dtype=bool)
    touched[rows] = True
    index = _snapped(profiles, turn, wanted, touched) if snap else wanted
    fresh = placed_on(profiles, index, turn, np.ones(n, dtype=bool))
    if not snap:  # just where the hand put it
        fresh.radius[rows], fresh.height[rows] = r, h
    new_r, new_h = np.where(touched, fresh.radius, line.radius), np.where(touched, fresh.height, line.height)
    drawn = line.drawn | touched
    return FinishLine(
        points=profiles.axes.places(profiles.azimuth_deg, new_r, new_h),
        azimuth_deg=profiles.azimuth_deg,
        radius=new_r,
        height=new_h,
        turn_deg=np.where(touched, fresh.turn_deg, line.turn_deg),
        clear=line.clear | touched,
        index=np.where(touched, index, line.index),
        gap_deg=0.0 if line.closed or bool(touched.all()) else line.gap_deg,
        drawn=drawn,
        band_mm=np.where(touched, np.nan, line.band_mm),
    )


def _course(profiles: Profiles, points: Floats, closed: bool) -> tuple[Floats, Floats, Floats]:
    """Azimuth (unwrapped along the course), radius and height of a drawn curve's points."""
    if len(points) < 2 or not np.isfinite(points).all():
        raise BadOption("finish line: give two points or more, each three numbers.")
    azimuth, radius, height = profiles.axes.cylinder(points)
    if radius.max() > MAX_RADIUS_MM or np.abs(height).max() > MAX_RADIUS_MM:
        raise BadOption("finish line: the curve leaves the tooth; draw it along the preparation's edge.")
    azimuth = np.degrees(np.unwrap(np.radians(azimuth)))
    if closed:
        gap = degrees_past(azimuth[0], azimuth[-1])
        round_once = abs(azimuth[-1] + gap - azimuth[0])
        if abs(round_once - 360) > 1:
            raise BadOption("finish line: a closed line has to go round the tooth once; draw it again.")
        end = azimuth[0] + (360 if azimuth[-1] > azimuth[0] else -360)
        azimuth = np.r_[azimuth, end]
        radius, height = np.r_[radius, radius[0]], np.r_[height, height[0]]
    return azimuth, radius, height


def _snapped(profiles: Profiles, turn: Floats, wanted: Ints, touched: Bools) -> Ints:
    """The cheapest course along creases within SNAP_MM of `wanted`, held where the hand did not touch it."""
    reach = round(SNAP_MM / STEP_MM)
    offset = np.arange(-reach, reach + 1)
    columns = np.clip(wanted[:, None] + offset, 0, profiles.radius.shape[1] - 1)
    rows = np.arange(len(wanted))[:, None]
    cost = -np.clip(np.nan_to_num(turn[rows, columns]), 0, 80) / 80 + 0.3 * (offset / reach) ** 2
    held = ~touched[:, None] & (offset != 0)
    cost = np.where(held | ~np.isfinite(profiles.radius[rows, columns]), 4.0, cost)
    r = np.nan_to_num(profiles.radius[rows, columns], nan=99.0)
    h = np.nan_to_num(profiles.height[rows, columns], nan=99.0)
    return np.asarray(columns[np.arange(len(wanted)), closed_path(Strip(cost, r, h))])

"""An outline that a hand drew: a stretch of it put along the edge, and the cut surface that it then goes round."""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.outline.curve import Outline, resampled, trace_outline
from vane_line.core.outline.line import OutlineLine, OutlineSurvey, line_of
from vane_line.core.outline.region import CutRegion, bounded_region
from vane_line.core.vectors import lengths
from vane_line.errors import BadOption

MAX_AWAY_MM = 1.5  # of the scan's surface: a stroke further off was drawn on something else
LEAST_MM = 0.5
TOUCHED_MM = 0.3  # of a stroke: the outline there is the hand's
SAME_MM = 0.15  # of the outline as found: its angle is still told


def bounded(survey: OutlineSurvey, points: Floats, drawn: Bools) -> OutlineLine:
    """The outline given as `points` (N, 3) in order, `drawn` (N,) by hand; it stays where it was put. Raises
    BadOption."""
    return _as_drawn(survey, resampled(points), _within(survey, points).mask, points[drawn])


def redrawn(survey: OutlineSurvey, line: FinishLine, stroke: Floats, snap: bool, closed: bool) -> OutlineLine:
    """`line` with the stretch that a `stroke` (N, 3) covers put along it, the whole when it is `closed`; with `snap` to
    the edge beside it. Raises BadOption."""
    if len(stroke) < 2 or not np.isfinite(stroke).all():
        raise BadOption("finish line: give two points or more, each three numbers.")
    if lengths(np.diff(stroke, axis=0)).sum() < LEAST_MM:
        raise BadOption("finish line: the stroke is too short; draw along it for half a millimetre or more.")
    course = stroke if closed else _spliced(line.points, stroke)
    region = _within(survey, course)
    by_hand = np.concatenate([line.points[line.drawn], resampled_open(stroke)])
    if not snap:
        return _as_drawn(survey, resampled(course), region.mask, by_hand)
    outline = trace_outline(survey.crop, region)
    if outline is None:
        raise BadOption("finish line: no edge is seen beside the stroke; put it there without snapping.")
    away, _ = cKDTree(by_hand).query(outline.points)
    touched = away < TOUCHED_MM
    marked = Outline(
        outline.points, outline.cavosurface_deg, outline.clear | touched, touched, outline.outward, outline.skin
    )
    return line_of(marked, region.mask, survey.about)


def resampled_open(stroke: Floats, step_mm: float = 0.1) -> Floats:
    """Points (K, 3) at equal steps along an open stroke."""
    along = np.r_[0.0, np.cumsum(lengths(np.diff(stroke, axis=0)))]
    at = np.linspace(0, along[-1], max(round(along[-1] / step_mm), 1) + 1)
    return np.stack([np.interp(at, along, column) for column in stroke.T], axis=1)


def _within(survey: OutlineSurvey, points: Floats) -> CutRegion:
    """The cut surface inside a closed curve. Raises BadOption."""
    if len(points) < 3 or not np.isfinite(points).all():
        raise BadOption("finish line: give three points or more, each three numbers.")
    if survey.eased.closest(points)[0].max() > MAX_AWAY_MM:
        raise BadOption("finish line: the curve leaves the tooth; draw it along the edge of the cut.")
    region = bounded_region(survey.eased, points, survey.view)
    if region is None:
        raise BadOption("finish line: the outline holds no cut surface; draw it round the cut once.")
    return region


def _spliced(line: Floats, stroke: Floats) -> Floats:
    """The closed curve `line` (K, 3) with the shorter way between the stroke's ends taken by the stroke."""
    first, last = (int(np.argmin(lengths(line - end))) for end in (stroke[0], stroke[-1]))
    turned = np.roll(line, -first, axis=0)
    at = (last - first) % len(line)
    # Whichever of the two ways lies nearer to the stroke is the one that it replaces.
    middle = stroke[len(stroke) // 2]
    forward, backward = turned[: at + 1], turned[at:]
    if lengths(forward - middle).min() <= lengths(backward - middle).min():
        return np.concatenate([stroke, turned[at + 1 :]])
    return np.concatenate([turned[:at], stroke[::-1]])


def _as_drawn(survey: OutlineSurvey, course: Floats, mask: Bools, by_hand: Floats) -> OutlineLine:
    """An outline just where it was put; where it is as it was found, its angle is too."""
    found = survey.found
    assert isinstance(found, OutlineLine)
    away, nearest = cKDTree(found.points).query(course)
    same = away < SAME_MM
    drawn = np.zeros(len(course), dtype=bool)
    if len(by_hand):
        drawn = cKDTree(by_hand).query(course)[0] < TOUCHED_MM
    angle = np.where(same, found.cavosurface_deg[nearest], np.nan)
    outline = Outline(
        course, angle, drawn | (same & found.clear[nearest]), drawn, found.outward[nearest], found.skin[nearest]
    )
    return line_of(outline, mask, survey.about)


__all__ = ["bounded", "redrawn", "resampled_open"]

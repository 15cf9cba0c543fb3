"""What to scan again while the patient is still there: it costs a minute now and a visit later.

Along the finish line: a hole or the scan's border, points too far apart to place an edge, gingiva lying on the line,
an edge that is not seen. Each with its length along the line and where it is.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.mesh.points import any_within
from vane_line.core.mesh.surface import Surface
from vane_line.core.rings import degrees_apart, ring_runs
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import lengths, xyz

What = Literal["hole", "thin", "gingiva", "unseen"]
BORDER_MM = 0.25  # of the line: what ends nearer leaves the edge itself to a guess
THIN_MM = 0.40  # between neighbouring points: an edge is placed no better than half of it
ABOUT_MM = 0.6  # of the line, in which that is read
BESIDE_MM = (0.05, 0.45)  # beyond the line, where gingiva that lies on it stands
RISES_MM = 0.30  # over the line within that: tissue on the edge, not a sulcus beside it
LIES_DEG, LIES_LEAST = 3.0, 3
LEAST_MM = 0.5  # along the line: shorter is scanned again for nothing
BRIDGED_DEG = 6.0  # between two stretches of the same
SIDES = ("facial", "mesial", "lingual", "distal")


@dataclass(frozen=True)
class Rescan:
    """One stretch of the finish line. side: towards which it looks."""

    what: What
    length_mm: float
    side: str
    at: tuple[float, float, float]


def rescans(scan: Surface, line: FinishLine, axes: Axes, ringed: bool) -> tuple[Rescan, ...]:
    """scan: as it was taken, round the tooth. ringed: whether the line goes round the tooth's own axis: only there is
    the gingiva beyond it, and only there does an unseen edge mean that it is hidden."""
    strip = _strip(scan, line)
    ends = _ends(strip, scan.vertices[scan.on_border], line)
    found: list[tuple[What, Bools]] = [("hole", ends), ("thin", _thin(strip, line) & ~ends)]
    if ringed:
        near = lengths(scan.vertices - line.points.mean(axis=0)) < np.ptp(line.points, axis=0).max()
        part, _ = scan.keep_vertices(near)
        over = _gingiva(part, line, axes) & ~ends
        found += [("gingiva", over), ("unseen", ~line.told & ~line.drawn & ~over & ~ends)]
    rows = [row for what, where in found for row in _stretches(what, where, line)]
    return tuple(sorted(rows, key=lambda r: -r.length_mm))


def _strip(scan: Surface, line: FinishLine) -> Surface:
    """All of the scan that comes nearer to the line than ABOUT_MM, with the triangles beside it."""
    reach = ABOUT_MM + 2 * float(scan.edge_lengths.max(initial=0.0))
    return scan.keep_vertices(any_within(scan.vertices, line.points, reach))[0]


def _ends(strip: Surface, border: Floats, line: FinishLine) -> Bools:
    """(A,) where the scan ends at the line, or has none of it; border: (B, 3)."""
    none = strip.closest(line.points)[0] > BORDER_MM
    if len(border) == 0:
        return np.asarray(none)
    return np.asarray(none | (cKDTree(border).query(line.points)[0] < BORDER_MM))


def _thin(strip: Surface, line: FinishLine) -> Bools:
    """(A,) where the scan's points lie too far apart."""
    i, j = strip.edges.T
    middle = (strip.vertices[i] + strip.vertices[j]) / 2
    long = lengths(strip.vertices[i] - strip.vertices[j])
    about = cKDTree(middle).query_ball_point(line.points, ABOUT_MM)
    return np.array([len(k) == 0 or float(np.median(long[k])) > THIN_MM for k in about])


def _gingiva(part: Surface, line: FinishLine, axes: Axes) -> Bools:
    """(A,) where something stands over the line right beside it."""
    azimuth, radius, height = axes.cylinder(part.vertices)
    beyond = radius - line.at(azimuth, line.radius)
    beside = (beyond > BESIDE_MM[0]) & (beyond < BESIDE_MM[1])
    rises = height[beside] - line.at(azimuth[beside], line.height) > RISES_MM
    at = azimuth[beside]
    out = np.zeros(len(line.azimuth_deg), dtype=bool)
    for k, a in enumerate(line.azimuth_deg):
        here = degrees_apart(at, a) < LIES_DEG
        out[k] = here.sum() >= LIES_LEAST and bool(rises[here].mean() > 0.5)
    return out


def _stretches(what: What, where: Bools, line: FinishLine) -> list[Rescan]:
    """Runs of a flag along the line that are long enough, gaps in them counted in."""
    count = len(where)
    piece = lengths(np.diff(line.points, axis=0, append=line.points[:1]))
    rows = []
    for run in ring_runs(where, round(BRIDGED_DEG * count / 360)):
        whole = (run[0] + np.arange((run[-1] - run[0]) % count + 1)) % count
        length = float(piece[whole].sum())
        if length < LEAST_MM:
            continue
        middle = whole[len(whole) // 2]
        side = SIDES[round(float(line.azimuth_deg[middle]) / 90) % 4]
        rows.append(Rescan(what, length, side, xyz(line.points[middle])))
    return rows

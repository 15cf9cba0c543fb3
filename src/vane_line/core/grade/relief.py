"""Where a whole class falls short, on the tooth as it was handed out: the median of what everybody took off there.

What is taken off is told on each preparation's own surface. A place on the tooth before cutting takes it from the place
of the preparation that lies nearest under it.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.vectors import dot, within

REACH_MM = 4.0  # under the tooth as it was, within which its preparation lies
OUTWARD, ON_MM = 0.3, 0.2  # cosine of a tooth's side to the way out of its preparation; nearer it lies on it
ROUND_MM, NEAREST = 0.8, 13  # how far round a gap, and of how many places there, most must be told
LEAST_SHARE = 0.5  # of the class, of which something must be told at a place


@dataclass(frozen=True, eq=False)
class Cut:
    """One preparation: vertices (N, 3) in the coordinates of the scan before cutting, what was taken off there (N,),
    and the least and the most that were asked, mm; nan where nothing is told."""

    vertices: Floats
    depth: Floats
    least: Floats
    most: Floats


@dataclass(frozen=True, eq=False)
class ClassRelief:
    """Per vertex (V,) of the tooth before cutting, nan where too few tell: medians of what was taken off and of what
    was asked, mm; the share (0..1) of the class that falls short there, and that cut too deep. cuts: how many."""

    depth: Floats
    least: Floats
    most: Floats
    short: Floats
    over: Floats
    cuts: int


def class_relief(vertices: Floats, normals: Floats, cuts: Iterable[Cut]) -> ClassRelief:
    """vertices, normals: (V, 3) of the scan before cutting."""
    rows = [_on(vertices, normals, cut) for cut in cuts]
    if not rows:
        nothing = np.full(len(vertices), np.nan)
        return ClassRelief(nothing, nothing, nothing, nothing, nothing, 0)
    depth, least, most = (np.stack([row[k] for row in rows]) for k in range(3))
    told = np.isfinite(depth) & np.isfinite(least)
    enough = told.mean(axis=0) >= LEAST_SHARE
    count = np.maximum(told.sum(axis=0), 1)

    def median(values: Floats) -> Floats:
        out = np.full(len(vertices), np.nan)
        some = enough & np.isfinite(values).any(axis=0)
        out[some] = np.nanmedian(values[:, some], axis=0)
        return out

    def share(failed: Bools) -> Floats:
        return np.where(enough, (failed & told).sum(axis=0) / count, np.nan)

    with np.errstate(invalid="ignore"):
        short, over = share(depth < least), share(depth > most)
    fields = _filled(vertices, [median(depth), median(least), median(most), short, over])
    return ClassRelief(fields[0], fields[1], fields[2], fields[3], fields[4], len(rows))


def _filled(vertices: Floats, fields: list[Floats]) -> list[Floats]:
    """The fields, filled where most places round about are told: in a fissure the tooth looks aside."""
    told = np.isfinite(fields[0])
    if not told.any():
        return fields
    low, high = vertices[told].min(axis=0) - ROUND_MM, vertices[told].max(axis=0) + ROUND_MM
    near = np.flatnonzero(within(vertices, low, high))
    gaps = near[~told[near]]
    away, which = cKDTree(vertices[near]).query(vertices[gaps], k=NEAREST, distance_upper_bound=ROUND_MM)
    there = np.isfinite(away)
    around = near[np.where(there, which, 0)]
    there &= told[around]
    mostly = there.sum(axis=1) > NEAREST / 2
    out = []
    for field in fields:
        values = np.where(there, field[around], np.nan)[mostly]
        some = np.isfinite(values).any(axis=1)
        field[gaps[mostly][some]] = np.nanmean(values[some], axis=1)
        out.append(field)
    return out


def _on(vertices: Floats, normals: Floats, cut: Cut) -> tuple[Floats, Floats, Floats]:
    """(V,) of what was taken off, least and most, on the tooth before cutting."""
    index, under = _under(vertices, normals, cut)
    out = tuple(np.full(len(vertices), np.nan) for _ in range(3))
    for field, values in zip(out, (cut.depth, cut.least, cut.most), strict=True):
        field[index] = values[under]
    depth, least, most = out
    return depth, least, most


def _under(vertices: Floats, normals: Floats, cut: Cut) -> tuple[Ints, Ints]:
    """Which vertices have a place of the preparation under them, and which place that is.

    A neighbour's side is near it too, but looks at it or past it.
    """
    told = np.flatnonzero(np.isfinite(cut.depth))
    if len(told) == 0:
        return np.zeros(0, np.int64), np.zeros(0, np.int64)
    points = cut.vertices[told]
    box = within(vertices, points.min(axis=0) - REACH_MM, points.max(axis=0) + REACH_MM)
    index = np.flatnonzero(box)
    away, nearest = cKDTree(points).query(vertices[index], distance_upper_bound=REACH_MM)
    found = np.isfinite(away)
    index, under = index[found], told[nearest[found]]
    away = away[found]
    # What was hardly cut lies on the tooth itself: there its side tells nothing.
    outward = dot(vertices[index] - cut.vertices[under], normals[index])
    faces = (outward > OUTWARD * away) | (away < ON_MM)
    return index[faces], under[faces]

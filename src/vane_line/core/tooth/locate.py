"""Where on the scan the cut tooth is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from weakref import WeakKeyDictionary

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.mesh.points import groups
from vane_line.core.mesh.surface import Surface
from vane_line.errors import UnfitScans

CHANGED_MM = 0.20  # more than soft tissue and noise usually move, less than any full crown takes off
MIN_VOLUME_MM3 = 5.0  # a crown preparation takes 50 to 400
SWAPPED_SHARE = 0.90  # contract: of the changed volume outside
SAME_MM = 0.005
SAMPLE_MM = 0.5  # spacing of the points that are compared
LINK_MM = 0.8  # points this near belong to one region
CLIP_MM = 2.0
FAR_MM = 4.0  # deeper than this is not a cut but a surface the other scan never had

Hard = Callable[[Floats], Bools]


Compared = tuple[Floats, Floats, Bools, float]
# Asked for twice of the same scans: which teeth were cut, then where one of them stands. Kept as long as they are.
_known: WeakKeyDictionary[Surface, WeakKeyDictionary[Surface, Compared]] = WeakKeyDictionary()


@dataclass(frozen=True, eq=False)
class CutSite:
    """The removed region: its centre (3,) by volume, the volume, and how far it reaches, root mean square."""

    centre: Floats
    volume_mm3: float
    spread_mm: float


def find_cut(prep: Surface, preop: Surface, near: Floats | None) -> CutSite:
    """The removed region that is largest by volume, or the one nearest to `near` (3,).

    Raises UnfitScans when the scans show the same surface, or are swapped.
    """
    points, depth, usable, area = _compared(prep, preop)
    return _site(points, -depth, usable, area, near)


def find_lost(preop: Surface, prep: Surface, near: Floats | None) -> CutSite:
    """The same told on the earlier scan, by what lies outside the later one: of a small tooth little is left to tell it
    by, and that stands low among its neighbours. Raises as `find_cut`."""
    points, depth, usable, area = _compared(preop, prep)
    return _site(points, depth, usable, area, near)


def _site(points: Floats, removed: Floats, usable: Bools, area: float, near: Floats | None) -> CutSite:
    """Of points (N, 3), off each of which so much was removed (N,), mm, as far as they are usable (N,)."""
    if np.quantile(np.abs(removed), 0.99) < SAME_MM:
        raise UnfitScans(
            "prep and preop: both files hold the same surface; give the scan taken before the preparation as preop."
        )
    # Clipped: what looks far removed is mostly a gap between teeth that the earlier scan bridged.
    weight = np.clip(removed, 0, CLIP_MM) * area
    inside = _largest(points, usable & (removed > CHANGED_MM), weight, near)
    outside = _largest(points, usable & (removed < -CHANGED_MM), -removed * area, near)
    inside_volume, outside_volume = (0.0 if s is None else s.volume_mm3 for s in (inside, outside))
    if max(inside_volume, outside_volume) < MIN_VOLUME_MM3:
        raise UnfitScans(
            "prep and preop: no cut tooth is found between the two scans, they show the same surface; "
            "check that the scans belong to this preparation."
        )
    if inside is None or outside_volume > SWAPPED_SHARE * (inside_volume + outside_volume):
        raise UnfitScans(
            "prep and preop: before and after seem to be swapped, the prep stands outside the preop; "
            "exchange the two files."
        )
    return inside


def cut_regions(prep: Surface, preop: Surface, count: int, hard: Hard) -> list[CutSite]:
    """The removed regions of `count` prepared teeth, the largest by volume first; fewer where fewer are found.

    hard: which points (N, 3) are of crowns. Gingiva that was held aside joins what was cut on teeth beside each other.
    """
    points, depth, usable, area = _compared(prep, preop)
    chosen = np.flatnonzero(usable & (depth < -CHANGED_MM) & hard(points))
    if len(chosen) == 0:
        return []
    weight = np.clip(-depth, 0, CLIP_MM)[chosen] * area
    number, label = groups(points[chosen], LINK_MM)
    volume = np.bincount(label, weights=weight, minlength=number)
    out = []
    for k in np.argsort(-volume)[:count]:
        if volume[k] > MIN_VOLUME_MM3:
            mine = label == k
            out.append(_site_of(points[chosen[mine]], weight[mine]))
    return out


def _site_of(points: Floats, weight: Floats) -> CutSite:
    """Of a region's points (N, 3) by their volumes (N,)."""
    share = weight / weight.sum()
    centre = np.asarray((points * share[:, None]).sum(axis=0))
    return CutSite(centre, float(weight.sum()), float(np.sqrt(share @ ((points - centre) ** 2).sum(axis=1))))


def _compared(prep: Surface, preop: Surface) -> Compared:
    """Points of the prep (N, 3), how far each lies outside the scan before (N,), which of them that scan saw and tells
    something of (N,), and the area that each stands for."""
    known = _known.setdefault(prep, WeakKeyDictionary())
    if preop not in known:
        known[preop] = _compare(prep, preop)
    return known[preop]


def _compare(prep: Surface, preop: Surface) -> Compared:
    points = prep.thinned(SAMPLE_MM)
    depth, face, _ = preop.signed_distance(points)
    seen = ~preop.border_faces[face] | (np.abs(depth) < CHANGED_MM)
    return points, depth, seen & (np.abs(depth) < FAR_MM), prep.face_areas.sum() / len(points)


def _largest(points: Floats, mask: Bools, weight: Floats, near: Floats | None) -> CutSite | None:
    """The connected group of `mask` points that counts."""
    chosen = np.flatnonzero(mask)
    if len(chosen) == 0:
        return None
    number, label = groups(points[chosen], LINK_MM)
    volume = np.bincount(label, weights=weight[chosen], minlength=number)
    candidates = np.flatnonzero(volume > MIN_VOLUME_MM3)
    if len(candidates) == 0:
        candidates = np.array([np.argmax(volume)])
    best = candidates[np.argmax(volume[candidates])]
    if near is not None and len(candidates) > 1:
        gap = [np.linalg.norm(points[chosen[label == c]] - near, axis=1).min() for c in candidates]
        best = candidates[np.argmin(gap)]
    part = chosen[label == best]
    return _site_of(points[part], weight[part])

"""Where on the scan the cut tooth is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy.sparse as sp
from scipy.sparse.csgraph import connected_components

from vane_line.core.arrays import Bools, Floats
from vane_line.core.mesh.surface import Surface
from vane_line.errors import UnfitScans

CHANGED_MM = 0.20  # more than soft tissue and noise usually move, less than any full crown takes off
MIN_VOLUME_MM3 = 5.0  # a crown preparation takes 50 to 400
SWAPPED_SHARE = 0.90  # contract: of the changed volume outside
SAME_MM = 0.005
FAR_MM = 4.0  # deeper than this is not a cut but a surface the other scan never had


@dataclass(frozen=True, eq=False)
class CutSite:
    """The changed region: centre (3,), mean outward direction of what was taken off, volume."""

    centre: Floats
    volume_mm3: float
    depth: Floats  # (V,) signed distance of the prep's vertices to the earlier surface, negative = removed


def find_cut(prep: Surface, preop: Surface, near: Floats | None) -> CutSite:
    """The removed region that is largest by volume, or the one nearest to `near` (3,).

    Raises UnfitScans when the scans show the same surface, or are swapped.
    """
    depth, face, _ = preop.signed_distance(prep.vertices)
    seen = ~preop.on_border[preop.faces[face]].any(axis=1) | (np.abs(depth) < CHANGED_MM)
    usable = seen & (np.abs(depth) < FAR_MM)
    area = prep.vertex_areas
    if np.quantile(np.abs(depth), 0.99) < SAME_MM:
        raise UnfitScans(
            "prep and preop: both files hold the same surface; give the scan taken before the preparation as preop."
        )
    inside_volume, centre = _largest(prep, usable & (depth < -CHANGED_MM), -depth * area, near)
    outside_volume, _ = _largest(prep, usable & (depth > CHANGED_MM), depth * area, near)
    if max(inside_volume, outside_volume) < MIN_VOLUME_MM3 or centre is None and outside_volume < MIN_VOLUME_MM3:
        raise UnfitScans(
            "prep and preop: no cut tooth is found between the two scans, they show the same surface; "
            "check that the scans belong to this preparation."
        )
    total = inside_volume + outside_volume
    if outside_volume > SWAPPED_SHARE * total:
        raise UnfitScans(
            "prep and preop: before and after seem to be swapped, the prep stands outside the preop; "
            "exchange the two files."
        )
    assert centre is not None
    return CutSite(centre, inside_volume, depth)


def _largest(
    surface: Surface, mask: Bools, weight: Floats, near: Floats | None
) -> tuple[float, Floats | None]:
    """Volume and weighted centre of the connected part of `mask` that counts."""
    if not mask.any():
        return 0.0, None
    i, j = surface.edges.T
    both = mask[i] & mask[j]
    graph = sp.coo_matrix((np.ones(both.sum()), (i[both], j[both])), shape=(surface.n_vertices,) * 2)
    number, label = connected_components(graph, directed=False)
    volume = np.bincount(label, weights=np.where(mask, weight, 0), minlength=number)
    candidates = np.flatnonzero(volume > MIN_VOLUME_MM3)
    if len(candidates) == 0:
        candidates = np.array([np.argmax(volume)])
    best = candidates[np.argmax(volume[candidates])]
    if near is not None and len(candidates) > 1:
        gap = [np.linalg.norm(surface.vertices[mask & (label == c)] - near, axis=1).min() for c in candidates]
        best = candidates[np.argmin(gap)]
    part = mask & (label == best)
    share = weight[part] / weight[part].sum()
    return float(volume[best]), np.asarray((surface.vertices[part] * share[:, None]).sum(axis=0))

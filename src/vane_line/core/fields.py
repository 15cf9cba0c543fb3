"""Per-vertex fields of a judged measurement, for the PLY file and for the sheet."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import AnyArray, Floats
from vane_line.core.case import Geometry
from vane_line.core.judge.criteria.cavity import cusp_bound
from vane_line.core.judge.judgement import Judgement
from vane_line.core.kinds.cavity import CavityCut
from vane_line.core.mesh.write import ply_bytes
from vane_line.core.prepared import Distances
from vane_line.core.vectors import within

ON_MM = 0.12  # a display vertex this near the inside surface takes its values


def inside_fields(geometry: Geometry, judgement: Judgement) -> dict[str, Floats]:
    """Fields (N,) of the inside vertices, nan where unknown.

    depth: reduction to what it is judged by; depth_min, depth_max: the standard's limits there, the greatest of what is
    taken off the tooth, told in the same terms; unseen: 1 where
    the earlier scan never saw the tooth; space: clearance to the opposing teeth; draw: how far a point lies under an
    overhang along the path, negative, nought where it is free; edges: overcut of the milling bur, negative; zone: index
    of the zone.
    """
    n = geometry.inside.n_vertices
    nothing = np.full(n, np.nan)

    def values(distances: Distances | None) -> Floats:
        return nothing if distances is None else np.where(distances.unseen, np.nan, distances.value)

    unseen = nothing if geometry.space is None else geometry.space.unseen.astype(float)
    cavity = _cavity_fields(geometry, judgement) if isinstance(geometry.cut, CavityCut) else {}
    return {
        "depth": values(geometry.space),
        "depth_min": judgement.limit_min,
        "depth_max": _most(geometry, judgement),
        "unseen": unseen,
        "space": values(geometry.clearance),
        "draw": -geometry.cut.hidden_mm(geometry.inside),
        "edges": -geometry.edges.overcut_mm,
        "zone": judgement.zones.index.astype(float),
    } | cavity


def _most(geometry: Geometry, judgement: Judgement) -> Floats:
    """(N,) the depth from which on too much was cut: of the tooth, whatever the space is measured to; nan where that is
    not known."""
    space, removed = geometry.space, geometry.tooth_removed
    if space is None or removed is None:
        return np.full(geometry.inside.n_vertices, np.nan)
    return np.asarray(judgement.limit_max + (space.value - removed.value))


def _cavity_fields(geometry: Geometry, judgement: Judgement) -> dict[str, Floats]:
    """What a cavity shows otherwise: over its floor the depth along the path, against the cavity's; and how much tooth
    stands behind its facial and lingual walls, against what the cusp there needs."""
    cut, standard = geometry.cut, judgement.standard
    assert isinstance(cut, CavityCut)
    n = geometry.inside.n_vertices
    depth = np.full(n, np.nan) if geometry.space is None else geometry.space.value.copy()
    low, high = judgement.limit_min.copy(), _most(geometry, judgement)
    floor, bounds = cut.parts.floor, standard.bounds("cavity-depth")
    # Its greatest depth is judged by the middle of the floor: under a cusp it is deeper by nature.
    depth[floor], low[floor], high[floor] = cut.depth_mm[floor], _or_nan(bounds.min), np.nan
    # Walls and what bends into them have a distance to the planned surface, and no limit of it.
    told = floor | np.isfinite(judgement.limit_min)
    depth[~told] = np.nan
    unseen = np.zeros(n) if geometry.space is None else geometry.space.unseen.astype(float)
    unseen[floor] = 0.0
    least = np.full(n, np.nan)
    names = list(geometry.anatomy.cusps)
    if names:
        tips = np.array([geometry.anatomy.cusps[c] for c in names])
        asked = np.array([_or_nan(cusp_bound(geometry, standard, c).min) for c in names])
        standing = np.array([next((not f.covered for f in cut.cusps if f.cusp == c), False) for c in names])
        least = np.where(standing, asked, np.nan)[cut.parts.nearest(tips)]
    thick = np.where(np.isfinite(least), cut.thickness_mm, np.nan)
    return {"depth": depth, "depth_min": low, "depth_max": high, "unseen": unseen, "cusps": thick, "cusps_min": least}


def _or_nan(bound: float | None) -> float:
    return float("nan") if bound is None else bound


def onto(vertices: AnyArray, geometry: Geometry, fields: dict[str, Floats]) -> dict[str, Floats]:
    """The fields carried to `vertices` (V, 3) of another mesh of the preparation; nan outside the finish line."""
    box = geometry.inside.vertices
    near = within(vertices, box.min(axis=0) - 1, box.max(axis=0) + 1)
    index = np.flatnonzero(near)
    distance, face, place = geometry.inside.closest(vertices[index].astype(np.float64))
    close = distance < ON_MM
    out = {}
    for name, field in fields.items():
        target = np.full(len(vertices), np.nan)
        if name in ("zone", "unseen", "cusps_min"):
            corner = geometry.inside.barycentric(face, place).argmax(axis=1)
            value = field[geometry.inside.faces[face, corner]]
        else:
            value = geometry.inside.interpolate(field, face, place)
        target[index[close]] = value[close]
        out[name] = target
    return out


def field_ply(geometry: Geometry, judgement: Judgement) -> bytes:
    """The inside of the preparation with its fields as binary PLY (nan stays nan, which PLY floats allow)."""
    return ply_bytes(geometry.inside, inside_fields(geometry, judgement))

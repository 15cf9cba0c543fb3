"""Per-vertex fields of a judged measurement, for the PLY file and for the sheet."""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import AnyArray, Floats
from vane_line.core.case import Distances, Geometry
from vane_line.core.judge.judgement import Judgement
from vane_line.core.measure.undercut import LEAST_MM
from vane_line.core.mesh.write import ply_bytes

ON_MM = 0.12  # a display vertex this near the inside surface takes its values


def inside_fields(geometry: Geometry, judgement: Judgement) -> dict[str, Floats]:
    """Fields (N,) of the inside vertices, nan where unknown.

    depth: reduction to what it is judged by; depth_min, depth_max: the standard's limits there; unseen: 1 where
    the earlier scan never saw the tooth; space: clearance to the opposing teeth; draw: how far a point lies under an
    overhang along the path, negative, nought where it is free; edges: overcut of the milling bur, negative; zone: index
    of the zone.
    """
    n = geometry.inside.n_vertices
    nothing = np.full(n, np.nan)

    def values(distances: Distances | None) -> Floats:
        return nothing if distances is None else np.where(distances.unseen, np.nan, distances.value)

    unseen = nothing if geometry.space is None else geometry.space.unseen.astype(float)
    return {
        "depth": values(geometry.space),
        "depth_min": judgement.limit_min,
        "depth_max": judgement.limit_max,
        "unseen": unseen,
        "space": values(geometry.clearance),
        "draw": -undercut_depth(geometry),
        "edges": -geometry.edges.overcut_mm,
        "zone": judgement.zones.index.astype(float),
    }


def undercut_depth(geometry: Geometry) -> Floats:
    """(N,) sideways depth (mm) under an overhang at each inside vertex, from the nearest sample of the profiles."""
    depth, rings = geometry.cut.shape.undercut.depth, geometry.cut.profiles
    told = np.isfinite(depth) & np.isfinite(rings.radius)
    if not geometry.cut.shape.undercut.regions or not told.any():
        return np.zeros(geometry.inside.n_vertices)
    azimuth = np.broadcast_to(rings.azimuth_deg[:, None], told.shape)[told]
    places = rings.axes.places(azimuth, rings.radius[told], rings.height[told])
    _, nearest = cKDTree(places).query(geometry.inside.vertices)
    value = depth[told][nearest]
    return np.asarray(np.where(value > LEAST_MM, value, 0.0))


def onto(vertices: AnyArray, geometry: Geometry, fields: dict[str, Floats]) -> dict[str, Floats]:
    """The fields carried to `vertices` (V, 3) of another mesh of the preparation; nan outside the finish line."""
    box = geometry.inside.vertices
    near = ((vertices > box.min(axis=0) - 1) & (vertices < box.max(axis=0) + 1)).all(axis=1)
    index = np.flatnonzero(near)
    distance, face, place = geometry.inside.closest(vertices[index].astype(np.float64))
    close = distance < ON_MM
    out = {}
    for name, field in fields.items():
        target = np.full(len(vertices), np.nan)
        if name in ("zone", "unseen"):
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

"""A tooth told apart on a scan before anything is cut: from a point on it, its class's size, the valleys round it."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.mesh.growth import Grown, concavity, grow
from vane_line.core.mesh.surface import Surface
from vane_line.core.tooth.anatomy import size_of
from vane_line.core.tooth.frame import Frame
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.tooth.reference import CROP_MM, ReferenceTooth
from vane_line.errors import UnfitScans

ROUNDS = 3  # the middle is found again from the tooth that was told apart
TOP_REACH_MM = 2.5  # of the point given: where the tooth's height is read
SEED_SHARE = 0.28  # of the tooth's size, about its middle: surely this tooth
TOP_DROP_MM = 2.5
BESIDE_MM = 1.3  # beyond half the width: surely a neighbour
NEIGHBOUR_DROP_MM = 3.5
GINGIVA_SHARE = 0.62  # of the crown's length under its top, beside the tooth: surely gingiva
ASIDE_MM, ASIDE_DROP_MM = 1.2, 1.5  # beside a short tooth's face or back, and under its top: gingiva as well
LEAST_AREA_MM2 = 15.0


def whole_tooth(scan: Surface, near: Floats, tooth: ToothNumber, frame: Frame) -> tuple[ReferenceTooth, Floats]:
    """The tooth under the point `near` (3,) and its middle (3,). Raises UnfitScans where none can be told apart."""
    length, width, _, depth, _ = size_of(tooth)
    up, f, m = frame.occlusal, frame.facial, frame.mesial
    middle = near.copy()
    found: tuple[Surface, Grown] | None = None
    for _ in range(ROUNDS):
        off = scan.vertices - middle
        part, _ = scan.keep_vertices(np.linalg.norm(off - (off @ up)[:, None] * up, axis=1) < CROP_MM)
        if part.n_faces < 50:
            break
        off = part.vertices - middle
        x, y, z = off @ m, off @ f, off @ up
        over = np.hypot(x, y) < TOP_REACH_MM
        if not over.any():
            break
        top = float(z[over].max())
        hollow = concavity(part)
        inner = (np.abs(x) < SEED_SHARE * width) & (np.abs(y) < SEED_SHARE * depth) & (z > top - TOP_DROP_MM)
        beside = (np.abs(x) > width / 2 + BESIDE_MM) & (z > top - NEIGHBOUR_DROP_MM)
        low = (np.hypot(x / (width / 2 + 0.8), y / (depth / 2 + 0.8)) > 1.0) & (z < top - GINGIVA_SHARE * length)
        low |= z < top - 1.35 * length
        low |= (np.abs(y) > depth / 2 + ASIDE_MM) & (np.abs(x) < width / 2) & (z < top - ASIDE_DROP_MM)
        grown = grow(part, hollow, [inner, beside, low & ~beside])
        piece, _ = part.keep_vertices(grown.kind == 0)
        if piece.face_areas.sum() < LEAST_AREA_MM2:
            break
        number = piece.pieces[piece.faces[:, 0]]
        piece, _ = piece.keep_faces(number == np.bincount(number, weights=piece.face_areas).argmax())
        found = piece, grown
        off = piece.vertices - middle
        box = [(float(np.quantile(off @ a, 0.01)) + float(np.quantile(off @ a, 0.99))) / 2 for a in (m, f)]
        middle = middle + box[0] * m + box[1] * f
    if found is None:
        raise UnfitScans("preop: no tooth can be told apart there; give a point in the middle of the tooth (near).")
    piece, grown = found
    height = (piece.vertices - middle) @ up
    return ReferenceTooth(piece, grown.valley(0, 2)), middle + float(np.median(height)) * up

"""Anatomy of a prepared back tooth: how far cusp tips wandered, and whether the occlusal form follows the original."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.tooth.anatomy import CELL_MM, Anatomy, height_picture, plan, tips_of
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import xyz

MATCH_MM = 2.6  # a tip further off than this is not the same cusp
FOLLOWS = 0.55  # correlation of slopes from which the form follows the original
PLANAR_DEG = 9.0  # root mean square slope about the mean plane below which a top is flat
EDGE_CELLS = 4  # of the picture, left out along its rim where the walls begin
LEAST_CELLS = 80


@dataclass(frozen=True)
class CuspShift:
    """One cusp: how far its tip lies sideways from where it was, mm; None where no tip stands there any more."""

    cusp: str
    shift_mm: float | None
    at: tuple[float, float, float]


@dataclass(frozen=True)
class OcclusalForm:
    """Shifts by cusp; correlation of the slopes with the original's; form: follows, planar or differs."""

    cusps: tuple[CuspShift, ...]
    slope_correlation: float
    slope_rms_deg: float
    form: str


def occlusal_form(inside: Surface, reference: Surface | None, anatomy: Anatomy, axes: Axes) -> OcclusalForm | None:
    """`inside`: the eased preparation within its finish line. None without cusps of the tooth's own to compare with."""
    if reference is None or anatomy.source != "reference" or not anatomy.cusps:
        return None
    points = plan(axes, inside.vertices)
    mine, origin = height_picture(inside, points, axes)
    theirs, other = height_picture(reference, plan(axes, reference.vertices), axes)
    shifts = _shifts(tips_of(inside, points, axes, (mine, origin)), anatomy, axes, mine, origin)
    correlation, rms = _slopes(mine, origin, theirs, other)
    form = "planar" if rms < PLANAR_DEG else ("follows" if correlation >= FOLLOWS else "differs")
    return OcclusalForm(tuple(shifts), correlation, rms, form)


def _shifts(tips: list[Floats], anatomy: Anatomy, axes: Axes, picture: Floats, origin: Floats) -> list[CuspShift]:
    names = list(anatomy.cusps)
    wanted = np.array([anatomy.cusps[n] for n in names])
    nearest: dict[str, float] = {}
    gap = np.linalg.norm(wanted[:, None] - np.array(tips).reshape(-1, 2)[None], axis=2)
    while gap.size and gap.min() < MATCH_MM:
        i, j = (int(k) for k in np.unravel_index(np.argmin(gap), gap.shape))
        nearest[names[i]] = float(gap[i, j])
        gap[i, :] = gap[:, j] = np.inf
    rows = []
    for name, tip in zip(names, wanted, strict=True):
        cell = np.clip(((tip - origin) / CELL_MM).astype(int), 0, np.array(picture.shape) - 1)
        height = float(np.nan_to_num(picture[tuple(cell)]))
        at = axes.origin + tip[0] * axes.quarter + tip[1] * axes.zero + height * axes.up
        rows.append(CuspShift(name, nearest.get(name), xyz(at)))
    return rows


def _slopes(mine: Floats, origin: Floats, theirs: Floats, other: Floats) -> tuple[float, float]:
    """Correlation of the two pictures' slopes over the preparation's top, and the preparation's own rms slope."""
    shift = np.round((origin - other) / CELL_MM).astype(int)
    i, j = np.indices(mine.shape)
    u, v = i + shift[0], j + shift[1]
    inside = (u >= 0) & (v >= 0) & (u < theirs.shape[0]) & (v < theirs.shape[1])
    fitted = np.full(mine.shape, np.nan)
    fitted[inside] = theirs[u[inside], v[inside]]
    a, b = np.array(np.gradient(mine, CELL_MM)), np.array(np.gradient(fitted, CELL_MM))
    top = _inner(np.isfinite(mine) & (np.hypot(*np.nan_to_num(a, nan=9.0)) < np.tan(np.radians(50))))
    top &= np.isfinite(a).all(axis=0) & np.isfinite(b).all(axis=0)
    if top.sum() < LEAST_CELLS:
        return 0.0, 0.0
    a, b = a[:, top], b[:, top]
    a, b = a - a.mean(axis=1, keepdims=True), b - b.mean(axis=1, keepdims=True)
    scale = np.sqrt((a**2).sum() * (b**2).sum())
    rms = float(np.degrees(np.arctan(np.sqrt((a**2).sum(axis=0).mean()))))
    return float((a * b).sum() / scale) if scale > 0 else 0.0, rms


def _inner(mask: Bools) -> Bools:
    from scipy.ndimage import binary_erosion

    return np.asarray(binary_erosion(mask, iterations=EDGE_CELLS))

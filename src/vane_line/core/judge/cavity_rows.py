"""The contract's rows for a cavity."""

from __future__ import annotations

import numpy as np

from vane_line.core.case import Geometry
from vane_line.core.cavity.cusps import CuspForm
from vane_line.core.cavity.walls import drafts_by_side
from vane_line.core.contract.kind_rows import (
    BoxRow,
    CavityRow,
    CavityWall,
    Divergence,
    FloorRow,
    IsthmusRow,
    OutlineRow,
    OutlineSample,
    StandingCusp,
)
from vane_line.core.contract.measurement import FinishLineRow, LineSampleRow, Roughness
from vane_line.core.judge.record import limits_of
from vane_line.core.judge.standards import Standard
from vane_line.core.kinds.cavity import CavityCut
from vane_line.core.outline.line import along_mm


def cavity_row(geometry: Geometry, standard: Standard) -> CavityRow | None:
    """Outline, floor, walls, isthmus, boxes, cusps; None where the kind is no cavity.

    standard: what covering a cusp asks for.
    """
    cut = geometry.cut
    if not isinstance(cut, CavityCut):
        return None
    line, floor, isthmus = cut.outline, cut.floor, cut.isthmus
    along = along_mm(line.points)
    return CavityRow(
        outline=OutlineRow(
            closed=line.closed, length_mm=line.length_mm, points=line.points,
            samples=[
                OutlineSample(s_mm=along[k], cavosurface_deg=line.cavosurface_deg[k],
                              to_contact_mm=cut.contacts.away[k], defined=line.clear[k])
                for k in range(len(along))
            ],
        ),
        floor=None if floor is None else FloorRow(
            depth_low_mm=floor.depth_low_mm, depth_median_mm=floor.depth_median_mm, area_mm2=floor.area_mm2,
            at=floor.at,
        ),
        walls=[CavityWall(side=w.side, part=w.part, divergence_deg=w.divergence_deg, height_mm=w.height_mm)
               for w in cut.walls if w.told],
        divergence=Divergence(faciolingual_deg=cut.sums["faciolingual"], mesiodistal_deg=cut.sums["mesiodistal"]),
        isthmus=None if isthmus is None else IsthmusRow(
            width_mm=isthmus.width_mm, share=isthmus.share, at=list(isthmus.at)
        ),
        boxes=[
            BoxRow(side=b.side, depth_mm=b.depth_mm, width_mm=b.width_mm, below_floor_mm=b.below_floor_mm,
                   slope_deg=b.slope_deg, contact_clearance_mm=b.contact_clearance_mm, at=b.at)
            for b in cut.boxes
        ],
        cusps=[
            StandingCusp(cusp=c.cusp, covered=c.covered, base_mm=c.base_mm, under_tip_mm=c.under_tip_mm,
                        cover_mm3=_cover(geometry, standard, c), at=c.at)
            for c in cut.cusps
        ],
        internal_radius_mm=cut.internal_radius_mm,
    )  # fmt: skip


def _cover(geometry: Geometry, standard: Standard, cusp: CuspForm) -> float | None:
    limits = limits_of(geometry, standard, cusp.cusp)
    return None if cusp.covered or limits is None else cusp.top_mm2 * limits.target


def outline_as_line(geometry: Geometry) -> FinishLineRow:
    """A cavity's outline in the finish line's words: it has no ledge, so no width, form or steps."""
    line, cut = geometry.line, geometry.cut
    angle = cut.outline.cavosurface_deg if isinstance(cut, CavityCut) else np.full(len(line.points), np.nan)
    along = along_mm(line.points)
    return FinishLineRow(
        axis=geometry.axes.up, closed=line.closed, length_mm=line.length_mm, points=line.points, doubtful=~line.clear,
        drawn=line.drawn, bands=[], margin=[], gingiva_source=None,
        samples=[
            LineSampleRow(s_mm=along[k], azimuth_deg=line.azimuth_deg[k], width_mm=None, cavosurface_deg=angle[k],
                          inner_radius_mm=None, lip_mm=None, height_mm=line.height[k], form=None,
                          defined=line.clear[k])
            for k in range(len(along))
        ],
        width_mm=None, roughness_um=Roughness(vertical=None, horizontal=None, worst=None), steps=[], gaps=[], lips=[],
    )  # fmt: skip


def wall_drafts(geometry: Geometry) -> dict[str, float]:
    """Draft of each side's wall of the cavity's occlusal part."""
    cut = geometry.cut
    return drafts_by_side(cut.walls) if isinstance(cut, CavityCut) else {}

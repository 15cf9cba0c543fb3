"""The contract's rows for walls, undercuts, resistance and the finish line."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.case import Geometry
from vane_line.core.channels.credit import credits
from vane_line.core.contract.measurement import (
    AnatomyRow,
    Band,
    ConvergenceRow,
    CuspRow,
    EdgeRun,
    EdgesRow,
    FerruleSector,
    FinishLineRow,
    LineSampleRow,
    Lip,
    MarginRow,
    NeighbourRow,
    ResistanceRow,
    Roughness,
    SideResistance,
    Spread,
    StepRow,
    Stretch,
    TaperRow,
    UndercutRegion,
    UndercutRow,
)
from vane_line.core.kinds.child import ChildCut
from vane_line.core.kinds.ring import RingCut
from vane_line.core.measure.convergence import ROWS_DEG
from vane_line.core.measure.line_form import LineForm
from vane_line.core.measure.undercut import sector_of
from vane_line.core.rings import degrees_apart


def convergence_row(geometry: Geometry) -> ConvergenceRow:
    """Faciolingual and mesiodistal convergence, and taper, wall height and second plane every ROWS_DEG.

    A child's tooth keeps its bulge, which has no taper from top to foot: none is told across it.
    """
    walls = geometry.ring.shape.walls
    straight = not isinstance(geometry.cut, ChildCut)
    step = max(1, round(ROWS_DEG * len(walls.azimuth_deg) / 360))
    rows = [
        TaperRow(
            azimuth_deg=walls.azimuth_deg[k], taper_deg=walls.taper_deg[k], wall_height_mm=walls.height_mm[k],
            second_plane_deg=walls.second_deg[k],
        )
        for k in range(0, len(walls.azimuth_deg), step)
    ]  # fmt: skip
    return ConvergenceRow(
        faciolingual_deg=walls.convergence_at(0.0) if straight else None,
        mesiodistal_deg=walls.convergence_at(90.0) if straight else None,
        by_azimuth=rows,
    )


def undercut_row(geometry: Geometry) -> UndercutRow:
    """Undercuts along the path."""
    found = geometry.cut.undercuts
    regions = [
        UndercutRegion(
            sector=r.sector, max_depth_mm=r.max_depth_mm, area_mm2=r.area_mm2, at=r.at, blockout_mm3=r.blockout_mm3,
            overhang=r.overhang, remove_mm=r.remove_mm, tilt_deg=r.tilt_deg,
        )
        for r in found
    ]  # fmt: skip
    return UndercutRow(
        area_mm2=float(sum(r.area_mm2 for r in found)), max_depth_mm=max((r.max_depth_mm for r in found), default=0.0),
        blockout_mm3=float(sum(r.blockout_mm3 for r in found)), regions=regions,
    )  # fmt: skip


def anatomy_row(geometry: Geometry) -> AnatomyRow:
    """Cusps and occlusal form of a back tooth, planes, set-back and concavity of a front tooth; None where not told."""
    back, front = geometry.ring.occlusal, geometry.ring.front
    cusps = [] if back is None else [CuspRow(cusp=c.cusp, shift_mm=c.shift_mm, at=c.at) for c in back.cusps]
    return AnatomyRow(
        cusps=None if back is None else cusps,
        occlusal_form=None if back is None else back.form,
        slope_correlation=None if back is None else back.slope_correlation,
        planes_deg=None if front is None else list(front.planes.angles_deg),
        set_back_mm=None if front is None else front.set_back_mm,
        concavity_mm=None if front is None else front.concavity_mm,
        edge_lowered_mm=None if geometry.ring.edge is None else geometry.ring.edge.mm,
    )


def resistance_row(geometry: Geometry) -> ResistanceRow:
    """Height, bases and limiting taper by geometry; what remains of the tooth."""
    held = geometry.ring.shape.retention
    sides = held.by_side()
    held_by = credits(geometry.ring.channels, geometry.line, geometry.axes)
    return ResistanceRow(
        height_mm=held.height_mm,
        base_faciolingual_mm=held.base_faciolingual_mm,
        base_mesiodistal_mm=held.base_mesiodistal_mm,
        limiting_taper_deg=held.least_limit_deg if sides else None,
        resists=all(t <= limit or s in held_by for s, (t, limit) in sides.items()) if sides else None,
        resisting_share=held.resisting_share,
        by_side={
            s: SideResistance(
                taper_deg=t,
                limiting_taper_deg=limit,
                held_by_groove=held_by[s].groove if t > limit and s in held_by else None,
            )
            for s, (t, limit) in sides.items()
        },
        remaining_mm=held.remaining_mm,
        remaining_halfway_mm=held.halfway_mm,
        neck_mm=held.neck_mm,
    )


def margin_rows(geometry: Geometry) -> list[MarginRow]:
    """Height over the gingiva and room to the next tooth, every ROWS_DEG; None where not known."""
    found, azimuth = geometry.ring.shape.margin, geometry.line.azimuth_deg
    step = max(1, round(ROWS_DEG * len(azimuth) / 360))
    return [
        MarginRow(azimuth_deg=azimuth[k], above_gingiva_mm=found.above_gingiva_mm[k], room_mm=found.room_mm[k])
        for k in range(0, len(azimuth), step)
    ]


def ferrule_rows(geometry: Geometry) -> list[FerruleSector] | None:
    """Height and thickness of dentine by sector, None where no core is known."""
    if geometry.ring.shape.ferrule is None:
        return None
    return [
        FerruleSector(sector=s.sector, height_mm=s.height_mm, thickness_mm=s.thickness_mm, at=s.at)
        for s in geometry.ring.shape.ferrule
    ]


def edges_row(geometry: Geometry) -> EdgesRow:
    """Edges sharper than the milling bur, and the ceramic that milling loses beside them."""
    found = geometry.edges
    runs = [
        EdgeRun(
            at=r.at, sector=sector_of(r.azimuth_deg), azimuth_deg=r.azimuth_deg, length_mm=r.length_mm,
            radius_mm=r.radius_mm, overcut_mm=r.overcut_mm,
        )
        for r in found.runs
    ]  # fmt: skip
    return EdgesRow(
        bur_radius_mm=found.bur_radius_mm,
        length_mm=found.length_mm,
        sharpest_radius_mm=found.sharpest_mm,
        overcut_mm=np.quantile(found.overcut_mm, 0.999),
        runs=runs,
    )


def neighbour_rows(geometry: Geometry) -> list[NeighbourRow]:
    """Nicks and gap on each side where a tooth stands; a depth that could not be told is None, and `why`."""
    rows = []
    for n in geometry.neighbours:
        if n.gap_mm is None:
            continue
        near = _room(geometry, n.side)
        rows.append(NeighbourRow(
            side=n.side, nick_depth_mm=n.nick_depth_mm, area_mm2=n.area_mm2, gap_mm=n.gap_mm, at=n.at,
            hidden_mm2=n.hidden_mm2, room_mm=near.min() if len(near) else None, why=n.why,
        ))  # fmt: skip
    return rows


def _room(geometry: Geometry, side: str) -> Floats:
    """Room to the next tooth just above the finish line, along one side of it."""
    if not isinstance(geometry.cut, RingCut):
        return np.zeros(0)
    room = geometry.ring.shape.margin.room_mm
    here = degrees_apart(geometry.line.azimuth_deg, 90.0 if side == "mesial" else 270.0) <= 45
    return np.asarray(room[here & np.isfinite(room)])


def finish_line_row(geometry: Geometry) -> FinishLineRow:
    """The line, its form every 0.1 mm, and what is wrong with it."""
    line, form = geometry.line, geometry.ring.shape.form
    summary = form.width_summary()
    vertical, horizontal = form.roughness_um
    return FinishLineRow(
        axis=geometry.axes.up,
        closed=line.closed,
        length_mm=line.length_mm,
        points=line.points,
        doubtful=~line.clear,
        drawn=line.drawn,
        bands=bands(line.band_mm, line.azimuth_deg),
        margin=margin_rows(geometry),
        gingiva_source=geometry.ring.shape.margin.source,
        samples=line_samples(form),
        width_mm=None if summary is None else Spread(**dict(zip(("low", "median", "high"), summary, strict=True))),
        roughness_um=Roughness(vertical=vertical, horizontal=horizontal, worst=form.roughest_um),
        steps=[
            StepRow(azimuth_deg=s.azimuth_deg, sector=s.sector, height_mm=s.height_mm, at=s.at,
                    overlap_deg=s.overlap_deg)
            for s in form.steps
        ],
        gaps=[] if line.closed else gaps(line.clear, line.azimuth_deg),
        lips=[Lip(from_deg=v.from_deg, to_deg=v.to_deg, height_mm=v.height_mm) for v in form.lips],
    )  # fmt: skip


def line_samples(form: LineForm) -> list[LineSampleRow]:
    """The line's form at every place where it was taken."""
    return [
        LineSampleRow(
            s_mm=form.s_mm[k], azimuth_deg=form.azimuth_deg[k], width_mm=form.width_mm[k],
            cavosurface_deg=form.cavosurface_deg[k], inner_radius_mm=form.inner_radius_mm[k], lip_mm=form.lip_mm[k],
            height_mm=form.height_mm[k], form=str(form.form[k]) or None,
            defined=form.clear[k] and np.isfinite(form.width_mm[k]),
        )
        for k in range(len(form.s_mm))
    ]  # fmt: skip


def bands(band_mm: Floats, azimuth: Floats) -> list[Band]:
    """Stretches without an edge, and the median width of the band in which it lies."""
    rows: list[Band] = []
    told = np.isfinite(band_mm)
    for run in gaps(~told, azimuth):
        here = told & (azimuth >= run.from_deg) & (azimuth < run.to_deg)
        rows.append(Band(from_deg=run.from_deg, to_deg=run.to_deg, width_mm=np.median(band_mm[here])))
    return rows


def gaps(clear: Bools, azimuth: Floats) -> list[Stretch]:
    """Stretches of azimuth where no edge was told."""
    rows, start = [], None
    for k, ok in enumerate(clear):
        if not ok and start is None:
            start = k
        if ok and start is not None:
            rows.append(Stretch(from_deg=azimuth[start], to_deg=azimuth[k]))
            start = None
    if start is not None:
        rows.append(Stretch(from_deg=azimuth[start], to_deg=360.0))
    return rows

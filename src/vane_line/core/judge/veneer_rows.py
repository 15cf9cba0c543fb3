"""The contract's rows for a veneer."""

from __future__ import annotations

import numpy as np

from vane_line.core.case import Geometry
from vane_line.core.contract.kind_rows import EnamelRow, EndingRow, IncisalRow, ScoopRow, VeneerRow
from vane_line.core.contract.measurement import FinishLineRow, LineSampleRow, MarginRow, Roughness, Spread
from vane_line.core.judge.criteria.veneer import THIRDS, enamel_left
from vane_line.core.judge.criteria.window_line import told_widths
from vane_line.core.judge.judgement import Judgement
from vane_line.core.judge.shape_rows import gaps
from vane_line.core.kinds.outlined import LedgeCut
from vane_line.core.kinds.window import WindowCut
from vane_line.core.measure.line_form import SUMMARY_SHARE
from vane_line.core.outline.line import along_mm
from vane_line.core.window.ledge import form_of

MARGIN_EVERY = 5  # points of the line: half a millimetre


def veneer_row(geometry: Geometry, judgement: Judgement) -> VeneerRow | None:
    """Incisal end, planes, scoops, endings beside the contacts, enamel; None where the kind is no veneer."""
    cut = geometry.cut
    if not isinstance(cut, WindowCut):
        return None
    incisal = cut.incisal
    return VeneerRow(
        incisal=None if incisal is None else IncisalRow(
            form=incisal.form, reduction_mm=incisal.reduction_mm, angle_deg=incisal.angle_deg,
            wrap_length_mm=incisal.wrap_length_mm, wrap_depth_mm=incisal.wrap_depth_mm, longer_mm=incisal.longer_mm,
            planned_edge=incisal.planned,
        ),
        planes=len(cut.planes.angles_deg) or None,
        scoops=[ScoopRow(side=s.side, width_mm=s.width_mm) for s in cut.scoops],
        contact_ending=[EndingRow(side=e.side, past_contact_mm=e.past_contact_mm) for e in cut.endings],
        enamel=_enamel(geometry, judgement),
    )  # fmt: skip


def _enamel(geometry: Geometry, judgement: Judgement) -> list[EnamelRow]:
    removed, sound = judgement.removed, geometry.options.earlier == "natural"
    zones = {} if removed is None else {z.zone: z for z in removed.zones}
    rows = []
    for third in THIRDS:
        found = zones.get(f"facial/{third}")
        if found is None:
            continue
        value = found.median_mm if found.measurable else None
        usual = judgement.standard.bounds(f"enamel-{third}")
        left = enamel_left(value, usual) if sound and value is not None else None
        rows.append(EnamelRow(zone=found.zone, removed_mm=value, likely_left=left))
    return rows


def window_as_line(geometry: Geometry) -> FinishLineRow:
    """A window's line: azimuth about the way it faces, 0 occlusal, 90 mesial; heights along that direction."""
    line, cut = geometry.line, geometry.cut
    assert isinstance(cut, LedgeCut)
    widths, along = told_widths(cut), along_mm(line.points)
    judged = np.any(list(cut.judged.values()), axis=0) & np.isfinite(widths)
    spread = None
    if judged.sum() > 2:
        low, middle, high = np.quantile(widths[judged], [SUMMARY_SHARE, 0.5, 1 - SUMMARY_SHARE])
        spread = Spread(low=low, median=middle, high=high)
    return FinishLineRow(
        axis=cut.view.up, closed=line.closed, length_mm=line.length_mm, points=line.points, doubtful=~line.clear,
        drawn=line.drawn, bands=[],
        margin=[
            MarginRow(azimuth_deg=line.azimuth_deg[k], above_gingiva_mm=cut.above_gingiva_mm[k], room_mm=None)
            for k in range(0, len(along), MARGIN_EVERY) if np.isfinite(cut.above_gingiva_mm[k])
        ],
        gingiva_source=cut.gingiva_source,
        samples=[
            LineSampleRow(s_mm=along[k], azimuth_deg=line.azimuth_deg[k], width_mm=widths[k],
                          cavosurface_deg=cut.outline.cavosurface_deg[k], inner_radius_mm=None, lip_mm=None,
                          height_mm=line.height[k], form=form_of(widths[k], cut.outline.cavosurface_deg[k]) or None,
                          defined=line.clear[k] and np.isfinite(widths[k]))
            for k in range(len(along))
        ],
        width_mm=spread, roughness_um=Roughness(vertical=None, horizontal=None, worst=None), steps=[],
        gaps=[] if line.closed else gaps(line.clear, line.azimuth_deg), lips=[],
    )  # fmt: skip

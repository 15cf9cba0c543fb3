"""The window reader: a closed finish line round an axis that leaves the tooth through its cut face."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.kinds.kind import Along, Kind, Reader
from vane_line.core.kinds.outlined import (
    NO_DEPTH,
    LedgeCut,
    along_of,
    cut_inside,
    drawn_line,
    redrawn_line,
    told_teeth,
    whole_girth,
)
from vane_line.core.kinds.seen import Inside, Seen, Zoned
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.front_form import Planes
from vane_line.core.measure.zones import BAND_EXTRA_MM, Naming, Zones, sides_turned
from vane_line.core.outline.contacts import ToContacts, to_contacts
from vane_line.core.outline.line import OutlineLine
from vane_line.core.placed import Placed
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import unit
from vane_line.core.window.forms import (
    Ending,
    Incisal,
    Scoop,
    Stretches,
    above_gingiva,
    endings,
    face_planes,
    facing_back,
    incisal_form,
    scoops,
    stretches,
)
from vane_line.core.window.ledge import ledge_widths
from vane_line.core.window.survey import FACE, WindowSurvey, draft_along, hidden_along, hidden_of

EDGE_COSINE, EDGE_DEEP_MM = 0.64, 2.5  # what faces the incisal edge's way, and how far below its top
BEHIND_COSINE, BESIDE_DEG = -0.2, 40.0
SLOPE_COSINE = -0.4  # of what faces the edge's way, that slopes to a back tooth's groove
THIRDS = ("cervical", "middle", "incisal")
SAME_MM, UNCUT_SHARE = 0.05, 0.4


@dataclass(frozen=True, eq=False)
class WindowCut(LedgeCut):
    """What the window reader found, about the facial direction. contacts: behind, nan elsewhere."""

    contacts: ToContacts
    where: Stretches
    incisal: Incisal | None
    planes: Planes
    scoops: list[Scoop]
    endings: list[Ending]

    @property
    def judged(self) -> dict[str, Bools]:
        """Neck and sides; behind only where the cut wraps over the edge."""
        wrapped = self.incisal is not None and self.incisal.form == "wrap"
        return {side: here for side, here in self.where.named().items() if side != "lingual" or wrapped}


def window_along(placed: Placed, survey: WindowSurvey, line: FinishLine, direction: Floats) -> Along:
    """Undercuts of the window along another path."""
    assert isinstance(line, OutlineLine)
    surface, _ = placed.eased.keep_vertices(line.mask)
    inner, _ = surface.keep_vertices(line.encloses(surface.vertices))
    _, regions = hidden_along(survey.own, inner, survey.axes, unit(direction), placed.noise_um)
    return along_of(regions, draft_along(surface, unit(direction)))


def window_check(_axes: Axes, inside: Inside, distance: Floats | None) -> list[str]:
    """Most of what lies inside a window was cut."""
    if distance is None:
        return []
    same = inside.share_below(distance, SAME_MM)
    if same < UNCUT_SHARE:
        return []
    share = f"{100 * same:.0f} % of the face inside the finish line"
    return [f"{share} is as it was before cutting: see where it was not cut."]


def window_cut(seen: Seen[WindowSurvey]) -> WindowCut:
    """The ledge along the line, the incisal end, planes, scoops, and where the line ends beside the contacts."""
    placed, survey, line = seen.placed, seen.survey, seen.inside.line
    assert isinstance(line, OutlineLine)
    axes, surface = survey.axes, seen.inside.even
    before = survey.teeth.get("preop")
    widths = np.full(len(line.points), np.nan)
    why = NO_DEPTH
    if survey.depth_mm is not None:
        widths, why = ledge_widths(placed.eased, line.mask, line, survey.depth_mm), ""
    cusp = not seen.tooth.front
    back = facing_back(line, axes, seen.earlier if cusp else None)
    incisal = incisal_form(
        surface, placed.eased, line, widths, planned=seen.finished, earlier=seen.earlier, axes=axes, behind=back,
        cusp=cusp,
    )  # fmt: skip
    where = stretches(line, axes, incisal, back)
    widths = np.where(where.edge, np.nan, widths)  # a butt has no ledge
    contacts = ToContacts.none(len(line.points))
    if seen.opposing is not None and seen.earlier is not None and where.behind.any():
        found = to_contacts(line.points[where.behind], seen.earlier, seen.opposing)
        away = np.full(len(line.points), np.nan)
        away[where.behind] = found.away
        contacts = replace(found, away=away)
    told = line.encloses(surface.vertices)
    hidden, regions = hidden_of(survey.own, surface, told, axes, survey.path.direction, seen.noise_um)
    above, source = above_gingiva(line, where.neck, axes, seen.around.gingiva, seen.around.seam, seen.tooth.front)
    level = surface.vertices @ survey.path.direction
    return WindowCut(
        outline=line, view=survey.about, contacts=contacts, where=where, widths=widths, why_no_widths=why,
        incisal=incisal,
        planes=face_planes(surface, line, axes),
        scoops=scoops(line, widths, where, incisal is not None and incisal.form == "wrap" and not cusp),
        endings=endings(line, where, None if before is None else before.surface, seen.beside, axes),
        above_gingiva_mm=above, gingiva_source=source, hidden=hidden, regions=regions,
        high_mm=float(np.ptp(level)) if len(level) else 0.0,
    )  # fmt: skip


def window_zones(asked: Zoned[WindowCut]) -> Zones:
    """Thirds of the face, the incisal edge, what wraps over it, the sides, and the finish line's band."""
    surface, axes, line = asked.surface, asked.axes, asked.line
    found = Naming(surface.n_vertices)
    put = found.put
    normals = surface.even_normals
    out, beside = sides_turned(axes, asked.turn_deg)
    height = (surface.vertices - axes.origin) @ axes.up
    top = float(np.quantile(height, 0.995))
    neck = line.points[asked.cut.where.neck] if asked.cut.where.neck.any() else line.points
    low = float(np.quantile((neck - axes.origin) @ axes.up, 0.1))
    at_edge = (normals @ axes.up > EDGE_COSINE) & (height > top - EDGE_DEEP_MM)
    if not asked.tooth.front:  # a cusp's inner slope looks up as much as behind
        at_edge &= normals @ out > SLOPE_COSINE
    behind = ~at_edge & (normals @ out < BEHIND_COSINE)
    sideways = np.degrees(np.arctan2(normals @ beside, normals @ out))
    share = np.clip((height - low) / max(top - low, 0.3), 0, 1)
    third = np.minimum((share * 3).astype(int), 2)
    face = ~at_edge & ~behind & (np.abs(sideways) <= BESIDE_DEG)
    for k, name in enumerate(THIRDS):
        put(f"facial/{name}", face & (third == k))
    put("proximal/mesial", ~at_edge & ~behind & (sideways > BESIDE_DEG))
    put("proximal/distal", ~at_edge & ~behind & (sideways < -BESIDE_DEG))
    put("wrap", behind)
    put("incisal-edge", at_edge)
    put("finish-line-band", cKDTree(line.points).query(surface.vertices)[0] < asked.band_width_mm + BAND_EXTRA_MM)
    return found.zones()


WINDOW: Reader[WindowSurvey, WindowCut] = Reader(
    "window", find=FACE.centre, trace=FACE.survey, follow=drawn_line, along=window_along,
    redraw=redrawn_line, inside=cut_inside, teeth=told_teeth, girth=whole_girth,
    check=window_check, cut=window_cut, zones=window_zones,
)  # fmt: skip
VENEER = Kind("veneer", "veneer", WINDOW, plan="window")

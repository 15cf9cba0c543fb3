"""A child's prefabricated crown: read all round like a crown, but its cut has no ledge, and a set must go on."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace

import numpy as np

from vane_line.core.align.crowns import MILK_BELOW_TOP_MM
from vane_line.core.arrays import Bools, Floats
from vane_line.core.child.fit import Fit, body_of, height_unsure, lay_over, of_width, smallest
from vane_line.core.child.neck import Neck, find_neck
from vane_line.core.child.seam import survey
from vane_line.core.child.sizes import sets
from vane_line.core.kinds.kind import Kind, Reader
from vane_line.core.kinds.ring import RING, RingCut, ring_cut, ring_zones
from vane_line.core.kinds.seen import Inside, Seen, Zoned
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.inside import inside_line
from vane_line.core.measure.zones import OCCLUSAL_HEADS, Zones, used_zones
from vane_line.core.mesh.surface import Surface
from vane_line.core.placed import Placed, locate_centre, lost_crown
from vane_line.core.rings import running_median
from vane_line.core.survey import RingSurvey
from vane_line.core.tooth.search import settled
from vane_line.core.trace.section import Axes
from vane_line.errors import UnfitScans

SAME_MM = 0.08  # under the tooth before: it was not cut there
LINE_BAND_MM = 0.1  # beside a line without a ledge
RIM_EXTRA_MM = 0.3
EDGE_DEG, LEAST_EDGE = 7, 4
UNTOUCHED_SHARE = 0.8  # of the tooth inside the line: nothing was prepared


@dataclass(frozen=True, eq=False)
class Fits:
    """A set's crowns on this preparation: every size, the smallest that goes on, and the one of the tooth's own width,
    which would be tried first, None where nothing tells how wide the tooth was. first_u_mm: standard uncertainty of how
    proud that one stays."""

    all: list[Fit]
    chosen: Fit | None
    first: Fit | None
    first_u_mm: float


@dataclass(frozen=True, eq=False)
class ChildCut(RingCut):
    """What is measured beside a ring. fits: by material of the set."""

    neck: Neck
    fits: dict[str, Fits]


def child_centre(prep: Surface, preop: Surface | None, near: Floats | None, occlusal: Floats) -> Floats:
    """A point in the cut tooth. Without the scan before, nothing on it looks like a stump: where the person pointed.

    By the difference of the crowns alone: off a small tooth no more is cut than gingiva is pressed aside along the row,
    and a primary tooth that nobody cut looks like a stump itself.
    """
    if preop is not None:
        return settled(prep, lost_crown(prep, preop, near, occlusal, MILK_BELOW_TOP_MM), occlusal)
    try:
        return locate_centre(prep, None, near, occlusal)
    except UnfitScans:
        if near is None:
            raise
        return np.asarray(prep.closest(near[None])[2][0])


def child_girth(survey: RingSurvey, line: FinishLine) -> FinishLine:
    """Round the tooth at its widest: the bulge overhangs the line, and what stands out there is no neighbour."""
    rings = survey.rings
    arc = np.arange(rings.radius.shape[1])[None]
    seen = np.isfinite(rings.radius) & (arc <= line.index[:, None])
    widest = running_median(np.where(seen, rings.radius, -np.inf).max(axis=1), EDGE_DEG, LEAST_EDGE)
    radius = np.fmax(widest, line.radius)
    return replace(line, radius=radius, points=rings.axes.places(rings.azimuth_deg, radius, line.height))


def child_inside(placed: Placed, survey: RingSurvey, line: FinishLine) -> Bools:
    """(V,) of the crop, the bulge over the line with it."""
    girth = child_girth(survey, line)
    return inside_line(placed.crop, line.points, survey.axes.up, line.points.mean(axis=0), girth.points)


def child_check(_axes: Axes, inside: Inside, distance: Floats | None) -> list[str]:
    """Facial and lingual walls are hardly cut, the top and the sides are."""
    if distance is None or inside.share_below(distance, SAME_MM) < UNTOUCHED_SHARE:
        return []
    raise UnfitScans("prep: hardly anything was cut of this tooth; give the scan of the preparation as prep.")


def child_cut(seen: Seen[RingSurvey]) -> ChildCut:
    """The ring's, then the neck, and the crowns of each set laid over."""
    ring, surveyed, line = ring_cut(seen), seen.survey, seen.inside.line
    neck = find_neck(surveyed.rings, surveyed.runs, seen.noise_um, line, seen.earlier, seen.tooth.front)
    body, axes = body_of(surveyed.rings, line), surveyed.axes
    planned = seen.finished if seen.finished is not None else seen.earlier
    top = None
    if planned is not None:
        top = float(np.quantile((planned.vertices - axes.origin) @ axes.up, 0.999))
    edge = ring.edge if seen.finished is not None else ring.edge_off
    laid = {}
    for material, crowns in sets().items():
        fits = lay_over(body, crowns.sizes(seen.tooth), top)
        first = of_width(fits, float(seen.anatomy.size[0])) if seen.earlier is not None else None
        laid[material] = Fits(fits, smallest(fits), first, height_unsure(body, first) if first else 0.0)
    told = {f.name: getattr(ring, f.name) for f in fields(ring)} | {"edge": edge}
    return ChildCut(**told, neck=neck, fits=laid)


def child_zones(asked: Zoned[ChildCut]) -> Zones:
    """As of a crown; the rim of the top is a zone of its own: towards a side that was cut less than the top, the least
    distance to the tooth before runs out to that side's by definition."""
    ring = ring_zones(replace(asked, band_width_mm=LINE_BAND_MM))  # type: ignore[arg-type]
    rings, runs = asked.cut.profiles, asked.cut.walls
    rows = np.arange(len(rings.azimuth_deg))
    edge = running_median(
        np.where(runs.found, rings.radius[rows, np.maximum(runs.top, 0)], np.nan), EDGE_DEG, LEAST_EDGE
    )
    azimuth, radius, _ = asked.axes.cylinder(asked.surface.vertices)
    sideways = np.interp(azimuth, np.r_[rings.azimuth_deg, 360.0], np.r_[edge, edge[:1]]) - radius
    top = np.array([name.split("/")[0] in OCCLUSAL_HEADS for name in ring.names] + [False])[ring.index]
    index = np.where(top & (sideways < asked.band_width_mm + RIM_EXTRA_MM), len(ring.names), ring.index)
    return used_zones([*ring.names, "rim"], index)


CHILD: Reader[RingSurvey, ChildCut] = Reader(
    "child", find=child_centre, trace=survey, follow=RING.follow, along=RING.along,
    redraw=RING.redraw, inside=child_inside, teeth=RING.teeth, girth=child_girth,
    check=child_check, cut=child_cut, zones=child_zones,
)  # fmt: skip
CHILD_CROWN = Kind(
    "child-crown", "child's crown", CHILD, plan="child", edgeless=True, primary=True,
    caution="Pulp, decay and how long the tooth stays are not seen: a radiograph and the child's age decide first.",
)  # fmt: skip

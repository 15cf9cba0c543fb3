"""The cavity reader: a closed outline on the tooth, the cut surface inside and below it, walls that lean outward."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.cavity.boxes import BoxForm, box_form, neighbour_beside
from vane_line.core.cavity.cusps import CuspForm, behind, cusp_forms
from vane_line.core.cavity.floor import Floor, floor_depth
from vane_line.core.cavity.inner_radius import inner_radius
from vane_line.core.cavity.isthmus import Isthmus, find_isthmus
from vane_line.core.cavity.parts import Parts, Patches, part, wall_patches
from vane_line.core.cavity.survey import by_facing, hollow_centre, survey
from vane_line.core.cavity.walls import WallFace, drafts_by_side, facing_sums, wall_faces
from vane_line.core.kinds.kind import Along, Kind, Reader
from vane_line.core.kinds.outlined import along_of, cut_inside, drawn_line, redrawn_line, told_teeth, whole_girth
from vane_line.core.kinds.seen import Cut, Inside, Seen, Zoned
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.path import least_draft
from vane_line.core.measure.retention import OPPOSITE
from vane_line.core.measure.undercut import Region
from vane_line.core.measure.zones import Naming, Zones
from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.contacts import ToContacts, to_contacts
from vane_line.core.outline.hidden import hidden_depth, undercut_regions
from vane_line.core.outline.line import OutlineLine, OutlineSurvey
from vane_line.core.placed import Placed
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import unit

OWN_MM = 0.6  # beyond the tooth's greatest radius: what is its own surface
RIM_MM = 0.12  # by which no scan tells just where the surface over a covered cusp bends down


@dataclass(frozen=True, eq=False)
class CavityCut(Cut):
    """What the cavity reader found. depth_mm: (N,) along the path to the finished surface at every inside vertex, nan
    where it is not known; contacts: of the outline's points; hidden: (N,) sideways under an overhang;
    thickness_mm: (N,) of the tooth behind a facial or lingual wall, across the path, nan elsewhere."""

    parts: Parts
    patches: Patches
    floor: Floor | None
    depth_mm: Floats
    walls: list[WallFace]
    sums: dict[str, float | None]
    isthmus: Isthmus | None
    boxes: list[BoxForm]
    cusps: list[CuspForm]
    internal_radius_mm: float | None
    contacts: ToContacts
    hidden: Floats
    thickness_mm: Floats
    regions: list[Region]
    outline: OutlineLine

    @property
    def undercuts(self) -> list[Region]:
        return self.regions

    @property
    def wall_mm(self) -> float:
        return max((w.height_mm for w in self.walls), default=0.0)

    def hidden_mm(self, _inside: Surface) -> Floats:
        """As it was found."""
        return self.hidden


def cavity_along(placed: Placed, survey: OutlineSurvey, line: FinishLine, direction: Floats) -> Along:
    """Undercuts of the cavity along another path."""
    assert isinstance(line, OutlineLine)
    frame = placed.frame
    axes = Axes.make(survey.axes.origin, unit(direction), frame.facial, frame.mesial)
    surface, _ = placed.eased.keep_vertices(line.mask)
    parts = part(surface, line.outline, axes)
    patches = wall_patches(surface, parts.wall)
    depth, across = hidden_depth(placed.eased, surface, axes)
    _, regions = undercut_regions(surface, depth, across, parts.level, axes, placed.noise_um, lambda _side: None)
    draft = least_draft(patches.normal, by_facing(patches, axes.up), axes.up) if len(patches.area) else float("nan")
    return along_of(regions, draft)


def cavity_check(_axes: Axes, _inside: Inside, _distance: Floats | None) -> list[str]:
    """A crown's preparation is refused as soon as its walls are seen."""
    return []


def cavity_cut(seen: Seen[OutlineSurvey]) -> CavityCut:
    """Floor, walls, boxes, cusps and what lies under an overhang."""
    placed, axes, line = seen.placed, seen.survey.axes, seen.inside.line
    assert isinstance(line, OutlineLine)
    outline, surface = line.outline, seen.inside.even
    parts = part(surface, outline, axes)
    patches = wall_patches(surface, parts.wall)
    floor, depth = floor_depth(surface, parts.floor, parts.level, axes.up, seen.finished, seen.opposing)
    level = None if floor is None else floor.level_mm
    walls = wall_faces(surface, patches, parts, axes)
    boxes = [
        box_form(surface, outline, patches, walls, parts, box=box, axes=axes, pulpal_mm=level,
                 neighbour=neighbour_beside(seen.beside, seen.standing, axes, box.side),
                 as_scanned=seen.inside.surface.vertices)
        for box in parts.boxes
    ]  # fmt: skip
    drafts = drafts_by_side(walls)
    hidden, across = hidden_depth(placed.eased, surface, axes)
    hidden, regions = undercut_regions(
        surface, hidden, across, parts.level, axes, seen.noise_um, lambda side: drafts.get(OPPOSITE[side])
    )
    contacts = ToContacts.none(len(line.points))
    if seen.opposing is not None and seen.earlier is not None:
        contacts = to_contacts(line.points, seen.earlier, seen.opposing)
    return CavityCut(
        parts=parts, patches=patches, floor=floor, depth_mm=depth, walls=walls, sums=facing_sums(walls),
        isthmus=find_isthmus(outline, patches, walls, parts, axes, seen.anatomy), boxes=boxes,
        cusps=cusp_forms(placed.eased, line.mask, surface, parts, patches, walls, anatomy=seen.anatomy,
                         earlier=seen.earlier, axes=axes, floor_mm=level,
                         reach_mm=float(seen.survey.girth.radius.max()) + OWN_MM),
        internal_radius_mm=inner_radius(surface, patches, parts, axes), contacts=contacts, hidden=hidden,
        thickness_mm=behind(placed.eased, line.mask, surface, parts, axes),
        regions=regions, outline=line,
    )  # fmt: skip


def cavity_zones(asked: Zoned[CavityCut]) -> Zones:
    """Covered cusps by their names, floor, walls by side, boxes; where a covered cusp runs out to the outline its
    reduction runs out to nought by definition: that band is a zone of its own."""
    cut, surface = asked.cut, asked.surface
    named = Naming(surface.n_vertices)
    put = named.put
    parts = cut.parts
    put("floor", parts.floor)
    for box in parts.boxes:
        put(f"box/{box.side}", box.floor)
    covered = [c.cusp for c in cut.cusps if c.covered]
    if covered:
        tips = np.array([asked.anatomy.cusps[n] for n in covered])
        nearest = parts.nearest(tips)
        near_edge = _from_outline(surface, asked.line) < asked.band_width_mm
        cover = _cover(parts, surface, asked.steeper_deg)
        for k, name in enumerate(covered):
            put(name, cover & (nearest == k) & ~near_edge)
        put("finish-line-band", cover & near_edge)
    return Zones(named.names, named.index)


def _cover(parts: Parts, surface: Surface, steeper_deg: float) -> Bools:
    """(N,) the surface over covered cusps; with its end where it bends down tried RIM_MM further in or out."""
    cover = parts.cover
    if steeper_deg == 0 or cover.all():
        return cover
    if steeper_deg > 0:
        return np.asarray(cover & (cKDTree(surface.vertices[~cover]).query(surface.vertices)[0] > RIM_MM))
    out = cKDTree(surface.vertices[cover]).query(surface.vertices)[0] < RIM_MM
    return np.asarray(cover | (out & ~parts.wall & ~parts.floor))


def _from_outline(surface: Surface, line: FinishLine) -> Floats:
    return np.asarray(cKDTree(line.points).query(surface.vertices)[0])


CAVITY: Reader[OutlineSurvey, CavityCut] = Reader(
    "cavity", find=hollow_centre, trace=survey, follow=drawn_line, along=cavity_along,
    redraw=redrawn_line, inside=cut_inside, teeth=told_teeth, girth=whole_girth,
    check=cavity_check, cut=cavity_cut, zones=cavity_zones,
)  # fmt: skip


def _covers_none(cut: CavityCut) -> list[str]:
    """An inlay lies between the cusps."""
    covered = [c.cusp for c in cut.cusps if c.covered]
    if not covered:
        return []
    looks = "an overlay" if len(covered) == len(cut.cusps) else "an onlay"
    return [f"This looks like {looks}, not an inlay: cut over {_listed(covered)}."]


def _covers_some(cut: CavityCut) -> list[str]:
    """An onlay covers a cusp or more."""
    if not cut.cusps or any(c.covered for c in cut.cusps):
        return []
    return ["This looks like an inlay, not an onlay: every cusp stands."]


def _covers_all(cut: CavityCut) -> list[str]:
    """An overlay covers every cusp."""
    standing = [c.cusp for c in cut.cusps if not c.covered]
    if not standing:
        return []
    looks = "an inlay" if len(standing) == len(cut.cusps) else "an onlay"
    return [f"This looks like {looks}, not an overlay: not cut over {_listed(standing)}."]


def _listed(cusps: list[str]) -> str:
    return f"the {cusps[0]} cusp" if len(cusps) == 1 else f"the {', '.join(cusps[:-1])} and {cusps[-1]} cusps"


INLAY = Kind("inlay", "inlay", CAVITY, plan="cavity", unlike=_covers_none)
ONLAY = Kind("onlay", "onlay", CAVITY, plan="cavity", unlike=_covers_some)
OVERLAY = Kind("overlay", "overlay", CAVITY, plan="cavity", unlike=_covers_all)
CAVITIES = (INLAY, ONLAY, OVERLAY)

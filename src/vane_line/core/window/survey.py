"""A window read about the direction that leaves the tooth through the cut face: the tooth before, the cut, its path.

Which way the face looks is a record of the kind: a veneer's facially, a casting's behind, a partial crown's both behind
and up.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.path import Path, least_draft, quantiles_about
from vane_line.core.measure.undercut import Region
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import Options
from vane_line.core.outline.curve import Outline, trace_outline
from vane_line.core.outline.curve import eased as eased_course
from vane_line.core.outline.girth import beside, girth_of, teeth_round
from vane_line.core.outline.hidden import hidden_depth, undercut_regions
from vane_line.core.outline.line import OutlineSurvey, line_of
from vane_line.core.outline.place import Asked, middle_of_cut
from vane_line.core.outline.region import cut_region, region_by_crease
from vane_line.core.placed import Placed
from vane_line.core.spread import graded
from vane_line.core.tooth.anatomy import size_of
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import unit
from vane_line.core.window.ledge import cut_begins
from vane_line.errors import UnfitScans

UNDER_MM = 0.15  # so far under the tooth before, surface was cut for certain: a veneer takes off little
SEEN = -0.5  # cosine to the occlusal direction: the neck's face looks down a little
ANY_WAY = -2.0
VIEW_DEG = 75.0  # from facial to incisal: face, facet and what wraps over it are seen side by side
CLEAR_DEG, CLEAR_OVER_DEG = 125.0, 10.0  # an angle through the tooth that is blunter is no clear edge, by and by
SMOOTH_MM, OFF_MM = 0.12, 0.04  # an edge that lies this far off the cut is the rounded one of the scan
LEDGE_MM = 0.28  # a light chamfer runs straight no further in from its edge
RIM_MM, QUANTILE = 0.20, 0.02  # nearest the line the scan rounds the edge; a ledge is little of the cut's area
FAN_DEG, STEP_DEG = 7.5, 0.5  # of the directions from facial to incisal that are tried, and between them
NEARLY_DEG = 0.5  # a direction that is worse than the best by as much draft has a third of its say
HIDDEN_DEG = 30.0  # of draft that a millimetre of undercut weighs
WALL_COSINE, AHEAD_COSINE = 0.7, 0.4
BACK_SHARE = 0.6  # of the wall on the face, behind: then it goes round the tooth
COVERED_SHARE = 0.42  # of the cut that is the tooth's top: more than a veneer takes of an edge or a cusp


@dataclass(frozen=True, eq=False)
class WindowSurvey(OutlineSurvey):
    """depth_mm: (V,) of the crop under the tooth before, nan where that was not seen; None without it. own: the tooth's
    own surface, freed of noise."""

    depth_mm: Floats | None
    own: Surface


@dataclass(frozen=True, eq=False)
class Cut:
    """What a path is told from: the cut surface and the tooth's own, freed of noise; the outline (K, 3); axes about the
    tooth."""

    inside: Surface
    own: Surface
    line: Floats
    axes: Axes
    placed: Placed
    options: Options


@dataclass(frozen=True)
class Facing:
    """Which way a kind's cut looks. out: 1 facially, -1 behind; up: how much of it looks along the tooth's axis
    besides; path: how its path is told; asked: what a person is asked for where it is not found."""

    out: float
    up: float
    path: Callable[[Cut], Path]
    asked: Asked

    @property
    def on_face(self) -> bool:
        """Whether the cut looks facially and nowhere else."""
        return self.out > 0 and self.up == 0

    def centre(self, prep: Surface, preop: Surface | None, near: Floats | None, occlusal: Floats) -> Floats:
        """The middle of what was cut. Raises UnfitScans or BadOption."""
        return middle_of_cut(prep, preop, near, occlusal, seen=SEEN, asked=self.asked)

    def survey(self, placed: Placed, options: Options) -> WindowSurvey:
        """Raises UnfitScans where no such cut is seen."""
        return survey(placed, options, self)


def survey(placed: Placed, options: Options, facing: Facing) -> WindowSurvey:
    """Raises UnfitScans where no window is seen."""
    frame, size = placed.frame, size_of(options.tooth)
    out = unit(facing.out * frame.facial + facing.up * frame.occlusal)
    # The cut is in the face: the tooth's middle lies half its thickness behind it.
    # A cut that looks up besides reaches round the tooth: its middle is about the tooth's own.
    inward = (1 - facing.up) * facing.out * size[3] / 2
    teeth, girth, axes = teeth_round(placed, options, UNDER_MM, placed.centre - inward * frame.facial)
    tooth = teeth.get("preop") or teeth.get("mockup")
    region = None
    if tooth is not None:
        girth = girth_of(tooth.surface, axes, size)
        if placed.base is not None:
            # A papilla that was pressed down is no cut, though it is not what it was either.
            mine = placed.nearer(placed.eased.vertices) & ~beside(placed.eased, girth, axes)
            region = cut_region(placed.eased, tooth, placed.base, frame.occlusal, mine, cut_mm=UNDER_MM, down=ANY_WAY)
    if region is None:
        near = placed.centre if options.near is None else options.near
        region = region_by_crease(placed.eased, near, out)
    outline = None if region is None else trace_outline(placed.crop, region, inside_mm=LEDGE_MM)
    if region is None or outline is None:
        raise UnfitScans(
            f"prep: {facing.asked.thing} with an outline is not found there; give a point {facing.asked.point} (near), "
            "or the scan before cutting."
        )
    inside, _ = placed.eased.keep_vertices(region.mask)
    _refuse_other(inside, axes, facing)
    own = own_surface(placed.eased, girth, axes)
    path = facing.path(Cut(inside, own, outline.points, axes, placed, options))
    about = Axes.make(axes.origin, out, frame.occlusal - facing.up * frame.facial * facing.out, frame.mesial)
    view = Axes.make(
        axes.origin, fan(np.array([VIEW_DEG]), facing.out * axes.zero, axes)[0], frame.facial, frame.mesial
    )
    found = line_of(outline, region.mask, about)
    before, depth = teeth.get("preop"), None
    if before is not None:
        value, unseen = before.depth(placed.eased.vertices)
        depth = np.where(unseen, np.nan, value)
        begins = cut_begins(placed.eased, region.mask, found, depth)
        found = line_of(_by_difference(outline, begins, placed.eased), region.mask, about)
    return WindowSurvey(
        axes=axes, path=path, found=found, teeth=teeth, girth=girth, crop=placed.crop,
        eased=placed.eased, about=about, view=view, depth_mm=depth, own=own,
    )  # fmt: skip


def _by_difference(outline: Outline, begins: Floats, eased: Surface) -> Outline:
    """The outline where the difference to the tooth before tells it, beside a weak edge; a clear one stays; in between
    it lies in between.

    begins: (K,) how far inward the cut begins, nan where that is not known.
    """
    told = np.isfinite(begins)
    begins = np.where(told, begins, 0.0)
    blunt = graded(np.nan_to_num(outline.cavosurface_deg, nan=180.0) - CLEAR_DEG, CLEAR_OVER_DEG)
    weak = told * np.maximum(blunt, graded(begins - OFF_MM, OFF_MM))
    inward = eased.closest(outline.points - begins[:, None] * outline.outward)[2]
    placed = eased_course(outline.points + weak[:, None] * (inward - outline.points), SMOOTH_MM)
    return replace(outline, points=placed, clear=outline.clear | told)


def _refuse_other(inside: Surface, axes: Axes, facing: Facing) -> None:
    """Raises UnfitScans where the cut goes round the tooth, as much wall on the other side as on its own, or where it
    covers the tooth's top rather than its face."""
    normals, areas = inside.vertex_normals, inside.vertex_areas
    wall, ahead = np.abs(normals @ axes.up) < WALL_COSINE, facing.out * (normals @ axes.zero)
    front = float(areas[wall & (ahead > AHEAD_COSINE)].sum())
    if areas[wall & (ahead < -AHEAD_COSINE)].sum() > BACK_SHARE * max(front, 1e-9):
        raise UnfitScans(
            "prep: this looks like a full crown, an inlay or an onlay: it is cut on the back as on the face; choose "
            "that kind."
        )
    covered = float(areas[normals @ axes.up > WALL_COSINE].sum() / max(float(areas.sum()), 1e-9))
    if facing.on_face and covered > COVERED_SHARE:
        words = f"{100 * covered:.0f} % of what is cut is the tooth's top"
        raise UnfitScans(f"prep: this looks like an onlay or a crown, not like a veneer: {words}; choose that kind.")


def own_surface(eased: Surface, girth: FinishLine, axes: Axes) -> Surface:
    """The tooth's own surface: a neighbour that stands over it along the path hides nothing of the cut."""
    return eased.keep_vertices(girth.holds(eased, axes))[0]


def hidden_along(
    own: Surface, inside: Surface, axes: Axes, direction: Floats, noise_um: float
) -> tuple[Floats, list[Region]]:
    """(N,) sideways depth of each place of the cut under what hangs over it along a path, and the undercuts.

    own: the tooth's surface; inside: the cut, both freed of noise. axes: about the tooth.
    """
    along = Axes.make(axes.origin, direction, axes.zero - axes.up, axes.quarter)
    depth, across = hidden_depth(own, inside, along)
    level = (inside.vertices - axes.origin) @ direction
    return undercut_regions(inside, depth, across, level, axes, noise_um, lambda _side: None)


def hidden_of(
    own: Surface, inside: Surface, told: Bools, axes: Axes, direction: Floats, noise_um: float
) -> tuple[Floats, list[Region]]:
    """As `hidden_along`, of the places `told` (N,) alone: what lies on the line or beyond, gingiva or a lip under it,
    is no undercut of the cut's."""
    part, index = inside.keep_vertices(told)
    hidden = np.zeros(inside.n_vertices)
    hidden[index], regions = hidden_along(own, part, axes, direction, noise_um)
    return hidden, regions


def window_path(cut: Cut) -> Path:
    """The path among the directions from facial to incisal along which the cut is seen best, or the one given."""
    return path_in_fan(cut, cut.axes.zero)


def path_in_fan(cut: Cut, face: Floats) -> Path:
    """The path among the directions from `face` (3,) to the tooth's own axis along which the cut is seen best, or the
    one given.

    Nearly equal directions are averaged by their draft and by what they leave hidden, so that it moves evenly with the
    surface.
    """
    normals, areas = off_rim(cut.inside, cut.line)
    given, axes = cut.options.path, cut.axes
    if given is not None:
        return Path(unit(given), least_draft(normals, areas, unit(given)), "given")
    tried = np.arange(0, 90 + FAN_DEG / 2, FAN_DEG)
    ways = fan(tried, face, axes)
    draft = quantiles_about(normals, areas, ways, QUANTILE)
    noise, inner = cut.placed.noise_um, cut.inside.keep_vertices(off_line(cut.inside, cut.line))[0]
    deepest = [
        max((r.max_depth_mm for r in hidden_along(cut.own, inner, axes, d, noise)[1]), default=0.0) for d in ways
    ]
    angle = np.arange(0, 90 + STEP_DEG / 2, STEP_DEG)
    worth = np.interp(angle, tried, draft - HIDDEN_DEG * np.array(deepest))
    say = np.exp((worth - worth.max()) / NEARLY_DEG)
    best = fan(np.array([say @ angle / say.sum()]), face, axes)[0]
    return Path(best, least_draft(normals, areas, best), "best")


def off_rim(inside: Surface, line: Floats) -> tuple[Floats, Floats]:
    """Unit normals (N, 3) and areas (N,) of the cut, without what lies nearest the line (K, 3), where the scan rounds
    the edge."""
    told = off_line(inside, line)
    return inside.even_normals[told], inside.vertex_areas[told]


def off_line(inside: Surface, line: Floats) -> Bools:
    """(N,) of the cut, what does not lie nearest the line (K, 3); all of it, where it is no wider."""
    told = np.asarray(cKDTree(line).query(inside.vertices)[0] > RIM_MM)
    return told if told.any() else ~told


def fan(angle_deg: Floats, face: Floats, axes: Axes) -> Floats:
    """(D, 3) directions so far from `face` towards the tooth's own axis."""
    a = np.radians(angle_deg)[:, None]
    return unit(np.cos(a) * face + np.sin(a) * axes.up)


def draft_along(inside: Surface, direction: Floats) -> float:
    """Least draft of a cut surface along a path that is only tried."""
    return least_draft(inside.even_normals, inside.vertex_areas, direction)


FACE = Facing(1.0, 0.0, window_path, Asked("a veneer's preparation", "on its face", "on the prepared face"))

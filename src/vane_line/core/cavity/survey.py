"""A cavity read along its path: the tooth before, the cut surface, its outline, its walls and the path they give."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.align.crowns import Crowns
from vane_line.core.arrays import Bools, Floats
from vane_line.core.cavity.outline import Outline, trace_outline
from vane_line.core.cavity.parts import Patches, wall_mask, wall_patches
from vane_line.core.cavity.region import cut_region, region_by_crease
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.path import Path, best_path, draft_deg, least_draft
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import Options
from vane_line.core.placed import TAUBIN_STEPS, Placed
from vane_line.core.survey import Survey
from vane_line.core.tooth.anatomy import size_of
from vane_line.core.tooth.locate import find_cut
from vane_line.core.tooth.reference import ReferenceTooth, segment
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import lengths, perpendicular, unit
from vane_line.errors import BadOption, UnfitScans

PATH_LEAN = 0.60  # of draft that a degree of tilt must win: a box leaves one side open
UNDER_MM, UNDER_SHARE = 0.35, 0.25  # of the largest such part: less is no cavity
AXIS_DEG, GIVEN_DEG = 3.0, 0.3  # standard uncertainty of the occlusal direction: as guessed, as a person gave it
WALL_MM2, WALL_DEG, ODD_DEG, EVEN_ROUNDS = 1.0, 2.0, 3.0, 12  # so much wall counts once; how alike walls are led
MOST_WALLS = 40.0
FACING_POWER, LEAST_FACING_MM2 = 8, 0.5  # a cosine's: within some 25 degrees walls face the same way
SPARE_MM = 2.2
GIRTH_EVERY_DEG = 1.0
LEAST_GIRTH = 0.9
GIRTH_BELOW_SHARE = 0.80  # of the crown's height under its top, about where it meets the gingiva
CROWN_SHARE = 0.6  # of the walls that look away from the middle: then it is a stump
HINT_MM = 15.0
SEEN = -0.1  # cosine to the occlusal direction: a wall that hangs over a little is seen from beside
LEAST_WALL = 6  # patches


@dataclass(frozen=True, eq=False)
class CavityLine(FinishLine):
    """The outline as a finish line, its azimuth told about the tooth's middle and not rising; beside it the angle
    (degrees, nan where not told), the direction out of the cut and the normal of the uncut surface, point by point;
    mask: (V,) of the crop, cut."""

    cavosurface_deg: Floats
    outward: Floats
    skin: Floats
    mask: Bools

    @property
    def outline(self) -> Outline:
        return Outline(self.points, self.cavosurface_deg, self.clear, self.drawn, self.outward, self.skin)


@dataclass(frozen=True, eq=False)
class CavitySurvey(Survey):
    """What the path decides of a cavity. teeth: the tooth on the earlier scans by role; girth: the line round the whole
    tooth."""

    teeth: dict[str, ReferenceTooth]
    girth: FinishLine
    crop: Surface  # the scan round the tooth, as scanned and freed of noise
    eased: Surface


def hollow_centre(prep: Surface, preop: Surface | None, near: Floats | None, occlusal: Floats) -> Floats:
    """The middle of what was cut out. Raises UnfitScans or BadOption.

    Only the teeth are looked at, and what is seen from above: gingiva pressed aside round several teeth is more than a
    small inlay.
    """
    if preop is not None:
        crown = Crowns.of(prep, occlusal).hold(prep.vertices) & (prep.vertex_normals @ occlusal > SEEN)
        return find_cut(prep.keep_vertices(crown)[0], preop, near).centre
    if near is None:
        raise UnfitScans(
            "prep: without the scan before cutting (preop) a cavity is not found by itself; give a point in it (near)."
        )
    distance, _, place = prep.closest(near[None])
    if distance[0] > HINT_MM:
        raise BadOption("near: the point lies more than 15 mm from the prep scan; give a point in the cavity.")
    return np.asarray(place[0])


def survey(placed: Placed, options: Options) -> CavitySurvey:
    """Raises UnfitScans where there is no cavity."""
    teeth, girth, axes = _teeth(placed, options)
    tooth = teeth.get("preop") or teeth.get("mockup")
    up = placed.frame.occlusal
    mask = None
    if tooth is not None and placed.base is not None:
        mask = cut_region(placed.eased, tooth, placed.base, up)
    if mask is None:
        mask = region_by_crease(placed.eased, placed.centre if options.near is None else options.near, up)
    outline = None if mask is None else trace_outline(placed.crop, mask)
    if mask is None or outline is None:
        raise UnfitScans(
            "prep: no cavity with an outline is found there; give a point in it (near), or the scan before cutting."
        )
    inside, _ = placed.eased.keep_vertices(mask)
    path, patches = _path(placed, options, inside, outline)
    axes = Axes.make(axes.origin, path.direction, placed.frame.facial, placed.frame.mesial)
    _refuse_stump(patches, axes)
    girth = _turned(girth, axes) if tooth is None else _girth(tooth.surface, axes, size_of(options.tooth))
    return CavitySurvey(
        axes=axes, path=path, found=line_of(outline, mask, axes), teeth=teeth, girth=girth, crop=placed.crop,
        eased=placed.eased,
    )  # fmt: skip


def line_of(outline: Outline, mask: Bools, axes: Axes) -> CavityLine:
    """An outline in the words of a finish line."""
    azimuth, radius, height = axes.cylinder(outline.points)
    count = len(azimuth)
    longest = _longest_unclear(outline)
    return CavityLine(
        points=outline.points, azimuth_deg=azimuth, radius=radius, height=height,
        turn_deg=180 - np.nan_to_num(outline.cavosurface_deg, nan=180.0), clear=outline.clear,
        index=np.zeros(count, dtype=np.int64), gap_deg=longest, drawn=outline.drawn,
        band_mm=np.full(count, np.nan), cavosurface_deg=outline.cavosurface_deg, outward=outline.outward,
        skin=outline.skin, mask=mask,
    )  # fmt: skip


def _longest_unclear(outline: Outline) -> float:
    """Of the outline's course, the longest stretch without an edge, as if all of it were 360 degrees."""
    clear = outline.clear
    if clear.all():
        return 0.0
    if not clear.any():
        return 360.0
    turned = np.roll(clear, -int(np.argmax(clear)))
    runs = np.diff(np.flatnonzero(np.r_[turned, True]))
    return float((runs.max() - 1) / len(clear) * 360)


def _path(placed: Placed, options: Options, inside: Surface, outline: Outline) -> tuple[Path, Patches]:
    """The path that the walls give, nearest to the tooth's axis on a tie, or the one that was given."""
    frame = placed.frame
    up = unit(options.path) if options.path is not None else frame.occlusal
    path = Path(up, float("nan"), "given")
    for _ in range(2):
        patches = wall_patches(inside, wall_mask(inside, outline, path.direction))
        if len(patches.area) < LEAST_WALL:
            return Path(path.direction, float("nan"), path.source if options.path is not None else "best"), patches
        if options.path is None:
            axis = even_axis(patches, frame.occlusal, AXIS_DEG if options.occlusal is None else GIVEN_DEG)
            say = by_facing(patches, axis)
            path = best_path(patches.normal, say, axis, perpendicular(frame.facial, axis), PATH_LEAN)
    draft = least_draft(patches.normal, by_facing(patches, path.direction), path.direction)
    return Path(path.direction, draft, path.source), patches


def by_facing(patches: Patches, up: Floats) -> Floats:
    """(P,) what each piece of wall has to say: its area, less the more of the walls face the same way.

    Round a crown all sides stand alike; of a cavity one wall may be high and the one that faces it low, and by area
    alone the low one would be outvoted and locked.
    """
    across = unit(patches.normal - (patches.normal @ up)[:, None] * up)
    alike = np.clip(across @ across.T, 0, 1) ** FACING_POWER
    return np.asarray(patches.area / np.maximum(alike @ patches.area, LEAST_FACING_MM2))


def even_axis(patches: Patches, occlusal: Floats, sure_deg: float) -> Floats:
    """The direction (3,) along which the walls lean alike, as far as they tell it; the tooth's axis tells the rest.

    sure_deg: standard uncertainty of `occlusal`.

    A bur led round leaves the same lean on every wall, and a box leaves one side without a wall: there the least draft
    says nothing. Single walls that lean otherwise lose their say (Huber).
    """
    side = perpendicular(patches.normal[0], occlusal) if len(patches.normal) else np.zeros(3)
    frame = np.stack([side, np.cross(occlusal, side), occlusal])
    tilt, lean = np.zeros(2), float(np.median(draft_deg(patches.normal, occlusal)))
    share = by_facing(patches, occlusal)
    say = np.sqrt(share / share.sum() * min(float(patches.area.sum()) / WALL_MM2, MOST_WALLS)) / WALL_DEG
    for _ in range(EVEN_ROUNDS):
        axis = unit(frame[2] + np.tan(np.radians(tilt[0])) * frame[0] + np.tan(np.radians(tilt[1])) * frame[1])
        off = draft_deg(patches.normal, axis) - lean
        kept = np.sqrt(np.minimum(1.0, ODD_DEG / np.maximum(np.abs(off), 1e-9))) * say
        rows = np.concatenate([
            np.stack([*(patches.normal @ frame[:2].T).T, -np.ones(len(off))], axis=1) * kept[:, None],
            np.array([[1 / sure_deg, 0, 0], [0, 1 / sure_deg, 0]]),
        ])  # fmt: skip
        wanted = np.concatenate([-off * kept, -tilt / sure_deg])
        change = np.linalg.lstsq(rows, wanted, rcond=None)[0]
        tilt, lean = tilt + change[:2], lean + float(change[2])
    return unit(frame[2] + np.tan(np.radians(tilt[0])) * frame[0] + np.tan(np.radians(tilt[1])) * frame[1])


def _refuse_stump(patches: Patches, axes: Axes) -> None:
    """Raises UnfitScans where the walls look away from the middle, as a crown preparation's do."""
    if len(patches.area) < LEAST_WALL:
        return
    off = patches.place - axes.origin
    away = np.einsum("nk,nk->n", off - (off @ axes.up)[:, None] * axes.up, patches.normal) > 0
    if patches.area[away].sum() > CROWN_SHARE * patches.area.sum():
        raise UnfitScans(
            "prep: this looks like a full crown: its walls go round the tooth and lean inward; choose full-crown."
        )


def _teeth(placed: Placed, options: Options) -> tuple[dict[str, ReferenceTooth], FinishLine, Axes]:
    """The tooth on each trusted earlier scan, the line round it, and occlusal axes about its middle.

    The middle of the cut is not the tooth's: first the tooth is told from far, then about its own middle again.
    """
    size, frame = size_of(options.tooth), placed.frame
    axes = Axes.make(placed.centre, frame.occlusal, frame.facial, frame.mesial)
    girth = _ellipse(axes, size, _top(placed, placed.centre, size[0]))
    under = {
        role: under_earlier(placed.crop, surface, placed.centre)
        for role, surface in placed.moved.items()
        if placed.alignment[role].trusted
    }
    teeth: dict[str, ReferenceTooth] = {}
    for spare in (SPARE_MM, 0.0):
        found = {}
        # A contact may have hidden a part of the tooth: no other tooth is looked for nearer than such teeth are wide.
        ring = _not_under(girth, axes, size)
        for role, inside in under.items():
            tooth = segment(placed.moved[role], placed.crop, inside, ring, axes, size[0], spare)
            if tooth is not None:
                found[role] = tooth
        teeth = found or teeth
        shape = teeth.get("preop") or teeth.get("mockup")
        if shape is None:
            break
        axes, girth = _round(shape.surface, axes, size)
    return {role: tooth.eased(TAUBIN_STEPS) for role, tooth in teeth.items()}, girth, axes


def under_earlier(crop: Surface, earlier: Surface, middle: Floats) -> Bools:
    """(V,) of the crop: what lies under the earlier scan for certain, about the `middle` (3,) of what was cut.

    Gingiva pressed aside between two scans may be as much as a small cavity.
    """
    depth, face, place = earlier.signed_distance(crop.vertices)
    under = (-depth > UNDER_MM) & ~earlier.at_rim(face, place)
    if not under.any():
        return under
    label = crop.parts(under)
    area = np.bincount(label[under], weights=crop.vertex_areas[under])
    told = np.flatnonzero(under)[area[label[under]] > UNDER_SHARE * area.max()]
    mine = label[told[np.argmin(lengths(crop.vertices[told] - middle))]]
    return np.asarray(under & (label == mine))


def _top(placed: Placed, centre: Floats, crown_mm: float) -> float:
    """Height of the tooth's top over `centre`, along the occlusal direction."""
    surface = placed.base or placed.scans.prep
    off = surface.vertices - centre
    height = off @ placed.frame.occlusal
    near = lengths(off - height[:, None] * placed.frame.occlusal) < crown_mm / 2
    return float(np.quantile(height[near], 0.98)) if near.any() else 0.0


def _ellipse(axes: Axes, size: tuple[float, ...], top: float) -> FinishLine:
    """A ring of the published size of such a tooth, about where it meets the gingiva."""
    azimuth = np.arange(0, 360, GIRTH_EVERY_DEG)
    a = np.radians(azimuth)
    radius = 1 / np.sqrt((np.cos(a) / (size[3] / 2)) ** 2 + (np.sin(a) / (size[1] / 2)) ** 2)
    return _ring(axes, azimuth, radius, np.full(len(azimuth), top - GIRTH_BELOW_SHARE * size[0]))


def _round(tooth: Surface, axes: Axes, size: tuple[float, ...]) -> tuple[Axes, FinishLine]:
    """Axes about the middle of a tooth's surface, and the line of its greatest girth."""
    off = tooth.vertices - axes.origin
    x, y = off @ axes.zero, off @ axes.quarter
    middle = [(np.quantile(v, 0.004) + np.quantile(v, 0.996)) / 2 for v in (x, y)]
    origin = axes.origin + middle[0] * axes.zero + middle[1] * axes.quarter
    axes = Axes(origin, axes.up, axes.zero, axes.quarter)
    return axes, _girth(tooth, axes, size)


def _girth(tooth: Surface, axes: Axes, size: tuple[float, ...]) -> FinishLine:
    """How far a tooth's surface reaches about its axes, at the level where it meets the gingiva."""
    azimuth, radius, height = axes.cylinder(tooth.vertices)
    rows = np.arange(0, 360, GIRTH_EVERY_DEG)
    cell = np.round(azimuth / GIRTH_EVERY_DEG).astype(int) % len(rows)
    reach = np.zeros(len(rows))
    np.maximum.at(reach, cell, radius)
    known = reach > 1.0
    reach = np.interp(rows, rows[known], reach[known], period=360) if known.any() else np.full(len(rows), size[1] / 2)
    level = float(np.quantile(height, 0.98)) - GIRTH_BELOW_SHARE * size[0]
    return _ring(axes, rows, reach, np.full(len(rows), level))


def _not_under(girth: FinishLine, axes: Axes, size: tuple[float, ...]) -> Floats:
    """(A, 3) the girth, nowhere nearer to the axis than LEAST_GIRTH of the published size of such a tooth."""
    radius = np.maximum(girth.radius, LEAST_GIRTH * _ellipse(axes, size, 0.0).radius)
    return axes.places(girth.azimuth_deg, radius, girth.height)


def _ring(axes: Axes, azimuth: Floats, radius: Floats, height: Floats) -> FinishLine:
    count = len(azimuth)
    return FinishLine(
        points=axes.places(azimuth, radius, height), azimuth_deg=azimuth, radius=radius, height=height,
        turn_deg=np.zeros(count), clear=np.ones(count, dtype=bool), index=np.zeros(count, dtype=np.int64), gap_deg=0.0,
        drawn=np.zeros(count, dtype=bool), band_mm=np.full(count, np.nan),
    )  # fmt: skip


def _turned(girth: FinishLine, axes: Axes) -> FinishLine:
    """The same line told about axes along the path."""
    azimuth, radius, height = axes.cylinder(girth.points)
    order = np.argsort(azimuth)
    rows = np.arange(0, 360, GIRTH_EVERY_DEG)
    at = [np.interp(rows, azimuth[order], v[order], period=360) for v in (radius, height)]
    return _ring(axes, rows, at[0], at[1])

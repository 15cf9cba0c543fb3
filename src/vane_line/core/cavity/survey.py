"""A cavity read along its path: the tooth before, the cut surface, its outline, its walls and the path they give."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.cavity.parts import Patches, wall_mask, wall_patches
from vane_line.core.measure.path import ROBUST, Path, best_path, draft_deg, least_draft, quantiles_about
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import Options
from vane_line.core.outline.curve import Outline, trace_outline
from vane_line.core.outline.girth import girth_of, teeth_round, turned
from vane_line.core.outline.line import OutlineSurvey, line_of
from vane_line.core.outline.place import Asked, middle_of_cut
from vane_line.core.outline.region import cut_region, region_by_crease
from vane_line.core.placed import Placed
from vane_line.core.tooth.anatomy import size_of
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import dot, perpendicular, unit
from vane_line.errors import UnfitScans

PATH_LEAN = 0.60  # of draft that a degree of tilt must win: a box leaves one side open
OPEN_LEAN, OPEN_WON, OPEN_DEG = 1.2, 0.3, 5.0  # where no walls face each other: more than any tilt wins of itself
AXIS_DEG, GIVEN_DEG = 3.0, 0.3  # standard uncertainty of the occlusal direction: as guessed, as a person gave it
WALL_MM2, WALL_DEG, ODD_DEG, EVEN_ROUNDS = 1.0, 2.0, 3.0, 12  # so much wall counts once; how alike walls are led
MOST_WALLS = 40.0
FACING_POWER, LEAST_FACING_MM2 = 8, 0.5  # a cosine's: within some 25 degrees walls face the same way
CROWN_SHARE = 0.6  # of the walls that look away from the middle: then it is a stump
UNDER_MM = 0.35  # so far under the tooth before, surface was cut for certain
SEEN = -0.1  # cosine to the occlusal direction: a wall that hangs over a little is seen from beside
LEAST_WALL = 6  # patches
NOT_FACING = "Hardly any walls face each other, and the tooth's own axis tells the rest"
CAVITY = Asked("a cavity", "in it", "in the cavity")


def hollow_centre(prep: Surface, preop: Surface | None, near: Floats | None, occlusal: Floats) -> Floats:
    """The middle of what was cut out. Raises UnfitScans or BadOption."""
    return middle_of_cut(prep, preop, near, occlusal, seen=SEEN, asked=CAVITY)


def survey(placed: Placed, options: Options) -> OutlineSurvey:
    """Raises UnfitScans where there is no cavity."""
    teeth, girth, axes = teeth_round(placed, options, UNDER_MM)
    tooth = teeth.get("preop") or teeth.get("mockup")
    up = placed.frame.occlusal
    region = None
    if tooth is not None and placed.base is not None:
        region = cut_region(placed.eased, tooth, placed.base, up, placed.nearer(placed.eased.vertices))
    if region is None:
        region = region_by_crease(placed.eased, placed.centre if options.near is None else options.near, up)
    outline = None if region is None else trace_outline(placed.crop, region)
    if region is None or outline is None:
        raise UnfitScans(
            "prep: no cavity with an outline is found there; give a point in it (near), or the scan before cutting."
        )
    inside, _ = placed.eased.keep_vertices(region.mask)
    path, patches = _path(placed, options, inside, outline)
    axes = Axes.make(axes.origin, path.direction, placed.frame.facial, placed.frame.mesial)
    _refuse_stump(patches, axes)
    girth = turned(girth, axes) if tooth is None else girth_of(tooth.surface, axes, size_of(options.tooth))
    return OutlineSurvey(
        axes=axes, path=path, found=line_of(outline, region.mask, axes), teeth=teeth, girth=girth, crop=placed.crop,
        eased=placed.eased, about=axes, view=axes,
    )  # fmt: skip


def _path(placed: Placed, options: Options, inside: Surface, outline: Outline) -> tuple[Path, Patches]:
    """The path that the walls give, nearest to the tooth's axis on a tie, or the one that was given."""
    frame = placed.frame
    up = unit(options.path) if options.path is not None else frame.occlusal
    path, open_by = Path(up, float("nan"), "given"), np.zeros((3, 3))
    sure_deg = AXIS_DEG if options.occlusal is None else GIVEN_DEG
    for _ in range(2):
        patches = wall_patches(inside, wall_mask(inside, outline, path.direction))
        if len(patches.area) < LEAST_WALL:
            return Path(path.direction, float("nan"), path.source if options.path is not None else "best"), patches
        if options.path is None:
            axis = even_axis(patches, frame.occlusal, sure_deg)
            say = by_facing(patches, axis)
            won, way = won_by_tilt(patches.normal, say, axis)
            lean = PATH_LEAN + (OPEN_LEAN - PATH_LEAN) * float(np.clip(won / OPEN_WON, 0, 1))
            path = best_path(patches.normal, say, axis, perpendicular(frame.facial, axis), lean)
            open_by = (sure_deg * float(np.clip(won, 0, 1))) ** 2 * np.outer(way, way)
    draft = least_draft(patches.normal, by_facing(patches, path.direction), path.direction)
    return Path(path.direction, draft, path.source, open=open_by, why_open=NOT_FACING), patches


def won_by_tilt(normals: Floats, say: Floats, axis: Floats) -> tuple[float, Floats]:
    """Degrees of draft that a degree of tilt wins of itself, and the way (3,) it wins most: none where walls face each
    other, all of it where one stands alone. What the path wins so says nothing of where it lies.

    normals: (N, 3) of the walls; say: (N,).
    """
    side = perpendicular(normals[0], axis)
    turn = np.radians(np.arange(0, 360, OPEN_DEG))[:, None]
    ways = np.cos(turn) * side + np.sin(turn) * np.cross(axis, side)
    across = unit(normals - (normals @ axis)[:, None] * axis)
    won = np.sin(np.radians(quantiles_about(across, say, ways, ROBUST)))
    return float(won.max()), np.asarray(ways[won.argmax()])


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
    away = dot(off - (off @ axes.up)[:, None] * axes.up, patches.normal) > 0
    if patches.area[away].sum() > CROWN_SHARE * patches.area.sum():
        raise UnfitScans(
            "prep: this looks like a full crown, a partial crown or a veneer: its walls are outside and lean inward; "
            "choose that kind."
        )

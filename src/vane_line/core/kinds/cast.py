"""The cast reader: a casting that leaves the face of the tooth standing, held by grooves or by pins."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.cast.budget import Budget, budget_at
from vane_line.core.cast.line import above_seam, before_face, gingival, side_faced, sides_of, wall_widths
from vane_line.core.cast.survey import BACK, OPEN_FACE
from vane_line.core.channels.channel import Channel, near_any
from vane_line.core.channels.cover import of_cut, outside_of
from vane_line.core.channels.groove import find_grooves
from vane_line.core.channels.pins import find_pins
from vane_line.core.kinds.kind import Kind, Reader
from vane_line.core.kinds.outlined import (
    NO_DEPTH,
    LedgeCut,
    cut_inside,
    drawn_line,
    redrawn_line,
    told_teeth,
    whole_girth,
)
from vane_line.core.kinds.seen import Seen, Zoned
from vane_line.core.kinds.window import window_along, window_check
from vane_line.core.measure.retention import SIDES
from vane_line.core.measure.zones import BAND_EXTRA_MM, WALL_THIRDS, Naming, Zones, sides_turned
from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.girth import girth_of
from vane_line.core.outline.line import OutlineLine
from vane_line.core.tooth.anatomy import plan, size_of
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import perpendicular
from vane_line.core.window.ledge import ledge_widths
from vane_line.core.window.survey import WindowSurvey, hidden_of

OCCLUSAL_COSINE = 0.5  # what looks up is the chewing surface
EDGE_MM = 0.8  # so far below its top is a front tooth's edge
UNDER_CHANNEL_MM = 0.8  # to either side of a channel its lips and the ledge under it
LEDGE_COSINE, FOOT_MM = 0.82, 0.4
FOSSA_COSINE = 0.28  # behind a front tooth, what slopes less to the path than this is the concavity


@dataclass(frozen=True, eq=False)
class CastCut(LedgeCut):
    """What the cast reader found. sides: of the line's points (K,), those at the gingiva, by side; channels: grooves,
    holes and pins; budget: where the tooth stays thinnest beside a pin, None where no pin has a ledge."""

    sides: dict[str, Bools]
    channels: list[Channel]
    budget: Budget | None

    @property
    def judged(self) -> dict[str, Bools]:
        return self.sides


def cast_cut(seen: Seen[WindowSurvey], pinned: bool) -> CastCut:
    """The ledge along the line, undercuts, grooves, pins with their ledges, and what is left beside them."""
    placed, survey, line = seen.placed, seen.survey, seen.inside.line
    assert isinstance(line, OutlineLine)
    axes, surface = survey.axes, seen.inside.even
    along = Axes.make(axes.origin, survey.path.direction, placed.frame.facial, placed.frame.mesial)
    low, taken = gingival(line, axes), of_cut(survey.own, surface)
    widths, why = np.full(len(line.points), np.nan), NO_DEPTH
    if survey.depth_mm is not None:
        widths, why = ledge_widths(placed.eased, line.mask, line, survey.depth_mm), ""
    if not pinned:  # at the gingiva walls stand, which tell the ledge by themselves
        told = wall_widths(placed.eased, line, along)
        widths, why = np.where(low, told, widths), ""
    sides = sides_of(line, axes)
    if not pinned:
        narrows = before_face(line, low, widths)
        sides = {name: here & ~narrows for name, here in sides.items()}
    above, source = above_seam(line, low, axes, seen.around, seen.tooth.front)
    # A ring turned to a path that leans passes beside the tooth's top: what it holds is told along the path.
    girth = girth_of(survey.own, along, size_of(seen.tooth))
    found = find_grooves(survey.own, surface, line.points, girth, along)
    grooves = [_told_over(line, groove) for groove in found]
    pins: list[Channel] = []
    if pinned:
        outside = outside_of(survey.own, taken, seen.earlier)
        pins = find_pins(seen.inside.surface, outside, placed.pins, seen.gauge, _in_the_middle(along, surface))
    channels = pins + [g for g in grooves if not near_any(pins, g.middle[None], 0.0).any()]
    blocks = survey.own.keep_vertices(taken | ~_by_gingiva(survey.own, line.points, low))[0]
    # A channel off the path is told as such, not as an undercut.
    open_ = line.encloses(surface.vertices) & ~near_any(channels, surface.vertices, BAND_EXTRA_MM)
    hidden, regions = hidden_of(blocks, surface, open_, axes, survey.path.direction, seen.noise_um)
    budgets = [] if seen.earlier is None else [budget_at(np.array(p.at), survey.own, seen.earlier, axes) for p in pins]
    known = [b for b in budgets if b is not None]
    level = surface.vertices @ survey.path.direction
    return CastCut(
        outline=line, view=survey.about, widths=widths, why_no_widths=why, above_gingiva_mm=above,
        gingiva_source=source, hidden=hidden, regions=regions, high_mm=float(np.ptp(level)) if len(level) else 0.0,
        sides={name: here & ~_beside(line.points, channels) for name, here in sides.items()}, channels=channels,
        budget=min(known, key=lambda b: b.left_mm, default=None),
    )  # fmt: skip


def _in_the_middle(along: Axes, cut: Surface) -> Axes:
    """The axes, moved to the middle between the cut's mesial and distal ends."""
    ends = np.quantile((cut.vertices - along.origin) @ along.quarter, [0.02, 0.98])
    return replace(along, origin=along.origin + float(ends.mean()) * along.quarter)


def _at_line(asked: Zoned[CastCut]) -> Bools:
    """(N,) the finish line's band: there the casting ends. Over a shortened cusp that is as wide as its ledge."""
    cut, line = asked.cut, asked.line
    away, nearest = cKDTree(line.points).query(asked.surface.vertices)
    over = ~gingival(cut.outline, asked.axes) & np.isfinite(cut.widths)
    wide = np.where(over, np.fmax(cut.widths, asked.band_width_mm), asked.band_width_mm)
    return np.asarray(away < wide[nearest] + BAND_EXTRA_MM)


def _told_over(line: OutlineLine, groove: Channel) -> Channel:
    """The groove; how far it ends over a line most of which is doubtful under it is not told."""
    under = line.clear[_beside(line.points, [groove])]
    return groove if under.sum() * 2 >= len(under) else replace(groove, above_line_mm=None)


def _beside(points: Floats, channels: list[Channel]) -> Bools:
    """(K,) of the line: what lies under a channel, where the ledge is as deep as it."""
    mask = np.zeros(len(points), dtype=bool)
    for channel in channels:
        out = perpendicular(channel.middle - points.mean(axis=0), channel.direction)
        off = points - channel.middle
        aside = np.abs(off @ np.cross(channel.direction, out))
        mask |= (aside < channel.diameter_mm / 2 + UNDER_CHANNEL_MM) & (off @ out > -channel.diameter_mm)
    return mask


def _by_gingiva(own: Surface, line: Floats, low: Bools) -> Bools:
    """(N,) of the tooth's surface as it is: what lies nearest to the line (K, 3) where that runs at the gingiva (K,).
    Beyond the cut it stands over the line and gives way; nothing of the tooth is there above it."""
    return np.asarray(low[cKDTree(line).query(own.vertices)[1]])


def cast_zones(asked: Zoned[CastCut]) -> Zones:
    """Behind a tooth with an edge: edge, concavity and wall. Else the cusps by their names, and thirds of the walls."""
    surface, axes, line = asked.surface, asked.axes, asked.line
    found = Naming(surface.n_vertices)
    put = found.put
    normals = surface.even_normals
    out, beside = sides_turned(axes, asked.turn_deg)
    height = (surface.vertices - axes.origin) @ axes.up
    up = normals @ axes.up
    if asked.tooth.front:
        put("lingual-wall", up < FOSSA_COSINE)
        put("lingual-fossa", up >= FOSSA_COSINE)
        level = up > LEDGE_COSINE
        if level.any():  # a ledge and the foot of its wall: their depth is its width, judged as such
            put("ledge", cKDTree(surface.vertices[level]).query(surface.vertices)[0] < FOOT_MM)
        put("incisal-edge", (up > OCCLUSAL_COSINE) & (height > float(np.quantile(height, 0.995)) - EDGE_MM))
    else:
        low, high = np.quantile((line.points - axes.origin) @ axes.up, [0.1, 0.9])
        third = np.minimum((np.clip((height - low) / max(high - low, 0.3), 0, 1) * 3).astype(int), 2)
        side = side_faced(normals, out, beside)
        for k, name in enumerate(SIDES):
            for t, part in enumerate(WALL_THIRDS):
                put(f"wall/{name}/{part}", (up <= OCCLUSAL_COSINE) & (side == k) & (third == t))
        cusps = asked.anatomy.cusps
        if cusps:
            nearest = cKDTree(np.array(list(cusps.values()))).query(plan(axes, surface.vertices))[1]
            for k, name in enumerate(cusps):
                put(name, (up > OCCLUSAL_COSINE) & (nearest == k))
    put("finish-line-band", _at_line(asked))
    put("channel", near_any(asked.cut.channels, surface.vertices, BAND_EXTRA_MM))
    return found.zones()


PARTIAL: Reader[WindowSurvey, CastCut] = Reader(
    "cast", find=OPEN_FACE.centre, trace=OPEN_FACE.survey, follow=drawn_line, along=window_along,
    redraw=redrawn_line, inside=cut_inside, teeth=told_teeth, girth=whole_girth,
    check=window_check, cut=partial(cast_cut, pinned=False), zones=cast_zones,
)  # fmt: skip
PINNED: Reader[WindowSurvey, CastCut] = Reader(
    "cast", find=BACK.centre, trace=BACK.survey, follow=drawn_line, along=window_along,
    redraw=redrawn_line, inside=cut_inside, teeth=told_teeth, girth=whole_girth,
    check=window_check, cut=partial(cast_cut, pinned=True), zones=cast_zones,
)  # fmt: skip
PARTIAL_CROWN = Kind(
    "partial-crown", "partial crown", PARTIAL, plan="cast",
    caution="How thick the standing face is over the pulp is not seen; nor is what shows of the metal: look from the "
            "front.",
)  # fmt: skip
PIN_CASTING = Kind(
    "pin-casting", "casting held by pins", PINNED, plan="pins",
    caution="The pulp is not seen: a radiograph and its landmarks say where a pin may go.",
)  # fmt: skip
CASTINGS = (PARTIAL_CROWN, PIN_CASTING)

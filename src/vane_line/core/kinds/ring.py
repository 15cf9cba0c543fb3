"""The ring reader: a closed finish line round the tooth's own axis, walls above it that lean inward."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.apart import both
from vane_line.core.arrays import Bools, Floats
from vane_line.core.channels.channel import Channel
from vane_line.core.channels.groove import find_grooves
from vane_line.core.kinds.kind import Along, Drawing, Reader
from vane_line.core.kinds.seen import Cut, Inside, Seen, Zoned
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.front_form import FrontForm, front_form
from vane_line.core.measure.inside import inside_line
from vane_line.core.measure.line_by_hand import follow, redraw
from vane_line.core.measure.lowered import Lowered, edge_lowered
from vane_line.core.measure.occlusal_form import OcclusalForm, occlusal_form
from vane_line.core.measure.undercut import LEAST_MM, Region
from vane_line.core.measure.zones import Zones, make_zones
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import HandLine, Options
from vane_line.core.placed import TAUBIN_STEPS, Placed, locate_centre
from vane_line.core.shape import Shape, crown_points, measure_shape
from vane_line.core.survey import RingSurvey, survey, undercut_along
from vane_line.core.tooth.anatomy import size_of
from vane_line.core.tooth.reference import ReferenceTooth, segment
from vane_line.core.trace.section import Axes, Profiles
from vane_line.core.trace.wall import WallRuns
from vane_line.errors import UnfitScans

SAME_MM = 0.08  # under the tooth before: it was not cut there
UNCUT_SHARE = 0.25  # of the area inside the line, from which on it is no crown preparation yet
LOST_SHARE = 0.40  # of the line without an edge
NO_WALL = 0.25  # of the greatest height of the preparation over its line: less is no wall of a crown's …
OPEN_SHARE = 0.20  # … which over this share of the line may be broken down, and is not there where none was to be cut
TOP_SHARE = 0.995  # of the vertices, that lie below the tooth's top
MAY_BE_ANOTHER = "This may not be a finished crown preparation, or an inlay, onlay, veneer or partial crown: {}."


@dataclass(frozen=True, eq=False)
class RingCut(Cut):
    """What the ring reader found: profiles round the axis, their walls, the form of the whole.

    occlusal: of a back tooth, front: of a front tooth, else None. edge: how far a front tooth's edge lies under what
    the restoration will be, edge_off: under the tooth that was. channels: grooves in the walls.
    """

    profiles: Profiles
    walls: WallRuns
    shape: Shape
    occlusal: OcclusalForm | None
    front: FrontForm | None
    edge: Lowered | None
    edge_off: Lowered | None
    channels: list[Channel]

    @property
    def undercuts(self) -> list[Region]:
        return self.shape.undercut.regions

    @property
    def wall_mm(self) -> float:
        return max(float(np.nan_to_num(self.shape.retention.height_mm)), 0.0)

    def hidden_mm(self, inside: Surface) -> Floats:
        """From the nearest sample of the profiles."""
        depth, rings = self.shape.undercut.depth, self.profiles
        told = np.isfinite(depth) & np.isfinite(rings.radius)
        if not self.undercuts or not told.any():
            return np.zeros(inside.n_vertices)
        azimuth = np.broadcast_to(rings.azimuth_deg[:, None], told.shape)[told]
        places = rings.axes.places(azimuth, rings.radius[told], rings.height[told])
        _, nearest = cKDTree(places).query(inside.vertices)
        value = depth[told][nearest]
        return np.asarray(np.where(value > LEAST_MM, value, 0.0))


def ring_line(survey: RingSurvey, drawn: HandLine) -> FinishLine:
    """The finish line as a hand drew it."""
    return follow(survey.rings, drawn.points, drawn.drawn)


def ring_redrawn(survey: RingSurvey, line: FinishLine, drawing: Drawing) -> FinishLine:
    """The finish line with one stretch drawn anew."""
    return redraw(line, survey.rings, drawing.stroke, drawing.snap, drawing.closed)


def ring_along(placed: Placed, _survey: RingSurvey, line: FinishLine, direction: Floats) -> Along:
    """Undercuts inside a line along another path."""
    found, draft = undercut_along(placed, line.points, line.drawn, direction)
    return Along(found.max_depth_mm, found.area_mm2, tuple(r.sector for r in found.regions), draft)


def ring_inside(placed: Placed, survey: RingSurvey, line: FinishLine) -> Bools:
    """(V,) of the crop."""
    return inside_line(placed.crop, line.points, survey.axes.up, line.points.mean(axis=0))


def ring_teeth(
    placed: Placed, survey: RingSurvey, line: FinishLine, inside: Bools, options: Options
) -> dict[str, ReferenceTooth]:
    """The tooth on each trusted earlier scan, where it can be told apart; freed of its scan's noise."""
    teeth = {}
    for role, surface in placed.moved.items():
        if not placed.alignment[role].trusted:
            continue
        tooth = segment(surface, placed.crop, inside, line.points, survey.axes, size_of(options.tooth)[0])
        if tooth is not None:
            teeth[role] = tooth.eased(TAUBIN_STEPS)
    return teeth


def ring_girth(_survey: RingSurvey, line: FinishLine) -> FinishLine:
    """The finish line goes round the whole tooth."""
    return line


def ring_check(axes: Axes, inside: Inside, distance: Floats | None) -> list[str]:
    """A crown's preparation has a wall all round, and leaves nothing of the tooth as it was; a cavity leaves most."""
    said = []
    open_share = _without_wall(axes, inside)
    if open_share > OPEN_SHARE:
        words = f"over {100 * open_share:.0f} % of its length the finish line runs at the tooth's top, no wall above it"
        if not inside.line.drawn.any():
            raise _another_kind(words)
        said.append(MAY_BE_ANOTHER.format(words))
    same = 0.0 if distance is None else inside.share_below(distance, SAME_MM)
    if same >= UNCUT_SHARE:
        words = f"{100 * same:.0f} % of the tooth inside the finish line is as it was before cutting"
        if inside.line.doubtful_share > LOST_SHARE:
            raise _another_kind(words)
        said.append(MAY_BE_ANOTHER.format(words))
    return said


def _another_kind(words: str) -> UnfitScans:
    looks = "this looks like an inlay, an onlay, a veneer or a partial crown, not like a crown"
    return UnfitScans(f"prep: {looks}: {words}; choose that kind.")


def _without_wall(axes: Axes, inside: Inside) -> float:
    """Share of the finish line's length over which next to no wall stands above it."""
    line = inside.line
    top = float(np.quantile(axes.cylinder(inside.even.vertices)[2], TOP_SHARE))
    wall, steps = top - line.height, line.steps_mm
    return float(steps[wall < NO_WALL * wall.max()].sum() / max(float(steps.sum()), 1e-9))


def ring_cut(seen: Seen[RingSurvey]) -> RingCut:
    """Walls, finish line's form, retention and the form of the top."""
    survey, inside = seen.survey, seen.inside
    axes, line, front = survey.axes, inside.line, seen.tooth.front

    def form() -> tuple[Shape, OcclusalForm | None]:
        shape = measure_shape(
            rings=survey.rings, runs=survey.runs, walls=survey.walls.over(line),
            otherwise=tuple(walls.over(line) for walls in survey.otherwise), line=line, noise_um=seen.noise_um,
            crown=crown_points(seen.earlier, line, axes), neighbours=seen.others,
            beside=seen.beside.vertices[seen.standing], around=seen.around,
        )  # fmt: skip
        return shape, None if front else occlusal_form(inside.even, seen.earlier, seen.anatomy, axes)

    def lowered(under: Surface | None) -> Lowered | None:
        return edge_lowered(inside.surface, under, axes) if front and under is not None else None

    channels, (shape, occlusal) = both(
        lambda: find_grooves(seen.placed.eased, inside.even, line.points, line, axes), form
    )
    edge = lowered(seen.finished)
    return RingCut(
        profiles=survey.rings,
        walls=survey.runs,
        shape=shape,
        occlusal=occlusal,
        front=front_form(survey.rings, line, inside.even, seen.others, axes) if front else None,
        edge=edge,
        edge_off=edge if seen.earlier is seen.finished else lowered(seen.earlier),
        channels=channels,
    )


def ring_zones(asked: Zoned[RingCut]) -> Zones:
    """Cusps, grooves, ridges, thirds of walls, the finish line's band."""
    surface = asked.surface
    return make_zones(
        points=surface.vertices,
        normals=surface.vertex_normals,
        areas=surface.vertex_areas,
        axes=asked.axes,
        line=asked.line,
        profiles=asked.cut.profiles,
        walls=asked.cut.walls,
        anatomy=asked.anatomy,
        tooth=asked.tooth,
        functional_side=asked.functional_side,
        band_width_mm=asked.band_width_mm,
        turn_deg=asked.turn_deg,
        steeper_deg=asked.steeper_deg,
    )


RING: Reader[RingSurvey, RingCut] = Reader(
    "ring", find=locate_centre, trace=survey, follow=ring_line, along=ring_along,
    redraw=ring_redrawn, inside=ring_inside, teeth=ring_teeth, girth=ring_girth, check=ring_check, cut=ring_cut,
    zones=ring_zones,
)  # fmt: skip

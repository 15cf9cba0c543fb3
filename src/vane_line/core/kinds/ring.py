"""The ring reader: a closed finish line round the tooth's own axis, walls above it that lean inward."""

from __future__ import annotations

from dataclasses import dataclass

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.front_form import FrontForm, front_form
from vane_line.core.measure.line_by_hand import follow
from vane_line.core.measure.occlusal_form import OcclusalForm, occlusal_form
from vane_line.core.measure.zones import Zones, make_zones
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import HandLine
from vane_line.core.shape import Around, Shape, crown_points, measure_shape
from vane_line.core.survey import Survey
from vane_line.core.tooth.anatomy import Anatomy
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.trace.section import Axes, Profiles
from vane_line.core.trace.wall import WallRuns


@dataclass(frozen=True, eq=False)
class Inside:
    """The part of the prep within a finish line: which of the crop's vertices (V,), as scanned, and free of noise."""

    line: FinishLine
    mask: Bools
    index: Ints
    surface: Surface
    even: Surface
    edge_mm: float  # of the scan at the line


@dataclass(frozen=True, eq=False)
class Seen:
    """What a reader measures from. earlier: the tooth before cutting, where known; others: (M, 3) points of the other
    teeth."""

    tooth: ToothNumber
    survey: Survey
    inside: Inside
    anatomy: Anatomy
    earlier: Surface | None
    others: Floats
    around: Around
    noise_um: float


@dataclass(frozen=True, eq=False)
class RingCut:
    """What the ring reader found: profiles round the axis, their walls, the form of the whole.

    occlusal: of a back tooth, front: of a front tooth, else None.
    """

    profiles: Profiles
    walls: WallRuns
    shape: Shape
    occlusal: OcclusalForm | None
    front: FrontForm | None


@dataclass(frozen=True, eq=False)
class Zoned:
    """What zones are told from. band_width_mm: of the finish line's band; turn_deg: by which the sides are turned on,
    to see what hangs on where one ends."""

    tooth: ToothNumber
    surface: Surface
    axes: Axes
    line: FinishLine
    cut: RingCut
    anatomy: Anatomy
    functional_side: str
    band_width_mm: float
    turn_deg: float = 0.0


def ring_line(survey: Survey, drawn: HandLine) -> FinishLine:
    """The finish line as a hand drew it."""
    return follow(survey.rings, drawn.points, drawn.drawn)


def ring_cut(seen: Seen) -> RingCut:
    """Walls, finish line's form, retention and the form of the top."""
    survey, inside = seen.survey, seen.inside
    axes, line = survey.axes, inside.line
    shape = measure_shape(
        rings=survey.rings, runs=survey.runs, walls=survey.walls.over(line), line=line, noise_um=seen.noise_um,
        crown=crown_points(seen.earlier, line, axes), neighbours=seen.others, around=seen.around,
    )  # fmt: skip
    front = seen.tooth.front
    return RingCut(
        profiles=survey.rings,
        walls=survey.runs,
        shape=shape,
        occlusal=None if front else occlusal_form(inside.even, seen.earlier, seen.anatomy, axes),
        front=front_form(survey.rings, line, inside.even, seen.others, axes) if front else None,
    )


def ring_zones(asked: Zoned) -> Zones:
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
    )

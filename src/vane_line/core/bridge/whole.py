"""A bridge measured: each abutment by itself on the same scans, then what holds for all of them together."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial
from itertools import pairwise

import numpy as np

from vane_line.core import kinds
from vane_line.core.align.fit import STABLE_SHARE
from vane_line.core.aligned import Aligned, align
from vane_line.core.apart import each
from vane_line.core.arrays import Floats
from vane_line.core.bridge.common_path import Abutment, CommonPath, common_path
from vane_line.core.bridge.room import Connector, Gap, Pontic, beyond_beside_mm, connectors_of, pontics_of
from vane_line.core.case import Geometry, complete, prepare
from vane_line.core.cast.survey import wall_samples
from vane_line.core.cut_too import arch_order
from vane_line.core.kinds.cast import PARTIAL_CROWN, CastCut
from vane_line.core.options import Options, Progress
from vane_line.core.placed import locate, without_cut
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.vectors import unit
from vane_line.errors import BadOption, UnfitScans

PARTIAL = PARTIAL_CROWN.name


@dataclass(frozen=True, eq=False)
class Bridge:
    """Abutments in the order of the arch, and what is to stand between them. over_erupted: by pontic, mm."""

    abutments: list[Geometry]
    path: CommonPath
    pontics: list[Pontic]
    connectors: list[Connector]
    over_erupted: dict[str, float]
    length_mm: float  # between the middles of the outermost abutments


def missing_between(teeth: list[ToothNumber]) -> list[ToothNumber]:
    """The teeth of the arch between the outermost of some, that are none of them: a bridge's pontics."""
    if not teeth:
        return []
    quadrants = ("1", "2") if teeth[0].upper else ("4", "3")
    arch = sorted((ToothNumber(q + str(k)) for q in quadrants for k in range(1, 9)), key=arch_order)
    low, high = min(map(arch_order, teeth)), max(map(arch_order, teeth))
    return [t for t in arch if low < arch_order(t) < high and t not in teeth]


def measure_bridge(
    scans: Scans, abutments: list[Options], pontics: list[ToothNumber],
    progress: Progress = lambda _text, _share: None,
) -> Bridge:  # fmt: skip
    """Measure every abutment, then the whole. Raises UnfitScans or BadOption.

    abutments: options of each, with `near` where there is no earlier scan to tell them apart.
    """
    check_span(abutments, pontics)
    order = sorted(abutments, key=lambda o: arch_order(o.tooth))
    aligned = align(scans, order[0], progress)
    teeth = [o.tooth for o in order]
    order = [
        replace(o, near=n, others=tuple(t for t in teeth if t != o.tooth))
        for o, n in zip(order, _places(aligned, order), strict=True)
    ]
    progress("measuring the abutments", 0.5)
    measured = each([partial(_measured, aligned, options) for options in order])
    return _whole(measured, pontics, scans, order[0])


def _measured(aligned: Aligned, options: Options) -> Geometry:
    placed = locate(aligned, options, find=kinds.of(options.restoration).reader.find)
    return complete(prepare(placed, options), options)


def check_span(abutments: list[Options], pontics: list[ToothNumber]) -> None:
    """Whether these can be one bridge. Raises BadOption."""
    teeth = [o.tooth for o in abutments]
    if len(teeth) < 2:
        raise BadOption("bridge: give two abutments or more (--abutment 35 --abutment 37).")
    if len({t.fdi for t in [*teeth, *pontics]}) < len(teeth) + len(pontics):
        raise BadOption("bridge: a tooth is given twice, as abutment or as pontic.")
    if len({t.upper for t in [*teeth, *pontics]}) > 1:
        raise BadOption("bridge: abutments and pontics stand in one jaw.")
    if not pontics:
        raise BadOption("bridge: give the tooth that is missing (--pontic 36).")
    if any(kinds.of(o.restoration).reader.name != "ring" and o.restoration != PARTIAL for o in abutments):
        raise BadOption(
            "bridge: an abutment carries a crown or a partial crown so far; no other kind is judged as one."
        )
    low, high = min(map(arch_order, teeth)), max(map(arch_order, teeth))
    outside = [t.fdi for t in pontics if not low < arch_order(t) < high]
    if outside:
        raise BadOption(f"bridge: {outside[0]} does not stand between two abutments: cantilevers are not judged yet.")


def _places(aligned: Aligned, order: list[Options]) -> list[Floats]:
    """A point by each abutment: as given, or where the scans differ most, in the order of the arch."""
    if all(o.near is not None for o in order):
        return [np.asarray(o.near) for o in order]
    if "preop" not in aligned.moved:
        raise BadOption("bridge: without the scan before cutting give a point on every abutment (near).")
    found = [site.centre for site in aligned.sites(len(order))]
    cut = zip((o.tooth for o in order), found, strict=False)  # which is whose does not matter here
    if without_cut(aligned.fits["preop"], aligned.scans.prep, cut).stable_share < STABLE_SHARE:
        raise UnfitScans(
            "preop does not fit prep, so that what was cut cannot be seen: look whether it is the same mouth, or give "
            "a point on every abutment (near)."
        )
    if len(found) < len(order):
        raise UnfitScans(
            f"prep and preop: {len(found)} of {len(order)} prepared teeth are found; give a point on each (near)."
        )
    along = aligned.along(order[0], found[0])
    return sorted(found, key=lambda place: float(place @ along))


def _whole(measured: list[Geometry], pontics: list[ToothNumber], scans: Scans, options: Options) -> Bridge:
    path = _common(measured)
    up = unit(np.sum([g.frame.occlusal for g in measured], axis=0))
    opposing = None
    if scans.opposing is not None:
        moved = measured[0].alignment["opposing"]
        opposing = scans.opposing.moved(moved.matrix) if moved.trusted else None
    rows: list[Pontic] = []
    joints: list[Connector] = []
    grown: dict[str, float] = {}
    for before, after in pairwise(measured):
        low, high = arch_order(before.options.tooth), arch_order(after.options.tooth)
        mine = tuple(sorted((t for t in pontics if low < arch_order(t) < high), key=arch_order))
        if not mine:
            continue
        gap = Gap(before, after, mine)
        rows += pontics_of(gap, scans.prep, opposing, up)
        joints += connectors_of(gap, opposing, up)
        grown |= {} if opposing is None else beyond_beside_mm(gap, opposing, up)
    ends = measured[0].line.points.mean(axis=0), measured[-1].line.points.mean(axis=0)
    return Bridge(measured, path, rows, joints, grown, float(np.linalg.norm(ends[1] - ends[0])))


def _common(measured: list[Geometry]) -> CommonPath:
    """Of the abutments' walls, and how open it is by what else these may be told to be."""
    rings = [g.ring.shape for g in measured if not isinstance(g.cut, CastCut)]
    ways = min((len(shape.otherwise) for shape in rings), default=0)
    return common_path([_abutment(g) for g in measured]).or_else(
        [common_path([_abutment(g, way) for g in measured]) for way in range(ways)]
    )


def _abutment(geometry: Geometry, otherwise: int | None = None) -> Abutment:
    """otherwise: which of the ways its walls may as well be told is taken; a partial crown's are told in one."""
    cut, frame = geometry.cut, geometry.frame
    if isinstance(cut, CastCut):
        normals, areas = wall_samples(geometry.inside, geometry.line.points, cut.channels, geometry.path.direction)
    else:
        shape = geometry.ring.shape
        walls = shape.walls if otherwise is None else shape.otherwise[otherwise].walls
        normals, areas = walls.samples(geometry.axes)
    return Abutment(geometry.options.tooth.fdi, normals, areas, frame.facial, frame.mesial, geometry.path.direction)

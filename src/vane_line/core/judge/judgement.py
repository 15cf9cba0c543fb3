"""A Geometry held against a standard: zones, values, verdicts, corrections. Cheap to repeat by another standard."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from itertools import product
from math import hypot

import numpy as np

from vane_line.core.apart import Job, each
from vane_line.core.arrays import Floats
from vane_line.core.burs import Bur
from vane_line.core.case import Geometry
from vane_line.core.judge import criteria
from vane_line.core.judge.corrections import worklist
from vane_line.core.judge.criteria.front import middle_of_face
from vane_line.core.judge.criteria.space import by_depth
from vane_line.core.judge.record import Held
from vane_line.core.judge.standard_choice import fitted, over_dark
from vane_line.core.judge.standards import Standard
from vane_line.core.judge.uncertainty import (
    TRIED_DEG,
    U_AXIS_DEG,
    U_BAND_MM,
    U_CUSP_MM,
    U_PATH_DEG,
    U_STEEP_DEG,
    U_TURN_DEG,
    Budget,
    u_scan_mm,
)
from vane_line.core.judge.verdicts import Verdict, by_size
from vane_line.core.judge.work import Correction
from vane_line.core.kinds.cavity import CavityCut
from vane_line.core.kinds.ring import RingCut
from vane_line.core.kinds.seen import Zoned
from vane_line.core.measure.reduction import DistanceField, area_below, field_of
from vane_line.core.measure.zones import Zones
from vane_line.core.mesh.surface import Surface
from vane_line.core.prepared import Distances
from vane_line.core.rigid import turn_about
from vane_line.core.trace.section import Axes

NUDGE_MM, NUDGE_DEG = 0.03, 0.4  # less than the edges of a scan's triangles: no zone is another one by that
OPEN_DEG = 1.0  # a path that may as well lie so far off moves the borders of zones
# Times so much, each way otherwise: no place crosses two borders at once.
NUDGES = (0.6, 0.8, 1.0, 1.2, 1.3, 1.1, 0.9, 0.7)


@dataclass(frozen=True, eq=False)
class Judgement:
    """Everything that depends on the standard."""

    standard: Standard
    zones: Zones
    space: DistanceField | None
    removed: DistanceField | None
    clearance: DistanceField | None
    moving: dict[str, DistanceField]  # by movement
    budget: Budget
    verdicts: list[Verdict]
    corrections: list[Correction]
    limit_min: Floats  # (N,) minimum reduction at each inside vertex, nan where none holds
    limit_max: Floats


def judge(geometry: Geometry, standard: Standard, tray: tuple[Bur, ...] | None = None) -> Judgement:
    """Hold the measured numbers against `standard`, its depths capped where the tooth is small; `tray`: burs to correct
    with, the generic set unless given."""
    held, high = hold(geometry, standard)
    asked = criteria.of_kind(geometry.options.restoration)
    verdicts = [v for criterion in asked for v in criterion.judge(held)]
    verdicts.sort(key=severity, reverse=True)
    return Judgement(
        standard=held.standard,
        zones=held.zones,
        space=held.space,
        removed=held.removed,
        clearance=held.clearance,
        moving=held.moving,
        budget=held.budget,
        verdicts=verdicts,
        corrections=worklist(verdicts, held, tray),
        limit_min=held.limit_min,
        limit_max=high,
    )


def hold(geometry: Geometry, standard: Standard) -> tuple[Held, Floats]:
    """All that criteria are judged from, and the greatest reduction at each inside vertex (N,), nan where none."""
    standard = fitted(standard, geometry.options.tooth)
    if geometry.options.dark and standard.reader == "window":
        standard = over_dark(standard)
    inside = geometry.inside
    budget = _budget(geometry)
    zones_of = partial(_zones, geometry, standard)
    zones = zones_of()  # the normals that they ask for go along when the inside is nudged
    tried = _tried(zones_of, geometry, budget)
    jobs: list[Job[Zones]] = [job for _, job in tried]
    jobs += (partial(zones_of, surface=inside.moved(m)) for m in _nudges(geometry.axes))
    others = each(jobs)
    elsewhere = [(say, found) for (say, _), found in zip(tried, others, strict=False)]
    nudged = tuple(others[len(tried) :])

    def told(distances: Distances) -> DistanceField:
        return field_of(inside, distances.value, distances.unseen, zones, elsewhere, distances.unresolved, nudged)

    asked = (geometry.space, geometry.tooth_removed, geometry.clearance)
    # Where the tooth as it was is what is built again, space and what was removed are one.
    distinct = {id(distances): distances for distances in asked if distances is not None}
    fields = dict(zip(distinct, each([partial(told, distances) for distances in distinct.values()]), strict=True))
    space, removed, gap = (fields.get(id(distances)) for distances in asked)
    held = Held(
        geometry=geometry,
        standard=standard,
        zones=zones,
        nudged=nudged,
        budget=budget,
        space=space,
        removed=removed,
        clearance=gap,
        moving=_moving(geometry, zones),
        limit_min=np.full(inside.n_vertices, np.nan),
    )
    limits = [held.limits_of(z) for z in zones.names]
    low = np.array([limit.min if limit else np.nan for limit in limits] + [np.nan])[zones.index]
    high = np.array([
        limit.max if limit and by_depth(geometry, z) else np.nan for z, limit in zip(zones.names, limits, strict=True)
    ] + [np.nan])[zones.index]  # fmt: skip
    return replace(held, limit_min=low), np.where(middle_of_face(geometry, zones), high, np.nan)


def _moving(geometry: Geometry, zones: Zones) -> dict[str, DistanceField]:
    """Clearance in each movement, by zone; what hangs on the zones' borders is told in intercuspation."""
    free = np.zeros(geometry.inside.n_vertices, dtype=bool)
    return {m.movement: field_of(geometry.inside, m.value, free, zones) for m in geometry.moving}


def severity(verdict: Verdict) -> float:
    """For ordering: proven faults by their size, then doubtful ones, then what could not be measured."""
    criterion = criteria.of(verdict.criterion)
    return by_size(verdict, criterion.weight if criterion else 1.0)


def _zones(
    geometry: Geometry, standard: Standard, turn_deg: float = 0.0, wider_mm: float = 0.0, moved: Floats | None = None,
    steeper_deg: float = 0.0, surface: Surface | None = None,
) -> Zones:  # fmt: skip
    """The zones, or what they would be: sides turned, the finish line's band wider, cusps `moved` (2,) in plan, what is
    no wall yet steeper; of the inside's vertices, or of a `surface` of as many."""
    anatomy = geometry.anatomy
    if moved is not None:
        anatomy = replace(anatomy, cusps={name: place + moved for name, place in anatomy.cusps.items()},
                          groove_y=anatomy.groove_y + moved[1])  # fmt: skip
    asked = Zoned(
        tooth=geometry.options.tooth, surface=surface or geometry.inside, axes=geometry.axes, line=geometry.line,
        cut=geometry.cut, anatomy=anatomy, functional_side=geometry.functional.side,
        band_width_mm=standard.widest_target_mm + wider_mm, turn_deg=turn_deg,
        steeper_deg=steeper_deg,
    )  # fmt: skip
    return geometry.kind.reader.zones(asked)


def _nudges(axes: Axes) -> list[Floats]:
    """(4, 4) each: a little to every side and turned a little, so that every border of zones is crossed by other
    places."""
    out = []
    ways = np.stack([axes.zero, axes.quarter, axes.up])
    for times, corner in zip(NUDGES, product((-1.0, 1.0), repeat=3), strict=True):
        matrix = turn_about(times * np.radians(NUDGE_DEG) * np.roll(corner, 1) @ ways, axes.origin)
        matrix[:3, 3] += times * NUDGE_MM * np.array(corner) @ ways
        out.append(matrix)
    return out


def _tried(zones_of: Callable[..., Zones], geometry: Geometry, budget: Budget) -> list[tuple[float, Job[Zones]]]:
    """What gives the zones with their borders moved both ways, each by its standard uncertainty or with that share of
    its say; zones_of: `_zones` of the case."""
    out: list[tuple[float, Job[Zones]]] = []
    axes = geometry.axes
    for sign in (-1.0, 1.0):
        if budget.turn_deg > 0:
            out.append((budget.turn_deg / TRIED_DEG, partial(zones_of, turn_deg=sign * TRIED_DEG)))
        out.append((1.0, partial(zones_of, wider_mm=sign * U_BAND_MM)))
        if isinstance(geometry.cut, RingCut | CavityCut):
            out.append((1.0, partial(zones_of, steeper_deg=sign * U_STEEP_DEG)))
        if geometry.anatomy.cusps:
            out += [(1.0, partial(zones_of, moved=sign * U_CUSP_MM * axis)) for axis in np.eye(2)]
        for way, about in ((axes.zero, axes.quarter), (axes.quarter, axes.zero)):
            if (open_deg := geometry.path.open_deg(way)) > OPEN_DEG:
                tilted = geometry.inside.moved(turn_about(sign * np.radians(open_deg) * about, axes.origin))
                out.append((1.0, partial(zones_of, surface=tilted)))
    return out


def _budget(geometry: Geometry) -> Budget:
    used = [a.u_align_um for r, a in geometry.alignment.items() if r != "opposing" and a.u_align_um is not None]
    bite = geometry.bite.u_mm if geometry.bite else 0.0
    scan = u_scan_mm(geometry.noise_um, geometry.patch_scatter_um)
    options = geometry.options
    path, given = hypot(U_PATH_DEG, geometry.path.open_deg()), options.path is not None
    return Budget(
        scan, max(used, default=0.0) / 1000, bite, geometry.edge_mm, wall_mm=geometry.cut.wall_mm,
        path_deg=0.0 if given else path, open_deg=0.0 if given else geometry.path.open_deg(),
        turn_deg=U_TURN_DEG if options.facial is None else 0.0,
        axis_deg=U_AXIS_DEG if options.occlusal is None or options.by_eye else 0.0,
    )  # fmt: skip


def short_area(geometry: Geometry, field: DistanceField, zones: Zones, name: str, limit: float | None) -> float | None:
    """Seen area below a limit, mm²; None where no limit holds."""
    return None if limit is None else area_below(geometry.inside, field, zones, name, limit)

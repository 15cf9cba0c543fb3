"""A bridge planned before cutting: the one path, and every abutment's target along it, measured like a preparation."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial
from itertools import combinations

import numpy as np

from vane_line.core import kinds
from vane_line.core.apart import Job, each
from vane_line.core.arrays import Floats
from vane_line.core.bridge.whole import check_span
from vane_line.core.burs import Bur
from vane_line.core.cut_too import arch_order
from vane_line.core.judge.standard_choice import fitted
from vane_line.core.judge.standards import Standard
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import Progress
from vane_line.core.plan.decide import Row, row_of
from vane_line.core.plan.depths import plan_sites
from vane_line.core.plan.plan import Ground, Plan, PlanOptions
from vane_line.core.plan.planner import check_lean, find_ground, plan_on
from vane_line.core.span.least import Uncut, Way, least, way
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.vectors import degrees_between, unit
from vane_line.errors import BadOption

LEAST, CHOSEN = "least tooth", "as chosen"


@dataclass(frozen=True, eq=False)
class PlannedAbutment:
    """One abutment's plan along the common path, what it costs there and what stays, and its own axis (3,), which would
    be best for it alone."""

    plan: Plan
    row: Row
    own: Floats


@dataclass(frozen=True, eq=False)
class PlannedBridge:
    """ways: what other paths would cost, the chosen one first."""

    direction: Floats
    ways: tuple[Way, ...]
    abutments: list[PlannedAbutment]

    @property
    def angle_deg(self) -> float:
        """The greatest between two abutments' own axes."""
        return max(float(degrees_between(a.own, b.own)) for a, b in combinations(self.abutments, 2))

    @property
    def target(self) -> Surface | None:
        """All targets in one body; None where one is missing."""
        bodies = [a.plan.target for a in self.abutments]
        known = [b for b in bodies if b is not None]
        if len(known) < len(bodies):
            return None
        start = np.cumsum([0, *(b.n_vertices for b in known[:-1])])
        faces = np.concatenate([b.faces + n for b, n in zip(known, start, strict=True)])
        return Surface(np.concatenate([b.vertices for b in known]), faces)


def plan_bridge(
    preop: Surface, opposing: Surface | None, abutments: Sequence[PlanOptions], pontics: list[ToothNumber],
    standards: dict[str, Standard], tray: tuple[Bur, ...], progress: Progress = lambda _text, _share: None,
) -> PlannedBridge:  # fmt: skip
    """Scans in one frame, mm; every abutment's options carry a point on it (`near`). standards: by FDI number. Raises
    UnfitScans, BadOption."""
    check_span([o.case for o in abutments], pontics)
    if any(kinds.of(o.case.restoration).plan != "die" for o in abutments):
        raise BadOption("bridge: it is planned on crowns so far; plan a partial crown by itself, along the same path.")
    order = sorted(abutments, key=lambda o: arch_order(o.case.tooth))
    progress("finding the teeth", 0.05)
    grounds = each([partial(_ground_along, preop, opposing, options, None) for options in order])
    for options, ground in zip(order, grounds, strict=True):
        check_lean(options.case.path, ground.frame.occlusal)
    progress("looking for the path along which the least tooth goes", 0.2)
    uncut = [_uncut(ground, standards[ground.options.case.tooth.fdi], tray) for ground in grounds]
    up = unit(np.sum([g.frame.occlusal for g in grounds], axis=0))
    own = [least([a], up) for a in uncut]
    given = [o.case.path for o in order if o.case.path is not None]
    best = least(uncut, up)
    direction = unit(given[0]) if given else best
    ways = [way(LEAST, best, uncut)]
    if given:
        ways.insert(0, way(CHOSEN, direction, uncut))
    ways += [way(f"along {a.tooth.fdi}", axis, uncut) for a, axis in zip(uncut, own, strict=True)]
    ways.append(way("half way between", unit(np.sum(own, axis=0)), uncut))
    progress("planning the teeth", 0.3)

    def planned(options: PlanOptions, axis: Floats) -> PlannedAbutment:
        ground = _ground_along(preop, opposing, options, direction)
        plan = plan_on(ground, standards[options.case.tooth.fdi], tray)
        return PlannedAbutment(plan, row_of(plan, ground), axis)

    jobs: list[Job[PlannedAbutment]] = [partial(planned, o, axis) for o, axis in zip(order, own, strict=True)]
    return PlannedBridge(direction, tuple(ways), each(jobs))


def _ground_along(preop: Surface, opposing: Surface | None, options: PlanOptions, path: Floats | None) -> Ground:
    """Of one tooth along a path, whatever its options say; None: along its own."""
    return find_ground(preop, opposing, replace(options, case=replace(options.case, path=path)))


def _uncut(ground: Ground, standard: Standard, tray: tuple[Bur, ...]) -> Uncut:
    case = ground.options.case
    mine = fitted(standard, case.tooth)
    sites = plan_sites(
        tooth=case.tooth, reference=ground.tooth.surface, anatomy=ground.anatomy, axes=ground.axes,
        functional_side=ground.functional.side, standard=mine, lift_mm=ground.lift_mm, known=True, why="", tray=tray,
    )  # fmt: skip
    return Uncut.of(ground, mine, sites)

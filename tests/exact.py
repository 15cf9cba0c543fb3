"""A made mouth's exact shapes, in one tooth's own axes: what is so at every place of what was measured there.

Used by `tests/reference/test_exact_shapes.py`, and on cuts of random form by `bench/truth.py`.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from repeats import PROVEN

from vane_line.core.arrays import Floats
from vane_line.core.case import Geometry
from vane_line.core.judge.judgement import Judgement
from vane_line.core.measure.reduction import DistanceField, field_of
from vane_line.core.measure.zones import Zones
from vane_line.core.mesh.surface import Surface
from vane_line.core.rigid import move_back
from vane_line.core.rings import degrees_apart
from vane_line.demo.scanner import surface_of
from vane_line.demo.scene import Scene, mocked, stood_before
from vane_line.demo.truth import finish_line_truth

GRID_MM = 0.08  # of shapes without noise, their vertices put on the shape itself
BESIDE_MM, BELOW_MM, OVER_MM, OPPOSING_MM = (1.2, 1.8), 1.5, 2.0, (2.0, 4.0)
FAR_MM, BESIDE_DEG = 0.3, 10.0  # a place of the line is misplaced, and those beside it may be


class Row(NamedTuple):
    """A verdict held against what is so: value, truth and U in mm; wrong: proven to be what it is not."""

    criterion: str
    zone: str
    status: str
    value: float
    truth: float
    u: float
    wrong: bool

    @property
    def within(self) -> bool:
        return abs(self.value - self.truth) <= self.u


@dataclass(frozen=True, eq=False)
class Exact:
    """Surfaces of the cut tooth, of what its depth is measured from, and of the teeth that bite on it."""

    cut: Surface
    reference: Surface
    opposing: Surface

    @classmethod
    def of(cls, scene: Scene, grid_mm: float = GRID_MM) -> Exact:
        mine, recipe = scene.mine, scene.recipe
        length, md, _, fl, _ = mine.tooth.size
        low = np.array([-md / 2 - BESIDE_MM[0], -fl / 2 - BESIDE_MM[1], -BELOW_MM])
        high = np.array([md / 2 + BESIDE_MM[0], fl / 2 + BESIDE_MM[1], length + OVER_MM])

        def local(shape: Callable[[Floats], Floats], up: tuple[float, float] = (0.0, 0.0)) -> Surface:
            return surface_of(lambda p: shape(mine.to_arch(p)), low + [0, 0, up[0]], high + [0, 0, up[1]], grid_mm)

        if recipe.mock is None:
            reference = local(stood_before(mine, scene.key, recipe).get(scene.key, mine))  # type: ignore[arg-type]
        else:
            reference = local(mocked(mine, recipe.mock), (0.0, recipe.mock.longer_mm))
        opposing = local(scene.other_jaw()[0], OPPOSING_MM)
        return cls(local(scene.cuts[scene.key]), reference, opposing)


def held_truly(scene: Scene, exact: Exact, geometry: Geometry, judged: Judgement) -> list[Row]:
    """Least reduction and clearance of each zone that was judged, from the exact shapes over the same places."""
    there = scene.mine.to_local(move_back(scene.to_prep, geometry.inside.vertices))
    place = exact.cut.closest(there)[2]
    truth: dict[str, dict[str, float]] = {}
    if judged.space is not None:
        truth["reduction"] = _lows(judged.space, -exact.reference.signed_distance(place)[0], geometry, judged.zones)
    if judged.clearance is not None:
        truth["clearance"] = _lows(judged.clearance, exact.opposing.signed_distance(place)[0], geometry, judged.zones)
    rows = []
    for v in judged.verdicts:
        so = truth.get(v.criterion, {}).get(v.zone)
        if so is None or v.bound != "min" or v.value is None or v.U is None or v.limit is None:
            continue
        wrong = v.status in PROVEN and (v.status == "meets") != (so >= v.limit)
        rows.append(Row(v.criterion, v.zone, v.status, v.value, so, v.U, wrong))
    return rows


def _lows(field: DistanceField, true: Floats, geometry: Geometry, zones: Zones) -> dict[str, float]:
    """By zone, of true distances (N,): summarised as what was measured is."""
    found = field_of(geometry.inside, true, field.unseen, zones).zones
    return {zone.zone: zone.low_mm for zone in found if zone.low_mm is not None}


def off_line(scene: Scene, geometry: Geometry) -> tuple[Floats, int]:
    """How far (A,) mm the line's points lie from the cut's own line, and how many of them are misplaced with an edge
    told there and all about."""
    axial, tooth = scene.recipe.axial, scene.mine.tooth
    assert axial is not None
    so = finish_line_truth(tooth, axial(tooth), np.arange(0, 360, 1.0), axial)
    points, line = scene.mine.to_local(move_back(scene.to_prep, geometry.line.points)), geometry.line
    along = np.roll(so, -1, axis=0) - so
    share = np.clip(((points[:, None] - so) * along).sum(axis=2) / (along**2).sum(axis=1), 0, 1)
    away = np.linalg.norm(points[:, None] - so - share[..., None] * along, axis=2).min(axis=1)
    doubted = line.azimuth_deg[~line.clear]
    sure = [len(doubted) == 0 or degrees_apart(doubted, a).min() > BESIDE_DEG for a in line.azimuth_deg]
    return away, int(((away > FAR_MM) & np.array(sure)).sum())

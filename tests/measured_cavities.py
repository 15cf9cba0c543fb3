"""Cavities of known form, measured once a process: what their tests share."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

from cavities import Cavity
from solids import facing

from vane_line.core.case import Geometry, measure
from vane_line.core.kinds.cavity import CavityCut
from vane_line.core.tooth.notation import ToothNumber

TOOTH = ToothNumber("37")
PLAIN = Cavity(grid_mm=0.18)
NOISY = replace(PLAIN, noise_um=9.0, grid_mm=0.18)
ONLAY = replace(NOISY, covered=("mesiolingual", "distolingual"), cover_mm=1.6, seed=5)


@cache
def measured(cavity: Cavity, kind: str = "onlay") -> Geometry:
    return measure(cavity.scans(), facing(TOOTH, restoration=kind))


def cut_of(geometry: Geometry) -> CavityCut:
    assert isinstance(geometry.cut, CavityCut)
    return geometry.cut


def wall(geometry: Geometry, zone: str) -> float:
    return next(w.divergence_deg for w in cut_of(geometry).walls if w.zone == zone)

"""Two stumps of known taper and lean in one scan, with a toothless stretch between them: answers in closed form.

Coordinates as in `solids`: x mesial, y facial, z occlusal. The front abutment stands at +half, the back one at -half of
the span, tipped about y by a known angle (positive: to mesial).
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np
from solids import Stump, plate

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface, merge
from vane_line.core.options import Options
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.scanner import surface_of

FRONT, BACK, PONTIC = ToothNumber("35"), ToothNumber("37"), ToothNumber("36")
RIDGE_MM = 0.8  # over the gingiva beside it


@dataclass(frozen=True)
class Span:
    """Lengths in mm, angles in degrees."""

    front: Stump = field(default_factory=lambda: Stump(facial_mm=4.2, mesial_mm=3.6))
    back: Stump = field(default_factory=lambda: Stump(facial_mm=4.8, mesial_mm=4.8))
    half_mm: float = 9.5
    tip_deg: float = 0.0
    gingiva_mm: float = 0.3
    noise_um: float = 6.0
    grid_mm: float = 0.22
    clearance_mm: float = 1.2
    grown_mm: float = 0.0  # by which the opposing tooth hangs into the space
    seed: int = 1

    def local(self, p: Floats, which: str) -> Floats:
        """Points in one abutment's own coordinates: tipped about the middle of its ledge."""
        if which == "front":
            return p - [self.half_mm, 0, 0]
        off = p - [-self.half_mm, 0, 1.6]
        t = np.radians(self.tip_deg)
        x, z = off[:, 0] * np.cos(t) - off[:, 2] * np.sin(t), off[:, 0] * np.sin(t) + off[:, 2] * np.cos(t)
        return np.stack([x, off[:, 1], z + 1.6], axis=1)

    def ridge(self, p: Floats) -> Floats:
        """Gingiva: level, and a rounded ridge over the toothless stretch."""
        free = np.clip((self.half_mm - 4.5 - np.abs(p[:, 0])) / 2.0, 0, 1)
        return p[:, 2] - self.gingiva_mm - RIDGE_MM * free * np.exp(-((p[:, 1] / 3.0) ** 2))

    def others(self, p: Floats) -> Floats:
        """An uncut tooth beyond either abutment, and the gingiva."""
        value = self.ridge(p)
        for side, near in ((1, self.front.mesial_mm), (-1, self.back.mesial_mm + 1.2)):
            off = p - [side * (self.half_mm + near + 1.4 + 4.2), -0.6, 0.0]
            body = (np.hypot(off[:, 0] / 4.2, off[:, 1] / (4.3 + 0.5 * (side < 0))) - 1) * 4.2
            crown = np.maximum(body, off[:, 2] - 6.0)
            for x, y, r in ((1.8, 2.0, 2.0), (-1.8, 2.1, 1.8), (1.7, -2.0, 1.9), (-1.9, -1.9, 1.8)):
                crown = np.minimum(crown, np.linalg.norm(off - [x, y, 5.4], axis=1) - r)
            value = np.minimum(value, crown)
        return value

    def scan(self, cut: bool) -> Surface:
        """Before or after cutting."""
        return _scan(self, cut)

    def opposing(self) -> Surface:
        """A level plate over the abutments and the gap, where the opposing tooth may have grown, and over the others so
        that they meet it."""
        level = self.front.top_mm - self.front.occlusal_mm + self.clearance_mm
        reach = self.half_mm - 4.6
        parts = [plate(reach, self.half_mm + 4.0, -5, 5, level, down=True),
                 plate(-self.half_mm - 5.0, -reach, -5, 5, level, down=True),
                 plate(-reach + 0.3, reach - 0.3, -5, 5, level - self.grown_mm, down=True)]  # fmt: skip
        for side, near in ((1, self.front.mesial_mm), (-1, self.back.mesial_mm + 1.2)):
            x = side * (self.half_mm + near + 1.4 + 4.2)
            parts.append(plate(x - 4, x + 4, -5, 5, level if self.clearance_mm > 1.9 else 7.4, down=True))
        return merge(parts)

    def scans(self, opposing: bool = False) -> Scans:
        return Scans(self.scan(True), self.scan(False), None, self.opposing() if opposing else None)

    def options(self) -> list[Options]:
        up, facial = np.array([0.0, 0, 1]), np.array([0.0, 1, 0])
        return [Options(t, occlusal=up, facial=facial) for t in (FRONT, BACK)]


@lru_cache(maxsize=8)
def _scan(span: Span, cut: bool) -> Surface:
    def shape(p: Floats) -> Floats:
        value = span.others(p) if not cut else np.minimum(span.others(p), span.ridge(p))
        for name, stump in (("front", span.front), ("back", span.back)):
            local = span.local(p, name)
            value = np.minimum(value, stump.cut(local) if cut else stump.tooth(local))
        return value

    reach = span.half_mm + 16.0
    low, high = np.array([-reach, -8.0, -1.0]), np.array([reach, 8.0, 9.0])
    surface = surface_of(shape, low - 0.011 * span.seed * cut, high, span.grid_mm)
    noise = span.noise_um / 1000 * np.random.default_rng(span.seed + cut).standard_normal(surface.n_vertices)
    return surface.with_vertices(surface.vertices + noise[:, None] * surface.vertex_normals)


__all__ = ["BACK", "FRONT", "PONTIC", "Span", "replace"]

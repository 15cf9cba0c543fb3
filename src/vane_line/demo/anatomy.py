"""Teeth as implicit functions: negative inside, near-distance in mm close to the surface.

Local coordinates of a tooth: x mesial, y facial, z occlusal, the origin at the centre of the neck.
Sizes are the published ones (M. M. Ash, S. J. Nelson, Wheeler's Dental Anatomy, from memory); the relief of
cusps and grooves is our own drawing.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property, lru_cache
from zlib import crc32

import numpy as np
from scipy.interpolate import PchipInterpolator

from vane_line.core.arrays import Floats
from vane_line.demo.drawing import both
from vane_line.demo.relief import Bent, HeightMap, heights

# crown length, mesiodistal, mesiodistal at the neck, faciolingual, faciolingual at the neck (mm)
BISECTIONS = 26  # of ten millimetres: a tenth of a micrometre
SIZES = {
    "11": (10.5, 8.5, 7.0, 7.0, 6.0), "12": (9.0, 6.5, 5.0, 6.0, 5.0), "13": (10.0, 7.5, 5.5, 8.0, 7.0),
    "31": (9.0, 5.0, 3.5, 6.0, 5.3), "32": (9.5, 5.5, 4.0, 6.5, 5.8), "33": (11.0, 7.0, 5.5, 7.5, 7.0),
    "14": (8.5, 7.0, 5.0, 9.0, 8.0), "15": (8.5, 7.0, 5.0, 9.0, 8.0),
    "16": (7.5, 10.0, 8.0, 11.0, 10.0), "17": (7.0, 9.0, 7.0, 11.0, 10.0),
    "34": (8.5, 7.0, 5.0, 7.5, 6.5), "35": (8.0, 7.0, 5.0, 8.0, 7.0),
    "36": (7.5, 11.0, 9.0, 10.5, 9.0), "37": (7.0, 10.5, 8.0, 10.0, 9.0),
    # Primary teeth: short crowns that swell over a narrow neck.
    "51": (6.0, 6.5, 4.5, 5.0, 4.0), "52": (5.6, 5.1, 3.7, 4.0, 3.7),
    "71": (5.0, 4.2, 3.0, 4.0, 3.5), "72": (5.2, 4.1, 3.0, 4.0, 3.5),
    "53": (6.5, 7.0, 5.1, 7.0, 5.5), "54": (5.1, 7.3, 5.2, 8.5, 6.9), "55": (5.7, 8.2, 6.4, 10.0, 8.3),
    "73": (6.0, 5.0, 3.7, 4.8, 4.0), "74": (6.0, 7.7, 6.5, 7.0, 5.3), "75": (5.5, 9.9, 7.2, 8.7, 6.4),
}  # fmt: skip

# Shares of the crown's length at which its widths are told; a primary crown swells close over its neck.
LEVELS, MILK_LEVELS = (0.3, 0.62, 0.85, 1.1, 1.5), (0.22, 0.5, 0.8, 1.1, 1.5)
# name: (mesial, facial) as shares of the mesiodistal and faciolingual size, height below the highest tip (mm)
CUSPS = {
    "14": {"facial": (0.0, 0.27, 0.0), "lingual": (0.03, -0.27, 0.9)},
    "15": {"facial": (0.0, 0.27, 0.0), "lingual": (0.02, -0.27, 0.3)},
    "16": {"mesiofacial": (0.22, 0.29, 0.1), "distofacial": (-0.23, 0.28, 0.3),
           "mesiolingual": (0.13, -0.27, 0.0), "distolingual": (-0.29, -0.28, 0.9)},
    "17": {"mesiofacial": (0.22, 0.29, 0.1), "distofacial": (-0.24, 0.26, 0.5),
           "mesiolingual": (0.12, -0.27, 0.0), "distolingual": (-0.29, -0.26, 1.2)},
    "34": {"facial": (0.0, 0.16, 0.0), "lingual": (0.05, -0.30, 2.2)},
    "35": {"facial": (0.02, 0.22, 0.0), "lingual": (0.05, -0.28, 0.7)},
    "36": {"mesiofacial": (0.24, 0.27, 0.4), "distofacial": (-0.10, 0.29, 0.5), "distal": (-0.37, 0.15, 0.9),
           "mesiolingual": (0.22, -0.30, 0.0), "distolingual": (-0.20, -0.30, 0.25)},
    "37": {"mesiofacial": (0.23, 0.27, 0.4), "distofacial": (-0.23, 0.27, 0.5),
           "mesiolingual": (0.23, -0.29, 0.0), "distolingual": (-0.23, -0.29, 0.3)},
    "54": {"mesiofacial": (0.06, 0.26, 0.0), "distofacial": (-0.28, 0.22, 0.7), "mesiolingual": (0.06, -0.28, 0.4)},
    "55": {"mesiofacial": (0.22, 0.28, 0.1), "distofacial": (-0.23, 0.27, 0.3),
           "mesiolingual": (0.13, -0.27, 0.0), "distolingual": (-0.28, -0.27, 0.8)},
    "74": {"mesiofacial": (0.18, 0.20, 0.2), "distofacial": (-0.24, 0.21, 0.6),
           "mesiolingual": (0.16, -0.27, 0.0), "distolingual": (-0.24, -0.27, 0.7)},
    "75": {"mesiofacial": (0.24, 0.26, 0.3), "distofacial": (-0.09, 0.28, 0.4), "distal": (-0.35, 0.16, 0.7),
           "mesiolingual": (0.22, -0.29, 0.0), "distolingual": (-0.20, -0.29, 0.2)},
}  # fmt: skip


RELIEF_SHARE, RELIEF_ROUND_MM = 0.85, 0.5  # of its rise over the plan; of the edge between it and the crown's sides


def smooth_max(a: Floats, b: Floats, k: float) -> Floats:
    """Maximum with its corner rounded over about `k` mm."""
    h = np.clip(0.5 + 0.5 * (a - b) / k, 0, 1)
    return b + (a - b) * h + k * h * (1 - h)


def smooth_min(a: Floats, b: Floats, k: float) -> Floats:
    """Minimum with its corner filled over about `k` mm."""
    return -smooth_max(-a, -b, k)


@dataclass(frozen=True, eq=False)
class Tooth:
    """One sound tooth; `number` is a key of SIZES."""

    number: str
    scale: float = 1.0
    cusp_height_mm: dict[str, float] = field(default_factory=dict)  # added to the drawing, per cusp
    stout_mm: float = 0.0  # by which a front tooth is thicker behind, towards its edge

    @property
    def upper(self) -> bool:
        return self.number[0] in "125"

    @property
    def primary(self) -> bool:
        return self.number[0] in "57"

    @property
    def front(self) -> bool:
        return self.number[1] in "123"

    @property
    def molar(self) -> bool:
        return self.number in ("55", "74", "75") or (not self.primary and self.number[1] in "678")

    @property
    def size(self) -> tuple[float, float, float, float, float]:
        a, b, c, d, e = (self.scale * v for v in SIZES[self.number])
        return a, b, c, d, e

    @property
    def cusps(self) -> dict[str, tuple[float, float, float]]:
        """Name: tip (x, y, z) in local mm."""
        length, md, _, fl, _ = self.size
        if self.front:
            return {}
        return {
            name: (m * md, f * fl + float(self.lean(length)), length - drop + self.cusp_height_mm.get(name, 0.0))
            for name, (m, f, drop) in CUSPS[self.number].items()
        }

    def lean(self, z: Floats | float) -> Floats | float:
        """How far the crown's middle lies facial of the neck's: lower teeth lean lingually."""
        if self.front:
            return 0.0 * np.asarray(z)
        return (-0.07 if not self.upper else 0.02) * np.clip(z, 0, None)

    @cached_property
    def _profiles(self) -> tuple[float, list[PchipInterpolator]]:
        """Highest level, and mesiodistal, facial and lingual half-widths by height."""
        length, md, neck_md, fl, neck_fl = self.size
        if self.front:
            levels = np.array([-14.0, -6.0, -1.5, 0.0, 0.30 * length, 0.78 * length, length, 1.3 * length])
            root = np.array([0.55, 0.82, 0.97])
            width = np.r_[root * neck_md, neck_md, 0.5 * (neck_md + md) + 0.15, md, 0.93 * md, 0.8 * md] / 2
            face = np.r_[root * neck_fl, neck_fl, fl, 0.66 * fl, 0.38 * fl, 0.1 * fl] / 2
            back = np.r_[root * neck_fl, neck_fl, fl, 0.10 * fl, -0.12 * fl, -0.2 * fl] / 2
            back[5:] += self.stout_mm * np.array([1.0, 0.8, 0.6])
            return float(levels[-1]), [PchipInterpolator(levels, p) for p in (width, face, back)]
        levels = np.array([-14.0, -6.0, -1.5, 0.0, *(MILK_LEVELS if self.primary else LEVELS)])
        levels[4:] *= length
        root = np.array([0.55, 0.82, 0.96])
        md_profile = np.r_[root * neck_md, neck_md, 0.5 * (neck_md + md), md, 0.96 * md, 0.86 * md, 0.7 * md] / 2
        f_profile = np.r_[root * neck_fl, neck_fl, fl, 0.97 * fl, 0.87 * fl, 0.72 * fl, 0.5 * fl] / 2
        l_profile = np.r_[root * neck_fl, neck_fl, 0.97 * fl, fl, 0.94 * fl, 0.80 * fl, 0.6 * fl] / 2
        return float(levels[-1]), [PchipInterpolator(levels, p) for p in (md_profile, f_profile, l_profile)]

    def _half_widths(self, z: Floats) -> tuple[Floats, Floats, Floats]:
        """Mesiodistal, facial and lingual half-widths at height z."""
        top, profiles = self._profiles
        a, b, c = (profile(np.clip(z, -14, top)) for profile in profiles)
        return a, b, c

    def _relief(self, fissures: bool) -> HeightMap:
        return _drawn(self.number, self.scale, tuple(sorted(self.cusp_height_mm.items())), fissures)

    def occlusal_height(self, x: Floats, y: Floats, fissures: bool = True) -> Floats:
        """Height (mm) of the occlusal relief over the plan position; a bur does not follow its fissures."""
        shape = np.broadcast(x, y).shape
        flat = (np.broadcast_to(v, shape).ravel() for v in (x, y))
        return self._relief(fissures)(*flat).reshape(shape)

    def __call__(self, points: Floats) -> Floats:
        """(N,) near-distance to the tooth for local points (N, 3)."""
        if self.front:
            return self._incisor(points)
        x, y, z = points[:, 0], points[:, 1], points[:, 2]
        length, md, _, fl, _ = self.size
        a, bf, bl = self._half_widths(z)
        yc = y - self.lean(z)
        # Upper molars are rhomboid, lower ones slightly narrower lingually.
        xs = x - (0.10 * yc if (self.upper and self.molar) else 0.0)
        a = a * (1 + (0.05 if not self.upper else 0.02) * np.clip(yc / (0.5 * fl), -1, 1))
        b = np.where(yc > 0, bf, bl)
        crown = np.clip(z / length, 0, 1)
        for gx, side, depth in self._body_grooves():
            near = np.exp(-(((xs - gx * md) / (0.07 * md)) ** 2)) * (np.sign(side) * yc > 0)
            b = b * (1 - depth * near * np.clip((crown - 0.35) / 0.4, 0, 1))
        n = 2.5 if self.molar else 2.15
        r = (np.abs(xs / a) ** n + np.abs(yc / b) ** n) ** (1 / n)
        body = (r - 1) * np.minimum(np.hypot(xs, yc) / np.maximum(r, 1e-6), 9.0)
        # So far under its lowest place that the body alone counts, the relief need not be known.
        near = np.flatnonzero((z - self._relief(True).lowest) * RELIEF_SHARE > body - RELIEF_ROUND_MM)
        top = (z[near] - self.occlusal_height(x[near], y[near])) * RELIEF_SHARE
        body[near] = smooth_max(body[near], top, RELIEF_ROUND_MM)
        return body

    def _incisor(self, points: Floats) -> Floats:
        """A front tooth: a shovel with a convex face, a hollow behind over a cingulum, and an edge (or a cusp)."""
        x, y, z = points[:, 0], points[:, 1], points[:, 2]
        length, md, _, fl, _ = self.size
        canine = self.number[1] == "3"
        a, bf, bl = self._half_widths(z)
        # The hollow behind lies between the marginal ridges, over the cingulum; a canine has a ridge down its middle.
        share = np.clip(z / length, 0, 1)
        hollow = np.exp(-(((share - 0.66) / 0.2) ** 2))
        if canine:
            beside = np.exp(-(((np.abs(x) - 0.2 * md) / (0.12 * md)) ** 2))
            bl = bl - 0.05 * fl * beside * hollow
        else:
            bl = bl - (0.075 if self.upper else 0.045) * fl * np.exp(-((np.abs(x) / (0.27 * md)) ** 3)) * hollow
        bl = bl + 0.035 * fl * np.exp(-((x / (0.26 * md)) ** 2)) * np.exp(-(((share - 0.26) / 0.12) ** 2))
        # Three lobes of the face, parted by two shallow furrows that run out towards the neck; a canine's middle one
        # stands out as its ridge.
        lobes = np.exp(-(((np.abs(x) - 0.18 * md) / (0.075 * md)) ** 2)) * np.clip((share - 0.3) / 0.4, 0, 1)
        bf = bf - (0.030 if canine else 0.022) * fl * lobes
        if canine:
            bf = bf + 0.04 * fl * np.exp(-((x / (0.16 * md)) ** 2)) * np.clip((share - 0.1) / 0.4, 0, 1) * (share < 1)
        middle, half = (bf - bl) / 2, np.maximum((bf + bl) / 2, 0.25)
        xs, ys = x / a, (y - middle) / half
        n = np.where(y > middle, 2.3, 2.1)
        r = (np.abs(xs) ** n + np.abs(ys) ** n) ** (1 / n)
        body = (r - 1) * np.minimum(np.hypot(x, y - middle) / np.maximum(r, 1e-6), 9.0) * 0.9
        drop = 0.9 * np.abs(x) / (0.5 * md) * (1.7 if canine else 0.0)
        mesial = 0.12 * (np.abs(x) / (0.5 * md)) ** 6 + np.where(x < 0, 0.5, 0.15) * np.abs(xs) ** 8
        top = z - (length - drop - mesial)
        return smooth_max(body, top * 0.9, 0.45)

    def _body_grooves(self) -> list[tuple[float, int, float]]:
        """(mesial share, side, depth share) of the developmental grooves running over the crown's sides."""
        if not self.molar:
            return []
        names = CUSPS[self.number]
        grooves = [((names["mesiofacial"][0] + names["distofacial"][0]) / 2, 1, 0.075)]
        grooves.append(((names["mesiolingual"][0] + names["distolingual"][0]) / 2, -1, 0.055))
        if "distal" in names:
            grooves.append((-0.26, 1, 0.05))
        return grooves

    def surface_radius(self, azimuth: Floats, z: Floats, centre: Floats, reach: float = 9.0) -> Floats:
        """Distance from the vertical line over `centre` (2,) to the surface, for azimuths (rad) at heights z.

        Azimuth 0 is facial, 90 degrees mesial.
        """
        low, high = np.full(len(azimuth), 0.5), np.full(len(azimuth), reach)
        for _ in range(BISECTIONS):
            mid = (low + high) / 2
            inside = self(_polar(azimuth, mid, z, centre)) < 0
            low, high = np.where(inside, mid, low), np.where(inside, high, mid)
        return (low + high) / 2


def _polar(azimuth: Floats, radius: Floats, z: Floats, centre: Floats) -> Floats:
    return np.stack([centre[0] + radius * np.sin(azimuth), centre[1] + radius * np.cos(azimuth), z], axis=1)


polar = _polar


@lru_cache(maxsize=64)
def _drawn(number: str, scale: float, cusp_height_mm: tuple[tuple[str, float], ...], fissures: bool) -> HeightMap:
    """The occlusal relief of a tooth, drawn once for all who stand it somewhere."""
    tooth = Tooth(number, scale, dict(cusp_height_mm))
    length, md, _, fl, _ = tooth.size
    middle = float(tooth.lean(length))
    ridges, grooves = both(tooth.cusps, (length, md, fl, middle), tooth.molar, tooth.upper)
    tips = np.array([tip[:2] for tip in tooth.cusps.values()])
    bent = Bent(crc32(number.encode()), tips)
    return heights((md / 2, fl / 2), middle, ridges, grooves if fissures else [], bent)

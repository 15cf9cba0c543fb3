"""Sets of prefabricated crowns: data, and the inside of each size in closed form."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.tooth.anatomy import size_of
from vane_line.core.tooth.notation import ToothNumber

FOLDER = Path(__file__).resolve().parents[2] / "crowns"


@dataclass(frozen=True)
class CrownSet:
    """A set as its data file has it. Lengths in mm; widths are the usual tooth's, changed by `steps_mm`."""

    id: str
    title: str
    material: str
    wall_mm: float
    top_mm: float
    drawn_in_mm: float
    gives_mm: float
    contour_share: float
    shoulder_mm: float
    roundness: float
    fuller_mm: float
    steps_mm: tuple[float, ...]

    def sizes(self, tooth: ToothNumber) -> list[Size]:
        """Of one tooth, the smallest first; numbered from 1."""
        height, mesiodistal, _, faciolingual, _ = size_of(tooth)
        out = []
        for k, step in enumerate(sorted(self.steps_mm)):
            share = (mesiodistal + step) / mesiodistal
            out.append(
                Size(self, str(k + 1), mesiodistal + step, share * faciolingual + self.fuller_mm, share**0.5 * height)
            )
        return out


@dataclass(frozen=True)
class Size:
    """One crown: outer mesiodistal and faciolingual width at its greatest contour, and height from the rim, mm."""

    set: CrownSet
    name: str
    mesiodistal_mm: float
    faciolingual_mm: float
    height_mm: float

    @property
    def inner_height_mm(self) -> float:
        """From the rim to the underside of the top."""
        return self.height_mm - self.set.top_mm

    def drawn_in(self, level_mm: Floats) -> Floats:
        """By how much the inside is narrower on each side at a height over the rim than at its contour."""
        s, high = self.set, self.inner_height_mm
        contour = s.contour_share * high
        below = np.clip(contour - level_mm, 0, None) / max(contour, 1e-9)
        above = np.clip((level_mm - contour) / (high - contour), 0, None)
        return s.drawn_in_mm * below**2 + s.shoulder_mm * above**2

    def overlap(self, points: Floats, level_mm: Floats) -> Floats:
        """(N,) how far points stand beyond the inside, mm, negative within it: (N, 2) mesial and facial of its middle.

        level_mm: (N,) over the rim. Along the ray from the middle, set right for the outline's slope there.
        """
        return self.beyond(points, self.halves(level_mm))

    def halves(self, level_mm: Floats) -> Floats:
        """(2, N) half-widths of the inside at heights over the rim: what does not change where the crown is moved."""
        narrower = self.set.wall_mm + self.drawn_in(level_mm)
        return np.stack([self.mesiodistal_mm / 2 - narrower, self.faciolingual_mm / 2 - narrower])

    def beyond(self, points: Floats, half: Floats) -> Floats:
        """As `overlap`, by the `halves` (2, N)."""
        share = np.maximum(np.abs(points.T) / np.maximum(half, 0.1), 1e-12)
        n = self.set.roundness
        power = share**n
        total = power[0] + power[1]
        out = np.maximum(total ** (1 / n), 1e-9)
        # A point a little outside lies (out - 1) / |gradient| off; the gradient is (share / out) ** (n - 1) / half.
        x, y = power / share / half
        return np.asarray((out - 1) / np.maximum(np.hypot(x, y) * out / np.maximum(total, 1e-30), 1e-9))


@cache
def sets() -> dict[str, CrownSet]:
    """The sets that ship with the program, by material."""
    found = {}
    for path in sorted(FOLDER.glob("*.toml")):
        data = tomllib.loads(path.read_text(encoding="utf-8"))
        made = CrownSet(**{**data, "steps_mm": tuple(data["steps_mm"])})
        found[made.material] = made
    return found

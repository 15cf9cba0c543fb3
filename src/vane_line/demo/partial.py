"""A back tooth cut for a partial crown: the face left standing behind a flare, a bur's groove in each end before it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.demo.anatomy import Tooth

BEVEL_DEG = 30.0  # to the axis
LEVEL_SHARE = 0.4  # of the crown's length: where a groove's depth is told under the wall


@dataclass(frozen=True)
class Furrow:
    """A groove of a round-ended bur led along the tooth's axis into an end wall: +1 the mesial, -1 the distal one; how
    deep under the wall, where it ends over the neck, how far lingual of the standing face's foot its middle lies."""

    end: float
    deep_mm: float = 1.0
    ends_mm: float = 1.3
    behind_mm: float = 1.0
    wide_mm: float = 1.0
    out_deg: float = 0.0  # by which it leans outward as it rises

    def hollow(self, wall_x: float, level: float, y: float, local: Floats) -> Floats:
        """(N,) negative where it takes tooth away. wall_x: how far out the wall stands at `level`, beside `y`."""
        lean = np.tan(np.radians(self.out_deg)) * (local[:, 2] - level)
        out = self.end * local[:, 0] - (wall_x - self.deep_mm + self.wide_mm / 2) - lean
        aside = local[:, 1] - y
        slot = np.where(out > 0, np.abs(aside), np.hypot(out, aside)) - self.wide_mm / 2
        return np.asarray(np.maximum(slot, self.ends_mm - local[:, 2]))


@dataclass(frozen=True)
class OpenFace:
    """What a partial crown leaves. foot_share: where the standing face begins at the line, facial of the middle, as a
    share of the faciolingual size; lean_deg: of its step to the axis; flare_deg: by which it opens outward beside the
    end walls; over_mm: how far over the facial cusps' ridge the chewing surface is cut."""

    foot_share: float = 0.2
    lean_deg: float = 5.0
    flare_deg: float = 30.0
    over_mm: float = 0.4
    furrows: tuple[Furrow, ...] = (Furrow(1.0), Furrow(-1.0))

    def __call__(
        self, tooth: Tooth, axial: Callable[[Floats], Floats], occlusal: Callable[[Floats], Floats]
    ) -> Callable[[Floats, Floats], Floats]:
        """What makes of a whole crown's stump (N,) at local points (N, 3) one with the face left and the grooves."""
        foot, level = self.foot(tooth), LEVEL_SHARE * tooth.size[0]
        facial = [(x, y) for x, y, _ in tooth.cusps.values() if y > float(tooth.lean(tooth.size[0]))]
        ridge_x, ridge_y = np.array(sorted(facial)).T
        mesial, distal = (self._wall(axial, level, 0.0, end) for end in (1.0, -1.0))
        lean, flare, bevel = np.tan(np.radians([self.lean_deg, self.flare_deg, BEVEL_DEG]))
        walls = [self._wall(axial, level, foot - f.behind_mm, f.end) for f in self.furrows]

        def cut(stump: Floats, local: Floats) -> Floats:
            x, y, z = local.T
            step = foot + lean * (z - level) + flare * np.maximum(np.maximum(x - mesial, -x - distal), 0.0)
            over = occlusal(local)
            # Over the cusps the cut's facial end leans outward.
            ridge = np.interp(x, ridge_x, ridge_y) + self.over_mm + bevel * np.maximum(over, 0.0)
            value = np.minimum(stump, np.maximum(step - y, np.minimum(over, ridge - y)))
            for furrow, wall in zip(self.furrows, walls, strict=True):
                value = np.maximum(value, -furrow.hollow(wall, level, foot - furrow.behind_mm, local))
            return np.asarray(value)

        return cut

    def foot(self, tooth: Tooth) -> float:
        """How far facial of the tooth's middle the standing face begins."""
        return self.foot_share * tooth.size[3]

    @staticmethod
    def _wall(axial: Callable[[Floats], Floats], level: float, y: float, end: float) -> float:
        """How far out an end wall stands at a level, beside `y`."""
        x = np.arange(0.0, 7.0, 0.005)
        inside = axial(np.stack([end * x, np.full_like(x, y), np.full_like(x, level)], axis=1)) < 0
        return float(x[inside].max())

    def truth(self) -> dict[str, Any]:
        """What is so of it."""
        return {
            "grooves": [
                {"side": "mesial" if f.end > 0 else "distal", "deep_mm": f.deep_mm, "wide_mm": f.wide_mm,
                 "out_deg": f.out_deg, "ends_mm": f.ends_mm}
                for f in self.furrows
            ]
        }  # fmt: skip

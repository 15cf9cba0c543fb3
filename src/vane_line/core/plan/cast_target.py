"""A partial crown planned: the crown's target where it covers, the face left standing, a groove in each end.

The target is what a crown's would be, united with the face: the tooth as it is, facially of a wall that rises in front
of the contacts and leans as the walls do, and under a facial cusp cut down to its depth and out over its ridge. A
groove is a straight channel along the path in the mesial and the distal wall.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Floats
from vane_line.core.judge.limits import general
from vane_line.core.mesh.surface import Surface
from vane_line.core.plan.body import GRID_MM, Standing, smooth_max
from vane_line.core.plan.plan import Ground
from vane_line.core.plan.target import EASE_MM, TargetPlan, back_depth, depth_under, occlusal_part, outside_die

CONTACT_MM = 0.35  # to the next tooth: nearer, the tooth is touched, or the scan spanned the gap
CLEAR_MM = 0.4  # of a contact, that the line runs in front of it
BEFORE_SHARE = (0.12, 0.30)  # of the faciolingual size before the middle, within which the wall stands
OVER_RIDGE_MM = 0.3  # that the facial cusp is cut on past its ridge
WIDE_MM = 1.0  # of a groove: the bur's (common practice, no source)
BEHIND_MM = 1.3  # from the standing face's wall to a groove's middle, tooth between them
NEAR_MM = 0.25  # of a groove's middle, where the wall it lies in is told
SKIN_MM = 0.35  # under the surface
FOOT_MM = 1.2  # over a groove's end, where its wall is told
TOP_MM = 0.25  # by which a wall that gives way more than it tapers is at its top


@dataclass(frozen=True)
class PlannedGroove:
    """Local: its axis's place in plan, which way is out of the tooth, and where it ends below."""

    x: float
    y: float
    out: float
    end: float

    def hollow(self, local: Floats) -> Floats:
        """(N,) negative where the bur takes tooth away."""
        out, aside = self.out * (local[:, 0] - self.x), local[:, 1] - self.y
        slot = np.where(out > 0, np.abs(aside), np.hypot(out, aside)) - WIDE_MM / 2
        return np.asarray(np.maximum(slot, self.end - local[:, 2]))


class CastTarget:
    """The target of one tooth on its ground. shape: as of a crown."""

    def __init__(self, ground: Ground, shape: TargetPlan) -> None:
        self._ground, self._shape = ground, shape
        self._local = ground.axes.local(ground.tooth.surface.vertices)

    def body(self) -> Surface:
        """The prepared tooth, open below."""
        tooth, axes = self._ground.tooth.surface, self._ground.axes
        there = Standing.of(tooth, axes, self._shape.line)
        die = outside_die(there.local, tooth, axes, self._shape, front=False)
        value = self._cut(there, die)
        for groove in self._grooves(there, die):
            value = np.maximum(value, -groove.hollow(there.local))
        return there.surfaced(value)

    def _grooves(self, there: Standing, die: Floats) -> list[PlannedGroove]:
        """One in each end, as deep as the standard asks at half its length. die: (N,) of a whole crown's target."""
        line, depth = self._shape.line, general()["groove-depth"].target or WIDE_MM
        y, found = self.wall_y - BEHIND_MM, []
        over_line = general()["groove-end"].target or 0.0
        for out in (1.0, -1.0):  # mesial, distal
            x, z = out * there.local[:, 0], there.local[:, 2]
            near = (die < 0) & (np.abs(there.local[:, 1] - y) < NEAR_MM) & (x > 0)
            ends = there.axes.azimuth_of(there.local[near & (there.ledge > 0)])
            if not len(ends):
                continue
            end = float(np.median(line.at(ends, line.height))) + over_line
            level = np.arange(end, float(z[near].max()), GRID_MM)
            skin = near & (die > -SKIN_MM)
            reach = x - die  # from a place just inside, out to the surface
            wall = np.array([reach[skin & (np.abs(z - at) < GRID_MM)].max(initial=0.0) for at in level])
            lean = (level - end) * np.tan(np.radians(self._shape.taper_deg))
            foot = float(np.median((wall + lean)[level - end < FOOT_MM])) if len(level) else 0.0
            stands = wall > foot - lean - TOP_MM
            if not stands.any():
                continue
            high = int(np.argmin(stands)) if not stands.all() else len(level)
            middle = float(np.interp((end + level[high - 1]) / 2, level, wall))
            found.append(PlannedGroove(out * (middle - depth + WIDE_MM / 2), y, out, end))
        return found

    @cached_property
    def wall_y(self) -> float:
        """How far facial of the tooth's middle the standing face begins at the line: in front of both contacts."""
        size = float(np.ptp(self._local[:, 1]))
        low, high = (share * size for share in BEFORE_SHARE)
        beside = self._ground.axes.local(self._ground.beside) if len(self._ground.beside) else np.zeros((0, 3))
        if not len(beside):
            return low
        touched = cKDTree(beside).query(self._local)[0] < CONTACT_MM
        before = float(np.quantile(self._local[touched, 1], 0.95)) + CLEAR_MM if touched.any() else low
        return float(np.clip(before, low, high))

    def _cut(self, there: Standing, die: Floats) -> Floats:
        """(N,) negative where the burs leave the tooth, grooves apart."""
        lean = np.tan(np.radians(self._shape.taper_deg))
        wall = self.wall_y + np.maximum(there.ledge, 0.0) * lean - there.local[:, 1]
        roof = self._wanted(there.local) - depth_under(self._over(), self._ground.axes.world(there.local))
        return np.minimum(die, np.maximum(smooth_max(there.body, roof, EASE_MM / 2), wall))

    def _wanted(self, local: Floats) -> Floats:
        sites = [s for s in self._shape.sites if s.depth_mm is not None]
        return back_depth(local[:, :2], sites, self._ground.axes) if sites else np.zeros(len(local))

    def _over(self) -> Surface:
        """The chewing surface, facially as far as its cusps' ridge and a little on."""
        axes = self._ground.axes
        ridge = max((float(p[1]) for p in self._tips()), default=self.wall_y) + OVER_RIDGE_MM
        top = float(np.quantile(self._local[:, 2], 0.995))
        part = occlusal_part(self._ground.tooth.surface, axes, float(self._shape.line.height.mean()), top)
        return part.keep_faces(axes.local(part.face_centres)[:, 1] < ridge)[0]

    def _tips(self) -> list[Floats]:
        """Local places of the facial cusps' tips."""
        names = self._ground.anatomy.cusps
        return [np.asarray(tip, dtype=float) for name, tip in names.items() if "facial" in name]

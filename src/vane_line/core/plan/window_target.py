"""A veneer's target: the tooth with its face taken down to the planned depths, as the burs that cut it would leave it.

Depths run from the finished surface (the mock-up, else the tooth before) by thirds of the face; the line runs over the
gingiva at the neck, short of the contacts beside, and over the edge or under it. The tooth behind stays as it is.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter1d
from scipy.spatial import cKDTree

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.plan.body import Standing, filleted_min, smooth_max
from vane_line.core.plan.depths import Site
from vane_line.core.plan.line import PlannedLine
from vane_line.core.plan.target import face_depth
from vane_line.core.trace.section import Axes

CHAMFER_MM = 0.3  # inner radius of a light chamfer
SHORT_MM = 0.2  # of the contact: there the line is seen and can be cleaned
CONTACT_MM, SPREAD_MM = 0.5, 0.1  # nearer to the next tooth is contact; as near as its nearest place is of it
UNDER_EDGE_MM = 1.0  # where the edge is not covered, the line runs so far below it
LEVEL_MM = 0.25  # half of a slice, in which the tooth's thickness is told
EDGE_STEP_MM, EDGE_EASE_MM, CORNER_MM = 0.2, 1.0, 0.6
CUSP_MM = 2.2  # a cusp's edge runs down to both sides: so far its facet goes with it
BESIDE_MM = 0.8  # from the line, over which its width passes into the depth of the face
MOST_SHARE = 0.75  # from the middle of the side to the face: the line stays on the side
LOW_SHARE = 0.5  # at the neck, where the side turns in under its widest place and would be an undercut
# Over so much of its height the tooth is thin: there a butt's line goes back past the middle, up to so much of it.
OVER_SHARE, BACK_SHARE, BACK_FROM_MM = 0.5, 0.5, 1.0
EDGE_MM = 0.42  # over which the edge of a butt's facet is rounded
CUSP_SHARE = (0.15, 0.7)  # of half its width, from its tip on, over which what is taken off a cusp grows less
CUSP_FACET_MM, RISES = 0.6, 2.0  # what is taken there, and mm per mm in which it runs out beyond
# Near the line, and on the sides from such a share of the half-width on, the tooth itself is cut by the line's width,
# whatever a mock-up adds to it: else no ledge would be left, or a hump.
ALONG_MM, SIDE_SHARE = 1.0, (0.6, 0.8)
LEAST_FACET_MM = 0.5  # off a tooth that a mock-up lengthens: a clear butt


@dataclass(frozen=True)
class End:
    """Where the line runs on a side: share of the way from the side's middle to the face, and the height (local) over
    which it may go back."""

    share: float
    free_mm: float


@dataclass(frozen=True, eq=False)
class WindowPlan:
    """What is cut. ends: mesial and distal; side_mm: depth beside; form: of the incisal end; groove_y: how far facial
    of the axis a back tooth's facial cusp ends, None of a front tooth: what lies behind it stays."""

    line: PlannedLine
    ends: tuple[End, End]
    side_mm: float
    sites: list[Site]
    form: str = "butt"
    groove_y: float | None = None


@dataclass(frozen=True, eq=False)
class Profile:
    """A tooth's thickness by level (L,): y of its sides' middles, mesial and distal, and of its face; local mm."""

    level: Floats
    beside: tuple[Floats, Floats]
    face: Floats
    half: Floats  # (L,) of its width

    @classmethod
    def of(cls, local: Floats) -> Profile:
        """local: (N, 3) mesial, facial, occlusal coordinates of its vertices."""
        x, y, z = local.T
        level = np.arange(z.min() + LEVEL_MM, z.max(), LEVEL_MM)
        rows = []
        for at in level:
            here = np.abs(z - at) < LEVEL_MM
            if here.sum() < 8:
                rows.append([np.nan] * 4)
                continue
            ends = [float(np.median(y[here][np.argsort(sign * x[here])[-4:]])) for sign in (1, -1)]
            rows.append([*ends, float(np.quantile(y[here], 0.98)), float(np.ptp(x[here])) / 2])
        found = np.array(rows)
        known = np.isfinite(found).all(axis=1)
        mesial, distal, face, half = (gaussian_filter1d(c, 2.0, mode="nearest") for c in found[known].T)
        return cls(level[known], (mesial, distal), face, half)

    def at(self, values: Floats, z: Floats) -> Floats:
        """Values by level at heights (N,)."""
        return np.asarray(np.interp(z, self.level, values))

    def side(self, x: Floats, z: Floats, ends: tuple[End, End], back: float) -> Floats:
        """(N,) y of the line beside, on the side on which a place lies; back: how far it goes back at the edge."""
        low, high, widest = self.level[0], self.level[-1], self.level[np.argmax(self.half)]
        under = np.clip((widest - z) / max(widest - low, 0.1), 0, 1)
        sides = []
        for y, end in zip(self.beside, ends, strict=True):
            begins = max(low + OVER_SHARE * (high - low), end.free_mm)
            rise = np.clip((z - begins) / max(high - begins, 0.1), 0, 1)
            share = end.share + max(LOW_SHARE - end.share, 0.0) * under
            middle = self.at(y, z)
            sides.append(middle + (share * (1 - rise) - back * rise) * (self.at(self.face, z) - middle))
        return np.where(x > 0, *sides)


def facial_part(local: Floats, groove_y: float | None) -> Floats:
    """Of a tooth's local places (N, 3) those of its face and its edge; of a back tooth what its facial cusp is."""
    return local if groove_y is None else local[local[:, 1] > groove_y]


def contact_ends(tooth: Surface, beside: Floats, axes: Axes, groove_y: float | None = None) -> tuple[End, End]:
    """Where the line ends, mesially and distally: short of each contact; beside a gap on the middle of the side.

    beside: (M, 3) points of the other teeth; groove_y: as of a WindowPlan.
    """
    local = axes.local(tooth.vertices)
    profile = Profile.of(facial_part(local, groove_y))
    away = cKDTree(beside).query(tooth.vertices)[0] if len(beside) else np.full(tooth.n_vertices, np.inf)
    out = []
    for sign, middle in zip((1.0, -1.0), profile.beside, strict=True):
        here = (sign * local[:, 0] > 0) & (away < CONTACT_MM)
        if not here.any():
            out.append(End(0.0, -np.inf))
            continue
        touching = local[here & (away < away[here].min() + SPREAD_MM)]
        y, z = float(np.quantile(touching[:, 1], 0.9)), float(np.median(touching[:, 2]))
        back, face = (float(profile.at(v, np.array([z]))[0]) for v in (middle, profile.face))
        share = float(np.clip((y + SHORT_MM + CHAMFER_MM - back) / max(face - back, 0.3), 0.0, MOST_SHARE))
        out.append(End(share, float(touching[:, 2].max()) + SHORT_MM + CHAMFER_MM))
    return out[0], out[1]


def window_body(tooth: Surface, finished: Surface, axes: Axes, shape: WindowPlan) -> Surface:
    """The prepared tooth, open below. tooth, finished: eased; finished is what depths are measured from."""
    there, cutting = Standing.of(tooth, axes, shape.line), _Cutting(tooth, finished, axes, shape)
    over = there.own
    if finished is not tooth:
        signed, face, place = finished.signed_distance(axes.world(there.local))
        over = np.where(finished.at_rim(face, place), -np.abs(signed), signed)  # beyond its border: deep
    return there.surfaced(np.maximum(there.body, cutting.kept(there.local, there.foot, there.own, over)))


class _Cutting:
    """What the burs leave of one tooth, told at local places (N, 3)."""

    def __init__(self, tooth: Surface, finished: Surface, axes: Axes, shape: WindowPlan) -> None:
        self._shape = shape
        own = axes.local(tooth.vertices)
        facial, over = (facial_part(p, shape.groove_y) for p in (own, axes.local(finished.vertices)))
        corner = CORNER_MM if shape.groove_y is None else CUSP_MM
        self._profile = Profile.of(facial)
        self._own_edge, self._edge = edge_over(facial, corner), edge_over(over, corner)
        high = facial[:, 2] > facial[:, 2].max() - corner
        self._tip, self._wide = float(facial[np.argmax(facial[:, 2]), 0]), float(np.abs(facial[high, 0]).max())
        self._depth = {site.zone: float(site.depth_mm or 0.0) for site in shape.sites}
        # The more of the edge goes, the further back the line may run under it; else its corner would be an undercut.
        across = facial[:, 0]
        taken = float(np.median(self._own_edge(across) - self._facet(across))) - LEAST_FACET_MM
        self._back = 0.0 if shape.form == "window" else BACK_SHARE * min(taken / BACK_FROM_MM, 1.0)
        left = self.left(own)
        a, b = tooth.edges[left[tooth.edges[:, 0]] * left[tooth.edges[:, 1]] < 0].T
        crossing = own[a] + (left[a] / (left[a] - left[b]))[:, None] * (own[b] - own[a])
        self._line = cKDTree(crossing if len(crossing) else own)

    def _facet(self, x: Floats) -> Floats:
        """(N,) height down to which the edge is taken; a cusp's least where it runs out into the sides."""
        deep, rises = np.full(len(x), self._depth.get("incisal-edge", 0.0)), np.zeros(len(x))
        if self._shape.groove_y is not None:
            aside = np.abs(x - self._tip) / self._wide
            less = np.clip((aside - CUSP_SHARE[0]) / np.ptp(CUSP_SHARE), 0, 1)
            deep = deep + (np.minimum(deep, CUSP_FACET_MM) - deep) * less
            rises = RISES * np.maximum(aside - CUSP_SHARE[1], 0.0) * self._wide  # else it would graze the end's ridge
        return np.minimum(self._edge(x) - deep, self._own_edge(x) - LEAST_FACET_MM) + rises

    def ledge(self, local: Floats) -> Floats:
        """(N,) height over the neck's line."""
        line = self._shape.line
        return np.asarray(local[:, 2] - line.at(Axes.azimuth_of(local), line.height))

    def left(self, local: Floats) -> Floats:
        """(N,) negative where the tooth stays as it is: below the neck's line, behind the sides', under the edge's."""
        x, y, z = local.T
        left = np.minimum(self.ledge(local), y - self._profile.side(x, z, self._shape.ends, self._back))
        return np.minimum(left, self._own_edge(x) - UNDER_EDGE_MM - z) if self._shape.form == "window" else left

    def kept(self, local: Floats, foot: Floats, own: Floats, over: Floats) -> Floats:
        """(N,) negative where the burs leave the tooth; own, over: how far places lie outside the tooth and the
        finished surface; foot: (N, 3) the nearest places on the tooth: a ledge is square to its surface."""
        x, _, z = local.T
        ledge, left = self.ledge(local), self.left(foot)
        share = ledge / np.maximum(self._edge(x) - (z - ledge), 1.0)
        away, _ = self._line.query(local, distance_upper_bound=ALONG_MM)  # from the line: infinite beyond
        aside = np.clip(1 - away / BESIDE_MM, 0, 1)
        wanted = face_depth(self._depth, share) * (1 - aside) + self._shape.side_mm * aside
        half = np.maximum(self._profile.at(self._profile.half, z), 1.0)
        sideways = (np.abs(x) / half - SIDE_SHARE[0]) / np.ptp(SIDE_SHARE)
        ramp = self._shape.side_mm * np.clip(np.maximum(1 - away / ALONG_MM, sideways), 0, 1)
        kept = filleted_min(np.maximum(over + wanted, own + ramp), left, CHAMFER_MM)
        if self._shape.form == "window":
            return kept
        facet = z - self._facet(x)
        if self._shape.groove_y is not None:  # the lingual cusp stands
            facet = np.minimum(facet, local[:, 1] - self._shape.groove_y)
        return smooth_max(kept, facet, EDGE_MM)


def edge_over(local: Floats, corner_mm: float = CORNER_MM) -> Callable[[Floats], Floats]:
    """Height of the incisal edge over x, eased, of vertices (N, 3); corner_mm: under its highest, how far down it is
    still the edge."""
    x, z = local[:, 0], local[:, 2]
    at = np.arange(x.min(), x.max() + EDGE_STEP_MM, EDGE_STEP_MM)
    level = np.array([z[np.abs(x - a) < EDGE_STEP_MM].max(initial=-np.inf) for a in at])
    # Near its corners the edge runs down into the sides: there the flat cut goes on as it comes.
    inner = np.isfinite(level) & (level > level.max() - corner_mm)
    eased = gaussian_filter1d(np.interp(at, at[inner], level[inner]), EDGE_EASE_MM / EDGE_STEP_MM, mode="nearest")
    return lambda places: np.asarray(np.interp(places, at, eased))

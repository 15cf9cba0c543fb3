"""A child's crown's target: the top lowered, and no ledge at its foot.

For metal the sides between the teeth are sliced, facial and lingual walls only rounded: their bulge holds the crown.
For zirconia the crown is taken down all round from its contour on, the walls under it nearly parallel. Either goes on
below the gingiva, which no scan before cutting shows: the target ends where the tooth was seen.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from scipy.ndimage import gaussian_filter1d
from scipy.spatial import cKDTree

from vane_line.core.arrays import Floats
from vane_line.core.judge.standards import Standard
from vane_line.core.mesh.surface import Surface
from vane_line.core.plan.body import GRID_MM, Standing, girth_over, smooth_max
from vane_line.core.plan.depths import Site
from vane_line.core.plan.line import PlannedLine
from vane_line.core.plan.target import back_depth, depth_under
from vane_line.core.plan.window_target import edge_over
from vane_line.core.trace.section import Axes

SLICE_LEAN_DEG = 3.0  # inward going up: a slice is led a little off the path
SLICE_MORE_MM = 0.05  # over what is wanted in the middle of a side: noise and an arched side take of it
EASE_MM, TOP_EASE_MM = 0.12, 0.35  # over which slices and faces, and the edge of the top, are rounded
LEVEL_MM, EVERY_DEG, CONTOUR_DEG = 0.1, 3.0, 6.0
CONTOUR_SHARE = 0.62  # of the height over the line: a primary tooth is widest no higher
HOLD_MM = 1.0  # below the contour, over which the form of the crown gives way to the wall
FACE_COSINE = 0.5  # of the turn from facial, from which on a front tooth's face ends
BEHIND_MM = 0.15  # more off a front tooth's sides and back: square to their bulges a wall lies nearer than across
OVER_PLACES = 6  # that tell the height of the chewing surface
UNDER_MM, RISE = 0.1, 0.25  # of the gingiva under the line, and per mm beside it
INNER_SHARE = 0.85  # of the contour's radius: further out its slopes are those of the walls
PLANE_SHARE, PLANE_DEG = 0.53, 16.0  # of the target's height, over which a front tooth's face leans in; by so much
EDGE_HALF_MM, EVEN_MM = 0.35, 0.3  # of a front tooth's thickness that stays as its edge; over which heights are told
SIDE_DEG = 15.0  # of a side's middle, to either hand, that tells where it is widest
ROUNDING_MM = 1.2  # over the contour, within which a rounded wall comes to its full depth


@dataclass(frozen=True)
class ChildDepths:
    """mm. slice: off each side between the teeth, None where the crown is taken down all round by `around`, None where
    it is sliced; face: off facial and lingual walls over their contour; lean_deg: of the walls that are cut; planes:
    whether a front tooth's face is cut in two; below_mm: how far the walls go on below the gingiva."""

    slice_mm: float | None
    around_mm: float | None
    face_mm: float
    lean_deg: float
    planes: bool
    below_mm: float

    @classmethod
    def of(cls, standard: Standard) -> ChildDepths:
        """As the standard wants them."""

        def wanted(name: str) -> float | None:
            return standard.general[name].target if name in standard.general else None

        taper = wanted("cervical-taper")
        return cls(
            slice_mm=wanted("slice"), around_mm=wanted("round-about"), face_mm=wanted("face-removed") or 0.0,
            lean_deg=SLICE_LEAN_DEG if taper is None else taper / 2, planes="planes" in standard.general,
            below_mm=wanted("cervical-depth") or 0.0,
        )  # fmt: skip


class ChildTarget:
    """The target of one tooth: what is left of it, and where its foot runs at the height of the line."""

    def __init__(self, tooth: Surface, axes: Axes, line: PlannedLine, depths: ChildDepths, front: bool) -> None:
        self._tooth, self._axes, self._line, self._depths, self._front = tooth, axes, line, depths, front
        self._local = axes.local(tooth.vertices)
        self._top = float(np.quantile(self._local[:, 2], 0.995))
        self._turn, self._contour, self._level = self._contours()
        # Of a side the depth is told square to it, not along the ray from the axis.
        slope = np.gradient(self._contour, np.radians(self._turn)) / self._contour
        self._cosine = 1 / np.hypot(1, slope)

    def _contours(self) -> tuple[Floats, Floats, Floats]:
        """Azimuths (A,), the greatest radius under CONTOUR_SHARE of the height there, and its height."""
        turn = np.arange(0.0, 360.0, EVERY_DEG)
        read = girth_over(self._local, self._line)
        low = self._line.at(turn, self._line.height)
        share = np.arange(0.0, 1.0 + 1e-9, LEVEL_MM / max(self._top - float(low.min()), 1.0)) * CONTOUR_SHARE
        level = low[:, None] + share * (self._top - low)[:, None]
        radius = read(np.repeat(turn, len(share)), level.ravel()).reshape(level.shape)
        widest = radius.argmax(axis=1)
        rows, sigma = np.arange(len(turn)), CONTOUR_DEG / EVERY_DEG
        return (turn, gaussian_filter1d(radius[rows, widest], sigma, mode="wrap"),
                gaussian_filter1d(level[rows, widest], sigma, mode="wrap"))  # fmt: skip

    def _at(self, azimuth_deg: Floats, field: Floats) -> Floats:
        return np.asarray(np.interp(azimuth_deg, self._turn, field, period=360))

    def line(self) -> PlannedLine:
        """The line, drawn in to where the cut walls cross its height."""
        line, turn = self._line, np.radians(self._line.azimuth_deg)
        toward = np.stack([np.sin(turn), np.cos(turn)], axis=1)
        radius = line.radius.copy()
        for _ in range(3):  # a wall's distance is square to it: along the ray a little more
            local = np.column_stack([radius[:, None] * toward, line.height])
            radius -= np.maximum(self.side(local), 0.0)
        return replace(line, radius=radius)

    def side(self, local: Floats) -> Floats:
        """(N,) how far places (N, 3) lie outside the walls that are cut."""
        x, y, z = local.T
        lean = np.radians(self._depths.lean_deg)
        azimuth = Axes.azimuth_of(local)
        if self._depths.around_mm is not None:
            behind = np.cos(np.radians(self._turn)) < FACE_COSINE
            depth = self._depths.around_mm + BEHIND_MM * (self._front & behind)
            foot = self._at(azimuth, self._contour - depth / self._cosine)
            off = np.hypot(x, y) - foot + (z - self._at(azimuth, self._level)) * np.tan(lean)
            return np.asarray(off * self._at(azimuth, self._cosine) * np.cos(lean))
        out = np.full(len(local), -np.inf)
        for sign, turn in ((1.0, 90.0), (-1.0, 270.0)):
            about = turn + np.arange(-SIDE_DEG, SIDE_DEG + 1e-9, EVERY_DEG)
            widest = float(np.median(self._at(about, self._contour) * np.abs(np.sin(np.radians(about)))))
            level = float(np.median(self._at(about, self._level)))
            reach = widest - (self._depths.slice_mm or 0.0) - SLICE_MORE_MM
            out = np.maximum(out, (sign * x - reach + (z - level) * np.tan(lean)) * np.cos(lean))
        return out

    def _face(self, local: Floats, own: Floats, foot: Floats) -> Floats:
        """(N,) how far places lie outside what follows the tooth's form over the contour; own: outside the tooth; foot:
        (N, 3) the nearest places on it."""
        over = foot[:, 2] - self._at(Axes.azimuth_of(foot), self._level)
        if self._depths.around_mm is None:
            return np.asarray(own + self._depths.face_mm * np.clip(over / ROUNDING_MM, 0, 1))
        depth = self._depths.around_mm * np.clip(1 + over / HOLD_MM, 0, 1)
        return np.asarray(own + (np.minimum(depth, self._spare(local[:, 2], own)) if self._front else depth))

    def _second_plane(self, local: Floats, lowered_mm: float) -> Floats:
        """(N,) how far places lie outside the plane in which a face's upper half leans in; lowered_mm: off the edge."""
        turn = np.zeros(1)
        low = float(self._line.at(turn, self._line.height)[0])
        level = low + PLANE_SHARE * (self._top - lowered_mm - low)
        out = float(self._at(turn, self._contour)[0]) - (self._depths.around_mm or 0.0)
        out -= (level - float(self._at(turn, self._level)[0])) * np.tan(np.radians(self._depths.lean_deg))
        lean = np.radians(PLANE_DEG)
        return np.asarray((local[:, 1] - out + (local[:, 2] - level) * np.tan(lean)) * np.cos(lean))

    def _spare(self, height: Floats, own: Floats) -> Floats:
        """(N,) depth that can be taken from face and back at a height: towards its edge a front tooth is thin, and an
        edge stays."""
        level = np.round((height - height.min()) / GRID_MM).astype(int)  # places lie on the grid
        half = np.zeros(int(level.max()) + 1)
        np.maximum.at(half, level, -own)
        return np.maximum(gaussian_filter1d(half, EVEN_MM / GRID_MM) - EDGE_HALF_MM, 0.0)[level]

    def _lowered(self, local: Floats, sites: list[Site]) -> Floats:
        """(N,) how far places lie over the lowered top."""
        if self._front:
            depth = self._off_edge(sites)
            return np.asarray(local[:, 2] - (edge_over(self._local)(local[:, 0]) - depth))
        wanted = back_depth(local[:, :2], [s for s in sites if s.depth_mm is not None], self._axes)
        skin = self._axes.local(self._chewing.vertices)
        _, over = cKDTree(skin[:, :2]).query(local[:, :2], k=OVER_PLACES)
        level = local[:, 2] - (skin[over, 2].mean(axis=1) - wanted)  # beyond the surface its edge is carried on, level
        return np.maximum(level, wanted - depth_under(self._chewing, self._axes.world(local)))

    @staticmethod
    def _off_edge(sites: list[Site]) -> float:
        return next((float(s.depth_mm or 0.0) for s in sites if s.zone == "incisal-edge"), 0.0)

    @cached_property
    def _chewing(self) -> Surface:
        """The chewing surface with its fissures; not the walls: primary crowns draw in so much that some of them nearly
        look up, too."""
        centre = self._axes.local(self._tooth.face_centres)
        turn = Axes.azimuth_of(centre)
        over = centre[:, 2] > self._at(turn, self._level)
        over &= np.hypot(centre[:, 0], centre[:, 1]) < INNER_SHARE * self._at(turn, self._contour)
        return self._tooth.keep_faces(over)[0]

    def body(self, sites: list[Site]) -> Surface:
        """The tooth with what is planned taken off it, open below."""
        there = Standing.of(self._tooth, self._axes, self._line)
        local = there.local
        sides = smooth_max(self.side(local), self._face(local, there.own, there.foot), EASE_MM)
        if self._depths.planes and self._front:
            sides = smooth_max(sides, self._second_plane(local, self._off_edge(sites)), EASE_MM)
        high = there.ledge > 0.5  # lower down no place lies under the chewing surface
        cut = sides.copy()
        cut[high] = smooth_max(sides[high], self._lowered(local[high], sites), TOP_EASE_MM)
        # The gingiva stands round it, as it will on the scan: there the reader finds where the wall ends.
        beside = np.hypot(local[:, 0], local[:, 1]) - self._line.at(Axes.azimuth_of(local), self._line.radius)
        gingiva = there.ledge + UNDER_MM - RISE * np.maximum(beside, 0.0)
        return there.surfaced(np.minimum(smooth_max(there.body, cut, EASE_MM), gingiva))

"""An outline in the words of a finish line, and what is surveyed round one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.measure.finish_line import DOUBTFUL_MM, FinishLine
from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.curve import Outline
from vane_line.core.rings import longest_run
from vane_line.core.survey import Survey
from vane_line.core.tooth.reference import ReferenceTooth
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import dot

OUTSIDE_MM = 0.1  # nearer to the line than this, triangles of what was cut reach beyond it


@dataclass(frozen=True, eq=False)
class OutlineLine(FinishLine):
    """The outline as a finish line, its azimuth told about the tooth's middle and not rising; beside it the angle
    (degrees, nan where not told), the direction out of the cut and the normal of the uncut surface, point by point;
    mask: (V,) of the crop, cut."""

    cavosurface_deg: Floats
    outward: Floats
    skin: Floats
    mask: Bools

    @property
    def outline(self) -> Outline:
        return Outline(self.points, self.cavosurface_deg, self.clear, self.drawn, self.outward, self.skin)

    def encloses(self, places: Floats) -> Bools:
        """(N,) which places of the scan lie inside the line for certain, by the nearest of its points."""
        _, nearest = cKDTree(self.points).query(places)
        inward = dot(self.points[nearest] - places, self.outward[nearest])
        return np.asarray(inward > np.where(self.clear[nearest], OUTSIDE_MM, DOUBTFUL_MM))


@dataclass(frozen=True, eq=False)
class OutlineSurvey(Survey):
    """Of a cut whose line does not go round the tooth. teeth: the tooth on the earlier scans by role; girth: the line
    round the whole tooth; about: axes by which the line goes round; view: along which it is seen as a ring, nothing of
    the cut behind another part of it."""

    teeth: dict[str, ReferenceTooth]
    girth: FinishLine
    crop: Surface  # the scan round the tooth, as scanned and freed of noise
    eased: Surface
    about: Axes
    view: Axes


def line_of(outline: Outline, mask: Bools, axes: Axes) -> OutlineLine:
    """An outline in the words of a finish line."""
    azimuth, radius, height = axes.cylinder(outline.points)
    count = len(azimuth)
    return OutlineLine(
        points=outline.points, azimuth_deg=azimuth, radius=radius, height=height,
        turn_deg=180 - np.nan_to_num(outline.cavosurface_deg, nan=180.0), clear=outline.clear,
        index=np.zeros(count, dtype=np.int64), gap_deg=360 * longest_run(~outline.clear) / count, drawn=outline.drawn,
        band_mm=np.full(count, np.nan), cavosurface_deg=outline.cavosurface_deg, outward=outline.outward,
        skin=outline.skin, mask=mask,
    )  # fmt: skip


def along_mm(points: Floats) -> list[float]:
    """Of each of a line's points (K, 3), how far along it lies from the first."""
    steps = np.linalg.norm(np.diff(points, axis=0), axis=1)
    return [float(v) for v in np.r_[0.0, np.cumsum(steps)]]

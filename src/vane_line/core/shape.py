"""What follows from the finish line, the walls and the path: measured again together when one of them moves."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.measure.convergence import EASE_DEG, Walls
from vane_line.core.measure.ferrule import SectorFerrule, ferrule
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.insertion import Insertion, check_insertion
from vane_line.core.measure.line_form import LineForm, line_form, read_with
from vane_line.core.measure.margin import Margin, margin
from vane_line.core.measure.retention import SIDE_HALF_DEG, SIDES, Retention, retention
from vane_line.core.measure.undercut import Undercut, find_undercut
from vane_line.core.mesh.surface import Surface
from vane_line.core.rings import degrees_apart, running_median
from vane_line.core.trace.section import Axes, Profiles
from vane_line.core.trace.wall import WallRuns

LEAST_SHARE = 0.05
LEAST_AZIMUTHS = 10


@dataclass(frozen=True, eq=False)
class Around:
    """Curves (N, 3) beside the finish line, None where not known: the gingiva's line drawn, its seam with the tooth on
    the earlier scan, and a core's border."""

    gingiva: Floats | None = None
    seam: Floats | None = None
    core: Floats | None = None
    front: bool = False


@dataclass(frozen=True, eq=False)
class Told:
    """The walls, and what is read with them: the finish line's form, how they hold and what remains.

    draft_deg: least draft of each side's wall, where it is not undercut.
    """

    walls: Walls
    form: LineForm
    retention: Retention
    draft_deg: dict[str, float]


@dataclass(frozen=True, eq=False)
class Shape(Told):
    """The preparation's form.

    otherwise: as walls may as well be told: differently where they have no one slope.
    """

    otherwise: tuple[Told, ...]
    undercut: Undercut
    insertion: Insertion | None
    margin: Margin
    ferrule: list[SectorFerrule] | None  # None where no core is known

    def open_by(self, value: Callable[[Told], float | None]) -> float:
        """Standard uncertainty of what is read from the walls, in its unit, by how they may as well be told."""
        here = value(self)
        if here is None or not np.isfinite(here):
            return 0.0
        others = [value(told) for told in self.otherwise]
        return max((abs(v - here) / 2 for v in others if v is not None and np.isfinite(v)), default=0.0)


def measure_shape(
    rings: Profiles,
    runs: WallRuns,
    walls: Walls,
    otherwise: tuple[Walls, ...],
    line: FinishLine,
    noise_um: float,
    crown: Floats | None,
    neighbours: Floats,
    beside: Floats,
    around: Around,
) -> Shape:
    """walls, otherwise: over the line. crown: (C, 3) points of the planned crown, None where it is not known.
    neighbours: (M, 3) points of the other teeth's crowns. beside: (B, 3) of all that is seen of them: what stands
    just over the line lies under their crowns where these are long.
    """
    insertion = None
    if crown is not None and len(crown) and len(neighbours):
        insertion = check_insertion(crown, neighbours, rings.axes, line)
    undercut = find_undercut(rings, line, noise_um, *walls.samples(rings.axes))
    form = line_form(rings, line, walls, noise_um, runs)
    others = tuple(
        Told(w, read_with(form, rings, line, w), retention(line, w), side_drafts(w, undercut)) for w in otherwise
    )
    return Shape(
        walls=walls, form=form, retention=retention(line, walls), otherwise=others, undercut=undercut,
        draft_deg=side_drafts(walls, undercut), insertion=insertion,
        margin=margin(line, rings.axes, around.gingiva, around.seam, beside, around.front),
        ferrule=None if around.core is None else ferrule(rings, runs, line, around.core),
    )  # fmt: skip


def side_drafts(walls: Walls, undercut: Undercut, turn_deg: float = 0.0) -> dict[str, float]:
    """The taper that LEAST_SHARE of each side's wall stays under. An undercut is said for itself and left out here.

    turn_deg: by which the sides are turned on. Each row is the median of its neighbourhood: a quantile of rows that
    scatter reads low, by up to half a degree where the wall is short.
    """
    out = {}
    told = np.isfinite(walls.leaning) & ~undercut.covers(walls.azimuth_deg)
    lean = running_median(np.where(told, walls.leaning, np.nan), EASE_DEG)
    for side, middle in SIDES.items():
        here = told & (degrees_apart(walls.azimuth_deg, middle + turn_deg) <= SIDE_HALF_DEG)
        if here.sum() >= LEAST_AZIMUTHS:
            out[side] = float(np.quantile(lean[here], LEAST_SHARE))
    return out


def crown_points(reference: Surface | None, line: FinishLine, axes: Axes) -> Floats | None:
    """(C, 3) the planned crown: the reference tooth above the finish line; None without a reference."""
    if reference is None:
        return None
    azimuth, _, height = axes.cylinder(reference.vertices)
    return np.asarray(reference.vertices[height > line.at(azimuth, line.height)])

"""The finish line's form along its course: width, cavosurface angle, inner radius, form, J-margin, steps, roughness.

Everything is read on the half-planes through the axis and set right for the angle between half-plane and the line's own
normal, so that numbers hold in the plane of the path and the line's normal.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from vane_line.core.arrays import AnyArray, Bools, Floats
from vane_line.core.measure.convergence import Walls, outline_cosine
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.passing import Passing, find_passing
from vane_line.core.measure.undercut import sector_of
from vane_line.core.rings import degrees_apart, ring_runs, running_median, true_about
from vane_line.core.trace.section import STEP_MM, Profiles, straight_fit
from vane_line.core.trace.wall import WallRuns
from vane_line.core.vectors import xyz

SPACING_MM = 0.1
LEAVE_MM = 0.05  # nearest the edge, rounded by scan and bur
INSIDE_MM, OUTSIDE_MM = 0.30, 0.50  # of the straight fits for the cavosurface angle
LEAST_FIT_MM = 0.20
RISING_DEG = 10.0  # where the ground outside rises like this it is gingiva
FEATHER_DEG, BEVEL_DEG = 150.0, 140.0
SLOPED_DEG = (105.0, 140.0)
NO_LEDGE_MM = 0.15
FLAT_SHARE = 0.30
SHARP_MM = 0.20
HEAVY_MM = 0.80
RIM_MM = 0.20  # a lip is no wider
EASE_MM = 0.5  # widths are medians over this much of the line for their summary
SUMMARY_SHARE = 0.02  # of the line that may be narrower than `low` and wider than `high`
BESIDE_DOUBT = 6  # samples beside a doubtful stretch that have no say in the widths
STEP_NEAR_MM, STEP_FAR_MM = 0.20, 0.90  # a step is the gap between straight fits to either side
STEP_LEAST_MM = 0.10
STEP_TOLD_SHARE = 0.8  # of the line round a step that must be clear
STEP_WITHIN_MM = 0.30
ABRUPT_SHARE = 0.5  # of a step's height that happens within STEP_WITHIN_MM
LIP_LEAST_MM = 0.03  # a lip lower than this is the scan's
LIP_LENGTH_MM = 0.5
STEP_ASIDE_DEG, SMALL_ASIDE_DEG = 15.0, 4.0  # a step and its fading are no roughness
STEP_LARGE_MM = 0.20  # smaller ones may be part of a rough stretch
ROUGH_STRETCH_MM = 2.5  # roughness is judged over the worst stretch this long
COURSE_MM = 1.0  # roughness is what is left of a smooth course this long
SNAP_UM, SNAP_PER_NOISE = 5.0, 0.62  # scatter of the traced line on perfect ledges (docs/uncertainty.md)


@dataclass(frozen=True)
class Step:
    """A sudden change of the line's height; overlap_deg: from, to, where both stretches run past each other."""

    azimuth_deg: float
    sector: str
    height_mm: float
    at: tuple[float, float, float]
    overlap_deg: tuple[float, float] | None = None


@dataclass(frozen=True)
class Lip:
    """A stretch with an outer rim (J-margin): from, to, and the greatest height."""

    from_deg: float
    to_deg: float
    height_mm: float


@dataclass(frozen=True, eq=False)
class LineForm:
    """Per sample (S,) every SPACING_MM along the line; nan or '' where an attribute is not told.

    s_mm, azimuth_deg, width_mm, cavosurface_deg, inner_radius_mm, lip_mm, height_mm (along the path, over the line's
    mean level), form, points (S, 3), clear.
    """

    s_mm: Floats
    azimuth_deg: Floats
    points: Floats
    width_mm: Floats
    cavosurface_deg: Floats
    inner_radius_mm: Floats
    lip_mm: Floats
    height_mm: Floats
    form: AnyArray
    clear: Bools
    steps: list[Step]
    lips: list[Lip]
    roughness_um: tuple[float, float]  # vertical, horizontal, over the whole line
    roughest_um: float  # over the worst ROUGH_STRETCH_MM
    roughest_deg: float

    def width_summary(self, mask: Bools | None = None) -> tuple[float, float, float] | None:
        """Low, median and high width over the samples of `mask`, free of single odd ones; None where none is told."""
        eased = eased_widths(self.width_mm)
        # Beside a doubtful stretch the edge is on its way out of sight: where just it ends must not decide.
        clear = np.all([np.roll(self.clear, k) for k in range(-BESIDE_DOUBT, BESIDE_DOUBT + 1)], axis=0)
        known = np.isfinite(eased) & clear & (True if mask is None else mask)
        if known.sum() < 3:
            return None
        low, median, high = np.quantile(eased[known], [SUMMARY_SHARE, 0.5, 1 - SUMMARY_SHARE])
        return float(low), float(median), float(high)


def line_form(rings: Profiles, line: FinishLine, walls: Walls, noise_um: float, runs: WallRuns) -> LineForm:
    """Read the form on every profile, then sample it every SPACING_MM along the line."""
    cosine = outline_cosine(line.radius)
    rows = len(line.azimuth_deg)
    width = (line.radius - walls.radius_at(line.height)) * cosine
    cavosurface, inner, fillet, lip = (np.full(rows, np.nan) for _ in range(4))
    for k in range(rows):
        if walls.found[k]:
            cavosurface[k], inner[k], fillet[k], lip[k] = _read(
                rings, line, walls, k, float(cosine[k]), float(width[k])
            )
    form = np.array([_form(*row) for row in zip(width, cavosurface, inner, fillet, strict=True)])
    # A cut that runs out has no edge to see, but what is there is told: no ledge.
    runs_out = np.isfinite(line.band_mm) & (width < NO_LEDGE_MM)
    form[runs_out] = "feather"
    width = np.where(runs_out, np.maximum(width, 0.0), width)

    s, at = _resampled(line)
    nearest = np.round(at).astype(int) % rows  # forms do not mix
    height, radius = (np.interp(at, np.arange(rows), field, period=rows) for field in (line.height, line.radius))
    azimuth = at * 360 / rows % 360
    points = rings.axes.places(azimuth, radius, height)
    clear, edge = np.asarray((line.clear | runs_out)[nearest]), np.asarray(line.clear[nearest])
    steps = _steps(height, azimuth, points, edge)
    steps = _overlapped(steps, find_passing(rings, runs, line, [f.azimuth_deg for f in steps]))
    rough = _roughness(azimuth, height, radius, edge, steps, noise_um)
    lip_s = lip[nearest]
    return LineForm(
        s, azimuth, points, width[nearest], cavosurface[nearest], inner[nearest], lip_s,
        height - float(np.mean(height)),
        form[nearest], clear, steps, _lips(azimuth, lip_s, edge), *rough,
    )  # fmt: skip


def _read(
    rings: Profiles, line: FinishLine, walls: Walls, k: int, cosine: float, width: float
) -> tuple[float, float, float, float]:
    """Cavosurface angle, inner radius, how much of the ledge the fillet takes, and lip on one profile."""
    edge = int(line.index[k])
    r, h = rings.radius[k] * cosine, rings.height[k]
    ledge_mm = min(INSIDE_MM, 0.8 * width)
    inside = straight_fit(r, h, edge - round((LEAVE_MM + ledge_mm) / STEP_MM), edge - round(LEAVE_MM / STEP_MM))
    outside = _root(r, h, edge)
    angle = float("nan")
    if width < NO_LEDGE_MM:
        # No ledge: the wall itself meets the root.
        lean = np.arctan(walls.slope[k] * cosine)
        inside = (np.array([line.radius[k] * cosine, line.height[k]]), np.array([np.sin(lean), np.cos(lean)]))
    if inside is not None and outside is not None:
        towards = inside[1] if width < NO_LEDGE_MM or inside[1][0] < 0 else -inside[1]
        away = outside if outside[1] < 0 else -outside
        angle = float(np.degrees(np.arccos(np.clip(towards @ away, -1, 1))))
    radius, fillet = float("nan"), float("nan")
    if inside is not None:
        radius, fillet = _inner_radius(r=r, h=h, edge=edge, ledge=inside, walls=walls, k=k, cosine=cosine, width=width)
    return angle, radius, fillet, _lip(h, edge, width)


def _root(r: Floats, h: Floats, edge: int) -> Floats | None:
    """Direction of the uncut surface outside the edge, as far as it goes down; None where too little is seen."""
    first = edge + round(LEAVE_MM / STEP_MM)
    last = first
    while last < min(first + round(OUTSIDE_MM / STEP_MM), len(r) - 3):
        dr, dh = r[last + 2] - r[last], h[last + 2] - h[last]
        if not np.isfinite(dr + dh) or np.degrees(np.arctan2(dh, abs(dr))) > RISING_DEG:
            break
        last += 1
    if last - first < round(LEAST_FIT_MM / STEP_MM):
        return None
    fit = straight_fit(r, h, first, last)
    return None if fit is None else fit[1]


def _inner_radius(
    r: Floats, h: Floats, edge: int, ledge: tuple[Floats, Floats], walls: Walls, k: int, cosine: float, width: float
) -> tuple[float, float]:
    """Radius of the fillet, from how far it stays off the corner of wall and ledge, and its length along the ledge.

    A circle of radius R that touches two lines meeting at an angle a stays R (1/sin(a/2) - 1) off their corner, and
    touches them R/tan(a/2) away from it.
    """
    nothing = float("nan"), float("nan")
    if width < NO_LEDGE_MM:
        return nothing
    up = np.array([walls.slope[k] * cosine, 1.0])
    up /= np.linalg.norm(up)
    out = ledge[1] if ledge[1][0] > 0 else -ledge[1]
    base = np.array([walls.at_zero[k] * cosine, 0.0])
    matrix = np.stack([up, -out], axis=1)
    if abs(np.linalg.det(matrix)) < 0.2:
        return nothing
    t = np.linalg.solve(matrix, ledge[0] - base)[0]
    corner = base + t * up
    first = max(edge - round((width + 1.2) / STEP_MM), 0)
    off = np.hypot(r[first : edge + 1] - corner[0], h[first : edge + 1] - corner[1])
    if not np.isfinite(off).any():
        return nothing
    half = np.arccos(np.clip(up @ out, -1, 1)) / 2
    radius = float(np.nanmin(off) / max(1 / np.sin(half) - 1, 0.05))
    return radius, radius / float(np.tan(half))


def _lip(h: Floats, edge: int, width: float) -> float:
    """Height of an outer rim above the deepest place inside it."""
    reach = max(round(width / STEP_MM), 3)
    first = max(edge - reach, 1)
    part = h[first - 1 : edge + 3]
    if len(part) < 5 or not np.isfinite(part).all():
        return float("nan")
    eased = np.convolve(part, np.ones(3) / 3, "valid")
    rim_from = max(len(eased) - 2 - round(RIM_MM / STEP_MM), 0)
    top = rim_from + int(np.argmax(eased[rim_from:]))
    return float(max(eased[top] - eased[: top + 1].min(), 0.0))


def _form(width: float, cavosurface: float, radius: float, fillet: float) -> str:
    """The form's name, '' where it cannot be told. fillet: how much of the ledge is curved, mm."""
    if not np.isfinite(width):
        return ""
    if width < NO_LEDGE_MM or cavosurface > FEATHER_DEG:
        return "feather"
    if cavosurface > BEVEL_DEG:
        return "bevelled"
    if not np.isfinite(radius):
        return ""
    flat = 1 - fillet / width
    if flat < FLAT_SHARE:
        return "heavy-chamfer" if width >= HEAVY_MM else "chamfer"
    if SLOPED_DEG[0] < cavosurface <= SLOPED_DEG[1]:
        return "sloped-shoulder"
    return "shoulder" if radius < SHARP_MM else "rounded-shoulder"


def _resampled(line: FinishLine) -> tuple[Floats, Floats]:
    """Distances along the line every SPACING_MM and the profile number (fractional) each lies at."""
    smooth = line.smooth_points
    ahead = np.linalg.norm(np.diff(smooth, axis=0, append=smooth[:1]), axis=1)
    total = np.r_[0.0, np.cumsum(ahead)]
    s = np.arange(0, total[-1] - SPACING_MM / 2, SPACING_MM)
    return s, np.interp(s, total, np.arange(len(total)))


def _side_kernel(near: int, far: int) -> Floats:
    """Weights by which a straight fit through samples near..far ahead says the value here."""
    x = np.arange(near, far + 1, dtype=float)
    design = np.stack([np.ones_like(x), x], axis=1)
    return np.asarray(np.linalg.pinv(design)[0])


def _steps(height: Floats, azimuth: Floats, points: Floats, clear: Bools) -> list[Step]:
    """Where straight fits to both sides disagree by more than STEP_LEAST_MM, and most of it happens abruptly."""
    near, far = round(STEP_NEAR_MM / SPACING_MM), round(STEP_FAR_MM / SPACING_MM)
    weights = _side_kernel(near, far)
    n = len(height)
    if n < 4 * far:
        return []
    ahead = sum(w * np.roll(height, -k) for w, k in zip(weights, range(near, far + 1), strict=True))
    behind = sum(w * np.roll(height, k) for w, k in zip(weights, range(near, far + 1), strict=True))
    gap = np.asarray(ahead - behind)
    within = round(STEP_WITHIN_MM / SPACING_MM / 2) + 1
    sudden = np.roll(height, -within) - np.roll(height, within)
    slope = (np.roll(height, -far) - np.roll(height, far) - gap) / (2 * far)
    sudden = np.abs(sudden - 2 * within * slope)
    found: list[Step] = []
    # A jump of a line that is in doubt is no step of the tooth.
    told = sum(np.roll(clear, k).astype(float) for k in range(-far, far + 1)) / (2 * far + 1)
    size = np.where(told >= STEP_TOLD_SHARE, np.abs(gap), 0.0)
    for k in np.argsort(-size):
        if size[k] < STEP_LEAST_MM:
            break
        if any(degrees_apart(azimuth[k], f.azimuth_deg) < 18 for f in found):
            continue
        around = [(k + j) % n for j in range(-within, within + 1)]
        if sudden[around].max() < ABRUPT_SHARE * size[k]:
            continue
        found.append(Step(float(azimuth[k]), sector_of(float(azimuth[k])), float(size[k]), xyz(points[k])))
    return found


def _overlapped(steps: list[Step], passing: list[Passing]) -> list[Step]:
    """Each stretch of two ledges told of the step nearest to one of its ends."""
    out = list(steps)
    for found in passing:
        ends = np.array([found.from_deg, found.to_deg])
        k = min(range(len(out)), key=lambda j: float(degrees_apart(ends, out[j].azimuth_deg).min()))
        higher = max(out[k].height_mm, found.height_mm)
        out[k] = replace(out[k], height_mm=higher, overlap_deg=(found.from_deg, found.to_deg))
    return out


def scatter_um(noise_um: float) -> float:
    """Of the traced line on a perfect ledge, for the scan's noise, µm."""
    return float(np.hypot(SNAP_UM, SNAP_PER_NOISE * noise_um))


def _roughness(
    azimuth: Floats, height: Floats, radius: Floats, clear: Bools, steps: list[Step], noise_um: float
) -> tuple[tuple[float, float], float, float]:
    """Root mean square (µm) about a smooth course, vertical and horizontal, without the tracing's own scatter; then
    that of the worst stretch, and its azimuth."""
    half = round(COURSE_MM / SPACING_MM / 2)
    x = np.arange(-half, half + 1, dtype=float)
    kernel = np.linalg.pinv(np.stack([np.ones_like(x), x, x**2], axis=1))[0]
    # A course through doubtful points is no course: it is left out as far as its window reaches.
    keep = true_about(clear, half)
    for step in steps:
        aside = STEP_ASIDE_DEG if step.height_mm >= STEP_LARGE_MM else SMALL_ASIDE_DEG
        keep &= degrees_apart(azimuth, step.azimuth_deg) > aside
    snap = scatter_um(noise_um)
    squares = []
    for field in (height, radius):
        course = sum(w * np.roll(field, int(-k)) for w, k in zip(kernel, x, strict=True))
        squares.append(np.where(keep, (1000 * (field - course)) ** 2, 0.0))
    if keep.sum() < 20:
        return (float("nan"), float("nan")), float("nan"), float("nan")
    whole = [float(np.sqrt(max(q.sum() / keep.sum() - snap**2, 0.0))) for q in squares]
    span = round(ROUGH_STRETCH_MM / SPACING_MM / 2)
    window = range(-span, span + 1)
    count = sum(np.roll(keep, k).astype(float) for k in window)
    worst, at = 0.0, 0
    for q in squares:
        mean = np.where(count > span, sum(np.roll(q, k) for k in window) / np.maximum(count, 1), 0.0)
        if mean.max() > worst:
            worst, at = float(mean.max()), int(mean.argmax())
    return (whole[0], whole[1]), float(np.sqrt(max(worst - snap**2, 0.0))), float(azimuth[at])


def _lips(azimuth: Floats, lip: Floats, clear: Bools) -> list[Lip]:
    eased = eased_widths(lip)
    high = np.nan_to_num(eased) > LIP_LEAST_MM
    rows = []
    for run in ring_runs(np.asarray(high & clear), 3):
        if len(run) * SPACING_MM >= LIP_LENGTH_MM:
            rows.append(Lip(float(azimuth[run[0]]), float(azimuth[run[-1]]), float(np.nanmax(eased[run]))))
    return rows


def eased_widths(values: Floats) -> Floats:
    """Running median over EASE_MM of the ring; nan only where nothing near is known."""
    return running_median(values, round(EASE_MM / SPACING_MM / 2))

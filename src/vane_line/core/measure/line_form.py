"""The finish line's form along its course: width, cavosurface angle, inner radius, form, J-margin, steps, roughness.

Everything is read on the half-planes through the axis and set right for the angle between half-plane and the line's own
normal, so that numbers hold in the plane of the path and the line's normal.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np

from vane_line.core.arrays import AnyArray, Bools, Floats, Ints
from vane_line.core.measure.convergence import Walls, outline_cosine
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.passing import Passing, find_passing
from vane_line.core.measure.undercut import sector_of
from vane_line.core.rings import degrees_apart, ring_runs, running_median, true_about
from vane_line.core.trace.fits import Lines, straight_fits, stretches
from vane_line.core.trace.section import STEP_MM, Profiles
from vane_line.core.trace.wall import WallRuns
from vane_line.core.vectors import dot, unit, xyz

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
_BESIDE = np.arange(round(STEP_NEAR_MM / SPACING_MM), round(STEP_FAR_MM / SPACING_MM) + 1)  # samples from here on
NEARLY = 0.8  # of the commonest form's places: another that has so many is as common
STEP_LEAST_MM = 0.10
STEP_TOLD_SHARE = 0.8  # of the line round a step that must be clear
STEP_WITHIN_MM = 0.30
ABRUPT_SHARE = 0.5  # of a step's height that happens within STEP_WITHIN_MM
LIP_LEAST_MM = 0.03  # a lip lower than this is the scan's
LIP_LENGTH_MM = 0.5
CREST_MM = 0.01  # by which single profiles of a rim as the scan shows it stand higher than most beside them
# How far two straight fits' ends are apart by chance, in what is left beside both: 0.92 were every sample its own, but
# the line is traced on triangles twice as long as SPACING_MM.
LEFT_BESIDE = 1.3
STEP_ASIDE_DEG, SMALL_ASIDE_DEG = 15.0, 4.0  # a step and its fading are no roughness
STEP_LARGE_MM = 0.20  # smaller ones may be part of a rough stretch
ROUGH_STRETCH_MM = 2.5  # roughness is judged over the worst stretch this long
COURSE_MM = 1.0  # roughness is what is left of a smooth course this long
SNAP_UM, SNAP_PER_NOISE = 5.0, 0.62  # scatter of the traced line on perfect ledges (docs/uncertainty.md)


@dataclass(frozen=True)
class Step:
    """A sudden change of the line's height; overlap_deg: from, to, where both stretches run past each other; open_mm:
    standard uncertainty of the height that the line's unevenness beside it leaves."""

    azimuth_deg: float
    sector: str
    height_mm: float
    at: tuple[float, float, float]
    overlap_deg: tuple[float, float] | None = None
    open_mm: float = 0.0


@dataclass(frozen=True)
class Lip:
    """A stretch with an outer rim (J-margin): from, to, and the greatest height; open_mm: standard uncertainty of it
    where single profiles stand higher than most beside them: triangles cut a thin rim's crest between its corners."""

    from_deg: float
    to_deg: float
    height_mm: float
    open_mm: float = 0.0


@dataclass(frozen=True, eq=False)
class LineForm:
    """Per sample (S,) every SPACING_MM along the line; nan or '' where an attribute is not told.

    s_mm, azimuth_deg, width_mm, cavosurface_deg, inner_radius_mm, flat_share (of the ledge, beside its
    corner), lip_mm, height_mm (along the path, over the line's mean level), form, points (S, 3), clear.
    """

    s_mm: Floats
    azimuth_deg: Floats
    points: Floats
    width_mm: Floats
    cavosurface_deg: Floats
    inner_radius_mm: Floats
    flat_share: Floats
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
        known = np.isfinite(self._told_widths) & (True if mask is None else mask)
        if known.sum() < 3:
            return None
        low, median, high = np.quantile(self._told_widths[known], [SUMMARY_SHARE, 0.5, 1 - SUMMARY_SHARE])
        return float(low), float(median), float(high)

    @cached_property
    def _told_widths(self) -> Floats:
        """(S,) eased widths, nan beside a doubtful stretch: the edge is on its way out of sight there, and where just
        it ends must not decide."""
        clear = np.all([np.roll(self.clear, k) for k in range(-BESIDE_DOUBT, BESIDE_DOUBT + 1)], axis=0)
        return np.where(clear, eased_widths(self.width_mm), np.nan)


def line_form(rings: Profiles, line: FinishLine, walls: Walls, noise_um: float, runs: WallRuns) -> LineForm:
    """Read the form on every profile, then sample it every SPACING_MM along the line."""
    rows = len(line.azimuth_deg)
    s, at = _resampled(line)
    height, radius = (np.interp(at, np.arange(rows), field, period=rows) for field in (line.height, line.radius))
    azimuth = at * 360 / rows % 360
    points = rings.axes.places(azimuth, radius, height)
    read = _sampled(rings, line, walls, at)
    edge = np.asarray(line.clear[np.round(at).astype(int) % rows])
    steps = _steps(height, azimuth, points, edge)
    steps = _overlapped(steps, find_passing(rings, runs, line, [f.azimuth_deg for f in steps]))
    rough = _roughness(azimuth, height, radius, edge, steps, noise_um)
    return LineForm(
        s_mm=s, azimuth_deg=azimuth, points=points, height_mm=height - float(np.mean(height)), **read._asdict(),
        steps=steps, lips=_lips(azimuth, read.lip_mm, edge), roughness_um=rough[0], roughest_um=rough[1],
        roughest_deg=rough[2],
    )  # fmt: skip


def read_with(form: LineForm, rings: Profiles, line: FinishLine, walls: Walls) -> LineForm:
    """The same line's form as it is read with other walls: its course is what it was."""
    return replace(form, **_sampled(rings, line, walls, _resampled(line)[1])._asdict())


class _Read(NamedTuple):
    """What hangs on the walls of a LineForm, (S,) each."""

    width_mm: Floats
    cavosurface_deg: Floats
    inner_radius_mm: Floats
    flat_share: Floats
    lip_mm: Floats
    form: AnyArray
    clear: Bools


def _sampled(rings: Profiles, line: FinishLine, walls: Walls, at: Floats) -> _Read:
    """at: (S,) places along the line, in rows."""
    cosine = outline_cosine(line.radius)
    width = (line.radius - walls.radius_at(line.height)) * cosine
    cavosurface, inner, fillet, lip = (
        np.where(walls.found, v, np.nan) for v in _read(rings, line, walls, cosine, width)
    )
    with np.errstate(all="ignore"):
        flat = 1 - fillet / width
    form = np.array([_form(*row) for row in zip(width, cavosurface, inner, flat, strict=True)])
    # A cut that runs out has no edge to see, but what is there is told: no ledge.
    runs_out = np.isfinite(line.band_mm) & (width < NO_LEDGE_MM)
    form[runs_out] = "feather"
    width = np.where(runs_out, np.maximum(width, 0.0), width)
    nearest = np.round(at).astype(int) % len(width)  # forms do not mix
    clear = np.asarray(line.clear | runs_out)
    rows = (v[nearest] for v in (cavosurface, inner, flat, lip, form, clear))
    return _Read(_between(width, at), *rows)


def _read(
    rings: Profiles, line: FinishLine, walls: Walls, cosine: Floats, width: Floats
) -> tuple[Floats, Floats, Floats, Floats]:
    """(A,) cavosurface angle, inner radius, how much of the ledge the fillet takes, and lip on every profile; nan where
    one is not told."""
    r, h, edge = rings.radius * cosine[:, None], rings.height, line.index
    ledge_mm = np.nan_to_num(np.minimum(INSIDE_MM, 0.8 * width))
    inside = straight_fits(r, h, edge - _samples(LEAVE_MM + ledge_mm), edge - round(LEAVE_MM / STEP_MM))
    none = width < NO_LEDGE_MM
    # No ledge: the wall itself meets the root.
    lean = np.arctan(walls.slope * cosine)
    at_line = np.stack([line.radius * cosine, line.height], axis=1)
    inside = inside.where(none, Lines(at_line, np.stack([np.sin(lean), np.cos(lean)], axis=1)))
    outside = _root(r, h, edge)
    towards = np.where((none | (inside.direction[:, 0] < 0))[:, None], inside.direction, -inside.direction)
    away = np.where(outside[:, 1:] < 0, outside, -outside)
    angle = np.degrees(np.arccos(np.clip(dot(towards, away), -1, 1)))
    radius, fillet = _inner_radius(r, h, edge, inside, _wall_lines(walls, cosine), width)
    return angle, radius, fillet, _lip(h, edge, width)


def _samples(length_mm: Floats) -> Ints:
    """(A,) lengths along profiles in their samples."""
    return np.rint(length_mm / STEP_MM).astype(np.int64)


def _root(r: Floats, h: Floats, edge: Ints) -> Floats:
    """(A, 2) direction of the uncut surface outside the edge, as far as it goes down; nan where too little is seen."""
    first = edge + round(LEAVE_MM / STEP_MM)
    reach = round(OUTSIDE_MM / STEP_MM)
    along, down = (stretches(v, first, first + reach + 1) for v in (r, h))
    dr, dh = along[:, 2:] - along[:, :-2], down[:, 2:] - down[:, :-2]
    goes_down = np.degrees(np.arctan2(dh, np.abs(dr))) <= RISING_DEG  # not where nothing is seen
    length = np.where(goes_down.all(axis=1), reach, goes_down.argmin(axis=1))
    told = length >= round(LEAST_FIT_MM / STEP_MM)
    fit = straight_fits(r, h, first, first + np.where(told, length, -1))
    return fit.direction


def _wall_lines(walls: Walls, cosine: Floats) -> Lines:
    """The walls' own lines, from nought up."""
    up = unit(np.stack([walls.slope * cosine, np.ones_like(cosine)], axis=1))
    return Lines(np.stack([walls.at_zero * cosine, np.zeros_like(cosine)], axis=1), up)


def _inner_radius(r: Floats, h: Floats, edge: Ints, ledge: Lines, wall: Lines, width: Floats) -> tuple[Floats, Floats]:
    """(A,) radius of the fillet, from how far it stays off the corner of wall and ledge, and its length along the
    ledge; nan where there is no ledge.

    A circle of radius R that touches two lines meeting at an angle a stays R (1/sin(a/2) - 1) off their corner, and
    touches them R/tan(a/2) away from it.
    """
    out = np.where(ledge.direction[:, :1] > 0, ledge.direction, -ledge.direction)
    corner = wall.meet(Lines(ledge.middle, out))
    first = np.maximum(edge - _samples(np.nan_to_num(width) + 1.2), 0)
    off = np.hypot(*(stretches(v, first, edge) - corner[:, k : k + 1] for k, v in enumerate((r, h))))
    nearest = np.where(np.isfinite(off), off, np.inf).min(axis=1)
    half = np.arccos(np.clip(dot(wall.direction, out), -1, 1)) / 2
    told = np.isfinite(nearest) & (width >= NO_LEDGE_MM)
    with np.errstate(all="ignore"):
        radius = np.where(told, nearest / np.maximum(1 / np.sin(half) - 1, 0.05), np.nan)
        return radius, radius / np.tan(half)


def _lip(h: Floats, edge: Ints, width: Floats) -> Floats:
    """(A,) height of an outer rim above the deepest place inside it; nan where too little is seen."""
    reach = np.maximum(_samples(np.nan_to_num(width)), 3)
    first, last = np.maximum(edge - reach, 1), np.minimum(edge + 1, h.shape[1] - 2)
    part = stretches(h, first - 1, last + 1)
    eased = (part[:, :-2] + part[:, 1:-1] + part[:, 2:]) / 3
    count = np.asarray(last - first + 1)[:, None]
    column = np.arange(eased.shape[1])
    counted = column < count
    rim = counted & (column >= np.maximum(count - 2 - round(RIM_MM / STEP_MM), 0))
    top = np.where(rim & np.isfinite(eased), eased, -np.inf).argmax(axis=1)
    rows = np.arange(len(h))
    deepest = np.minimum.accumulate(eased, axis=1)[rows, top]
    told = (count[:, 0] >= 3) & (np.isfinite(eased) | ~counted).all(axis=1)
    return np.where(told, np.maximum(eased[rows, top] - deepest, 0.0), np.nan)


def _form(width: float, cavosurface: float, radius: float, flat: float) -> str:
    """The form's name, '' where it cannot be told. flat: how much of the ledge is, a share of its width."""
    if not np.isfinite(width):
        return ""
    if width < NO_LEDGE_MM or cavosurface > FEATHER_DEG:
        return "feather"
    if cavosurface > BEVEL_DEG:
        return "bevelled"
    if not np.isfinite(radius):
        return ""
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


def _side_kernel() -> Floats:
    """Weights by which a straight fit through the samples of _BESIDE says the value here."""
    design = np.stack([np.ones(len(_BESIDE)), _BESIDE], axis=1)
    return np.asarray(np.linalg.pinv(design)[0])


def _steps(height: Floats, azimuth: Floats, points: Floats, clear: Bools) -> list[Step]:
    """Where straight fits to both sides disagree by more than STEP_LEAST_MM, and most of it happens abruptly."""
    weights, far = _side_kernel(), int(_BESIDE[-1])
    n = len(height)
    if n < 4 * far:
        return []
    ahead = sum(w * np.roll(height, -k) for w, k in zip(weights, _BESIDE, strict=True))
    behind = sum(w * np.roll(height, k) for w, k in zip(weights, _BESIDE, strict=True))
    gap = np.asarray(ahead - behind)
    within = round(STEP_WITHIN_MM / SPACING_MM / 2) + 1
    sudden = np.roll(height, -within) - np.roll(height, within)
    slope = (np.roll(height, -far) - np.roll(height, far) - gap) / (2 * far)
    sudden = np.abs(sudden - 2 * within * slope)
    found: list[Step] = []
    left = np.hypot(_left(height, 1), _left(height, -1))
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
        found.append(Step(
            float(azimuth[k]), sector_of(float(azimuth[k])), float(size[k]), xyz(points[k]),
            open_mm=LEFT_BESIDE * float(left[k]),
        ))  # fmt: skip
    return found


def _left(height: Floats, sign: int) -> Floats:
    """(S,) standard deviation (mm) about a straight course of the samples _BESIDE ahead of each (sign 1) or behind it
    (-1); of the whole line's median at least, since by chance a stretch looks smoother than the line is."""
    near = height[(np.arange(len(height))[:, None] + sign * _BESIDE) % len(height)]
    x = _BESIDE - _BESIDE.mean()
    off = near - near.mean(axis=1, keepdims=True)
    off = off - (off @ x / (x @ x))[:, None] * x
    left = np.sqrt((off**2).sum(axis=1) / (len(x) - 2))
    return np.asarray(np.maximum(left, np.median(left)))


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
            height = float(np.nanmax(eased[run]))
            open_mm = max(float(np.nanmax(lip[run])) - height - CREST_MM, 0.0)
            rows.append(Lip(float(azimuth[run[0]]), float(azimuth[run[-1]]), height, open_mm))
    return rows


def _between(values: Floats, at: Floats) -> Floats:
    """(S,) of a ring's values (A,) at places between its rows; the nearer row's where only that is known."""
    n, low = len(values), np.floor(at).astype(int)
    share = at - low
    a, b = values[low % n], values[(low + 1) % n]
    return np.where(np.isfinite(a + b), a + share * (b - a), np.where(share < 0.5, a, b))


def eased_widths(values: Floats) -> Floats:
    """Running median over EASE_MM of the ring; nan only where nothing near is known."""
    return running_median(values, round(EASE_MM / SPACING_MM / 2))


def mostly(forms: Iterable[str]) -> str:
    """The form that most places have, in words, with any that is nearly as common: no name hangs on a single place."""
    count = Counter(forms)
    most = max(count.values(), default=0)
    return " and ".join(sorted(f.replace("-", " ") for f, n in count.items() if n >= NEARLY * most))

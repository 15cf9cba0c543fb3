"""A first position without any hint: height pictures of both scans, matched over all turns.

Seen from its occlusal side a scan is a relief. Two reliefs of the same jaw correlate at the right turn and
shift whatever the coordinate systems were. Repeated teeth give rivals one tooth off, so many candidates go on
to be scored on the surfaces themselves.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.fft import irfft2, next_fast_len, rfft2
from scipy.ndimage import gaussian_filter, maximum_filter

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.mesh.surface import Surface
from vane_line.core.pictures import highest_in_cells

CELL_MM = 0.6
BLUR_MM = 3.0  # broader relief than this is tilt and trimming, not teeth
TURN_STEP_DEG = 6.0
CANDIDATES = 14
MOST_RELIEF_MM = 4.0  # a point that stands out further counts for no more
PEAKS, PEAK_SQUARES = 3, 9  # of one turn, and how far round a peak is the highest
LEAST_SCORE, LEAST_OVERLAP = 0.1, 0.15  # of a peak; of the lesser picture that lies on the other
POINT_MM = 0.35  # spacing of the points that make a picture


@dataclass(frozen=True, eq=False)
class Relief:
    """A height picture in its own frame: `frame` (3, 3) rows are side, other, up."""

    frame: Floats
    origin: Floats
    points: Floats  # (N, 3) in that frame


def relief_of(surface: Surface, up: Floats) -> Relief:
    """The scan's points in a frame with `up` as third axis, about their middle."""
    side = surface.across(up)
    frame = np.stack([side, np.cross(up, side), up])
    points = surface.thinned(POINT_MM)
    origin = points.mean(axis=0)
    return Relief(frame, origin, (points - origin) @ frame.T)


def _picture(points: Floats, low: Floats, shape: tuple[int, int]) -> tuple[Floats, Bools]:
    """Heights of `points` (N, 3) in squares of plan, smoothed a little and nought where nothing lies; where some do."""
    picture = highest_in_cells(points, low, CELL_MM, shape)
    known = np.isfinite(picture)
    return gaussian_filter(np.where(known, picture, 0.0), 0.6), known


def _standing_out(relief: Relief, low: Floats, shape: tuple[int, int]) -> Floats:
    """(N, 3) the relief's points, their heights over what is usual round them: alike whichever way it turns."""
    picture = highest_in_cells(relief.points, low, CELL_MM, shape)
    known = np.isfinite(picture)
    weight = gaussian_filter(known.astype(float), BLUR_MM / CELL_MM)
    mean = gaussian_filter(np.where(known, picture, 0.0), BLUR_MM / CELL_MM) / np.maximum(weight, 1e-6)
    cell = np.floor((relief.points[:, :2] - low) / CELL_MM).astype(np.int64)
    out = relief.points.copy()
    out[:, 2] = np.clip(out[:, 2] - mean[cell[:, 0], cell[:, 1]], -MOST_RELIEF_MM, MOST_RELIEF_MM)
    return out


def candidates(source: Surface, target: Surface, source_up: Floats, target_up: Floats) -> list[Floats]:
    """Likely rigid matrices (4, 4) that bring `source` onto `target`, best first."""
    a, b = relief_of(source, source_up), relief_of(target, target_up)
    reach = max(np.abs(a.points[:, :2]).max(), np.abs(b.points[:, :2]).max()) * 1.42 + 2
    n = int(np.ceil(2 * reach / CELL_MM)) | 1
    low = np.full(2, -n * CELL_MM / 2)  # the middle lies in the middle square: half a turn is the picture turned over
    still, still_known = _picture(_standing_out(b, low, (n, n)), low, (n, n))
    points = _standing_out(a, low, (n, n))
    size = next_fast_len(2 * n - 1, real=True)
    # Single precision is plenty for a first position. Turned over, a picture's transform is the conjugate, shifted.
    still_f = rfft2(still.astype(np.float32), (size, size))
    turned_over = np.exp(-2j * np.pi * (n - 1) * (np.fft.fftfreq(size)[:, None] + np.fft.rfftfreq(size)))
    still_shifted = still_f * turned_over.astype(np.complex64)
    found: list[tuple[float, Floats, Floats]] = []
    for turn in np.arange(0, 180, TURN_STEP_DEG):
        moving, moving_known = _picture(points @ _about_up(turn).T, low, (n, n))
        energy = 0.5 * ((still**2).sum() + (moving**2).sum())
        moving_f = rfft2(moving.astype(np.float32), (size, size))
        for half in (0, 1):
            known = moving_known if half == 0 else moving_known[::-1, ::-1]
            product = still_shifted * moving_f.conj() if half == 0 else still_f * moving_f
            full = irfft2(product, (size, size))  # zero shift in the middle
            score = full[(n - 1) // 2 :, (n - 1) // 2 :][:n, :n] / max(energy, 1e-9)
            for value, shift in _peaks(score, known, still_known):
                found.append((value, _about_up(turn + 180 * half), np.asarray(shift * CELL_MM, dtype=np.float64)))
    found.sort(key=lambda item: -item[0])
    return [_matrix(a, b, rotation, shift) for _, rotation, shift in found[:CANDIDATES]]


def _about_up(turn_deg: float) -> Floats:
    """(3, 3) a turn about the third axis."""
    c, s = np.cos(np.radians(turn_deg)), np.sin(np.radians(turn_deg))
    return np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]])


def _peaks(score: Floats, moving: Bools, still: Bools) -> list[tuple[float, Ints]]:
    """The highest peaks of the pictures' correlation over all shifts: value, and shift (2,) in squares.

    moving, still: what is known of either picture; where they hardly overlap a peak tells nothing.
    """
    middle = (len(score) - 1) // 2
    peaks = np.argwhere((score == maximum_filter(score, PEAK_SQUARES)) & (score > LEAST_SCORE))
    least = LEAST_OVERLAP * min(still.sum(), moving.sum())
    out: list[tuple[float, Ints]] = []
    for place in peaks[np.argsort(-score[tuple(peaks.T)], kind="stable")]:
        shift = place - middle
        if _overlap(moving, still, shift) >= least:
            out.append((float(score[tuple(place)]), shift))
        if len(out) == PEAKS:
            break
    return out


def _overlap(moving: Bools, still: Bools, shift: Ints) -> int:
    """Squares that are known of both pictures where one is shifted by `shift` (2,)."""
    (i, j), n = shift, len(still)
    ours = still[max(i, 0) : n + min(i, 0), max(j, 0) : n + min(j, 0)]
    theirs = moving[max(-i, 0) : n + min(-i, 0), max(-j, 0) : n + min(-j, 0)]
    return int((ours & theirs).sum())


def _matrix(a: Relief, b: Relief, rotation: Floats, shift: Floats) -> Floats:
    """The 4 x 4 matrix of a turn and shift in the reliefs' frames, with the height that fits best."""
    turned = a.points @ rotation.T
    lift = _lift(turned + np.r_[shift, 0.0], b.points)
    matrix = np.eye(4)
    matrix[:3, :3] = b.frame.T @ rotation @ a.frame
    middle = b.frame.T @ np.r_[shift, lift] + b.origin
    matrix[:3, 3] = middle - matrix[:3, :3] @ a.origin
    return matrix


def _lift(moving: Floats, still: Floats) -> float:
    """Median difference in height of the cells that both clouds cover."""
    cells = [np.floor(p[:, :2] / 1.5).astype(np.int64) for p in (moving, still)]
    low = np.minimum(cells[0].min(axis=0), cells[1].min(axis=0))
    shape = np.maximum(cells[0].max(axis=0), cells[1].max(axis=0)) - low + 1
    tops = []
    for cell, points in zip(cells, (moving, still), strict=True):
        top = np.full(shape, np.nan)
        order = np.argsort(points[:, 2])  # the highest comes last and stays
        top[tuple((cell[order] - low).T)] = points[order, 2]
        tops.append(top)
    difference = tops[1] - tops[0]
    return float(np.nanmedian(difference)) if np.isfinite(difference).any() else 0.0

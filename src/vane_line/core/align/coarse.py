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

from vane_line.core.arrays import AnyArray, Bools, Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.spread import highest_in_cells

CELL_MM = 0.6
BLUR_MM = 3.0  # broader relief than this is tilt and trimming, not teeth
TURN_STEP_DEG = 6.0
CANDIDATES = 14
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
    picture = highest_in_cells(points, low, CELL_MM, shape)
    known = np.isfinite(picture)
    filled = np.where(known, picture, 0.0)
    weight = gaussian_filter(known.astype(float), BLUR_MM / CELL_MM)
    mean = gaussian_filter(filled, BLUR_MM / CELL_MM) / np.maximum(weight, 1e-6)
    relief = np.where(known, np.clip(picture - mean, -4, 4), 0.0)
    return gaussian_filter(relief, 0.6), known


def candidates(source: Surface, target: Surface, source_up: Floats, target_up: Floats) -> list[Floats]:
    """Likely rigid matrices (4, 4) that bring `source` onto `target`, best first."""
    a, b = relief_of(source, source_up), relief_of(target, target_up)
    reach = max(np.abs(a.points[:, :2]).max(), np.abs(b.points[:, :2]).max()) * 1.42 + 2
    n = int(np.ceil(2 * reach / CELL_MM)) | 1
    low = np.array([-reach, -reach])
    still, still_known = _picture(b.points, low, (n, n))
    size = next_fast_len(2 * n - 1, real=True)
    still_f, known_f = rfft2(still, (size, size)), rfft2(still_known.astype(float), (size, size))

    def correlate(moving: Floats, against: AnyArray) -> Floats:
        """Cross-correlation over all shifts, zero shift in the middle (scipy.signal would cost 3 s to import)."""
        full = irfft2(against * rfft2(moving[::-1, ::-1], (size, size)), (size, size))
        return np.asarray(full[(n - 1) // 2 :, (n - 1) // 2 :][:n, :n])

    found: list[tuple[float, Floats, Floats]] = []
    for turn in np.radians(np.arange(0, 360, TURN_STEP_DEG)):
        c, s = np.cos(turn), np.sin(turn)
        rotation = np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]])
        moving, moving_known = _picture(a.points @ rotation.T, low, (n, n))
        score = correlate(moving, still_f)
        overlap = correlate(moving_known.astype(float), known_f)
        energy = 0.5 * ((still**2).sum() + (moving**2).sum())
        score = score / max(energy, 1e-9)
        score[overlap < 0.15 * min(still_known.sum(), moving_known.sum())] = -1
        peaks = np.argwhere((score == maximum_filter(score, 9)) & (score > 0.1))
        top = peaks[np.argsort(score[tuple(peaks.T)])[::-1][:3]]
        for i, j in top:
            shift = (np.array([i, j]) - (n - 1) // 2) * CELL_MM
            found.append((float(score[i, j]), rotation, shift))
    found.sort(key=lambda item: -item[0])
    return [_matrix(a, b, rotation, shift) for _, rotation, shift in found[:CANDIDATES]]


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

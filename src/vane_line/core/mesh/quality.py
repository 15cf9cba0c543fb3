"""What a scan is worth: size, resolution, holes, pieces, noise, in numbers and in plain words."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.mesh.points import any_within, joined
from vane_line.core.mesh.surface import Surface
from vane_line.core.vectors import dot

COARSE_EDGE_MM = 0.25  # a finish line cannot be told to 0.1 mm on longer edges
HOLE_MAX_MM = 25.0  # a shorter border loop is a hole, the longest is the rim of the scan
NOISY_UM = 25.0
NEAR_LINE_MM = 0.8


@dataclass(frozen=True)
class Quality:
    """Plain facts about one scan, lengths in mm, noise in µm."""

    triangles: int
    vertices: int
    size_mm: tuple[float, float, float]
    area_mm2: float
    edge_median_mm: float
    pieces: int
    holes: int
    longest_hole_mm: float
    rims: int
    noise_um: float
    remarks: tuple[str, ...]


def assess(surface: Surface) -> Quality:
    """The facts of a welded surface (mm)."""
    loops = border_lengths(surface)
    # The longest loop of each piece is its rim; the rest are holes.
    rims = int(surface.pieces.max()) + 1 if len(loops) else 0
    holes = [length for length in sorted(loops, reverse=True)[rims:] if length < HOLE_MAX_MM]
    edge = float(np.median(surface.edge_lengths))
    noise = noise_um(surface)
    remarks = []
    if edge > COARSE_EDGE_MM:
        remarks.append(f"Coarse: edges of {edge:.2f} mm cannot show a finish line to a tenth.")
    if holes:
        remarks.append(f"{len(holes)} hole(s), the largest {holes[0]:.1f} mm round.")
    if noise > NOISY_UM:
        remarks.append(f"Noisy: about {noise:.0f} µm; results will be less certain.")
    size = np.ptp(surface.vertices, axis=0)
    return Quality(
        triangles=surface.n_faces,
        vertices=surface.n_vertices,
        size_mm=(float(size[0]), float(size[1]), float(size[2])),
        area_mm2=float(surface.face_areas.sum()),
        edge_median_mm=edge,
        pieces=int(surface.pieces.max()) + 1,
        holes=len(holes),
        longest_hole_mm=holes[0] if holes else 0.0,
        rims=rims,
        noise_um=noise,
        remarks=tuple(remarks),
    )


def edge_near(surface: Surface, line: Floats) -> float:
    """Median length (mm) of the edges within NEAR_LINE_MM of a curve's points (N, 3); of all where none lie there."""
    both = any_within(surface.vertices, line, NEAR_LINE_MM)[surface.edges].all(axis=1)
    return float(np.median(surface.edge_lengths[both] if both.any() else surface.edge_lengths))


def border_lengths(surface: Surface) -> list[float]:
    """Length in mm of each connected open border."""
    edges = surface.border_edges
    if len(edges) == 0:
        return []
    used, local = np.unique(edges, return_inverse=True)
    local = local.reshape(-1, 2)
    number, label = joined(local[:, 0], local[:, 1], len(used))
    length = np.linalg.norm(surface.vertices[edges[:, 0]] - surface.vertices[edges[:, 1]], axis=1)
    return list(np.bincount(label[local[:, 0]], weights=length, minlength=number))


def noise_um(surface: Surface) -> float:
    """Standard deviation of the scan's noise along the normal, µm.

    The offset of a vertex from the mean of its neighbours is noise plus curvature times the square of
    the edge; what a smoothing pass leaves is curvature. Independent noise s gives an offset of
    s·sqrt(1 + 1/k) with k neighbours, so the robust spread of the difference, over flat-ish vertices,
    tells s. Correlated scanner noise is underestimated: the verdicts' u_scan carries a floor for it.
    """
    smooth = surface.smoothed(5)
    inner = ~surface.on_border
    offset = dot(surface.vertices - smooth.vertices, smooth.vertex_normals)[inner]
    # Five Taubin pairs keep about 20 % of white noise's amplitude: calibrated on noisy planes.
    return float(1.4826 * np.median(np.abs(offset)) / 0.88 * 1000)

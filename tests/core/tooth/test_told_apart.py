"""The earlier tooth told apart from what stands round it, on a crown of revolution whose parts are known."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.tooth.reference import segment
from vane_line.core.trace.section import Axes

UP, FACIAL, MESIAL = np.eye(3)[2], np.eye(3)[1], np.eye(3)[0]
AROUND, FINE = 180, 8  # meridians; places to a corner of the outline
# Radius and height of a bulging crown: gingiva, neck, contour, top; and of its preparation.
CROWN = [(9.0, -1.0), (5.2, -0.4), (4.2, 0.0), (4.5, 1.5), (5.0, 3.0), (4.8, 4.4), (4.0, 5.2), (2.0, 5.2), (0.0, 5.0)]
CUT = [(9.0, -1.0), (5.2, -0.4), (4.3, 0.0), (3.2, 0.1), (3.0, 1.5), (2.9, 2.5), (2.8, 3.4), (2.6, 3.7), (0.0, 3.7)]
NECK, CONTOUR = 2, 5  # corners of the outline between which a contact hides the side


def revolved(outline: list[tuple[float, float]], papilla_mm: float) -> tuple[Surface, Floats, Floats]:
    """The outline turned about the axis, its gingiva raised to a papilla mesially, where the crown stands over it; and
    for each vertex the azimuth from mesial and how far along the outline it lies, in corners."""
    corner = np.linspace(0, len(outline) - 1, FINE * (len(outline) - 1) + 1)
    radius, height = (np.interp(corner, np.arange(len(outline)), v) for v in np.array(outline).T)
    turn = np.arange(AROUND) * 2 * np.pi / AROUND
    off = np.abs((turn + np.pi) % (2 * np.pi) - np.pi)
    mesial = np.exp(-((off / 0.5) ** 2))[:, None]
    raised = papilla_mm * mesial * np.interp(corner, [0, 1, NECK, NECK + 0.3], [0, 1, 1, 0])
    heights = height + raised
    radii = radius - 0.9 * mesial * np.interp(corner, [NECK - 0.5, NECK, NECK + 1], [0, 1, 0])
    x, y = radii * np.cos(turn)[:, None], radii * np.sin(turn)[:, None]
    vertices = np.stack([x, y, heights], axis=2).reshape(-1, 3)
    i, j = np.meshgrid(np.arange(AROUND), np.arange(len(corner) - 1), indexing="ij")
    n = len(corner)
    a, b, c, d = (((i + p) % AROUND * n + j + q).ravel() for p, q in ((0, 0), (1, 0), (1, 1), (0, 1)))
    faces = np.vstack([np.stack([a, b, c], axis=1), np.stack([a, c, d], axis=1)])
    return Surface(vertices, faces), np.repeat(off, n), np.tile(corner, AROUND)


def test_a_papilla_under_a_hidden_contact_is_no_tooth() -> None:
    """It hangs together with the crown round the side that was not seen."""
    preop, off, corner = revolved(CROWN, 1.4)
    side = (off < 0.7) & (corner > NECK + 0.3) & (corner < CONTOUR - 0.5)
    prep, _, along = revolved(CUT, 0.7)
    turn = np.arange(0, 360, 2.0)
    axes = Axes.make(np.zeros(3), UP, FACIAL, MESIAL)
    line = axes.places(turn, np.full(len(turn), 4.3), np.zeros(len(turn)))
    tooth = segment(preop.keep_vertices(~side)[0], prep, along >= NECK, line, axes, 7.0)
    assert tooth is not None
    x, y, z = tooth.surface.vertices.T
    area = tooth.surface.vertex_areas
    papilla = (z < 1.6) & (tooth.surface.vertex_normals @ UP > 0.3) & (np.abs(np.arctan2(y, x)) < 0.4)
    assert area[papilla].sum() < 0.2
    assert area.sum() > 150  # most of the crown's

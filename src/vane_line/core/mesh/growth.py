"""Parts of a surface that grow from seeds and meet in its valleys, and where these run.

Crossing a valley costs much more than following a hill: sulcus, embrasures, the webs a scanner spans over contacts.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy.sparse as sp
from scipy.sparse.csgraph import dijkstra
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.vectors import dot, unit

VALLEY_COST_MM = 1.4  # extra cost per unit of concave curvature times length
# Over which noise is taken off before hollows are told, and these averaged: their curvature goes with the square of
# the triangles' size, and a fine scan is all hollows.
BEND_MM, HOLLOW_MM = 0.22, 0.16
CURVATURE_FLOOR = 0.25  # 1/mm: gentler hollows are anatomy or noise
VALLEY_MM = 0.5  # a place in a valley is drawn to the middle of the hollow so near about it …
DRAWN = 2  # … so many times
WIDER = 2  # rings of triangles about a hollow
OVER_MM = 0.3  # over the middle of a hollow, from where its bottom is looked for


@dataclass(frozen=True, eq=False)
class Grown:
    """What seeds became on a `surface`, whose hollows are `concave` (V,), 1/mm.

    kind: (V,) number of the kind of seed that came first, -1 where none did. cost: (V,) what the way there cost, and
    step: (E,) the way along each edge, mm.
    """

    surface: Surface
    concave: Floats
    kind: Floats
    cost: Floats
    step: Floats

    def valley(self, one: int, other: int) -> Floats:
        """(G, 3) places along the bottom of the valley in which two kinds meet.

        Where they meet along an edge is told by the costs, and drawn into the middle of the hollow about it: by whole
        vertices it lay to one side or the other, and one that changed its kind moved it by an edge's length.
        """
        i, j = self.surface.edges.T
        a, b = self.kind[i], self.kind[j]
        across = np.flatnonzero(((a == one) & (b == other)) | ((a == other) & (b == one)))
        i, j = i[across], j[across]
        share = np.clip(0.5 + (self.cost[j] - self.cost[i]) / (2 * self.step[across]), 0, 1)[:, None]
        return self._to_the_bottom((1 - share) * self.surface.vertices[i] + share * self.surface.vertices[j])

    def _to_the_bottom(self, places: Floats) -> Floats:
        hollow = np.flatnonzero(self.concave > CURVATURE_FLOOR)
        if not len(places) or not len(hollow):
            return places
        theirs, normals = self.surface.vertices[hollow], self.surface.vertex_normals[hollow]
        say = self.surface.vertex_areas[hollow] * (self.concave[hollow] - CURVATURE_FLOOR) ** 2
        tree, out, reached = cKDTree(theirs), np.zeros_like(places), np.zeros(len(hollow), dtype=bool)
        for _ in range(DRAWN):
            near = cKDTree(places).sparse_distance_matrix(tree, VALLEY_MM, output_type="coo_matrix")
            pull = sp.csr_matrix((say[near.col] * (1 - (near.data / VALLEY_MM) ** 2), (near.row, near.col)), near.shape)
            whole = np.asarray(pull.sum(axis=1))
            places = np.where(whole > 0, (pull @ theirs) / np.where(whole > 0, whole, 1.0), places)
            out = pull @ normals
            reached[near.col] = True
        # The middle of a hollow hangs in the air between its sides: its bottom lies straight below.
        about = np.zeros(self.surface.n_vertices, dtype=bool)
        about[hollow[reached]] = True
        for _ in range(WIDER):
            about[self.surface.faces[about[self.surface.faces].any(axis=1)]] = True
        bed, _ = self.surface.keep_vertices(about)
        out = unit(out)
        face, down = bed.first_hit(places + OVER_MM * out, -out)
        met = (face >= 0) & (down < 2 * OVER_MM)
        return np.where(met[:, None], places + (OVER_MM - down)[:, None] * out, places)


def grow(surface: Surface, concave: Floats, seeds: list[Bools]) -> Grown:
    """Every vertex given to the kind of seed, one mask (V,) each, that reaches it first."""
    n = surface.n_vertices
    graph, cost = _ways(surface, concave, seeds)
    kinds = [n + k for k in range(len(seeds))]
    spent, _, begun = dijkstra(graph, directed=True, indices=kinds, min_only=True, return_predecessors=True)
    first = np.where(begun[:n] >= n, begun[:n] - n, -1).astype(float)
    return Grown(surface, concave, first, spent[:n], cost)


def reached(surface: Surface, concave: Floats, seeds: list[Bools]) -> Floats:
    """(S, V) what the way to every vertex costs from each kind of seed; infinite where none leads there."""
    n = surface.n_vertices
    graph, _ = _ways(surface, concave, seeds)
    return np.asarray(dijkstra(graph, directed=True, indices=[n + k for k in range(len(seeds))])[:, :n])


def _ways(surface: Surface, concave: Floats, seeds: list[Bools]) -> tuple[sp.csr_matrix, Floats]:
    """The ways along edges with one extra node per kind, joined to its seeds at next to no cost; and each edge's cost
    (E,)."""
    i, j = surface.edges.T
    hollow = np.maximum((concave[i] + concave[j]) / 2 - CURVATURE_FLOOR, 0)
    cost = surface.edge_lengths * (1 + VALLEY_COST_MM * hollow * 4)
    n = surface.n_vertices
    rows, columns, costs = [i, j], [j, i], [cost, cost]
    taken = np.zeros(n, dtype=bool)  # of what is seed of two kinds the first counts
    for kind, mask in enumerate(seeds):
        where = np.flatnonzero(mask & ~taken)
        taken |= mask
        rows.append(np.full(len(where), n + kind))
        columns.append(where)
        costs.append(np.full(len(where), 1e-6))
    shape = (n + len(seeds),) * 2
    return sp.csr_matrix((np.concatenate(costs), (np.concatenate(rows), np.concatenate(columns))), shape=shape), cost


def concavity(surface: Surface) -> Floats:
    """(V,) greatest concave normal curvature (1/mm, positive) along the edges of a smoothed surface."""
    bend = sharpest_bend(surface, -1.0, surface.passes(BEND_MM, least=2))
    return surface.spread(bend, surface.passes(HOLLOW_MM, least=1))


def sharpest_bend(surface: Surface, sign: float, steps: int) -> Floats:
    """(V,) greatest normal curvature (1/mm) along the edges of the surface smoothed in `steps`, convex where `sign` is
    +1, concave where -1; nought where it bends the other way."""
    smooth = surface.smoothed(steps)
    i, j = surface.edges.T
    step = smooth.vertices[j] - smooth.vertices[i]
    bend = dot(smooth.vertex_normals[j] - smooth.vertex_normals[i], step)
    curvature = sign * bend / np.maximum(dot(step, step), 1e-6)
    worst = np.zeros(surface.n_vertices)
    np.maximum.at(worst, i, curvature)
    np.maximum.at(worst, j, curvature)
    return worst

"""An indexed triangle surface, in millimetres, with the derived fields that measures ask for."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import igl
import numpy as np
import scipy.sparse as sp
from scipy.spatial import cKDTree

from vane_line.core.arrays import AnyArray, Bools, Floats, Ints
from vane_line.core.mesh.keys import edge_keys
from vane_line.core.mesh.points import joined
from vane_line.core.mesh.side import is_behind
from vane_line.core.rigid import move, move_back
from vane_line.core.spread import cells, thinned_index
from vane_line.core.vectors import cross, dot, lengths, perpendicular, unit

BROAD_STEPS = 4
EVEN_MM, EVEN_LEAST = 0.22, 2  # over which normals are freed of noise, and at least so many edges' lengths
MOST_PASSES = 12  # of averaging over neighbours
RIM_WEIGHT = 0.12  # of the inner corner of a border face: less is on its border, not merely in the face
CARRIED = ("home", "on_border", "vertex_areas", "vertex_normals")  # to another process, where known: dear to make again
SEARCHED = ("tree", "broad_normals", "face_normals")  # what nearest places and their side are told by
OF_FACES_ALONE = ("_edge_table", "_valence", "averaging", "border_faces", "on_border", "pieces")  # wherever corners lie


@dataclass(frozen=True, eq=False)
class Surface:
    """A triangle surface, open or closed, oriented outward.

    vertices: (V, 3) float64, mm. faces: (F, 3) int64, counter-clockwise seen from outside.
    colours: (V, 3) uint8 or None. Derived fields are computed once, on first use.
    """

    vertices: Floats
    faces: Ints
    colours: AnyArray | None = None

    def __getstate__(self) -> dict[str, object]:
        """What was given, and a few fields where they are known; search trees cannot be stored."""
        return {k: v for k, v in self.__dict__.items() if k in ("vertices", "faces", "colours", *CARRIED)}

    def ready(self) -> Surface:
        """Itself, with all made that goes along to another process."""
        return self._having(CARRIED)

    def searched(self) -> Surface:
        """Itself, with all made that nearest places and their side are told by."""
        return self._having(SEARCHED)

    def _having(self, names: tuple[str, ...]) -> Surface:
        for name in names:
            getattr(self, name)
        return self

    def __setstate__(self, state: dict[str, object]) -> None:
        self.__dict__.update(state)

    @property
    def n_vertices(self) -> int:
        return len(self.vertices)

    @property
    def n_faces(self) -> int:
        return len(self.faces)

    @property
    def corner_points(self) -> tuple[Floats, Floats, Floats]:
        """(F, 3) each: the first, second and third corner of every face."""
        # `take` fetches rows at two to four times the speed of an index.
        a, b, c = (self.vertices.take(self.faces[:, k], axis=0) for k in range(3))
        return a, b, c

    @cached_property
    def face_vectors(self) -> Floats:
        """(F, 3) normals with the length of twice the face's area, mm²."""
        a, b, c = self.corner_points
        return cross(b - a, c - a)

    @cached_property
    def face_areas(self) -> Floats:
        """(F,) mm²."""
        return lengths(self.face_vectors) / 2

    @cached_property
    def face_normals(self) -> Floats:
        """(F, 3) unit, outward."""
        return unit(self.face_vectors)

    @cached_property
    def face_centres(self) -> Floats:
        """(F, 3) mm."""
        a, b, c = self.corner_points
        return np.asarray((a + b + c) / 3)

    @cached_property
    def home(self) -> tuple[Floats, Floats]:
        """The surface's own middle (3,) and axes (3, 3 rows, right-handed, the longest first).

        By area, pointing towards the longer tail: whatever is done on a grid is done in these axes, so that the same
        surface gives the same answer in any position, in any order of its triangles.
        """
        area = self.vertex_areas
        middle = area @ self.vertices / max(float(area.sum()), 1e-30)
        off = self.vertices - middle
        _, axes = np.linalg.eigh((off * area[:, None]).T @ off)
        rows = axes.T[::-1].copy()
        skew = area @ (off @ rows.T) ** 3
        rows *= np.where(skew < 0, -1.0, 1.0)[:, None]
        rows[2] = np.cross(rows[0], rows[1])
        return middle, rows

    def at_home(self, points: Floats) -> Floats:
        """`points` (N, 3) in the surface's own axes, about its middle."""
        middle, axes = self.home
        return np.asarray((points - middle) @ axes.T)

    def lies_as(self, whole: Surface) -> None:
        """Take the axes of what this is a part of: its own turn with every place beyond its border."""
        self.__dict__["home"] = whole.home

    def across(self, direction: Floats) -> Floats:
        """A unit vector (3,) across the unit `direction`, by the surface's own axes."""
        _, axes = self.home
        return perpendicular(axes[0] if abs(axes[0] @ direction) < 0.8 else axes[1], direction)

    def thinned(self, size_mm: float) -> Floats:
        """(N, 3) one vertex per cube of `size_mm` in its own axes."""
        return np.asarray(self.vertices[thinned_index(self.at_home(self.vertices), size_mm)])

    def highest(self, up: Floats, size_mm: float) -> Ints:
        """The highest vertex along `up` in each square of plan, `size_mm` wide."""
        off = self.vertices - self.home[0]
        side = self.across(up)
        order = np.argsort(-(off @ up), kind="stable")
        plan = np.stack([off @ side, off @ np.cross(up, side)], axis=1)
        _, first = np.unique(cells(plan[order], size_mm), return_index=True)
        return np.asarray(order[first])

    @cached_property
    def vertex_areas(self) -> Floats:
        """(V,) a third of the area of the faces around each vertex, mm²."""
        share = np.repeat(self.face_areas / 3, 3)
        return np.asarray(np.bincount(self.faces.ravel(), weights=share, minlength=self.n_vertices), dtype=np.float64)

    @cached_property
    def vertex_normals(self) -> Floats:
        """(V, 3) unit, angle-weighted: at a corner they tell the side on which a point lies (`mesh.side`)."""
        normals: Floats = np.asarray(
            igl.per_vertex_normals(self.vertices, self.faces, igl.PER_VERTEX_NORMALS_WEIGHTING_TYPE_ANGLE)
        )
        lost = ~np.isfinite(normals @ np.ones(3))
        if lost.any():  # a triangle without area has no angles: by area there, and none where no triangle is
            total = np.stack(
                [
                    np.bincount(self.faces.ravel(), np.repeat(self.face_vectors[:, k], 3), self.n_vertices)
                    for k in range(3)
                ],
                axis=1,
            )
            normals[lost] = unit(total[lost].astype(np.float64))
        return normals

    @cached_property
    def edges(self) -> Ints:
        """(E, 2) undirected edges, each once, lower vertex first."""
        return self._edge_table[0]

    @cached_property
    def border_edges(self) -> Ints:
        """(B, 2) edges with a face on one side only."""
        edges, count = self._edge_table
        return edges[count == 1]

    @cached_property
    def _edge_table(self) -> tuple[Ints, Ints]:
        n = max(self.n_vertices, 1)
        a, b, c = self.faces.T
        key = np.concatenate([edge_keys(i, j, n) for i, j in ((a, b), (b, c), (c, a))])
        key.sort()
        first = np.flatnonzero(np.r_[True, key[1:] != key[:-1]]) if len(key) else np.zeros(0, np.int64)
        once = key[first]
        return np.stack([once // n, once % n], axis=1), np.diff(np.r_[first, len(key)])

    @cached_property
    def broad_normals(self) -> Floats:
        """(V, 3) unit, averaged over some edges' lengths: what a fold or a spike cannot turn."""
        # Over the faces, by their area: unlike the edges, they need not be sorted out first.
        corners = sp.csr_matrix(
            (np.ones(3 * self.n_faces), self.faces.ravel(), 3 * np.arange(self.n_faces + 1)),
            shape=(self.n_faces, self.n_vertices),
        )
        back = corners.T
        total = (back @ self.face_areas)[:, None]
        normals, area = self.vertex_normals, self.face_areas[:, None] / 3
        for _ in range(BROAD_STEPS):
            around = back @ (area * (corners @ normals))
            normals = np.divide(around, total, out=normals.copy(), where=total > 0)
        return unit(normals)

    @cached_property
    def even_normals(self) -> Floats:
        """(V, 3) unit, freed of the scan's noise: averaged over the same way however fine its triangles are."""
        return self.normals_over(EVEN_MM, EVEN_LEAST)

    def normals_over(self, radius_mm: float, least: int = 0, most: int = MOST_PASSES) -> Floats:
        """(V, 3) unit, averaged over about `radius_mm` in as many `passes`."""
        return unit(self.spread(self.vertex_normals, self.passes(radius_mm, least, most)))

    def passes(self, radius_mm: float, least: int = 0, most: int = MOST_PASSES) -> int:
        """How often to average over neighbours for about `radius_mm`: each time widens it by about an edge's length.
        On a coarse scan `least` times all the same."""
        return max(min(round((radius_mm / max(self.usual_edge_mm, 1e-3)) ** 2), most), least)

    @cached_property
    def on_border(self) -> Bools:
        """(V,) whether a vertex lies on an open border."""
        mask = np.zeros(self.n_vertices, dtype=bool)
        mask[self.border_edges.ravel()] = True
        return mask

    @cached_property
    def border_faces(self) -> Bools:
        """(F,) whether a face has a corner on an open border."""
        return self.any_corner(self.on_border)

    @cached_property
    def edge_lengths(self) -> Floats:
        """(E,) mm."""
        return lengths(self.vertices[self.edges[:, 0]] - self.vertices[self.edges[:, 1]])

    @cached_property
    def usual_edge_mm(self) -> float:
        """Median side of the triangles, 0 without any: no table of edges is made for it."""
        if self.n_faces == 0:
            return 0.0
        a, b, c = self.corner_points
        return float(np.median(np.concatenate([lengths(b - a), lengths(c - b), lengths(a - c)])))

    @cached_property
    def adjacency(self) -> sp.csr_matrix:
        """(V, V) symmetric, edge lengths in mm."""
        i, j = self.edges.T
        n = self.n_vertices
        graph = sp.coo_matrix((self.edge_lengths, (i, j)), shape=(n, n)).tocsr()
        return graph + graph.T

    @cached_property
    def averaging(self) -> sp.csr_matrix:
        """(V, V) mean over the neighbours of each vertex (rows sum to one)."""
        i, j = self.edges.T
        row, column = np.concatenate([j, i]), np.concatenate([i, j])  # so every row's columns rise
        share = 1 / np.bincount(row, minlength=self.n_vertices)[row]
        return sp.coo_matrix((share, (row, column)), shape=(self.n_vertices,) * 2).tocsr()

    @cached_property
    def pieces(self) -> Ints:
        """(V,) the number of the connected piece each vertex belongs to."""
        i, j = self.faces[:, [0, 1]].ravel(), self.faces[:, [1, 2]].ravel()
        return joined(i, j, self.n_vertices)[1]

    def parts(self, mask: Bools) -> Ints:
        """(V,) the number of the connected part that each vertex of `mask` (V,) belongs to within it."""
        i, j = self.edges.T
        both = mask[i] & mask[j]
        return joined(i[both], j[both], self.n_vertices)[1]

    def seam(self, one: Bools, other: Bools) -> Floats:
        """(G, 3) middles of the edges that run from a vertex of `one` (V,) to one of `other` (V,)."""
        i, j = self.edges.T
        across = (one[i] & other[j]) | (other[i] & one[j])
        i, j = i[across], j[across]
        return np.asarray((self.vertices[i] + self.vertices[j]) / 2)

    @cached_property
    def face_tree(self) -> cKDTree:
        """Search tree over the faces' middles."""
        return cKDTree(self.face_centres)

    @cached_property
    def tree(self) -> igl.AABB:
        """Search tree over the faces."""
        tree = igl.AABB()
        tree.init(self.vertices, self.faces)
        return tree

    def closest(self, points: Floats) -> tuple[Floats, Ints, Floats]:
        """Nearest place on the surface for `points` (N, 3).

        Returns distance (N,) mm, face (N,), place (N, 3). Exact to the triangles.
        """
        if len(points) == 0 or self.n_faces == 0:  # the library answers 0 for an empty mesh
            return np.full(len(points), np.inf), np.zeros(len(points), np.int64), points.copy()
        if self._laid is not None:
            before, matrix = self._laid
            distance, face, place = before.closest(move_back(matrix, points))
            return distance, face, move(matrix, place)
        squared, face, place = self.tree.squared_distance(self.vertices, self.faces, np.ascontiguousarray(points))
        return np.sqrt(np.ravel(squared)), np.ravel(face).astype(np.int64), np.asarray(place)

    @cached_property
    def corner_tree(self) -> cKDTree:
        """Search tree over the vertices."""
        return cKDTree(self.vertices)

    def away_at_least(self, points: Floats, until_mm: float = np.inf) -> tuple[Floats, Ints]:
        """(N,) mm that `points` (N, 3) surely lie away from the surface, and the corner nearest to each: by corners
        alone, at a tenth of what `closest` costs. Where they surely lie further away than `until_mm`: infinite."""
        # The nearest place is a corner, or seen from it the point stands at right angles to the way to one; and no
        # place of a triangle is further from all of its corners than an equilateral one's middle.
        widest = float(self.edge_lengths.max(initial=0.0)) / np.sqrt(3)
        away, corner = self.corner_tree.query(
            points, distance_upper_bound=np.nextafter(np.hypot(until_mm, widest), np.inf)
        )
        return np.sqrt(np.maximum(away**2 - widest**2, 0.0)), corner

    def first_hit(self, points: Floats, directions: Floats) -> tuple[Ints, Floats]:
        """(N,) the face that rays from `points` (N, 3) along `directions` (N, 3 or 3,) meet first, -1 where none; and
        how far (N,), in lengths of the direction."""
        rays = np.ascontiguousarray(np.broadcast_to(directions, points.shape))
        face, along, _ = self.tree.intersect_ray_first(self.vertices, self.faces, np.ascontiguousarray(points), rays)
        return np.ravel(face), np.ravel(along)

    def signed_distance(self, points: Floats) -> tuple[Floats, Ints, Floats]:
        """As `closest`, with the distance negative inside (behind the surface); see `mesh.side`."""
        distance, face, place = self.closest(points)
        if self.n_faces == 0:
            return distance, face, place
        behind = is_behind(self, points, distance, face, place)
        return np.where(behind, -distance, distance), face, place

    def gap(self, points: Floats) -> Floats:
        """(N,) signed distances of `points` (N, 3); beyond the open border there is no telling the side: positive."""
        signed, face, place = self.signed_distance(points)
        return np.where(self.at_rim(face, place), np.abs(signed), signed)

    def vertex_at(self, place: tuple[float, float, float]) -> int:
        """The vertex nearest to a place."""
        return int(np.argmin(lengths(self.vertices - np.array(place))))

    def barycentric(self, face: Ints, place: Floats) -> Floats:
        """(N, 3) barycentric weights of places on faces."""
        corner = self.faces.take(face, axis=0)
        a, b, c = (self.vertices.take(corner[:, k], axis=0) for k in range(3))
        v0, v1, v2 = b - a, c - a, place - a
        d00, d01, d11, d20, d21 = (dot(*pair) for pair in ((v0, v0), (v0, v1), (v1, v1), (v2, v0), (v2, v1)))
        denominator = np.maximum(d00 * d11 - d01 * d01, 1e-30)
        v = (d11 * d20 - d01 * d21) / denominator
        w = (d00 * d21 - d01 * d20) / denominator
        return np.clip(np.stack([1 - v - w, v, w], axis=1), 0, 1)

    def normals_at(self, face: Ints, place: Floats) -> Floats:
        """(N, 3) interpolated unit normals at places on faces."""
        weights = self.barycentric(face, place)
        return unit(np.einsum("nck,nc->nk", self.vertex_normals[self.faces[face]], weights))

    def at_rim(self, face: Ints, place: Floats) -> Bools:
        """(N,) whether places on faces lie on the open border: what is nearest there may be what was not scanned."""
        # By weights alone: of the faces that share a corner or side, any may be the one that was found.
        inward = dot(self.barycentric(face, place), (~self.on_border)[self.faces[face]])
        return np.asarray(inward < RIM_WEIGHT)

    def interpolate(self, field: Floats, face: Ints, place: Floats) -> Floats:
        """(N,) a per-vertex `field` (V,) at places on faces."""
        return dot(field[self.faces[face]], self.barycentric(face, place))

    def moved(self, matrix: Floats) -> Surface:
        """The surface under a rigid `matrix` (4, 4), column vectors."""
        out = Surface(move(matrix, self.vertices), self.faces, self.colours)
        for name in ("vertex_normals", "face_normals", "broad_normals"):
            if name in self.__dict__:  # already known: turning them is cheaper than making them again
                out.__dict__[name] = self.__dict__[name] @ matrix[:3, :3].T
        for name in ("vertex_areas", "face_areas", *OF_FACES_ALONE):
            if name in self.__dict__:
                out.__dict__[name] = self.__dict__[name]
        if "home" in self.__dict__:
            middle, axes = self.home
            out.__dict__["home"] = move(matrix, middle[None])[0], axes @ matrix[:3, :3].T
        return out

    def laid(self, matrix: Floats) -> Surface:
        """As `moved`, of a large surface: nearest places are sought where it lay before, by a tree that it has."""
        out = self.moved(matrix)
        out.__dict__["_laid"] = (self, matrix)
        return out

    @property
    def _laid(self) -> tuple[Surface, Floats] | None:
        """The surface before it was laid elsewhere, and by which matrix (4, 4)."""
        return self.__dict__.get("_laid")

    def with_vertices(self, vertices: Floats) -> Surface:
        """The same faces on other `vertices` (V, 3)."""
        out = Surface(vertices, self.faces, self.colours)
        out.__dict__.update({name: self.__dict__[name] for name in OF_FACES_ALONE if name in self.__dict__})
        return out

    def keep_faces(self, mask: Bools) -> tuple[Surface, Ints]:
        """The part made of the faces in `mask` (F,), and the old number of each kept vertex."""
        faces = self.faces[mask]
        needed = np.zeros(self.n_vertices, dtype=bool)
        needed[faces] = True
        used = np.flatnonzero(needed)
        renumbered = np.cumsum(needed) - 1
        colours = None if self.colours is None else self.colours[used]
        part = Surface(self.vertices[used], renumbered[faces], colours)
        if "vertex_normals" in self.__dict__:
            whole = self._valence[used] == part._valence
            part.take_normals(self.vertex_normals[used], ~whole)
        return part, used

    def take_normals(self, normals: Floats, changed: Bools) -> None:
        """Keep vertex normals (V, 3) that are known already but for vertices round which faces changed (V,)."""
        normals = normals.copy()
        if changed.any():
            round_them, used = self.keep_faces(self.any_corner(changed))
            there = changed[used]
            normals[used[there]] = round_them.vertex_normals[there]
        self.__dict__["vertex_normals"] = normals

    @cached_property
    def _valence(self) -> Ints:
        """(V,) faces round each vertex."""
        return np.bincount(self.faces.ravel(), minlength=self.n_vertices)

    def any_corner(self, mask: Bools) -> Bools:
        """(F,) the faces of which a corner is in `mask` (V,): corner by corner, for rows of three are slow."""
        a, b, c = self.faces.T
        return np.asarray(mask[a] | mask[b] | mask[c])

    def keep_vertices(self, mask: Bools) -> tuple[Surface, Ints]:
        """The part made of faces whose three vertices are in `mask` (V,), and their old numbers."""
        return self.keep_faces(~self.any_corner(~mask))

    def smoothed(self, steps: int, shrink: float = 0.5, inflate: float = -0.53) -> Surface:
        """Taubin's low-pass filter, `steps` pairs; open borders stay where they are.

        G. Taubin, Curve and surface smoothing without shrinkage, ICCV 1995.
        """
        vertices = self.vertices.copy()
        free = ~self.on_border[:, None]
        for _ in range(steps):
            for factor in (shrink, inflate):
                vertices += factor * free * (self.averaging @ vertices - vertices)
        return self.with_vertices(vertices)

    def spread(self, field: Floats, steps: int) -> Floats:
        """A per-vertex field (V,) or (V, k) averaged over neighbours `steps` times, by area."""
        weight = np.maximum(self.vertex_areas, 1e-12)
        weight = weight if field.ndim == 1 else weight[:, None]
        for _ in range(steps):
            total = self.averaging @ (field * weight) + field * weight
            norm = self.averaging @ weight + weight
            field = total / norm
        return field


def with_areas(surface: Surface, areas: Floats) -> Surface:
    """The surface with the areas (V,) mm² that its vertices stand for given: noise makes area of its own."""
    out = Surface(surface.vertices, surface.faces, surface.colours)
    out.__dict__.update({k: v for k, v in surface.__dict__.items() if k not in out.__dict__} | {"vertex_areas": areas})
    return out


def merge(surfaces: list[Surface]) -> Surface:
    """Several surfaces as one, unconnected."""
    offset = np.cumsum([0] + [s.n_vertices for s in surfaces[:-1]])
    return Surface(
        np.concatenate([s.vertices for s in surfaces]),
        np.concatenate([s.faces + o for s, o in zip(surfaces, offset, strict=True)]),
    )

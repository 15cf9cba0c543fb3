"""What is so of a made-up case, from its exact shapes. It serves tests only."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.rigid import move
from vane_line.demo.anatomy import BISECTIONS, Tooth, polar
from vane_line.demo.arch import Placed
from vane_line.demo.burs import AxialCut
from vane_line.demo.recipes import Recipe
from vane_line.demo.scanner import surface_of


def truth_of(
    mine: Placed, prep_shape: Callable[[Floats], Floats], recipe: Recipe, to_prep: Floats, to_preop: Floats
) -> dict[str, Any]:
    """What is so, from the exact shapes: sites' depths, the finish line, directions, the frames' relation."""
    found = frames(mine, recipe, to_prep, to_preop)
    if recipe.face:
        return found | window_truth(mine, recipe, to_prep)
    if recipe.cavity:
        return found | cavity_truth(mine, recipe, to_prep)
    if recipe.back:
        return found | recipe.back.truth(mine.tooth)
    if recipe.slices:
        return found | recipe.slices.truth(mine.tooth)
    if recipe.standing:
        return found | recipe.standing.truth()
    return found | crown_truth(mine, prep_shape, recipe, to_prep)


def frames(mine: Placed, recipe: Recipe, to_prep: Floats, to_preop: Floats) -> dict[str, Any]:
    """Where the tooth stands in the preparation's scan, and its core."""
    direction = to_prep[:3, :3] @ mine.rotation()
    built = None if recipe.core_mm is None else _out(mine, to_prep, core_border(mine, recipe)).tolist()
    flip = -1.0 if mine.upside_down else 1.0
    return {
        "tooth": recipe.tooth,
        "occlusal": (flip * direction[:, 2]).tolist(),
        "arch_occlusal": (flip * to_prep[:3, 2]).tolist(),  # differs from the tooth's own where it is tipped
        "facial": direction[:, 1].tolist(),
        "mesial": direction[:, 0].tolist(),
        "preop_to_prep": (to_prep @ np.linalg.inv(to_preop)).tolist(),
        "centre": _out(mine, to_prep, np.array([[0, 0, mine.tooth.size[0] / 2]]))[0].tolist(),
        "nick_mm": recipe.nick_mm,
        "core": built,
    }


def cavity_truth(mine: Placed, recipe: Recipe, to_prep: Floats) -> dict[str, Any]:
    """The outline as points that lie on the tooth's skin and on the cut, and the depth over the middle of the floor."""
    assert recipe.cavity is not None
    tooth, cavity = mine.tooth, recipe.cavity
    length, md, _, fl, _ = tooth.size
    skin = surface_of(tooth, *_box(tooth), 0.14)
    hollow = cavity.hollow(tooth, skin.vertices)
    i, j = skin.edges.T
    across = (hollow[i] < 0) != (hollow[j] < 0)
    share = (hollow[i] / (hollow[i] - hollow[j]))[across, None]
    outline = skin.vertices[i[across]] * (1 - share) + skin.vertices[j[across]] * share
    floor = cavity.strokes[0]
    middle = np.array(floor.course) * [md, fl] + [0.0, float(tooth.lean(length))]
    along = middle[0] + np.linspace(0.15, 0.7, 40)[:, None] * (middle[1] - middle[0])
    over = tooth.occlusal_height(along[:, 0], along[:, 1]) - floor.level_mm
    return {
        "outline": _out(mine, to_prep, outline).tolist(),
        "floor_depth_mm": float(np.median(over)),
        "divergence_deg": floor.taper_deg,
    }


def window_truth(mine: Placed, recipe: Recipe, to_prep: Floats) -> dict[str, Any]:
    """The line as points that lie on the tooth's skin and on the cut, what was taken off, what the mock-up added."""
    assert recipe.face is not None
    tooth, face = mine.tooth, recipe.face
    length = tooth.size[0]
    skin = surface_of(tooth, *_box(tooth), 0.14)
    kept = face.left(tooth, skin.vertices)
    kept = np.where(skin.vertices[:, 2] > length - face.incisal_mm, 1.0, kept)  # over the facet nothing is left
    i, j = skin.edges.T
    across = (kept[i] < 0) != (kept[j] < 0)
    share = (kept[i[across]] / (kept[i[across]] - kept[j[across]]))[:, None]
    line = skin.vertices[i[across]] * (1 - share) + skin.vertices[j[across]] * share
    return {
        "outline": _out(mine, to_prep, line).tolist(),
        "thirds_mm": list(face.thirds_mm),
        "incisal_mm": face.incisal_mm,
        "side_mm": face.side_mm,
        "scoop_mm": face.scoop_mm,
        "longer_mm": recipe.mock.longer_mm if recipe.mock else 0.0,
        "fuller_mm": recipe.mock.fuller_mm if recipe.mock else 0.0,
    }


def crown_truth(
    mine: Placed, prep_shape: Callable[[Floats], Floats], recipe: Recipe, to_prep: Floats
) -> dict[str, Any]:
    """Sites' depths and the finish line."""
    assert recipe.axial is not None
    assert recipe.occlusal is not None
    tooth = mine.tooth
    local_prep = lambda local: prep_shape(mine.to_arch(local))  # noqa: E731
    clean_prep = surface_of(local_prep, *_box(tooth), 0.14)
    clean_tooth = surface_of(tooth, *_box(tooth), 0.14)
    axial = recipe.axial(tooth)
    azimuth = np.arange(0, 360, 1.0)
    line_local = finish_line_truth(tooth, axial, azimuth, recipe.axial)
    sites = {}
    inside = clean_prep.vertices[:, 2] > line_local[:, 2].max() + 1.5
    for name, plan in recipe.occlusal.sites(tooth).items():
        near = inside & (np.hypot(*(clean_prep.vertices[:, :2] - plan).T) < 0.7)
        near &= clean_prep.vertex_normals[:, 2] > 0.5
        if near.any():
            places = clean_prep.vertices[near]
            depth = -clean_tooth.signed_distance(places)[0]
            at = places[np.argmin(depth)]
            sites[name] = {
                "least_mm": float(depth.min()),
                "low_mm": float(np.quantile(depth, 0.02)),
                "median_mm": float(np.median(depth)),
                "at": _out(mine, to_prep, at[None])[0].tolist(),
            }
    return {
        "sites": sites,
        "finish_line": _out(mine, to_prep, line_local).tolist(),
    }


def core_border(mine: Placed, recipe: Recipe) -> Floats:
    """(A, 3) local points of the core's border: on the wall, so high over the finish line as the recipe says."""
    assert recipe.core_mm is not None
    assert recipe.axial is not None
    azimuth = np.arange(0, 360, 5.0)
    a = np.radians(azimuth)
    cut = recipe.axial
    level, above = cut.height_mm(azimuth), recipe.core_mm(azimuth)
    radius = mine.tooth.surface_radius(a, level, np.zeros(2)) - cut.depth_mm(azimuth)
    radius = radius - above * np.tan(np.radians(cut.taper_deg(azimuth)))
    return polar(a, radius, level + above, np.zeros(2))


def finish_line_truth(tooth: Tooth, axial: Callable[[Floats], Floats], azimuth: Floats, cut: AxialCut) -> Floats:
    """(A, 3) local points where the bur's envelope meets the tooth's own surface, found by bisection in height."""
    a = np.radians(azimuth)
    planned = cut.height_mm(azimuth)
    low, high = planned - 1.2, planned + 1.2
    for _ in range(BISECTIONS):
        mid = (low + high) / 2
        points = polar(a, tooth.surface_radius(a, mid, np.zeros(2)), mid, np.zeros(2))
        uncut = axial(points) < 0
        low, high = np.where(uncut, mid, low), np.where(uncut, high, mid)
    mid = (low + high) / 2
    return polar(a, tooth.surface_radius(a, mid, np.zeros(2)), mid, np.zeros(2))


def _box(tooth: Tooth) -> tuple[Floats, Floats]:
    """(3,) low and (3,) high corner of a local box round the crown and a little of the root."""
    length, md, _, fl, _ = tooth.size
    return np.array([-md / 2 - 1, -fl / 2 - 1.5, -1.0]), np.array([md / 2 + 1, fl / 2 + 1.5, length + 0.5])


def _out(mine: Placed, matrix: Floats, local: Floats) -> Floats:
    return move(matrix, mine.to_arch(local))

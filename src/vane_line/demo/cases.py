"""The Saltmarsh demo cases: made from teeth, burs and the scanner, with the truth kept beside the scans.

The truth file serves tests only. Nothing in `core`, `service` or `cli measure` opens it.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from vane_line.core.mesh.surface import Surface
from vane_line.core.mesh.write import write_surface
from vane_line.demo.recipes import Recipe
from vane_line.demo.scene import Scene
from vane_line.demo.truth import truth_of


@dataclass(frozen=True, eq=False)
class MadeCase:
    """Scans in scanner coordinates (mm), and the truth in the preparation scan's."""

    recipe: Recipe
    prep: Surface
    preop: Surface | None
    opposing: Surface | None
    mockup: Surface | None
    truth: dict[str, Any]


def make_case(recipe: Recipe, progress: Callable[[str], None] = lambda _: None, prep_only: bool = False) -> MadeCase:
    """Cut, scan and measure the truth. Under half a minute on two cores.

    `prep_only`: a later attempt, whose earlier scan and opposing scan exist already.
    """
    progress("cutting the tooth")
    scene = Scene.of(recipe)
    progress("scanning the preparation")
    prep = scene.prep()
    preop, opposing, mockup = None, None, None
    if not prep_only:
        progress("scanning the tooth before")
        preop = scene.preop()
        progress("scanning the opposing teeth")
        opposing = scene.opposing()
        mockup = scene.mockup()
    progress("keeping the truth")
    truths = {
        r.tooth: truth_of(scene.teeth[n], scene.cuts[n], r, scene.to_prep, scene.to_preop)
        for n, r in scene.recipes.items()
    }
    truth = truths.pop(recipe.tooth) | {"also": truths}
    return MadeCase(recipe, prep, preop, opposing, mockup, truth)


def write_case(case: MadeCase, folder: Path) -> dict[str, Path]:
    """Scans as binary STL and the truth as JSON, in `folder`."""
    folder.mkdir(parents=True, exist_ok=True)
    paths = {}
    for role in ("prep", "preop", "opposing", "mockup"):
        surface: Surface | None = getattr(case, role)
        if surface is None:
            continue
        if case.recipe.mm_per_unit != 1.0:
            surface = surface.with_vertices(surface.vertices / case.recipe.mm_per_unit)
        paths[role] = folder / f"{case.recipe.code}_{role}.stl"
        write_surface(paths[role], surface)
    (folder / f"{case.recipe.code}_truth.json").write_text(json.dumps(case.truth, indent=1))
    return paths

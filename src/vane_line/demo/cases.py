"""The Saltmarsh demo cases: made from teeth, burs and the scanner, with the truth kept beside the scans.

The truth file serves tests only. Nothing in `core`, `service` or `cli measure` opens it.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import Any, Protocol, TypeVar

from vane_line.core.mesh.surface import Surface
from vane_line.core.mesh.write import write_surface
from vane_line.demo.recipes import Recipe
from vane_line.demo.scene import Scene
from vane_line.demo.truth import frames, truth_of

T = TypeVar("T")


class Keep(Protocol):
    """Gives a part by its name, made before or by what makes it."""

    def __call__(self, part: str, make: Callable[[], T], /) -> T: ...


def _made(_part: str, make: Callable[[], T], /) -> T:
    return make()


@dataclass(frozen=True, eq=False)
class MadeCase:
    """Scans in scanner coordinates (mm), and the truth in the preparation scan's; each made when it is first asked for.

    first: whether it is a case's first attempt: at a later one the preparation alone is scanned.
    """

    recipe: Recipe
    first: bool = True
    keep: Keep = _made

    @cached_property
    def scene(self) -> Scene:
        return Scene.of(self.recipe)

    @cached_property
    def prep(self) -> Surface:
        return self.keep("prep", lambda: self.scene.prep())

    @cached_property
    def preop(self) -> Surface | None:
        return self.keep("preop", lambda: self.scene.preop()) if self.first else None

    @cached_property
    def opposing(self) -> Surface | None:
        return self.keep("opposing", lambda: self.scene.opposing()) if self.first else None

    @cached_property
    def mockup(self) -> Surface | None:
        return self.keep("mockup", lambda: self.scene.mockup()) if self.first else None

    @cached_property
    def stands(self) -> dict[str, Any]:
        """Where the tooth stands on the preparation's scan, and so for the others that were cut, by number."""
        return self._of_all(lambda at, n: frames(at.teeth[n], at.recipes[n], at.to_prep, at.to_preop))

    @cached_property
    def truth(self) -> dict[str, Any]:
        """All that is so of them."""
        return self.keep("truth", lambda: self._of_all(
            lambda at, n: truth_of(at.teeth[n], at.cuts[n], at.recipes[n], at.to_prep, at.to_preop)
        ))  # fmt: skip

    def _of_all(self, tell: Callable[[Scene, str], dict[str, Any]]) -> dict[str, Any]:
        """What is told of each tooth that was cut, by its place in the scene; of all but the recipe's own in `also`."""
        told = {recipe.tooth: tell(self.scene, n) for n, recipe in self.scene.recipes.items()}
        return told.pop(self.recipe.tooth) | {"also": told}


def make_case(recipe: Recipe, progress: Callable[[str], None] = lambda _: None) -> MadeCase:
    """Cut, scan and measure the truth, all at once. Under half a minute on two cores."""
    case = MadeCase(recipe)
    for said, part in (
        ("cutting the tooth", "scene"), ("scanning the preparation", "prep"), ("scanning the tooth before", "preop"),
        ("scanning the opposing teeth", "opposing"), ("scanning the mock-up", "mockup"), ("keeping the truth", "truth"),
    ):  # fmt: skip
        if part != "mockup" or recipe.mock is not None:
            progress(said)
        getattr(case, part)
    return case


def write_case(case: MadeCase, folder: Path) -> dict[str, Path]:
    """Scans as binary STL and the truth as JSON, in `folder`: the scans' files by role."""
    paths = write_scans(case, folder)
    (folder / f"{case.recipe.code}_truth.json").write_text(json.dumps(case.truth, indent=1))
    return paths


def write_scans(case: MadeCase, folder: Path) -> dict[str, Path]:
    """Scans as binary STL in `folder`: their files by role."""
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
    return paths

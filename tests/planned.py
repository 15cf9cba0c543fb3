"""Cut a made-up tooth with the simulated burs just as a plan says: the plan's numbers become the strokes'."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.judge.standards import Standard, choose
from vane_line.core.mesh.surface import move
from vane_line.core.options import Options
from vane_line.core.plan.burs import generic
from vane_line.core.plan.planner import Plan, PlanOptions, make_plan
from vane_line.core.plan.target import back_depth
from vane_line.core.tooth.anatomy import plan as plan_of
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.anatomy import Tooth
from vane_line.demo.arch import Placed, stand
from vane_line.demo.burs import AxialCut, FrontCut, OcclusalCut, Profile, constant
from vane_line.demo.cases import BASE, FRONT, MadeCase, Recipe, make_case, sound_recipe
from vane_line.demo.scanner import random_frame, surface_of

GRID_MM = 0.25


def planned_case(tooth: str, standard: Standard, seed: int, **more: object) -> tuple[Plan, MadeCase]:
    """A plan made on the scan before cutting, and the case cut as it says, scanned again."""
    recipe = _recipe(tooth, standard.material, seed)
    before = make_case(recipe)
    assert before.preop is not None
    back = np.linalg.inv(np.array(before.truth["preop_to_prep"]))
    near = move(back, np.array([before.truth["centre"]]))[0]
    facial = back[:3, :3] @ np.array(before.truth["facial"])
    options = Options(ToothNumber(tooth), near=near, facial=facial, **more)  # type: ignore[arg-type]
    plan = make_plan(before.preop, before.opposing, PlanOptions(options), standard, generic())
    cut = make_case(as_planned(plan, recipe), prep_only=True)
    return plan, replace(cut, preop=before.preop, opposing=before.opposing)


def _recipe(tooth: str, material: str, seed: int) -> Recipe:
    recipe = sound_recipe(tooth, material, seed=seed, bite_with="preop", earlier_seed=seed)
    front = {"papilla_mm": 2.0} if tooth[1] in "123" else {}
    if front:
        recipe = replace(recipe, occlusal=FrontCut(dict.fromkeys(FRONT_SITES, 0.5)))
    return replace(recipe, scan=replace(recipe.scan, grid_mm=GRID_MM), **front)  # type: ignore[arg-type]


FRONT_SITES = ("incisal-edge", "facial/incisal", "facial/middle", "facial/cervical", "lingual-fossa")


def as_planned(plan: Plan, recipe: Recipe) -> Recipe:
    """The recipe with the plan's finish line, width, taper and depths."""
    mine, to_preop = _stands(recipe)
    local = mine.to_local(move(np.linalg.inv(to_preop), plan.line.points()))
    azimuth = np.degrees(np.arctan2(local[:, 0], local[:, 1])) % 360
    order = np.argsort(azimuth)

    def ring(values: Floats) -> Profile:
        return lambda a: np.interp(a, azimuth[order], values[order], period=360)

    radius = np.hypot(local[order, 0], local[order, 1])
    turn = np.gradient(radius, np.radians(azimuth[order])) / radius
    outward = np.empty(len(order))
    outward[order] = np.hypot(1, turn)  # the stroke's depth runs along the radius, the width across the line
    depth = {s.zone: float(s.depth_mm or 0.0) for s in plan.sites}
    corner = 0.35
    axial = AxialCut(
        ring(local[:, 2]),
        ring(plan.width_mm * np.clip(outward, 1, 1.2)),
        constant(plan.options.taper_deg),
        tip_radius_mm=corner,
    )
    if recipe.tooth[1] in "123":
        return replace(recipe, axial=axial, occlusal=FrontCut(depth, holds_from=(0.14, 0.36)))
    return replace(
        recipe, axial=axial, occlusal=Strokes(depth, plan=plan, mine=mine, frame=to_preop), edge_round_mm=0.5
    )


@dataclass(frozen=True, eq=False)
class Strokes(OcclusalCut):
    """Depth-limited strokes over the occlusal surface: a stop rides on it, the bur takes what the plan has there."""

    plan: Plan | None = None
    mine: Placed | None = None
    frame: Floats | None = None

    def __call__(self, tooth: Tooth) -> Callable[[Floats], Floats]:
        assert self.plan is not None
        assert self.mine is not None
        assert self.frame is not None
        plan, mine, frame = self.plan, self.mine, self.frame
        length, md, _, fl, _ = tooth.size
        reach = np.array([md / 2 + 1, fl / 2 + 1.5])
        skin = surface_of(tooth, np.r_[-reach, 1.0], np.r_[reach, length + 0.5], 0.2)
        ridden, _ = skin.keep_faces((skin.face_normals[:, 2] > 0.2) & (skin.face_centres[:, 2] > 0.45 * length))

        def cut(local: Floats) -> Floats:
            signed, face, place = ridden.signed_distance(local)
            depth = np.where(ridden.at_rim(face, place), np.abs(signed), -signed)
            places = plan_of(plan.axes, move(frame, mine.to_arch(local)))
            return np.asarray(back_depth(places, plan.sites, plan.axes) - depth)

        return cut


def _stands(recipe: Recipe) -> tuple[Placed, Floats]:
    """The tooth in its arch, and the frame of the scan before cutting, as `make_case` draws them."""
    upper, mirror = recipe.tooth[0] in "12", recipe.tooth[0] in "14"
    rows = FRONT if recipe.tooth[1] in "123" else BASE
    numbers = rows["upper" if upper else "lower"]
    key = ("1" if upper else "3") + recipe.tooth[1]
    frame = random_frame(np.random.default_rng(recipe.earlier_seed or recipe.scan.seed + 500), mirror)
    return stand(numbers, key, upper, recipe.gap_mm)[key], frame


def default(tooth: str, material: str, standard: str | None = None) -> Standard:
    """A material's standard for a tooth."""
    return choose(material, "full-crown", standard, ToothNumber(tooth))

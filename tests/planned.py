"""Cut a made-up tooth with the simulated burs just as a plan says: the plan's numbers become the strokes'."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.burs import generic
from vane_line.core.judge.standard_choice import choose
from vane_line.core.judge.standards import Standard
from vane_line.core.options import Options
from vane_line.core.plan.plan import Plan, PlanOptions
from vane_line.core.plan.planner import make_plan
from vane_line.core.plan.target import back_depth
from vane_line.core.rigid import move
from vane_line.core.scans import Scans
from vane_line.core.tooth.anatomy import plan as plan_of
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.anatomy import Tooth
from vane_line.demo.arch import Placed
from vane_line.demo.burs import AxialCut, FrontCut, OcclusalCut, Profile, constant
from vane_line.demo.recipes import Recipe, sound_recipe
from vane_line.demo.scanner import surface_of
from vane_line.demo.scene import Scene

GRID_MM = 0.25


def planned_case(tooth: str, standard: Standard, seed: int, **more: object) -> tuple[Plan, Scans]:
    """A plan made on the scan before cutting, and the scans of the case cut as it says."""
    scene = Scene.of(recipe_of(tooth, standard.material, seed))
    preop, opposing = scene.preop(), scene.opposing()
    plan = make_plan(preop, opposing, PlanOptions(pointed_at(tooth, scene, **more)), standard, generic())
    return plan, Scans(Scene.of(as_planned(plan, scene)).prep(), preop, None, opposing)


def pointed_at(tooth: str, scene: Scene, **more: object) -> Options:
    """The tooth shown by a point on it, its facial side marked, as on the screen."""
    middle = np.array([[0.0, 0.0, scene.mine.tooth.size[0] / 2]])
    near = move(scene.to_preop, scene.mine.to_arch(middle))[0]
    facial = scene.to_preop[:3, :3] @ scene.mine.rotation()[:, 1]
    return Options(ToothNumber(tooth), near=near, facial=facial, **more)  # type: ignore[arg-type]


def recipe_of(tooth: str, material: str, seed: int) -> Recipe:
    recipe = sound_recipe(tooth, material, seed=seed, bite_with="preop", earlier_seed=seed)
    front = {"papilla_mm": 2.0} if tooth[1] in "123" else {}
    if front:
        recipe = replace(recipe, occlusal=FrontCut(dict.fromkeys(FRONT_SITES, 0.5)))
    return replace(recipe, scan=replace(recipe.scan, grid_mm=GRID_MM), **front)  # type: ignore[arg-type]


FRONT_SITES = ("incisal-edge", "facial/incisal", "facial/middle", "facial/cervical", "lingual-fossa")


def as_planned(plan: Plan, scene: Scene) -> Recipe:
    """The scene's recipe with the plan's finish line, width, taper and depths."""
    recipe, mine, to_preop = scene.recipe, scene.mine, scene.to_preop
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


def default(tooth: str, material: str, standard: str | None = None) -> Standard:
    """A material's standard for a tooth."""
    return choose(material, "full-crown", standard, ToothNumber(tooth))

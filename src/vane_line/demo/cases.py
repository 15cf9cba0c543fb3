"""The Saltmarsh demo cases: made from teeth, burs and the scanner, with the truth kept beside the scans.

The truth file serves tests only. Nothing in `core`, `service` or `cli measure` opens it.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface, move
from vane_line.core.mesh.write import write_surface
from vane_line.demo.anatomy import Tooth, polar, smooth_max
from vane_line.demo.arch import Gingiva, Placed, Quadrant, leaned, stand
from vane_line.demo.burs import AxialCut, FrontCut, OcclusalCut, Profile, ball_stroke, bump, chatter, constant, step
from vane_line.demo.scanner import ScanSettings, placed, random_frame, scan, surface_of, with_stray

BASE = {  # drawn as the left side (the handedness of arch coordinates); the mirror serves the right
    "lower": ["34", "35", "36", "37"],
    "upper": ["14", "15", "16", "17"],
}
FRONT = {"lower": ["31", "32", "33", "34"], "upper": ["11", "12", "13", "14"]}


NECK_MM = 1.6  # what the demo's lower incisor was left with
NEAR_MM = 0.6
OCCLUSION_FILM_MM = 0.03  # what is left between teeth that meet


@dataclass(frozen=True, eq=False)
class Recipe:
    """All that makes a case: where, how it was cut, and how it was scanned."""

    code: str
    tooth: str  # FDI
    material: str
    occlusal: OcclusalCut | FrontCut
    axial: AxialCut
    gap_mm: float = -0.03
    tooth_scale: float = 1.0
    nick_mm: float = 0.0  # depth of a nick in the distal neighbour
    edge_round_mm: float = 0.22
    scan: ScanSettings = field(default_factory=ScanSettings)
    same_frame: bool = False
    bite_with: str = "prep"  # which scan's coordinates the opposing scan comes in
    earlier_seed: int = 0  # shared by attempts whose earlier scan is the same
    stray: bool = True
    mm_per_unit: float = 1.0
    cervical_gingiva_mm: float = 0.55
    missing: tuple[str, ...] = ()  # teeth of the arch that were lost, by position: "6"
    tip_deg: float = 0.0  # the tooth's lean to mesial, into the gap that a lost neighbour left
    bulk_mm: float = 0.0  # by which an old crown stood outside the tooth
    papilla_mm: float = 1.3
    worn_mm: float = 0.0  # worn flat off the highest cusp before anything was cut
    core_mm: Profile | None = None  # height of a core's border over the finish line


@dataclass(frozen=True, eq=False)
class MadeCase:
    """Scans in scanner coordinates (mm), and the truth in the preparation scan's."""

    recipe: Recipe
    prep: Surface
    preop: Surface | None
    opposing: Surface | None
    truth: dict[str, Any]


def timid_first_molar(attempt: int = 1, seed: int = 36) -> Recipe:
    """36 for a lithium disilicate crown, cut a little timidly; the second attempt mends most of it."""
    first = attempt == 1
    depth = {
        "mesiofacial": 1.55, "distofacial": 1.5, "distal": 1.45, "mesiolingual": 1.45,
        "distolingual": 0.33 if first else 1.40, "central-groove": 1.40,
        "facial-groove": 0.75 if first else 1.35, "lingual-groove": 1.35, "marginal-ridge": 1.35, "other": 1.4,
    }  # fmt: skip
    height = following_papillae(1.35)
    taper = constant(6.0)
    shoulder = constant(1.05)
    lip = None
    if first:
        height = chatter(step(height, 222, 260, 0.45), 310, 346, 0.12, 8.0)
        taper = bump(taper, 45, 17, -10.3)
        lip = bump(constant(0.0), 160, 22, 0.24)
    return Recipe(
        code=f"SM-0147-{attempt}",
        tooth="36",
        material="lithium-disilicate",
        occlusal=OcclusalCut(depth),
        axial=AxialCut(height, shoulder, taper, tip_radius_mm=0.35, lip_mm=lip),
        nick_mm=0.18,
        scan=ScanSettings(seed=seed + attempt),
        bite_with="preop",
        earlier_seed=seed,
    )


def tipped_second_molar(seed: int = 47) -> Recipe:
    """47 for a zirconia crown, leaning 20 degrees into the gap of the lost 46: cut along its own axis, much tapered."""
    taper = bump(bump(constant(7.0), 90, 120, 11.2), 270, 110, 7.0)
    return Recipe(
        code="SM-0212",
        tooth="47",
        material="zirconia",
        occlusal=OcclusalCut({"other": 1.4}),
        axial=AxialCut(following_papillae(0.85, 0.35), constant(0.85), taper, tip_radius_mm=0.35),
        scan=ScanSettings(seed=seed),
        earlier_seed=seed,
        bite_with="preop",
        stray=False,
        missing=("6",),
        tip_deg=20.0,
    )


def lower_lateral_incisor(seed: int = 32) -> Recipe:
    """32, an old metal-ceramic crown to be replaced in zirconia: cut thin at the neck, and too little on the face."""
    depth = {"incisal-edge": 1.5, "facial/incisal": 0.27, "facial/middle": 0.75, "facial/cervical": 0.7,
             "lingual-fossa": 0.7}  # fmt: skip

    def shoulder(azimuth: Floats) -> Floats:
        """0.42 in front and behind; between the teeth so deep that NECK_MM are left from wall to wall."""
        a = np.radians(azimuth)
        outline = 1 / np.sqrt((np.cos(a) / 3.05) ** 2 + (np.sin(a) / 2.37) ** 2)
        return np.maximum(0.42, outline - NECK_MM / 2 / np.maximum(np.abs(np.sin(a)), 0.25))

    return Recipe(
        code="SM-0231",
        tooth="32",
        material="zirconia",
        occlusal=FrontCut(depth),
        axial=AxialCut(following_papillae(1.3, 0.9), shoulder, constant(5.0), tip_radius_mm=0.3),
        bulk_mm=0.12,
        papilla_mm=2.0,
        scan=ScanSettings(seed=seed),
        earlier_seed=seed,
        bite_with="preop",
        stray=False,
    )


def worn_premolar(seed: int = 15) -> Recipe:
    """15, worn, root-filled with a core, for lithium disilicate with conventional cement; ferrule short mesially."""
    depth = {"lingual": 1.10, "facial": 2.35, "other": 1.95}
    return Recipe(
        code="SM-0198",
        tooth="15",
        material="lithium-disilicate",
        occlusal=OcclusalCut(depth),
        axial=AxialCut(following_papillae(1.2, 0.5), constant(1.1), constant(6.0), tip_radius_mm=0.35),
        worn_mm=0.7,
        core_mm=bump(constant(2.2), 90, 60, -1.8),
        scan=ScanSettings(seed=seed),
        earlier_seed=seed,
        bite_with="preop",
        stray=False,
    )


def following_papillae(level_mm: float, rise_mm: float = 0.85) -> Profile:
    """A finish line that rises with the gingiva between the teeth."""
    return bump(bump(constant(level_mm), 90, 48, rise_mm), 270, 48, rise_mm)


def sound_recipe(tooth: str, material: str, seed: int = 1, **changes: Any) -> Recipe:
    """A preparation cut to target all round, for tests and plans."""
    depth = {"other": 1.5}
    recipe = Recipe(
        code=f"SM-{tooth}",
        tooth=tooth,
        material=material,
        occlusal=OcclusalCut(depth),
        axial=AxialCut(following_papillae(1.35), constant(1.0), constant(6.0), tip_radius_mm=0.35),
        scan=ScanSettings(seed=seed),
        stray=False,
    )
    return replace(recipe, **changes)


def make_case(recipe: Recipe, progress: Callable[[str], None] = lambda _: None, prep_only: bool = False) -> MadeCase:
    """Cut, scan and measure the truth. Under a minute on two cores.

    `prep_only`: a later attempt, whose earlier scan and opposing scan exist already.
    """
    upper = recipe.tooth[0] in "12"
    mirror = recipe.tooth[0] in "14"
    rows = FRONT if recipe.tooth[1] in "123" else BASE
    numbers, other = (rows["upper"], rows["lower"]) if upper else (rows["lower"], rows["upper"])
    key = ("1" if upper else "3") + recipe.tooth[1]
    random = np.random.default_rng(recipe.scan.seed)
    earlier = np.random.default_rng(recipe.earlier_seed or recipe.scan.seed + 500)
    numbers = [n for n in numbers if n[1] not in recipe.missing]
    teeth = stand(numbers, key, upper, recipe.gap_mm)
    if recipe.tip_deg:
        teeth = leaned(teeth, key, recipe.tip_deg, recipe.gap_mm)
    if recipe.tooth_scale != 1.0:
        teeth = {n: replace(p, tooth=replace(p.tooth, scale=recipe.tooth_scale),
                            origin=p.origin * recipe.tooth_scale) for n, p in teeth.items()}  # fmt: skip
    mine = teeth[key]
    up = np.array([0, 0, -1.0 if upper else 1.0])

    progress("cutting the tooth")
    prep_shape = prepared(mine, recipe)
    carved = nick(teeth, key, recipe)
    gingiva_before = Gingiva(list(teeth.values()), level_mm=recipe.cervical_gingiva_mm, papilla_mm=recipe.papilla_mm)
    gingiva_after = replace(
        gingiva_before, level_mm=recipe.cervical_gingiva_mm - 0.2, papilla_mm=recipe.papilla_mm - 0.55, swell_mm=0.12,
        sulcus_mm=0.45,
    )  # fmt: skip
    before = Quadrant(teeth, gingiva_before, stood_before(mine, key, recipe))
    after = Quadrant(teeth, gingiva_after, {key: prep_shape}, carved)

    low, high = _field(teeth, up)
    trim = lambda p: p @ up > -3.6 + 0.5 * np.sin(0.7 * p[:, 0])  # noqa: E731 - a border is never straight
    settings = recipe.scan
    progress("scanning the preparation")
    prep = scan(after, low, high, up, settings, trim)
    to_prep = random_frame(random, mirror)
    to_preop = to_prep if recipe.same_frame else random_frame(earlier, mirror)
    preop, opposing = None, None
    if not prep_only:
        progress("scanning the tooth before")
        preop = placed(scan(before, low, high, up, replace(settings, seed=settings.seed + 1000), trim), to_preop)
        progress("scanning the opposing teeth")
        shape, o_low, o_high = opposing_teeth(other, key, before, upper, recipe.tooth_scale)
        coarser = replace(settings, seed=settings.seed + 2000, grid_mm=settings.grid_mm * 1.3)
        opposing = placed(
            scan(shape, o_low, o_high, -up, coarser), to_preop if recipe.bite_with == "preop" else to_prep
        )
    progress("keeping the truth")
    truth = truth_of(mine, prep_shape, recipe, to_prep, to_preop)
    prep_out = placed(prep, to_prep)
    if recipe.stray:
        prep_out = with_stray(prep_out, random)
    return MadeCase(recipe, prep_out, preop, opposing, truth)


def prepared(mine: Placed, recipe: Recipe) -> Callable[[Floats], Floats]:
    """The cut tooth as a function of arch points."""
    tooth = mine.tooth
    axial, occlusal = recipe.axial(tooth), recipe.occlusal(tooth)

    def shape(points: Floats) -> Floats:
        local = mine.to_local(points)
        value = tooth(local)
        near = value < NEAR_MM  # further out the tooth's own distance decides
        cut = smooth_max(axial(local[near]), occlusal(local[near]), recipe.edge_round_mm)
        value[near] = np.maximum(value[near], cut)
        return value

    return shape


def stood_before(mine: Placed, key: str, recipe: Recipe) -> dict[str, object]:
    """What stood there before, where it was not the sound tooth: a bulkier old crown, or cusps worn flat."""
    tooth, length = mine.tooth, mine.tooth.size[0]

    def shape(points: Floats) -> Floats:
        local = mine.to_local(points)
        value = tooth(local) - recipe.bulk_mm * np.clip((local[:, 2] - 0.8) / 0.6, 0, 1)
        if recipe.worn_mm:
            value = smooth_max(value, local[:, 2] - (length - recipe.worn_mm), 0.25)
        return value

    return {key: shape} if recipe.bulk_mm or recipe.worn_mm else {}


def nick(teeth: dict[str, Placed], key: str, recipe: Recipe) -> tuple[Callable[[Floats], Floats], ...]:
    """The groove that a bur passing distally left in the neighbour, as an arch-space tool."""
    neighbour = teeth.get(key[0] + str(int(key[1]) + 1))
    if neighbour is None or recipe.nick_mm <= 0:
        return ()
    length = neighbour.tooth.size[0]
    height = 0.55 * length
    azimuth = np.radians([58.0])  # in the facial embrasure, where the scan before saw it
    radius = neighbour.tooth.surface_radius(azimuth, np.array([height]), np.zeros(2))
    bur = 0.5
    at = polar(azimuth, radius + bur - recipe.nick_mm, np.array([height]), np.zeros(2))[0]
    start, end = at + [0, 0, -0.7], at + [0, 0, 0.9]
    return (ball_stroke(neighbour.to_arch(start[None])[0], neighbour.to_arch(end[None])[0], bur),)


def opposing_teeth(
    numbers: list[str], key: str, before: Quadrant, upper: bool, scale: float
) -> tuple[Callable[[Floats], Floats], Floats, Floats]:
    """The other jaw's teeth, brought down to intercuspation and worn to fit where they would cut in."""
    reference = ("3" if upper else "1") + key[1]
    teeth = stand(numbers, reference, not upper)
    sign = 1.0 if not upper else -1.0
    mine = before.teeth[key].tooth.size[0]
    # Upper cusps bite a little outside and distal of the lower ones, upper incisors well before them.
    front = key[1] in "123"
    shift = np.array([-0.8 if front else -2.2, 2.7 if front else 1.6, 0.0]) * (1 if not upper else -1)
    teeth = {
        n: replace(p, tooth=replace(p.tooth, scale=scale), origin=p.origin * scale + shift) for n, p in teeth.items()
    }
    size = teeth[reference].tooth.size[0]
    closed = mine + size - (2.3 if front else 1.75) * scale
    quadrant = Quadrant(
        {n: replace(p, origin=p.origin + [0, 0, sign * closed]) for n, p in teeth.items()},
        Gingiva([replace(p, origin=p.origin + [0, 0, sign * closed]) for p in teeth.values()]),
    )
    # Gingiva reads the height of its margin in its own teeth's coordinates.
    offset = sign * closed

    def shape(points: Floats) -> Floats:
        value = np.full(len(points), 4.0)
        for p in quadrant.teeth.values():
            value = np.minimum(value, p(points))
        gum = Gingiva([replace(p, origin=p.origin - [0, 0, offset]) for p in quadrant.teeth.values()])
        value = np.minimum(value, gum(points - [0, 0, offset], np.abs(value)))
        near = value < NEAR_MM
        value[near] = smooth_max(value[near], OCCLUSION_FILM_MM - before(points[near]), 0.08)
        return value

    low, high = _field(quadrant.teeth, np.array([0, 0, -sign]))
    return shape, low, high


def _field(teeth: dict[str, Placed], up: Floats) -> tuple[Floats, Floats]:
    origins = np.stack([p.origin for p in teeth.values()])
    size = max(p.tooth.size[0] for p in teeth.values())
    reach = np.array([6.5, 8.5, 0.0])
    low, high = origins.min(axis=0) - reach, origins.max(axis=0) + reach
    if up[2] > 0:
        low[2], high[2] = low[2] - 4.2, high[2] + size + 0.6
    else:
        low[2], high[2] = low[2] - size - 0.6, high[2] + 4.2
    return low, high


def truth_of(
    mine: Placed, prep_shape: Callable[[Floats], Floats], recipe: Recipe, to_prep: Floats, to_preop: Floats
) -> dict[str, Any]:
    """What is so, from the exact shapes: sites' depths, the finish line, directions, the frames' relation."""
    tooth = mine.tooth
    _, md, _, fl, _ = tooth.size
    length = tooth.size[0]
    box_low, box_high = np.array([-md / 2 - 1, -fl / 2 - 1.5, -1.0]), np.array([md / 2 + 1, fl / 2 + 1.5, length + 0.5])
    local_prep = lambda local: prep_shape(mine.to_arch(local))  # noqa: E731
    clean_prep = surface_of(local_prep, box_low, box_high, 0.14)
    clean_tooth = surface_of(tooth, box_low, box_high, 0.14)
    axial = recipe.axial(tooth)
    azimuth = np.arange(0, 360, 1.0)
    line_local = finish_line_truth(tooth, axial, azimuth, recipe.axial)
    distance = -clean_tooth.signed_distance(clean_prep.vertices)[0]
    sites = {}
    inside = clean_prep.vertices[:, 2] > line_local[:, 2].max() + 1.5
    for name, plan in recipe.occlusal.sites(tooth).items():
        near = inside & (np.hypot(*(clean_prep.vertices[:, :2] - plan).T) < 0.7)
        near &= clean_prep.vertex_normals[:, 2] > 0.5
        if near.any():
            at = clean_prep.vertices[near][np.argmin(distance[near])]
            sites[name] = {
                "least_mm": float(distance[near].min()),
                "low_mm": float(np.quantile(distance[near], 0.02)),
                "median_mm": float(np.median(distance[near])),
                "at": _out(mine, to_prep, at[None])[0].tolist(),
            }
    direction = to_prep[:3, :3] @ mine.rotation()
    flip = -1.0 if mine.upside_down else 1.0
    return {
        "tooth": recipe.tooth,
        "occlusal": (flip * direction[:, 2]).tolist(),
        "arch_occlusal": (flip * to_prep[:3, 2]).tolist(),  # differs from the tooth's own where it is tipped
        "facial": direction[:, 1].tolist(),
        "mesial": direction[:, 0].tolist(),
        "preop_to_prep": (to_prep @ np.linalg.inv(to_preop)).tolist(),
        "sites": sites,
        "finish_line": _out(mine, to_prep, line_local).tolist(),
        "centre": _out(mine, to_prep, np.array([[0, 0, length / 2]]))[0].tolist(),
        "nick_mm": recipe.nick_mm,
        "core": None if recipe.core_mm is None else _out(mine, to_prep, core_border(mine, recipe)).tolist(),
    }


def core_border(mine: Placed, recipe: Recipe) -> Floats:
    """(A, 3) local points of the core's border: on the wall, so high over the finish line as the recipe says."""
    assert recipe.core_mm is not None
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
    for _ in range(40):
        mid = (low + high) / 2
        points = polar(a, tooth.surface_radius(a, mid, np.zeros(2)), mid, np.zeros(2))
        uncut = axial(points) < 0
        low, high = np.where(uncut, mid, low), np.where(uncut, high, mid)
    mid = (low + high) / 2
    return polar(a, tooth.surface_radius(a, mid, np.zeros(2)), mid, np.zeros(2))


def _out(mine: Placed, matrix: Floats, local: Floats) -> Floats:
    return move(matrix, mine.to_arch(local))


def write_case(case: MadeCase, folder: Path) -> dict[str, Path]:
    """Scans as binary STL and the truth as JSON, in `folder`."""
    folder.mkdir(parents=True, exist_ok=True)
    paths = {}
    for role in ("prep", "preop", "opposing"):
        surface: Surface | None = getattr(case, role)
        if surface is None:
            continue
        if case.recipe.mm_per_unit != 1.0:
            surface = surface.with_vertices(surface.vertices / case.recipe.mm_per_unit)
        paths[role] = folder / f"{case.recipe.code}_{role}.stl"
        write_surface(paths[role], surface)
    (folder / f"{case.recipe.code}_truth.json").write_text(json.dumps(case.truth, indent=1))
    return paths

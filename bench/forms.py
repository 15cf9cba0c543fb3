"""Cuts of random form: teeth, tapers, ledges, courses, outlines and depths as far from a textbook's as hands cut them.

`bench/grids.py --forms` scans each finely and coarsely, and looks for verdicts that contradict each other.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.anatomy import Tooth
from vane_line.demo.burs import AxialCut, FrontCut, OcclusalCut, Profile, bump, constant
from vane_line.demo.cavity import Cavity, Cover, Stroke
from vane_line.demo.partial import Furrow, OpenFace
from vane_line.demo.recipes import Recipe, following_papillae, sound_recipe
from vane_line.demo.slices import AllRound, Slices
from vane_line.demo.window import FaceCut, MockUp

BACK = ("36", "46", "16", "26", "37", "47", "17", "27", "45", "35", "14", "24", "15", "25", "34", "44")
FRONT = ("11", "12", "13", "21", "22", "23", "31", "32", "33", "41", "42", "43")
MILK_BACK, MILK_FRONT = ("54", "55", "64", "65", "74", "75", "84", "85"), ("51", "52", "61", "62")
MATERIALS = ("zirconia", "lithium-disilicate", "full-metal", "metal-ceramic")
FRONT_SHARE = 1 / 3
# Two abutments in one quadrant, and the teeth between that were lost.
SPANS = (("35", "37"), ("45", "47"), ("25", "27"), ("15", "17"), ("14", "16"), ("34", "36"), ("24", "26"), ("34", "37"))
SITES = (
    "mesiofacial", "distofacial", "mesiolingual", "distolingual", "distal", "facial", "lingual", "central-groove",
    "facial-groove", "lingual-groove", "marginal-ridge",
)  # fmt: skip


def _evenly(random: np.random.Generator) -> Callable[[float, float], float]:
    """What draws a number between two."""
    return lambda low, high: float(random.uniform(low, high))


def random_crown(seed: int) -> Recipe:
    """Where its ledge is narrow or its wall low, the root may show; some teeth are worn, lost neighbours, or tipped."""
    random = np.random.default_rng(seed)

    front = random.random() < FRONT_SHARE
    return _crown(random, seed, str(random.choice(FRONT if front else BACK)))


def random_bridge(seed: int) -> Recipe:
    """Of two crowns of random form beside lost teeth, the back one leaning into the space by up to 15 degrees; each cut
    true to its own axis."""
    random = np.random.default_rng([seed, 2])
    front, back = SPANS[random.integers(len(SPANS))]
    lost = tuple(str(n) for n in range(int(front[1]) + 1, int(back[1])))
    other, recipe = (replace(_crown(random, seed, tooth), missing=(), tip_deg=0.0) for tooth in (front, back))
    grown = ((lost[0], float(random.uniform(0, 1.5))),) if random.random() < 0.5 else ()
    return replace(
        recipe, also=(other,), lost=lost, tip_deg=float(random.choice([0.0, random.uniform(0, 15)])), grown_mm=grown,
        ridge_mm=float(random.uniform(-0.6, 0.6)), material="zirconia", bite_with="preop", earlier_seed=seed,
    )  # fmt: skip


def _crown(random: np.random.Generator, seed: int, tooth: str) -> Recipe:
    one = _evenly(random)

    front = tooth in FRONT
    lower = not ToothNumber(tooth).upper
    widest = (0.8 if lower else 1.1) if front else 1.3
    axial = _axial(random, width_mm=one(0.3, widest))
    recipe = sound_recipe(
        tooth, str(random.choice(MATERIALS)), seed=seed, same_frame=True, axial=axial, tooth_scale=one(0.9, 1.1),
        gap_mm=float(random.choice([0.0, 0.03, 0.1, one(0, 0.4)])), edge_round_mm=one(0.12, 0.5),
        cervical_gingiva_mm=one(0.2, 0.9), papilla_mm=one(0.8, 1.7),
        nick_mm=float(random.choice([0.0, 0.0, one(0.1, 0.4)])),
        bridging_mm=float(random.choice([0.0, 0.25, 0.25])),
    )  # fmt: skip
    if front:
        depth = {f"facial/{third}": one(0.3, 0.9 if lower else 1.5) for third in ("incisal", "middle", "cervical")}
        depth |= {"incisal-edge": one(0.8, 2.4), "lingual-fossa": one(0.3, 1.2)}
        return replace(recipe, occlusal=FrontCut(depth))
    deep = one(0.7, 2.3)
    depth = {site: max(0.1, deep + one(-0.5, 0.5)) for site in SITES} | {"other": deep}
    recipe = replace(recipe, occlusal=OcclusalCut(depth), worn_mm=float(random.choice([0.0, 0.0, one(0, 0.8)])))
    if tooth[1] in "57" and random.random() < 0.2:
        recipe = replace(recipe, missing=("6",), tip_deg=one(0, 20) if tooth[1] == "7" else 0.0)
    return recipe


def _axial(random: np.random.Generator, width_mm: float) -> AxialCut:
    def uneven(profile: Profile, most: int, degrees: tuple[float, float], by: tuple[float, float]) -> Profile:
        for _ in range(random.integers(0, most + 1)):
            profile = bump(profile, random.uniform(0, 360), random.uniform(*degrees), random.uniform(*by))
        return profile

    share = width_mm / 0.8
    height = following_papillae(float(random.uniform(0.4, 1.8)), float(random.uniform(0.2, 1.0)))
    rim = uneven(constant(0.0), 1, (12, 30), (0.1, 0.3)) if random.random() < 0.5 else None
    return AxialCut(
        height_mm=uneven(height, 1, (15, 60), (-0.5, 0.6)),
        depth_mm=uneven(constant(width_mm), 2, (15, 90), (-0.25 * share, 0.35 * share)),
        taper_deg=uneven(constant(float(random.uniform(1, 16))), 2, (15, 100), (-8, 10)),
        tip_radius_mm=float(random.uniform(0.1, 0.6)),
        floor_slope_deg=float(random.choice([0.0, 0.0, 0.0, random.uniform(0, 25)])),
        lip_mm=rim,
    )


def random_veneer(seed: int) -> Recipe:
    """Of a front tooth's face: from hardly any ledge to a crown's, some through a mock-up, some with a scoop."""
    random = np.random.default_rng([seed, 3])
    one = _evenly(random)

    tooth = str(random.choice(FRONT))
    face = FaceCut(
        thirds_mm=(one(0.2, 0.7), one(0.3, 0.9), one(0.3, 1.0)), side_mm=one(0.25, 0.5), incisal_mm=one(0.5, 2.2),
        neck_mm=one(0.3, 1.4), papilla_mm=one(0.8, 1.8), end_share=(one(0.15, 0.6), one(0.15, 0.6)),
        scoop_mm=float(random.choice([0.0, 0.0, 0.0, one(0.6, 1.2)])), chamfer_mm=one(0.2, 0.45),
    )  # fmt: skip
    mock = MockUp(longer_mm=one(0.2, 1.4), fuller_mm=one(0.05, 0.4), wider_mm=0.0) if random.random() < 0.5 else None
    return replace(
        _mouth(random, seed, tooth, str(random.choice(["lithium-disilicate", "all-ceramic"]))), axial=None,
        occlusal=None, face=face, mock=mock,
    )  # fmt: skip


def random_cavity(seed: int) -> Recipe:
    """For an inlay or onlay: with none, one or two boxes, wide or narrow, deep or flat, cusps covered or not."""
    random = np.random.default_rng([seed, 4])
    one = _evenly(random)

    tooth = str(random.choice(BACK))
    recipe = _mouth(random, seed, tooth, str(random.choice(["lithium-disilicate", "full-metal"])))
    drawn = Tooth(("1" if ToothNumber(tooth).upper else "3") + tooth[1], recipe.tooth_scale)
    length, _, _, fl, _ = drawn.size
    groove = float(drawn.occlusal_height(np.zeros(1), np.array([float(drawn.lean(length))]), fissures=False)[0])
    floor, half, taper, end = groove - one(1.0, 2.6), one(0.09, 0.2) * fl, one(2, 12), one(0.2, 0.5)
    sides = [(), (1,), (-1,), (1, -1)][random.choice(4, p=[0.1, 0.4, 0.3, 0.2])]
    ends = [s * (0.42 if s in sides else one(0.12, 0.3)) for s in (-1, 1)]
    off = one(-0.06, 0.06)
    strokes = [Stroke(((ends[0], off), (ends[1], off)), half, floor, taper, end)]
    for side in sides:
        box, wide, level = one(0.4, 0.47), one(0.03, 0.13), floor - one(0.6, 2.0)
        for x in (side * box, side * 0.6):
            strokes.append(Stroke(((x, off - wide), (x, off + wide)), one(0.9, 1.2), level, taper, end))
    covers = ()
    if random.random() < 0.4:
        covers = (Cover(one(1.0, 2.2), -0.6, 0.6, int(random.choice([-1, 1]))),)
    return replace(recipe, axial=None, occlusal=None, cavity=Cavity(tuple(strokes), covers))


def random_partial(seed: int) -> Recipe:
    """A gold crown that leaves the face: how far it goes round, its step, flare and grooves, and the rest as a
    crown's."""
    random = np.random.default_rng([seed, 5])
    one = _evenly(random)

    deep = one(0.9, 1.8)
    sites = {site: max(0.4, deep + one(-0.4, 0.4)) for site in SITES} | {"other": deep}
    axial = AxialCut(
        following_papillae(one(0.3, 0.9), one(0.1, 0.4)), constant(one(0.4, 0.9)), constant(one(2, 9)),
        tip_radius_mm=one(0.2, 0.4),
    )  # fmt: skip
    ends = one(0.9, 1.5)
    furrows = tuple(
        Furrow(end, deep_mm=one(0.5, 1.2), ends_mm=ends, behind_mm=one(0.8, 1.3), wide_mm=one(0.8, 1.2))
        for end in ((1.0, -1.0) if random.random() < 0.8 else (1.0,))
    )
    face = OpenFace(
        foot_share=one(0.12, 0.28), lean_deg=one(2, 10), flare_deg=one(15, 40), over_mm=one(0.2, 0.6), furrows=furrows
    )
    recipe = _mouth(random, seed, str(random.choice(BACK)), "full-metal")
    return replace(
        recipe, axial=axial, occlusal=OcclusalCut(sites), standing=face, cervical_gingiva_mm=one(0.0, 0.2),
        papilla_mm=one(0.3, 0.8), nick_mm=0.0,
    )  # fmt: skip


def random_child(seed: int) -> Recipe:
    """For a prefabricated crown: sliced at the sides or taken down all round, with a ledge left or none."""
    random = np.random.default_rng([seed, 6])
    one = _evenly(random)

    front = random.random() < FRONT_SHARE
    tooth = str(random.choice(MILK_FRONT if front else MILK_BACK))
    if front:
        cut: Slices | AllRound = AllRound(
            incisal_mm=one(0.8, 2.2), side_mm=(one(0.5, 1.4), one(0.5, 1.4), one(0.5, 1.4))
        )
    else:
        cut = Slices(
            occlusal_mm=one(0.6, 2.0), side_mm=one(0.6, 1.4), lean_deg=one(1, 8),
            ledge_mm=float(random.choice([0.0, 0.0, one(0.15, 0.6)])), ledge_at_mm=one(1.0, 1.5),
        )  # fmt: skip
    recipe = _mouth(random, seed, tooth, "preformed-zirconia" if front else "preformed-metal")
    return replace(
        recipe, axial=None, occlusal=None, slices=cut, across=2 if front else 0, nick_mm=0.0,
        gap_mm=one(0.2, 0.7), midline_mm=one(0.3, 0.8) if front else None, cervical_gingiva_mm=one(0.2, 0.5),
        papilla_mm=one(0.7, 1.1), scan=replace(recipe.scan, tilt_deg=74.0, tilts=(0.12, 0.25, 0.5, 1.0)),
    )  # fmt: skip


def _mouth(random: np.random.Generator, seed: int, tooth: str, material: str) -> Recipe:
    """A tooth and what stands round it, with nothing cut yet."""
    return sound_recipe(
        tooth, material, seed=seed, same_frame=True, tooth_scale=float(random.uniform(0.9, 1.1)),
        gap_mm=float(random.choice([0.0, 0.03, 0.1, random.uniform(0, 0.4)])),
        cervical_gingiva_mm=float(random.uniform(0.2, 0.9)), papilla_mm=float(random.uniform(0.8, 1.7)),
        nick_mm=float(random.choice([0.0, 0.0, random.uniform(0.1, 0.4)])),
        bridging_mm=float(random.choice([0.0, 0.1, 0.25])),
    )  # fmt: skip

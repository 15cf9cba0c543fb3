"""A recipe made into shapes: teeth in their arch, cut and uncut, the opposing jaw, and their scans."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.mesh.surface import Surface
from vane_line.demo.anatomy import polar, smooth_max
from vane_line.demo.arch import (
    GAP_MM,
    OTHER_SIDE,
    Gingiva,
    Placed,
    Quadrant,
    curved,
    leaned,
    over_sphere,
    stand,
    turning,
)
from vane_line.demo.burs import ball_stroke
from vane_line.demo.recipes import Recipe
from vane_line.demo.scanner import placed, random_frame, scan, with_stray
from vane_line.demo.window import MockUp

BASE = {  # drawn as the left side (the handedness of arch coordinates); the mirror serves the right
    "lower": ["34", "35", "36", "37"],
    "upper": ["14", "15", "16", "17"],
}
MILK_FRONT = {"lower": ["71", "72", "73", "74"], "upper": ["51", "52", "53", "54"]}
MILK = {"lower": ["73", "74", "75", "36"], "upper": ["53", "54", "55", "16"]}  # a child's, with the first molar behind
FRONT = {"lower": ["31", "32", "33", "34"], "upper": ["11", "12", "13", "14"]}
NEAR_MM = 0.6
ERUPTS_MM, WORN_IN_MM = 2.0, 0.22  # how far an opposing tooth is moved to bear, and how deep its facets are worn
FURTHER_SHARE = 1.5  # of an overjet beyond the usual: so much further front teeth find those they bear on
OVERJET_MM = {False: 2.7, True: 2.2}  # of front teeth as they stand before they erupt: over lower, over upper ones
OUTSIDE_MM, CROSSED_MM = 1.6, 2.0  # upper back teeth outside lower ones, and inside them in a crossbite
OCCLUSION_FILM_MM = 0.03  # what is left between teeth that meet


@dataclass(frozen=True, eq=False)
class Scene:
    """The mouth of a recipe: teeth by number, shapes before and after the cut, and the frames that scans come in."""

    recipe: Recipe
    key: str  # the cut tooth's number, as drawn
    teeth: dict[str, Placed]
    whole: dict[str, Placed]  # as they stood before any was lost or tipped
    recipes: dict[str, Recipe]  # of the cut teeth by number
    cuts: dict[str, Callable[[Floats], Floats]]  # the prepared teeth by number
    before: Quadrant
    after: Quadrant
    to_prep: Floats
    to_preop: Floats

    @classmethod
    def of(cls, recipe: Recipe) -> Scene:
        """Teeth stood, the tooth cut, frames drawn; nothing is scanned yet."""
        upper, mirror = recipe.tooth[0] in "1256", recipe.tooth[0] in "1458"
        key = _key(recipe, upper)
        numbers = tuple(n for n in _row(recipe, upper) if n[1] not in recipe.missing)
        whole = teeth = _stood(numbers, key, upper, recipe.gap_mm, recipe.midline_mm, recipe.taller_mm, recipe.stout_mm)
        if recipe.lost:
            teeth = {n: p for n, p in teeth.items() if n[1] not in recipe.lost}
            teeth |= {key: replace(teeth[key], tip_deg=recipe.tip_deg)}
        elif recipe.tip_deg:
            teeth = leaned(teeth, key, recipe.tip_deg, recipe.gap_mm)
        if recipe.tooth_scale != 1.0:
            teeth = {n: replace(p, tooth=replace(p.tooth, scale=recipe.tooth_scale),
                                origin=p.origin * recipe.tooth_scale) for n, p in teeth.items()}  # fmt: skip
        recipes = {key: recipe} | {_among(r, recipe, upper): r for r in recipe.also}
        cuts = {n: prepared(teeth[n], r) for n, r in recipes.items()}
        gingiva = Gingiva(list(teeth.values()), level_mm=recipe.cervical_gingiva_mm, papilla_mm=recipe.papilla_mm,
                          ridge_mm=recipe.ridge_mm)  # fmt: skip
        retracted = replace(
            gingiva, level_mm=recipe.cervical_gingiva_mm - 0.2, papilla_mm=recipe.papilla_mm - 0.55, swell_mm=0.12,
            sulcus_mm=0.45,
        )  # fmt: skip
        before = Quadrant(teeth, gingiva, stood_before(teeth[key], key, recipe), bridging_mm=recipe.bridging_mm)
        after = Quadrant(teeth, retracted, cuts, nick(teeth, key, recipe), bridging_mm=recipe.bridging_mm)
        to_prep = random_frame(np.random.default_rng(recipe.scan.seed), mirror)
        earlier = np.random.default_rng(recipe.earlier_seed or recipe.scan.seed + 500)
        to_preop = to_prep if recipe.same_frame else random_frame(earlier, mirror)
        return cls(
            recipe=recipe, key=key, teeth=teeth, whole=whole, recipes=recipes, cuts=cuts, before=before, after=after,
            to_prep=to_prep, to_preop=to_preop,
        )  # fmt: skip

    @property
    def mine(self) -> Placed:
        """The cut tooth."""
        return self.teeth[self.key]

    @property
    def upper(self) -> bool:
        return self.recipe.tooth[0] in "1256"

    def prep(self) -> Surface:
        """Scan of the preparation, with a stray piece where the recipe has one."""
        surface = placed(self._scan(self.after, 0), self.to_prep)
        if not self.recipe.stray:
            return surface
        return with_stray(surface, np.random.default_rng(self.recipe.scan.seed + 3000))

    def preop(self) -> Surface:
        """Scan of the tooth before."""
        return placed(self._scan(self.before, 1000), self.to_preop)

    def mockup(self) -> Surface | None:
        """Scan of the mock-up, in the coordinates of the scan before; None where there is none."""
        over = {n: mocked(self.teeth[n], r.mock) for n, r in self.recipes.items() if r.mock is not None}
        if not over:
            return None
        return placed(self._scan(replace(self.before, replaced=over), 4000), self.to_preop)

    def opposing(self) -> Surface:
        """Scan of the other jaw, in the coordinates of the scan that the bite was taken with."""
        recipe = self.recipe
        shape, low, high = self.other_jaw()
        coarser = replace(recipe.scan, seed=recipe.scan.seed + 2000, grid_mm=recipe.scan.grid_mm * 1.3)
        return placed(
            scan(shape, low, high, -self._up(), coarser), self.to_preop if recipe.bite_with == "preop" else self.to_prep
        )

    def other_jaw(self) -> tuple[Callable[[Floats], Floats], Floats, Floats]:
        """Its shape as a function of arch points, and the box that it is scanned in."""
        recipe = self.recipe
        keys = self.key, _key(recipe, not self.upper)
        complete = Quadrant(self.whole, self.before.gingiva) if recipe.lost else self.before
        return opposing_teeth(_row(recipe, not self.upper), keys, (self.before, complete), self.upper, recipe)

    def _up(self) -> Floats:
        return np.array([0, 0, -1.0 if self.upper else 1.0])

    def _scan(self, shape: Quadrant, seed: int) -> Surface:
        up = self._up()
        low, high = _field(self.teeth, up)
        longer = max((r.mock.longer_mm for r in self.recipes.values() if r.mock is not None), default=0.0)
        if longer:
            reach = longer * up
            low, high = np.minimum(low, low + reach), np.maximum(high, high + reach)

        def trim(p: Floats) -> Bools:
            """What the hand swept over: its border is never straight."""
            hand = 0.55 * np.sin(0.7 * p[:, 0]) + 0.3 * np.sin(1.9 * p[:, 0] + 0.6 * p[:, 1])
            return np.asarray(up[2] * over_sphere(p) > -3.6 + hand + 0.15 * np.sin(5.1 * p[:, 0] + 3.3 * p[:, 1]))

        settings = self.recipe.scan
        return scan(shape, low, high, up, replace(settings, seed=settings.seed + seed), trim)


@lru_cache(maxsize=64)
def _stood(
    numbers: tuple[str, ...], key: str, upper: bool, gap_mm: float = GAP_MM, midline_mm: float | None = None,
    taller_mm: tuple[tuple[str, float], ...] = (), stout_mm: float = 0.0,
) -> dict[str, Placed]:  # fmt: skip
    """A row of teeth on its curves, stood once for all who draw it: not to be changed."""
    stood = levelled(stand(list(numbers), key, upper, gap_mm, midline_mm), key)
    mine = stood[key]
    stood[key] = replace(mine, tooth=replace(mine.tooth, cusp_height_mm=dict(taller_mm), stout_mm=stout_mm))
    return curved(stood, key)


def _row(recipe: Recipe, upper: bool) -> list[str]:
    """The teeth that are drawn of a jaw."""
    front, milk = recipe.tooth[1] in "123", recipe.tooth[0] in "5678"
    rows = (MILK_FRONT if front else MILK) if milk else FRONT if front else BASE
    other = [f"{OTHER_SIDE}{k}" for k in range(recipe.across, 0, -1)]
    return [*other, *rows["upper" if upper else "lower"]]


def _key(recipe: Recipe, upper: bool) -> str:
    """The number under which the cut tooth, or the one that meets it, is drawn."""
    quadrant = ("5" if upper else "7") if recipe.tooth[0] in "5678" else "1" if upper else "3"
    return quadrant + recipe.tooth[1]


def _among(other: Recipe, recipe: Recipe, upper: bool) -> str:
    """The number under which another tooth of the same mouth is drawn."""
    return _key(other, upper) if other.tooth[0] == recipe.tooth[0] else OTHER_SIDE + other.tooth[1]


def mocked(mine: Placed, mock: MockUp) -> Callable[[Floats], Floats]:
    """A tooth under its mock-up as a function of arch points."""
    worn = mock(mine.tooth)
    return lambda points: worn(mine.to_local(points))


def levelled(teeth: dict[str, Placed], key: str) -> dict[str, Placed]:
    """In a child's row the tops lie level: a permanent tooth has not come out further than the primary ones."""
    if not teeth[key].tooth.primary:
        return teeth
    up = -1.0 if teeth[key].upside_down else 1.0
    high = teeth[key].tooth.size[0]
    return {n: replace(p, origin=p.origin - [0, 0, up * (p.tooth.size[0] - high)]) for n, p in teeth.items()}


def prepared(mine: Placed, recipe: Recipe) -> Callable[[Floats], Floats]:
    """The cut tooth as a function of arch points."""
    tooth = mine.tooth
    if recipe.face is not None:
        faced = recipe.face(tooth)
        return lambda points: faced(mine.to_local(points))
    if recipe.back is not None:
        behind = recipe.back(tooth)
        return lambda points: behind(mine.to_local(points))
    if recipe.slices is not None:
        sliced = recipe.slices(tooth)
        return lambda points: sliced(mine.to_local(points))
    if recipe.cavity is not None:
        whole = recipe.cavity.shape(tooth)
        return lambda points: whole(mine.to_local(points))
    assert recipe.axial is not None
    assert recipe.occlusal is not None
    axial, occlusal = recipe.axial(tooth), recipe.occlusal(tooth)
    left = None if recipe.standing is None else recipe.standing(tooth, axial, occlusal)

    def shape(points: Floats) -> Floats:
        local = mine.to_local(points)
        value = tooth(local)
        near = value < NEAR_MM  # further out the tooth's own distance decides
        cut = smooth_max(axial(local[near]), occlusal(local[near]), recipe.edge_round_mm)
        if left is not None:
            cut = left(cut, local[near])
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
    numbers: list[str], keys: tuple[str, str], jaw: tuple[Quadrant, Quadrant], upper: bool, recipe: Recipe
) -> tuple[Callable[[Floats], Floats], Floats, Floats]:
    """The other jaw's teeth, brought down to intercuspation and worn to fit where they would cut in.

    jaw: the one they bite on, as it is and before a tooth was lost.
    """
    scale, grown_mm, behind_mm = recipe.tooth_scale, dict(recipe.grown_mm), dict(recipe.behind_mm)
    key, reference = keys
    before, complete = jaw
    teeth = _stood(tuple(numbers), reference, not upper)
    sign = 1.0 if not upper else -1.0
    mine = before.teeth[key].tooth.size[0]
    # Upper cusps bite a little outside and distal of the lower ones, upper incisors well before them.
    front = key[1] in "123"
    overjet = OVERJET_MM[upper] if recipe.overjet_mm is None else recipe.overjet_mm
    ahead = overjet if front else -CROSSED_MM if recipe.crossbite else OUTSIDE_MM
    reach = ERUPTS_MM + FURTHER_SHARE * (overjet - OVERJET_MM[upper])
    shift = np.array([-0.8 if front else -2.2, ahead, 0.0]) * (1 if not upper else -1)
    teeth = {
        n: replace(p, tooth=replace(p.tooth, scale=scale), origin=p.origin * scale + shift) for n, p in teeth.items()
    }
    size = teeth[reference].tooth.size[0]
    closed = mine + size - (2.3 if front else 1.75) * scale
    offset = sign * closed
    teeth = {
        n: erupted(replace(p, origin=p.origin + [0, 0, offset]), complete if n[1] in grown_mm else before, -sign, reach)
        for n, p in teeth.items()
    }
    teeth = {n: replace(p, origin=p.origin - [0, 0, sign * grown_mm.get(n[1], 0.0)]) for n, p in teeth.items()}
    teeth = {n: replace(p, origin=p.origin - behind_mm.get(n[1], 0.0) * p.rotation()[:, 1]) for n, p in teeth.items()}
    quadrant = Quadrant(teeth, Gingiva(list(teeth.values())))

    def shape(points: Floats) -> Floats:
        value = np.full(len(points), 4.0)
        for p in quadrant.teeth.values():
            value = np.minimum(value, p(points))
        value = np.minimum(value, quadrant.gingiva(points, np.abs(value)))
        near = value < NEAR_MM
        value[near] = smooth_max(value[near], OCCLUSION_FILM_MM - before(points[near]), 0.08)
        return value

    low, high = _field(quadrant.teeth, np.array([0, 0, -sign]))
    return shape, low, high


def erupted(tooth: Placed, before: Callable[[Floats], Floats], towards: float, reach_mm: float) -> Placed:
    """An opposing tooth moved along z (`towards` +1 or -1) until it bears on the other jaw, its contacts a little worn
    in; one that finds nothing within reach stays."""
    length, md, _, fl, _ = tooth.tooth.size
    axes = np.meshgrid(*(np.linspace(-s, s, 41) for s in (md / 2, fl / 2)), np.linspace(0.4 * length, length + 0.3, 28))
    points = np.stack([a.ravel() for a in axes], axis=1)
    skin = tooth.to_arch(points[np.abs(tooth.tooth(points)) < 0.12])
    low, high = -reach_mm, reach_mm
    if float(before(skin + [0, 0, towards * high]).min()) > -WORN_IN_MM:
        return tooth
    shift, _ = turning(lambda z: float(before(skin + [0, 0, towards * z]).min()) >= -WORN_IN_MM, low, high, 24)
    return replace(tooth, origin=tooth.origin + [0, 0, towards * shift])


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

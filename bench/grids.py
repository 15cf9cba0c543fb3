"""The same preparation scanned finely and coarsely: which proven verdicts contradict each other.

Each of the demo's teeth, as `bench/repeatability.py` has them, under the simulated scanner on grids of 0.13 to 0.25 mm,
with the noise that it has; with `--others`, the same cuts on other teeth, each scanned with as much more noise as its
grid is coarser; with `--bridges`, the demo's bridge between other teeth, as roughly; with `--forms`, cuts of random
form of one `--kind`, or with `--bridges` bridges of two crowns of such; each with `--fine` on grids under 0.1 mm too.
What is proven on one must not be proven otherwise on another. How far values lie from the finest scan's, in their own
U, is told by criterion at the end.
"""

from __future__ import annotations

import argparse
import sys
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from forms import random_bridge, random_cavity, random_child, random_crown, random_partial, random_veneer
from repeatability import CASES, scanned
from repeats import PROVEN, answer

from vane_line.core.bridge.whole import measure_bridge, missing_between
from vane_line.core.judge.bridge import bridge_document
from vane_line.core.judge.standard_choice import choose_each
from vane_line.core.options import Options
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo import recipes
from vane_line.demo.recipes import Recipe
from vane_line.demo.scene import Scene
from vane_line.errors import UnfitScans

GRIDS_MM = (0.13, 0.16, 0.19, 0.22, 0.25)
# Grids, and noise in µm, of the cuts on other teeth: nearly the surface itself, and twice as scanners give it.
ROUGHER = ((0.12, 1.0), (0.16, 7.0), (0.22, 11.0))
FINER = ((0.07, 6.0), (0.09, 6.0), (0.16, 7.0))  # as the finest scanners give it, and as usual
OTHERS = {
    "21": ("11", "12", "22", "13", "31"), "46": ("36", "47", "37", "16"), "14": ("24", "15", "25", "35"),
    "24": ("14", "34"), "26": ("16", "27", "46", "17"), "12": ("22", "11", "21"), "55": ("65", "75", "85", "54"),
    "51": ("61", "52", "62"),
}  # fmt: skip
BRIDGES = ("35-37", "45-47", "25-27", "14-16", "34-36", "34-37", "24-26")
FORMS = {
    "full-crown": random_crown, "veneer": random_veneer, "onlay": random_cavity, "partial-crown": random_partial,
    "child-crown": random_child,
}  # fmt: skip
BASES = CASES | {"21": (recipes.mocked_up_central, "lithium-disilicate", "veneer")}
Key = tuple[str, str, str]
Told = tuple[str, float | None, float | None]


def told(task: tuple[str, str, float, float | None]) -> dict[Key, Told]:
    """Verdicts of a base's cut on a tooth, scanned on a grid with so much noise, or the base's own; none where what is
    needed is not seen."""
    base, tooth, grid, noise = task
    recipe, material, kind = BASES[base]
    made = replace(recipe(), tooth=tooth)
    if tooth != base:
        made = replace(made, crossbite=False, taller_mm=())
    scan = replace(made.scan, grid_mm=grid, noise_um=made.scan.noise_um if noise is None else noise)
    try:
        return answer(scanned(Scene.of(replace(made, scan=scan))), tooth, material, None, kind).verdicts
    except UnfitScans as error:
        print(f"  {base} as {tooth}, {grid}: {error}", flush=True)
        return {}


def formed(task: tuple[str, str, float, float]) -> dict[Key, Told]:
    """Verdicts of a cut of random form by its kind and seed, scanned on a grid with so much noise; none where it is not
    seen."""
    kind, seed, grid, noise = task
    recipe = FORMS[kind](int(seed))
    made = replace(recipe, scan=replace(recipe.scan, grid_mm=grid, noise_um=noise))
    try:
        return answer(scanned(Scene.of(made)), made.tooth, made.material, None, kind).verdicts
    except UnfitScans as error:
        print(f"  {kind} {seed} ({made.tooth}), {grid}: {error}", flush=True)
        return {}


def between(teeth: str) -> Recipe:
    """The demo's bridge, between two other teeth."""
    front, back = (ToothNumber(t) for t in teeth.split("-"))
    lost = missing_between([front, back])
    recipe = recipes.bridge_abutments()
    return replace(
        recipe, tooth=back.fdi, also=tuple(replace(r, tooth=front.fdi) for r in recipe.also),
        lost=tuple(t.fdi[1] for t in lost), grown_mm=((lost[0].fdi[1], 1.1),),
    )  # fmt: skip


def bridged(task: tuple[str, str, float, float]) -> dict[Key, Told]:
    """Verdicts of a bridge, told by its teeth or by the seed of its form, and of each of its abutments; none where it
    is not seen."""
    _, which, grid, noise = task
    recipe = between(which) if "-" in which else random_bridge(int(which))
    recipe = replace(recipe, scan=replace(recipe.scan, grid_mm=grid, noise_um=noise))
    teeth = [ToothNumber(t) for t in (recipe.also[0].tooth, recipe.tooth)]
    scans = scanned(Scene.of(recipe))
    options = [Options(tooth, opposing_frame="preop") for tooth in teeth]
    try:
        bridge = measure_bridge(
            Scans(scans["prep"], scans["preop"], None, scans["opposing"]), options, missing_between(teeth)
        )
    except UnfitScans as error:
        print(f"  {which}, {grid}: {error}", flush=True)
        return {}
    standards = choose_each("zirconia", [(o.tooth, o.restoration) for o in options], None, "full-crown")
    made = bridge_document(bridge, standards, "zirconia")
    parts = {"bridge": made["verdicts"]} | {a["tooth"]: a["verdicts"] for a in made["abutments"]}
    return {
        (f"{part} {v['criterion']}", v["zone"], v["bound"]): (v["status"], v["value"], v["U"])
        for part, verdicts in parts.items() for v in verdicts
    }  # fmt: skip


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--teeth", help="of the demo, all by default; with --others, whose cuts are tried")
    parser.add_argument("--others", action="store_true")
    parser.add_argument("--bridges", action="store_true")
    parser.add_argument("--forms", help="the first seed, and how many: 0:50")
    parser.add_argument("--kind", choices=list(FORMS), default="full-crown", help="of the forms")
    parser.add_argument("--fine", action="store_true", help="scanned more finely than usual")
    parser.add_argument("--processes", type=int, default=2)
    args = parser.parse_args()
    print("| cut | tooth | proven on one scan at least | contradicting |\n|---|---|---|---|")
    tell, scans, cuts = told, ROUGHER, OTHERS
    if args.bridges:
        tell, cuts = bridged, {"bridge": BRIDGES}
    if args.forms:
        first, count = (int(n) for n in args.forms.split(":"))
        tell, cuts = tell if args.bridges else formed, {args.kind: tuple(str(first + k) for k in range(count))}
    elif not args.others and not args.bridges:
        scans, cuts = [(grid, None) for grid in GRIDS_MM], {tooth: (tooth,) for tooth in CASES}
    if args.fine:
        scans = FINER
    every: list[dict[float, dict[Key, Told]]] = []
    with ProcessPoolExecutor(args.processes) as pool:
        for base, teeth in cuts.items():
            if args.teeth and base not in args.teeth.split(","):
                continue
            for tooth in teeth:
                tasks = [(base, tooth, *scan) for scan in scans]
                found = dict(zip((grid for grid, _ in scans), pool.map(tell, tasks), strict=True))
                say(base, tooth, found)
                every.append(found)
    say_covered(every)


def say(base: str, tooth: str, found: dict[float, dict[Key, Told]]) -> None:
    """Prints what one grid proves and another proves otherwise."""
    keys = sorted(set().union(*found.values()))
    proven = {k: {v[k][0] for v in found.values() if k in v and v[k][0] in PROVEN} for k in keys}
    torn = [k for k in keys if len(proven[k]) > 1]
    print(f"| {base} | {tooth} | {sum(bool(p) for p in proven.values())} | {len(torn)} |", flush=True)
    for key in torn:
        print(f"  {' '.join(key)}: { ({grid: v.get(key) for grid, v in found.items()}) }", flush=True)


def say_covered(every: list[dict[float, dict[Key, Told]]]) -> None:
    """Prints by criterion how many values of coarser scans lie within their U of the finest one's, and the worst."""
    shares: dict[str, list[float]] = {}
    for found in every:
        finest, *coarser = (found[grid] for grid in sorted(found))
        for verdicts in coarser:
            for key, (_, value, u) in verdicts.items():
                true = finest[key][1] if key in finest else None
                if value is not None and true is not None and u:
                    shares.setdefault(key[0], []).append(abs(value - true) / u)
    print("\n| criterion | values | within U, % | beyond 1.3 U | worst, in U |\n|---|---|---|---|---|")
    for criterion, off in sorted(shares.items()):
        within, beyond = (sum(v <= 1 for v in off), sum(v > 1.3 for v in off))
        print(f"| {criterion} | {len(off)} | {100 * within / len(off):.1f} | {beyond} | {max(off):.1f} |")


if __name__ == "__main__":
    main()

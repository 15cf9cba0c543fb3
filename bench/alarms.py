"""False alarms and false peace on lifelike preparations: each scanned once, against its own surface.

Sound preparations of back teeth, or of front teeth where these are asked for (cut to target all round; what their form
gives besides is so), of ten forms in four materials, each with noise of its own, measured from a scan with noise and
from its own surface, finely and without noise. A proven fault that the surface does not have is a false alarm; a proven
"meets" where the surface lies beyond the limit is false peace. Where both lie within 0.01 of the limit they count as
agreeing. Prints how many of each, by criterion, and each of them; and how many of all measured values lie further from
the surface's than their U says.
"""

from __future__ import annotations

import argparse
import json
import sys
from collections import Counter, defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from vane_line.core.case import measure
from vane_line.core.judge.document import document
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.options import Options
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.burs import AxialCut, FrontCut, constant
from vane_line.demo.recipes import Recipe, following_papillae, sound_recipe
from vane_line.demo.scene import Scene
from vane_line.errors import VaneLineError

TEETH = ("36", "46", "16", "26", "37", "45", "14", "25", "34", "17")
MATERIALS = ("zirconia", "lithium-disilicate", "full-metal", "metal-ceramic")
# Depths of a sound preparation of a front tooth: edge, face from the edge to the neck, back; and the ledge's width, mm.
FRONT_MM = {False: (2.0, 1.2, 1.2, 1.0, 1.0, 1.0), True: (1.5, 0.75, 0.75, 0.6, 0.75, 0.45)}
FIRST_SEED = 7_000
EXACT_GRID_MM, NEAR = 0.11, 0.01
Key = tuple[str, str, str]
Row = dict[str, Any]
Wrong = tuple[str, Row]


def cut(tooth: str, material: str, seed: int) -> Recipe:
    """A sound preparation, in front by the depths of a textbook."""
    recipe = sound_recipe(tooth, material, seed=seed, same_frame=True)
    if not ToothNumber(tooth).front:
        return recipe
    edge, *face, back, width = FRONT_MM[tooth[0] in "34"]
    depth = {"incisal-edge": edge, "lingual-fossa": back}
    depth |= {f"facial/{third}": mm for third, mm in zip(("incisal", "middle", "cervical"), face, strict=True)}
    axial = AxialCut(following_papillae(1.0, 0.8), constant(width), constant(5.0), tip_radius_mm=0.3)
    return replace(recipe, occlusal=FrontCut(depth), axial=axial, papilla_mm=1.6, edge_round_mm=0.45)


def told(tooth: str, number: int, grid_mm: float, exact: bool) -> dict[Key, Row]:
    """Verdicts of one preparation by criterion, zone and bound."""
    material = MATERIALS[number // len(TEETH) % len(MATERIALS)]
    recipe = cut(tooth, material, FIRST_SEED + number)
    scan = replace(recipe.scan, grid_mm=grid_mm)
    if exact:
        scan = replace(scan, grid_mm=EXACT_GRID_MM, noise_um=0.0, wave_um=0.0)
    scene = Scene.of(replace(recipe, scan=scan))
    geometry = measure(Scans(scene.prep(), scene.preop(), None, scene.opposing()), Options(ToothNumber(tooth)))
    standard = choose(material, "full-crown", None, ToothNumber(tooth))
    rows = document(geometry, judge(geometry, standard))["verdicts"]
    return {(v["criterion"], v["zone"], v["bound"]): v for v in rows}


def compared(task: tuple[str, int, float]) -> list[Row] | str:
    """A scan's verdicts that its surface has too, each with the surface's value; or why either was refused."""
    try:
        scan, surface = told(*task, exact=False), told(*task, exact=True)
    except VaneLineError as error:
        return str(error)
    rows = []
    for key, row in scan.items():
        true = surface.get(key)
        if row["value"] is not None and true is not None and true["value"] is not None:
            kept = {name: row[name] for name in ("criterion", "zone", "bound", "status", "value", "U", "limit")}
            rows.append({"number": task[1], "tooth": task[0], **kept, "true": true["value"]})
    return rows


def contradicted(rows: list[Row]) -> tuple[int, list[Wrong]]:
    """How many verdicts are proven, and those that the surface contradicts."""
    proven, wrong = 0, []
    for row in rows:
        if row["status"] not in ("meets", "short", "over"):
            continue
        proven += 1
        beyond = (row["true"] - row["limit"]) * (1 if row["bound"] == "max" else -1)
        alarm = row["status"] != "meets"
        if (alarm and beyond < -NEAR) or (not alarm and beyond > NEAR):
            wrong.append(("alarm" if alarm else "peace", row))
    return proven, wrong


def beyond_u(rows: list[Row]) -> None:
    """Prints by criterion how many values there are, how many lie beyond U, and the worst, in U."""
    off = defaultdict(list)
    for row in rows:
        if row["U"]:
            off[row["criterion"]].append(abs(row["value"] - row["true"]) / row["U"])
    for criterion, shares in sorted(off.items()):
        outside = sum(v > 1 for v in shares)
        print(f"  {criterion}: {outside} of {len(shares)} values beyond U, the worst by {max(shares):.2f} of it")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=100)
    parser.add_argument("--first", type=int, default=0)
    parser.add_argument("--grid", type=float, default=0.14)
    parser.add_argument("--processes", type=int, default=2)
    parser.add_argument("--rows", type=Path, help="file to which every compared value is added, a JSON object a line")
    parser.add_argument(
        "--teeth",
        default=",".join(TEETH),
        help="in turns; each has one form, and noise anew; front teeth if asked",
    )
    args = parser.parse_args()
    teeth = args.teeth.split(",")
    tasks = [(teeth[n % len(teeth)], n, args.grid) for n in range(args.first, args.first + args.count)]
    proven, clean, refused = 0, 0, 0
    every: list[Row] = []
    wrong: list[tuple[str, str]] = []
    with ProcessPoolExecutor(args.processes) as pool:
        for (tooth, number, _), answer in zip(tasks, pool.map(compared, tasks), strict=True):
            if isinstance(answer, str):
                refused += 1
                print(f"{number} {tooth} not measured: {answer}", flush=True)
                continue
            count, found = contradicted(answer)
            every += answer
            proven += count
            clean += not any(kind == "alarm" for kind, _ in found)
            for kind, row in found:
                wrong.append((kind, row["criterion"]))
                said = f"{row['value']:.3f} ± {row['U'] or 0:.3f} against {row['limit']:g}, is {row['true']:.3f}"
                where = f"{row['criterion']} {row['zone']} {row['bound']}"
                print(f"{number} {tooth} false {kind}: {where} {said}", flush=True)
            if args.rows:
                with args.rows.open("a") as file:
                    file.writelines(json.dumps(row) + "\n" for row in answer)
    print(f"{proven} proven verdicts on {args.count} preparations at {args.grid} mm; {clean} without a false alarm, "
          f"{refused} refused")  # fmt: skip
    for (kind, criterion), count in Counter(wrong).most_common():
        print(f"  false {kind}: {criterion} {count}")
    beyond_u(every)


if __name__ == "__main__":
    main()

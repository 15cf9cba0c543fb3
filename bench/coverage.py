"""How often the stated uncertainty covers the truth, over many simulated preparations of known shape.

Each is a frustum with its own size, ledge, fillet and noise, whose taper and width vary round it and whose ledge rises
between the teeth as a hand's do, scanned twice on different grids; every measure is compared with its closed form.
Prints, per measure, the median and the worst error, the stated U and the share covered.
"""

from __future__ import annotations

import argparse
import sys
from collections import defaultdict
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))


def one(seed: int) -> dict[str, tuple[float, float]]:
    """Error and U of every measure for one simulated preparation; and the faults that a flawless one was given."""
    from solids import Stump, facing

    from vane_line.core.case import measure
    from vane_line.core.judge.judgement import judge
    from vane_line.core.judge.standards import choose
    from vane_line.core.tooth.notation import ToothNumber

    random = np.random.default_rng(seed)
    middle, wide = float(random.uniform(3.5, 8.5)), float(random.uniform(0.72, 0.92))
    lean, waver = float(random.uniform(0, 1.5)), float(random.uniform(0, 0.07))
    rise, phase = float(random.uniform(0, 0.35)), float(random.uniform(0, 360))
    level = float(random.uniform(1.2, 1.6))

    def taper(a: np.ndarray) -> np.ndarray:
        return middle + lean * np.cos(np.radians(2 * (a - phase)))

    def width(a: np.ndarray) -> np.ndarray:
        return wide + waver * np.sin(np.radians(3 * a + phase))

    def ledge(a: np.ndarray) -> np.ndarray:
        return level + rise * (1 - np.cos(np.radians(2 * a))) / 2

    stump = Stump(
        facial_mm=float(random.uniform(4.4, 5.4)), mesial_mm=float(random.uniform(4.4, 5.4)),
        taper_deg=taper, width_mm=width, fillet_mm=0.4, occlusal_mm=float(random.uniform(1.3, 1.8)), top_mm=7.4,
        line_mm=ledge, noise_um=float(random.uniform(4, 14)), seed=seed,
        grid_mm=float(random.uniform(0.13, 0.18)),
    )  # fmt: skip
    g = measure(stump.scans(clearance_mm=1.2), facing(ToothNumber("36")))
    judged = judge(g, choose("zirconia", "full-crown"))
    budget = judged.budget
    sides = np.array([0.0, 90.0, 180.0, 270.0])
    top = stump.top_mm - stump.occlusal_mm
    fl, md = (float(taper(np.array([a]))[0] + taper(np.array([a + 180]))[0]) for a in (0.0, 90.0))
    assert judged.space is not None
    assert g.clearance is not None
    cusp = next(z for z in judged.space.zones if z.zone.endswith("cusp/mesiolingual"))
    held = g.shape.retention
    summary = g.shape.form.width_summary()
    assert summary is not None
    out = {
        "reduction, median of a cusp (mm)": (cusp.median_mm - stump.occlusal_mm, budget.reduction()),
        "clearance, low (mm)": (float(np.quantile(g.clearance.value, 0.005)) - 1.2, budget.clearance()),
        "convergence, faciolingual (deg)": (g.shape.walls.convergence_at(0) - fl, budget.of("convergence")),
        "convergence, mesiodistal (deg)": (g.shape.walls.convergence_at(90) - md, budget.of("convergence")),
        "wall height (mm)": (held.height_mm - float((top - ledge(sides)).mean()), budget.of("wall-height")),
        "what remains (mm)": (
            held.remaining_mm - _least_width(stump, width), budget.of("remaining-width")),
        "finish line width, median (mm)": (summary[1] - _mean_width(stump, width), budget.of("finish-line-width")),
        "undercut of a sound wall (mm)": (g.shape.undercut.max_depth_mm, budget.of("undercut")),
    }  # fmt: skip
    # The solid's upper edge is sharp, and said to be.
    faults = [f"{v.criterion} {v.zone}" for v in judged.verdicts if v.status in ("short", "over")]
    faults = [f for f in faults if not f.startswith(("edge-radius", "milled-fit"))]
    for fault in faults:
        out[f"FAULT {fault}"] = (1.0, 0.0)
    return {k: (float(e), float(u)) for k, (e, u) in out.items()}


DEGREES = np.arange(0, 360, 1.0)
Round = Callable[[np.ndarray], np.ndarray]  # of azimuth


def _outline(stump: Any) -> np.ndarray:
    a = np.radians(DEGREES)
    return np.asarray(1 / np.sqrt((np.cos(a) / stump.facial_mm) ** 2 + (np.sin(a) / stump.mesial_mm) ** 2))


def _mean_width(stump: Any, width: Round) -> float:
    """The ledge is `width` along the radius; across the line it is that times the cosine between the two."""
    whole = _outline(stump)
    return float(np.median(width(DEGREES) / np.hypot(1, np.gradient(whole, np.radians(DEGREES)) / whole)))


def _least_width(stump: Any, width: Round) -> float:
    """Least caliper width of the walls' outline where they meet the ledge."""
    r, a = _outline(stump) - width(DEGREES), np.radians(DEGREES)
    points = np.stack([r * np.cos(a), r * np.sin(a)], axis=1)
    across = points @ np.stack([np.cos(a[:180]), np.sin(a[:180])])
    return float(np.ptp(across, axis=0).min())


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=200)
    parser.add_argument("--processes", type=int, default=2)
    args = parser.parse_args()
    rows: dict[str, list[tuple[float, float]]] = defaultdict(list)
    with ProcessPoolExecutor(args.processes) as pool:
        for result in pool.map(one, range(args.count)):
            for key, value in result.items():
                rows[key].append(value)
    print(f"{args.count} simulated preparations")
    for key, values in rows.items():
        error, u = np.array(values).T
        if key.startswith("FAULT"):
            print(f"{key}: {len(values)} times")
            continue
        covered = 100 * np.mean(np.abs(error) <= u)
        print(f"{key:36s} median {np.median(np.abs(error)):.3f}  worst {np.abs(error).max():.3f}  "
              f"bias {np.mean(error):+.3f}  U {np.median(u):.3f}  covered {covered:.0f} %")  # fmt: skip


if __name__ == "__main__":
    main()

"""How often the stated uncertainty covers the truth, over many simulated preparations of known shape.

Each is a frustum with its own size, taper, ledge, fillet and noise, scanned twice on different grids; every measure is
compared with its closed form. Prints, per measure, the median and the worst error, the stated U and the share covered.
"""

from __future__ import annotations

import argparse
import sys
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

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
    taper, width = float(random.uniform(3, 9)), float(random.uniform(0.7, 0.95))
    stump = Stump(
        facial_mm=float(random.uniform(4.4, 5.4)), mesial_mm=float(random.uniform(4.4, 5.4)),
        taper_deg=taper, width_mm=width, fillet_mm=0.4, occlusal_mm=float(random.uniform(1.3, 1.8)), top_mm=7.4,
        line_mm=float(random.uniform(1.2, 1.7)), noise_um=float(random.uniform(4, 14)), seed=seed,
        grid_mm=float(random.uniform(0.13, 0.18)),
    )  # fmt: skip
    g = measure(stump.scans(clearance_mm=1.2), facing(ToothNumber("36")))
    judged = judge(g, choose("zirconia", "full-crown"))
    budget = judged.budget
    line, top = float(stump.line_mm), stump.top_mm - stump.occlusal_mm  # type: ignore[arg-type]
    assert judged.space is not None
    assert g.clearance is not None
    cusp = next(z for z in judged.space.zones if z.zone.endswith("cusp/mesiolingual"))
    held = g.shape.retention
    summary = g.shape.form.width_summary()
    assert summary is not None
    out = {
        "reduction, median of a cusp (mm)": (cusp.median_mm - stump.occlusal_mm, budget.reduction()),
        "clearance, low (mm)": (float(np.quantile(g.clearance.value, 0.005)) - 1.2, budget.clearance()),
        "convergence, faciolingual (deg)": (g.shape.walls.convergence_at(0) - 2 * taper, budget.of("convergence")),
        "convergence, mesiodistal (deg)": (g.shape.walls.convergence_at(90) - 2 * taper, budget.of("convergence")),
        "wall height (mm)": (held.height_mm - (top - line), budget.of("wall-height")),
        "what remains (mm)": (
            held.remaining_mm - 2 * (min(stump.facial_mm, stump.mesial_mm) - width), budget.of("remaining-width")),
        "finish line width, median (mm)": (summary[1] - _mean_width(stump, width), budget.of("finish-line-width")),
        "undercut of a sound wall (mm)": (g.shape.undercut.max_depth_mm, budget.of("undercut")),
    }  # fmt: skip
    faults = [f"{v.criterion} {v.zone}" for v in judged.verdicts if v.status in ("short", "over")]
    for fault in faults:
        out[f"FAULT {fault}"] = (1.0, 0.0)
    return {k: (float(e), float(u)) for k, (e, u) in out.items()}


def _mean_width(stump: object, width: float) -> float:
    """The ledge is `width` along the radius; across the line it is that times the cosine between the two."""
    a = np.radians(np.arange(0, 360, 1.0))
    whole = 1 / np.sqrt((np.cos(a) / stump.facial_mm) ** 2 + (np.sin(a) / stump.mesial_mm) ** 2)  # type: ignore[attr-defined]
    return float(np.median(width / np.hypot(1, np.gradient(whole, a) / whole)))


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

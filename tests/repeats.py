"""The same surfaces as other files, and the same mouth scanned again: what must not move the figures.

Used by `tests/core/test_repeatability.py`, and in full by `bench/repeatability.py`.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import fast_simplification
import numpy as np
from scipy.spatial.transform import Rotation

from vane_line.core.arrays import Floats
from vane_line.core.case import measure
from vane_line.core.judge.document import document
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.mesh.soup import Soup
from vane_line.core.mesh.surface import Surface
from vane_line.core.mesh.weld import weld
from vane_line.core.options import Options
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber

KINDS = ("noise", "shuffle", "turn", "digits", "float", "all")
NANO_MM, SHIFT_MM = 1e-5, 30.0  # 10 nm of noise; how far a turned scan lies
PROVEN = ("meets", "short", "over")
COMPARED = {"mm": "_mm", "deg": "_deg"}  # verdicts' units, and what a figure's name says of its own
COUNTED = "finish-line-gap"  # in whole degrees


@dataclass(frozen=True, eq=False)
class Answer:
    """Figures by name, verdicts (status, value, U) by criterion, zone and bound, and directions in the file's axes."""

    figures: dict[str, float]
    verdicts: dict[tuple[str, str, str], tuple[str, float | None, float | None]]
    path: Floats
    occlusal: Floats


def altered(surface: Surface, kind: str, seed: int, turn: Floats) -> Soup:
    """The same surface in another order, place, precision or with 10 nm of noise, as a reader would give it."""
    random = np.random.default_rng(seed)
    v, f = surface.vertices.copy(), surface.faces.copy()
    if kind in ("shuffle", "all"):
        order = random.permutation(len(v))
        place = np.empty_like(order)
        place[order] = np.arange(len(order))
        v, f = v[order], place[f][random.permutation(len(f))]
        first = random.integers(0, 3, len(f))
        f = np.stack([f[np.arange(len(f)), (first + k) % 3] for k in range(3)], axis=1)
    if kind in ("turn", "all"):
        v = v @ turn.T + SHIFT_MM * turn[0]
    if kind in ("noise", "all"):
        v = v + NANO_MM * random.standard_normal(v.shape)
    if kind == "digits":  # seven of them, as text files have
        size = 10.0 ** (np.floor(np.log10(np.maximum(np.abs(v), 1e-9))) - 6)
        v = np.round(v / size) * size
    if kind == "float":
        v = v.astype(np.float32).astype(np.float64)
    return Soup(v, f, None, kind)


def answer(
    scans: dict[str, Surface], tooth: str, material: str, turn: Floats | None = None, kind: str = "full-crown"
) -> Answer:
    """Measured with nothing given but the tooth: axes and path are guessed. turn: (3, 3) by which the files lie."""
    options = Options(ToothNumber(tooth), opposing_frame="preop", restoration=kind)
    geometry = measure(Scans(scans["prep"], scans.get("preop"), scans.get("mockup"), scans.get("opposing")), options)
    standard = choose(material, kind, None, options.tooth)
    d = document(geometry, judge(geometry, standard))
    back = np.eye(3) if turn is None else turn
    verdicts = {(v["criterion"], v["zone"], v["bound"]): (v["status"], v["value"], v["U"]) for v in d["verdicts"]}
    return Answer(figures(d), verdicts, geometry.path.direction @ back, geometry.frame.occlusal @ back)


def figures(d: dict) -> dict[str, float]:
    """All lengths and angles of a document that a person reads, by name; those that were not measured are left out."""
    out: dict[str, float | None] = {}
    for part in ("reduction", "clearance"):
        for zone in (d[part] or {"zones": []})["zones"]:
            judged = {(v["criterion"], v["zone"]) for v in d["verdicts"] if v["status"] != "not-measured"}
            if (part, zone["zone"]) in judged:
                out |= {f"{part}.{zone['zone']}.{k}": zone.get(k) for k in ("low_mm", "median_mm", "high_mm")}
    if d["convergence"]:
        out |= {f"convergence.{k}": d["convergence"][k] for k in ("faciolingual_deg", "mesiodistal_deg")}
    for k in ("height_mm", "base_faciolingual_mm", "base_mesiodistal_mm", "limiting_taper_deg", "remaining_mm"):
        if d["resistance"]:
            out[f"resistance.{k}"] = d["resistance"][k]
    out["path.least_draft_deg"] = d["path"]["least_draft_deg"]
    out["undercut.max_depth_mm"] = d["undercut"]["max_depth_mm"]
    out |= {f"width.{k}": v for k, v in (d["finish_line"]["width_mm"] or {}).items() if k == "median"}
    for n in d["neighbours"]:
        out |= {f"neighbour.{n['side']}.{k}": n[k] for k in ("nick_depth_mm", "gap_mm", "room_mm")}
    for v in d["verdicts"]:
        if v["status"] != "not-measured" and v["unit"] in COMPARED and v["criterion"] != COUNTED:
            out[f"verdict.{v['criterion']}.{v['zone']}.{v['bound']}{COMPARED[v['unit']]}"] = v["value"]
    return {name: float(value) for name, value in out.items() if value is not None}


def moved(base: Answer, other: Answer) -> dict[str, float]:
    """By how much each figure that both have differs: shares of 5 µm, or of 0.05 degrees."""
    out = {}
    for name in set(base.figures) & set(other.figures):
        unit = 0.05 if name.endswith(COMPARED["deg"]) else 0.005
        out[name] = abs(base.figures[name] - other.figures[name]) / unit
    return out


def flips(base: Answer, other: Answer) -> list[tuple[str, str, str]]:
    """Verdicts proven in both, and otherwise."""
    return [
        key
        for key in set(base.verdicts) & set(other.verdicts)
        if base.verdicts[key][0] in PROVEN
        and other.verdicts[key][0] in PROVEN
        and base.verdicts[key][0] != other.verdicts[key][0]
    ]


def flipped_share(answers: list[Answer]) -> tuple[int, int]:
    """Of all pairs of proven verdicts of the same thing: how many contradict each other, and how many there are."""
    pairs = total = 0
    for a, b in combinations(answers, 2):
        both = [k for k in set(a.verdicts) & set(b.verdicts)
                if a.verdicts[k][0] in PROVEN and b.verdicts[k][0] in PROVEN]  # fmt: skip
        total += len(both)
        pairs += len(flips(a, b))
    return pairs, total


def turn_of(seed: int) -> Floats:
    """A random rotation (3, 3)."""
    return np.asarray(Rotation.random(random_state=seed).as_matrix())


def variant(scans: dict[str, Surface], kind: str, seed: int) -> tuple[dict[str, Surface], Floats]:
    """All scans altered alike, welded again, and the turn they lie by."""
    turn = turn_of(seed) if kind in ("turn", "all") else np.eye(3)
    return {role: weld(altered(s, kind, seed, turn), "mm", role).surface for role, s in scans.items()}, turn


def rescanned(surface: Surface, seed: int, triangles: int, noise_um: float = 8.0, wave_um: float = 5.0) -> Surface:
    """The same surface scanned again: triangles of its own, white noise, and a slow wave over the scan."""
    random = np.random.default_rng(seed)
    jitter = surface.vertices + 0.004 * random.standard_normal(surface.vertices.shape)
    v, f = fast_simplification.simplify(
        jitter.astype(np.float32), surface.faces.astype(np.int32), target_count=triangles, agg=3
    )
    mesh = Surface(np.asarray(v, dtype=np.float64), np.asarray(f, dtype=np.int64))
    # The jitter chose the triangles; their corners go back onto the surface.
    mesh = mesh.with_vertices(surface.closest(mesh.vertices)[2])
    phase = random.uniform(0, 2 * np.pi, 3)
    slow = sum(np.sin(mesh.vertices[:, k] / 7.0 + phase[k]) for k in range(3)) / 3
    offset = (noise_um * random.standard_normal(mesh.n_vertices) + wave_um * slow) / 1000
    return mesh.with_vertices(mesh.vertices + offset[:, None] * mesh.vertex_normals)

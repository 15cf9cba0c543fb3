"""Where ridges and grooves run on each class of back tooth: our own drawing, after the published descriptions.

Cusps, fossae and the groove patterns of each class as M. M. Ash and S. J. Nelson, Wheeler's Dental Anatomy, describe
them (from memory): five cusps and two facial grooves below, the oblique ridge above, a transverse ridge on premolars.
"""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from vane_line.demo.relief import Groove, Ridge, curve

Tips = dict[str, tuple[float, float, float]]
MARGINAL_DROP_MM = {True: 1.30, False: 1.45}  # below the highest tip, of a molar, of a premolar
FOSSA_DROP_MM = {True: 2.35, False: 2.0}  # of the middle, before its fissures
NOTCH_MM = 0.85  # between two cusps of a side
END = 0.455  # of the mesiodistal width: where a marginal ridge's crest runs
FISSURE_MM = 0.34
# Supplemental grooves: depth, and three places as shares along a triangular ridge from its foot and beside it.
SUPPLEMENTAL_MM = 0.10
SUPPLEMENTAL = ((0.08, 0.10), (0.40, 0.20), (0.72, 0.34))


def ridges(tips: Tips, length: float, md: float, fl: float, middle: float, molar: bool, upper: bool) -> list[Ridge]:
    """Ridges of all cusps, the marginal ridges, and what crosses the middle."""
    out: list[Ridge] = []
    facial, lingual = _side(tips, middle, True), _side(tips, middle, False)
    floor = length - FOSSA_DROP_MM[molar]
    marginal = length - MARGINAL_DROP_MM[molar]
    for side, sign in ((facial, 1.0), (lingual, -1.0)):
        for k, (_, tip) in enumerate(side):
            out += _cusp(tip, _foot(tip, middle, fl, sign), floor, sign)
            for step in (-1, 1):
                other = side[k + step][1] if 0 <= k + step < len(side) else None
                out.append(_along(tip, other, step, md, marginal))
    for end in (-1.0, 1.0):
        out.append(_marginal(facial, lingual, end, (md, middle, marginal)))
    if upper and molar:
        out.append(_crossing(tips["mesiolingual"], tips["distofacial"], 1.25))
    if not molar and not upper and len(lingual) == 1:
        out.append(_crossing(facial[0][1], lingual[0][1], 1.35 if facial[0][1][2] - lingual[0][1][2] > 1.2 else 1.7))
    return out


def grooves(tips: Tips, length: float, md: float, fl: float, middle: float, molar: bool, upper: bool) -> list[Groove]:
    """Central groove, the grooves between cusps of a side, and the short ones inside the marginal ridges."""
    facial, lingual = _side(tips, middle, True), _side(tips, middle, False)
    pit = 0.30 * md if molar else 0.24 * md
    out = [_central(pit, middle, md, split=upper and molar)]
    for side, sign in ((facial, 1.0), (lingual, -1.0)):
        for (_, a), (_, b) in pairwise(side):
            between = (a[0] + b[0]) / 2
            start = 0.45 * between if not (upper and molar and sign < 0) else -0.30 * md
            way = curve(
                (start, middle), (0.8 * between + 0.1 * start, middle + 0.20 * sign * fl),
                (between, middle + 0.46 * sign * fl),
            )  # fmt: skip
            out.append(Groove(way, FISSURE_MM * np.array([1, 1, 0.95, 0.9, 0.8, 0.7, 0.55, 0.4, 0.25])))
    for end in (-1.0, 1.0):
        for sign in (-1.0, 1.0):  # the triangular fossa's two arms, and a pit where they meet the central groove
            way = curve((end * pit, middle), (end * (pit + 0.09 * md), middle + sign * 0.14 * fl))
            out.append(Groove(way, FISSURE_MM * np.linspace(0.85, 0.1, 9)))
    for side, sign in ((facial, 1.0), (lingual, -1.0)):
        for _, tip in side:
            out += _beside(tip, _foot(tip, middle, fl, sign))
    return out


def _foot(tip: tuple[float, float, float], middle: float, fl: float, sign: float) -> tuple[float, float]:
    """Where a cusp's triangular ridge ends, by the central groove."""
    return 0.30 * tip[0], middle + 0.05 * sign * fl


def _beside(tip: tuple[float, float, float], end: tuple[float, float]) -> list[Groove]:
    """The shallow supplemental grooves on either side of a cusp's triangular ridge, running out up its slope."""
    foot, top = np.array(end), np.array(tip[:2])
    along = top - foot
    across = np.array([-along[1], along[0]])
    return [
        Groove(
            curve(*((foot + a * along + side * b * across).tolist() for a, b in SUPPLEMENTAL)),
            SUPPLEMENTAL_MM * np.array([0.3, 0.8, 1, 1, 0.9, 0.75, 0.55, 0.35, 0.1]),
        )
        for side in (-1.0, 1.0)
    ]  # fmt: skip


def _side(tips: Tips, middle: float, facial: bool) -> list[tuple[str, tuple[float, float, float]]]:
    """Cusps of a side from distal to mesial."""
    rows = [(name, tip) for name, tip in tips.items() if (tip[1] > middle) == facial]
    return sorted(rows, key=lambda row: row[1][0])


def _cusp(tip: tuple[float, float, float], end: tuple[float, float], floor: float, sign: float) -> list[Ridge]:
    """Its triangular ridge, bent a little, and the ridge of its outer face."""
    x, y, z = tip
    bend = (0.55 * x + 0.45 * end[0] + 0.22 * sign, 0.52 * y + 0.48 * end[1])
    t = np.linspace(0, 1, 9)
    inner = Ridge(curve((x, y), bend, end), z - (z - floor) * (0.35 * t + 0.65 * t**1.6), slope=0.82, round_mm=0.6)
    outward = curve((x, y), (x * 1.03, y + 2.2 * sign))
    outer = Ridge(outward, z - 2.2 * np.linspace(0, 1, 9) ** 1.3, slope=0.55, round_mm=0.9)
    return [inner, outer]


def _along(
    tip: tuple[float, float, float], other: tuple[float, float, float] | None, step: int, md: float, marginal: float
) -> Ridge:
    """The cusp ridge along the arch: down to the notch before the next cusp, or to the marginal ridge's corner."""
    x, y, z = tip
    if other is None:
        end = (step * END * md, 0.62 * y)
        low = marginal + 0.05
    else:
        end = ((x + other[0]) / 2, (y + other[1]) / 2 * 1.02)
        low = min(z, other[2]) - NOTCH_MM
    t = np.linspace(0, 1, 9)
    bend = (0.5 * (x + end[0]), 0.5 * (y + end[1]) + 0.05 * np.sign(y) * abs(end[0] - x))
    return Ridge(curve((x, y), bend, end), z - (z - low) * t**1.15, slope=0.85, round_mm=0.5)


def _marginal(
    facial: list[tuple[str, tuple[float, float, float]]], lingual: list[tuple[str, tuple[float, float, float]]],
    end: float, size: tuple[float, float, float],
) -> Ridge:  # fmt: skip
    """The ridge that closes an end: from corner to corner, sagging in the middle, distally lower."""
    md, middle, marginal = size
    f, lo = (side[-1 if end > 0 else 0][1] for side in (facial, lingual))
    way = curve((end * END * md, 0.62 * f[1]), (end * (END + 0.012) * md, middle), (end * END * md, 0.62 * lo[1]))
    t = np.linspace(-1, 1, 9)
    level = marginal - (0.18 if end < 0 else 0.0) - 0.22 * (1 - t**2)
    return Ridge(way, level, slope=0.95, round_mm=0.42)


def _crossing(a: tuple[float, float, float], b: tuple[float, float, float], sag_mm: float) -> Ridge:
    """A ridge from one tip across to another: oblique on upper molars, transverse on premolars."""
    t = np.linspace(0, 1, 9)
    level = a[2] + (b[2] - a[2]) * t - sag_mm * 4 * t * (1 - t) * (0.75 + 0.25 * t)
    return Ridge(curve(a[:2], b[:2]), level, slope=0.8, round_mm=0.6)


def _central(pit: float, middle: float, md: float, split: bool) -> Groove:
    """From pit to pit, wandering a little; where an oblique ridge crosses it is shallow."""
    x = np.linspace(pit, -pit, 25)
    y = middle + 0.012 * md * np.sin(2.3 * np.pi * (x / pit)) + 0.008 * md * np.sin(5.1 * x / pit + 0.7)
    depth = np.full(25, FISSURE_MM)
    if split:
        depth *= 1 - 0.9 * np.exp(-(((x + 0.45 * pit) / (0.25 * pit)) ** 2))
    ends = np.exp(-(((np.abs(x) - pit) / (0.18 * pit)) ** 2)) + np.exp(-((x / (0.14 * pit)) ** 2))
    return Groove(np.stack([x, y], axis=1), depth * (1 + 0.45 * ends))


def both(
    tips: Tips, size: tuple[float, float, float, float], molar: bool, upper: bool
) -> tuple[list[Ridge], list[Groove]]:
    """All ridges and grooves; size: crown length, mesiodistal, faciolingual width, and where the middle lies."""
    length, md, fl, middle = size
    return ridges(tips, length, md, fl, middle, molar, upper), grooves(tips, length, md, fl, middle, molar, upper)

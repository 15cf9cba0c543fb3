"""Burs as rulers: which one measures a depth by its own size, how deep it is sunk, and what it must not be sunk beyond.

A bur's size number is its largest diameter in tenths of a millimetre (ISO 6360). Sunk to half its tip, a round-ended
bur leaves a chamfer as deep as that half; sunk deeper it leaves a raised lip (common practice, no source).
"""

from __future__ import annotations

import tomllib
from dataclasses import asdict, dataclass
from functools import cache
from pathlib import Path
from typing import Any

from vane_line.errors import BadOption

FILE = Path(__file__).resolve().parents[1] / "burs" / "generic.toml"
TIPS = ("round", "flat", "flat-rounded", "point", "ball")
GRITS = ("coarse", "medium", "fine", "extra-fine")
LARGEST_MM, LONGEST_MM = 6.0, 20.0
SPARE = 1.05  # a tip should be a little wider than the ledge it cuts, or the bur has to be led twice
CURVED_FORMS = ("chamfer", "heavy-chamfer")


@dataclass(frozen=True)
class Bur:
    """One instrument. shape: ISO 6360-2 shape number; diameters and length in mm; taper_deg of one side."""

    id: str
    title: str
    shape: str
    diameter_mm: float
    tip_mm: float
    length_mm: float
    taper_deg: float
    tip: str
    grit: str

    @property
    def size(self) -> str:
        """The size number: largest diameter in tenths of a millimetre, three figures."""
        return f"{round(10 * self.diameter_mm):03d}"

    @property
    def middle_mm(self) -> float:
        """Its diameter at half its working length."""
        return (self.tip_mm + self.diameter_mm) / 2

    @property
    def chamfer_mm(self) -> float:
        """The deepest ledge it cuts without leaving a raised lip."""
        return self.tip_mm / 2 if self.tip in ("round", "ball") else self.tip_mm


@dataclass(frozen=True)
class Use:
    """How a bur measures one depth: sink_mm of of_mm, in words, and what it must not be sunk beyond."""

    bur: Bur
    sink_mm: float
    of_mm: float
    words: str
    beyond: str


def parse_bur(row: dict[str, Any]) -> Bur:
    """Raises BadOption naming what is wrong."""
    try:
        bur = Bur(
            id=str(row["id"]).strip(),
            title=str(row["title"]).strip(),
            shape=str(row.get("shape", "")),
            diameter_mm=float(row["diameter_mm"]),
            tip_mm=float(row["tip_mm"]),
            length_mm=float(row["length_mm"]),
            taper_deg=float(row.get("taper_deg", 0.0)),
            tip=str(row["tip"]),
            grit=str(row.get("grit", "medium")),
        )
    except (KeyError, TypeError, ValueError) as error:
        raise BadOption(f"bur: id, title, diameter, tip diameter, length and tip are all needed ({error}).") from error
    name = bur.title or bur.id
    if not bur.id or not bur.title:
        raise BadOption("bur: give it an id and a title.")
    if not 0 < bur.tip_mm <= bur.diameter_mm <= LARGEST_MM:
        raise BadOption(f"bur {name}: it must hold that 0 < tip ≤ largest diameter ≤ {LARGEST_MM} mm.")
    if not 0 < bur.length_mm <= LONGEST_MM:
        raise BadOption(f"bur {name}: a working length of {bur.length_mm} mm is none; the unit is mm.")
    if not 0 <= bur.taper_deg <= 30:
        raise BadOption(f"bur {name}: a taper of {bur.taper_deg} degrees a side is none.")
    if bur.tip not in TIPS:
        raise BadOption(f"bur {name}: tip {bur.tip}: use one of {', '.join(TIPS)}.")
    if bur.grit not in GRITS:
        raise BadOption(f"bur {name}: grit {bur.grit}: use one of {', '.join(GRITS)}.")
    return bur


def as_row(bur: Bur) -> dict[str, Any]:
    """Plain data that `parse_bur` reads."""
    return asdict(bur)


@cache
def generic() -> tuple[Bur, ...]:
    """The built-in set."""
    data = tomllib.loads(FILE.read_text(encoding="utf-8"))
    return tuple(parse_bur(row) for row in data["bur"])


def for_ledge(width_mm: float, forms: tuple[str, ...], tray: tuple[Bur, ...]) -> Use | None:
    """The bur for a finish line of a width: by form a round end sunk to at most half its tip, or a flat one."""
    curved = bool(forms) and all(f in CURVED_FORMS for f in forms)
    wanted = ("round",) if curved else ("flat-rounded", "flat", "round")
    fits = [b for b in tray if b.tip in wanted and b.grit in ("coarse", "medium")]
    enough = [b for b in fits if b.chamfer_mm >= width_mm * SPARE or abs(b.chamfer_mm - width_mm) < 1e-6]
    if not enough:
        return None
    order = {tip: k for k, tip in enumerate(wanted)}
    bur = min(enough, key=lambda b: (order[b.tip], b.chamfer_mm))
    if bur.tip == "round":
        part = "half the tip" if width_mm > 0.9 * bur.tip_mm / 2 else "less than half the tip"
        beyond = f"never beyond {bur.tip_mm / 2:.1f} mm, half its tip: it leaves a raised lip"
    else:
        part = "part of the flat end"
        beyond = f"never beyond {bur.tip_mm:.1f} mm, its whole end: it leaves a raised lip"
    return Use(bur, width_mm, bur.tip_mm, f"{part}, {width_mm:.1f} of {bur.tip_mm:.1f}", beyond)


def for_depth(depth_mm: float, tray: tuple[Bur, ...]) -> Use | None:
    """The bur whose own diameter measures a groove of a depth best: sunk whole, or to half its diameter."""
    best: tuple[float, Use] | None = None
    for bur in tray:
        if bur.grit not in ("coarse", "medium") or bur.tip not in ("ball", "round"):
            continue
        across = bur.diameter_mm if bur.tip == "ball" else bur.tip_mm
        for share, words in ((1.0, "its whole diameter"), (0.5, "half its diameter")):
            off = depth_mm - share * across
            if off < -0.05:
                continue  # it would cut too deep of itself
            if bur.tip == "round" and share == 0.5:
                continue  # too shallow to be led by eye
            words_full = f"{words}, {share * across:.1f} of {across:.1f}"
            if off > 0.05:
                words_full += f", then {off:.1f} more by eye"
            beyond = f"not beyond {depth_mm:.1f} mm: deeper is tooth cut for nothing"
            use = Use(bur, share * across, across, words_full, beyond)
            rank = abs(off) + (0.0 if bur.tip == "ball" else 0.02) + (0.0 if share == 1.0 else 0.01)
            if best is None or rank < best[0]:
                best = (rank, use)
    return None if best is None else best[1]

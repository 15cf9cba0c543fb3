"""Look first: what an eye marked before the verdict was shown, laid over what was measured.

Judging is a skill of its own: what was seen, what was missed, what was imagined, and how far the eye was off.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from vane_line.core.contract.look import LOOK_SCHEMA, ImaginedRow, LookDocument, MissedRow, SeenRow
from vane_line.core.judge import criteria
from vane_line.core.judge.verdicts import FAULTS
from vane_line.errors import BadOption

REACH_MM = 2.5  # from a fault's place: nearer is the same place
MOST_MARKS, MOST_MM = 60, 5.0
# What an eye can say of a place, and the criteria that would prove it.
SAID: dict[str, tuple[str, ...]] = {
    "short": ("reduction", "clearance", "cavity-depth", "incisal-reduction", "functional-cusp-bevel", "planes"),
    "over": ("reduction", "tooth-removed", "remaining-width", "cavity-depth"),
    "undercut": ("undercut", "draft"),
    "tapered": ("convergence",),
    "line": (
        "finish-line-width", "finish-line-form", "finish-line-step", "finish-line-lip", "finish-line-gap",
        "finish-line-roughness", "margin-height",
    ),
    "sharp": ("edge-radius", "milled-fit", "internal-radius"),
    "neighbour": ("neighbour-nick", "neighbour-gap"),
}  # fmt: skip
BOTH_WAYS = ("reduction", "cavity-depth")  # short and over are two things of the same criterion


@dataclass(frozen=True)
class Mark:
    """A place (3,) mm on the preparation scan, what was seen there, and the amount guessed, mm or None."""

    at: tuple[float, float, float]
    said: str
    amount_mm: float | None = None

    def __post_init__(self) -> None:
        """Raises BadOption."""
        if self.said not in SAID:
            raise BadOption(f"mark {self.said}: use one of {', '.join(SAID)}.")
        if not all(math.isfinite(x) for x in self.at):
            raise BadOption("mark: its place has to be three numbers.")
        if self.amount_mm is not None and not 0 <= self.amount_mm <= MOST_MM:
            raise BadOption(f"mark: guess an amount from 0 to {MOST_MM:.0f} mm, or none.")


def compare_look(marks: list[Mark], verdicts: list[dict[str, Any]]) -> LookDocument:
    """Lay marks over the proven faults of a measurement. Raises BadOption for too many marks.

    One mark sees one fault, the nearest of what it says; a place with several faults of one kind is one fault. What is
    too near a limit to say is neither missed nor imagined.
    """
    if len(marks) > MOST_MARKS:
        raise BadOption(f"Give {MOST_MARKS} marks at most.")
    faults = _faults(verdicts, FAULTS)
    doubtful = _faults(verdicts, ("within-uncertainty",))
    pairs = sorted(
        (_away(mark, v), i, k)
        for i, mark in enumerate(marks) for k, v in enumerate(faults) if _means(mark, v) and _away(mark, v) <= REACH_MM
    )  # fmt: skip
    taken: dict[int, int] = {}
    for _, i, k in pairs:
        if i not in taken and k not in taken.values():
            taken[i] = k
    seen = [_seen(marks[i], faults[k]) for i, k in sorted(taken.items())]
    found = set(taken.values())
    missed = [
        MissedRow(criterion=v["criterion"], title=criteria.title(v["criterion"]), where=v["where"], at=v["at"],
                  amount=abs(v["missing"]), unit=v["unit"])
        for k, v in enumerate(faults) if k not in found
    ]  # fmt: skip
    imagined = [
        ImaginedRow(at=mark.at, said=mark.said, doubtful=any(_near(mark, v) for v in doubtful))
        for i, mark in enumerate(marks) if i not in taken and not any(_near(mark, v) for v in faults)
    ]  # fmt: skip
    guesses = [s.off_mm for s in seen if s.off_mm is not None]
    off = sum(guesses) / len(guesses) if guesses else None
    return LookDocument(
        schema=LOOK_SCHEMA, seen=seen, missed=missed, imagined=imagined, off_mm=off,
        says=_says(len(seen), len(missed), [r for r in imagined if not r.doubtful], off),
    )  # fmt: skip


def _faults(verdicts: list[dict[str, Any]], statuses: tuple[str, ...]) -> list[dict[str, Any]]:
    """With a place, one of each kind within REACH_MM: the greatest amount."""
    rows = [v for v in verdicts if v["status"] in statuses and v["at"] is not None and v["missing"] is not None]
    out: list[dict[str, Any]] = []
    for v in sorted(rows, key=lambda v: -abs(v["missing"])):
        if not any(_kind(v) == _kind(w) and math.dist(v["at"], w["at"]) <= REACH_MM for w in out):
            out.append(v)
    return out


def _kind(v: dict[str, Any]) -> str:
    """What an eye would say of a fault."""
    fits = [said for said, names in SAID.items() if v["criterion"] in names]
    if v["criterion"] in BOTH_WAYS:
        return "over" if v["bound"] == "max" else "short"
    return fits[0] if fits else str(v["criterion"])


def _means(mark: Mark, v: dict[str, Any]) -> bool:
    return mark.said == _kind(v)


def _away(mark: Mark, v: dict[str, Any]) -> float:
    return math.dist(mark.at, v["at"])


def _near(mark: Mark, v: dict[str, Any]) -> bool:
    return _means(mark, v) and _away(mark, v) <= REACH_MM


def _seen(mark: Mark, v: dict[str, Any]) -> SeenRow:
    guessed = mark.amount_mm if v["unit"] == "mm" else None
    off = None if guessed is None else guessed - abs(v["missing"])
    return SeenRow(
        criterion=v["criterion"], title=criteria.title(v["criterion"]), where=v["where"], at=v["at"],
        amount=abs(v["missing"]), unit=v["unit"], guessed_mm=guessed, off_mm=off,
    )  # fmt: skip


def _says(seen: int, missed: int, imagined: list[ImaginedRow], off: float | None) -> str:
    said = f"Seen {seen} of {seen + missed}"
    said += f", imagined {len(imagined)}" if imagined else ""
    if off is not None and abs(off) >= 0.05:
        said += f"; amounts guessed {abs(off):.1f} mm too {'great' if off > 0 else 'small'} on average"
    elif off is not None:
        said += "; amounts guessed well on average"
    return f"{said}."

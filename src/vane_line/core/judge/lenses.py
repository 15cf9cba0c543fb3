"""Lenses: what the sheet can be looked at for, each with its own scale, legend and words. The pages keep no list."""

from __future__ import annotations

from dataclasses import dataclass

# How a patch of the legend looks; the sheet's shader draws the same.
SHORT, OVER, DOUBT, UNSEEN, MEETS, GAP, CONTACT, TAKEN, LINE, DASHED, SHADOW, LOZENGE = (
    "short", "over", "doubt", "unseen", "meets", "gap", "contact", "taken", "line", "dashed", "shadow", "lozenge",
)  # fmt: skip


# Readers of kinds that are made for the tooth; a child's crown comes ready made, and a bulge is wanted under it.
MADE = ("ring", "cavity", "window", "cast")


@dataclass(frozen=True)
class Patch:
    """One entry of a legend: a look, and what it means."""

    look: str
    text: str


@dataclass(frozen=True)
class Lens:
    """One way to look. concern: what its criteria are about, as a heading of the findings, in the order of LENSES.

    field: which per-vertex values colour the tooth, None for none. reads: a value under the pointer in words, with
    {value}, {low}, {high}, {U} in mm. contour_mm: from one line on the sheet to the next. best_view: where it cannot
    be seen from above, the view that it is offered in. readers: of the kinds that it serves.
    """

    name: str
    title: str
    says: str
    concern: str
    legend: tuple[Patch, ...]
    field: str | None = None
    reads: str = ""
    contour_mm: float = 0.1
    best_view: str | None = None
    readers: tuple[str, ...] = (*MADE, "child")


_UNSEEN = Patch(UNSEEN, "never seen by the earlier scan")

LENSES = (
    Lens(
        "depth", "Depth", "cut from the planned outer surface, against the material's minimum", "Room for the material",
        (
            Patch(SHORT, "short of minimum, a line every 0.1 mm"), Patch(OVER, "over-cut"),
            Patch(DOUBT, "too near to say"), Patch(MEETS, "meets"), _UNSEEN,
        ),
        field="depth", reads="{value} cut, {low} needed, ± {U}",
    ),
    Lens(
        "space", "Clearance", "room to the opposing teeth, teeth together", "Room for the material",
        (
            Patch(SHORT, "short of minimum, a line every 0.1 mm"), Patch(DOUBT, "too near to say"),
            Patch(GAP, "enough: a line every 0.5 mm of room"), Patch(CONTACT, "touches"),
            Patch(LOZENGE, "contacts of the other teeth; hollow: gone, or cut"),
        ),
        field="space", reads="{value} of room, {low} needed, ± {U}", contour_mm=0.5,
    ),
    Lens(
        "cusps", "Standing cusps", "tooth that stands behind the cavity's walls, across the path", "Standing cusps",
        (
            Patch(SHORT, "thinner than the least, a line every 0.1 mm"), Patch(DOUBT, "too near to say"),
            Patch(MEETS, "thick enough"),
        ),
        field="cusps", reads="{value} stand behind it, {low} needed at the base, ± {U}", readers=("cavity",),
    ),
    Lens(
        "draw", "Undercut", "what lies under an overhang along the path of insertion", "Seat and hold",
        (
            Patch(SHORT, "undercut, a line every 0.1 mm"), Patch(SHADOW, "its shadow, seen through the tooth"),
            Patch(DOUBT, "too near to say"), Patch(MEETS, "free along the path"),
        ),
        field="draw", reads="{depth} under the overhang, {allowed} allowed, ± {U}", best_view="side", readers=MADE,
    ),
    Lens(
        "line", "Finish line", "its course and its ledge", "Finish line",
        (Patch(LINE, "clearly seen"), Patch(DASHED, "not clearly seen: doubtful")),
    ),
    Lens(
        "edges", "Sharp edges", "what the milling bur must cut away beside edges sharper than itself", "Edges and form",
        (Patch(SHORT, "cut away by the bur, a line every 0.1 mm"), Patch(MEETS, "the bur reaches it")),
        field="edges", reads="{depth} cut away by the milling bur, ± {U}", readers=MADE,
    ),
    Lens(
        "next", "Neighbours", "taken off the teeth beside it since before cutting", "Beside it",
        (Patch(TAKEN, "taken off, a line every 0.1 mm"), Patch(MEETS, "untouched")),
        field="next", reads="{value} taken off the neighbour",
    ),
    Lens(
        "change", "Last pass", "taken off since the attempt before", "Since the attempt before",
        (Patch(TAKEN, "taken off, a line every 0.1 mm"), Patch(MEETS, "as it was")),
        field="change", reads="{value} taken off",
    ),
)  # fmt: skip
RECORD = "Scans and bite"  # what no lens shows: it comes first, nothing else holds without it


def lens(name: str | None) -> Lens | None:
    """A lens by its name; None for none."""
    return next((one for one in LENSES if one.name == name), None)


def concern(name: str | None) -> str:
    """What a criterion of a lens is about."""
    found = lens(name)
    return found.concern if found else RECORD


def concerns() -> tuple[str, ...]:
    """In the order in which they matter."""
    return tuple(dict.fromkeys([RECORD, *(one.concern for one in LENSES)]))

"""What to scan again, in words for the chair: what is wrong there, and what to do."""

from __future__ import annotations

from vane_line.core.case import Geometry
from vane_line.core.contract.measurement import RescanRow
from vane_line.core.judge import criteria

VIEWS = {"mesial": "occlusal", "distal": "occlusal"}  # from the side the next tooth stands before it
WORDS = {
    "hole": ("the scan ends at the finish line", "dry it, and look onto the edge from the side that is missing"),
    "thin": ("the scan's points lie too far apart to place the edge", "hold still over it and nearer"),
    "gingiva": ("gingiva lies on the finish line", "displace it, rinse and dry, then scan"),
    "unseen": ("no clear edge is seen", "look whether gingiva, blood or saliva hides it; else mark the line by hand"),
}


def rescan_rows(geometry: Geometry) -> list[RescanRow]:
    """The longest first."""
    lingual = geometry.options.tooth.lingual_word
    return [
        RescanRow(
            what=r.what, length_mm=r.length_mm, at=r.at, view=VIEWS.get(r.side, r.side),
            where=criteria.where("finish-line-width", r.side, lingual), words=WORDS[r.what][0], do=WORDS[r.what][1],
        )
        for r in geometry.rescans
    ]  # fmt: skip

"""Read a scan file: its surface judged, and the two meshes that the sheet shows made from it."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from vane_line.core.loading import remarks
from vane_line.core.mesh.light import MOVING_TRIANGLES, REST_TRIANGLES, lightened, mesh_blob
from vane_line.core.mesh.quality import assess
from vane_line.core.mesh.read import read_soup
from vane_line.core.mesh.units import extent_and_edge, guess_unit
from vane_line.core.mesh.weld import weld
from vane_line.work.desk import Desk
from vane_line.work.task import Progress


def read_scan(_desk: Desk, payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """`data` by its `name`, in `unit` or 'auto'. Answer: unit, whether it is sure, facts, rest and light (meshes).

    Raises UnreadableScan, ScanTooLarge.
    """
    name = payload["name"]
    progress("reading", 0.1)
    soup = read_soup(payload["data"], name, *payload["limits"])
    guess = guess_unit([extent_and_edge(soup.corners, soup.faces)])
    unit = guess.unit if payload["unit"] == "auto" else payload["unit"]
    welded = weld(soup, unit, name)
    progress("making it light", 0.6)
    facts: dict[str, Any] = asdict(assess(welded.surface))
    facts["format"] = soup.format
    facts["said"] = [text.split(": ", 1)[1] for text in remarks(payload["role"], welded)]
    facts["colour"] = soup.colours is not None
    rest = lightened(welded.surface, REST_TRIANGLES)
    light = lightened(rest, MOVING_TRIANGLES)
    return {
        "unit": unit, "unit_sure": payload["unit"] != "auto" or guess.sure, "facts": facts,
        "rest": mesh_blob(rest), "light": mesh_blob(light),
    }  # fmt: skip

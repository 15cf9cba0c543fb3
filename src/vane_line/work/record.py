"""The record of a stored measurement, and the package for the laboratory.

Pages and pictures are imported where they are made: every worker starts with this module, few draw.
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

import numpy as np

from vane_line.core.case import Geometry
from vane_line.core.fields import field_ply
from vane_line.core.judge.judgement import Judgement, judge
from vane_line.core.mesh.surface import Surface
from vane_line.work.desk import Desk, options_of, standard_of, tray_of
from vane_line.work.records import read_geometry
from vane_line.work.task import Progress

if TYPE_CHECKING:
    from vane_line.report.preparation import Record


def make_record(desk: Desk, payload: dict[str, Any], progress: Progress) -> bytes:
    """The page of a measurement as it is stored, as PDF or HTML (`form`)."""
    from vane_line.report import preparation

    progress("drawing the record", 0.5)
    record, _, _ = _record(desk, payload)
    return preparation.as_pdf(record) if payload["form"] == "pdf" else preparation.as_html(record)


def make_package(desk: Desk, payload: dict[str, Any], progress: Progress) -> bytes:
    """All that the laboratory needs, as one zip."""
    from vane_line.report import package, preparation

    progress("packing", 0.5)
    record, geometry, judgement = _record(desk, payload)
    pages = {"record.pdf": preparation.as_pdf(record), "record.html": preparation.as_html(record)}
    return package.made(
        payload["document"], _in_place(desk, payload), field_ply(geometry, judgement), pages, payload["prescription"]
    )


def _record(desk: Desk, payload: dict[str, Any]) -> tuple[Record, Geometry, Judgement]:
    from vane_line.report import preparation
    from vane_line.report.words import by_hand_of_options

    geometry = read_geometry(desk.fetch(payload["geometry_hash"]))
    judgement = judge(geometry, standard_of(payload), tray_of(payload))
    about = payload["about"]
    told = preparation.About(
        code=about["code"], version=about["version"], made_at=about["made_at"],
        scans=tuple((r, n, d) for r, n, d in about["scans"]), by_hand=tuple(about["by_hand"]),
    )  # fmt: skip
    told = replace(told, by_hand=(*by_hand_of_options(options_of(payload)), *told.by_hand))
    return (
        preparation.record_of(payload["document"], geometry, judgement, _in_place(desk, payload), told),
        geometry,
        judgement,
    )


def _in_place(desk: Desk, payload: dict[str, Any]) -> dict[str, Surface]:
    """The scans by role in the preparation scan's coordinates, as far as they are trusted there."""
    out = {"prep": desk.surface(payload["scans"]["prep"], "prep")[0]}
    for role, aligned in payload["document"]["alignment"].items():
        if aligned is not None and aligned["trusted"] and role in payload["scans"]:
            out[role] = desk.surface(payload["scans"][role], role)[0].moved(np.array(aligned["matrix"]))
    return out

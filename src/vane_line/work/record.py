"""The record of a stored measurement, and the package for the laboratory.

Pages and pictures are imported where they are made: every worker starts with this module, few draw.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

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
    geometry, judgement = _judged(desk, payload)
    record = _record(payload, geometry, judgement, geometry.in_place(desk.scans(payload)))
    return preparation.as_pdf(record) if payload["form"] == "pdf" else preparation.as_html(record)


def make_package(desk: Desk, payload: dict[str, Any], progress: Progress) -> bytes:
    """All that the laboratory needs, as one zip."""
    from vane_line.report import package, preparation

    progress("packing", 0.5)
    geometry, judgement = _judged(desk, payload)
    surfaces = geometry.in_place(desk.scans(payload))
    record = _record(payload, geometry, judgement, surfaces)
    pages = {"record.pdf": preparation.as_pdf(record), "record.html": preparation.as_html(record)}
    depth = field_ply(geometry, judgement)
    return package.made(payload["document"], surfaces, depth, pages, payload["prescription"])


def _judged(desk: Desk, payload: dict[str, Any]) -> tuple[Geometry, Judgement]:
    geometry = read_geometry(desk.fetch(payload["geometry_hash"]))
    return geometry, judge(geometry, standard_of(payload), tray_of(payload))


def _record(payload: dict[str, Any], geometry: Geometry, judgement: Judgement, surfaces: dict[str, Surface]) -> Record:
    from vane_line.report.preparation import About, record_of
    from vane_line.report.words import by_hand_of_options

    about = payload["about"]
    told = About(
        code=about["code"], version=about["version"], made_at=about["made_at"],
        scans=tuple((role, name, digest) for role, name, digest in about["scans"]),
        by_hand=(*by_hand_of_options(options_of(payload)), *about["by_hand"]),
    )  # fmt: skip
    return record_of(payload["document"], geometry, judgement, surfaces, told)

"""Several abutments of one case held together."""

from __future__ import annotations

from typing import Any

from vane_line.core.bridge.whole import measure_bridge
from vane_line.core.judge.bridge import bridge_document
from vane_line.core.judge.standards import Standard
from vane_line.core.span.document import bridge_plan_document
from vane_line.core.span.planned import plan_bridge
from vane_line.core.tooth.notation import ToothNumber
from vane_line.work.desk import Desk, options_of, standard_of, tray_of
from vane_line.work.measure import plan_options, shaped
from vane_line.work.task import Progress


def bridge_case(desk: Desk, payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """payload: `abutments`, each what is asked of one tooth on the same scans, and `pontics`. Answer: the document."""
    each = payload["abutments"]
    pontics = [ToothNumber(t) for t in payload["pontics"]]
    bridge = measure_bridge(desk.scans(each[0]), [options_of(one) for one in each], pontics, progress)
    return bridge_document(bridge, _standards(each), each[0]["material"])


def _standards(abutments: list[dict[str, Any]]) -> dict[str, Standard]:
    """By FDI number, as each tooth of the case has its own."""
    return {str(one["options"]["tooth"]): standard_of(one) for one in abutments}


def plan_bridge_case(desk: Desk, payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """payload: `abutments`, each what a plan of one tooth asks for on the same scans, and `pontics`. Answer: document,
    target (STL bytes of all in one), light (shown mesh), None without one."""
    progress("reading the scans", 0.02)
    each = payload["abutments"]
    surfaces = {role: desk.surface(scan, role)[0] for role, scan in each[0]["scans"].items()}
    pontics = [ToothNumber(t) for t in payload["pontics"]]
    bridge = plan_bridge(
        surfaces["preop"], surfaces.get("opposing"), [plan_options(one) for one in each], pontics,
        _standards(each), tray_of(each[0]), progress,
    )  # fmt: skip
    return shaped(bridge_plan_document(bridge, pontics), bridge.target)

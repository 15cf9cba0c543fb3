"""All that can be asked of a worker, by name."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from vane_line.work.desk import Desk
from vane_line.work.hand import predict_strokes, redraw_line, try_path, warm
from vane_line.work.look import difference, guess_axes, measure_tape, section
from vane_line.work.measure import decide_case, judge_case, measure_case, plan_case
from vane_line.work.reading import read_scan
from vane_line.work.record import make_package, make_record
from vane_line.work.span import bridge_case, plan_bridge_case
from vane_line.work.task import Progress

TASKS: dict[str, Callable[[Desk, dict[str, Any], Progress], Any]] = {
    "read": read_scan,
    "measure": measure_case,
    "judge": judge_case,
    "plan": plan_case,
    "decide": decide_case,
    "bridge": bridge_case,
    "bridge-plan": plan_bridge_case,
    "axes": guess_axes,
    "section": section,
    "tape": measure_tape,
    "difference": difference,
    "record": make_record,
    "package": make_package,
    "warm": warm,
    "redraw": redraw_line,
    "try-path": try_path,
    "predict": predict_strokes,
}

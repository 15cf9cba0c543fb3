"""What a further pass of the bur changed: the verdicts of two attempts at one tooth, held side by side.

A change counts only beyond both uncertainties together; less than that is said to be the same.
"""

from __future__ import annotations

from math import hypot
from typing import Any

from vane_line.core.judge import criteria
from vane_line.core.judge.verdicts import FAULTS

STATES = ("new", "worse", "still", "better", "mended", "changed", "same")  # as they are listed


def compare(before: dict[str, Any], after: dict[str, Any], same_standard: bool = True) -> list[dict[str, Any]]:
    """Rows of what differs between two contract documents, and of faults that remain; worst first.

    `state`: mended (was a proven fault and is none), new (the other way), worse, better or still (a fault in both),
    changed (no fault in either, but beyond the uncertainty), same is left out. `value` before and after, `change`, its
    `U`. Raises ValueError when the documents are not of the same tooth and, unless told otherwise, standard.
    """
    for key in ("tooth", "standard") if same_standard else ("tooth",):
        if before[key] != after[key]:
            raise ValueError(f"{key}: the attempts were not judged alike; judge both by the same standard first.")
    earlier = {_key(v): v for v in before["verdicts"]}
    rows = []
    for now in after["verdicts"]:
        then = earlier.pop(_key(now), None)
        row = _row(then, now)
        if row["state"] != "same":
            rows.append(row)
    for then in earlier.values():  # a step or an undercut that is gone has no verdict of its own any more
        if then["status"] in FAULTS:
            rows.append(_row(then, None))
    return sorted(rows, key=lambda r: (STATES.index(r["state"]), -abs(r["missing"] or 0.0)))


def _key(verdict: dict[str, Any]) -> tuple[str, str, str]:
    return verdict["criterion"], verdict["zone"], verdict["bound"]


def _row(then: dict[str, Any] | None, now: dict[str, Any] | None) -> dict[str, Any]:
    shown = now or then
    assert shown is not None
    value_then, value_now = (None if v is None else v["value"] for v in (then, now))
    change = None if value_then is None or value_now is None else value_now - value_then
    u = hypot((then or {}).get("U") or 0.0, (now or {}).get("U") or 0.0)
    return {
        "criterion": shown["criterion"], "title": criteria.title(shown["criterion"]), "zone": shown["zone"],
        "bound": shown["bound"], "where": shown["where"], "unit": shown["unit"], "before": value_then,
        "after": value_now, "change": change, "U": u, "limit": shown["limit"],
        "missing": None if now is None else now["missing"], "at": shown["at"], "state": _state(then, now, change, u),
    }  # fmt: skip


def _state(then: dict[str, Any] | None, now: dict[str, Any] | None, change: float | None, u: float) -> str:
    was, is_now = ((v or {}).get("status") in FAULTS for v in (then, now))
    if was and not is_now:
        # What can no longer be measured is not mended.
        return "mended" if now is None or now["status"] != "not-measured" else "changed"
    if is_now and not was:
        return "new"
    moved = change is not None and abs(change) > u
    if is_now:
        assert now is not None
        if not moved or change is None:
            return "still"
        return "better" if (change > 0) == (now["bound"] == "min") else "worse"
    return "changed" if moved else "same"

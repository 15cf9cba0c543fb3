"""A document's verdicts as rows of a table."""

from __future__ import annotations

from typing import Any

HEAD = ("tooth", "restoration", "material", "standard", "standard_version")
# What every table shows of a verdict, in this order.
VERDICT = ("criterion", "zone", "bound", "value", "unit", "U", "limit", "target", "status", "missing", "where", "why")


def records_of(document: dict[str, Any]) -> list[dict[str, Any]]:
    """One flat record a verdict, with the tooth, material and standard in each: rows for a table."""
    head = {
        "tooth": document["tooth"], "restoration": document["restoration"], "material": document["material"],
        "standard": document["standard"]["id"], "standard_version": document["standard"]["version"],
    }  # fmt: skip
    rows = []
    for v in document["verdicts"]:
        place = dict(zip(("x_mm", "y_mm", "z_mm"), v["at"] or (None, None, None), strict=True))
        rows.append(head | {key: value for key, value in v.items() if key != "at"} | place)
    return rows

"""What the laboratory gets, in one zip: scans in one frame, finish line, path, figures, record and prescription.

Every file is named in a manifest with its SHA-256; equal content gives equal bytes. Coordinates are the preparation
scan's, mm, in every file.
"""

from __future__ import annotations

import csv
import io
import json
from typing import Any
from xml.sax.saxutils import quoteattr

import numpy as np

from vane_line.core.judge.table import VERDICT
from vane_line.core.mesh.surface import Surface
from vane_line.core.mesh.write import stl_bytes
from vane_line.report import zips

SCHEMA = "vane-line/package/1"
LINE_SCHEMA = "vane-line/finish-line/1"
MOST_FILES = 64


def made(
    document: dict[str, Any],
    surfaces: dict[str, Surface],
    depth_ply: bytes,
    records: dict[str, bytes],
    about: dict[str, Any],
) -> bytes:
    """surfaces: by role, in the preparation scan's coordinates. records: pages by file name. about: prescription."""
    files = {f"scans/{role}.stl": stl_bytes(surface) for role, surface in surfaces.items()}
    line = np.array(document["finish_line"]["points"])
    files |= {
        "preparation_depth.ply": depth_ply, "finish_line.csv": line_csv(line, document),
        "finish_line.ply": line_ply(line), "finish_line.xml": line_xml(line, document),
        "measurement.json": json.dumps(document, ensure_ascii=False, allow_nan=False).encode(),
        "prescription.json": json.dumps(about, ensure_ascii=False, indent=1).encode(),
        "verdicts.csv": verdicts_csv(document), **records,
    }  # fmt: skip
    return zips.packed(files, SCHEMA)


def opened(data: bytes) -> dict[str, bytes]:
    """The files of a package, whole and as its manifest says. Raises BadOption with what is wrong."""
    return zips.opened(data, "package", MOST_FILES)


def line_csv(line: Any, document: dict[str, Any]) -> bytes:
    """The finish line's points in order, and whether each is clearly seen."""
    doubtful = document["finish_line"].get("doubtful") or [False] * len(line)
    rows = [[*(f"{v:.4f}" for v in p), "no" if d else "yes"] for p, d in zip(line, doubtful, strict=True)]
    return _csv(["x_mm", "y_mm", "z_mm", "clearly_seen"], rows)


def verdicts_csv(document: dict[str, Any]) -> bytes:
    """One row a verdict."""
    return _csv(list(VERDICT), [["" if v[n] is None else v[n] for n in VERDICT] for v in document["verdicts"]])


def _csv(head: list[str], rows: list[list[Any]]) -> bytes:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")  # RFC 4180
    writer.writerow(head)
    writer.writerows(rows)
    return out.getvalue().encode()


def line_ply(line: Any) -> bytes:
    """The finish line as a PLY of vertices and edges, closed."""
    head = ["ply", "format ascii 1.0", f"element vertex {len(line)}", *(f"property float {a}" for a in "xyz"),
            f"element edge {len(line)}", "property int vertex1", "property int vertex2", "end_header"]  # fmt: skip
    points = ["{:.4f} {:.4f} {:.4f}".format(*p) for p in line]
    edges = [f"{k} {(k + 1) % len(line)}" for k in range(len(line))]
    return ("\n".join([*head, *points, *edges]) + "\n").encode()


def line_xml(line: Any, document: dict[str, Any]) -> bytes:
    """The finish line and the path as XML of our own schema (docs/record.md)."""
    path = " ".join(f"{v:.9f}" for v in document["path"]["direction"])
    rows = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<finishLine schema="{LINE_SCHEMA}" tooth={quoteattr(document["tooth"])} unit="mm" '
        f'closed="{"true" if document["finish_line"]["closed"] else "false"}">',
        f'  <pathOfInsertion direction="{path}"/>',
        *('  <point x="{:.4f}" y="{:.4f}" z="{:.4f}"/>'.format(*p) for p in line),
        "</finishLine>",
    ]
    return ("\n".join(rows) + "\n").encode()

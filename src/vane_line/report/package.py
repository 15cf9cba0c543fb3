"""What the laboratory gets, in one zip: scans in one frame, finish line, path, figures, record and prescription.

Every file is named in a manifest with its SHA-256; equal content gives equal bytes. Coordinates are the preparation
scan's, mm, in every file.
"""

from __future__ import annotations

import csv
import hashlib
import io
import json
import zipfile
from typing import Any
from xml.sax.saxutils import quoteattr

import numpy as np

from vane_line.core.judge.table import VERDICT
from vane_line.core.mesh.surface import Surface
from vane_line.core.mesh.write import stl_bytes
from vane_line.errors import BadOption

SCHEMA = "vane-line/package/1"
LINE_SCHEMA = "vane-line/finish-line/1"
MANIFEST = "manifest.json"
MOST_FILES, MOST_BYTES, MOST_RATIO = 64, 1_000_000_000, 200  # what a package may hold, and how tightly it may be packed


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
    return packed(files)


def packed(files: dict[str, bytes]) -> bytes:
    """A zip with a manifest of hashes, its entries in order and without dates."""
    rows = [{"name": n, "bytes": len(d), "sha256": hashlib.sha256(d).hexdigest()} for n, d in sorted(files.items())]
    manifest = json.dumps({"schema": SCHEMA, "files": rows}, indent=1).encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=6) as file:
        for name, data in [(MANIFEST, manifest), *sorted(files.items())]:
            info = zipfile.ZipInfo(name)
            info.compress_type = zipfile.ZIP_DEFLATED
            file.writestr(info, data)
    return out.getvalue()


def opened(data: bytes) -> dict[str, bytes]:
    """The files of a package, whole and as its manifest says. Raises BadOption with what is wrong."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as file:
            return _checked(file)
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError) as error:
        raise BadOption("package: this is no zip that can be read; ask for it again.") from error


def _checked(file: zipfile.ZipFile) -> dict[str, bytes]:
    infos = file.infolist()
    if len(infos) > MOST_FILES or sum(i.file_size for i in infos) > MOST_BYTES:
        raise BadOption(f"package: more than {MOST_FILES} files or {MOST_BYTES // 10**9} GB: not a package of ours.")
    for info in infos:
        parts = info.filename.split("/")
        if info.filename.startswith(("/", "\\")) or ".." in parts or ":" in info.filename or "\\" in info.filename:
            raise BadOption("package: a name in it leads out of it: it was not made by Vane Line.")
        if info.file_size > MOST_RATIO * max(info.compress_size, 1) and info.file_size > 1_000_000:
            raise BadOption("package: a file in it is packed far too tightly; it is not opened.")
    if MANIFEST not in file.namelist():
        raise BadOption(f"package: it has no {MANIFEST}: it was not made by Vane Line.")
    try:
        rows = {str(r["name"]): str(r["sha256"]) for r in json.loads(file.read(MANIFEST))["files"]}
    except (ValueError, KeyError, TypeError) as error:
        raise BadOption(f"package: its {MANIFEST} cannot be read; ask for it again.") from error
    if set(rows) != set(file.namelist()) - {MANIFEST}:
        raise BadOption(f"package: its files are not those of its {MANIFEST}; ask for it again.")
    found = {name: file.read(name) for name in rows}
    for name, digest in rows.items():
        if hashlib.sha256(found[name]).hexdigest() != digest:
            raise BadOption(f"package: {name[:60]} is not as it was packed; ask for it again.")
    return found


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

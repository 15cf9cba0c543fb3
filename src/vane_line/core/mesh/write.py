"""Surfaces out: binary STL, and PLY with colours and per-vertex fields."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from vane_line.core.arrays import AnyArray, Floats
from vane_line.core.mesh.surface import Surface


def stl_bytes(surface: Surface) -> bytes:
    """Binary STL, little endian, mm."""
    record = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("extra", "<u2")])
    body = np.zeros(surface.n_faces, dtype=record)
    body["normal"] = surface.face_normals
    body["corners"] = surface.vertices[surface.faces]
    return b"\0" * 80 + np.uint32(surface.n_faces).tobytes() + body.tobytes()


def ascii_stl_bytes(surface: Surface) -> bytes:
    """ASCII STL, mm."""
    rows = ["solid scan"]
    for normal, corners in zip(surface.face_normals, surface.vertices[surface.faces], strict=True):
        rows.append("facet normal {:.6g} {:.6g} {:.6g}\nouter loop".format(*normal))
        rows += ["vertex {:.7g} {:.7g} {:.7g}".format(*corner) for corner in corners]
        rows.append("endloop\nendfacet")
    rows.append("endsolid scan\n")
    return "\n".join(rows).encode()


def obj_bytes(surface: Surface) -> bytes:
    """Wavefront OBJ, mm."""
    rows = ["v {:.7g} {:.7g} {:.7g}".format(*v) for v in surface.vertices]
    rows += ["f {} {} {}".format(*f) for f in surface.faces + 1]
    return ("\n".join(rows) + "\n").encode()


def ply_bytes(surface: Surface, fields: dict[str, Floats] | None = None) -> bytes:
    """Binary PLY, mm, with vertex colours where present and float `fields` (V,) by name."""
    fields = fields or {}
    spec: list[tuple[str, str]] = [("x", "<f4"), ("y", "<f4"), ("z", "<f4")]
    header = ["ply", "format binary_little_endian 1.0", f"element vertex {surface.n_vertices}"]
    header += [f"property float {axis}" for axis in "xyz"]
    if surface.colours is not None:
        spec += [("red", "u1"), ("green", "u1"), ("blue", "u1")]
        header += [f"property uchar {c}" for c in ("red", "green", "blue")]
    for name in fields:
        spec.append((name, "<f4"))
        header.append(f"property float {name}")
    header += [f"element face {surface.n_faces}", "property list uchar int vertex_indices", "end_header"]
    body: AnyArray = np.zeros(surface.n_vertices, dtype=np.dtype(spec))
    for k, axis in enumerate("xyz"):
        body[axis] = surface.vertices[:, k]
    if surface.colours is not None:
        for k, colour in enumerate(("red", "green", "blue")):
            body[colour] = surface.colours[:, k]
    for name, values in fields.items():
        body[name] = values
    faces = np.zeros(surface.n_faces, dtype=np.dtype([("n", "u1"), ("v", "<i4", 3)]))
    faces["n"], faces["v"] = 3, surface.faces
    return ("\n".join(header) + "\n").encode() + body.tobytes() + faces.tobytes()


def write_surface(path: Path, surface: Surface, fields: dict[str, Floats] | None = None) -> None:
    """Write by suffix: .stl, .ply or .obj."""
    suffix = path.suffix.lower()
    if suffix == ".ply":
        path.write_bytes(ply_bytes(surface, fields))
    elif suffix == ".obj":
        path.write_bytes(obj_bytes(surface))
    else:
        path.write_bytes(stl_bytes(surface))

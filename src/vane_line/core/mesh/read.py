"""Scan files in: STL (binary, ASCII), PLY, OBJ. Every failure is one sentence.

A reader returns a triangle soup in the file's own units; `weld` makes a surface of it.
"""

from __future__ import annotations

import re
import struct
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from vane_line.core.arrays import AnyArray, Floats, Ints
from vane_line.errors import InputError, ScanTooLarge, UnreadableScan

STL_HEADER_BYTES = 84
STL_FACE_BYTES = 50
MAX_BYTES = 400_000_000  # about eight million triangles of binary STL
MAX_TRIANGLES = 4_000_000  # beyond this the measurement would need more than 8 GB
SUFFIXES = (".stl", ".ply", ".obj")


@dataclass(frozen=True, eq=False)
class Soup:
    """What a file holds, before anything is judged: corners (V, 3), faces (F, 3), colours or None."""

    corners: Floats
    faces: Ints
    colours: AnyArray | None
    format: str


def read_soup(data: bytes, name: str, max_bytes: int = MAX_BYTES, max_triangles: int = MAX_TRIANGLES) -> Soup:
    """The triangles of a scan file's bytes; `name` is used for its suffix and in messages.

    Raises UnreadableScan or ScanTooLarge. The content decides the format; the suffix only breaks ties.
    """
    if len(data) == 0:
        raise UnreadableScan(f"{name}: the file is empty; export the scan again.")
    if len(data) > max_bytes:
        raise ScanTooLarge(
            f"{name}: {len(data) / 1e6:.0f} MB is over the limit of {max_bytes / 1e6:.0f} MB; "
            "export a lighter scan or raise the limit."
        )
    try:
        soup = _read(data, name, max_triangles)
    except InputError:
        raise
    except Exception as error:  # a foreign reader may fail in any way on malformed bytes
        raise UnreadableScan(f"{name}: the file is damaged ({type(error).__name__}); export the scan again.") from error
    if len(soup.faces) == 0:
        raise UnreadableScan(f"{name}: there are no triangles in it (a point cloud?); export a surface, not points.")
    if len(soup.faces) > max_triangles:
        raise _too_many(name, len(soup.faces), max_triangles)
    if soup.faces.min() < 0 or soup.faces.max() >= len(soup.corners):
        raise UnreadableScan(f"{name}: triangles refer to points that are not there; export the scan again.")
    return soup


def read_file(path: Path, max_bytes: int = MAX_BYTES, max_triangles: int = MAX_TRIANGLES) -> Soup:
    """As `read_soup`, from a path."""
    shown = printable(path.name)
    if not path.exists():
        raise UnreadableScan(f"{shown}: there is no such file; check the path.")
    if not path.is_file():
        raise UnreadableScan(f"{shown}: this is not a file; give the path of a scan.")
    try:
        size = path.stat().st_size
        if size > max_bytes:
            raise ScanTooLarge(
                f"{shown}: {size / 1e6:.0f} MB is over the limit of {max_bytes / 1e6:.0f} MB; "
                "export a lighter scan or raise the limit."
            )
        data = path.read_bytes()
    except OSError as error:
        raise UnreadableScan(f"{shown}: it cannot be read ({error.strerror}); check its permissions.") from error
    return read_soup(data, shown, max_bytes, max_triangles)


def printable(name: str) -> str:
    """A file name fit for a message, whatever its encoding."""
    return name.encode("utf-8", "replace").decode("utf-8").replace("\n", " ")


def _too_many(name: str, count: int, limit: int) -> ScanTooLarge:
    return ScanTooLarge(
        f"{name}: {count} triangles are over the limit of {limit}; export a lighter scan or raise the limit."
    )


def _read(data: bytes, name: str, max_triangles: int) -> Soup:
    suffix = Path(name).suffix.lower()
    if data[:3] == b"ply":
        return _read_with_library(data, "ply", name)
    if len(data) >= STL_HEADER_BYTES:
        count = struct.unpack_from("<I", data, 80)[0]
        if len(data) == STL_HEADER_BYTES + STL_FACE_BYTES * count and count > 0:
            if count > max_triangles:
                raise _too_many(name, count, max_triangles)
            return _read_binary_stl(data, count)
    head = data[:2000].lstrip()
    if head[:5].lower() == b"solid" and (b"facet" in head or b"endsolid" in head):
        return _read_ascii_stl(data, name)
    if suffix == ".obj" or re.match(rb"(#.*\s+|\s*)*(v|o|g|mtllib)\s", data[:4000]):
        return _read_with_library(data, "obj", name)
    if suffix == ".stl":
        return _read_odd_stl(data, name, max_triangles)
    raise UnreadableScan(f"{name}: this is not an STL, PLY or OBJ surface; export the scan as one of these.")


def _read_binary_stl(data: bytes, count: int) -> Soup:
    record = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("extra", "<u2")])
    body = np.frombuffer(data, dtype=record, count=count, offset=STL_HEADER_BYTES)
    corners = body["corners"].reshape(-1, 3).astype(np.float64)
    return Soup(corners, np.arange(3 * count, dtype=np.int64).reshape(-1, 3), None, "STL (binary)")


def _read_ascii_stl(data: bytes, name: str) -> Soup:
    found = re.findall(rb"vertex\s+(\S+)\s+(\S+)\s+(\S+)", data, re.IGNORECASE)
    if len(found) % 3 or (b"endsolid" not in data[-2000:].lower()):
        raise UnreadableScan(f"{name}: the ASCII STL file is cut short; export or copy it again.")
    try:
        corners = np.array(found, dtype=np.float64)
    except ValueError as error:
        raise UnreadableScan(f"{name}: a coordinate is not a number; export the scan again.") from error
    corners = corners.reshape(-1, 3)
    return Soup(corners, np.arange(len(corners), dtype=np.int64).reshape(-1, 3), None, "STL (ASCII)")


def _read_odd_stl(data: bytes, name: str, max_triangles: int) -> Soup:
    """A binary STL whose length does not fit its count: bytes behind it are left, missing ones refused."""
    if len(data) < STL_HEADER_BYTES:
        raise UnreadableScan(f"{name}: the file is too short to be an STL; export or copy it again.")
    count = struct.unpack_from("<I", data, 80)[0]
    if count == 0:
        raise UnreadableScan(f"{name}: there are no triangles in it; export the scan again.")
    if len(data) < STL_HEADER_BYTES + STL_FACE_BYTES * count:
        raise UnreadableScan(
            f"{name}: the STL file announces {count} triangles and is cut short; export or copy it again."
        )
    if count > max_triangles:
        raise _too_many(name, count, max_triangles)
    return _read_binary_stl(data, count)


def _read_with_library(data: bytes, kind: str, name: str) -> Soup:
    import io

    import trimesh  # imported here only: it takes two seconds

    loaded: Any = trimesh.load(
        io.BytesIO(data), file_type=kind, process=False, maintain_order=True, force="mesh", skip_materials=True
    )
    faces = np.asarray(getattr(loaded, "faces", np.zeros((0, 3))), dtype=np.int64)
    corners = np.asarray(loaded.vertices, dtype=np.float64).reshape(-1, 3)
    if len(faces) == 0:
        raise UnreadableScan(f"{name}: there are no triangles in it (a point cloud?); export a surface, not points.")
    colours = None
    visual = getattr(loaded, "visual", None)
    if visual is not None and getattr(visual, "kind", None) == "vertex":
        colours = np.asarray(visual.vertex_colors, dtype=np.uint8)[:, :3]
    return Soup(corners, faces, colours, kind.upper())

"""STL, binary and ASCII."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Ints
from vane_line.core.mesh.soup import Soup, cut_short, numbers, too_many
from vane_line.errors import UnreadableScan

HEAD_BYTES = 84
FACE_BYTES = 50
STREAMED = (0, 0xFFFFFFFF)  # written before the number was known
LOOKED_AT = 4096


def looks_like_ascii_stl(data: bytes) -> bool:
    """Whether the file begins like an ASCII STL and goes on as text: binary ones may begin with the same word."""
    start = data[:LOOKED_AT].lstrip()
    if start[:5].lower() != b"solid":
        return False
    if any(c < 9 or 13 < c < 32 for c in start):
        return False
    low = start.lower()
    return b"facet" in low or b"endsolid" in low or b"outer" in low


def read_binary_stl(data: bytes, name: str, max_triangles: int) -> Soup:
    """Triangles of a binary STL. A number of nought or of all ones means: as many as there are."""
    if len(data) < HEAD_BYTES:
        raise UnreadableScan(f"{name}: the file is too short to be an STL; export or copy it again.")
    count = int.from_bytes(data[80:HEAD_BYTES], "little")
    held, rest = divmod(len(data) - HEAD_BYTES, FACE_BYTES)
    if count in STREAMED and held > 0 and rest == 0:
        count = held
    if count == 0:
        raise UnreadableScan(f"{name}: there are no triangles in it; export the scan again.")
    if count > held:
        raise cut_short(name, f"the STL file announces {count} triangles and holds {held}")
    if count < held:
        raise UnreadableScan(
            f"{name}: the STL file announces {count} triangles and holds {held}: it is damaged; export the scan again."
        )
    if count > max_triangles:
        raise too_many(name, count, max_triangles)
    record = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("extra", "<u2")])
    body = np.frombuffer(data, dtype=record, count=count, offset=HEAD_BYTES)
    with np.errstate(invalid="ignore"):  # what is no number is told when the surface is made
        corners = body["corners"].reshape(-1, 3).astype(np.float64)
    return Soup(corners, _triples(count), None, "STL (binary)")


def read_ascii_stl(data: bytes, name: str, max_triangles: int) -> Soup:
    """Triangles of an ASCII STL; several solids in one file are one scan."""
    text = _without_names(data).lower()
    loops = text.split(b"endloop")
    tail = loops.pop()
    if b"endsolid" not in tail or b"outer" in tail or b"vertex" in tail:
        raise cut_short(name, "the ASCII STL file has no end")
    if len(loops) > max_triangles:
        raise too_many(name, len(loops), max_triangles)
    words: list[bytes] = []
    for loop in loops:
        parts = loop.split(b"vertex")
        if len(parts) != 4:
            raise UnreadableScan(
                f"{name}: a facet of the ASCII STL file has {len(parts) - 1} corners, not three: it is damaged or cut; "
                "export the scan again."
            )
        for part in parts[1:]:
            three = part.split()
            if len(three) != 3:
                raise UnreadableScan(
                    f"{name}: a corner has {len(three)} coordinates, not three; export the scan again."
                )
            words += three
    return Soup(numbers(words, name).reshape(-1, 3), _triples(len(loops)), None, "STL (ASCII)")


def _without_names(data: bytes) -> bytes:
    """The text without what stands behind `solid`: a name may hold any word."""
    start = len(data) - len(data.lstrip())
    end = data.find(b"\n", start)
    one_line = end < 0 or data[start:end].lower().find(b"outer loop") >= 0
    return data[start + 5 :] if one_line else data[end:]


def _triples(count: int) -> Ints:
    return np.arange(3 * count, dtype=np.int64).reshape(-1, 3)

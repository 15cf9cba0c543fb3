"""OBJ: points and faces; whatever else the format knows is passed over."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import AnyArray
from vane_line.core.mesh.soup import MAX_CORNERS, Soup, check_used, cut_short, fans, numbers, too_many, whole_numbers
from vane_line.errors import UnreadableScan

LOOKED_AT = 8192
KNOWN = (b"v", b"vn", b"vt", b"f", b"o", b"g", b"s", b"usemtl", b"mtllib", b"l", b"p")
COLOURED = 7  # words of a point's line that tells its colour: v x y z r g b


def looks_like_obj(data: bytes) -> bool:
    """Whether the first lines that say something begin with the format's words."""
    told = [line.split(None, 1)[0] for line in data[:LOOKED_AT].splitlines()[:-1] if line.strip()]
    told = [word for word in told if not word.startswith(b"#")][:8]
    return bool(told) and all(word in KNOWN for word in told)


def read_obj(data: bytes, name: str, max_triangles: int) -> Soup:
    """Triangles of an OBJ file: polygons as fans, relative numbers counted from their own line."""
    if b"\0" in data[:LOOKED_AT]:
        raise UnreadableScan(f"{name}: this is not the text of an OBJ file; export the scan again.")
    points: list[bytes] = []
    colours: list[bytes] = []
    corners: list[bytes] = []
    sizes: list[int] = []
    relative: list[tuple[int, int]] = []  # place in `corners`, and how many points stood before its line
    for line in data.replace(b"\\\r\n", b" ").replace(b"\\\n", b" ").splitlines():
        words = line.split()
        if not words:
            continue
        if words[0] == b"v":
            if len(words) < 4:
                raise cut_short(name, "a point of the OBJ file has fewer than three coordinates")
            points += words[1:4]
            if len(words) == COLOURED:
                colours += words[4:7]
        elif words[0] == b"f":
            if len(words) < 4:
                raise cut_short(name, "a face of the OBJ file has fewer than three corners")
            if len(words) > MAX_CORNERS + 1:
                raise UnreadableScan(f"{name}: a face has {len(words) - 1} corners; export the scan as triangles.")
            if b"-" in line:
                here = len(points) // 3
                relative += [(len(corners) + k, here) for k, w in enumerate(words[1:]) if w.startswith(b"-")]
            sizes.append(len(words) - 1)
            if len(sizes) > max_triangles:
                raise too_many(name, len(sizes), max_triangles)
            corners += [w.split(b"/", 1)[0] for w in words[1:]] if b"/" in line else words[1:]
    places = numbers(points, name).reshape(-1, 3)
    index = whole_numbers(corners, name)
    if (index == 0).any():
        raise UnreadableScan(f"{name}: a face refers to point 0, which OBJ files do not have; export the scan again.")
    if relative:
        at, before = np.array(relative).T
        index[at] = before + index[at] + 1
    faces = fans(index - 1, np.array(sizes, dtype=np.int64), name)
    if len(faces) > max_triangles:
        raise too_many(name, len(faces), max_triangles)
    if len(faces):
        check_used(faces, len(places), name)
    return Soup(places, faces, _colours(colours, len(places), name), "OBJ")


def _colours(words: list[bytes], count: int, name: str) -> AnyArray | None:
    """(V, 3) 0 to 255, where every point tells one; written as shares of one."""
    if not words or len(words) != 3 * count:
        return None
    share = numbers(words, name, "a colour").reshape(-1, 3)
    return np.asarray(np.clip(np.rint(share * (255 if share.max() <= 1.0 else 1)), 0, 255), dtype=np.uint8)

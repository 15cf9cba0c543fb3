"""PLY: ASCII and binary of either order, polygons and triangle strips, colours of the points."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from vane_line.core.arrays import AnyArray, Floats, Ints
from vane_line.core.mesh.soup import Soup, check_used, cut_short, fans, not_whole, numbers, too_many
from vane_line.errors import UnreadableScan

TYPES = {
    "char": "i1", "int8": "i1", "uchar": "u1", "uint8": "u1", "short": "i2", "int16": "i2", "ushort": "u2",
    "uint16": "u2", "int": "i4", "int32": "i4", "uint": "u4", "uint32": "u4", "float": "f4", "float32": "f4",
    "double": "f8", "float64": "f8",
}  # fmt: skip
ORDERS = {"binary_little_endian": "<", "binary_big_endian": ">", "ascii": ""}
HEADER_BYTES = 65_536
VALUE = "a value in the PLY file"
MOST_POINTS = 2**53  # what a number with a point spells exactly
INDEX_NAMES = ("vertex_indices", "vertex_index")
COLOUR_NAMES = (("red", "green", "blue"), ("diffuse_red", "diffuse_green", "diffuse_blue"))


@dataclass(frozen=True)
class _Property:
    name: str
    type: str
    count_type: str | None = None  # of a list


@dataclass
class _Element:
    name: str
    count: int
    properties: list[_Property] = field(default_factory=list)

    @property
    def plain(self) -> bool:
        return all(p.count_type is None for p in self.properties)

    def dtype(self, order: str) -> np.dtype:
        return np.dtype([(p.name, order + p.type) for p in self.properties])


def read_ply(data: bytes, name: str, max_triangles: int) -> Soup:
    """Triangles of a PLY file; every element must be there whole."""
    order, elements, body = _header(data, name)
    for element in elements:
        if element.name in ("face", "tristrips") and element.count > max_triangles:
            raise too_many(name, element.count, max_triangles)
    read = _Ascii(data[body:], name) if order == "" else _Binary(data, body, order, name)
    points: AnyArray | None = None
    colours: AnyArray | None = None
    faces: list[Ints] = []
    for element in elements:
        if element.name == "vertex":
            points, colours = _points(read.plain(element), element, name)
        elif element.name == "face":
            corner, sizes = read.lists(element, INDEX_NAMES)
            faces.append(fans(corner, sizes, name))
        elif element.name == "tristrips":
            corner, sizes = read.lists(element, INDEX_NAMES)
            faces.append(_strips(corner, sizes))
        elif element.plain:
            read.plain(element)
        else:
            read.lists(element, ())
    read.finish()
    if points is None:
        raise UnreadableScan(f"{name}: the PLY file has no points; export the scan again.")
    joined = np.concatenate(faces) if faces else np.zeros((0, 3), dtype=np.int64)
    if len(joined) > max_triangles:
        raise too_many(name, len(joined), max_triangles)
    if len(joined):
        check_used(joined, len(points), name)
    return Soup(np.asarray(points, dtype=np.float64), joined, colours, "PLY")


def _header(data: bytes, name: str) -> tuple[str, list[_Element], int]:
    """Byte order ('' for ASCII), elements, and where the body begins."""
    end = data.find(b"end_header", 0, HEADER_BYTES)
    if end < 0:
        raise cut_short(name, "the PLY file's header has no end")
    body = data.find(b"\n", end) + 1
    alone = data.find(b"\r", end)
    if 0 <= alone < body - 2 or body == 0:  # lines that end in a carriage return alone
        body = alone + 1
    if body == 0:
        raise cut_short(name, "the PLY file ends with its header")
    order, elements = None, list[_Element]()
    for line in data[:end].decode("latin-1").replace("\r", "\n").split("\n"):
        words = line.split()
        if not words or words[0] in ("ply", "comment", "obj_info"):
            continue
        try:
            if words[0] == "format":
                order = ORDERS[words[1].lower()]
            elif words[0] == "element":
                elements.append(_Element(words[1], int(words[2])))
            elif words[0] == "property" and words[1] == "list":
                elements[-1].properties.append(_Property(words[4], TYPES[words[3]], TYPES[words[2]]))
            elif words[0] == "property":
                elements[-1].properties.append(_Property(words[2], TYPES[words[1]]))
        except (KeyError, IndexError, ValueError) as error:
            shown = "".join(c for c in line if c.isprintable())[:40]
            raise UnreadableScan(
                f"{name}: the PLY header says '{shown}', which means nothing; export the scan again."
            ) from error
    if order is None or not elements or any(e.count < 0 for e in elements):
        raise UnreadableScan(f"{name}: the PLY header does not say what follows; export the scan again.")
    for e in elements:
        names = [p.name for p in e.properties]
        if len(set(names)) < len(names) or (e.count and not names):
            raise UnreadableScan(f"{name}: the PLY header lists the same property twice, or none; export again.")
    return order, elements, body


def _points(table: AnyArray, element: _Element, name: str) -> tuple[AnyArray, AnyArray | None]:
    names = [p.name for p in element.properties]
    if not {"x", "y", "z"} <= set(names):
        raise UnreadableScan(f"{name}: the PLY file's points have no x, y and z; export the scan again.")
    with np.errstate(invalid="ignore"):  # what is no number is told when the surface is made
        points = np.stack([table[axis].astype(np.float64) for axis in "xyz"], axis=1)
    for three in COLOUR_NAMES:
        if set(three) <= set(names):
            values = np.stack([table[c].astype(np.float64) for c in three], axis=1)
            shares = next(p.type for p in element.properties if p.name == three[0]).startswith("f")
            scaled = np.nan_to_num(values) * (255 if shares else 1)
            return points, np.clip(np.rint(scaled), 0, 255).astype(np.uint8)
    return points, None


def _strips(corner: Ints, sizes: Ints) -> Ints:
    """(F, 3) of triangle strips, parted by -1: every second triangle runs the other way."""
    out = []
    for strip in np.split(corner, np.cumsum(sizes)[:-1]):
        for part in np.split(strip, np.flatnonzero(strip < 0)):
            p = part[part >= 0]
            if len(p) < 3:
                continue
            t = np.stack([p[:-2], p[1:-1], p[2:]], axis=1)
            t[1::2] = t[1::2][:, [1, 0, 2]]
            out.append(t)
    return np.concatenate(out) if out else np.zeros((0, 3), dtype=np.int64)


class _Binary:
    """Reads the body of a binary file, element by element."""

    def __init__(self, data: bytes, at: int, order: str, name: str) -> None:
        self._data, self._at, self._order, self._name = data, at, order, name

    def plain(self, element: _Element) -> AnyArray:
        """A structured array of an element without lists."""
        if not element.plain:
            raise UnreadableScan(f"{self._name}: the PLY file's points hold lists; export the scan again.")
        dtype = element.dtype(self._order)
        self._need(element, element.count * dtype.itemsize)
        table = np.frombuffer(self._data, dtype, element.count, self._at)
        self._at += element.count * dtype.itemsize
        return table

    def lists(self, element: _Element, wanted: tuple[str, ...]) -> tuple[Ints, Ints]:
        """What the wanted list holds, one after the other, and how many of each; other properties are passed over."""
        for size in (3, 4):  # nearly every file holds triangles, or four-sided faces, alone
            fast = self._all_of(element, wanted, size)
            if fast is not None:
                return fast
        kept: list[AnyArray] = []
        sizes: list[int] = []
        types = [(p, np.dtype(self._order + p.type), self._order + (p.count_type or "u1")) for p in element.properties]
        for _ in range(element.count):
            for p, dtype, count_type in types:
                many = 1
                if p.count_type is not None:
                    counter = np.dtype(count_type)
                    self._need(element, counter.itemsize)
                    many = int(np.frombuffer(self._data, counter, 1, self._at)[0])
                    self._at += counter.itemsize
                self._need(element, many * dtype.itemsize)
                if p.name in wanted:
                    kept.append(np.frombuffer(self._data, dtype, many, self._at))
                    sizes.append(many)
                self._at += many * dtype.itemsize
        corner = np.concatenate(kept).astype(np.int64) if kept else np.zeros(0, dtype=np.int64)
        return corner, np.array(sizes, dtype=np.int64)

    def _all_of(self, element: _Element, wanted: tuple[str, ...], size: int) -> tuple[Ints, Ints] | None:
        """The same at once, where every wanted list is of one size and there is no other list."""
        parts: list[tuple[str, str] | tuple[str, str, tuple[int]]] = []
        for p in element.properties:
            if p.count_type is None:
                parts.append((p.name, self._order + p.type))
            elif p.name in wanted:
                parts += [("count of it", self._order + p.count_type), (p.name, self._order + p.type, (size,))]
            else:
                return None
        dtype = np.dtype(parts)
        if "count of it" not in (dtype.names or ()) or self._at + element.count * dtype.itemsize > len(self._data):
            return None
        table = np.frombuffer(self._data, dtype, element.count, self._at)
        if not (table["count of it"] == size).all():
            return None
        self._at += element.count * dtype.itemsize
        index = next(p.name for p in element.properties if p.name in wanted)
        return table[index].astype(np.int64).ravel(), np.full(element.count, size, dtype=np.int64)

    def _need(self, element: _Element, size: int) -> None:
        if size < 0 or self._at + size > len(self._data):
            raise cut_short(self._name, f"the PLY file announces {element.count} of '{element.name[:20]}'")

    def finish(self) -> None:
        """Raises when a good deal is left over."""
        if len(self._data) - self._at > 16:
            raise UnreadableScan(
                f"{self._name}: {len(self._data) - self._at} bytes stand behind what the PLY header announces: it is "
                "damaged; export the scan again."
            )


def _fitted(values: Floats, kind: np.dtype[np.integer]) -> Floats:
    """Values (N,) within what an integer type holds: a colour out of it is no reason to refuse a scan."""
    limits = np.iinfo(kind)
    return np.clip(np.nan_to_num(values), limits.min, limits.max)


class _Ascii:
    """Reads the body of a text file, a line each."""

    def __init__(self, body: bytes, name: str) -> None:
        self._lines = [line for line in body.splitlines() if line.strip()]
        self._at, self._name = 0, name

    def _take(self, element: _Element) -> list[bytes]:
        lines = self._lines[self._at : self._at + element.count]
        if len(lines) < element.count:
            raise cut_short(self._name, f"the PLY file announces {element.count} of '{element.name[:20]}'")
        self._at += element.count
        return lines

    def plain(self, element: _Element) -> AnyArray:
        if not element.plain:
            raise UnreadableScan(f"{self._name}: the PLY file's points hold lists; export the scan again.")
        rows = [line.split() for line in self._take(element)]
        width = len(element.properties)
        if any(len(row) != width for row in rows):
            raise cut_short(self._name, f"a line of '{element.name[:20]}' in the PLY file has not {width} numbers")
        table = np.zeros(element.count, dtype=element.dtype("="))
        flat = numbers([word for row in rows for word in row], self._name, VALUE).reshape(-1, width)
        for k, p in enumerate(element.properties):
            # What is too great for its type is not finite then, and refused with the points.
            with np.errstate(over="ignore"):
                table[p.name] = flat[:, k] if p.type.startswith("f") else _fitted(flat[:, k], table.dtype[p.name])
        return table

    def lists(self, element: _Element, wanted: tuple[str, ...]) -> tuple[Ints, Ints]:
        kept: list[bytes] = []
        sizes: list[int] = []
        for line in self._take(element):
            words = line.split()
            at = 0
            for p in element.properties:
                try:
                    many = int(words[at]) if p.count_type is not None else 1
                except (IndexError, ValueError) as error:
                    raise cut_short(self._name, f"a line of '{element.name[:20]}' in the PLY file is odd") from error
                at += p.count_type is not None
                if many < 0 or at + many > len(words):
                    raise cut_short(self._name, f"a line of '{element.name[:20]}' in the PLY file is too short")
                if p.name in wanted:
                    kept += words[at : at + many]
                    sizes.append(many)
                at += many
        found = numbers(kept, self._name, VALUE)
        if not (np.abs(found) < MOST_POINTS).all() or (found % 1 != 0).any():
            raise not_whole(self._name)
        return found.astype(np.int64), np.array(sizes, dtype=np.int64)

    def finish(self) -> None:
        """Raises when lines are left over."""
        if self._at < len(self._lines):
            raise UnreadableScan(
                f"{self._name}: {len(self._lines) - self._at} lines stand behind what the PLY header announces: it is "
                "damaged; export the scan again."
            )

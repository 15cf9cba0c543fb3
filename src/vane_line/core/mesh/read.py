"""Scan files in: STL (binary, ASCII), PLY, OBJ, also packed as .gz or alone in a .zip. Every failure is one sentence.

A reader returns a triangle soup in the file's own units; `weld` makes a surface of it. The content decides the format.
The readers are our own, strict ones: what a general one passes over (a file cut short, a count that is not kept)
would be measured as if it were the tooth. No regular expression ever sees a file's content.
"""

from __future__ import annotations

import io
import zipfile
import zlib
from pathlib import Path, PurePosixPath

from vane_line.core.mesh.read_obj import looks_like_obj, read_obj
from vane_line.core.mesh.read_ply import read_ply
from vane_line.core.mesh.read_stl import FACE_BYTES, HEAD_BYTES, looks_like_ascii_stl, read_ascii_stl, read_binary_stl
from vane_line.core.mesh.soup import MAX_TRIANGLES, Soup
from vane_line.errors import InputError, ScanTooLarge, UnreadableScan, printable

MAX_BYTES = 400_000_000  # about eight million triangles of binary STL
SCAN_SUFFIXES = (".stl", ".ply", ".obj")
# What else is handed in, by its first bytes or its suffix, and what to do about it.
OTHERS = {
    b"glTF": "a glTF model", b"OFF": "an OFF mesh", b"COFF": "an OFF mesh", b"NOFF": "an OFF mesh", b"%PDF": "a PDF",
    b"ISO-10303": "a STEP drawing", b"\x89PNG": "a picture", b"\xff\xd8\xff": "a picture", b"Rar!": "a RAR archive",
    b"7z\xbc\xaf": "a 7z archive",
}  # fmt: skip
OTHER_SUFFIXES = {".3mf": "a 3MF model", ".gltf": "a glTF model", ".glb": "a glTF model", ".off": "an OFF mesh",
                  ".step": "a STEP drawing", ".stp": "a STEP drawing", ".dcm": "a DICOM file"}  # fmt: skip
EXPORT = "not an STL, PLY or OBJ surface; export the scan as one of these"


def read_soup(data: bytes, name: str, max_bytes: int = MAX_BYTES, max_triangles: int = MAX_TRIANGLES) -> Soup:
    """The triangles of a scan file's bytes; `name` is used for its suffix and in messages.

    Raises UnreadableScan or ScanTooLarge. The content decides the format; the suffix only breaks ties.
    """
    shown = printable(name)
    if len(data) == 0:
        raise UnreadableScan(f"{shown}: the file is empty; export the scan again.")
    if len(data) > max_bytes:
        raise _too_large(shown, len(data), max_bytes)
    try:
        data, suffix = _unpacked(data, name, shown, max_bytes)
        soup = _read(data, suffix, shown, max_triangles)
    except InputError:
        raise
    except MemoryError as error:
        raise ScanTooLarge(f"{shown}: it needs more memory than there is; export a lighter scan.") from error
    except Exception as error:  # malformed bytes may fail in any way: the sentence says what to do
        raise UnreadableScan(f"{shown}: the file is damaged and cannot be read; export the scan again.") from error
    if len(soup.faces) == 0:
        raise UnreadableScan(f"{shown}: there are no triangles in it (a point cloud?); export a surface, not points.")
    if soup.faces.min() < 0 or soup.faces.max() >= len(soup.corners):
        raise UnreadableScan(f"{shown}: triangles refer to points that are not there; export the scan again.")
    return soup


def read_file(path: Path, max_bytes: int = MAX_BYTES, max_triangles: int = MAX_TRIANGLES) -> Soup:
    """As `read_soup`, from a path."""
    shown = printable(str(path))
    try:
        if not path.exists():
            raise UnreadableScan(f"{shown}: there is no such file; check the path.")
        if not path.is_file():
            raise UnreadableScan(f"{shown}: this is not a file; give the path of a scan.")
        size = path.stat().st_size
        if size > max_bytes:
            raise _too_large(shown, size, max_bytes)
        data = path.read_bytes()
    except OSError as error:
        why = error.strerror or "no reason given"
        raise UnreadableScan(f"{shown}: it cannot be read ({why}); check its name and permissions.") from error
    except ValueError as error:  # a null byte in the name
        raise UnreadableScan(f"{shown}: this cannot be a file's name; check the path.") from error
    return read_soup(data, str(path), max_bytes, max_triangles)


def _too_large(shown: str, size: int, limit: int) -> ScanTooLarge:
    return ScanTooLarge(
        f"{shown}: {size / 1e6:.0f} MB is over the limit of {limit / 1e6:.0f} MB; "
        "export a lighter scan or raise the limit."
    )


def _unpacked(data: bytes, name: str, shown: str, max_bytes: int) -> tuple[bytes, str]:
    """The scan's own bytes and the suffix of its name, out of a .gz or a .zip that holds just one."""
    path = PurePosixPath(name.replace("\\", "/"))
    suffix = path.suffix.lower()
    if data[:2] == b"\x1f\x8b":
        unpack = zlib.decompressobj(31)
        try:
            out = unpack.decompress(data, max_bytes + 1)
        except zlib.error as error:
            raise UnreadableScan(f"{shown}: the packed file is damaged; pack or export it again.") from error
        if len(out) > max_bytes:
            raise _too_large(shown, len(out), max_bytes)
        if not unpack.eof:
            raise UnreadableScan(f"{shown}: the packed file is cut short; copy it again.")
        return out, PurePosixPath(path.stem).suffix.lower() if suffix == ".gz" else suffix
    if data[:4] == b"PK\x03\x04":
        return _from_zip(data, suffix, shown, max_bytes)
    return data, suffix


def _from_zip(data: bytes, suffix: str, shown: str, max_bytes: int) -> tuple[bytes, str]:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            names = [i for i in archive.infolist() if not i.is_dir() and not i.filename.startswith("__MACOSX/")]
            if suffix == ".3mf" or any(i.filename.lower().endswith(".model") for i in names):
                raise UnreadableScan(f"{shown}: this is a 3MF model, {EXPORT}.")
            scans = [i for i in names if PurePosixPath(i.filename).suffix.lower() in SCAN_SUFFIXES]
            if len(scans) != 1:
                raise UnreadableScan(
                    f"{shown}: the archive holds {len(scans)} scans; give one with a single STL, PLY or OBJ file in it."
                )
            if scans[0].flag_bits & 1:
                raise UnreadableScan(f"{shown}: the archive is locked with a password; unpack it first.")
            with archive.open(scans[0]) as file:
                out = file.read(max_bytes + 1)
    except (zipfile.BadZipFile, zlib.error, NotImplementedError, EOFError) as error:
        raise UnreadableScan(f"{shown}: the archive is damaged; pack or export it again.") from error
    if len(out) > max_bytes:
        raise _too_large(shown, len(out), max_bytes)
    if len(out) == 0:
        raise UnreadableScan(f"{shown}: the scan in the archive is empty; export it again.")
    return out, PurePosixPath(scans[0].filename).suffix.lower()


def _read(data: bytes, suffix: str, name: str, max_triangles: int) -> Soup:
    text = _as_text(data)
    start = text[:4096].lstrip()
    if start[:3] == b"ply" and start[3:4].isspace():
        return read_ply(text if text is not data else data, name, max_triangles)
    if looks_like_ascii_stl(text):
        return read_ascii_stl(text, name, max_triangles)
    for first, what in OTHERS.items():
        if start.startswith(first):
            raise UnreadableScan(f"{name}: this is {what}, {EXPORT}.")
    if suffix in OTHER_SUFFIXES:
        raise UnreadableScan(f"{name}: this is {OTHER_SUFFIXES[suffix]}, {EXPORT}.")
    if _counts_right(data):
        return read_binary_stl(data, name, max_triangles)
    if suffix == ".obj" or looks_like_obj(text):
        return read_obj(text, name, max_triangles)
    if suffix == ".stl":
        return read_binary_stl(data, name, max_triangles)
    raise UnreadableScan(f"{name}: this is {EXPORT}.")


def _counts_right(data: bytes) -> bool:
    return len(data) >= HEAD_BYTES and len(data) == HEAD_BYTES + FACE_BYTES * int.from_bytes(data[80:84], "little")


def _as_text(data: bytes) -> bytes:
    """The bytes without a byte order mark; text in sixteen bits as eight."""
    if data[:3] == b"\xef\xbb\xbf":
        return data[3:]
    if data[:2] in (b"\xff\xfe", b"\xfe\xff") and b"\0" in data[2:6]:
        return data.decode("utf-16", "replace").encode("utf-8", "replace")
    return data

"""Zips with a manifest of hashes: equal content gives equal bytes, and what comes from elsewhere is opened safely."""

from __future__ import annotations

import hashlib
import io
import json
import zipfile

from vane_line.errors import BadOption

MANIFEST = "manifest.json"
MOST_FILES, MOST_BYTES, MOST_RATIO = 400, 1_000_000_000, 200  # what one may hold, and how tightly it may be packed


def packed(files: dict[str, bytes], schema: str) -> bytes:
    """A zip with a manifest, its entries in order and without dates."""
    rows = [{"name": n, "bytes": len(d), "sha256": hashlib.sha256(d).hexdigest()} for n, d in sorted(files.items())]
    manifest = json.dumps({"schema": schema, "files": rows}, indent=1).encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=6) as file:
        for name, data in [(MANIFEST, manifest), *sorted(files.items())]:
            info = zipfile.ZipInfo(name)
            info.compress_type = zipfile.ZIP_DEFLATED
            file.writestr(info, data)
    return out.getvalue()


def opened(data: bytes, what: str = "package", most_files: int = MOST_FILES) -> dict[str, bytes]:
    """The files of one, whole and as its manifest says; what: how it is called. Raises BadOption with what is wrong."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as file:
            return _checked(file, what, most_files)
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError) as error:
        raise BadOption(f"{what}: this is no zip that can be read; ask for it again.") from error


def _checked(file: zipfile.ZipFile, what: str, most_files: int) -> dict[str, bytes]:
    infos = file.infolist()
    if len(infos) > most_files or sum(i.file_size for i in infos) > MOST_BYTES:
        raise BadOption(f"{what}: more than {most_files} files or {MOST_BYTES // 10**9} GB: not a {what} of ours.")
    for info in infos:
        parts = info.filename.split("/")
        if info.filename.startswith(("/", "\\")) or ".." in parts or ":" in info.filename or "\\" in info.filename:
            raise BadOption(f"{what}: a name in it leads out of it: it was not made by Vane Line.")
        if info.file_size > MOST_RATIO * max(info.compress_size, 1) and info.file_size > 1_000_000:
            raise BadOption(f"{what}: a file in it is packed far too tightly; it is not opened.")
    if MANIFEST not in file.namelist():
        raise BadOption(f"{what}: it has no {MANIFEST}: it was not made by Vane Line.")
    try:
        rows = {str(r["name"]): str(r["sha256"]) for r in json.loads(file.read(MANIFEST))["files"]}
    except (ValueError, KeyError, TypeError) as error:
        raise BadOption(f"{what}: its {MANIFEST} cannot be read; ask for it again.") from error
    if set(rows) != set(file.namelist()) - {MANIFEST}:
        raise BadOption(f"{what}: its files are not those of its {MANIFEST}; ask for it again.")
    found = {name: file.read(name) for name in rows}
    for name, digest in rows.items():
        if hashlib.sha256(found[name]).hexdigest() != digest:
            raise BadOption(f"{what}: {name[:60]} is not as it was packed; ask for it again.")
    return found

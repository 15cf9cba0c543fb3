"""What is to be measured: hand-ins from a folder of scans or from a manifest."""

from __future__ import annotations

import csv
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from vane_line.core.loading import ROLES
from vane_line.errors import BadOption, printable

SUFFIXES = (".stl", ".ply", ".obj", ".stl.gz", ".ply.gz", ".obj.gz", ".zip")
VECTORS = ("occlusal", "facial", "near", "path")
FLAGS = ("root_filled", "dark", "guide_pins")
WORDS = ("tooth", "notation", "restoration", "material", "standard", "units", "opposing_frame", "earlier")
COLUMNS = ("id", *ROLES, *WORDS, *VECTORS, *FLAGS)
LONGEST_FIRST = sorted(ROLES, key=len, reverse=True)  # a role's name may end with another's
NEEDED = ("tooth", "material")
MOST_ID = 80
YES, NO = ("1", "yes", "true"), ("", "0", "no", "false")


@dataclass(frozen=True)
class HandIn:
    """One preparation: its scans by role, and what is asked of it as plain data."""

    id: str
    files: dict[str, Path]
    asked: dict[str, Any] = field(default_factory=dict)


def found(source: Path, asked: dict[str, Any], shared: dict[str, Path]) -> list[HandIn]:
    """Of a folder or of a manifest. asked: of all that say nothing else; shared: scans of all that bring none.

    Raises BadOption that says which row or file, and what to do.
    """
    rows = _manifest(source) if source.is_file() else _folder(source)
    out = [HandIn(h.id, {**shared, **h.files}, {**asked, **h.asked}) for h in rows]
    for h in out:
        missing = [name for name in NEEDED if not h.asked.get(name)]
        if missing:
            raise BadOption(f"{h.id}: {' and '.join(missing)} is not said; give it in the manifest or as an option.")
    return out


def _folder(folder: Path) -> list[HandIn]:
    """Files called <id>_<role>.<suffix>, or <id>.<suffix> for a preparation alone."""
    if not folder.is_dir():
        raise BadOption(f"{printable(str(folder))}: there is no such folder or manifest; check the path.")
    by_id: dict[str, dict[str, Path]] = {}
    for path in sorted(folder.iterdir()):
        suffix = next((s for s in sorted(SUFFIXES, key=len, reverse=True) if path.name.lower().endswith(s)), None)
        if suffix is None or not path.is_file():
            continue
        stem = path.name[: -len(suffix)]
        role = next((r for r in LONGEST_FIRST if stem.endswith(f"_{r}") and len(stem) > len(r) + 1), "")
        name, role = (stem[: -len(role) - 1], role) if role else (stem, "prep")
        if role in by_id.setdefault(name, {}):
            raise BadOption(f"{printable(name)}: there are two {role} scans of it; keep one.")
        by_id[name][role] = path
    whole = {name: files for name, files in by_id.items() if "prep" in files}
    if not whole:
        raise BadOption(
            f"{printable(str(folder))}: no scan of a preparation is in it; name them <id>_prep.stl, or <id>.stl."
        )
    return [HandIn(printable(name)[:MOST_ID], files) for name, files in whole.items()]


def _manifest(path: Path) -> list[HandIn]:
    """A CSV (RFC 4180) with a header; paths are relative to it."""
    shown = printable(str(path))
    try:
        text = path.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        raise BadOption(f"{shown}: it cannot be read as a CSV in UTF-8; export it again.") from error
    reader = csv.DictReader(text.splitlines())
    unknown = set(reader.fieldnames or []) - set(COLUMNS)
    if not {"id", "prep"} <= set(reader.fieldnames or []):
        raise BadOption(f"{shown}: a manifest needs the columns id and prep; others are {', '.join(COLUMNS[2:])}.")
    if unknown:
        raise BadOption(
            f"{shown}: there is no column {', '.join(sorted(map(str, unknown)))}; use {', '.join(COLUMNS)}."
        )
    out: dict[str, HandIn] = {}
    for number, row in enumerate(reader, start=2):
        told = {k: (v or "").strip() for k, v in row.items() if k is not None}
        hand_in = _row(told, path.parent, f"line {number}")
        if hand_in.id in out:
            raise BadOption(f"{shown}, line {number}: {hand_in.id} stands there twice; give each an id of its own.")
        out[hand_in.id] = hand_in
    if not out:
        raise BadOption(f"{shown}: there is nothing in it below its header.")
    return list(out.values())


def _row(row: dict[str, str], folder: Path, where: str) -> HandIn:
    if not row["id"] or not row["prep"] or len(row["id"]) > MOST_ID or "/" in row["id"] or row["id"].startswith("."):
        raise BadOption(f"{where}: give an id without slashes, at most {MOST_ID} letters, and a prep scan.")
    files = {role: folder / row[role] for role in ROLES if row.get(role)}
    asked: dict[str, Any] = {name: row[name] for name in WORDS if row.get(name)}
    for name in VECTORS:
        if row.get(name):
            try:
                asked[name] = [float(v) for v in row[name].replace(";", ",").split(",")]
            except ValueError as error:
                raise BadOption(f"{where}: {name} has to be three numbers, X,Y,Z.") from error
    for name in FLAGS:
        if row.get(name, "").lower() not in (*YES, *NO):
            raise BadOption(f"{where}: {name} has to be yes or no.")
        if row.get(name, "").lower() in YES:
            asked[name] = True
    return HandIn(row["id"], files, asked)

"""The whole store in one file, and back: a zip of the database with a manifest of its hash, checked on both ways.

Taken while the program runs, by SQLite's own online backup. Nothing is half written: a file has its name only once it
is whole and was read again.
"""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import sqlite3
import time
import zipfile
from collections.abc import Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, cast

from vane_line.errors import BadOption, StoreError
from vane_line.store import blobs
from vane_line.store.database import MIGRATIONS, Database, now

SCHEMA = "vane-line/backup/1"
STORE, MANIFEST = "store.sqlite", "manifest.json"
PREFIX, SUFFIX, PART = "vane-line-", ".backup.zip", ".part"
CHUNK_BYTES = 1 << 20
LONGEST_S = 86_400.0
MOST_MANIFEST_BYTES = 100_000
NOT_OURS = "{0}: this is no backup that Vane Line made; give a file that ends in {1}."
BROKEN = "{0}: it is damaged ({1}); take an earlier backup."


@dataclass(frozen=True)
class Kept:
    """A backup: its file, when it was made, how large the store is, and how many cases are in it."""

    path: Path
    made_at: str
    size: int
    cases: int


def back_up(db: Database, folder: Path, keep: int | None = None, at: datetime | None = None) -> Kept:
    """The store as one file in `folder`; of the backups there the newest `keep` stay. Raises StoreError."""
    when = (at or datetime.now(UTC)).strftime("%Y%m%d-%H%M%S")
    path = folder / f"{PREFIX}{when}{SUFFIX}"
    copy, part = path.with_name(path.name + ".sqlite" + PART), path.with_name(path.name + PART)
    try:
        folder.mkdir(parents=True, exist_ok=True)
        _copied(db, copy)
        manifest = _manifest(copy)
        with zipfile.ZipFile(part, "w", zipfile.ZIP_STORED, allowZip64=True) as file:  # its bytes are packed already
            file.writestr(MANIFEST, json.dumps(manifest, indent=1))
            file.write(copy, STORE)
        verify(part)
        _on_disk(part)
        part.replace(path)
    except (OSError, sqlite3.Error) as error:
        raise StoreError(f"{folder}: the backup could not be written ({error}); the store is unchanged.") from error
    finally:
        for rest in (copy, part):
            rest.unlink(missing_ok=True)
    for old in (*(backups(folder)[keep:] if keep else ()), *_left_over(folder)):
        old.unlink(missing_ok=True)
    return Kept(path, manifest["made_at"], manifest["bytes"], manifest["rows"]["cases"])


def backups(folder: Path) -> list[Path]:
    """Of a folder, the newest first; what else lies there is left alone."""
    return sorted(folder.glob(f"{PREFIX}*{SUFFIX}"), key=lambda p: p.name, reverse=True)


def _left_over(folder: Path) -> list[Path]:
    """What a backup left half written that was killed long ago: none takes so long."""
    return [p for p in folder.glob(f"{PREFIX}*{PART}") if time.time() - p.stat().st_mtime > LONGEST_S]


def _on_disk(path: Path) -> None:
    """Wait until a file's bytes are on the disk: only then does it get the name that others trust."""
    with path.open("rb") as file:
        os.fsync(file.fileno())


def verify(path: Path) -> dict[str, Any]:
    """The manifest of a backup whose bytes are those that were written. Raises BadOption with what is wrong."""
    with _opened(path) as (manifest, store):
        if hashlib.file_digest(store, "sha256").hexdigest() != manifest["sha256"]:
            raise BadOption(BROKEN.format(path.name, "its bytes are not those that were written"))
    return manifest


def restore(path: Path, database: Path, replace: bool = False) -> Kept:
    """A backup as the store at `database`. One that holds cases is only replaced with `replace`, and then put aside.

    Nobody may have it open meanwhile. Raises BadOption with what is wrong; the store that was there is then unchanged.
    """
    manifest = verify(path)
    newer = set(manifest["migrations"]) - {int(p.name[:4]) for p in MIGRATIONS.glob("*.sql")}
    if newer:
        raise BadOption(f"{path.name}: it was made by a newer version of Vane Line; install that one first.")
    if not replace and _holds_cases(database):
        raise BadOption(f"{database}: there are cases in this store; say --replace, and it is put aside.")
    part = database.with_name(database.name + PART)
    try:
        database.parent.mkdir(parents=True, exist_ok=True)
        if shutil.disk_usage(database.parent).free < 1.1 * manifest["bytes"]:
            raise BadOption(f"{database.parent}: too little room on the disk for {manifest['bytes'] // 10**6} MB.")
        with _opened(path) as (_, store), part.open("wb") as out:
            shutil.copyfileobj(store, out, CHUNK_BYTES)
        _check_store(part, path.name)
        _on_disk(part)
        if database.exists():
            aside = database.with_name(f"{database.name}.before-{datetime.now(UTC):%Y%m%d-%H%M%S}")
            _fold(database)
            database.replace(aside)
        part.replace(database)
    except (OSError, sqlite3.Error) as error:
        raise StoreError(f"{database}: it could not be restored ({error}).") from error
    finally:
        part.unlink(missing_ok=True)
    return Kept(path, manifest["made_at"], manifest["bytes"], manifest["rows"]["cases"])


def _copied(db: Database, copy: Path) -> None:
    """By a connection of its own: who works meanwhile waits for nothing."""
    source = db.connection.execute("PRAGMA database_list").fetchone()["file"]
    with (
        closing(sqlite3.connect(f"{Path(source).as_uri()}?mode=ro", uri=True)) as one,
        closing(sqlite3.connect(copy)) as to,
    ):
        one.backup(to, pages=4096)
        to.execute("PRAGMA journal_mode = DELETE")
    _check_store(copy, copy.name)


def _manifest(store: Path) -> dict[str, Any]:
    with closing(sqlite3.connect(store)) as db, store.open("rb") as data:
        tables = [r[0] for r in db.execute("SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY name")]
        return {
            "schema": SCHEMA, "made_at": now(), "bytes": store.stat().st_size,
            "sha256": hashlib.file_digest(data, "sha256").hexdigest(),
            "migrations": [r[0] for r in db.execute("SELECT number FROM migrations ORDER BY number")],
            "rows": {t: db.execute(f'SELECT count(*) FROM "{t}"').fetchone()[0] for t in tables},
        }  # fmt: skip


def _check_store(path: Path, name: str) -> None:
    """SQLite's own check, and every stored scan against its hash. Raises BadOption."""
    with closing(Database(path, read_only=True)) as db:
        told = db.rows("PRAGMA integrity_check")[0][0]
        if told != "ok":
            raise BadOption(BROKEN.format(name, told))
        for row in db.rows("SELECT hash FROM blobs"):
            try:
                whole = hashlib.sha256(blobs.get(db, row["hash"])).hexdigest() == row["hash"]
            except StoreError:
                whole = False
            if not whole:
                raise BadOption(BROKEN.format(name, "a scan in it is not what was stored"))


def _holds_cases(database: Path) -> bool:
    if not database.exists():
        return False
    try:
        with closing(sqlite3.connect(f"{database.resolve().as_uri()}?mode=ro", uri=True)) as db:
            return bool(db.execute("SELECT count(*) FROM cases").fetchone()[0])
    except sqlite3.Error:
        return True  # whatever it is, it is not taken away without a word


def _fold(database: Path) -> None:
    """What lies in the journal beside it, brought into the file."""
    try:
        with closing(sqlite3.connect(database)) as db:
            db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    except sqlite3.DatabaseError:
        return  # no database any more: it is put aside as it is
    for beside in ("-wal", "-shm"):
        database.with_name(database.name + beside).unlink(missing_ok=True)


@contextmanager
def _opened(path: Path) -> Iterator[tuple[dict[str, Any], zipfile.ZipExtFile]]:
    """Its manifest and its store to read. Raises BadOption where it is no backup."""
    try:
        with zipfile.ZipFile(path) as file:
            known = sorted(file.namelist()) == [MANIFEST, STORE]
            if not known or file.getinfo(MANIFEST).file_size > MOST_MANIFEST_BYTES:
                raise BadOption(NOT_OURS.format(path.name, SUFFIX))
            manifest = json.loads(file.read(MANIFEST))
            if not isinstance(manifest, dict) or manifest.get("schema") != SCHEMA:
                raise BadOption(NOT_OURS.format(path.name, SUFFIX))
            if file.getinfo(STORE).file_size != manifest["bytes"]:
                raise BadOption(BROKEN.format(path.name, "its length is not the one that was written"))
            with file.open(STORE) as store:
                yield manifest, cast(zipfile.ZipExtFile, store)
    except FileNotFoundError as error:
        raise BadOption(f"{path}: there is no such file.") from error
    except (zipfile.BadZipFile, EOFError, ValueError, KeyError, NotImplementedError) as error:
        raise BadOption(NOT_OURS.format(path.name, SUFFIX)) from error

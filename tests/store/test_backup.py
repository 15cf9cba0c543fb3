"""The store as one file and back: same bytes, whatever happens on the way."""

from __future__ import annotations

import json
import os
import sqlite3
import threading
import time
import zipfile
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from vane_line.cli.main import main
from vane_line.errors import BadOption, StoreError
from vane_line.service.keeping import Keeper
from vane_line.store import backup, blobs, cases
from vane_line.store.backup import LONGEST_S, MANIFEST, STORE, back_up, backups, restore, verify
from vane_line.store.database import Database

NINE = datetime(2026, 11, 27, 9, 0, tzinfo=UTC)
SCAN = bytes(range(256)) * 9000


@pytest.fixture
def db(tmp_path: Path) -> Database:
    made = Database(tmp_path / "data" / "vane-line.sqlite")
    cases.add_case(made, "SM-0801")
    blobs.put(made, SCAN)
    return made


def content(database: Path) -> dict[str, list[tuple[object, ...]]]:
    """Every row of every table."""
    with closing(sqlite3.connect(database)) as one:
        tables = [r[0] for r in one.execute("SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY name")]
        return {t: sorted(one.execute(f'SELECT * FROM "{t}"').fetchall(), key=repr) for t in tables}


def test_restored_on_an_empty_machine_everything_is_there(db: Database, tmp_path: Path) -> None:
    """Row by row, and the scans by their hashes."""
    kept = back_up(db, tmp_path / "kept", at=NINE)
    assert kept.path.name == "vane-line-20261127-090000.backup.zip"
    assert kept.cases == 1
    there = tmp_path / "elsewhere" / "vane-line.sqlite"
    restore(kept.path, there)
    assert content(there) == content(tmp_path / "data" / "vane-line.sqlite")
    again = Database(there)
    assert [c.code for c in cases.list_cases(again)] == ["SM-0801"]
    (row,) = again.rows("SELECT hash FROM blobs")
    assert blobs.get(again, row["hash"]) == SCAN
    assert not list((tmp_path / "kept").glob("*.part"))


def test_taken_while_somebody_writes(db: Database, tmp_path: Path) -> None:
    """Whatever is acknowledged before it began is in it, and it is whole."""
    stop = threading.Event()

    def write() -> None:
        number = 0
        while not stop.is_set():
            number += 1
            cases.add_case(db, f"SM-{1000 + number}")

    writer = threading.Thread(target=write)
    writer.start()
    try:
        before = len(cases.list_cases(db))
        kept = back_up(db, tmp_path / "kept")
    finally:
        stop.set()
        writer.join()
    assert kept.cases >= before
    restore(kept.path, tmp_path / "b" / "vane-line.sqlite")


def test_the_newest_stay_and_what_else_lies_there_too(db: Database, tmp_path: Path) -> None:
    """Three of five; a letter in the same folder is nobody's to delete."""
    folder = tmp_path / "kept"
    folder.mkdir()
    (folder / "letter.zip").write_bytes(b"mine")
    for day in range(5):
        back_up(db, folder, keep=3, at=NINE + timedelta(days=day))
    assert [p.name[10:18] for p in backups(folder)] == ["20261201", "20261130", "20261129"]
    assert (folder / "letter.zip").exists()


def test_on_a_schedule(db: Database, tmp_path: Path) -> None:
    """One at once, none before the time is up, then the next."""
    keeper = Keeper(db, tmp_path / "kept", timedelta(hours=24), keep=2)
    assert keeper.look(NINE) is not None
    assert keeper.look(NINE + timedelta(hours=23)) is None
    assert keeper.look(NINE + timedelta(hours=24)) is not None
    assert len(backups(tmp_path / "kept")) == 2


def test_a_store_with_cases_is_put_aside_and_never_lost(db: Database, tmp_path: Path) -> None:
    """Refused first; then replaced, and the old one lies beside it."""
    kept = back_up(db, tmp_path / "kept", at=NINE)
    database = tmp_path / "data" / "vane-line.sqlite"
    cases.add_case(db, "SM-0802")
    db.close()
    with pytest.raises(BadOption, match="--replace"):
        restore(kept.path, database)
    restore(kept.path, database, replace=True)
    assert [c.code for c in cases.list_cases(Database(database))] == ["SM-0801"]
    (aside,) = database.parent.glob("vane-line.sqlite.before-*")
    assert len(content(aside)["cases"]) == 2


def changed(path: Path, **files: bytes | None) -> Path:
    """A backup with files of it put otherwise; None takes one out."""
    out = path.with_name("other.backup.zip")
    with zipfile.ZipFile(path) as old, zipfile.ZipFile(out, "w") as new:
        for name in old.namelist():
            data = files.get(name.split(".")[0], old.read(name))
            if data is not None:
                new.writestr(name, data)
    return out


def test_what_is_damaged_or_strange_is_refused_and_nothing_changes(db: Database, tmp_path: Path) -> None:
    """Another zip, a cut one, a turned bit, another length, one of a newer version."""
    path = back_up(db, tmp_path / "kept", at=NINE).path
    there = tmp_path / "new" / "vane-line.sqlite"
    with zipfile.ZipFile(path) as file:
        manifest, store = json.loads(file.read(MANIFEST)), bytearray(file.read(STORE))
    turned = store.copy()
    turned[len(turned) // 2] ^= 1
    cut = path.with_name("cut.backup.zip")
    cut.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
    newer = json.dumps(manifest | {"migrations": [*manifest["migrations"], 9999]}).encode()
    for wrong, words in (
        (changed(path, manifest=None), "no backup"), (cut, "no backup"),
        (tmp_path / "none.backup.zip", "no such file"),
    ):  # fmt: skip
        with pytest.raises(BadOption, match=words):
            restore(wrong, there)
    for parts, words in (
        ({"store": bytes(turned)}, "not those that were written"), ({"store": bytes(store[:-4096])}, "length"),
        ({"manifest": b"{}"}, "no backup"), ({"manifest": newer}, "newer version"),
    ):  # fmt: skip
        with pytest.raises(BadOption, match=words):
            restore(changed(path, **parts), there)  # type: ignore[arg-type]
    assert not there.parent.exists() or not list(there.parent.iterdir())
    verify(path)


def test_a_scan_that_is_not_what_was_stored_is_found(db: Database, tmp_path: Path) -> None:
    """A chunk that rotted in the store: the backup is not made, and says so."""
    db.run("UPDATE chunks SET data = (SELECT data FROM chunks ORDER BY number DESC LIMIT 1) WHERE number = 0")
    with pytest.raises(BadOption, match="a scan in it"):
        back_up(db, tmp_path / "kept")
    assert not list((tmp_path / "kept").iterdir())


def test_a_chunk_that_cannot_be_read_is_said(db: Database, tmp_path: Path) -> None:
    """Bits turned inside a compressed chunk: no traceback, no backup; asked for, the scan says that it is damaged."""
    digest = str(db.rows("SELECT hash FROM chunks")[0]["hash"])
    db.run("UPDATE chunks SET data = x'00ff00ff' WHERE hash = ?", digest)
    with pytest.raises(BadOption, match="a scan in it"):
        back_up(db, tmp_path / "kept")
    with pytest.raises(StoreError, match="damaged on this disk"):
        blobs.get(db, digest)


def test_a_full_disk_leaves_no_half_file(db: Database, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Said in words; what was there stays."""

    def full(*_: object, **__: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(backup.zipfile.ZipFile, "write", full)
    with pytest.raises(StoreError, match="No space left"):
        back_up(db, tmp_path / "kept")
    assert not list((tmp_path / "kept").iterdir())


def test_what_a_killed_backup_left_goes_with_the_next(db: Database, tmp_path: Path) -> None:
    """Not what another is writing just now."""
    folder = tmp_path / "kept"
    folder.mkdir()
    old, fresh = (folder / f"vane-line-2026112{k}-090000.backup.zip.part" for k in (5, 7))
    for path in (old, fresh):
        path.write_bytes(b"half")
    two_days_ago = time.time() - 2 * LONGEST_S
    os.utime(old, (two_days_ago, two_days_ago))
    back_up(db, folder, at=NINE + timedelta(hours=1))
    assert not old.exists()
    assert fresh.exists()
    assert len(backups(folder)) == 1


def test_by_command(db: Database, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """Backed up, restored elsewhere, refused where cases are."""
    data, kept = str(tmp_path / "data"), tmp_path / "kept"
    assert main(["backup", "--data", data, "--to", str(kept), "--keep", "2"]) == 0
    assert "1 cases" in capsys.readouterr().out
    (path,) = backups(kept)
    assert main(["restore", str(path), "--data", str(tmp_path / "other")]) == 0
    assert main(["restore", str(path), "--data", data]) == 2
    assert "--replace" in capsys.readouterr().err
    assert main(["backup", "--data", str(tmp_path / "empty"), "--to", str(kept)]) == 2
    assert not (tmp_path / "empty").exists()

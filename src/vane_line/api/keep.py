"""The store in one file and back, as the command line asks for it; answers are sentences."""

from __future__ import annotations

from pathlib import Path

from vane_line.api.settings import Settings
from vane_line.errors import BadOption
from vane_line.store import backup
from vane_line.store.database import Database

MB = 1_000_000


def back_up(data: str | None, to: str, keep: int | None) -> str:
    """The store of a data folder as one file in the folder `to`. Raises BadOption, StoreError."""
    if keep is not None and keep < 1:
        raise BadOption("keep: give 1 or more.")
    store = Database(existing(data), read_only=True)  # left as it is, of whatever version
    kept = backup.back_up(store, Path(to), keep)
    return f"{kept.path}: {kept.cases} cases, {kept.size / MB:.1f} MB, read again and whole."


def restore(data: str | None, file: str, replace: bool) -> str:
    """A backup as the store of a data folder. Raises BadOption, StoreError."""
    database = _database(data)
    kept = backup.restore(Path(file), database, replace)
    return f"{database}: {kept.cases} cases as of {kept.made_at}, every scan as its hash says."


def existing(data: str | None) -> Path:
    """The store of a data folder. Raises BadOption where there is none."""
    database = _database(data)
    if not database.exists():
        raise BadOption(f"{database}: there is no store there; say where with --data.")
    return database


def _database(data: str | None) -> Path:
    return (Settings(data=Path(data)) if data else Settings()).database

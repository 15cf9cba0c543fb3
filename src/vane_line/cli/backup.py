"""`vane-line backup` and `vane-line restore`: the whole store in one file, and back."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from vane_line.errors import BadOption

MB = 1_000_000


def add_parser(commands: Any) -> None:
    p = commands.add_parser("backup", help="write the whole store as one file, also while the server runs")
    p.add_argument("--to", required=True, help="folder for the backup")
    p.add_argument("--data", default=None, help="folder of the database")
    p.add_argument("--keep", type=int, default=None, help="how many of the newest backups stay (default: all)")
    p.set_defaults(run=run_backup)
    p = commands.add_parser("restore", help="make a backup the store again; the server must not run")
    p.add_argument("file", help="a backup")
    p.add_argument("--data", default=None, help="folder of the database")
    p.add_argument("--replace", action="store_true", help="also where there are cases: that store is put aside")
    p.set_defaults(run=run_restore)


def run_backup(args: argparse.Namespace) -> int:
    from vane_line.store.backup import back_up
    from vane_line.store.database import Database

    if args.keep is not None and args.keep < 1:
        raise BadOption("keep: give 1 or more.")
    database = _database(args.data)
    if not database.exists():
        raise BadOption(f"{database}: there is no store there; say where with --data.")
    kept = back_up(Database(database), Path(args.to), args.keep)
    print(f"{kept.path}: {kept.cases} cases, {kept.size / MB:.1f} MB, read again and whole.")
    return 0


def run_restore(args: argparse.Namespace) -> int:
    from vane_line.store.backup import restore

    database = _database(args.data)
    kept = restore(Path(args.file), database, args.replace)
    print(f"{database}: {kept.cases} cases as of {kept.made_at}, every scan as its hash says.")
    return 0


def _database(data: str | None) -> Path:
    from vane_line.api.settings import Settings

    return (Settings(data=Path(data)) if data else Settings()).database

"""`vane-line backup` and `vane-line restore`: the whole store in one file, and back."""

from __future__ import annotations

import argparse
from typing import Any


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
    from vane_line.api.keep import back_up

    print(back_up(args.data, args.to, args.keep))
    return 0


def run_restore(args: argparse.Namespace) -> int:
    from vane_line.api.keep import restore

    print(restore(args.data, args.file, args.replace))
    return 0

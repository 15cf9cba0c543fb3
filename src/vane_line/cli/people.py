"""`vane-line people`: who may sign in, and a new password where one is lost; on the machine that keeps the store."""

from __future__ import annotations

import argparse
import getpass
import sys
from typing import Any


def add_parser(commands: Any) -> None:
    p = commands.add_parser("people", help="list who may sign in, or give somebody a new password")
    p.add_argument("--data", default=None, help="folder of the database")
    p.add_argument("--password", metavar="NAME", help="ask for a new password of this person")
    p.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    from vane_line.api.people_here import listed, renewed

    if args.password is None:
        print("\n".join(listed(args.data)) or "Nobody yet: whoever listens wider first becomes the owner.")
        return 0
    given = getpass.getpass("New password: ") if sys.stdin.isatty() else sys.stdin.readline().rstrip("\n")
    print(renewed(args.data, args.password, given))
    return 0

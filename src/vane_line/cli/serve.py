"""`vane-line serve`: the web application, on this machine only unless told otherwise."""

from __future__ import annotations

import argparse
from typing import Any


def add_parser(commands: Any) -> None:
    p = commands.add_parser("serve", help="start the web application")
    p.add_argument("--host", default=None, help="address to listen on (default 127.0.0.1)")
    p.add_argument("--port", type=int, default=None)
    p.add_argument("--data", default=None, help="folder of the database")
    p.add_argument("--demo", action="store_true", help="fill an empty database with the Saltmarsh demo")
    p.add_argument("--backup", default=None, help="folder to back the store up into, once a day; 14 are kept")
    p.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    from vane_line.api.run import serve

    return serve(args.host, args.port, args.data, args.demo, args.backup)

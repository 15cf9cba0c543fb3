"""`vane-line scanner`: the simulated scanner drops a demo scan into the watched folder, as a real one would."""

from __future__ import annotations

import argparse
import os
import tempfile
from pathlib import Path
from typing import Any


def add_parser(commands: Any) -> None:
    p = commands.add_parser("scanner", help="simulated scanner: drop a demo scan into the watched folder")
    p.add_argument("--case", default="SM-0147", help="code of a demo case")
    p.add_argument("--attempt", type=int, default=2, help="which of its passes is scanned")
    p.add_argument("--to", default="data/inbox", help="the folder that is watched")
    p.add_argument("--part", action="store_true", help="scan only the tooth and the neighbour behind it")
    p.add_argument("--grid", type=float, default=0.16, help="how fine it scans, mm")
    p.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    from vane_line.core.mesh.write import write_surface
    from vane_line.demo.saltmarsh import SALTMARSH, partial, scans_of
    from vane_line.errors import BadOption

    case = next((c for c in SALTMARSH if c.code == args.case), None)
    if case is None:
        raise BadOption(f"--case {args.case}: use one of {', '.join(c.code for c in SALTMARSH)}.")
    if not 1 <= args.attempt <= len(case.attempts):
        raise BadOption(f"--attempt {args.attempt}: this case has {len(case.attempts)}.")
    folder = Path(args.to)
    if not folder.is_dir():
        raise BadOption(f"--to {folder}: there is no such folder; start the application first, it makes it.")
    made = scans_of(args.case, args.attempt - 1, args.grid)
    surface = made.surfaces["prep"]
    if args.part:
        surface = partial(surface, made)
    name = f"{args.case}_prep_{os.getpid()}.stl"
    # Written beside and moved in whole: the folder's watcher never sees half a file.
    with tempfile.TemporaryDirectory(dir=folder) as part:
        write_surface(Path(part) / name, surface)
        (Path(part) / name).rename(folder / name)
    print(f"{folder / name}")
    return 0

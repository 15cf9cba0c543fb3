"""`vane-line demo`: make the Saltmarsh demo scans as files (and be the simulated scanner)."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

MOST_PUPILS = 999
# Here too, to say them in no time.
TEETH = ("36", "46", "47", "32", "15", "14", "21", "24", "26", "12", "22", "55", "51", "35")


def add_parser(commands: Any) -> None:
    p = commands.add_parser("demo", help="make demo scan files")
    p.add_argument("--out", default="demo-scans", help="folder for the files")
    p.add_argument("--case", default="36", choices=TEETH, help="which demo case")
    p.add_argument("--attempt", type=int, default=1, choices=[1, 2])
    p.add_argument("--class", type=int, default=0, metavar="N", dest="pupils",
                   help="instead of a case: one tooth cut by N students, each with faults of its own")  # fmt: skip
    p.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    if args.pupils:
        return _class(Path(args.out), args.pupils)

    from vane_line.demo.cases import make_case, write_case
    from vane_line.demo.saltmarsh import SALTMARSH
    from vane_line.errors import BadOption

    recipes = next(c for c in SALTMARSH if c.tooth == args.case).attempts
    if args.attempt > len(recipes):
        raise BadOption(f"--attempt {args.attempt}: this case has {len(recipes)}; give a smaller number.")
    case = make_case(recipes[args.attempt - 1](), lambda text: print(f"  {text} …", flush=True))
    for role, path in write_case(case, Path(args.out)).items():
        print(f"{role}: {path}")
    return 0


def _class(folder: Path, count: int) -> int:
    from vane_line.demo.classroom import GRID_MM, write_class
    from vane_line.errors import BadOption

    if not 1 <= count <= MOST_PUPILS:
        raise BadOption(f"--class {count}: give 1 to {MOST_PUPILS} students.")
    written = write_class(folder, count, GRID_MM, lambda text: print(f"  {text}", flush=True))
    print(f"{len(written)} scans in {folder}: hand in all that end in _prep; the others are the exercise's case.")
    return 0

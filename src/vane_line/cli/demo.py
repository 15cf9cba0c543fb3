"""`vane-line demo`: make the Saltmarsh demo scans as files (and be the simulated scanner)."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any


def add_parser(commands: Any) -> None:
    p = commands.add_parser("demo", help="make demo scan files")
    p.add_argument("--out", default="demo-scans", help="folder for the files")
    p.add_argument("--case", default="36", choices=["36", "46", "47", "32", "15", "14", "21"], help="which demo case")
    p.add_argument("--attempt", type=int, default=1, choices=[1, 2])
    p.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
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

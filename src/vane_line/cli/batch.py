"""`vane-line batch`: a folder of hand-ins or a manifest (docs/batch.md)."""

from __future__ import annotations

import argparse
import os
import sys
from pathlib import Path
from typing import Any

from vane_line.cli.measure import KINDS, MATERIALS
from vane_line.errors import BadOption

ABOUT = """Measures many preparations: a folder with <id>_prep.stl (and _preop, _opposing, _mockup), or a manifest.csv
with the columns id and prep and any of the others. What was done before is not done again. Exit 0: all were answered,
2: bad usage, 4: some were refused or failed; failed.csv says which and why."""
SOME_FAILED = 4
SHARED = ("preop", "mockup", "opposing", "opposing_before")


def add_parser(commands: Any) -> None:
    """Declare the options of `batch`."""
    p = commands.add_parser("batch", help="measure many preparations", description=ABOUT, allow_abbrev=False)
    p.add_argument("source", metavar="FOLDER|MANIFEST.csv")
    p.add_argument("--out", required=True, metavar="DIR", help="for documents, verdicts.parquet, .csv, results.json")
    p.add_argument("--workers", type=int, metavar="N", help="processes of this machine (default: one a core)")
    p.add_argument("--scheduler", metavar="ADDRESS", help="a Dask scheduler instead, such as tcp://10.0.0.5:8786")
    for role in SHARED:
        p.add_argument(f"--{role}", metavar="FILE", help=f"{role} scan of all that bring none")
    p.add_argument("--tooth", metavar="NUMBER", help="of all that say none")
    p.add_argument("--notation", choices=["fdi", "universal"], help="of the teeth (default: fdi)")
    p.add_argument("--restoration", metavar="KIND", help=KINDS)
    p.add_argument("--material", metavar="NAME", help=", ".join(MATERIALS))
    p.add_argument("--standard", metavar="ID", help="id of a standard (its file's name); else the material's default")
    p.add_argument("--units", choices=["mm", "cm", "m", "in", "auto"], help="of all files")
    p.add_argument("--opposing-frame", choices=["prep", "preop"], help="of the opposing scans (default: prep)")
    p.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Measure, tell how it goes on a terminal, and say how many were answered."""
    if args.workers is not None and not 1 <= args.workers <= 256:
        raise BadOption(f"--workers {args.workers}: give a number from 1 to 256.")
    from vane_line.batch import run as batch
    from vane_line.batch.hand_in import WORDS, found
    from vane_line.batch.one import MEASURED

    asked = {name: getattr(args, name, None) for name in WORDS if getattr(args, name, None)}
    shared = {role: Path(value) for role in SHARED if (value := getattr(args, role)) is not None}
    hand_ins = found(Path(args.source), asked, shared)
    terminal = sys.stderr.isatty()

    def told(done: int, of: int, left_s: float | None) -> None:
        if terminal:
            rest = "" if left_s is None else f", {_span(left_s)} left"
            print(f"\r{done} of {of}{rest:<24}", end="", file=sys.stderr, flush=True)

    try:
        with batch.cluster(args.workers or os.cpu_count() or 1, args.scheduler) as client:
            counts = batch.run(hand_ins, Path(args.out), client, told)
    except KeyboardInterrupt:
        print("vane-line: stopped; what was measured stays, and the next run goes on from there.", file=sys.stderr)
        return 130
    if terminal:
        print(file=sys.stderr)
    said = ", ".join(f"{n} {status}" for status, n in sorted(counts.items()))
    print(f"{len(hand_ins)} preparations: {said}. Tables in {args.out}. The dentist decides.")
    return 0 if counts.get(MEASURED, 0) == len(hand_ins) else SOME_FAILED


def _span(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 90 else f"{seconds / 60:.0f} min"

"""`vane-line measure`: the contract's command (docs/contract.md)."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from vane_line.core.facts import FACTS
from vane_line.core.whole import write_whole
from vane_line.errors import BadOption, printable

MEANINGS = ("natural", "old-crown", "copied-crown", "short")  # as core.tooth.earlier, which is slow to import
UNTRUSTED = 3
REPORTS = (".pdf", ".html")
ABOUT = """Measures a preparation, and holds it against a material's standard. Exit 0: measured, whatever the verdicts.
2: unusable input. 3: measured, but the scans do not fit together well enough; what depends on that is null."""
MATERIALS = (
    "full-metal", "metal-ceramic", "lithium-disilicate", "zirconia", "zirconia-thin", "zirconia-translucent",
    "layered-zirconia", "all-ceramic", "resin-ceramic", "preformed-metal", "preformed-zirconia",
)  # fmt: skip
# As core.kinds, which is slow to import.
KINDS = "full-crown, veneer, inlay, onlay, overlay, partial-crown, pin-casting, child-crown"
ALWAYS_ASKED = ("reduction", "clearance", "neighbour-nick")  # what a person misses where it is not measured


def _add_files(p: Any) -> None:
    """The scans."""
    p.add_argument("--prep", required=True, metavar="FILE", help="scan of the preparation: STL, PLY or OBJ, also .gz")
    p.add_argument("--preop", metavar="FILE", help="scan before the preparation")
    p.add_argument("--mockup", metavar="FILE", help="scan of the mock-up or wax-up")
    p.add_argument("--opposing", metavar="FILE", help="scan of the opposing teeth")
    p.add_argument("--opposing-before", metavar="FILE",
                   help="the opposing teeth in the bite before cutting, in the preop scan's coordinates")  # fmt: skip


def add_parser(commands: Any) -> None:
    """Declare the options of `measure`."""
    p = commands.add_parser(
        "measure", help="measure a preparation from scan files", description=ABOUT, allow_abbrev=False,
    )  # fmt: skip
    _add_files(p)
    p.add_argument(
        "--tooth",
        required=True,
        metavar="NUMBER",
        help="11 to 48, 51 to 85; with --notation universal 1 to 32, A to T",
    )
    p.add_argument("--notation", default="fdi", choices=["fdi", "universal"], help="of the tooth (default: fdi)")
    p.add_argument("--restoration", required=True, metavar="KIND", help=KINDS)
    p.add_argument("--material", required=True, metavar="NAME", help=", ".join(MATERIALS))
    p.add_argument("--standard", metavar="ID", help="id of a standard (its file's name); else the material's default")
    p.add_argument("--units", default="auto", choices=["mm", "cm", "m", "in", "auto"], help="of all files")
    for name, text in (
        ("occlusal", "direction out of the tooth"),
        ("facial", "facial direction"),
        ("near", "a point on or by the cut tooth, in mm"),
        ("path", "path of insertion"),
    ):
        p.add_argument(f"--{name}", metavar="X,Y,Z", help=text + ", in the prep scan's coordinates")
    p.add_argument("--old-crown", action="store_true", help="the earlier surface is an old crown")
    p.add_argument("--opposing-frame", default="prep", choices=["prep", "preop"],
                   help="the scan in whose coordinates the opposing one comes (default: prep)")  # fmt: skip
    p.add_argument("--earlier", choices=MEANINGS, help="what the earlier surface means (default: natural)")
    p.add_argument("--functional", choices=["facial", "lingual"], help="side of the functional cusps (crossbite)")
    p.add_argument("--root-filled", action="store_true", help="the tooth is root-filled: a standing cusp needs more")
    p.add_argument(
        "--fact",
        action="append",
        default=[],
        metavar="NAME",
        help=f"what no scan shows: {', '.join(FACTS)}; may be repeated",
    )
    p.add_argument("--guide-pins", action="store_true", help="guide pins stand in the holes of a pin-held casting")
    p.add_argument(
        "--pin-depth",
        action="append",
        default=[],
        metavar="SIDE=MM",
        help="depth of a pin hole as a gauge told it, such as mesial=2.2; may be repeated",
    )
    p.add_argument("--also-cut", action="append", default=[], metavar="TOOTH",
                   help="another tooth that was cut between these scans; repeat for several")  # fmt: skip
    p.add_argument("--dark", action="store_true", help="the tooth is dark: a veneer over it needs more room")
    p.add_argument("--raise", dest="raise_", metavar="MM@PLACE",
                   help="increased vertical dimension, such as 0.5@molar or 2@incisor")  # fmt: skip
    p.add_argument("--movements", action="store_true", help="also the clearance while the lower jaw moves")
    for name, text in (("condylar-path", "of the condyle's path"), ("bennett", "of the other condyle's, inward"),
                       ("incisal-guidance", "of the guidance in front, else the teeth guide")):  # fmt: skip
        p.add_argument(f"--{name}", type=float, metavar="DEG", help=f"angle {text}; with --movements")
    p.add_argument("--json", metavar="FILE", help="write the measurement as JSON to this file, or - to standard output")
    p.add_argument("--mesh", metavar="FILE", help="write the preparation with its fields to this PLY file")
    p.add_argument("--report", metavar="FILE", help="record of one A4 page, by the name's ending: .pdf or .html")
    p.set_defaults(run=run)


def vector(text: str | None, name: str) -> Any:
    """(3,) from 'X,Y,Z', or None. Raises BadOption."""
    import numpy as np

    if text is None:
        return None
    try:
        values = np.array([float(v) for v in text.split(",")])
    except ValueError as error:
        raise BadOption(f"--{name} {text}: give three numbers, X,Y,Z.") from error
    if values.shape != (3,) or not np.isfinite(values).all():
        raise BadOption(f"--{name} {text}: give three numbers, X,Y,Z.")
    if name != "near" and np.linalg.norm(values) < 1e-9:
        raise BadOption(f"--{name} {text}: a direction cannot be null.")
    return values


def options_of(args: argparse.Namespace) -> Any:
    """The measurement's options. Raises BadOption."""
    from vane_line.core.jaw.articulator import Articulator
    from vane_line.core.jaw.hinge import Raise
    from vane_line.core.options import Options
    from vane_line.core.tooth.notation import ToothNumber

    tooth = ToothNumber.parse(args.tooth, args.notation)
    angles = (args.condylar_path, args.bennett, args.incisal_guidance)
    if not args.movements and any(a is not None for a in angles):
        raise BadOption("--condylar-path, --bennett, --incisal-guidance: they say how the jaw moves; add --movements.")
    return Options(
        tooth,
        occlusal=vector(args.occlusal, "occlusal"),
        facial=vector(args.facial, "facial"),
        near=vector(args.near, "near"),
        path=vector(args.path, "path"),
        earlier="old-crown" if args.old_crown else args.earlier or "natural",
        functional_side=args.functional,
        opening=Raise.parse(args.raise_) if args.raise_ else None,
        opposing_frame=args.opposing_frame,
        root_filled=args.root_filled,
        dark=args.dark,
        others=tuple(ToothNumber.parse(t, args.notation) for t in args.also_cut),
        facts=tuple(args.fact),
        guide_pins=args.guide_pins,
        gauge=_gauge(args.pin_depth),
        movements=Articulator(*angles) if args.movements else None,
    )


def _gauge(given: list[str]) -> dict[str, float]:
    """Depths of pin holes by side. Raises BadOption for what is none."""
    depths = {}
    for text in given:
        side, _, number = text.partition("=")
        try:
            depths[side] = float(number)
        except ValueError as error:
            raise BadOption(f"--pin-depth {text}: write it as a side and mm, such as mesial=2.2.") from error
    return depths


def run(args: argparse.Namespace) -> int:
    """Measure, write what was asked for, and say the worst on the terminal."""
    if args.old_crown and args.earlier not in (None, "old-crown"):
        raise BadOption(f"--old-crown and --earlier {args.earlier}: say one of the two.")
    from vane_line.core.files import measure_files
    from vane_line.core.options import BEWARE

    options = options_of(args)
    for target in (args.json if args.json != "-" else None, args.mesh, args.report):
        if target:
            check_target(Path(target))
    mesh_path = Path(args.mesh) if args.mesh else None
    if mesh_path and mesh_path.suffix.lower() != ".ply":
        raise BadOption("--mesh: give a file name ending in .ply.")
    if args.report and Path(args.report).suffix.lower() not in REPORTS:
        raise BadOption(f"--report: give a file name ending in {' or '.join(REPORTS)}.")
    paths: dict[str, Path | str] = {
        role: Path(value)
        for role in ("prep", "preop", "mockup", "opposing", "opposing_before")
        if (value := getattr(args, role)) is not None
    }
    terminal = sys.stderr.isatty()

    def progress(text: str, share: float) -> None:
        if terminal:
            said = f"{text}\n" if text.startswith(BEWARE) else f"{100 * share:3.0f} %  {text:<32}"
            print(f"\r{said}", end="", file=sys.stderr, flush=True)

    measured = measure_files(paths, options, args.material, args.restoration, args.standard, args.units, progress)
    result, geometry = measured.document, measured.geometry
    if terminal:
        print("\r" + " " * 48 + "\r", end="", file=sys.stderr)
    if mesh_path:
        from vane_line.core.fields import field_ply

        write_whole(mesh_path, field_ply(geometry, measured.judgement))
    if args.json:
        text = json.dumps(result, ensure_ascii=False, allow_nan=False)
        if args.json == "-":
            sys.stdout.write(text + "\n")
        else:
            write_whole(Path(args.json), text.encode("utf-8"))
    if args.report:
        write_whole(Path(args.report), report_bytes(measured, Path(args.report)))
    if args.json != "-":
        print(summary(result))
    untrusted = [r for r, a in geometry.alignment.items() if not a.trusted]
    if untrusted:
        role = untrusted[0]
        name = measured.scans.names.get(role, role)
        print(
            f"{name}: the alignment of {role} is not trusted, {geometry.alignment[role].why}; nothing that depends "
            "on it is judged. Check that the scans belong together or rescan.",
            file=sys.stderr,
        )
        return UNTRUSTED
    return 0


def report_bytes(measured: Any, path: Path) -> bytes:
    """The record of a measurement, as its file's name ends."""
    from datetime import date

    from vane_line import __version__
    from vane_line.report import preparation
    from vane_line.report.words import by_hand_of_options, scan_words

    about = preparation.About(
        code=path.stem, version=__version__, made_at=date.today().isoformat(),
        scans=tuple(scan_words(role, Path(name)) for role, name in measured.scans.names.items()),
        by_hand=tuple(by_hand_of_options(measured.geometry.options)),
    )  # fmt: skip
    record = preparation.record_of(measured.document, measured.geometry, measured.judgement, measured.in_place(), about)
    return preparation.as_pdf(record) if path.suffix.lower() == ".pdf" else preparation.as_html(record)


def check_target(path: Path) -> None:
    """Raises BadOption where a file cannot be written, before anything is measured."""
    try:
        if path.is_dir():
            raise BadOption(f"{printable(str(path))}: this is a folder; give the name of a file in it.")
        if not path.resolve().parent.is_dir():
            raise BadOption(f"{printable(str(path))}: its folder does not exist; make it first.")
    except (OSError, ValueError) as error:
        raise BadOption(f"{printable(str(path))}: a file cannot have this name; give a shorter one.") from error


def summary(result: dict[str, Any]) -> str:
    """The findings in a few lines for a terminal."""
    rows = [f"Tooth {result['tooth']}, {result['material']}, by {result['standard']['id']}:"]
    from vane_line.core.judge.findings import repeated
    from vane_line.core.judge.verdicts import FAULTS

    verdicts = result["verdicts"]
    bad = [v for v in verdicts
           if v["status"] in FAULTS and v["value"] is not None and not repeated(v, verdicts)]  # fmt: skip
    for v in bad:
        amount = abs(v["missing"] or 0)
        says = "short of minimum" if v["status"] == "short" else "over maximum"
        rows.append(f"  {v['where']}: {v['criterion']} {amount:.2f} {v['unit']} {says} (U {v['U'] or 0:.2f})")
    if not bad:
        rows.append("  nothing is proven short or over.")
    for criterion in ALWAYS_ASKED:
        found = [v for v in result["verdicts"] if v["criterion"] == criterion]
        if found and all(v["status"] == "not-measured" for v in found):
            rows.append(f"  not measured: {criterion}: {found[0]['why']}")
    rows += [f"  note: {w}" for w in result["warnings"]]
    rows.append("The dentist decides; the manufacturer's instructions and local regulations come first.")
    return "\n".join(rows)

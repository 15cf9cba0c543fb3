"""`vane-line bridge`: several abutments on the same scans (docs/contract.md)."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from vane_line.cli.measure import MATERIALS, UNTRUSTED, check_target, summary, vector
from vane_line.core.whole import write_whole
from vane_line.errors import BadOption

ABOUT = """Measures the abutments of a bridge on the same scans, and what holds for all of them: the common path or the
walls that forbid it, room for pontics and connectors, the span. Exit codes as of measure."""


def add_parser(commands: Any) -> None:
    """Declare the options of `bridge`."""
    p = commands.add_parser("bridge", help="measure the abutments of a bridge", description=ABOUT, allow_abbrev=False)
    p.add_argument("--abutment", required=True, action="append", metavar="NUMBER[:KIND]",
                   help="prepared tooth; give each; where its kind is another, as 37:partial-crown")  # fmt: skip
    p.add_argument("--pontic", required=True, action="append", metavar="NUMBER", help="missing tooth; give each")
    p.add_argument("--near", action="append", metavar="TOOTH:X,Y,Z", help="a point on an abutment, as 35:1.2,3,4")
    p.add_argument("--prep", required=True, metavar="FILE", help="scan of the preparations: STL, PLY or OBJ, also .gz")
    p.add_argument("--preop", metavar="FILE", help="scan before the preparation")
    p.add_argument("--opposing", metavar="FILE", help="scan of the opposing teeth")
    p.add_argument("--opposing-frame", default="prep", choices=["prep", "preop"],
                   help="the scan in whose coordinates the opposing one comes (default: prep)")  # fmt: skip
    p.add_argument("--notation", default="fdi", choices=["fdi", "universal"], help="of the teeth (default: fdi)")
    p.add_argument(
        "--restoration", default="full-crown", metavar="KIND", help="of the abutments: full-crown, partial-crown"
    )
    p.add_argument("--material", required=True, metavar="NAME", help=", ".join(MATERIALS))
    p.add_argument("--standard", metavar="ID", help="id of a standard (its file's name); else the material's default")
    p.add_argument("--units", default="auto", choices=["mm", "cm", "m", "in", "auto"], help="of all files")
    p.add_argument("--occlusal", metavar="X,Y,Z", help="direction out of the teeth, in the prep scan's coordinates")
    p.add_argument("--json", metavar="FILE", help="write the bridge as JSON to this file, or - to standard output")
    p.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Measure, write what was asked for, and say the worst on the terminal."""
    from vane_line.core.loading import load_scans
    from vane_line.core.options import Options
    from vane_line.core.tooth.notation import ToothNumber

    if args.json and args.json != "-":
        check_target(Path(args.json))
    given = [text.partition(":")[::2] for text in args.abutment]
    teeth = [ToothNumber.parse(t, args.notation) for t, _ in given]
    kinds = [kind or args.restoration for _, kind in given]
    pontics = [ToothNumber.parse(t, args.notation) for t in args.pontic]
    near = _places(args.near or [], [t.fdi for t in teeth], args.notation)
    options = [
        Options(t, restoration=kind, occlusal=vector(args.occlusal, "occlusal"), near=near.get(t.fdi),
                opposing_frame=args.opposing_frame)
        for t, kind in zip(teeth, kinds, strict=True)
    ]  # fmt: skip
    paths = {role: Path(value) for role in ("prep", "preop", "opposing") if (value := getattr(args, role)) is not None}
    standards: dict[str, Any] = {}

    def choose_them() -> None:
        """The standards by tooth; and the pipeline, which takes as long to import as a scan to read."""
        import vane_line.core.bridge.whole
        import vane_line.core.judge.bridge  # noqa: F401
        from vane_line.core.judge.standard_choice import choose_each

        standards.update(
            choose_each(args.material, list(zip(teeth, kinds, strict=True)), args.standard, args.restoration)
        )

    scans = load_scans(paths, args.units, beside=choose_them)
    from vane_line.core.bridge.whole import measure_bridge
    from vane_line.core.judge.bridge import bridge_document

    bridge = measure_bridge(scans, options, pontics)
    result = bridge_document(bridge, standards, args.material)
    if args.json:
        text = json.dumps(result, ensure_ascii=False, allow_nan=False)
        if args.json == "-":
            sys.stdout.write(text + "\n")
        else:
            write_whole(Path(args.json), text.encode("utf-8"))
    if args.json != "-":
        print(said(result))
    untrusted = [r for g in bridge.abutments for r, a in g.alignment.items() if not a.trusted]
    if untrusted:
        print(f"The alignment of {untrusted[0]} is not trusted; nothing that depends on it is judged.", file=sys.stderr)
        return UNTRUSTED
    return 0


def _places(given: list[str], teeth: list[str], notation: str) -> dict[str, Any]:
    """Points by tooth. Raises BadOption."""
    from vane_line.core.tooth.notation import ToothNumber

    found = {}
    for text in given:
        tooth, _, point = text.partition(":")
        number = ToothNumber.parse(tooth, notation).fdi
        if number not in teeth:
            raise BadOption(f"--near {text}: {number} is not one of the abutments.")
        found[number] = vector(point, "near")
    if found and set(found) != set(teeth):
        raise BadOption("--near: give a point on every abutment, or on none.")
    return found


def said(result: dict[str, Any]) -> str:
    """Abutments and the whole in a few lines for a terminal."""
    rows = [summary(a).rsplit("\n", 1)[0] for a in result["abutments"]]
    path = result["path"]
    if path["exists"]:
        rows.append(f"Common path: least draft {path['least_draft_deg']:.1f} degrees.")
    else:
        rows.append("No common path:")
        rows += [
            f"  {f['side']} wall of {f['tooth']}: {f['missing_deg']:.1f} degrees missing" for f in path["limited_by"]
        ]
        rows += [f"  {c['do']}. {c['beware']}." for c in result["corrections"]]
    for v in result["verdicts"]:
        if v["status"] in ("short", "over") and v["criterion"] != "common-path":
            rows.append(f"  {v['where']}: {v['criterion']} {v['value']:.1f} {v['unit']}, limit {v['limit']:g}")
    rows += [f"  note: {w}" for w in result["warnings"]]
    rows.append("The dentist decides; the manufacturer's instructions and local regulations come first.")
    return "\n".join(rows)

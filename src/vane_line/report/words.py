"""What a person did, in words for the record: options of a measurement, and where its scans came from."""

from __future__ import annotations

import hashlib
from pathlib import Path

from vane_line.core.facts import FACTS
from vane_line.core.options import Options
from vane_line.core.tooth.earlier import meaning_of
from vane_line.errors import printable

DECIDES = (
    "The dentist decides. Surfaces only: pulp, decay, cracks and the patient are not seen. Local regulations and the "
    "manufacturer's instructions come first."
)
SHOWN = 16  # of a hash's 64 letters: enough to tell files apart
DRAWN = {
    "occlusal": "the occlusal direction", "facial": "the facial direction", "near": "the tooth pointed at",
    "path": "the path of insertion", "line": "the finish line", "gingiva": "the gingiva's line",
    "core": "a core's border",
}  # fmt: skip


def by_hand_of_options(options: Options) -> list[str]:
    """What was given, chosen or drawn."""
    said = [words for name, words in DRAWN.items() if getattr(options, name) is not None]
    if options.earlier != "natural":
        said.append(f"the surface before is {meaning_of(options.earlier).title}")
    if options.functional_side:
        said.append(f"the {options.functional_side} cusps are the functional ones")
    if options.opening is not None:
        said.append(f"the bite raised by {options.opening.mm:g} mm at the {options.opening.at}")
    if options.root_filled:
        said.append("root-filled")
    if options.dark:
        said.append("dark")
    said += [FACTS[name].title for name in options.facts]
    if options.guide_pins:
        said.append("guide pins in the holes")
    said += [f"{side} pin hole gauged at {depth:.1f} mm" for side, depth in options.gauge.items()]
    said += [f"places pointed at on the {role} scan" for role in options.pairs]
    return said


def scan_words(role: str, path: Path) -> tuple[str, str, str]:
    """Role, the file's name, and the first letters of its SHA-256."""
    return role, printable(path.name), hashlib.sha256(path.read_bytes()).hexdigest()[:SHOWN]

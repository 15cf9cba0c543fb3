"""From scan files to the contract's document in one call: what the command line and scripts use."""

from __future__ import annotations

import time
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from vane_line.core.case import Geometry, measure
from vane_line.core.judge.document import document
from vane_line.core.judge.judgement import Judgement, judge
from vane_line.core.judge.standards import choose
from vane_line.core.options import Options, Progress
from vane_line.core.scans import ROLES, Scans, load_scans
from vane_line.errors import BadOption


@dataclass(frozen=True, eq=False)
class Measurement:
    """A measured preparation: the plain `document` of the contract, and what it was made from."""

    document: dict[str, Any]
    geometry: Geometry
    judgement: Judgement
    scans: Scans


def measure_files(
    files: dict[str, Path | str],
    options: Options,
    material: str,
    restoration: str = "full-crown",
    standard: str | None = None,
    units: str = "auto",
    progress: Progress = lambda _text, _share: None,
) -> Measurement:
    """Measure the scan `files` by role (prep, and any of preop, mockup, opposing) and judge them.

    units: mm, cm, m, in, or auto. standard: an id, else the material's default. Lengths in the answer are mm in the
    prep scan's coordinates. Raises InputError (a sentence that says what is wrong and what to do).
    """
    unknown = set(files) - set(ROLES)
    if unknown or "prep" not in files:
        raise BadOption(f"files: give prep, and any of {', '.join(ROLES[1:])}.")
    options.meaning  # noqa: B018 - refuses an unknown word before anything is read
    chosen = choose(material, restoration, standard, options.tooth)
    began = time.perf_counter()
    scans = load_scans({role: Path(path) for role, path in files.items()}, units)
    load_s = time.perf_counter() - began
    geometry = measure(scans, options, progress)
    judgement = judge(geometry, chosen)
    return Measurement(document(geometry, judgement, restoration, load_s), geometry, judgement, scans)

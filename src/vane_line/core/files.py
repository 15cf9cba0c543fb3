"""From scan files to the contract's document in one call: what the command line and scripts use."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from vane_line.core.loading import ROLES, load_scans, scans_of
from vane_line.core.mesh.read import read_soup
from vane_line.core.mesh.units import MM_PER_UNIT
from vane_line.core.options import Options, Progress
from vane_line.errors import BadOption, printable

if TYPE_CHECKING:
    from vane_line.core.case import Geometry
    from vane_line.core.judge.judgement import Judgement
    from vane_line.core.judge.standards import Standard
    from vane_line.core.mesh.surface import Surface
    from vane_line.core.scans import Scans


@dataclass(frozen=True, eq=False)
class Measurement:
    """A measured preparation: the plain `document` of the contract, and what it was made from."""

    document: dict[str, Any]
    geometry: Geometry
    judgement: Judgement
    scans: Scans

    def in_place(self) -> dict[str, Surface]:
        """The scans by role in the preparation scan's coordinates, as far as they are trusted there."""
        return self.geometry.in_place(self.scans)

    def records(self) -> list[dict[str, Any]]:
        """One flat record a verdict, with the tooth, material and standard in each: rows for a table."""
        from vane_line.core.judge.table import records_of

        return records_of(self.document)


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
    check_request(files, options, material, restoration, units)
    paths = {role: Path(path) for role, path in files.items()}
    return _measured(partial(load_scans, paths, units), options, material, restoration, standard, progress)


def measure_contents(
    contents: dict[str, tuple[str, bytes]],
    options: Options,
    material: str,
    restoration: str = "full-crown",
    standard: str | None = None,
    units: str = "auto",
) -> Measurement:
    """As `measure_files`, of scans that are at hand: by role the file's name and what is in it."""
    check_request({role: name for role, (name, _) in contents.items()}, options, material, restoration, units)
    names = {role: printable(name) for role, (name, _) in contents.items()}
    load = partial(scans_of, lambda role: read_soup(contents[role][1], contents[role][0]), names, units)

    return _measured(load, options, material, restoration, standard, lambda _text, _share: None)


def _measured(
    load: Callable[..., Scans], options: Options, material: str, restoration: str, standard: str | None,
    progress: Progress,
) -> Measurement:  # fmt: skip
    began = time.perf_counter()

    chosen: list[Standard] = []

    def choose_it() -> None:
        """The standard; and the pipeline, which takes as long to import as the scans to read."""
        import vane_line.core.case
        import vane_line.core.judge.document  # noqa: F401
        from vane_line.core.judge.standard_choice import choose

        chosen.append(choose(material, restoration, standard, options.tooth))

    scans = load(beside=choose_it)
    load_s = time.perf_counter() - began
    from vane_line.core.case import measure
    from vane_line.core.judge.document import document
    from vane_line.core.judge.judgement import judge

    geometry = measure(scans, replace(options, restoration=restoration), progress)
    judgement = judge(geometry, chosen[0])
    return Measurement(document(geometry, judgement, load_s, material), geometry, judgement, scans)


def check_request(files: dict[str, Path | str], options: Options, material: str, restoration: str, units: str) -> None:
    """Raises BadOption for whatever can be told to be wrong before a file is read."""
    if not isinstance(files, dict) or set(files) - set(ROLES) or "prep" not in files:
        raise BadOption(f"files: give prep, and any of {', '.join(ROLES[1:])}.")
    for role, path in files.items():
        if not isinstance(path, str | Path) or not str(path):
            raise BadOption(f"files: {role} has to be the path of a file.")
    if not isinstance(options, Options):
        raise BadOption("options: give an Options(ToothNumber(...)).")
    for name, value in (("material", material), ("restoration", restoration), ("units", units)):
        if not isinstance(value, str):
            raise BadOption(f"{name}: give it as a word, not as {type(value).__name__}.")
    if units != "auto" and units not in MM_PER_UNIT:
        raise BadOption(f"units {units}: use mm, cm, m, in or auto.")
    if options.opposing_frame == "preop" and "opposing" in files and "preop" not in files:
        raise BadOption("opposing-frame preop: give the preop scan too, since the opposing scan is moved with it.")
    for needed in ("opposing", "preop"):
        if "opposing_before" in files and needed not in files:
            raise BadOption(
                f"opposing_before: give the {needed} scan too; contacts before are compared with those after."
            )
    if options.opening is not None and "opposing" not in files:
        raise BadOption("raise: give the opposing scan too; without it a raised bite changes nothing.")

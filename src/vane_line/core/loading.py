"""From files to the surfaces of one measurement: units told together, pieces left out, everything said.

What takes long to import is imported where the work is shared out, so that every process imports beside the others.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache, partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from vane_line.core.apart import each
from vane_line.core.mesh.read import MAX_BYTES, read_file
from vane_line.core.mesh.soup import MAX_TRIANGLES, Soup
from vane_line.core.mesh.units import MM_PER_UNIT, extent_and_edge, guess_unit
from vane_line.errors import BadOption, printable

if TYPE_CHECKING:
    from vane_line.core.mesh.weld import Welded
    from vane_line.core.scans import Scans

ROLES = ("prep", "preop", "mockup", "opposing", "opposing_before")
SEPARATE_MARGIN = 6.0  # log-likelihood by which a file must object to the common unit to get its own


Beside = Callable[[], None]


def _nothing() -> None:
    """What is done besides where nothing is."""


def unit_of_each(soups: dict[str, Soup], units: str) -> tuple[dict[str, str], list[str]]:
    """The unit of each file: the given one, or guessed together, since one case is exported alike."""
    if units != "auto":
        return dict.fromkeys(soups, units), []
    figures = {role: extent_and_edge(s.corners, s.faces) for role, s in soups.items()}
    common = guess_unit(list(figures.values()))
    chosen, warnings = {}, []
    for role, figure in figures.items():
        alone = guess_unit([figure])
        objects = alone.scores[alone.unit] - alone.scores[common.unit] > SEPARATE_MARGIN
        chosen[role] = alone.unit if objects else common.unit
        if chosen[role] != "mm":
            doubt = "" if (alone if objects else common).sure else " (in doubt: confirm it)"
            warnings.append(f"{role}: the file is taken to be in {chosen[role]}, from its size and edges{doubt}.")
    if not common.sure and set(chosen.values()) == {"mm"}:
        warnings.append("The scans are taken to be in mm, which their size leaves in doubt: confirm the unit.")
    return chosen, warnings


def load_scans(
    paths: dict[str, Path], units: str = "auto", max_bytes: int = MAX_BYTES, max_triangles: int = MAX_TRIANGLES,
    beside: Beside = _nothing,
) -> Scans:  # fmt: skip
    """Read, scale, weld and clean the files given by role. Raises UnreadableScan, ScanTooLarge, BadOption.

    beside: as of `scans_of`.
    """
    if units != "auto" and units not in MM_PER_UNIT:
        raise BadOption(f"units {printable(str(units))}: use mm, cm, m, in or auto.")
    names = {role: printable(str(path)) for role, path in paths.items()}
    return scans_of(lambda role: read_file(paths[role], max_bytes, max_triangles), names, units, beside)


def scans_of(
    read: Callable[[str], Soup], names: dict[str, str], units: str = "auto", beside: Beside = _nothing
) -> Scans:
    """What `read` gives for each role of `names`, scaled, welded and cleaned; units: a known one, or auto. Raises what
    `read` raises, UnreadableScan, and what `beside` raises.

    beside: what this process does before it takes its share of the welding, while a copy of it welds: imports, and
    looking at what else was asked; what is wrong there is said before what is wrong with a file.
    """

    @cache  # in every process once
    def soups() -> tuple[dict[str, Soup], dict[str, str], list[str]]:
        found = {role: read(role) for role in names}
        return found, *unit_of_each(found, units)

    def welded(role: str) -> tuple[Welded, list[str]]:
        from vane_line.core.mesh.weld import weld

        found, chosen, said = soups()
        return weld(found[role], chosen[role], names[role]), said

    jobs: list[Callable[[], Any]] = [beside, *(partial(welded, role) for role in names)]
    answers: list[tuple[Welded, list[str]]] = each(jobs)[1:]
    from vane_line.core.scans import Scans

    warnings = [*answers[0][1]]
    for role, (found, _) in zip(names, answers, strict=True):
        warnings += remarks(role, found)
    surfaces = {role: found.surface for role, (found, _) in zip(names, answers, strict=True)}
    return Scans(**surfaces, names=names, warnings=tuple(warnings))


def remarks(role: str, welded: Welded) -> list[str]:
    """What was done to a scan on the way in, one sentence each."""
    said = []
    if welded.bad_faces:
        said.append(f"{role}: {welded.bad_faces} damaged triangle(s) were dropped.")
    if welded.pinholes:
        said.append(f"{role}: {welded.pinholes} pinhole(s) up to 0.4 mm across were closed.")
    if welded.loose_pieces:
        said.append(
            f"{role}: {welded.loose_pieces} loose piece(s), {welded.loose_area_mm2:.1f} mm² in all, were left out."
        )
    if welded.turned:
        said.append(f"{role}: {welded.turned} triangle(s) lay the wrong way round and were turned.")
    if welded.flipped:
        said.append(f"{role}: the surface was inside out and was turned round.")
    return said

"""Standards and sequences, built in and the users' own; the tray of burs and the mill.

A case keeps the version it was judged by: an edited standard is a new version, which a case takes only when told to.
"""

from __future__ import annotations

import re
from collections.abc import Container
from dataclasses import dataclass
from typing import Any

from vane_line.core import kinds
from vane_line.core.burs import Bur, as_row, generic, parse_bur
from vane_line.core.judge import standard_choice
from vane_line.core.judge.standard_choice import DEFAULTS, check_fit
from vane_line.core.judge.standard_files import as_data, built_in, parse_standard
from vane_line.core.judge.standards import Standard
from vane_line.core.plan import sequence as orders
from vane_line.core.plan.sequence import Sequence, parse_sequence
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption, BadStandard, NotFound
from vane_line.store import own
from vane_line.store.database import Database

STANDARD, SEQUENCE = "standard", "sequence"
# Of each kind the one that is taken unless asked.
USUAL = ("occlusal-first", "front-planes", "veneer-depth-cuts", "partial-crown")
TRAY, MILL = "tray", "mill"
BUR_RADIUS_MM = (0.2, 1.0)
DEFAULT_RADIUS_MM = 0.5
OWN_ID = re.compile(r"^own-[a-z0-9-]{1,60}$")
MOST_BURS = 80


@dataclass(frozen=True)
class Mill:
    """The mill that cuts the crown's inside; a simulated one ships with the program."""

    title: str
    bur_radius_mm: float


def all_standards(db: Database) -> list[Standard]:
    """Built in first, then the newest version of each of the users' own."""
    mine = [parse_standard(o.data, o.id) for o in own.newest(db, STANDARD)]
    return [*built_in().values(), *mine]


def serving(db: Database, tooth: ToothNumber, restoration: str) -> list[Standard]:
    """Each material's usual one for a tooth and a kind, and the surgery's own."""
    return standard_choice.serving(all_standards(db), tooth, restoration)


def find(db: Database, standard_id: str, version: int | None = None) -> Standard:
    """One standard. Raises NotFound."""
    built = built_in().get(standard_id)
    if built is not None:
        return built
    return parse_standard(own.get(db, STANDARD, standard_id, version).data, standard_id)


def choose(db: Database, material: str, restoration: str, standard_id: str | None, tooth: ToothNumber) -> Standard:
    """The standard asked for, or the material's default. Raises BadOption, NotFound."""
    if standard_id is None or standard_id in built_in():
        return standard_choice.choose(material, restoration, standard_id, tooth)
    try:
        found = find(db, standard_id)
    except NotFound as error:
        raise BadOption(f"standard {standard_id}: there is none of this name.") from error
    standard_choice.choose(material, restoration, None, tooth)  # refuses an unknown material or restoration
    check_fit(found, material, tooth, restoration)
    return found


def save_standard(db: Database, data: dict[str, Any], expected_version: int) -> Standard:
    """A new own standard (version 0), or the next version of one. Raises BadStandard, BadOption, Conflict."""
    found = checked(data, expected_version)
    made = own.add(db, STANDARD, found.id, as_data(found), expected_version)
    return parse_standard(made.data, found.id)


def checked(data: dict[str, Any], version: int = 0) -> Standard:
    """A user's own standard as it would be kept over a version. Raises BadStandard, BadOption."""
    own_id = own_id_of(data, built_in())
    found = parse_standard({**data, "version": version + 1}, str(data.get("title") or own_id))
    if found.material not in DEFAULTS:
        raise BadStandard(f"{found.title}: material {found.material}: use one of {', '.join(DEFAULTS)}.")
    return found


def all_sequences(db: Database) -> list[Sequence]:
    """Built in first, then the users' own."""
    return [*orders.built_in().values(), *(parse_sequence(o.data, o.id) for o in own.newest(db, SEQUENCE))]


def find_sequence(
    db: Database, sequence_id: str | None, tooth: ToothNumber, restoration: str = "full-crown", material: str = ""
) -> Sequence:
    """The sequence asked for, or the usual one for the kind, the tooth and the material. Raises NotFound."""
    found = {s.id: s for s in all_sequences(db)}
    if sequence_id is not None:
        if sequence_id not in found:
            raise NotFound(f"There is no sequence {sequence_id}.")
        return found[sequence_id]
    usual_first = (*(found[name] for name in USUAL), *found.values())
    fitting = next((s for s in usual_first if s.serves(tooth, restoration) and s.usual_for(material)), None)
    if fitting is None:
        raise NotFound(f"There is no order of work for a {kinds.of(restoration).title} yet.")
    return fitting


def save_sequence(db: Database, data: dict[str, Any], expected_version: int) -> Sequence:
    """A new own sequence, or the next version of one. Raises BadOption, Conflict."""
    own_id = own_id_of(data, orders.built_in())
    parse_sequence({**data, "version": expected_version + 1}, str(data.get("title") or own_id))
    made = own.add(db, SEQUENCE, own_id, data, expected_version)
    return parse_sequence(made.data, own_id)


def tray(db: Database) -> tuple[int, tuple[Bur, ...]]:
    """Revision and burs; the generic set until the user makes a tray of their own."""
    revision, rows = own.setting(db, TRAY)
    return revision, generic() if rows is None else tuple(parse_bur(r) for r in rows)


def set_tray(db: Database, rows: list[dict[str, Any]], expected_revision: int) -> int:
    """Raises BadOption, Conflict."""
    burs = [parse_bur(r) for r in rows]
    if not 0 < len(burs) <= MOST_BURS:
        raise BadOption(f"tray: keep 1 to {MOST_BURS} burs in it.")
    if len({b.id for b in burs}) < len(burs):
        raise BadOption("tray: two burs have the same id.")
    return own.set_setting(db, TRAY, [as_row(b) for b in burs], expected_revision)


def mill(db: Database) -> tuple[int, Mill]:
    """Revision and the mill."""
    revision, value = own.setting(db, MILL)
    if value is None:
        return revision, Mill("Saltmarsh simulated mill", DEFAULT_RADIUS_MM)
    return revision, Mill(str(value["title"]), float(value["bur_radius_mm"]))


def set_mill(db: Database, title: str, bur_radius_mm: float, expected_revision: int) -> int:
    """Raises BadOption, Conflict."""
    low, high = BUR_RADIUS_MM
    if not low <= bur_radius_mm <= high:
        raise BadOption(f"mill: a bur radius of {bur_radius_mm} mm; give {low} to {high}.")
    value = {"title": title.strip() or "mill", "bur_radius_mm": bur_radius_mm}
    return own.set_setting(db, MILL, value, expected_revision)


def plain_name(title: str, most: int) -> str:
    """A title in a few plain letters, as part of an id; '' where it has none."""
    return re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")[:most]


def own_id_of(data: dict[str, Any], built: Container[str]) -> str:
    """The id of a user's own: `own-` and a few plain letters, so that it never hides a built-in one."""
    wanted = str(data.get("id", ""))
    if wanted in built or not OWN_ID.match(wanted):
        plain = plain_name(str(data.get("title", "")), 50)
        if not plain:
            raise BadOption("Give it a title of its own.")
        wanted = f"own-{plain}"
    data["id"] = wanted
    return wanted

"""The laboratory's way back: a package opened as a case of theirs, and their marks as a file that comes back.

Both sides work in the preparation scan's coordinates, mm. An answer names the scan that its marks were set on by hash;
it is taken in only beside that scan.
"""

from __future__ import annotations

import json
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from vane_line.core import kinds
from vane_line.core.judge import standard_choice
from vane_line.core.judge.standard_files import built_in
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption
from vane_line.service import overview
from vane_line.service.import_scan import keep, read
from vane_line.service.surgery import Surgery
from vane_line.store import cases, edits, jobs, scans
from vane_line.store.database import Database

SCHEMA: Literal["vane-line/answer/1"] = "vane-line/answer/1"
PRESCRIPTION, DOCUMENT, PACKAGE = "prescription.json", "measurement.json", "package"
ROLES = ("prep", "preop", "mockup", "opposing")
MOST_PINS, MOST_BYTES, FAR_MM = 40, 200_000, 1000.0
SAME_MM = 1e-6


class AnswerPin(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    place: tuple[float, float, float]
    name: Annotated[str, Field(max_length=60)] = ""


class Answer(BaseModel):
    """What the file holds. prep_sha256: of the scan file that the marks were set on."""

    model_config = ConfigDict(extra="forbid")
    schema_: Literal["vane-line/answer/1"] = Field(alias="schema")
    case: Annotated[str, Field(max_length=100)]
    tooth: Annotated[str, Field(max_length=10)]
    prep_sha256: Annotated[str, Field(pattern="^[0-9a-f]{64}$")]
    pins: Annotated[list[AnswerPin], Field(max_length=MOST_PINS)]


def open_package(surgery: Surgery, files: dict[str, bytes]) -> overview.CaseView:
    """The files of a package as a new case, its tooth queued to be measured about the axes that it came with.

    Raises BadOption, UnreadableScan, ScanTooLarge with what is wrong; then nothing has changed.
    """
    told, document = _plain(files, PRESCRIPTION), _plain(files, DOCUMENT)
    tooth = ToothNumber.parse(str(told.get("tooth")))
    kind, material = str(told.get("restoration")), str(told.get("material"))
    kinds.of(kind)
    given = told.get("standard")
    wanted = given.get("id") if isinstance(given, dict) else None
    standard = standard_choice.choose(material, kind, wanted if wanted in built_in() else None, tooth)
    found = [read(surgery, f"{role}.stl", files[f"scans/{role}.stl"], role, "mm") for role in ROLES
             if f"scans/{role}.stl" in files]  # fmt: skip
    if not found:
        raise BadOption("package: there is no scan in it; ask for it again.")
    db = surgery.db
    with db.atomic():
        said = "Opened from a package."
        if wanted != standard.id:
            said += f" Judged by {standard.id}: the sender's own standard ({str(wanted)[:60]}) is not here."
        case = cases.add_case(db, str(told.get("case"))[:100] or "package", said, "natural", "prep")
        cases.add_site(db, case.id, tooth.fdi, kind, material, standard.id, standard.version)
        attempt = cases.add_attempt(db, case.id)
        for scan in found:
            keep(db, case.id, attempt.id, scan)
        (reading,) = cases.readings_in(db, attempt.id)
        edits.append(db, reading.id, PACKAGE, {"prep_sha256": told.get("prep_sha256")}, 0, actor=surgery.actor)
        axes = _axes(document)
        if axes is not None:
            edits.append(db, reading.id, "axes", axes, 0, actor=surgery.actor)
        jobs.add_job(db, reading.id, actor=surgery.actor)
    return overview.view(db, case.id)


def answer_of(db: Database, reading_id: str) -> bytes:
    """The marks on a preparation as a file. Raises BadOption where nothing is marked, NotFound."""
    reading = cases.get_reading(db, reading_id)
    _, pins = edits.latest(db, reading_id, "pins")
    if not pins:
        raise BadOption("Nothing is marked on the tooth yet: set marks first, then send them.")
    told = {
        "schema": SCHEMA, "case": cases.get_case(db, reading.case_id).code,
        "tooth": cases.get_site(db, reading.site_id).tooth, "prep_sha256": _prep_sha256(db, reading), "pins": pins,
    }  # fmt: skip
    return json.dumps(told, ensure_ascii=False, indent=1).encode()


def take_answer(db: Database, reading_id: str, data: bytes, actor: str = "") -> int:
    """Set an answer's marks beside those that are there; how many were new.

    Raises BadOption where the file is none, or its marks belong to another scan; then nothing has changed.
    """
    reading = cases.get_reading(db, reading_id)
    try:
        found = Answer.model_validate_json(data[: MOST_BYTES + 1])
    except ValidationError as error:
        raise BadOption("answer: this is no file of marks that Vane Line made; ask for it again.") from error
    if found.prep_sha256 != _prep_sha256(db, reading):
        raise BadOption(
            f"answer: its marks were set on another scan (case {found.case[:40]}, tooth {found.tooth}); open the "
            "attempt that the package was made of."
        )
    with db.atomic():
        revision, pins = edits.latest(db, reading_id, "pins")
        pins = list(pins or [])
        fresh = [p for p in found.pins if not any(_same(p, old) for old in pins)]
        if any(abs(v) > FAR_MM for p in fresh for v in p.place):
            raise BadOption("answer: a mark lies far from every mouth; ask for it again.")
        if len(pins) + len(fresh) > MOST_PINS:
            raise BadOption(f"answer: with its marks there would be more than {MOST_PINS}; take some away first.")
        if fresh:
            pins += [{"place": list(p.place), "name": p.name or "answer"} for p in fresh]
            edits.append(db, reading_id, "pins", pins, revision, actor=actor)
    return len(fresh)


def _same(pin: AnswerPin, old: dict[str, Any]) -> bool:
    near = all(abs(a - b) < SAME_MM for a, b in zip(pin.place, old["place"], strict=True))
    return near and (pin.name or "answer") == (old.get("name") or "answer")


def _prep_sha256(db: Database, reading: cases.Reading) -> str:
    """Of the scan as it was first given: the package's, where the case was opened from one."""
    _, package = edits.latest(db, reading.id, PACKAGE)
    if package and package.get("prep_sha256"):
        return str(package["prep_sha256"])
    prep = next((s for s in scans.scans_of(db, reading.case_id, reading.attempt_id) if s.role == "prep"), None)
    if prep is None:
        raise BadOption("There is no scan of the preparation yet; add it first.")
    return prep.raw_hash


def _plain(files: dict[str, bytes], name: str) -> dict[str, Any]:
    try:
        found = json.loads(files[name])
    except (KeyError, ValueError) as error:
        raise BadOption(f"package: its {name} cannot be read; ask for it again.") from error
    if not isinstance(found, dict):
        raise BadOption(f"package: its {name} is not what it should be; ask for it again.")
    return found


def _axes(document: dict[str, Any]) -> dict[str, Any] | None:
    """As the other side measured it: the same tooth, the same axes."""
    try:
        frame, points = document["frame"], document["finish_line"]["points"]
        middle = [sum(float(p[k]) for p in points) / len(points) for k in range(3)]
        return {name: [float(v) for v in frame[name]] for name in ("occlusal", "facial")} | {"near": middle}
    except (KeyError, TypeError, ValueError, ZeroDivisionError):
        return None

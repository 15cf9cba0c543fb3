"""A whole case as one file: out of this store, and into another one.

What a person gave and did is in it: the scans as they came, teeth, standards, attempts, every edit with its history.
What was computed is not: it is measured again where it arrives, and equal scans give equal figures. The newest document
of each measured tooth lies beside it, to be compared with.
"""

from __future__ import annotations

import json
from dataclasses import asdict, replace
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from vane_line import __version__
from vane_line.core import kinds
from vane_line.core.jaw.articulator import Articulator
from vane_line.core.jaw.hinge import Raise
from vane_line.core.judge.standard_files import as_data, built_in, parse_standard
from vane_line.core.tooth.earlier import meaning_of
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption, NotFound
from vane_line.report import zips
from vane_line.service import answers, overview, standards
from vane_line.service.import_scan import keep, read
from vane_line.service.surgery import Surgery
from vane_line.store import blobs, cases, edits, jobs, results, scans
from vane_line.store.database import Database

SCHEMA: Literal["vane-line/case/1"] = "vane-line/case/1"
CASE, WHAT = "case.json", "case file"
MOST_EDITS = 10_000


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid")


class EditRow(_Row):
    kind: Literal[
        "axes", "pairs", "path", "line", "gingiva", "core", "plan", "ticks", "pins", "look", "overrule", "package"
    ]
    value: Any
    returns_to: int | None


class ReadingRow(_Row):
    """A tooth, by its place among the sites, in an attempt."""

    site: int
    measured: bool
    edits: list[EditRow] = Field(max_length=MOST_EDITS)


class ScanRow(_Row):
    role: Literal["prep", "preop", "mockup", "opposing", "opposing_before"]
    name: str = Field(max_length=300)
    unit: Literal["mm", "cm", "m", "in"]
    file: str = Field(max_length=100)


class AttemptRow(_Row):
    number: int
    scans: list[ScanRow]
    readings: list[ReadingRow]


class SiteRow(_Row):
    tooth: str
    restoration: str
    material: str
    standard: dict[str, Any]
    functional_side: Literal["facial", "lingual"] | None
    facts: dict[str, Any]


class CaseRow(_Row):
    """What case.json holds."""

    schema_: Literal["vane-line/case/1"] = Field(alias="schema")
    version: str
    code: str = Field(min_length=1, max_length=100)
    notes: str
    surface_meaning: str
    opposing_frame: Literal["prep", "preop"]
    opening: str | None
    movements: str | None
    sites: list[SiteRow] = Field(min_length=1)
    scans: list[ScanRow]
    attempts: list[AttemptRow] = Field(min_length=1)


def export(db: Database, case_id: str) -> bytes:
    """Raises NotFound."""
    case, sites = cases.get_case(db, case_id), cases.sites_of(db, case_id)
    place = {site.id: k for k, site in enumerate(sites)}
    files: dict[str, bytes] = {}

    def scan_row(scan: scans.Scan) -> dict[str, Any]:
        name = f"scans/{scan.raw_hash}"
        files[name] = blobs.get(db, scan.raw_hash)
        return {"role": scan.role, "name": scan.name, "unit": scan.unit, "file": name}

    attempts = []
    for attempt in cases.attempts_of(db, case_id):
        readings = []
        for reading in cases.readings_in(db, attempt.id):
            job = jobs.newest_done(db, reading.id)
            stored = results.get_judgement(db, job.judgement_key) if job and job.judgement_key else None
            if stored is not None:
                told = json.dumps(stored.document, ensure_ascii=False)
                files[f"measured/{sites[place[reading.site_id]].tooth}_attempt-{attempt.number}.json"] = told.encode()
            done = [{k: e[k] for k in EditRow.model_fields} for e in edits.history(db, reading.id)]
            readings.append({"site": place[reading.site_id], "measured": stored is not None, "edits": done})
        own = [s for s in scans.scans_of(db, case_id, attempt.id) if s.attempt_id == attempt.id]
        attempts.append({"number": attempt.number, "scans": [scan_row(s) for s in own], "readings": readings})
    row = {
        "schema": SCHEMA, "version": __version__,
        **{k: getattr(case, k) for k in ("code", "notes", "surface_meaning", "opposing_frame", "opening", "movements")},
        "sites": [
            {
                "tooth": s.tooth, "restoration": s.restoration, "material": s.material,
                "standard": as_data(standards.find(db, s.standard_id, s.standard_version)),
                "functional_side": s.functional_side,
                "facts": {k: v for k, v in asdict(s).items() if k in (*cases.FLAGS, *cases.TOLD)},
            }
            for s in sites
        ],
        "scans": [scan_row(s) for s in scans.scans_of(db, case_id, None)],
        "attempts": attempts,
    }  # fmt: skip
    files[CASE] = json.dumps(row, ensure_ascii=False, indent=1).encode()
    return zips.packed(files, SCHEMA)


def bring(surgery: Surgery, data: bytes) -> overview.CaseView:
    """A case out of a file, as a new case, its measured teeth queued to be measured again; a laboratory's package too.

    Raises BadOption, UnreadableScan, ScanTooLarge with what is wrong; then nothing has changed.
    """
    files = zips.opened(data, WHAT)
    if CASE not in files and answers.PRESCRIPTION in files:
        return answers.open_package(surgery, files)
    row = _case_row(files)
    db = surgery.db
    every = [(None, s) for s in row.scans] + [(k, s) for k, a in enumerate(row.attempts) for s in a.scans]
    # Read before anything is written: it takes long, and a scan that cannot be read refuses the whole file.
    found = [(k, read(surgery, s.name, files[s.file], s.role, s.unit)) for k, s in every]
    with db.atomic():
        case = cases.add_case(db, row.code, row.notes, row.surface_meaning, row.opposing_frame)
        case = cases.change_case(db, replace(case, opening=row.opening, movements=row.movements), case.revision)
        site_ids = [_site(db, case.id, s).id for s in row.sites]
        attempts = [cases.add_attempt(db, case.id) for _ in row.attempts]
        for k, scan in found:
            keep(db, case.id, attempts[k or 0].id, scan)
        for attempt, made in zip(row.attempts, attempts, strict=True):
            mine = {r.site_id: r for r in cases.readings_in(db, made.id)}
            for told in attempt.readings:
                reading = mine[site_ids[told.site]]
                _replay(db, reading.id, told.edits, surgery.actor)
                if told.measured:
                    jobs.add_job(db, reading.id, actor=surgery.actor)
    return overview.view(db, case.id)


def _case_row(files: dict[str, bytes]) -> CaseRow:
    """What the file says, as far as it can be told before anything is done. Raises BadOption."""
    if CASE not in files:
        raise BadOption(f"{WHAT}: it holds no case and no laboratory's package.")
    try:
        row = CaseRow.model_validate_json(files[CASE])
    except ValidationError as error:
        first = error.errors()[0]
        place = " → ".join(str(p) for p in first["loc"])
        raise BadOption(f"{WHAT}: {CASE}, {place}: {first['msg']}. It may be of a newer version.") from error
    meaning_of(row.surface_meaning)
    if row.opening:
        Raise.parse(row.opening)
    if row.movements:
        Articulator.parse(row.movements)
    for site in row.sites:
        kinds.of(site.restoration)
        if set(site.facts) - {*cases.FLAGS, *cases.TOLD}:
            raise BadOption(
                f"{WHAT}: it says of tooth {site.tooth[:10]} what is not known. It may be of a newer version."
            )
    for scan in [*row.scans, *(s for a in row.attempts for s in a.scans)]:
        if scan.file not in files:
            raise BadOption(f"{WHAT}: the scan {scan.name[:60]} is not in it; ask for it again.")
    for attempt in row.attempts:
        if any(not 0 <= r.site < len(row.sites) for r in attempt.readings):
            raise BadOption(f"{WHAT}: attempt {attempt.number} names a tooth that is not in it.")
    return row


def _site(db: Database, case_id: str, row: SiteRow) -> cases.Site:
    """A tooth with its standard: the one of that name where it says the same, else kept as one of the surgery's own."""
    wanted = parse_standard(row.standard, str(row.standard.get("id")))
    tooth = ToothNumber.parse(row.tooth)
    try:
        known = standards.find(db, wanted.id)
    except NotFound:
        known = standards.save_standard(db, row.standard, 0)
    if known.id not in built_in() and known.digest != wanted.digest:
        known = standards.save_standard(db, row.standard, known.version)
    site = cases.add_site(db, case_id, tooth.fdi, row.restoration, row.material, known.id, known.version)
    cases.set_facts(db, site.id, row.facts)
    cases.set_functional_side(db, site.id, row.functional_side)
    return site


def _replay(db: Database, reading_id: str, rows: list[EditRow], actor: str) -> None:
    revisions: dict[str, int] = {}
    for row in rows:
        before = revisions.get(row.kind, 0)
        revisions[row.kind] = edits.append(db, reading_id, row.kind, row.value, before, row.returns_to, actor)

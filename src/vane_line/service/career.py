"""The log of a career: one hand's measured attempts out of the store, and what they say together."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass

from vane_line.core.grade.career import Career, Pass, career
from vane_line.core.judge import criteria
from vane_line.core.judge.verdicts import FAULTS
from vane_line.store import cases, exercises, jobs, results
from vane_line.store.database import Database


@dataclass(frozen=True)
class Asked:
    """Which of the cases are looked at; empty: all of them. hand: who had the first attempt measured."""

    restoration: str = ""
    material: str = ""
    tooth: str = ""
    hand: str = ""


@dataclass(frozen=True)
class Choices:
    """What there is to choose from."""

    restorations: list[str]
    materials: list[str]
    teeth: list[str]


def passes_of(db: Database, asked: Asked, only: set[str] | None) -> tuple[list[Pass], Choices]:
    """Measured attempts of the clinic's own cases (exercises' hand-ins are another's); only: ids of the cases that may
    be seen, None for all."""
    handed_in = exercises.hand_ins(db)
    kinds, materials, teeth = set[str](), set[str](), set[str]()
    found = []
    for case in cases.list_cases(db):
        if case.id in handed_in or (only is not None and case.id not in only):
            continue
        for site in cases.sites_of(db, case.id):
            done = [(r, jobs.newest_done(db, r.id)) for r in cases.readings_of(db, site.id)]
            measured = [(r, job) for r, job in done if job is not None and job.judgement_key is not None]
            if not measured or (asked.hand and measured[0][1].actor != asked.hand):
                continue
            kinds.add(site.restoration)
            materials.add(site.material)
            teeth.add(site.tooth)
            wanted = ((asked.restoration, site.restoration), (asked.material, site.material), (asked.tooth, site.tooth))
            if any(a and a != b for a, b in wanted):
                continue
            for reading, job in measured:
                verdicts = results.verdicts_of(db, job.judgement_key or "")
                if verdicts is not None:
                    found.append(
                        Pass(
                            code=case.code,
                            tooth=site.tooth,
                            restoration=site.restoration,
                            material=site.material,
                            number=reading.number,
                            at=reading.created_at,
                            verdicts=verdicts,
                        )
                    )
    return found, Choices(sorted(kinds), sorted(materials), sorted(teeth))


def career_of(db: Database, asked: Asked, only: set[str] | None) -> tuple[Career, Choices]:
    """What they say together, and what there is to choose from."""
    passes, choices = passes_of(db, asked, only)
    return career(passes), choices


def career_csv(db: Database, asked: Asked, only: set[str] | None) -> str:
    """One row a verdict at fault, of every attempt: for one's own table."""
    passes, _ = passes_of(db, asked, only)
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(("code", "tooth", "restoration", "material", "attempt", "at", "criterion", "where", "bound", "status",
                   "value", "unit", "limit", "target", "missing", "U"))  # fmt: skip
    rows.writerows(_rows(passes))
    return out.getvalue()


def _rows(passes: Iterable[Pass]) -> Iterable[tuple[object, ...]]:
    for one in sorted(passes, key=lambda p: (p.at, p.code, p.tooth, p.number)):
        for v in one.verdicts:
            if v["status"] in FAULTS:
                yield (one.code, one.tooth, one.restoration, one.material, one.number, one.at,
                       criteria.title(v["criterion"]), v["where"], v["bound"], v["status"], v["value"], v["unit"],
                       v["limit"], v["target"], v["missing"], v["U"])  # fmt: skip

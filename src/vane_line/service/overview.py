"""Start a case, and look at one as a whole."""

from __future__ import annotations

from dataclasses import dataclass

from vane_line.core.tooth.earlier import meaning_of
from vane_line.core.tooth.notation import ToothNumber
from vane_line.service.standards import choose
from vane_line.store import cases, jobs
from vane_line.store.database import Database


@dataclass(frozen=True)
class AttemptView:
    attempt: cases.Attempt
    job: jobs.Job | None


@dataclass(frozen=True)
class SiteView:
    site: cases.Site
    tooth: ToothNumber
    attempts: list[AttemptView]
    put_away: list[cases.Attempt]  # attempts that can be taken back


@dataclass(frozen=True)
class CaseView:
    case: cases.Case
    sites: list[SiteView]


def start_case(
    db: Database, code: str, tooth: ToothNumber, restoration: str, material: str, standard_id: str | None,
    meaning: str = "natural", opposing_frame: str = "prep", notes: str = "", demo: bool = False,
) -> CaseView:  # fmt: skip
    """A case with one site and its first attempt. Raises BadOption."""
    standard = choose(db, material, restoration, standard_id, tooth)
    meaning_of(meaning)
    with db.atomic():
        case = cases.add_case(db, code, notes, meaning, opposing_frame, demo)
        site = cases.add_site(db, case.id, tooth.fdi, restoration, material, standard.id, standard.version)
        cases.add_attempt(db, site.id)
    return view(db, case.id)


def view(db: Database, case_id: str) -> CaseView:
    """A case with its sites, attempts and their newest jobs. Raises NotFound."""
    case = cases.get_case(db, case_id)
    sites = []
    for site in cases.sites_of(db, case_id):
        attempts = [AttemptView(a, jobs.newest_job(db, a.id)) for a in cases.attempts_of(db, site.id)]
        away = cases.attempts_of(db, site.id, put_away=True)
        sites.append(SiteView(site, ToothNumber(site.tooth), attempts, away))
    return CaseView(case, sites)

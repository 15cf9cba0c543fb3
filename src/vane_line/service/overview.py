"""Start a case, and look at one as a whole."""

from __future__ import annotations

from dataclasses import dataclass

from vane_line.core.bridge.whole import missing_between
from vane_line.core.tooth.earlier import meaning_of
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption, Conflict
from vane_line.service.standards import choose
from vane_line.store import cases, jobs
from vane_line.store.database import Database


@dataclass(frozen=True)
class ReadingView:
    reading: cases.Reading
    job: jobs.Job | None


@dataclass(frozen=True)
class SiteView:
    site: cases.Site
    tooth: ToothNumber
    readings: list[ReadingView]
    put_away: list[cases.Reading]  # whose attempts can be taken back


@dataclass(frozen=True)
class CaseView:
    case: cases.Case
    sites: list[SiteView]

    @property
    def missing(self) -> list[str]:
        """The teeth that are missing between those that were cut: what a bridge would replace."""
        return [t.fdi for t in missing_between([s.tooth for s in self.sites])]


def start_case(
    db: Database, code: str, tooth: ToothNumber, restoration: str, material: str, standard_id: str | None,
    meaning: str = "natural", opposing_frame: str = "prep", notes: str = "", demo: bool = False,
) -> CaseView:  # fmt: skip
    """A case with one site and its first attempt. Raises BadOption."""
    standard = choose(db, material, restoration, standard_id, tooth)
    meaning_of(meaning)
    with db.atomic():
        case = cases.add_case(db, code, notes, meaning, opposing_frame, demo)
        cases.add_site(db, case.id, tooth.fdi, restoration, material, standard.id, standard.version)
        cases.add_attempt(db, case.id)
    return view(db, case.id)


def add_tooth(
    db: Database, case_id: str, tooth: ToothNumber, restoration: str, material: str, standard_id: str | None = None
) -> CaseView:
    """Another tooth of the same scans. Raises NotFound, BadOption, Conflict where it is one of the case already."""
    standard = choose(db, material, restoration, standard_id, tooth)
    with db.atomic():
        case = cases.get_case(db, case_id)
        others = [ToothNumber(s.tooth) for s in cases.sites_of(db, case.id)]
        if tooth in others:
            raise Conflict(f"Tooth {tooth.fdi} is one of this case already.")
        if others and others[0].upper != tooth.upper:
            raise BadOption(f"tooth {tooth.fdi}: the teeth of a case share its scans, so they stand in one jaw.")
        cases.add_site(db, case.id, tooth.fdi, restoration, material, standard.id, standard.version)
    return view(db, case_id)


def view(db: Database, case_id: str) -> CaseView:
    """A case with its sites, attempts and their newest jobs. Raises NotFound."""
    case = cases.get_case(db, case_id)
    sites = []
    for site in cases.sites_of(db, case_id):
        readings = [ReadingView(r, jobs.newest_job(db, r.id)) for r in cases.readings_of(db, site.id)]
        away = cases.readings_of(db, site.id, put_away=True)
        sites.append(SiteView(site, ToothNumber(site.tooth), readings, away))
    return CaseView(case, sites)

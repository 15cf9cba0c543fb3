"""How a case stands, in a word for the list: from its newest reading's job and judgement, and its plan."""

from __future__ import annotations

from dataclasses import dataclass

from vane_line.service.overview import CaseView
from vane_line.store import jobs, results, scans
from vane_line.store.database import Database

UNDER_WAY = (jobs.WAITING, jobs.RUNNING)
STATES = (
    "measuring", "failed", "not-yet", "cannot-say", "unmeasured", "waiting", "planned", "cut-no-more", "nothing",
    "stop",
)  # fmt: skip


@dataclass(frozen=True)
class Standing:
    """state: a word to filter by; text: in a line; picture: hash of the small one, None where nothing was measured."""

    state: str
    text: str
    picture: str | None = None


def standing(db: Database, view: CaseView) -> Standing:
    """Of the tooth whose newest attempt is furthest from done; a case without attempts waits for its scans."""
    found = [_of_site(db, view, k) for k in range(len(view.sites))]
    return min(found, key=lambda s: STATES.index(s.state), default=Standing("waiting", "waiting for its scans"))


def _of_site(db: Database, view: CaseView, number: int) -> Standing:
    site = view.sites[number]
    if not site.readings:
        return Standing("waiting", "waiting for its scans")
    newest = site.readings[-1]
    job = newest.job
    if job is not None and job.state in UNDER_WAY:
        return Standing("measuring", f"measuring: {job.text}")
    if job is not None and job.state == jobs.FAILED:
        return Standing("failed", job.error)
    done = jobs.newest_done(db, newest.reading.id)
    if done is not None and done.judgement_key:
        summary, picture = results.summary_of(db, done.judgement_key)
        if summary:
            return Standing(summary["state"], summary["text"], picture)
        return Standing("nothing", "measured by an earlier version: open it, or measure again", picture)
    roles = {s.role for s in scans.scans_of(db, view.case.id, newest.reading.attempt_id)}
    if "prep" in roles:
        return Standing("unmeasured", "scanned, not measured yet")
    ends = (newest.reading.id, site.readings[0].reading.id)
    if any(jobs.newest_done(db, reading, "plan") is not None for reading in ends):
        return Standing("planned", "planned, waiting for the scanner")
    return Standing("waiting", "waiting for the scan of the preparation" if roles else "waiting for its scans")

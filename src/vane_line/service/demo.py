"""Fill an empty database with the Saltmarsh demo: cut, scanned, imported and measured like anyone's scans."""

from __future__ import annotations

from collections.abc import Callable

from vane_line.core.mesh.read import MAX_BYTES, MAX_TRIANGLES
from vane_line.core.mesh.write import stl_bytes
from vane_line.core.tooth.notation import ToothNumber
from vane_line.service.import_scan import import_scan
from vane_line.service.measuring import measure_attempt
from vane_line.service.overview import start_case
from vane_line.service.worker import Worker
from vane_line.store import cases, jobs
from vane_line.store.database import Database

NOTES = "Saltmarsh teaching clinic, made-up data. Lower left first molar, cut a little timidly; operator SO-12."


def fill_demo(db: Database, db_path: str, worker: Worker, say: Callable[[str], None]) -> None:
    """Make the demo case with two attempts, unless the database holds cases already."""
    if cases.list_cases(db):
        return
    from vane_line.demo.cases import make_case, timid_first_molar

    say("Making the Saltmarsh demo (about a minute, only the first time):")
    made = []
    for attempt in (1, 2):
        made.append(
            make_case(
                timid_first_molar(attempt),
                lambda text, n=attempt: say(f"attempt {n}: {text} …"),
                prep_only=attempt > 1,
            )
        )
    limits = (MAX_BYTES, MAX_TRIANGLES)
    with db.atomic():
        view = start_case(
            db, "SM-0147", ToothNumber("36"), "full-crown", "lithium-disilicate", None, opposing_frame="preop",
            notes=NOTES, demo=True,
        )  # fmt: skip
        site = view.sites[0].site
        first = view.sites[0].attempts[0].attempt
        second = cases.add_attempt(db, site.id)
        for role in ("preop", "opposing"):
            surface = getattr(made[0], role)
            import_scan(db, view.case.id, first.id, f"SM-0147_{role}.stl", stl_bytes(surface), role, "auto", limits)
        for attempt, case in zip((first, second), made, strict=True):
            name = f"SM-0147_prep_{attempt.number}.stl"
            import_scan(db, view.case.id, attempt.id, name, stl_bytes(case.prep), "prep", "auto", limits)
    for attempt in (first, second):
        say(f"attempt {attempt.number}: measuring …")
        job = jobs.add_job(db, attempt.id)
        jobs.take_job(db)
        jobs.finish(db, job.id, measure_attempt(db, db_path, worker, attempt.id))

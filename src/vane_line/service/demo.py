"""Fill an empty database with the Saltmarsh demo: cut, scanned, imported and measured like anyone's scans."""

from __future__ import annotations

import multiprocessing
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor

from vane_line.core.mesh.read import MAX_BYTES
from vane_line.core.mesh.soup import MAX_TRIANGLES
from vane_line.core.mesh.write import stl_bytes
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.saltmarsh import SALTMARSH, DemoCase, DemoScans, scans_of
from vane_line.service import planning
from vane_line.service.import_scan import import_scan
from vane_line.service.measuring import measure_attempt
from vane_line.service.overview import start_case
from vane_line.service.worker import Worker
from vane_line.store import cases, edits, jobs
from vane_line.store.database import Database

MAKERS = 2


def fill_demo(db: Database, db_path: str, worker: Worker, say: Callable[[str], None], grid_mm: float) -> None:
    """Make the demo cases, unless the database holds cases already. grid_mm: of the simulated scanner."""
    if cases.list_cases(db):
        return
    say("Making the Saltmarsh demo (one to two minutes, only the first time):")
    with ProcessPoolExecutor(MAKERS, multiprocessing.get_context("spawn")) as makers:
        pending = {
            (case.code, k): makers.submit(scans_of, case.code, k, grid_mm)
            for case in SALTMARSH
            for k in range(len(case.attempts))
        }
        for case in SALTMARSH:
            say(f"tooth {case.tooth}: cutting and scanning …")
            _add(db, db_path, worker, case, [pending[case.code, k] for k in range(len(case.attempts))], say)


def _add(
    db: Database, db_path: str, worker: Worker, case: DemoCase, made: list[Future[DemoScans]],
    say: Callable[[str], None],
) -> None:  # fmt: skip
    scans = [future.result() for future in made]
    limits = (MAX_BYTES, MAX_TRIANGLES)
    with db.atomic():
        view = start_case(
            db, case.code, ToothNumber(case.tooth), "full-crown", case.material, case.standard, case.meaning, "preop",
            case.notes, demo=True,
        )  # fmt: skip
        site = view.sites[0].site
        attempts = [view.sites[0].attempts[0].attempt]
        attempts += [cases.add_attempt(db, site.id) for _ in scans[1:]]
        for attempt, given in zip(attempts, scans, strict=True):
            if given.core is not None:
                edits.append(db, attempt.id, "core", given.core, 0)
            if attempt.number == 1 and given.near is not None:
                edits.append(db, attempt.id, "plan", planning.DEFAULTS | {"near": given.near}, 0)
            for role, surface in given.surfaces.items():
                number = f"_{attempt.number}" if role == "prep" else ""
                name = f"{case.code}_{role}{number}.stl"
                import_scan(db, view.case.id, attempt.id, name, stl_bytes(surface), role, "auto", limits)
    for attempt in attempts:
        say(f"tooth {case.tooth}, attempt {attempt.number}: measuring …")
        job = jobs.add_job(db, attempt.id)
        jobs.take_job(db)
        jobs.finish(db, job.id, measure_attempt(db, db_path, worker, attempt.id))

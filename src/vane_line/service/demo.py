"""Fill an empty database with the Saltmarsh demo: cut, scanned, imported and measured like anyone's scans."""

from __future__ import annotations

import multiprocessing
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace

from vane_line.core import kinds
from vane_line.core.bridge.whole import missing_between
from vane_line.core.mesh.surface import Surface
from vane_line.core.mesh.write import stl_bytes
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.classroom import code_of, scan_of
from vane_line.demo.saltmarsh import SALTMARSH, DemoCase, DemoScans, scans_of
from vane_line.service import planning, teaching
from vane_line.service.bridging import bridge_reading
from vane_line.service.import_scan import keep, read
from vane_line.service.measuring import measure_reading
from vane_line.service.overview import add_tooth, start_case
from vane_line.service.surgery import Surgery
from vane_line.store import cases, edits, jobs
from vane_line.store.database import Database

MAKERS = 2
TAUGHT, PUPILS = "SM-0147", 8


def fill_demo(
    surgery: Surgery, say: Callable[[str], None], grid_mm: float,
    ready: Callable[[str, int, float], DemoScans] | None = None, wanted: Sequence[DemoCase] = SALTMARSH,
    pupils: int = PUPILS,
) -> None:  # fmt: skip
    """Make the demo cases, unless the database holds cases already.

    grid_mm: of the simulated scanner; ready: gives the scans of a case's attempt where they are made already; wanted:
    which cases; pupils: how many students have handed in for an exercise on the 36.
    """
    if cases.list_cases(surgery.db) or cases.list_cases(surgery.db, put_away=True):
        return
    if ready is not None:
        for case in wanted:
            _add(surgery, case, [ready(case.code, k, grid_mm) for k in range(len(case.attempts))], say)
        _hand_in(surgery, [scan_of(k) for k in range(1, pupils + 1)])
        return
    say("Making the Saltmarsh demo (one to two minutes, only the first time):")
    with ProcessPoolExecutor(MAKERS, multiprocessing.get_context("spawn")) as makers:
        pending = {
            (case.code, k): makers.submit(scans_of, case.code, k, grid_mm)
            for case in wanted
            for k in range(len(case.attempts))
        }
        for case in wanted:
            say(f"tooth {case.tooth}: cutting and scanning …")
            _add(surgery, case, [pending[case.code, k].result() for k in range(len(case.attempts))], say)
        if pupils:
            say(f"an exercise on tooth 36: {pupils} students hand in …")
        _hand_in(surgery, list(makers.map(scan_of, range(1, pupils + 1))))


def _hand_in(surgery: Surgery, scans: list[Surface]) -> None:
    """What students made of the 36; it is measured once the program runs."""
    if not scans:
        return
    case = next(c for c in cases.list_cases(surgery.db) if c.code == TAUGHT)
    exercise = teaching.start_exercise(surgery.db, "First molar for a ceramic crown", case.id, "crown", look_first=True)
    for number, surface in enumerate(scans, start=1):
        teaching.hand_in(surgery, exercise.id, f"{code_of(number)}_prep.stl", stl_bytes(surface), unit="mm")


def _add(surgery: Surgery, case: DemoCase, scans: list[DemoScans], say: Callable[[str], None]) -> None:
    db = surgery.db
    found = []
    for number, given in enumerate(scans, start=1):
        for role, surface in given.surfaces.items():
            name = f"{case.code}_{role}{f'_{number}' if role == 'prep' else ''}.stl"
            found.append((number, read(surgery, name, stl_bytes(surface), role, "auto")))
    with db.atomic():
        view = start_case(
            db=db,
            code=case.code,
            tooth=ToothNumber(case.tooth),
            restoration=case.restoration,
            material=case.material,
            standard_id=case.standard,
            meaning=case.meaning,
            opposing_frame="preop",
            notes=case.notes,
            demo=True,
        )
        cases.set_facts(db, view.sites[0].site.id, case.facts)
        if case.movements:
            cases.change_case(db, replace(view.case, movements=case.movements), view.case.revision)
        for tooth in case.also:
            add_tooth(db, view.case.id, ToothNumber(tooth), case.restoration, case.material, case.standard)
        for _ in scans[1:]:
            cases.add_attempt(db, view.case.id)
        readings = cases.readings_of(db, view.sites[0].site.id)
        for site in cases.sites_of(db, view.case.id):
            _told(db, case, site, scans)
        for number, scan in found:
            keep(db, view.case.id, readings[number - 1].attempt_id, scan)
    _measured(surgery, case, view.case.id, say)


def _told(db: Database, case: DemoCase, site: cases.Site, scans: list[DemoScans]) -> None:
    """What the operator drew and pressed on, of one tooth."""
    for reading, given in zip(cases.readings_of(db, site.id), scans, strict=True):
        if given.core is not None:
            edits.append(db, reading.id, "core", given.core, 0)
        if reading.number == 1 and site.tooth in given.near and kinds.of(case.restoration).plan is not None:
            edits.append(db, reading.id, "plan", planning.DEFAULTS | {"near": given.near[site.tooth]}, 0)


def _measured(surgery: Surgery, case: DemoCase, case_id: str, say: Callable[[str], None]) -> None:
    """Every tooth in every attempt, and all of them together where there are several."""
    db = surgery.db
    readings = [r for site in cases.sites_of(db, case_id) for r in cases.readings_of(db, site.id)]
    for reading in readings:
        say(f"tooth {cases.site_of(db, reading.id).tooth}, attempt {reading.number}: measuring …")
        job = jobs.add_job(db, reading.id)
        jobs.take_job(db)
        measure_reading(surgery, reading.id, job_id=job.id)
    if missing_between([ToothNumber(t) for t in (case.tooth, *case.also)]):
        say(f"teeth {', '.join((case.tooth, *case.also))}: measuring them as one bridge …")
        job = jobs.add_job(db, readings[0].id, "bridge")
        jobs.take_job(db)
        bridge_reading(surgery, readings[0].id, job_id=job.id)

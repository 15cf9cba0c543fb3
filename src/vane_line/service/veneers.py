"""The veneers of a case seen together, from what each was last measured to."""

from __future__ import annotations

from pydantic import ValidationError

from vane_line.core.contract.measurement import MeasurementDocument
from vane_line.core.contract.veneers import VeneersDocument
from vane_line.core.judge.veneers import seen_together
from vane_line.core.kinds.window import VENEER
from vane_line.errors import NotFound
from vane_line.service.measuring import result_of
from vane_line.store import cases
from vane_line.store.database import Database

ALONE = "A row is two veneers or more on the same scans: add the others to this case and measure them."


def veneers_of(db: Database, reading_id: str) -> VeneersDocument:
    """All veneers of a reading's attempt. Raises NotFound where fewer than two are measured."""
    reading = cases.get_reading(db, reading_id)
    mine = {r.site_id: r.id for r in cases.readings_in(db, reading.attempt_id)}
    documents, missing = [], []
    for site in cases.sites_of(db, reading.case_id):
        if site.restoration != VENEER.name:
            continue
        try:
            documents.append(MeasurementDocument.model_validate(result_of(db, mine[site.id])[0].document))
        except (NotFound, ValidationError):  # not measured, or by a version that told less
            missing.append(site.tooth)
    if len(documents) < 2:
        raise NotFound(ALONE)
    return seen_together(documents, missing)

"""What every service works with: the store, the processes that compute, the limits, and who is asking."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from vane_line.core.mesh.read import MAX_BYTES
from vane_line.core.mesh.soup import MAX_TRIANGLES
from vane_line.service.worker import Worker
from vane_line.store.database import Database

HERE = "this surgery"  # whoever sits at the machine, as long as nobody signs in


@dataclass(frozen=True)
class Surgery:
    """One per application. Its workers' processes start with their first task."""

    db: Database
    live: Worker  # sections and axes, while the person looks
    hand: Worker  # edits by hand; it keeps the open case's search trees and profiles
    batch: Worker  # jobs
    reader: Worker  # strangers' files: bounded in time and memory
    limits: tuple[int, int] = (MAX_BYTES, MAX_TRIANGLES)
    actor: str = HERE

    @classmethod
    def open(cls, db: Database, path: Path, limits: tuple[int, int] = (MAX_BYTES, MAX_TRIANGLES)) -> Surgery:
        """With processes of its own, which read the database at `path`."""
        live, hand, batch = (Worker(path) for _ in range(3))
        return cls(db, live, hand, batch, Worker(strangers=True), limits)

    def close(self) -> None:
        """End the processes."""
        for worker in (self.live, self.hand, self.batch, self.reader):
            worker.close()

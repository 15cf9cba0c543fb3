"""The folder that the scanner drops files into: a new scan of an open case is picked up, measured and announced.

A file's name begins with the case's code, as scanners name their exports. It becomes the next attempt's preparation
scan. What cannot be taken is put aside with a sentence that says why; nothing is ever deleted.
"""

from __future__ import annotations

import logging
import threading
from pathlib import Path

from vane_line.errors import InputError, UnreadableScan, VaneLineError
from vane_line.service.import_scan import import_scan
from vane_line.service.runner import Runner
from vane_line.store import arrivals, cases, scans
from vane_line.store.arrivals import Arrival
from vane_line.store.database import Database

log = logging.getLogger(__name__)
POLL_S = 1.0
SUFFIXES = (".stl", ".ply", ".obj")
TAKEN, ASIDE = "taken", "not-taken"


class Inbox:
    """Watches one folder. A file is read once its size has stood still from one look to the next."""

    def __init__(self, db: Database, runner: Runner, folder: Path, limits: tuple[int, int]) -> None:
        self._db, self._runner, self.folder, self._limits = db, runner, folder, limits
        self._sizes: dict[Path, int] = {}
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._watch, name="inbox", daemon=True)

    def start(self) -> None:
        """Begin to watch; the folder is made where it is missing."""
        self.folder.mkdir(parents=True, exist_ok=True)
        self._thread.start()

    def stop(self) -> None:
        """End."""
        self._stop.set()
        self._thread.join(timeout=10)

    def _watch(self) -> None:
        while not self._stop.wait(POLL_S):
            try:
                self.look()
            except OSError:
                log.exception("the watched folder %s cannot be read", self.folder)

    def look(self) -> list[Arrival]:
        """One look: take what has arrived whole."""
        made = []
        for path in sorted(self.folder.iterdir()):
            if not path.is_file() or path.suffix.lower() not in SUFFIXES:
                continue
            size = path.stat().st_size
            if size == 0 or self._sizes.get(path) != size:
                self._sizes[path] = size
                continue
            self._sizes.pop(path, None)
            made.append(self._take(path))
        return made

    def _take(self, path: Path) -> Arrival:
        try:
            case = self._case_of(path.name)
            attempt_id = self._import(case, path)
            job = self._runner.submit(attempt_id)
        except InputError as error:
            return self._aside(path, str(error))
        except VaneLineError:
            log.exception("%s could not be taken", path)
            return self._aside(path, "It could not be kept, for a reason of ours; the case is unchanged.")
        self._move(path, TAKEN)
        return arrivals.add_arrival(self._db, path.name, case.id, attempt_id, job.id)

    def _import(self, case: cases.Case, path: Path) -> str:
        """The scan as the newest attempt's preparation, or a new attempt's where that has one."""
        site = cases.sites_of(self._db, case.id)[0]
        newest = cases.attempts_of(self._db, site.id)[-1]
        taken = any(s.role == "prep" for s in scans.scans_of(self._db, case.id, newest.id))
        try:
            data = path.read_bytes()
        except OSError as error:
            raise UnreadableScan(f"{path.name}: it cannot be read ({error.strerror}).") from error
        with self._db.atomic():
            attempt = cases.add_attempt(self._db, site.id) if taken else newest
            import_scan(self._db, case.id, attempt.id, path.name, data, "prep", "auto", self._limits)
        return attempt.id

    def _case_of(self, name: str) -> cases.Case:
        """The open case whose code begins the name, the longest where several do."""
        lower = name.lower()
        found = [c for c in cases.list_cases(self._db) if lower.startswith(c.code.lower())]
        if not found:
            raise UnreadableScan(f"{name}: no open case's code begins this name; name the file like SM-0147_prep.stl.")
        return max(found, key=lambda c: (len(c.code), c.created_at))

    def _aside(self, path: Path, why: str) -> Arrival:
        moved = self._move(path, ASIDE)
        moved.with_suffix(moved.suffix + ".txt").write_text(why + "\n", encoding="utf-8")
        return arrivals.add_arrival(self._db, path.name, None, None, None, why)

    def _move(self, path: Path, where: str) -> Path:
        folder = self.folder / where
        folder.mkdir(exist_ok=True)
        target, number = folder / path.name, 2
        while target.exists():
            target = folder / f"{path.stem} ({number}){path.suffix}"
            number += 1
        return path.rename(target)

"""The folder that the scanner drops files into: a new scan of an open case is picked up, measured and announced.

A file's name begins with the case's code, as scanners name their exports. It becomes the next attempt's preparation
scan. What cannot be taken is put aside with a sentence that says why; nothing is ever deleted.
"""

from __future__ import annotations

import contextlib
import hashlib
import logging
import threading
from pathlib import Path

from vane_line.errors import InputError, ScanTooLarge, UnreadableScan, VaneLineError
from vane_line.service.import_scan import keep, read
from vane_line.service.runner import Runner
from vane_line.service.surgery import Surgery
from vane_line.store import arrivals, cases, jobs, scans
from vane_line.store.arrivals import Arrival

log = logging.getLogger(__name__)
POLL_S = 1.0
SUFFIXES = (".stl", ".ply", ".obj", ".gz", ".zip")
TAKEN, ASIDE = "taken", "not-taken"
State = tuple[int, int]  # bytes, nanoseconds of the last change
OURS = "It could not be kept, for a reason of ours; the case is unchanged."


class Inbox:
    """Watches one folder. A file is read once nothing was written into it from one look to the next."""

    def __init__(self, surgery: Surgery, runner: Runner, folder: Path) -> None:
        self._surgery, self._runner, self.folder = surgery, runner, folder
        self._seen: dict[Path, State] = {}
        self._stuck: dict[Path, State] = {}  # files that are done with and could not be moved
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
            except Exception:  # a folder that cannot be read, a full disk: it may pass, and the next look tells
                log.exception("the watched folder %s cannot be looked into", self.folder)

    def look(self) -> list[Arrival]:
        """One look: take what has arrived whole."""
        made = []
        for path in sorted(self.folder.iterdir()):
            if not path.is_file() or path.suffix.lower() not in SUFFIXES:
                continue
            state = _state(path)
            if self._stuck.get(path) == state:
                continue
            if state[0] == 0 or self._seen.get(path) != state:
                self._seen[path] = state
                continue
            del self._seen[path]
            made += self._take(path)
        return made

    def _take(self, path: Path) -> list[Arrival]:
        """What became of a file; nothing where it was taken before and only waits to be moved."""
        db = self._surgery.db
        try:
            data = self._bytes(path)
            digest = hashlib.sha256(data).hexdigest()
            if arrivals.taken(db, path.name, digest) is not None:
                self._move(path, TAKEN)
                return []
            arrival = self._import(self._case_of(path.name), path.name, data, digest)
        except InputError as error:
            return [self._aside(path, str(error))]
        except VaneLineError:
            log.exception("%s could not be taken", path)
            return [self._aside(path, OURS)]
        self._runner.wake()
        self._move(path, TAKEN)
        return [arrival]

    def _import(self, case: cases.Case, name: str, data: bytes, digest: str) -> Arrival:
        """The scan as the newest attempt's preparation, or a new attempt's where that has one; all its teeth queued."""
        db = self._surgery.db
        found = read(self._surgery, name, data, "prep", "auto")
        with db.atomic():
            newest = cases.attempts_of(db, case.id)[-1]
            taken = any(s.role == "prep" for s in scans.scans_of(db, case.id, newest.id))
            attempt = cases.add_attempt(db, case.id) if taken else newest
            keep(db, case.id, attempt.id, found)
            queued = [
                jobs.add_job(db, reading.id, actor=self._surgery.actor) for reading in cases.readings_in(db, attempt.id)
            ]
            return arrivals.add_arrival(db, name, case.id, attempt.id, queued[0].id, digest=digest)

    def _bytes(self, path: Path) -> bytes:
        limit = self._surgery.limits[0]
        try:
            if path.stat().st_size > limit:
                raise ScanTooLarge(f"{path.name}: over the limit of {limit / 1e6:.0f} MB; export a lighter scan.")
            return path.read_bytes()
        except OSError as error:
            raise UnreadableScan(f"{path.name}: it cannot be read ({error.strerror}).") from error

    def _case_of(self, name: str) -> cases.Case:
        """The open case whose code begins the name, the longest where several do."""
        lower = name.lower()
        found = [c for c in cases.list_cases(self._surgery.db) if _begins(lower, c.code.lower())]
        if not found:
            raise UnreadableScan(f"{name}: no open case's code begins this name; name the file like SM-0147_prep.stl.")
        return max(found, key=lambda c: (len(c.code), c.created_at))

    def _aside(self, path: Path, why: str) -> Arrival:
        moved = self._move(path, ASIDE)
        if moved is not None:
            note = moved.with_suffix(moved.suffix + ".txt")
            try:
                note.write_text(why + "\n", encoding="utf-8")
            except OSError:
                log.exception("%s could not be written", note)
        return arrivals.add_arrival(self._surgery.db, path.name, None, None, None, why)

    def _move(self, path: Path, where: str) -> Path | None:
        """Where it lies now; None where it could not be moved: it is then left alone as long as it stays as it is."""
        folder = self.folder / where
        try:
            folder.mkdir(exist_ok=True)
            target, number = folder / path.name, 2
            while target.exists():
                target = folder / f"{path.stem} ({number}){path.suffix}"
                number += 1
            return path.rename(target)
        except OSError:
            log.exception("%s could not be moved", path)
            with contextlib.suppress(OSError):
                self._stuck[path] = _state(path)
            return None


def _state(path: Path) -> State:
    """What changes when a file is written into."""
    stat = path.stat()
    return stat.st_size, stat.st_mtime_ns


def _begins(name: str, code: str) -> bool:
    """Whether a code begins a name, whole: S-01 does not begin S-012_prep.stl."""
    return name.startswith(code) and not name[len(code) : len(code) + 1].isalnum()

"""Backups on a schedule while the server runs."""

from __future__ import annotations

import logging
import threading
from datetime import UTC, datetime, timedelta
from pathlib import Path

from vane_line.errors import VaneLineError
from vane_line.store.backup import PREFIX, SUFFIX, Kept, back_up, backups
from vane_line.store.database import Database

log = logging.getLogger(__name__)
LOOK_S = 60.0


class Keeper:
    """Makes a backup whenever the newest in its folder is older than `every`; the newest `keep` stay."""

    def __init__(self, db: Database, folder: Path, every: timedelta, keep: int) -> None:
        self._db, self.folder, self.every, self.keep = db, folder, every, keep
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name="backups", daemon=True)

    def start(self) -> None:
        """Begin; the first look is at once."""
        self._thread.start()

    def stop(self) -> None:
        """End; a backup under way is finished first."""
        self._stop.set()
        self._thread.join(timeout=60)

    def look(self, at: datetime | None = None) -> Kept | None:
        """One look: a backup where it is time for one."""
        clock = at or datetime.now(UTC)
        newest = next((made for path in backups(self.folder) if (made := made_at(path))), None)
        if newest is not None and clock - newest < self.every:
            return None
        return back_up(self._db, self.folder, self.keep, clock)

    def _run(self) -> None:
        while True:
            try:
                self.look()
            except VaneLineError as error:  # a full disk, a drive that is away: said, and tried again
                log.error("backup: %s", error)
            if self._stop.wait(LOOK_S):
                return


def made_at(path: Path) -> datetime | None:
    """When a backup was made, by its name; None for another file."""
    try:
        named = path.name.removeprefix(PREFIX).removesuffix(SUFFIX)
        return datetime.strptime(named, "%Y%m%d-%H%M%S").replace(tzinfo=UTC)
    except ValueError:
        return None

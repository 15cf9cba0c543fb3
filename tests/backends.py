"""Stand-ins for the worker processes, where a test is about something else."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from vane_line.errors import InternalError
from vane_line.service.surgery import Surgery
from vane_line.service.worker import Ticket
from vane_line.store import blobs
from vane_line.store.database import Database
from vane_line.work.desk import Desk
from vane_line.work.task import Task
from vane_line.work.tasks import TASKS

HERE = "http://127.0.0.1"  # by which a person's browser calls the program


class Here:
    """Does the same tasks in this very process, from the same payloads."""

    def __init__(self, db: Database) -> None:
        self._desk = Desk(lambda digest: blobs.get(db, digest))
        self.sent: list[str] = []

    def run(self, task: Task, progress: Callable[[str, float], None] = print, ticket: Ticket | None = None) -> Any:
        self.sent.append(task.kind)
        return TASKS[task.kind](self._desk, task.payload, lambda _t, _s: None)

    def close(self) -> None:
        pass


class Fake:
    """Answers with what it is given, or raises it; `meanwhile` is called before, as if somebody else were at work."""

    def __init__(self, answer: Any, meanwhile: Callable[[], object] = lambda: None) -> None:
        self._answer, self._meanwhile = answer, meanwhile

    def run(self, task: Task, progress: Callable[[str, float], None] = print, ticket: Ticket | None = None) -> Any:
        self._meanwhile()
        if isinstance(self._answer, BaseException):
            raise self._answer
        return self._answer(task) if callable(self._answer) else self._answer

    def close(self) -> None:
        pass


class Never:
    """Must not be asked."""

    def run(self, task: Task, *_: Any) -> Any:
        raise InternalError(f"nobody should ask for {task.kind} here")

    def close(self) -> None:
        pass


def surgery_here(db: Database, limits: tuple[int, int] = (50_000_000, 1_000_000)) -> Surgery:
    """A surgery whose work is done in this process."""
    here: Any = Here(db)
    return Surgery(db, here, here, here, here, limits)

"""A process of its own that does the work: the geometry libraries hold the interpreter's lock, so threads would not do.

Pebble runs the process and starts another where it ended. Every question carries an id; an answer without its question
is dropped, a task that takes too long is ended, and cancelling ends the one task that is meant. The process only reads
the database.
"""

from __future__ import annotations

import json
import logging
import multiprocessing
import os
import threading
import zlib
from concurrent.futures import CancelledError, wait
from concurrent.futures import TimeoutError as TookTooLong
from functools import cache
from pathlib import Path
from typing import Any

from pebble import ProcessExpired, ProcessPool
from ulid import ULID

from vane_line import errors
from vane_line.errors import InternalError, VaneLineError, WorkerDied
from vane_line.work.task import Progress, Task

log = logging.getLogger(__name__)
LISTEN_S = 0.1  # between two looks at how far it is
MOST_S = {"read": 60.0, "measure": 900.0, "plan": 900.0}
USUAL_MOST_S = 240.0
MOST_MEMORY_BYTES = 6 << 30  # of a process that reads strangers' files
BOARD_BYTES = 2048


@cache
def _mother() -> Any:
    """How processes begin: as copies of one that has imported what they need. Only the first waits for that, and one
    that was ended is replaced at once."""
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(["vane_line.work.tasks", "vane_line.work.desk", "vane_line.store.blobs"])
    return context


class Cancelled(Exception):
    """The task was ended on purpose."""


class Ticket:
    """One question: its id, and the way to cancel it and nothing else."""

    def __init__(self) -> None:
        self.id = str(ULID())
        self._lock = threading.Lock()
        self._future: Any = None
        self.cancelled = False

    def cancel(self) -> None:
        """End this task where it runs, or before it begins; an ended one is left alone."""
        with self._lock:
            self.cancelled = True
            if self._future is not None:
                self._future.cancel()

    def hold(self, future: Any) -> None:
        """The running task, which may have been cancelled while it waited for its turn."""
        with self._lock:
            self._future = future
            if self.cancelled:
                future.cancel()


class Board:
    """How far the task is, in memory that both processes see: no lock, so that nobody who dies leaves one behind."""

    def __init__(self, context: Any) -> None:
        self.memory = context.RawArray("B", BOARD_BYTES)

    @staticmethod
    def write(memory: Any, note: dict[str, Any]) -> None:
        text = json.dumps(note).encode()[: BOARD_BYTES - 8]
        head = len(text).to_bytes(4, "little") + zlib.crc32(text).to_bytes(4, "little")
        memory[: 8 + len(text)] = list(head + text)

    def read(self) -> dict[str, Any]:
        """The last whole note; a half written one is none."""
        raw = bytes(self.memory)
        size, check = int.from_bytes(raw[:4], "little"), int.from_bytes(raw[4:8], "little")
        text = raw[8 : 8 + size]
        if size == 0 or zlib.crc32(text) != check:
            return {}
        return dict(json.loads(text))


class Worker:
    """One process, kept warm between tasks; `database` is read by it, None where it needs none."""

    def __init__(self, database: Path | None = None, strangers: bool = False) -> None:
        self._database, self._strangers = database, strangers
        self._context = _mother()
        self._board = Board(self._context)
        self._pool: ProcessPool | None = None
        self._turn = threading.Lock()

    @property
    def pid(self) -> int | None:
        """Of the process, once it has begun."""
        found = self._board.read().get("pid")
        return None if found is None else int(found)

    def run(self, task: Task, progress: Progress = lambda _t, _s: None, ticket: Ticket | None = None) -> Any:
        """The task's answer. Raises what the task raised of ours, InternalError when it died or hung, Cancelled.

        An exception in `progress` ends the task and comes through.
        """
        ticket = ticket or Ticket()
        limit = MOST_S.get(task.kind, USUAL_MOST_S)
        with self._turn:
            if ticket.cancelled:
                raise Cancelled
            future: Any = self._ready().schedule(_do, args=[ticket.id, task], timeout=limit)
            ticket.hold(future)
            try:
                answer = self._listen(future, ticket, progress)
            except CancelledError as error:
                raise Cancelled from error
            except TookTooLong as error:
                raise InternalError(f"It took over {limit:.0f} s and was given up; nothing was lost.") from error
            except ProcessExpired as error:
                raise WorkerDied(
                    "The measuring process ended unexpectedly; nothing was lost, measure again."
                ) from error
            except BaseException:
                future.cancel()
                raise
        if answer["id"] != ticket.id:
            self.close()
            raise InternalError("An answer came to another question; nothing was kept, measure again.")
        if answer["error"] is not None:
            kind, text = answer["error"]
            raise _ours(kind)(text)
        return answer["value"]

    def close(self) -> None:
        """End the process; the next task would start another."""
        pool: Any = self._pool
        self._pool = None
        if pool is not None:
            pool.stop()
            pool.join(timeout=10)

    def _listen(self, future: Any, ticket: Ticket, progress: Progress) -> dict[str, Any]:
        told: dict[str, Any] = {}
        while True:
            ended = wait([future], timeout=LISTEN_S).done
            note = self._board.read()
            if note.get("id") == ticket.id and note != told and "text" in note:
                told = note
                progress(note["text"], note["share"])
            if ended:
                return dict(future.result())

    def _ready(self) -> ProcessPool:
        if self._pool is None or not self._pool.active:
            self.close()
            begin = (self._board.memory, self._database, self._strangers)
            self._pool = ProcessPool(1, initializer=_begin, initargs=begin, context=self._context)
        return self._pool


def _ours(kind: str) -> type[VaneLineError]:
    found = getattr(errors, kind, None)
    return found if isinstance(found, type) and issubclass(found, VaneLineError) else InternalError


_here: dict[str, Any] = {}  # what this process was begun with


def _begin(memory: Any, database: Path | None, strangers: bool) -> None:
    """In the worker, once: imports, the desk, the way to stored bytes."""
    import resource
    import signal

    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the parent decides when to stop
    if strangers:
        resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY_BYTES, MOST_MEMORY_BYTES))
    from vane_line.work.desk import Desk
    from vane_line.work.tasks import TASKS

    _here.update(memory=memory, tasks=TASKS, desk=Desk(_fetcher(database)))
    Board.write(memory, {"pid": os.getpid()})


def _fetcher(database: Path | None) -> Any:
    from vane_line.store import blobs
    from vane_line.store.database import Database

    opened: list[Database] = []

    def fetch(digest: str) -> bytes:
        if database is None:
            raise InternalError("This process was not given a store to read from.")
        if not opened:
            opened.append(Database(database, read_only=True))
        return blobs.get(opened[0], digest)

    return fetch


def _do(question: str, task: Task) -> dict[str, Any]:
    """In the worker: one task, its answer or error as plain data."""

    def progress(text: str, share: float) -> None:
        Board.write(_here["memory"], {"pid": os.getpid(), "id": question, "text": text, "share": share})

    answer: dict[str, Any] = {"id": question, "value": None, "error": None}
    try:
        answer["value"] = _here["tasks"][task.kind](_here["desk"], task.payload, progress)
    except VaneLineError as error:
        answer["error"] = (type(error).__name__, str(error))
    except MemoryError:
        answer["error"] = ("ScanTooLarge", "It needs more memory than there is; export a lighter scan.")
    except Exception as error:
        log.exception("the task %s failed", task.kind)
        answer["error"] = ("InternalError", f"Measuring failed ({type(error).__name__}); the case is unchanged.")
    return answer

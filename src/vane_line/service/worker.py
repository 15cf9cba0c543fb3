"""A spawned process that measures: the geometry libraries hold the interpreter's lock, so threads would not do.

The parent sends one task at a time and reads progress, then an answer. Cancelling ends the process; the next task
starts a new one. The worker only reads the database.
"""

from __future__ import annotations

import multiprocessing
import pickle
import threading
from collections.abc import Callable
from dataclasses import dataclass
from multiprocessing.connection import Connection
from typing import Any

from vane_line.errors import InputError, InternalError

Progress = Callable[[str, float], None]


@dataclass(frozen=True)
class Task:
    """What to do (`kind` names a function of `service.tasks`), and with what."""

    kind: str
    payload: dict[str, Any]


class Cancelled(Exception):
    """The task was ended on purpose."""


class Worker:
    """One spawned process, kept warm between tasks."""

    def __init__(self, name: str) -> None:
        self._name = name
        self._context = multiprocessing.get_context("spawn")
        self._process: Any = None
        self._pipe: Connection | None = None
        self._lock = threading.Lock()
        self._cancelled = threading.Event()

    def run(self, task: Task, progress: Progress = lambda _t, _s: None) -> Any:
        """The task's answer. Raises InputError as the worker raised it, InternalError when it died, Cancelled."""
        with self._lock:
            self._cancelled.clear()
            pipe = self._ensure()
            try:
                pipe.send_bytes(pickle.dumps(task))
                while True:
                    kind, *content = pickle.loads(pipe.recv_bytes())
                    if kind == "progress":
                        progress(*content)
                    elif kind == "answer":
                        return content[0]
                    else:
                        raise content[0]
            except (EOFError, OSError) as error:
                self._drop()
                if self._cancelled.is_set():
                    raise Cancelled from error
                raise InternalError(
                    "The measuring process ended unexpectedly; nothing was lost, measure again."
                ) from error

    def cancel(self) -> None:
        """End the running task by ending the process."""
        self._cancelled.set()
        process = self._process
        if process is not None:
            process.terminate()

    def close(self) -> None:
        """End the process for good."""
        self.cancel()
        self._drop()

    def warm(self) -> None:
        """Start the process and its imports ahead of the first task."""
        with self._lock:
            self._ensure()

    def _ensure(self) -> Connection:
        if self._process is None or not self._process.is_alive() or self._pipe is None:
            parent, child = self._context.Pipe()
            self._process = self._context.Process(target=_serve, args=(child,), name=self._name, daemon=True)
            self._process.start()
            child.close()
            self._pipe = parent
        return self._pipe

    def _drop(self) -> None:
        if self._pipe is not None:
            self._pipe.close()
        if self._process is not None:
            self._process.terminate()
            self._process.join(timeout=5)
        self._pipe = self._process = None


def _serve(pipe: Connection) -> None:
    """The worker's loop."""
    import signal

    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the parent decides when to stop
    from vane_line.service import tasks

    while True:
        try:
            task: Task = pickle.loads(pipe.recv_bytes())
        except (EOFError, OSError):
            return
        try:
            run = tasks.TASKS[task.kind]
            answer = run(task.payload, lambda text, share: pipe.send_bytes(pickle.dumps(("progress", text, share))))
            pipe.send_bytes(pickle.dumps(("answer", answer)))
        except InputError as error:
            pipe.send_bytes(pickle.dumps(("error", type(error)(str(error)))))
        except Exception as error:
            import traceback

            traceback.print_exc()
            failure = InternalError(f"Measuring failed ({type(error).__name__}); the case is unchanged.")
            pipe.send_bytes(pickle.dumps(("error", failure)))

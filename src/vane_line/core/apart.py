"""Work on things that do not need each other, on as many cores as there are: each share in a copy of this process.

Threads would not do: most of a measurement holds the interpreter. A copy shares all that was read and prepared before,
so only answers travel. It ends with the process it was copied from, whatever ends that.
"""

from __future__ import annotations

import ctypes
import os
import pickle
import signal
import sys
from collections.abc import Callable, Sequence
from typing import Any, TypeVar

from vane_line.errors import InternalError

T = TypeVar("T")
Job = Callable[[], T]
DIES_WITH_PARENT = 1  # prctl's PR_SET_PDEATHSIG


def each(jobs: Sequence[Job[T]]) -> list[T]:
    """The jobs' answers, in their order; answers and errors are pickled.

    A job may not register scans: after a copy the threads of that library are not there any more. Raises what the
    first job that failed raised; InternalError where a copy ended without an answer.
    """
    shares = min(_cores(), len(jobs))
    if shares < 2:
        return [job() for job in jobs]
    copies = [_Copy(jobs[k::shares]) for k in range(1, shares)]
    try:
        done = [_tried(jobs[::shares]), *(copy.answer() for copy in copies)]
    finally:
        for copy in copies:
            copy.end()
    for answers in done:
        if isinstance(answers, BaseException):
            raise answers
    return [done[k % shares][k // shares] for k in range(len(jobs))]


def _cores() -> int:
    return len(os.sched_getaffinity(0)) if sys.platform == "linux" else 1


def _tried(jobs: Sequence[Job[T]]) -> list[T] | BaseException:
    try:
        return [job() for job in jobs]
    except Exception as error:
        return error


class _Copy:
    """This process once more, at work on some jobs."""

    def __init__(self, jobs: Sequence[Job[Any]]) -> None:
        self._reading, writing = os.pipe()
        me = os.getpid()
        self._pid = os.fork()
        if self._pid == 0:
            code = 1
            try:
                os.close(self._reading)
                ctypes.CDLL(None).prctl(DIES_WITH_PARENT, signal.SIGKILL)
                if os.getppid() == me:  # it may have ended in between
                    answer = pickle.dumps(_tried(jobs), protocol=pickle.HIGHEST_PROTOCOL)
                    with os.fdopen(writing, "wb") as out:
                        out.write(answer)
                    code = 0
            finally:
                os._exit(code)  # nothing of the copied process is tidied up twice
        os.close(writing)

    def answer(self) -> Any:
        """What came back: the answers, or what was raised."""
        reading, self._reading = self._reading, -1
        with os.fdopen(reading, "rb") as told:
            data = told.read()
        return pickle.loads(data) if data else InternalError("A part of the measurement ended without an answer.")

    def end(self) -> None:
        """Stop it where it still works, and take leave of it."""
        if self._reading >= 0:
            os.close(self._reading)
            os.kill(self._pid, signal.SIGKILL)
        os.waitpid(self._pid, 0)

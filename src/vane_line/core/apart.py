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
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any, TypeVar

from vane_line.errors import InternalError

T = TypeVar("T")
U = TypeVar("U")
Job = Callable[[], T]
DIES_WITH_PARENT = 1  # prctl's PR_SET_PDEATHSIG
_ALONE: ContextVar[bool] = ContextVar("alone", default=False)  # the cores have work already


def each(jobs: Sequence[Job[T]]) -> list[T]:
    """The jobs' answers, in their order; answers and errors are pickled.

    What a job asks to be shared is not shared again. In a copy the threads of libraries are not there any more: a job
    may ask them for no more than `free_cores`. Raises what a job raised; InternalError where a copy ended without an
    answer.
    """
    shares = max(min(free_cores(), len(jobs)), 1)
    copies: list[_Copy] = []
    try:
        with alone():
            copies += (_Copy(jobs[k::shares]) for k in range(1, shares))
            done = [[job() for job in jobs[::shares]]]
        for copy in copies:
            answers = copy.answer()
            if isinstance(answers, BaseException):
                raise answers
            done.append(answers)
    finally:
        for copy in copies:
            copy.end()
    return [done[k % shares][k // shares] for k in range(len(jobs))]


def both(here: Job[T], there: Job[U]) -> tuple[T, U]:
    """As `each`, of two jobs: `here` is done in this process, and what it changes stays changed."""
    done: list[Any] = each([here, there])
    return done[0], done[1]


@contextmanager
def alone() -> Iterator[None]:
    """Within, nothing is shared out: for one of many processes that keep the cores busy as it is."""
    before = _ALONE.set(True)
    try:
        yield
    finally:
        _ALONE.reset(before)


def free_cores() -> int:
    """On how many cores this process may work: on one within `alone`, and within what is shared out."""
    return 1 if _ALONE.get() else _cores()


def _cores() -> int:
    return len(os.sched_getaffinity(0)) if sys.platform == "linux" else 1


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
                    with os.fdopen(writing, "wb") as out:
                        out.write(_pickled(jobs))
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


def _pickled(jobs: Sequence[Job[Any]]) -> bytes:
    answer: list[Any] | Exception
    try:
        answer = [job() for job in jobs]
    except Exception as error:
        answer = error
    return pickle.dumps(answer, protocol=pickle.HIGHEST_PROTOCOL)

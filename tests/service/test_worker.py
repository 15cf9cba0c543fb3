"""The worker process: an answer belongs to its question, whatever happens in between."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from typing import Any

import pytest
from solids import sphere
from waiting import HANGS_S

from vane_line.core.mesh.write import stl_bytes
from vane_line.errors import InternalError, UnreadableScan
from vane_line.service import worker as workers
from vane_line.service.worker import Board, Cancelled, Ticket, Worker
from vane_line.work.task import Task

BALL, SMALL = stl_bytes(sphere(8.0, grid=0.3)), stl_bytes(sphere(5.0, grid=0.3))


@cache
def large() -> bytes:
    """A scan that takes a while to read."""
    return stl_bytes(sphere(8.0, grid=0.08))


@pytest.fixture(autouse=True)
def patience(monkeypatch: pytest.MonkeyPatch) -> None:
    """A machine that is busy with other work may take long to start a process."""
    monkeypatch.setitem(workers.MOST_S, "read", 600.0)


def ask(data: bytes, name: str = "ball.stl") -> Task:
    return Task("read", {"name": name, "data": data, "role": "prep", "unit": "mm", "limits": (10**9, 10**7)})


def width(answer: dict[str, Any]) -> float:
    return round(float(answer["facts"]["size_mm"][0]))


@pytest.fixture(scope="module")
def worker() -> Iterator[Worker]:
    made = Worker()
    yield made
    made.close()


def test_an_answer_after_a_failure_in_progress_is_its_own(worker: Worker) -> None:
    """Whoever listens fails in the middle: it comes through, and the next question gets its own answer."""

    def fails(_text: str, _share: float) -> None:
        raise RuntimeError("the disk is full")

    for _ in range(2):
        with pytest.raises(RuntimeError, match="disk is full"):
            worker.run(ask(BALL), fails)
        assert width(worker.run(ask(SMALL))) == 10
        assert width(worker.run(ask(BALL))) == 16


def test_an_answer_to_another_question_is_dropped(worker: Worker, monkeypatch: pytest.MonkeyPatch) -> None:
    """Should one ever come: our failure, in words, and a fresh process for the next."""
    with monkeypatch.context() as patched:
        patched.setattr(worker, "_listen", lambda *_: {"id": "somebody else's", "error": None, "value": 1})
        with pytest.raises(InternalError, match="another question"):
            worker.run(ask(SMALL))
    assert width(worker.run(ask(SMALL))) == 10


def test_a_process_that_dies_is_said_and_replaced(worker: Worker) -> None:
    """Killed while it works: our failure, in words; the next task finds a new process."""
    worker.run(ask(SMALL))
    first = worker.pid

    def kill(_text: str, _share: float) -> None:
        assert worker.pid is not None
        os.kill(worker.pid, 9)

    with pytest.raises(InternalError, match="ended unexpectedly"):
        worker.run(ask(large()), kill)
    assert width(worker.run(ask(SMALL))) == 10
    assert worker.pid != first


def test_a_replacement_is_a_copy_of_what_has_been_imported(worker: Worker) -> None:
    """Processes come from one of ours that is none of them, and what they need is imported before they are asked."""

    def parent(pid: int) -> int:
        """Of a process, as proc(5) tells it."""
        return int(Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[1])

    worker.run(ask(SMALL))
    first, mother = worker.pid, parent(worker.pid or 0)
    worker.close()
    worker.run(ask(SMALL))
    assert worker.pid != first
    assert parent(worker.pid or 0) == mother
    assert parent(mother) == os.getpid()
    libraries = Path(f"/proc/{mother}/maps").read_text()
    assert "small_gicp" in libraries
    assert "igl" in libraries


def test_the_person_s_mistakes_come_through(worker: Worker) -> None:
    """As the same kind of error with its sentence."""
    with pytest.raises(UnreadableScan, match=r"cut\.stl"):
        worker.run(ask(BALL[:900], "cut.stl"))


def test_what_takes_too_long_is_given_up(worker: Worker, monkeypatch: pytest.MonkeyPatch) -> None:
    """A limit on each kind of task; nothing after it is held up."""
    worker.run(ask(SMALL))
    with monkeypatch.context() as patched:
        patched.setitem(workers.MOST_S, "read", 0.03)
        with pytest.raises(InternalError, match="given up"):
            worker.run(ask(large()))
    assert width(worker.run(ask(SMALL))) == 10


def test_cancelling_ends_the_one_task_that_is_meant(worker: Worker) -> None:
    """The running one ends; cancelling it once more, when the next runs, leaves that alone; one that waits for its
    turn never begins."""
    running, waiting = Ticket(), Ticket()
    begun = threading.Event()
    ended: list[object] = []

    def work(ticket: Ticket, tell: Any) -> None:
        try:
            ended.append(width(worker.run(ask(large()), tell, ticket)))
        except Cancelled:
            ended.append("cancelled")

    first = threading.Thread(target=work, args=(running, lambda _t, _s: begun.set()))
    first.start()
    assert begun.wait(HANGS_S)
    second = threading.Thread(target=work, args=(waiting, lambda _t, _s: None))
    second.start()
    waiting.cancel()
    running.cancel()
    first.join(HANGS_S)
    second.join(HANGS_S)
    assert ended == ["cancelled", "cancelled"]
    next_one = Ticket()
    third = threading.Thread(target=work, args=(next_one, lambda _t, _s: running.cancel()))
    third.start()
    third.join(HANGS_S)
    assert ended[2:] == [16]


def test_half_a_note_is_none() -> None:
    """What the other process was writing when it died is not read."""
    board = Board(workers.multiprocessing.get_context("spawn"))
    assert board.read() == {}
    Board.write(board.memory, {"text": "reading", "share": 0.5})
    assert board.read()["share"] == 0.5
    board.memory[12] = 0
    assert board.read() == {}


def test_a_hostile_file_stops_nobody_else(worker: Worker) -> None:
    """Reading happens in a process of its own: this one answers meanwhile."""
    done = threading.Event()
    big = ask(large())
    thread = threading.Thread(target=lambda: (worker.run(big), done.set()))
    thread.start()
    ticks = 0
    while not done.is_set():
        time.sleep(0.01)
        ticks += 1
    thread.join()
    assert ticks > 5

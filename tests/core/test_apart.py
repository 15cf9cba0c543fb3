"""Work shared among copies of the process: answers in their order, errors as they were, and nobody left behind."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from functools import partial
from typing import NoReturn

import numpy as np
import pytest
from solids import Stump, facing

from vane_line.core import apart
from vane_line.core.apart import alone, both, each
from vane_line.core.case import measure
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import InternalError, UnfitScans

# Says its own number and its copy's, then both work on until somebody ends them.
ENDLESS = r"""
import os, time
from vane_line.core import apart
apart._cores = lambda: 2
def work():
    os.write(1, f"{os.getpid()}\n".encode())  # at once: both write to one pipe
    time.sleep(600)
apart.each([work, work])
"""


@pytest.fixture(autouse=True)
def _two_cores(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """Shared out here, as it is on a machine with two cores."""
    monkeypatch.setattr(apart, "_cores", lambda: 2)
    before = apart._ALONE.set(False)
    yield
    apart._ALONE.reset(before)


def where(number: int) -> tuple[int, int, np.ndarray]:
    return number, os.getpid(), np.arange(number)


def unfit() -> NoReturn:
    raise UnfitScans("prep: no preparation is found there.")


@pytest.fixture(params=[1, 2, 3])
def cores(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> int:
    monkeypatch.setattr(apart, "_cores", lambda: request.param)
    return int(request.param)


@pytest.mark.parametrize("count", [0, 1, 2, 5])
def test_answers_come_in_their_order(cores: int, count: int) -> None:
    answers = each([partial(where, k) for k in range(count)])
    assert [number for number, _, _ in answers] == list(range(count))
    assert all((values == np.arange(number)).all() for number, _, values in answers)
    assert len({process for _, process, _ in answers}) == min(cores, count)
    assert not answers or answers[0][1] == os.getpid()


def test_what_one_of_two_changes_here_stays_changed(cores: int) -> None:
    said: list[str] = []
    first, (_, process, _) = both(partial(said.append, "here"), partial(where, 3))
    assert first is None
    assert said == ["here"]
    assert (process == os.getpid()) == (cores == 1)


def test_cores_that_have_work_get_no_more() -> None:
    """Neither in a share of what is shared out already, here or in a copy, nor where the caller says so."""
    twice = partial(each, [partial(where, 1), partial(where, 2)])
    for inner in each([twice, twice]):
        assert len({process for _, process, _ in inner}) == 1
    with alone():
        assert {process for _, process, _ in twice()} == {os.getpid()}
    assert len({process for _, process, _ in twice()}) == 2


@pytest.mark.parametrize("at", [0, 1])
def test_an_error_comes_through_as_it_was(cores: int, at: int) -> None:
    jobs: list[Callable[[], object]] = [partial(where, 1), partial(where, 2)]
    jobs[at] = unfit
    with pytest.raises(UnfitScans, match="no preparation is found"):
        each(jobs)


def test_a_copy_that_ends_without_an_answer_is_told() -> None:
    for end in (partial(os._exit, 3), lambda: lambda: None):  # the second answer cannot be pickled
        with pytest.raises(InternalError, match="without an answer"):
            each([partial(where, 1), end])


def test_no_copy_is_left_when_this_process_fails(monkeypatch: pytest.MonkeyPatch) -> None:
    """Interrupted while a copy still works: it is ended, and not waited for."""
    begun: list[int] = []
    fork = os.fork

    def noted() -> int:
        begun.append(fork())
        return begun[-1]

    def interrupted() -> NoReturn:
        raise KeyboardInterrupt

    monkeypatch.setattr(os, "fork", noted)
    with pytest.raises(KeyboardInterrupt):
        each([interrupted, partial(time.sleep, 600)])
    with pytest.raises(ProcessLookupError):
        os.kill(begun[0], 0)


@pytest.mark.skipif(sys.platform != "linux", reason="copies are made on Linux only")
def test_a_copy_ends_with_the_process_it_was_copied_from() -> None:
    whole = subprocess.Popen([sys.executable, "-c", ENDLESS], stdout=subprocess.PIPE, text=True)
    assert whole.stdout is not None
    mine, copied = sorted((int(whole.stdout.readline()) for _ in range(2)), key=lambda pid: pid != whole.pid)
    assert mine == whole.pid
    os.kill(mine, signal.SIGKILL)
    whole.wait()
    while _runs(copied):  # the suite's own limit ends this if it never does
        time.sleep(0.05)


def _runs(pid: int) -> bool:
    try:
        with open(f"/proc/{pid}/stat", encoding="ascii") as file:
            return file.read().rsplit(") ", 1)[1][0] != "Z"
    except FileNotFoundError:
        return False


def test_a_measurement_on_two_cores_gives_what_one_core_gives(stump: Stump, monkeypatch: pytest.MonkeyPatch) -> None:
    """The same scans, once with its halves in two processes and once in one: every verdict, to the last digit."""
    copies: list[int] = []
    make = apart._Copy
    monkeypatch.setattr(apart, "_Copy", lambda jobs: copies.append(len(jobs)) or make(jobs))
    scans, standard = stump.scans(clearance_mm=1.0), choose("zirconia", "full-crown", None)

    def told() -> list[tuple[str, str, str, str, float]]:
        found = judge(measure(scans, facing(ToothNumber("36"))), standard).verdicts
        return [(v.criterion, v.zone, v.bound, v.status, np.nan if v.value is None else v.value) for v in found]

    shared = told()
    assert copies
    with alone():
        single = told()
    assert [row[:4] for row in shared] == [row[:4] for row in single]
    np.testing.assert_array_equal([row[4] for row in shared], [row[4] for row in single])

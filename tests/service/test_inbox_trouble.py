"""The watched folder in trouble: what fails is said, nothing is taken twice, the watch goes on."""

from __future__ import annotations

import gzip
import os
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from backends import Fake, surgery_here
from solids import sphere
from waiting import until

from vane_line.core.mesh.write import stl_bytes
from vane_line.core.tooth.notation import ToothNumber
from vane_line.service import inbox as watching
from vane_line.service.inbox import ASIDE, OURS, TAKEN, Inbox
from vane_line.service.overview import start_case
from vane_line.service.runner import Runner
from vane_line.store import arrivals, cases, scans
from vane_line.store.database import Database

BALL = stl_bytes(sphere(8.0, grid=0.5))


class Folder:
    """A watched folder beside an open case, SM-7; looked into by hand."""

    def __init__(self, folder: Path) -> None:
        self.db = Database(":memory:")
        surgery = surgery_here(self.db)
        view = start_case(self.db, "SM-7", ToothNumber("36"), "full-crown", "zirconia", None)
        self.site = view.sites[0].site
        self.inbox = Inbox(surgery, Runner(surgery), folder)
        self.path = folder

    def look(self, times: int = 2) -> list[arrivals.Arrival]:
        return [a for _ in range(times) for a in self.inbox.look()]

    def prepared(self) -> int:
        attempts = cases.attempts_of(self.db, self.site.case_id)
        return sum(bool(scans.scans_of(self.db, self.site.case_id, a.id)) for a in attempts)


@pytest.fixture
def folder(tmp_path: Path) -> Folder:
    return Folder(tmp_path)


def test_a_file_that_cannot_be_moved_is_taken_once(folder: Folder, monkeypatch: pytest.MonkeyPatch) -> None:
    """However often it is looked at, and after a restart too; once it can be moved it is, without a second attempt."""
    (folder.path / "SM-7_prep.stl").write_bytes(BALL)
    with monkeypatch.context() as patched:

        def refuses(*_: object) -> None:
            raise PermissionError("read-only folder")

        patched.setattr(watching.Path, "rename", refuses)
        assert len(folder.look(6)) == 1
        again = Inbox(folder.inbox._surgery, folder.inbox._runner, folder.path)
        assert [a for _ in range(3) for a in again.look()] == []
    last = Inbox(folder.inbox._surgery, folder.inbox._runner, folder.path)
    assert [a for _ in range(3) for a in last.look()] == []
    assert (folder.path / TAKEN / "SM-7_prep.stl").exists()
    assert folder.prepared() == 1
    assert len(arrivals.since(folder.db, "")) == 1


def test_a_failure_of_ours_is_said_and_the_file_kept(folder: Folder) -> None:
    """The reading process died: put aside with a sentence, the case unchanged."""
    from vane_line.errors import InternalError

    reader: Any = Fake(InternalError("the process ended"))
    from dataclasses import replace

    folder.inbox._surgery = replace(folder.inbox._surgery, reader=reader)
    (folder.path / "SM-7_prep.stl").write_bytes(BALL)
    assert [a.error for a in folder.look()] == [OURS]
    assert (folder.path / ASIDE / "SM-7_prep.stl").exists()
    assert folder.prepared() == 0


def test_a_file_that_still_grows_is_left_alone(folder: Folder) -> None:
    """Only what stood still from one look to the next is read, whole; other kinds of file are not touched."""
    (folder.path / "notes.txt").write_text("not a scan")
    with (folder.path / "SM-7_slow.stl").open("wb") as file:
        for quarter in np.array_split(np.frombuffer(BALL, np.uint8), 4):
            file.write(quarter.tobytes())
            file.flush()
            assert folder.look(1) == []
    taken = folder.look(1)
    assert [(a.name, a.error) for a in taken] == [("SM-7_slow.stl", "")]
    assert sorted(p.name for p in folder.path.iterdir()) == ["notes.txt", TAKEN]
    assert folder.look(2) == []


def test_a_file_written_over_in_place_is_left_until_it_stands_still(folder: Folder) -> None:
    """A file laid out at its full length first, as some copies are, is read once nobody writes into it any more."""
    path = folder.path / "SM-7_prep.stl"
    path.write_bytes(bytes(len(BALL)))
    assert folder.look(1) == []
    for part in (BALL[: len(BALL) // 2] + bytes(len(BALL) - len(BALL) // 2), BALL):
        path.write_bytes(part)
        os.utime(path, ns=(0, path.stat().st_mtime_ns + 1_000_000))  # however coarse the disk's clock is
        assert folder.look(1) == []
    assert [(a.name, a.error) for a in folder.look(1)] == [(path.name, "")]


def test_an_unexpected_error_does_not_end_the_watch(folder: Folder, monkeypatch: pytest.MonkeyPatch) -> None:
    """The next look takes what the last could not."""
    looks: list[int] = []
    real = folder.inbox.look

    def look() -> list[arrivals.Arrival]:
        looks.append(1)
        if len(looks) < 3:
            raise ZeroDivisionError
        return real()

    monkeypatch.setattr(watching, "POLL_S", 0.02)
    monkeypatch.setattr(folder.inbox, "look", look)
    (folder.path / "SM-7_prep.stl").write_bytes(BALL)
    folder.inbox.start()
    assert until(folder.prepared) == 1
    folder.inbox.stop()


def test_a_packed_scan_is_taken_too(folder: Folder) -> None:
    """As scanners and mail programs pack them."""
    (folder.path / "sm-7_prep.stl.gz").write_bytes(gzip.compress(BALL))
    (folder.path / "SM-7_notes.gz").write_bytes(gzip.compress(b"not a scan"))
    errors = {a.name: a.error for a in folder.look()}
    assert errors["sm-7_prep.stl.gz"] == ""
    assert errors["SM-7_notes.gz"]
    assert folder.prepared() == 1


def test_a_file_over_the_limit_is_not_read(folder: Folder) -> None:
    """Told by its size alone."""
    from dataclasses import replace

    folder.inbox._surgery = replace(folder.inbox._surgery, limits=(1000, 1000))
    (folder.path / "SM-7_prep.stl").write_bytes(BALL)
    assert "limit" in folder.look()[0].error


def test_a_case_that_was_put_away_takes_no_scans(folder: Folder) -> None:
    """Its code is nobody's any more."""
    cases.put_case(folder.db, folder.site.case_id, away=True)
    (folder.path / "SM-7_prep.stl").write_bytes(BALL)
    assert "no open case" in folder.look()[0].error


def test_a_code_that_only_begins_another_takes_no_scans(folder: Folder) -> None:
    """SM-7 is not SM-71: a class's codes begin with each other."""
    (folder.path / "SM-71_prep.stl").write_bytes(BALL)
    assert "no open case" in folder.look()[0].error
    assert folder.prepared() == 0
    (folder.path / "SM-7.stl").write_bytes(BALL)
    assert [a.error for a in folder.look()] == [""]
    assert folder.prepared() == 1

"""Many at once: what is handed in, one pure function, a cluster of processes, and a batch that goes on where it was."""

from __future__ import annotations

import csv
import json
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pyarrow.parquet as pq
import pytest
from distributed import Client
from solids import Stump

from vane_line.batch import run as batch
from vane_line.batch.hand_in import HandIn, found
from vane_line.batch.kept import COLUMNS, Kept
from vane_line.batch.one import FAILED, MEASURED, REFUSED, key_of, measured
from vane_line.cli.main import main
from vane_line.core.mesh.write import stl_bytes
from vane_line.errors import BadOption

ASKED = {"tooth": "36", "material": "zirconia", "restoration": "full-crown"}
STUMPS = {"S-01": Stump(grid_mm=0.26), "S-02": Stump(grid_mm=0.26, occlusal_mm=0.8)}


def test_a_role_s_name_may_end_in_two_words(tmp_path: Path) -> None:
    """The bite before is no preparation called otherwise."""
    for role in ("prep", "preop", "opposing", "opposing_before"):
        (tmp_path / f"S_01_{role}.stl").write_bytes(b"x")
    (one,) = found(tmp_path, ASKED, {})
    assert one.id == "S_01"
    assert set(one.files) == {"prep", "preop", "opposing", "opposing_before"}


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Two hand-ins, one that is no scan, and a note that is none either."""
    where = tmp_path_factory.mktemp("class")
    for name, stump in STUMPS.items():
        (where / f"{name}_prep.stl").write_bytes(stl_bytes(stump.prep()))
        (where / f"{name}_preop.stl").write_bytes(stl_bytes(stump.preop()))
    (where / "S-03.stl").write_bytes(b"this is no scan" * 20)
    (where / "read me.txt").write_text("nothing")
    return where


@pytest.fixture(scope="module")
def client() -> Iterator[Client]:
    """Two processes of this machine."""
    with batch.cluster(2, None) as here:
        yield here


# --- what is handed in -----------------------------------------------------------------------------------------------


def test_a_folder_is_read_by_its_names(folder: Path) -> None:
    """<id>_<role>, or a bare name for a preparation; what all share is theirs unless they bring their own."""
    rows = found(folder, ASKED, {"opposing": Path("jaw.stl"), "preop": Path("other.stl")})
    assert [h.id for h in rows] == ["S-01", "S-02", "S-03"]
    assert {role: path.name for role, path in rows[0].files.items()} == {
        "opposing": "jaw.stl", "preop": "S-01_preop.stl", "prep": "S-01_prep.stl"}  # fmt: skip
    assert rows[2].files["preop"].name == "other.stl"


def test_a_manifest_says_each_row_for_itself(tmp_path: Path) -> None:
    """Paths beside it; a row's own word goes before what is asked of all."""
    rows = [
        "id,prep,preop,tooth,material,root_filled,occlusal", "a,one.stl,,46,,yes,0;0;1",
        "b,two.stl,pre.stl,,full-metal,,",
    ]  # fmt: skip
    path = tmp_path / "manifest.csv"
    path.write_text("\n".join(rows), encoding="utf-8-sig")
    one, two = found(path, ASKED, {})
    assert (one.asked["tooth"], one.asked["material"]) == ("46", "zirconia")
    assert one.asked["root_filled"] is True
    assert one.asked["occlusal"] == [0.0, 0.0, 1.0]
    assert one.files == {"prep": tmp_path / "one.stl"}
    assert (two.asked["tooth"], two.asked["material"], set(two.files)) == ("36", "full-metal", {"prep", "preop"})


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("id,prep\n", "nothing in it"),
        ("name,scan\na,b\n", "columns id and prep"),
        ("id,prep,colour\na,b,red\n", "no column colour"),
        ("id,prep\na,b.stl\na,c.stl\n", "twice"),
        ("id,prep\n../a,b.stl\n", "without slashes"),
        ("id,prep,facial\na,b.stl,up\n", "three numbers"),
        ("id,prep,dark\na,b.stl,perhaps\n", "yes or no"),
    ],
)
def test_a_manifest_that_cannot_be_is_refused(tmp_path: Path, text: str, words: str) -> None:
    path = tmp_path / "m.csv"
    path.write_text(text)
    with pytest.raises(BadOption, match=words):
        found(path, ASKED, {})


def test_what_is_not_said_is_asked_for(folder: Path, tmp_path: Path) -> None:
    with pytest.raises(BadOption, match="tooth and material is not said"):
        found(folder, {}, {})
    with pytest.raises(BadOption, match="no scan of a preparation"):
        found(tmp_path, ASKED, {})
    with pytest.raises(BadOption, match="no such folder"):
        found(tmp_path / "none", ASKED, {})


# --- one -------------------------------------------------------------------------------------------------------------


def test_the_key_hangs_on_bytes_and_question_alone() -> None:
    """Not on the file's name; another byte, another question or another standard is another key."""
    one = {"prep": ("a.stl", b"1")}
    assert key_of(one, ASKED) == key_of({"prep": ("b.stl", b"1")}, dict(reversed(ASKED.items())))
    others = [
        key_of({"prep": ("a.stl", b"2")}, ASKED), key_of({"preop": ("a.stl", b"1")}, ASKED),
        key_of(one, ASKED | {"tooth": "46"}), key_of(one, ASKED | {"standard": "zirconia-thin"}),
    ]  # fmt: skip
    assert len({key_of(one, ASKED), *others}) == 5


def test_a_hand_in_that_is_to_blame_is_refused_with_its_sentence() -> None:
    """Never a traceback: bad bytes, a tooth that is none, a material that is none."""
    bad = measured({"prep": ("x.stl", b"nothing")}, ASKED)
    assert (bad["status"], bad["document"]) == (REFUSED, None)
    assert "x.stl" in bad["error"]
    assert "11 to 48" in measured({"prep": ("x.stl", b"")}, ASKED | {"tooth": "99"})["error"]
    assert "material" in measured({"prep": ("x.stl", b"")}, ASKED | {"material": "gold"})["error"]


# --- a batch ---------------------------------------------------------------------------------------------------------


@pytest.fixture(scope="module")
def done(folder: Path, client: Client, tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, dict[str, int]]:
    out = tmp_path_factory.mktemp("out")
    return out, batch.run(found(folder, ASKED, {}), out, client)


def test_each_is_answered_and_the_tables_agree(done: tuple[Path, dict[str, int]], folder: Path) -> None:
    """Parquet (read by pyarrow), CSV and JSON say the same; the answer is what one alone would get."""
    out, counts = done
    assert counts == {MEASURED: 2, REFUSED: 1}
    table = pq.read_table(out / "verdicts.parquet").to_pylist()
    rows = list(csv.DictReader((out / "verdicts.csv").open(encoding="utf-8")))
    assert len(table) == len(rows) > 50
    assert list(rows[0]) == list(COLUMNS)
    assert {r["id"] for r in table} == {"S-01", "S-02"}
    for a, b in zip(table, rows, strict=True):
        assert (a["id"], a["criterion"], a["zone"], a["status"]) == (b["id"], b["criterion"], b["zone"], b["status"])
        assert a["value"] is None if b["value"] == "" else a["value"] == pytest.approx(float(b["value"]))
    short = {r["id"] for r in table if r["criterion"] == "reduction" and r["status"] == "short"}
    assert short == {"S-02"}
    (refused,) = csv.DictReader((out / "failed.csv").open(encoding="utf-8"))
    assert refused["id"] == "S-03"
    assert [r["status"] for r in json.loads((out / "results.json").read_text())] == [MEASURED, MEASURED, REFUSED]
    alone = measured({r: (f"S-01_{r}.stl", (folder / f"S-01_{r}.stl").read_bytes()) for r in ("prep", "preop")}, ASKED)
    kept = json.loads((out / "documents" / "S-01.json").read_text())
    mine, theirs = (
        {(v["criterion"], v["zone"], v["bound"]): v for v in d["verdicts"]}
        for d in (kept["document"], alone["document"])
    )
    assert mine.keys() == theirs.keys()
    for place, b in theirs.items():  # a worker has fewer threads, which add up in another order
        a = mine[place]
        assert (a["value"] is None) == (b["value"] is None)
        assert a["status"] == b["status"]
        near = max(0.05 if a["unit"] == "µm" else 0.002, 0.2 * (a["U"] or 0.0))
        assert a["value"] is None or a["value"] == pytest.approx(b["value"], abs=near), a["criterion"]


def test_what_was_done_is_not_done_again(done: tuple[Path, dict[str, int]], folder: Path, client: Client) -> None:
    """Nothing is sent for the same bytes; one that changed, or whose answer was lost half written, is."""
    out, counts = done
    before = {p.name: p.stat().st_mtime_ns for p in (out / "documents").iterdir()}
    told: list[tuple[int, float | None]] = []
    again = batch.run(found(folder, ASKED, {}), out, client, lambda d, _of, s: told.append((d, s)))
    assert again == counts
    assert {p.name: p.stat().st_mtime_ns for p in (out / "documents").iterdir()} == before
    assert told == [(1, None), (2, None), (3, None)]
    (out / "documents" / "S-01.json").write_text('{"id": "S-01", "key"')
    batch.run(found(folder, ASKED, {}), out, client)
    after = {p.name: p.stat().st_mtime_ns for p in (out / "documents").iterdir()}
    assert after["S-01.json"] != before["S-01.json"]
    assert after["S-02.json"] == before["S-02.json"]


def test_a_file_that_is_gone_is_said_and_the_rest_goes_on(client: Client, tmp_path: Path) -> None:
    gone = HandIn("S-9", {"prep": tmp_path / "gone.stl"}, ASKED)
    assert batch.run([gone], tmp_path / "out", client) == {REFUSED: 1}
    assert "gone.stl" in (tmp_path / "out" / "failed.csv").read_text()


def test_failures_are_tried_again_refusals_are_not(tmp_path: Path) -> None:
    kept = Kept(tmp_path)
    for status, done in ((MEASURED, True), (REFUSED, True), (FAILED, False)):
        kept.keep("a", "k", {"status": status, "document": None, "error": ""})
        assert kept.done("a", "k") is done
        assert not kept.done("a", "other")


@pytest.mark.long
def test_a_scheduler_in_another_process_serves_it(folder: Path, tmp_path: Path) -> None:
    """`dask scheduler` and a worker started by themselves, by the command line: the same tables."""
    told = tmp_path / "scheduler.json"
    run = [sys.executable, "-m", "dask"]
    scheduler = subprocess.Popen([*run, "scheduler", "--port", "0", "--no-dashboard", "--scheduler-file", str(told)],
                                 stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)  # fmt: skip
    worker = subprocess.Popen([*run, "worker", "--scheduler-file", str(told), "--nthreads", "1", "--no-dashboard"],
                              stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)  # fmt: skip
    try:
        while not (told.exists() and told.read_text().rstrip().endswith("}")):  # as long as it takes …
            assert scheduler.poll() is None  # … and one that has died is said
        address = json.loads(told.read_text())["address"]
        with Client(address) as there:
            there.wait_for_workers(1)
        code = main(["batch", str(folder), "--out", str(tmp_path / "out"), "--scheduler", address, "--tooth", "36",
                     "--material", "zirconia", "--restoration", "full-crown"])  # fmt: skip
    finally:
        for process in (worker, scheduler):
            process.terminate()
            process.wait()
    assert code == 4  # one of three is no scan
    assert pq.read_table(tmp_path / "out" / "verdicts.parquet").num_rows > 50


@pytest.mark.long
def test_the_command_line_says_what_is_wrong(folder: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """One line, exit 2, nothing written."""
    out = str(tmp_path / "out")
    for args, words in (
        ([str(tmp_path / "none"), "--out", out], "no such folder"),
        ([str(folder), "--out", out], "is not said"),
        ([str(folder), "--out", out, "--workers", "0"], "from 1 to 256"),
        ([str(folder), "--out", out, "--tooth", "36", "--material", "zirconia", "--scheduler", "tcp://127.0.0.1:9"],
         "nothing answers"),
    ):  # fmt: skip
        assert main(["batch", *args]) == 2
        assert words in capsys.readouterr().err
    assert not Path(out).exists()

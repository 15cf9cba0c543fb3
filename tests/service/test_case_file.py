"""A whole case as one file: out of one store, into another, and what a bad one is refused with."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from backends import HERE
from fastapi.testclient import TestClient
from solids import Stump
from waiting import until

from vane_line.api.app import create_app
from vane_line.api.settings import Settings
from vane_line.core.mesh.write import stl_bytes
from vane_line.report import zips

STUMP = Stump(grid_mm=0.26, seed=91)


class Store:
    """A served store."""

    def __init__(self, folder: Path) -> None:
        self.http = TestClient(create_app(Settings(data=folder)), base_url=HERE)
        self.http.__enter__()

    def case(self, case_id: str) -> Any:
        return self.http.get(f"/api/cases/{case_id}").json()

    def bring(self, data: bytes) -> Any:
        return self.http.post("/api/cases/file", files={"file": ("one_case.zip", data)})

    def measured(self, reading: str) -> Any:
        at = f"/api/readings/{reading}/result"
        return until(lambda: self.http.get(at), lambda found: found.status_code == 200).json()["document"]


@pytest.fixture(scope="module")
def here(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Store, str]]:
    """A measured case by a standard of the surgery's own, its axes set twice, with a second attempt."""
    store = Store(tmp_path_factory.mktemp("here"))
    http = store.http
    data = http.get("/api/standards/zirconia-usual").json()
    keys = (
        "title", "material", "restoration", "teeth", "protocol", "reason", "caution", "cement_space_mm", "reduction",
        "finish_line_width", "finish_line_form", "clearance", "general", "wing", "also_for",
    )  # fmt: skip
    own = {k: data[k] for k in keys} | {"id": "own-thick", "title": "Our own zirconia"}
    saved = http.post("/api/standards", json={"expected_version": 0, "data": own})
    assert saved.status_code < 300, saved.text
    wanted = {"code": "SM-0900", "tooth": "36", "material": "zirconia", "standard_id": saved.json()["id"]}
    made = http.post("/api/cases", json=wanted)
    assert made.status_code == 201, made.text
    case = made.json()
    first = case["sites"][0]["readings"][0]
    for role, surface in (("prep", STUMP.prep()), ("preop", STUMP.preop())):
        http.post(
            f"/api/cases/{case['id']}/attempts/{first['attempt_id']}/scans", data={"role": role, "unit": "mm"},
            files={"file": (f"{role}.stl", stl_bytes(surface))},
        )  # fmt: skip
    for revision, near in enumerate(([0, 0, 5], None)):
        axes = {"occlusal": [0, 0, 1], "facial": [0, 1, 0], "near": near}
        http.put(f"/api/readings/{first['id']}/axes", json=axes, headers={"If-Match": str(revision)})
    http.post(f"/api/readings/{first['id']}/measure")
    store.measured(first["id"])
    http.post(f"/api/cases/{case['id']}/attempts")
    yield store, case["id"]
    http.__exit__(None, None, None)


@pytest.fixture(scope="module")
def packed(here: tuple[Store, str]) -> bytes:
    store, case_id = here
    answer = store.http.get(f"/api/cases/{case_id}/case.zip")
    assert 'filename="SM-0900_case.zip"' in answer.headers["content-disposition"]
    return bytes(answer.content)


def test_it_arrives_whole_and_is_measured_to_the_same(
    here: tuple[Store, str], packed: bytes, tmp_path: Path
) -> None:  # fmt: skip
    """On an empty machine: same scans by hash, own standard, edits with their history, same verdicts."""
    store, case_id = here
    there = Store(tmp_path)
    try:
        made = there.bring(packed)
        assert made.status_code == 201, made.text
        one, other = store.case(case_id), made.json()
        assert other["code"] == "SM-0900"
        assert [s["tooth"] for s in other["sites"]] == ["36"]
        assert other["sites"][0]["standard_id"] == one["sites"][0]["standard_id"]
        readings = [c["sites"][0]["readings"] for c in (one, other)]
        assert [r["number"] for r in readings[1]] == [1, 2]
        first = [(store, readings[0][0]["id"]), (there, readings[1][0]["id"])]
        edits = [s.http.get(f"/api/readings/{r}/edits").json() for s, r in first]
        assert [(e["kind"], e["revision"]) for e in edits[0]] == [(e["kind"], e["revision"]) for e in edits[1]]
        verdicts = [s.measured(r)["verdicts"] for s, r in first]
        assert [(v["criterion"], v["zone"], v["status"]) for v in verdicts[0]] == [
            (v["criterion"], v["zone"], v["status"]) for v in verdicts[1]
        ]
        again = there.http.get(f"/api/cases/{other['id']}/case.zip").content
        files, theirs = zips.opened(packed), zips.opened(again)
        assert {n for n in files if n.startswith("scans/")} == {n for n in theirs if n.startswith("scans/")}
        assert there.bring(packed).status_code == 201  # beside it, as another case
        assert len([s for s in there.http.get("/api/standards").json() if s["own"]]) == 1
    finally:
        there.http.__exit__(None, None, None)


def changed(data: bytes, change: Any, drop: str = "") -> bytes:
    files = zips.opened(data)
    row = json.loads(files["case.json"])
    change(row)
    files["case.json"] = json.dumps(row).encode()
    return zips.packed({n: d for n, d in files.items() if not drop or not n.startswith(drop)}, "vane-line/case/1")


@pytest.mark.parametrize(
    ("make", "says"),
    [
        (lambda d: b"no zip", "no zip that can be read"),
        (lambda d: d[: len(d) // 2], "no zip that can be read"),
        (lambda d: zips.packed({"a": b"1"}, "x"), "holds no case"),
        (lambda d: changed(d, lambda r: None, "scans/"), "is not in it"),
        (lambda d: changed(d, lambda r: r.update(schema="vane-line/case/9")), "newer version"),
        (lambda d: changed(d, lambda r: r.update(opening="9@knee")), "give an opening"),
        (lambda d: changed(d, lambda r: r["sites"][0].update(restoration="statue")), "statue"),
        (lambda d: changed(d, lambda r: r["sites"][0].update(tooth="99")), "99"),
        (lambda d: changed(d, lambda r: r["sites"][0]["facts"].update(lucky=True)), "what is not known"),
        (lambda d: changed(d, lambda r: r["attempts"][0]["readings"][0].update(site=4)), "names a tooth"),
        (lambda d: changed(d, lambda r: r["scans"][0].update(unit="mile")), "unit"),
    ],
)  # fmt: skip
def test_a_bad_file_is_refused_in_words_and_leaves_nothing(
    here: tuple[Store, str], packed: bytes, make: Any, says: str
) -> None:
    store, _ = here
    before = len(store.http.get("/api/cases").json())
    refused = store.bring(make(packed))
    assert 400 <= refused.status_code < 500
    assert says in refused.json()["error"]
    assert len(store.http.get("/api/cases").json()) == before


def test_a_scan_that_cannot_be_read_refuses_the_whole_file(here: tuple[Store, str], packed: bytes) -> None:
    store, _ = here
    before = len(store.http.get("/api/cases").json())
    files = zips.opened(packed)
    name = next(n for n in files if n.startswith("scans/"))
    files[name] = b"solid nothing\nendsolid"
    refused = store.bring(zips.packed(files, "vane-line/case/1"))
    assert 400 <= refused.status_code < 500
    assert len(store.http.get("/api/cases").json()) == before


def test_there_is_none_of_a_case_that_is_not_there(here: tuple[Store, str]) -> None:
    assert here[0].http.get("/api/cases/none/case.zip").status_code == 404


# --- a package opened, and the answer that comes back ----------------------------------------------------------------


def first_reading(store: Store, case_id: str) -> str:
    """Of the case's first attempt."""
    return str(store.case(case_id)["sites"][0]["readings"][0]["id"])


@pytest.mark.long
def test_a_package_is_opened_marked_and_answered(here: tuple[Store, str], tmp_path: Path) -> None:
    """The laboratory measures the same tooth in the same coordinates; its marks come back as a file, once."""
    store, case_id = here
    reading = first_reading(store, case_id)
    package = store.http.get(f"/api/readings/{reading}/package.zip").content
    there = Store(tmp_path)
    try:
        opened = there.bring(package)
        assert opened.status_code == 201, opened.text
        theirs = first_reading(there, opened.json()["id"])
        one, other = store.measured(reading), there.measured(theirs)
        assert other["tooth"] == one["tooth"]
        assert other["frame"]["occlusal"] == pytest.approx(one["frame"]["occlusal"], abs=1e-9)
        assert other["convergence"]["faciolingual_deg"] == pytest.approx(
            one["convergence"]["faciolingual_deg"], abs=0.5
        )
        assert "own-thick" in there.case(opened.json()["id"])["notes"]
        nothing = there.http.get(f"/api/readings/{theirs}/answer.json")
        assert nothing.status_code == 422
        assert "Nothing is marked" in nothing.json()["error"]
        pins = [{"place": [1.0, 2.0, 3.0], "name": "thin here"}, {"place": [0.5, 0.5, 2.0], "name": ""}]
        there.http.put(f"/api/readings/{theirs}/pins", json={"pins": pins}, headers={"If-Match": "0"})
        answer = there.http.get(f"/api/readings/{theirs}/answer.json").content
        again = there.http.get(f"/api/readings/{theirs}/answer.json").content
        assert answer == again
    finally:
        there.http.__exit__(None, None, None)

    def take(data: bytes, of: str = reading) -> Any:
        return store.http.post(f"/api/readings/{of}/answer", files={"file": ("answer.json", data)})

    assert take(answer).json() == {"taken": 2}
    assert take(answer).json() == {"taken": 0}  # the same file again changes nothing
    mine = store.http.get(f"/api/readings/{reading}").json()["pins"]
    assert [p["name"] for p in mine] == ["thin here", "answer"]
    assert mine[0]["place"] == [1.0, 2.0, 3.0]
    told = json.loads(answer)
    for changes, says in (
        ({"prep_sha256": "0" * 64}, "another scan"),
        ({"schema": "vane-line/answer/9"}, "no file of marks"),
        ({"pins": [{"place": [1e9, 0, 0], "name": "far"}]}, "far from every mouth"),
        ({"pins": [{"place": [k, 0, 0], "name": ""} for k in range(40)]}, "more than 40"),
    ):
        refused = take(json.dumps(told | changes).encode())
        assert refused.status_code == 422
        assert says in refused.json()["error"]
    assert take(b"[1, 2").status_code == 422
    assert store.http.get(f"/api/readings/{reading}").json()["pins"] == mine


@pytest.mark.parametrize("missing", ["prescription.json", "measurement.json", "scans/prep.stl"])
def test_a_package_that_lacks_something_is_refused_or_opened_without_it(
    here: tuple[Store, str], missing: str
) -> None:  # fmt: skip
    """Without its words no case is made; a scan that is not in it is simply not there."""
    store, case_id = here
    files = zips.opened(store.http.get(f"/api/readings/{first_reading(store, case_id)}/package.zip").content)
    before = len(store.http.get("/api/cases").json())
    answer = store.bring(zips.packed({k: v for k, v in files.items() if k != missing}, "vane-line/package/1"))
    if missing == "scans/prep.stl":
        assert answer.status_code == 201
        roles = {s["role"] for s in store.http.get(
            f"/api/readings/{first_reading(store, answer.json()['id'])}").json()["scans"]}  # fmt: skip
        assert roles == {"preop"}
    else:
        assert answer.status_code == 422
        assert len(store.http.get("/api/cases").json()) == before

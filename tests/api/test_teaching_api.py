"""An exercise from handing out to the class's table, over the wire, on the demo's scans."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from backends import HERE
from fastapi.testclient import TestClient
from waiting import until

from vane_line.api.app import create_app
from vane_line.api.settings import Settings


class School:
    """A served exercise on the demo's 36, for which S-01 and S-02 have handed in one and the same scan."""

    def __init__(self, folder: Path, files: dict[str, Path]) -> None:
        self.files = files
        self.http = TestClient(create_app(Settings(data=folder)), base_url=HERE)
        self.http.__enter__()
        self.master = self.http.post(
            "/api/cases",
            json={"code": "MASTER-36", "tooth": "36", "material": "lithium-disilicate", "opposing_frame": "preop"},
        ).json()["id"]
        self.asked = {"title": "First molar", "case_id": self.master, "rubric_id": "crown", "look_first": True}
        self.too_early = self.http.post("/api/exercises", json=self.asked)
        attempt = self.http.get(f"/api/cases/{self.master}").json()["sites"][0]["readings"][0]["attempt_id"]
        for role in ("preop", "opposing"):
            self.http.post(
                f"/api/cases/{self.master}/attempts/{attempt}/scans", data={"role": role, "unit": "mm"},
                files={"file": (f"{role}.stl", files[role].read_bytes())},
            )  # fmt: skip
        self.exercise = self.http.post("/api/exercises", json=self.asked).json()
        self.readings = [self.hand_in(f"{code}_prep.stl").json()["reading_id"] for code in ("S-01", "S-02")]

    def hand_in(self, name: str, data: bytes | None = None, code: str = "") -> Any:
        return self.http.post(
            f"/api/exercises/{self.exercise['id']}/hand-ins", data={"code": code, "unit": "mm"},
            files={"file": (name, data or self.files["prep"].read_bytes())},
        )  # fmt: skip

    def table(self, marked: int) -> Any:
        """The class once so many are measured."""
        at = f"/api/exercises/{self.exercise['id']}/class"
        return until(
            lambda: self.http.get(at).json(),
            lambda found: sum(row["mark"] is not None for row in found["rows"]) >= marked,
        )


@pytest.fixture(scope="module")
def school(tmp_path_factory: pytest.TempPathFactory, demo_files: dict[str, Path]) -> Iterator[School]:
    made = School(tmp_path_factory.mktemp("school"), demo_files)
    yield made
    made.http.__exit__(None, None, None)


def test_an_exercise_begins_with_a_scan_before_cutting(school: School) -> None:
    assert "no scan before cutting" in school.too_early.json()["error"]
    assert school.http.post("/api/exercises", json=school.asked | {"rubric_id": "none"}).status_code in (400, 422)
    assert school.http.post("/api/exercises", json=school.asked | {"case_id": "none"}).status_code == 404
    assert [r["id"] for r in school.http.get("/api/rubrics").json()] == ["crown"]


@pytest.mark.long
def test_the_same_scan_has_the_same_mark_and_reasons(school: School) -> None:
    found = school.table(2)
    assert [row["code"] for row in found["rows"]] == ["S-01", "S-02"]
    one, two = (row["mark"] for row in found["rows"])
    assert one == two
    assert found["median"] == one["mark"]
    assert all(row["why"] for row in one["rows"])
    assert found["shared"][0]["failed"] == 2
    assert found["exercise"]["handed_in"] == 2
    assert found["agreement"] is None


def test_a_school_s_own_rubric_marks_its_exercises(school: School) -> None:
    """Made over the wire of the one that ships; an exercise begun with it carries its version."""
    (shipped,) = school.http.get("/api/rubrics").json()
    assert not shipped["own"]
    body = {k: shipped[k] for k in ("restorations", "source", "rows", "caps", "steps")}
    made = school.http.post("/api/rubrics", json=body | {"title": "Ours", "expected_version": 0}).json()
    assert (made["id"], made["version"], made["own"]) == ("own-ours", 1, True)
    names = {c["name"] for c in school.http.get("/api/rubric-words").json()}
    assert {name for row in made["rows"] for name in row["criteria"]} <= names
    refused = school.http.post("/api/rubrics", json=body | {"title": "Ours", "expected_version": 0, "rows": []})
    assert refused.status_code == 422
    assert "rows" in refused.json()["error"]
    begun = school.http.post("/api/exercises", json=school.asked | {"rubric_id": "own-ours"}).json()
    assert (begun["rubric"]["id"], begun["rubric"]["version"]) == ("own-ours", 1)
    assert school.http.delete(f"/api/exercises/{begun['id']}").status_code == 204


def test_the_class_s_relief_tells_what_everybody_took_off(school: School) -> None:
    """Two hand in the same scan: the median is that scan's own, the shares are all or none of the class."""
    school.table(2)
    at = f"/api/exercises/{school.exercise['id']}/relief"
    facts = school.http.get(at).json()
    assert (facts["cuts"], facts["left_out"]) == (2, 0)
    mesh = school.http.get(f"/api/blobs/{facts['mesh']}").content
    vertices = int(np.frombuffer(mesh, "<u4", 1)[0])
    depth, least, short = (
        np.frombuffer(school.http.get(f"{at}/{name}").content, "<f4") for name in ("depth", "least", "short")
    )
    assert len(depth) == len(short) == vertices
    told = np.isfinite(short)
    assert 500 < told.sum() < vertices / 2
    assert {0.0, 1.0} <= set(np.unique(short[told]))
    sure = told & np.isin(short, (0.0, 1.0))  # a place between them was filled from round about
    assert sure.sum() > 0.9 * told.sum()
    assert ((short == 1.0) == (depth < least))[sure].mean() > 0.98
    assert 0.9 < np.nanmedian(depth) < 1.9  # of a molar for a crown
    assert school.http.get(f"{at}/nothing").status_code == 422
    assert school.http.get("/api/exercises/none/relief").status_code == 404


def test_before_the_look_there_is_no_mark_and_afterwards_no_second_look(school: School) -> None:
    table = school.table(2)
    reading = school.readings[0]
    before = school.http.get(f"/api/readings/{reading}/taught").json()
    assert (before["looked"], before["mark"], before["look"]) == (False, None, None)
    verdicts = school.http.get(f"/api/readings/{reading}/result").json()["document"]["verdicts"]
    short = max(
        (v for v in verdicts if v["criterion"] == "reduction" and v["status"] == "short"), key=lambda v: v["missing"]
    )
    marks = {"marks": [{"at": short["at"], "said": "short", "amount_mm": round(short["missing"] + 0.2, 3)}]}
    assert (
        school.http.put(
            f"/api/readings/{reading}/look", json={"marks": [{"at": [0, 0, 0], "said": "ugly"}]}
        ).status_code
        < 500
    )
    after = school.http.put(f"/api/readings/{reading}/look", json=marks).json()
    assert after["looked"]
    assert after["mark"]["mark"] == table["rows"][0]["mark"]["mark"]
    assert [s["criterion"] for s in after["look"]["seen"]] == ["reduction"]
    assert after["look"]["off_mm"] == pytest.approx(0.2, abs=0.01)
    assert after["look"]["missed"]
    assert school.http.put(f"/api/readings/{reading}/look", json=marks).status_code == 409
    assert school.http.get(f"/api/readings/{reading}/edits").json() == []  # a look is no edit of the tooth


def test_an_instructor_s_mark_stands_beside_the_tool_s(school: School) -> None:
    school.table(2)
    reading = school.readings[1]
    assert school.http.post(f"/api/readings/{reading}/overrule", json={"mark": 70, "why": " "}).status_code in (
        400,
        422,
    )
    tool = school.http.get(f"/api/exercises/{school.exercise['id']}/class").json()["rows"][1]["mark"]["mark"]
    kept = school.http.post(f"/api/readings/{reading}/overrule", json={"mark": 70, "why": "neat for a first"}).json()
    assert kept["overrule"] == {"mark": 70, "why": "neat for a first"}
    row = school.table(2)["rows"][1]
    assert (row["mark"]["mark"], row["overrule"]["mark"]) == (tool, 70)
    table = list(csv.reader(io.StringIO(school.http.get(f"/api/exercises/{school.exercise['id']}/class.csv").text)))
    assert table[0][0].lstrip("\ufeff") == "code"
    assert [line[0] for line in table[1:]] == ["S-01", "S-02"]
    assert table[2][6:8] == ["70.0", "neat for a first"]


def test_the_same_code_again_is_the_next_attempt(school: School) -> None:
    school.table(2)
    case = school.http.get(f"/api/exercises/{school.exercise['id']}/class").json()["rows"][0]["case_id"]
    assert school.hand_in("other.stl", code="S-01").json()["case_id"] == case
    rows = school.http.get(f"/api/exercises/{school.exercise['id']}/class").json()["rows"]
    assert [(r["code"], r["attempts"]) for r in rows] == [("S-01", 2), ("S-02", 1)]


def test_what_cannot_be_read_is_refused_and_leaves_nothing(school: School) -> None:
    before = len(school.http.get("/api/cases").json())
    refused = school.hand_in("S-09_prep.stl", b"solid nothing\nendsolid")
    assert refused.status_code in (400, 415, 422)
    assert refused.json()["error"]
    assert school.hand_in("_prep.stl").status_code in (400, 422)
    assert len(school.http.get("/api/cases").json()) == before
    assert school.http.post("/api/exercises/none/hand-ins", files={"file": ("a.stl", b"x")}).status_code == 404


def test_a_case_that_is_no_hand_in_has_no_exercise(school: School) -> None:
    reading = school.http.get(f"/api/cases/{school.master}").json()["sites"][0]["readings"][0]["id"]
    assert school.http.get(f"/api/readings/{reading}/taught").json()["exercise"] is None
    assert school.http.get("/api/readings/none/taught").status_code == 404

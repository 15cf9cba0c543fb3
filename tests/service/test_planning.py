"""Plans as jobs, own standards and their versions, the tray, the mill, another standard tried; over the real API."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from backends import HERE
from fastapi.testclient import TestClient
from solids import Stump
from waiting import until_ended

from vane_line.api.app import create_app
from vane_line.api.settings import Settings
from vane_line.core.mesh.read import read_soup
from vane_line.core.mesh.write import stl_bytes
from vane_line.core.tooth.notation import ToothNumber
from vane_line.service import planning

STUMP = Stump(facial_mm=4.9, mesial_mm=5.2, grid_mm=0.22, seed=71)


class Surgery:
    """A case with the scan before cutting and the opposing teeth, over the API."""

    def __init__(self, folder: Path) -> None:
        self.http = TestClient(create_app(Settings(data=folder)), base_url=HERE)
        self.http.__enter__()
        case = self.http.post("/api/cases", json={
            "code": "SM-7", "tooth": "36", "material": "zirconia", "opposing_frame": "preop"}).json()  # fmt: skip
        self.case, self.site = case["id"], case["sites"][0]["id"]
        reading = case["sites"][0]["readings"][0]
        self.reading, self.attempt = reading["id"], reading["attempt_id"]
        self.at = f"/api/readings/{self.reading}"
        self.add("preop", stl_bytes(STUMP.preop()))
        self.add("opposing", stl_bytes(STUMP.opposing(STUMP.occlusal_mm)))

    def add(self, role: str, data: bytes) -> None:
        answer = self.http.post(
            f"/api/cases/{self.case}/attempts/{self.attempt}/scans", files={"file": (f"{role}.stl", data)},
            data={"role": role, "unit": "mm"},
        )  # fmt: skip
        assert answer.status_code in (200, 201), answer.text

    def choose(self, **values: Any) -> None:
        detail = self.http.get(self.at).json()
        body = detail["plan"] | values
        head = {"If-Match": str(detail["plan_revision"])}
        assert self.http.put(f"{self.at}/plan", json=body, headers=head).status_code == 200

    def plan(self) -> dict[str, Any]:
        return self.done(self.http.post(f"{self.at}/plan"))["document"]

    def done(self, answer: Any, at: str | None = None) -> dict[str, Any]:
        assert answer.status_code == 202, answer.text
        job = self.ended(answer.json()["id"])
        assert job["state"] == "done", job["error"]
        return dict(self.http.get(at or f"{self.at}/plan").json())

    def ended(self, job: str) -> dict[str, Any]:
        return until_ended(self.http, job)


@pytest.fixture(scope="module")
def surgery(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Surgery]:
    made = Surgery(tmp_path_factory.mktemp("surgery"))
    yield made
    made.http.__exit__(None, None, None)


def test_a_plan_needs_to_know_which_tooth(surgery: Surgery) -> None:
    """Without a point on the tooth the job fails with a sentence; no plan is there yet."""
    assert surgery.http.get(f"{surgery.at}/plan").status_code == 404
    job = surgery.http.post(f"{surgery.at}/plan").json()
    assert "which tooth" in surgery.ended(job["id"])["error"]


def test_a_plan_is_made_kept_and_goes_stale(surgery: Surgery) -> None:
    """Depths, target as STL, the page; another taper makes it stale and then another plan."""
    surgery.choose(near=[0.0, 0.0, 7.0], facial=[0.0, 1.0, 0.0])
    document = surgery.plan()
    depths = {s["zone"]: s["depth_mm"] for s in document["sites"]}
    assert depths["central-groove"] == 1.5
    assert document["predicted"]["faciolingual_deg"] == pytest.approx(10, abs=0.8)
    stl = surgery.http.get(f"{surgery.at}/plan/target.stl")
    corners = read_soup(stl.content, "target.stl").corners.reshape(-1, 3)
    assert corners[:, 2].max() == pytest.approx(5.5, abs=0.1)  # 1.5 off a top of 7
    assert np.hypot(corners[:, 0], corners[:, 1]).max() < 5.4
    page = surgery.http.get(f"{surgery.at}/plan/page").text
    assert "SM-7 · tooth 36" in page
    assert "The dentist decides" in page
    assert "central groove" in page
    surgery.choose(taper_deg=3.0)
    assert surgery.http.get(f"{surgery.at}/plan").json()["stale"]
    assert surgery.plan()["predicted"]["faciolingual_deg"] == pytest.approx(6, abs=0.8)
    assert not surgery.http.get(f"{surgery.at}/plan").json()["stale"]


@pytest.mark.long
def test_meaning_and_opening_change_the_plan(surgery: Surgery) -> None:
    """Raised by half a millimetre at the molars, half a millimetre less is cut; an old crown gives no depth."""

    def change(**values: Any) -> None:
        case = surgery.http.get(f"/api/cases/{surgery.case}").json()
        body = {"notes": case["notes"], "opposing_frame": case["opposing_frame"], **values}
        answer = surgery.http.patch(
            f"/api/cases/{surgery.case}", json=body, headers={"If-Match": str(case["revision"])})  # fmt: skip
        assert answer.status_code == 200, answer.text

    change(opening="0.5@molar")
    raised = surgery.plan()
    assert {s["zone"]: s["depth_mm"] for s in raised["sites"]}["central-groove"] == pytest.approx(1.0, abs=0.12)
    assert raised["raise"]["incisor_mm"] == pytest.approx(0.8, abs=0.03)
    assert raised["raise"]["rule_of_thumb_incisor_mm"] == pytest.approx(1.5)
    change(opening="", surface_meaning="old-crown")
    assert all(s["depth_mm"] is None for s in surgery.plan()["sites"])
    assert surgery.http.get(f"{surgery.at}/plan/target.stl").status_code == 404
    change(surface_meaning="natural")
    case = surgery.http.get(f"/api/cases/{surgery.case}").json()
    bad = surgery.http.patch(
        f"/api/cases/{surgery.case}", json={"notes": "", "opposing_frame": "preop", "opening": "much"},
        headers={"If-Match": str(case["revision"])})  # fmt: skip
    assert bad.status_code == 422
    assert "0.5@molar" in bad.json()["error"]


@pytest.mark.long
def test_an_own_standard_has_versions_and_a_case_keeps_its_own(surgery: Surgery) -> None:
    """Copied, kept, chosen; edited again it is version 2, and the case stays with version 1 until told otherwise."""
    http = surgery.http
    data = http.get("/api/standards/zirconia-usual").json()
    data["title"] = "Zirconia, our hands"
    data["reduction"]["groove"] |= {"min": 1.1, "target": 1.6, "source": "our own, by agreement"}
    made = http.post("/api/standards", json={"expected_version": 0, "data": data}).json()
    assert (made["id"], made["version"], made["own"]) == ("own-zirconia-our-hands", 1, True)
    choose = {"material": "zirconia", "standard_id": made["id"]}
    site = http.put(f"/api/sites/{surgery.site}/standard", json=choose).json()["sites"][0]
    assert site["standard_version"] == 1
    made["reduction"]["groove"]["target"] = 1.7
    assert http.post("/api/standards", json={"expected_version": 1, "data": made}).json()["version"] == 2
    assert http.post("/api/standards", json={"expected_version": 1, "data": made}).status_code == 409
    document = surgery.plan()
    assert document["standard"]["version"] == 1
    assert {s["zone"]: s["target_mm"] for s in document["sites"]}["central-groove"] == 1.6
    http.put(f"/api/sites/{surgery.site}/standard", json=choose | {"version": 2})
    assert {s["zone"]: s["target_mm"] for s in surgery.plan()["sites"]}["central-groove"] == 1.7
    assert (
        http.get(f"/api/standards/{made['id']}", params={"version": 1}).json()["reduction"]["groove"]["target"] == 1.6
    )
    wrong = http.post("/api/standards", json={"expected_version": 0, "data": data | {"reduction": {}}})
    assert wrong.status_code == 422
    assert "reduction is missing" in wrong.json()["error"]
    named = {**data, "title": "Mine", "id": "zirconia-usual"}
    stolen = http.post("/api/standards", json={"expected_version": 0, "data": named})
    assert stolen.json()["id"] == "own-mine"  # a built-in one is never hidden


@pytest.mark.long
def test_another_standard_is_tried_without_keeping_it(surgery: Surgery) -> None:
    """What classical all-ceramic would say of the same preparation; the case is judged as before."""
    surgery.add("prep", stl_bytes(STUMP.prep()))
    job = surgery.http.post(f"{surgery.at}/measure").json()
    assert surgery.ended(job["id"])["state"] == "done"
    before = surgery.http.get(f"{surgery.at}/result").json()["document"]
    rows = surgery.http.get(f"{surgery.at}/what-if", params={"standard_id": "all-ceramic-classical"}).json()
    assert any(r["criterion"] in ("reduction", "finish-line-width") and r["state"] == "new" for r in rows)
    assert surgery.http.get(f"{surgery.at}/result").json()["document"] == before


@pytest.mark.long
def test_tray_mill_and_sequences_are_the_surgery_s_own(surgery: Surgery) -> None:
    """Replaced whole, refused with a reason, and followed by the next plan and measurement."""
    http = surgery.http
    tray = http.get("/api/tray").json()
    assert tray["revision"] == 0
    only = {**tray, "burs": [b for b in tray["burs"] if b["id"] in ("ball-010", "round-end-taper-012")]}
    assert http.put("/api/tray", json=only).json()["revision"] == 1
    assert http.put("/api/tray", json=only).status_code == 409
    bad = {"revision": 1, "burs": [only["burs"][0] | {"tip_mm": 9}]}
    assert "tip" in http.put("/api/tray", json=bad).json()["error"]
    document = surgery.plan()
    assert all(s["bur"] is None or s["bur"]["id"] == "ball-010" for s in document["sites"])
    assert any("no bur of the tray" in step["bur"] for step in document["sequence"]["steps"])
    finer = {"revision": 0, "title": "ours", "bur_radius_mm": 0.3}
    assert http.put("/api/mill", json=finer).json()["bur_radius_mm"] == 0.3
    assert http.put("/api/mill", json={"revision": 1, "title": "ours", "bur_radius_mm": 9}).status_code == 422
    assert http.get(f"{surgery.at}/result").json()["stale"]
    first = http.get("/api/sequences").json()[0]
    own = {"expected_version": 0, "title": "Ours", "teeth": "back", "steps": list(reversed(first["steps"]))}
    made = http.post("/api/sequences", json=own).json()
    surgery.choose(sequence=made["id"])
    steps = [s["title"] for s in surgery.plan()["sequence"]["steps"]]
    assert steps == [s["title"] for s in reversed(first["steps"])]
    assert http.post("/api/sequences", json=own | {"steps": [{"title": ""}]}).status_code == 422


@pytest.mark.long
def test_materials_are_compared_kept_and_go_stale(surgery: Surgery, monkeypatch: pytest.MonkeyPatch) -> None:
    """A job of its own: one row a standard, the least tooth first; another taper makes the table stale."""
    every = planning.standards.serving(surgery.http.app.state.context.db, ToothNumber("36"), "full-crown")
    assert {"zirconia-usual", "full-metal", "lithium-disilicate-bonded"} <= {s.id for s in every}
    few = [s for s in every if s.id in ("zirconia-usual", "full-metal")]
    monkeypatch.setattr(planning.standards, "serving", lambda *_: few)
    at = f"{surgery.at}/decision"
    surgery.choose(near=[0.0, 0.0, 7.0], facial=[0.0, 1.0, 0.0], taper_deg=5.0)
    found = surgery.done(surgery.http.post(at), at)
    assert not found["stale"]
    told = found["document"]["rows"]
    assert {"zirconia-usual", "full-metal"} <= {r["standard"]["id"] for r in told}  # and the one it is judged by
    cut = [r["cut_mm3"] for r in told]
    assert cut == sorted(cut)
    assert told[0]["standard"]["id"] == "full-metal"
    assert surgery.http.get(surgery.at).json()["decision_job"]["state"] == "done"
    surgery.choose(taper_deg=4.0)
    assert surgery.http.get(at).json()["stale"]


def test_nothing_is_compared_without_a_scan_from_before(tmp_path: Path) -> None:
    """A sentence at once, no job."""
    with TestClient(create_app(Settings(data=tmp_path)), base_url=HERE) as http:
        case = http.post("/api/cases", json={"code": "SM-8", "tooth": "36", "material": "zirconia"}).json()
        at = f"/api/readings/{case['sites'][0]['readings'][0]['id']}/decision"
        assert http.get(at).status_code == 404
        refused = http.post(at)
        assert refused.status_code == 422
        assert "before the preparation" in refused.text

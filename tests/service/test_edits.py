"""Edits by hand: kept with the judgement that follows, or not at all; fast; undone step by step."""

from __future__ import annotations

import json
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
from vane_line.core.mesh.write import stl_bytes

STUMP = Stump(grid_mm=0.2, noise_um=5, seed=11)


def stroke(radius: float, from_deg: float, to_deg: float, count: int = 6) -> list[list[float]]:
    a = np.radians(np.linspace(from_deg, to_deg, count))
    return np.stack([radius * np.sin(a), radius * np.cos(a), np.full(count, 1.6)], axis=1).tolist()


class Desk:
    """A measured stump behind the API, with the axes confirmed."""

    def __init__(self, http: TestClient) -> None:
        self.http = http
        body = {"code": "SM-1", "tooth": "36", "material": "zirconia"}
        case = http.post("/api/cases", json=body).json()
        reading = case["sites"][0]["readings"][0]
        self.at = f"/api/readings/{reading['id']}"
        for role, surface in (("prep", STUMP.prep()), ("preop", STUMP.preop())):
            path = f"/api/cases/{case['id']}/attempts/{reading['attempt_id']}/scans"
            answer = http.post(path, files={"file": (f"{role}.stl", stl_bytes(surface))}, data={"role": role})
            assert answer.status_code == 201, answer.text
        axes = {"occlusal": [0, 0, 1], "facial": [0, 1, 0]}
        http.put(f"{self.at}/axes", json=axes, headers={"If-Match": "0"})
        job = http.post(f"{self.at}/measure").json()
        assert until_ended(http, job["id"])["state"] == "done"
        http.post(f"{self.at}/ready")

    def revision(self, kind: str) -> str:
        return str(self.http.get(self.at).json()["revisions"][kind])

    def document(self) -> dict[str, Any]:
        result = self.http.get(f"{self.at}/result").json()
        assert not result["stale"]
        return dict(result["document"])

    def draw(self, points: list[list[float]], **more: Any) -> Any:
        body = {"points": points, **more}
        return self.http.post(f"{self.at}/line/strokes", json=body, headers={"If-Match": self.revision("line")})


@pytest.fixture(scope="module")
def desk(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Desk]:
    settings = Settings(data=Path(tmp_path_factory.mktemp("desk")))
    with TestClient(create_app(settings), base_url=HERE) as http:
        yield Desk(http)


def test_a_drawn_stretch_is_judged_at_once_kept_and_undone(desk: Desk) -> None:
    """0.45 inside the edge mesially: that side's width is short then; two undos bring the first answer back."""
    before = desk.document()
    assert desk.draw(stroke(4.55, 50, 130), snap=False).status_code == 200
    after = desk.document()
    width = {v["zone"]: v for v in after["verdicts"] if v["criterion"] == "finish-line-width" and v["bound"] == "min"}
    assert width["mesial"]["value"] == pytest.approx(0.55, abs=0.08)
    assert width["lingual"]["value"] > 0.85
    assert sum(after["finish_line"]["drawn"]) in range(78, 84)
    assert desk.draw(stroke(4.9, 150, 200), snap=True).status_code == 200
    for _ in range(2):
        at = desk.revision("line")
        assert desk.http.post(f"{desk.at}/edits/line/undo", headers={"If-Match": at}).status_code == 200
    assert desk.document()["finish_line"] == before["finish_line"]
    kinds = [(e["kind"], e["revision"]) for e in desk.http.get(f"{desk.at}/edits").json()]
    assert [k for k in kinds if k[0] == "line"] == [("line", 1), ("line", 2), ("line", 3), ("line", 4)]


def test_an_edit_that_cannot_be_judged_is_not_kept(desk: Desk) -> None:
    """A stroke off the tooth, a stale revision, a null path: 4xx with a sentence, and nothing has changed."""
    revision, before = desk.revision("line"), desk.document()
    answer = desk.draw(stroke(30.0, 0, 40))
    assert answer.status_code == 422
    assert "leaves the tooth" in answer.json()["error"]
    late = desk.http.post(f"{desk.at}/line/strokes", json={"points": stroke(5, 0, 40)}, headers={"If-Match": "99"})
    assert late.status_code == 409
    path = desk.http.put(f"{desk.at}/path", json={"direction": [0, 0, 0]}, headers={"If-Match": desk.revision("path")})
    assert path.status_code == 422
    assert desk.revision("line") == revision
    assert desk.document() == before


def test_a_path_is_judged_at_once_and_so_is_going_back(desk: Desk) -> None:
    """Leaning 12 degrees to mesial over walls of 6: the mesial wall has its draft, the distal one is undercut."""
    direction = [float(np.sin(np.radians(12))), 0.0, float(np.cos(np.radians(12)))]
    at = {"If-Match": desk.revision("path")}
    assert desk.http.put(f"{desk.at}/path", json={"direction": direction}, headers=at).status_code == 200
    tilted = desk.document()
    assert tilted["path"]["source"] == "given"
    assert tilted["undercut"]["max_depth_mm"] > 0.2
    assert desk.http.post(f"{desk.at}/edits/path/undo", headers={"If-Match": desk.revision("path")}).status_code == 200
    assert desk.document()["path"]["source"] == "best"


def test_an_undercut_along_a_tried_path_comes_before_the_judgement(desk: Desk) -> None:
    """Walls of 6 degrees, 12 of tilt to mesial: the distal wall, 3.9 high, leans back by 6: 0.41, the
    same each time. Nothing is kept, and no direction at all is refused."""
    tilt = {"direction": [np.sin(np.radians(12)), 0, np.cos(np.radians(12))]}
    first = desk.http.get(f"{desk.at}/undercut", params=tilt)
    found = desk.http.get(f"{desk.at}/undercut", params=tilt).json()
    assert first.json() == found
    assert found["max_depth_mm"] == pytest.approx(3.9 * np.tan(np.radians(6)), abs=0.06)
    assert found["sectors"] == ["distal"]
    assert desk.http.get(f"{desk.at}").json()["path"] is None
    assert desk.http.get(f"{desk.at}/undercut", params={"direction": [0, 0, 0]}).status_code in (400, 422)


def test_draft_along_a_tried_path_is_the_normals_angle(desk: Desk) -> None:
    """Float32 degrees for each shown vertex: 90 on the flat top, about 6 on the walls."""
    draft = np.frombuffer(desk.http.get(f"{desk.at}/draw", params={"direction": [0, 0, 2]}).content, "<f4")
    assert draft.max() > 85
    assert desk.http.get(f"{desk.at}/draw", params={"direction": [0, 0, 0]}).status_code == 422


@pytest.mark.long
def test_gingiva_and_core_are_drawn_and_forgotten(desk: Desk) -> None:
    """A gingiva above the line makes it subgingival; a core's border gives a ferrule; null forgets both."""

    def put(kind: str, points: Any) -> int:
        at = {"If-Match": desk.revision(kind)}
        return int(desk.http.put(f"{desk.at}/curves/{kind}", json={"points": points}, headers=at).status_code)

    ring = np.array(stroke(5.2, 0, 345, 24))
    ring[:, 2] = 2.4
    assert put("gingiva", ring.tolist()) == 200
    ring[:, 2] = 3.0
    assert put("core", (ring * [0.75, 0.75, 1]).tolist()) == 200
    found = desk.document()
    deep = [v for v in found["verdicts"] if v["criterion"] == "margin-height"]
    assert {v["status"] for v in deep} == {"over"}
    assert found["finish_line"]["gingiva_source"] == "drawn"
    assert all(f["height_mm"] == pytest.approx(1.4, abs=0.1) for f in found["ferrule"])
    assert put("gingiva", None) == put("core", None) == 200
    assert desk.document()["ferrule"] is None
    assert put("core", [[0, 0, 1]]) == 422
    assert json.loads(desk.http.get(desk.at).text)["core"] is None

"""The watched folder: whole files of open cases are taken, measured and told; the rest is put aside with a reason."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from backends import HERE
from fastapi.testclient import TestClient
from solids import Stump
from waiting import until, until_ended

from vane_line.api.app import create_app
from vane_line.api.settings import Settings
from vane_line.core.mesh.write import stl_bytes

STUMP = Stump(grid_mm=0.24, seed=72)


class Chair:
    """A served case, SM-0500, with one measured attempt."""

    def __init__(self, folder: Path) -> None:
        self.inbox = folder / "inbox"
        self.http = TestClient(create_app(Settings(data=folder)), base_url=HERE)
        self.http.__enter__()
        case = self.http.post("/api/cases", json={"code": "SM-0500", "tooth": "36", "material": "zirconia"}).json()
        self.case, first = case["id"], case["sites"][0]["readings"][0]
        for role, surface in (("prep", STUMP.prep()), ("preop", STUMP.preop())):
            self.http.post(
                f"/api/cases/{self.case}/attempts/{first['attempt_id']}/scans", data={"role": role, "unit": "mm"},
                files={"file": (f"{role}.stl", stl_bytes(surface))},
            )  # fmt: skip
        axes = {"occlusal": [0, 0, 1], "facial": [0, 1, 0], "near": None}
        self.http.put(f"/api/readings/{first['id']}/axes", json=axes, headers={"If-Match": "0"})
        self.first = first["id"]

    def arrivals(self, count: int, states: tuple[str, ...] = ("done", "failed", "not-taken")) -> list[dict[str, str]]:
        return until(
            lambda: list(self.http.get("/api/arrivals").json()),
            lambda rows: len(rows) >= count and all(r["state"] in states for r in rows),
        )

    def wait(self, reading: str) -> None:
        job = self.http.post(f"/api/readings/{reading}/measure").json()
        assert until_ended(self.http, job["id"])["state"] == "done"


@pytest.fixture(scope="module")
def chair(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Chair]:
    made = Chair(tmp_path_factory.mktemp("chair"))
    yield made
    made.http.__exit__(None, None, None)


def test_a_dropped_scan_becomes_the_next_attempt_and_is_measured(chair: Chair) -> None:
    """A part of the jaw, the tooth and one neighbour: attempt 2, judged by the first attempt's earlier scan."""
    chair.wait(chair.first)
    deeper = Stump(grid_mm=0.24, seed=72, occlusal_mm=1.9).prep()
    part = deeper.keep_vertices((deeper.vertices[:, 0] > -6.2) & (deeper.vertices[:, 0] < 16))[0]
    (chair.inbox / "sm-0500_prep_0912.stl").write_bytes(stl_bytes(part))
    row = chair.arrivals(1)[0]
    assert (row["case_code"], row["attempt_number"], row["state"]) == ("SM-0500", 2, "done")
    assert (chair.inbox / "taken" / "sm-0500_prep_0912.stl").exists()
    result = chair.http.get(f"/api/readings/{row['reading_id']}/result").json()["document"]
    assert result["alignment"]["preop"]["trusted"]
    cusps = {z["zone"]: z["median_mm"] for z in result["reduction"]["zones"] if "cusp/" in z["zone"]}
    assert np.median(list(cusps.values())) == pytest.approx(1.9, abs=0.09)  # with the rounded edge
    since = chair.http.get(f"/api/readings/{row['reading_id']}/changes").json()
    assert since["since"] == 1
    off = chair.http.get(f"/api/readings/{row['reading_id']}/difference", params={"detail": "rest"})
    taken = np.frombuffer(off.content, "<f4")
    assert np.nanquantile(taken, 0.95) == pytest.approx(0.4, abs=0.05)  # what the last pass took off the top
    assert chair.http.get(f"/api/readings/{chair.first}/difference").status_code == 404


def test_the_numbers_run_over_the_attempts(chair: Chair) -> None:
    """Two measured attempts: one row for each criterion that was ever at fault, a value for each attempt."""
    site = chair.http.get(f"/api/cases/{chair.case}").json()["sites"][0]["id"]
    times = chair.http.get(f"/api/sites/{site}/timeline").json()
    assert times["attempts"] == [1, 2]
    assert times["rows"]
    assert all(len(r["values"]) == len(r["where"]) == len(r["status"]) == 2 for r in times["rows"])
    assert all(any(s in ("short", "over") for s in r["status"]) for r in times["rows"])
    edges = next(r for r in times["rows"] if r["criterion"] == "edge-radius")
    assert edges["limit"] == 0.5
    assert edges["status"][0] == "short"


def test_what_cannot_be_taken_is_put_aside_with_its_reason(chair: Chair) -> None:
    """An unknown code, a broken file: both kept, each with a sentence; the case is as it was."""
    before = chair.http.get(f"/api/cases/{chair.case}").json()
    (chair.inbox / "nobody_prep.stl").write_bytes(stl_bytes(STUMP.prep()))
    (chair.inbox / "SM-0500_broken.stl").write_bytes(stl_bytes(STUMP.prep())[:5000])
    rows = {r["name"]: r for r in chair.arrivals(3)}
    assert "no open case's code" in rows["nobody_prep.stl"]["error"]
    assert "cut short" in rows["SM-0500_broken.stl"]["error"]
    for name in ("nobody_prep.stl", "SM-0500_broken.stl"):
        aside = chair.inbox / "not-taken" / name
        assert aside.exists()
        assert aside.with_suffix(".stl.txt").read_text().strip() == rows[name]["error"]
    assert chair.http.get(f"/api/cases/{chair.case}").json() == before


def test_ticks_are_kept_with_the_attempt(chair: Chair) -> None:
    """Ticked off by hand, refused on an old revision."""
    at = f"/api/readings/{chair.first}"
    body = {"keys": ["reduction|central-groove"]}
    assert chair.http.put(f"{at}/ticks", json=body, headers={"If-Match": "0"}).status_code == 200
    assert chair.http.get(at).json()["ticks"] == body["keys"]
    assert chair.http.put(f"{at}/ticks", json={"keys": []}, headers={"If-Match": "0"}).status_code == 409


@pytest.mark.long
def test_strokes_are_predicted_and_not_kept(chair: Chair) -> None:
    """Off the top: what would follow; the judgement stays as it is; a stroke of nothing is refused."""
    at = f"/api/readings/{chair.first}"
    before = chair.http.get(f"{at}/result").json()
    top = [[-2.0, 0.0, 5.5], [2.0, 0.0, 5.5]]
    body = {"strokes": [{"points": top, "depth_mm": 0.7, "diameter_mm": 2.0}]}
    answer = chair.http.post(f"{at}/predict", json=body).json()
    assert answer["removed_mm3"] > 3
    assert any(r["criterion"] == "reduction" and r["bound"] == "max" and r["state"] == "new" for r in answer["rows"])
    assert chair.http.get(f"{at}/result").json() == before
    assert chair.http.post(f"{at}/predict", json={"strokes": []}).status_code == 422


def test_a_section_as_svg_is_to_scale(chair: Chair) -> None:
    """Millimetres: the earlier top 1.5 over the preparation's, the ribbon twice the minimum wide."""
    import xml.etree.ElementTree as Tree

    query = {"origin": [0, 0, 3], "normal": [1, 0, 0], "up": [0, 0, 1], "minimum_mm": 1.0}
    answer = chair.http.get(f"/api/readings/{chair.first}/section.svg", params=query)
    assert answer.headers["content-type"].startswith("image/svg+xml")
    root = Tree.fromstring(answer.text)
    assert root.get("width") == "18mm"
    assert root.get("viewBox") == "-9 -10 18 20"
    paths = {p.get("id"): p for p in root.iter("{http://www.w3.org/2000/svg}path") if p.get("id")}
    tops = {}
    for role in ("prep", "preop"):
        text = paths[role].get("d") or ""
        pairs = [c.split() for c in text.replace("M", " |").replace("L", " |").split("|")[1:]]
        tops[role] = -min(float(y) for _, y in pairs)
    assert tops["preop"] - tops["prep"] == pytest.approx(1.5, abs=0.05)
    assert paths["minimum"].get("stroke-width") == "2"

"""The API by its own description: every operation, its errors, its headers."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from backends import HERE
from fastapi.testclient import TestClient
from solids import Stump
from waiting import until_ended

from vane_line.api.app import create_app
from vane_line.api.describe import describe
from vane_line.api.error_table import STATUS, status_of
from vane_line.api.settings import Settings
from vane_line.core.mesh.write import stl_bytes
from vane_line.errors import BadOption, Conflict, InternalError, NotFound, ScanTooLarge, UnreadableScan

STUMP = Stump(grid_mm=0.24)
ROOT = Path(__file__).parents[2]


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    settings = Settings(data=tmp_path_factory.mktemp("api"), max_upload_bytes=30_000_000)
    with TestClient(create_app(settings), base_url=HERE) as client:
        yield client


@pytest.fixture(scope="module")
def case(client: TestClient) -> dict[str, Any]:
    body = {"code": "SM-77", "tooth": "19", "notation": "universal", "material": "zirconia"}
    made = client.post("/api/cases", json=body)
    assert made.status_code == 201
    return made.json()


def reading_of(case: dict[str, Any]) -> str:
    return case["sites"][0]["readings"][0]["id"]


def attempt_of(case: dict[str, Any]) -> str:
    return case["sites"][0]["readings"][0]["attempt_id"]


def test_the_description_in_docs_is_up_to_date() -> None:
    """docs/openapi.json is what the application says of itself; the TypeScript client is made from it."""
    assert (ROOT / "docs/openapi.json").read_text(encoding="utf-8") == describe()


def test_every_operation_has_a_stable_name_and_says_what_it_does(client: TestClient) -> None:
    """Operation ids are unique and written out; each has a sentence."""
    paths = client.get("/openapi.json").json()["paths"]
    operations = [o for p in paths.values() for o in p.values()]
    names = [o["operationId"] for o in operations]
    assert len(set(names)) == len(names) >= 18
    assert all("_api_" not in n and o.get("description") for n, o in zip(names, operations, strict=True))


def test_errors_have_one_status_each() -> None:
    """The caller's mistakes are 4xx, ours 500, by the nearest ancestor in the table."""
    given = {BadOption: 422, UnreadableScan: 422, ScanTooLarge: 413, NotFound: 404, Conflict: 409, InternalError: 500}
    assert {e: status_of(e("x")) for e in given} == given
    assert all(400 <= s < 600 for s in STATUS.values())


def test_a_case_is_made_shown_and_listed(client: TestClient, case: dict[str, Any]) -> None:
    """Universal 19 is FDI 36; standard and material by default."""
    site = case["sites"][0]
    assert (site["tooth"], site["universal"], site["standard_id"]) == ("36", "19", "zirconia-usual")
    assert client.get(f"/api/cases/{case['id']}").json() == case
    assert case["id"] in [c["case"]["id"] for c in client.get("/api/cases").json()]


BAD_CASES = [
    ({"code": "", "tooth": "36", "material": "zirconia"}, "code"),
    ({"code": "a", "tooth": "99", "material": "zirconia"}, "11 to 48"),
    ({"code": "a", "tooth": "36", "material": "gold"}, "gold"),
    ({"code": "a", "tooth": "36"}, "material"),
    ({"code": "a", "tooth": "36", "material": "zirconia", "restoration": "pin-casting"}, "pin-casting"),
]


@pytest.mark.parametrize(("body", "words"), BAD_CASES)
def test_a_bad_case_is_refused_in_words(client: TestClient, body: dict[str, str], words: str) -> None:
    """422 with one sentence, and no case made."""
    before = len(client.get("/api/cases").json())
    answer = client.post("/api/cases", json=body)
    assert answer.status_code == 422
    assert words in answer.json()["error"]
    assert len(client.get("/api/cases").json()) == before


def test_what_is_not_there_is_404(client: TestClient) -> None:
    """For every kind of thing."""
    for path in ("cases/x", "readings/x", "jobs/x", "readings/x/result", "blobs/x"):
        answer = client.get(f"/api/{path}")
        assert answer.status_code == 404, path
        assert answer.json()["error"]


def upload(client: TestClient, case: dict[str, Any], name: str, data: bytes, **form: str) -> Any:
    address = f"/api/cases/{case['id']}/attempts/{attempt_of(case)}/scans"
    return client.post(address, files={"file": (name, data)}, data=form)


@pytest.mark.parametrize("data", [b"", b"solid nothing", bytes(200), b"ply\nformat nonsense\n"])
def test_a_malformed_upload_leaves_the_case_untouched(client: TestClient, case: dict[str, Any], data: bytes) -> None:
    """422, one sentence, no scan."""
    answer = upload(client, case, "prep.stl", data)
    assert answer.status_code == 422
    assert "prep.stl" in answer.json()["error"]
    assert client.get(f"/api/readings/{reading_of(case)}").json()["scans"] == []


def test_an_upload_over_the_limit_is_413(client: TestClient, case: dict[str, Any]) -> None:
    """The limit is a setting."""
    answer = upload(client, case, "prep.stl", bytes(30_000_001))
    assert answer.status_code == 413
    assert "limit" in answer.json()["error"]


def test_measuring_without_a_preparation_says_so(client: TestClient, case: dict[str, Any]) -> None:
    """Said at once, not by a failed job."""
    answer = client.post(f"/api/readings/{reading_of(case)}/measure")
    assert answer.status_code == 422
    assert "preparation" in answer.json()["error"]


def test_the_whole_way(client: TestClient, case: dict[str, Any]) -> None:
    """Upload, guess and confirm axes, measure, watch, read the result, its fields, a section, another standard."""
    attempt, reading = attempt_of(case), reading_of(case)
    prep = upload(client, case, "after prep.stl", stl_bytes(STUMP.prep()))
    assert prep.status_code == 201
    assert prep.json()["role"] == "prep"
    preop = upload(client, case, "scan.stl", stl_bytes(STUMP.preop()), role="preop", unit="mm").json()
    renamed = client.put(f"/api/scans/{preop['id']}", json={"attempt_id": attempt, "role": "preop", "unit": "mm"})
    assert renamed.json()["unit_sure"]
    mesh = client.get(f"/api/blobs/{preop['rest_hash']}")
    assert mesh.headers["cache-control"].split(", ") == ["private", "max-age=31536000", "immutable"]

    guess = client.post(f"/api/readings/{reading}/axes/guess").json()
    assert guess["occlusal"][2] > 0.98
    axes = {"occlusal": [0, 0, 1], "facial": [0, 1, 0], "near": guess["centre"]}
    address = f"/api/readings/{reading}/axes"
    assert client.put(address, json=axes, headers={"If-Match": '"0"'}).json() == {"revision": 1}
    assert client.put(address, json=axes, headers={"If-Match": '"0"'}).status_code == 409
    assert client.put(address, json=axes, headers={"If-Match": "x"}).status_code == 422
    assert client.put(address, json=axes | {"facial": [1]}, headers={"If-Match": "1"}).status_code == 422

    job = client.post(f"/api/readings/{reading}/measure")
    assert job.status_code == 202
    with client.stream("GET", f"/api/jobs/{job.json()['id']}/events") as events:
        lines = [line for line in events.iter_lines() if line.startswith("data: ")]
    assert '"state": "done"' in lines[-1]
    assert any("finish line" in line or "aligning" in line for line in lines)

    result = client.get(f"/api/readings/{reading}/result").json()
    assert result["document"]["schema"] == "vane-line/measurement/1"
    assert not result["stale"]
    depth = client.get(f"/api/blobs/{result['fields']['light/depth']}").content
    light = client.get(f"/api/blobs/{prep.json()['light_hash']}").content
    assert len(depth) == 4 * int.from_bytes(light[:4], "little")
    section = client.get(
        f"/api/readings/{reading}/section", params={"origin": [0, 0, 3], "normal": [1, 0, 0], "up": [0, 0, 1]}
    ).json()
    assert set(section["lines"]) == {"prep", "preop"}
    told = {row["at"]: row["mm"] for row in section["thickness"]}
    assert told["cusp"] == pytest.approx(1.5, abs=0.06)  # taken off the flat top
    assert len(section["crossings"]) == 2
    drawing = client.get(
        f"/api/readings/{reading}/section.svg",
        params={"origin": [0, 0, 3], "normal": [1, 0, 0], "up": [0, 0, 1], "minimum_mm": 1.5},
    ).text
    assert f">{told['cusp']:.2f}</text>" in drawing
    paper = client.get(f"/api/readings/{reading}/record.pdf")
    assert (paper.headers["content-type"], paper.content[:4]) == ("application/pdf", b"%PDF")
    assert (
        "font-src 'self' data:" in client.get(f"/api/readings/{reading}/record.html").headers["content-security-policy"]
    )
    packed = client.get(f"/api/readings/{reading}/package.zip", params={"wishes": "edge translucent"})
    assert packed.content[:2] == b"PK"
    ends = {"one": [-1, 0, 5.5], "other": [1, 0, 5.5]}
    assert client.get(f"/api/readings/{reading}/tape", params=ends).json()["straight_mm"] == pytest.approx(2, abs=0.05)
    off = client.get(f"/api/readings/{reading}/tape", params=ends | {"one": [0, 0, 30]})
    assert off.status_code == 422
    assert "off the surface" in off.json()["error"]
    pins = {"pins": [{"place": [0, 0, 5.5], "name": "middle"}]}
    at = f"/api/readings/{reading}/pins"
    assert client.put(at, json=pins, headers={"If-Match": "0"}).json() == {"revision": 1}
    assert client.put(at, json=pins, headers={"If-Match": "0"}).status_code == 409
    assert client.get(f"/api/readings/{reading}").json()["pins"] == pins["pins"]

    lock = f"/api/readings/{reading}/path"
    assert client.put(lock, json={"direction": [0, 0, 0]}, headers={"If-Match": "0"}).status_code == 422
    assert client.put(lock, json={"direction": [0.05, 0, 1]}, headers={"If-Match": "0"}).json() == {"revision": 1}
    assert client.get(f"/api/readings/{reading}").json()["path"] == [0.05, 0, 1]
    assert client.get(f"/api/readings/{reading}/result").json()["document"]["path"]["source"] == "given"
    assert client.put(lock, json={"direction": None}, headers={"If-Match": "1"}).json() == {"revision": 2}
    assert not client.get(f"/api/readings/{reading}/result").json()["stale"]

    changed = client.put(f"/api/sites/{case['sites'][0]['id']}/standard", json={"material": "metal-ceramic"})
    assert changed.json()["sites"][0]["standard_id"] == "metal-ceramic-moderate"
    until_ended(client, client.get(f"/api/readings/{reading}").json()["job"]["id"])
    again = client.get(f"/api/readings/{reading}/result").json()
    assert again["document"]["material"] == "metal-ceramic"
    assert again["document"]["finish_line"]["points"] == result["document"]["finish_line"]["points"]


def test_an_edited_standard_is_tried_before_it_is_kept(client: TestClient) -> None:
    """On the cases that its standard judges: the answer now and then; nothing is kept by trying."""
    rows = client.get("/api/cases").json()
    measured = next(r["case"] for r in rows if r["standing"]["picture"])
    against = measured["sites"][0]["standard_id"]
    data = client.get(f"/api/standards/{against}").json() | {"title": "Much thicker", "id": ""}
    for name in ("own", "fits", "bounds"):
        data.pop(name)
    thick = {k: v | {"min": v["min"] + 0.9, "target": v["target"] + 0.9, "max": v["max"] + 0.9}
             for k, v in data["reduction"].items()}  # fmt: skip
    before = client.get("/api/standards").json()
    tried = client.post("/api/standards/try", json={"against": against, "data": data | {"reduction": thick}}).json()
    row = next(r for r in tried["rows"] if r["case_id"] == measured["id"])
    assert tried["count"] >= 1
    assert row["turned"] > 0
    assert row["then"] != row["now"]
    same = client.post("/api/standards/try", json={"against": against, "data": data}).json()
    assert next(r for r in same["rows"] if r["case_id"] == measured["id"])["turned"] == 0
    assert client.post("/api/standards/try", json={"against": "own-nobody", "data": data}).json()["rows"] == []
    wrong = client.post("/api/standards/try", json={"against": against, "data": {"title": "x"}})
    assert wrong.status_code == 422
    assert client.get("/api/standards").json() == before


def test_notes_change_on_the_revision_that_was_read(client: TestClient, case: dict[str, Any]) -> None:
    """If-Match guards a case too."""
    body = {"notes": "short distally", "opposing_frame": "preop"}
    address = f"/api/cases/{case['id']}"
    assert client.patch(address, json=body, headers={"If-Match": "1"}).json()["revision"] == 2
    assert client.patch(address, json=body, headers={"If-Match": "1"}).status_code == 409


def test_a_case_is_put_away_taken_back_and_deleted_for_good(client: TestClient) -> None:
    """Put away it is out of the list and whole; for good only then, with its scans and their bytes."""
    made = client.post("/api/cases", json={"code": "gone", "tooth": "46", "material": "zirconia"}).json()
    scan = upload(client, made, "prep.stl", stl_bytes(Stump(grid_mm=0.4, neighbours=False).prep())).json()
    at, blob = f"/api/cases/{made['id']}", f"/api/blobs/{scan['rest_hash']}"
    assert client.delete(at, params={"for_good": True}).status_code == 409
    assert client.delete(at).status_code == 204
    assert made["id"] not in [c["case"]["id"] for c in client.get("/api/cases").json()]
    away = client.get("/api/cases", params={"put_away": True}).json()
    assert [c["case"]["id"] for c in away] == [made["id"]]
    assert away[0]["case"]["put_away_at"]
    assert client.get(blob).status_code == 200
    assert client.post(f"{at}/restore").json()["put_away_at"] is None
    assert client.get(f"/api/readings/{reading_of(made)}").json()["scans"][0]["id"] == scan["id"]
    client.delete(at)
    assert client.delete(at, params={"for_good": True}).status_code == 204
    assert client.get(at).status_code == client.get(blob).status_code == 404


def test_an_attempt_is_added_put_away_and_taken_back(client: TestClient) -> None:
    """The only one stays; its number is not given again."""
    made = client.post("/api/cases", json={"code": "two", "tooth": "46", "material": "zirconia"}).json()
    first, at = attempt_of(made), f"/api/cases/{made['id']}/attempts"
    assert client.delete(f"/api/attempts/{first}").status_code == 409
    second = client.post(at).json()["sites"][0]["readings"][1]
    assert client.delete(f"/api/attempts/{second['attempt_id']}").status_code == 204
    now = client.get(f"/api/cases/{made['id']}").json()["sites"][0]
    assert [a["number"] for a in now["readings"]] == [1]
    assert [(a["id"], a["number"]) for a in now["put_away"]] == [(second["attempt_id"], 2)]
    assert client.post(f"/api/attempts/{second['attempt_id']}/restore").status_code == 204
    assert client.delete(f"/api/attempts/{second['attempt_id']}").status_code == 204
    numbers = [a["number"] for a in client.post(at).json()["sites"][0]["readings"]]
    assert numbers == [1, 3]
    assert client.delete("/api/attempts/none").status_code == 404


def test_a_case_may_have_several_teeth(client: TestClient) -> None:
    """Scans and attempts are shared; what is edited by hand is each tooth's own; what cannot be meant is refused."""
    made = client.post("/api/cases", json={"code": "SM-78", "tooth": "35", "material": "zirconia"}).json()
    at = f"/api/cases/{made['id']}"
    client.post(f"{at}/attempts")
    both = client.post(f"{at}/sites", json={"tooth": "18", "notation": "universal", "material": "zirconia"})
    assert both.status_code == 201
    first, second = both.json()["sites"]
    assert [first["tooth"], second["tooth"]] == ["35", "37"]
    assert [r["attempt_id"] for r in first["readings"]] == [r["attempt_id"] for r in second["readings"]]
    assert {r["id"] for r in first["readings"]}.isdisjoint(r["id"] for r in second["readings"])
    scan = upload(client, made, "prep.stl", stl_bytes(STUMP.prep()), role="prep", unit="mm").json()
    readings = [client.get(f"/api/readings/{s['readings'][0]['id']}").json() for s in (first, second)]
    assert [[s["id"] for s in r["scans"]] for r in readings] == [[scan["id"]]] * 2
    axes = {"occlusal": [0, 0, 1], "facial": [0, 1, 0], "near": [0, 0, 4]}
    client.put(f"/api/readings/{readings[1]['id']}/axes", json=axes, headers={"If-Match": "0"})
    assert client.get(f"/api/readings/{readings[0]['id']}").json()["axes"] is None
    for tooth, status in (("37", 409), ("26", 422), ("91", 422)):
        refused = client.post(f"{at}/sites", json={"tooth": tooth, "material": "zirconia"})
        assert refused.status_code == status
        assert refused.json()["error"]
    third = client.post(f"{at}/attempts").json()
    assert [[r["number"] for r in s["readings"]] for s in third["sites"]] == [[1, 2, 3]] * 2
    client.delete(f"/api/attempts/{second['readings'][1]['attempt_id']}")
    left = client.get(at).json()["sites"]
    assert [[r["number"] for r in s["readings"]] for s in left] == [[1, 3]] * 2


def test_places_are_pointed_at_on_two_scans(client: TestClient, case: dict[str, Any]) -> None:
    """Kept with the scans they lie on; what fixes no position is refused; a replaced scan forgets them."""
    at = f"/api/readings/{reading_of(case)}"
    body = {"theirs": [[0, 0, 0], [5, 0, 0], [0, 5, 0]], "ours": [[0, 0, 1], [5, 0, 1], [0, 5, 1]]}

    def put(role: str, body: dict[str, Any]) -> Any:
        revision = client.get(at).json()["revisions"]["pairs"]
        return client.put(f"{at}/pairs/{role}", json=body, headers={"If-Match": str(revision)})

    assert put("preop", body).status_code == 200
    assert client.get(at).json()["pairs"]["preop"] == body
    line = [[0, 0, 0], [1, 0, 0], [9, 0, 0]]
    assert "one line" in put("preop", {"theirs": line, "ours": line}).json()["error"]
    assert "3 places" in put("preop", {"theirs": line[:2], "ours": line[:2]}).json()["error"]
    assert "Both scans" in put("mockup", body).json()["error"]
    assert put("opposing", body).status_code == 422
    assert put("preop", {"theirs": [], "ours": []}).status_code == 200
    assert client.get(at).json()["pairs"] == {}


def test_nothing_may_come_from_outside(client: TestClient) -> None:
    """The content policy names ourselves only."""
    policy = client.get("/api/health").headers["content-security-policy"]
    assert "default-src 'self'" in policy
    assert "http" not in policy


def test_other_machines_are_asked_to_sign_in(tmp_path: Path) -> None:
    """Listening wider, every call asks who it is (`test_people_api`); the page that asks is open."""
    settings = Settings(data=tmp_path, host="0.0.0.0")
    assert not settings.only_this_machine
    with TestClient(create_app(settings), base_url=HERE) as client:
        assert client.get("/api/cases").status_code == 401
        assert client.get("/api/session").json()["signing_in"]


def test_settings_listen_on_this_machine_unless_told(monkeypatch: pytest.MonkeyPatch) -> None:
    """Defaults are sane; the environment changes them."""
    assert Settings().only_this_machine
    monkeypatch.setenv("VANE_LINE_MAX_TRIANGLES", "1000")
    assert Settings().max_triangles == 1000


def test_a_kind_is_chosen_with_its_own_standards(client: TestClient) -> None:
    """Kinds say how they are read and whether they are planned; an onlay takes its own standard and no front tooth."""
    kinds = {k["value"]: k for k in client.get("/api/vocabulary").json()["kinds"]}
    assert kinds["full-crown"]["planned"]
    assert kinds["onlay"]["reader"] == "cavity"
    assert kinds["onlay"]["planned"]
    body = {"code": "SM-78", "tooth": "46", "material": "lithium-disilicate", "restoration": "onlay"}
    made = client.post("/api/cases", json=body).json()
    assert made["sites"][0]["standard_id"] == "cavity-lithium-disilicate"
    front = client.post("/api/cases", json=body | {"tooth": "11"})
    assert front.status_code == 422
    assert "premolars and molars" in front.text
    other = client.post("/api/cases", json=body | {"standard_id": "lithium-disilicate-bonded"})
    assert other.status_code == 422
    lenses = {one["name"]: one["readers"] for one in client.get("/api/vocabulary").json()["lenses"]}
    assert lenses["cusps"] == ["cavity"]
    assert lenses["depth"] == ["ring", "cavity", "window", "cast", "child"]
    assert "child" not in lenses["draw"]
    veneer = {"code": "SM-77", "tooth": "21", "material": "lithium-disilicate", "restoration": "veneer"}
    assert client.post("/api/cases", json=veneer).json()["sites"][0]["standard_id"] == "veneer-lithium-disilicate"
    assert "molar" in client.post("/api/cases", json=veneer | {"tooth": "36"}).text
    assert [name for name, kind in kinds.items() if kind["primary"]] == ["child-crown"]
    child = {"code": "SM-76", "tooth": "A", "notation": "universal", "material": "preformed-metal",
             "restoration": "child-crown"}  # fmt: skip
    (site,) = client.post("/api/cases", json=child).json()["sites"]
    assert (site["tooth"], site["universal"], site["standard_id"]) == ("55", "A", "child-preformed-metal")
    assert "primary" in client.post("/api/cases", json=child | {"tooth": "19"}).text


@pytest.mark.parametrize(
    ("tooth", "kind", "material", "fact"),
    [
        ("21", "veneer", "lithium-disilicate", {"dark": True}),
        ("46", "onlay", "lithium-disilicate", {"root_filled": True}),
        ("12", "pin-casting", "full-metal", {"guide_pins": True}),
        ("12", "pin-casting", "full-metal", {"gauge": {"mesial": 2.2, "distal": 2.4}}),
        ("36", "full-crown", "zirconia", {"facts": ["grinding", "young-pulp"]}),
    ],
)
def test_a_fact_of_the_tooth_is_said(
    client: TestClient, tooth: str, kind: str, material: str, fact: dict[str, Any]
) -> None:  # fmt: skip
    """That it is dark, or root-filled, how deep its pin holes are: kept with the site and told with the case."""
    body = {"code": f"SM-{next(iter(fact))}", "tooth": tooth, "material": material, "restoration": kind}
    site = client.post("/api/cases", json=body).json()["sites"][0]
    assert not any(site[key] for key in fact)
    changed = client.put(f"/api/sites/{site['id']}/facts", json=fact).json()["sites"][0]
    assert {key: changed[key] for key in fact} == fact
    assert changed["root_filled"] == fact.get("root_filled", False)
    assert client.put("/api/sites/none/facts", json=fact).status_code == 404


def test_a_fact_that_nobody_knows_is_refused(client: TestClient, case: dict[str, Any]) -> None:
    """Named with those that there are; every one that is offered says what it changes."""
    address = f"/api/sites/{case['sites'][0]['id']}/facts"
    refused = client.put(address, json={"facts": ["grinding", "tired"]})
    assert refused.status_code == 422
    assert "tired" in refused.text
    assert "grinding" in refused.text
    offered = client.get("/api/vocabulary").json()["facts"]
    assert {"grinding", "deep-bite", "acid-wear"} <= {one["value"] for one in offered}
    assert all(len(one["hint"]) > 40 for one in offered)


def test_a_pin_s_depth_is_no_nonsense(client: TestClient, case: dict[str, Any]) -> None:
    """A side that is none, a depth longer than a tooth: refused, nothing kept."""
    address = f"/api/sites/{case['sites'][0]['id']}/facts"
    for gauge in ({"facial": 2.0}, {"mesial": 22.0}, {"mesial": -1}):
        assert client.put(address, json={"gauge": gauge}).status_code == 422
    assert client.get(f"/api/cases/{case['id']}").json()["sites"][0]["gauge"] == {}


def test_the_jaw_s_movement_is_said_of_a_case(client: TestClient, case: dict[str, Any]) -> None:
    """Kept on the revision that was read, refused in words where no joint is so, taken back with an empty text."""
    address = f"/api/cases/{case['id']}"
    now = client.get(address).json()
    body = {"notes": now["notes"], "opposing_frame": now["opposing_frame"]}

    def change(movements: str, revision: int) -> Any:
        return client.patch(address, json={**body, "movements": movements}, headers={"If-Match": str(revision)})

    refused = change("95,-,-", now["revision"])
    assert refused.status_code == 422
    assert "condylar-path" in refused.text
    kept = change("35,-,-", now["revision"])
    assert kept.json()["movements"] == "35,-,-"
    assert change("-,-,-", now["revision"]).status_code == 409
    only_notes = client.patch(address, json=body, headers={"If-Match": str(kept.json()["revision"])})
    assert only_notes.json()["movements"] == "35,-,-"
    assert change("", only_notes.json()["revision"]).json()["movements"] is None

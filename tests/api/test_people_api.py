"""Roles over the wire: every call of the API, one by one, by everybody who may not make it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from backends import HERE
from fastapi.testclient import TestClient

from vane_line.api import roles
from vane_line.api.app import create_app
from vane_line.api.context import COOKIE
from vane_line.api.settings import Settings
from vane_line.core.grade.rubric import as_data, find_rubric
from vane_line.service import people
from vane_line.store import cases, exercises
from vane_line.store.database import Database

PASSWORD = "reeds and tidal mud"
WHO = ("owner", "dentist", "instructor", "student", "laboratory")
NO_ID = "01ARZ3NDEKTSV4RRFFQ69G5FAV"


class Server:
    """A server that others reach, with somebody of each role, and one case of each kind."""

    def __init__(self, folder: Path) -> None:
        settings = Settings(data=folder, host="0.0.0.0", password=PASSWORD)
        self.db = Database(settings.database)
        people.first_owner(self.db, PASSWORD)
        self.people = {r: people.add(self.db, f"{r}-1", r, PASSWORD) for r in WHO[1:]}
        self.app = create_app(settings, self.db)
        self.clients = {r: TestClient(self.app, base_url=HERE) for r in (*WHO, "nobody")}
        self.clients["owner"].__enter__()
        for role in WHO:
            name = "owner" if role == "owner" else f"{role}-1"
            answer = self.clients[role].post("/api/session", json={"name": name, "password": PASSWORD})
            assert answer.json()["person"]["role"] == role
        self.master = self.case("MASTER-36")
        exercise = exercises.add_exercise(self.db, "First molar", self.master, as_data(find_rubric("crown")), False)
        self.own, self.other = self.case("STUDENT-1"), self.case("STUDENT-2")
        for case in (self.own, self.other):
            exercises.add_hand_in(self.db, exercise.id, case)

    def case(self, code: str) -> str:
        answer = self.clients["dentist"].post(
            "/api/cases", json={"code": code, "tooth": "36", "material": "zirconia", "opposing_frame": "preop"}
        )
        return str(answer.json()["id"])

    def reading(self, case: str) -> str:
        return cases.readings_of(self.db, cases.sites_of(self.db, case)[0].id)[0].id

    def calls(self) -> list[tuple[str, str, str]]:
        """Every call: its name, method and an address with ids of nothing."""
        out = []
        for path, methods in self.app.openapi()["paths"].items():
            address = re.sub(r"{[^}]+}", NO_ID, path)
            out += [(told["operationId"], method.upper(), address) for method, told in methods.items()]
        return out


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    made = Server(tmp_path_factory.mktemp("people"))
    yield made
    made.clients["owner"].__exit__(None, None, None)


def test_every_call_has_a_name_that_the_roles_know(server: Server) -> None:
    """A list that names a call which is no more would forbid or allow nothing."""
    names = {name for name, _, _ in server.calls()}
    assert len(names) > 70
    for listed in (roles.OPEN, roles.OWNERS, roles.STUDENT, roles.LABORATORY):
        assert listed <= names


def test_nobody_gets_anything(server: Server) -> None:
    """Without a session every call is refused before it is looked at, but signing in and whether the server lives."""
    for name, method, path in server.calls():
        if name not in roles.OPEN:
            answer = server.clients["nobody"].request(method, path)
            assert answer.status_code == 401, name
            assert answer.json()["error"] == "Sign in first."


@pytest.mark.parametrize("role", ["dentist", "instructor", "student", "laboratory"])
def test_each_role_is_kept_from_what_is_not_its_own(server: Server, role: str) -> None:
    """One by one: what is forbidden is refused with 403; what is not is not (there is nothing at these addresses)."""
    allowed, forbidden = roles.LISTS.get(role), 0
    for name, method, path in server.calls():
        if name in roles.OPEN | {"signOutEverywhere", "changeOwnPassword", "watchJob"}:
            continue
        status = server.clients[role].request(method, path).status_code
        may = name in allowed if allowed is not None else name not in roles.OWNERS
        assert (status != 403) is may, f"{role}: {name} answered {status}"
        forbidden += not may
    assert forbidden == len(roles.OWNERS) if allowed is None else forbidden > 40


def test_a_student_sees_the_own_hand_in_and_no_other(server: Server) -> None:
    http = server.clients["student"]
    assert [row["case"]["code"] for row in http.get("/api/cases").json()] == ["STUDENT-1"]
    assert http.get(f"/api/cases/{server.own}").status_code == 200
    assert http.get(f"/api/readings/{server.reading(server.own)}").status_code == 200
    for case in (server.other, server.master):
        assert http.get(f"/api/cases/{case}").status_code == 404
        assert http.get(f"/api/readings/{server.reading(case)}").status_code == 404
        assert http.get(f"/api/readings/{server.reading(case)}/taught").status_code == 404
        pins = http.put(f"/api/readings/{server.reading(case)}/pins", json=[], headers={"If-Match": "0"})
        assert pins.status_code == 404


def test_a_laboratory_sees_what_was_shared_with_it(server: Server) -> None:
    """Shared by a dentist, seen; taken back, gone. Only laboratories are shared with."""
    http, dentist = server.clients["laboratory"], server.clients["dentist"]
    address = f"/api/cases/{server.master}/shared"
    assert http.get("/api/cases").json() == []
    told = dentist.get(address).json()
    assert [p["name"] for p in told["laboratories"]] == ["laboratory-1"]
    assert dentist.put(address, json={"people": [told["laboratories"][0]["id"]]}).status_code == 204
    assert [row["case"]["code"] for row in http.get("/api/cases").json()] == ["MASTER-36"]
    assert http.get(f"/api/readings/{server.reading(server.master)}").status_code == 200
    assert http.get(f"/api/cases/{server.own}").status_code == 404
    refused = dentist.put(address, json={"people": [server.people["student"].id]})
    assert refused.status_code == 422
    assert dentist.put(address, json={"people": []}).status_code == 204
    assert http.get(f"/api/cases/{server.master}").status_code == 404


def test_what_somebody_changes_carries_the_name(server: Server) -> None:
    reading = server.reading(server.master)
    at = {"occlusal": [0, 0, 1], "facial": [0, 1, 0], "near": [0, 0, 0]}
    answer = server.clients["instructor"].put(f"/api/readings/{reading}/axes", json=at, headers={"If-Match": "0"})
    assert answer.status_code == 200, answer.text
    assert server.clients["owner"].get(f"/api/readings/{reading}/edits").json()[0]["actor"] == "instructor-1"
    job = server.app.state.context.runner.submit(reading, "plan", "dentist-1")
    assert server.db.row("SELECT actor FROM jobs WHERE id = ?", job.id)["actor"] == "dentist-1"  # type: ignore[index]


def test_the_cookie_is_out_of_reach_of_scripts_and_other_sites(server: Server) -> None:
    http = TestClient(server.app, base_url=HERE)
    said = http.post("/api/session", json={"name": "dentist-1", "password": PASSWORD}).headers["set-cookie"]
    assert said.startswith(f"{COOKIE}=")
    assert "HttpOnly" in said
    assert "SameSite=strict" in said
    assert http.get("/api/session").json()["person"]["name"] == "dentist-1"
    assert http.delete("/api/session").status_code == 204
    assert http.get("/api/session").json() == {"signing_in": True, "person": None}


def test_a_password_is_changed_by_oneself_and_by_the_owner(server: Server) -> None:
    owner = server.clients["owner"]
    made = owner.post("/api/people", json={"name": "SO-21", "role": "dentist", "password": PASSWORD}).json()
    http = TestClient(server.app, base_url=HERE)
    http.post("/api/session", json={"name": "SO-21", "password": PASSWORD})
    change = {"now": "not the one at all", "password": "another long sentence"}
    assert http.put("/api/session/password", json=change).status_code == 401
    assert http.put("/api/session/password", json=change | {"now": PASSWORD}).status_code == 204
    assert http.get("/api/cases").status_code == 401  # signed out everywhere
    again = http.post("/api/session", json={"name": "SO-21", "password": "another long sentence"})
    assert again.status_code == 200
    assert owner.put(f"/api/people/{made['id']}/password", json={"password": PASSWORD}).status_code == 204
    assert http.get("/api/cases").status_code == 401
    assert http.post("/api/session", json={"name": "SO-21", "password": PASSWORD}).status_code == 200
    assert http.delete("/api/sessions").status_code == 204
    assert http.get("/api/cases").status_code == 401
    assert owner.delete(f"/api/people/{made['id']}").status_code == 204
    assert "SO-21" not in {p["name"] for p in owner.get("/api/people").json()}


def test_on_this_machine_alone_nobody_signs_in(tmp_path: Path) -> None:
    with TestClient(create_app(Settings(data=tmp_path)), base_url=HERE) as http:
        assert http.get("/api/session").json() == {"signing_in": False, "person": None}
        assert http.get("/api/cases").status_code == 200


def test_no_page_of_documentation_fetches_from_elsewhere(server: Server) -> None:
    for path in ("/docs", "/redoc"):
        answer = server.clients["nobody"].get(path)
        assert "cdn" not in answer.text.lower()

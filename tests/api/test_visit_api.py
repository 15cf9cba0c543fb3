"""The visit's endpoints: the log, refusals in words, notes by revision."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from backends import HERE
from fastapi.testclient import TestClient

from vane_line.api.app import create_app
from vane_line.api.settings import Settings


@pytest.fixture
def client(tmp_path: Path) -> Iterator[TestClient]:
    with TestClient(create_app(Settings(data=tmp_path)), base_url=HERE) as made:
        yield made


@pytest.fixture
def visit(client: TestClient) -> str:
    case = client.post("/api/cases", json={"code": "SM-0700", "tooth": "36", "material": "zirconia"}).json()
    return f"/api/cases/{case['id']}/visit"


def test_started_stopped_and_told(client: TestClient, visit: str) -> None:
    """A step and a timer side by side; what is stopped stays stopped."""
    step = client.post(f"{visit}/entries", json={"kind": "step", "name": "cut"})
    assert step.status_code == 201
    timer = client.post(f"{visit}/entries", json={"kind": "timer", "name": "cord"}).json()
    told = client.get(visit).json()
    assert [e["name"] for e in told["entries"] if e["stopped_at"] is None] == ["cut", "cord"]
    assert next(p for p in told["planned"] if p["id"] == "cut")["state"] == "running"
    assert told["seating"] == ["36"]
    assert 60 < told["minutes_left"] < 240
    stopped = client.post(f"{visit}/entries/{timer['id']}/stop").json()
    assert stopped["stopped_at"] >= stopped["started_at"]
    assert client.post(f"{visit}/entries/{timer['id']}/stop").json() == stopped


def test_refused_in_words(client: TestClient, visit: str) -> None:
    """No such step, timer, entry or case; a tick that is none; notes seen in an older form."""
    assert "no timer egg" in client.post(f"{visit}/entries", json={"kind": "timer", "name": "egg"}).text
    assert client.post(f"{visit}/entries", json={"kind": "dance", "name": "cut"}).status_code == 422
    assert client.post(f"{visit}/entries/none/stop").status_code == 404
    assert client.get("/api/cases/none/visit").status_code == 404
    assert client.put(f"{visit}/notes", json={"ticked": ["lucky"]}, headers={"if-match": "0"}).status_code == 422
    assert client.put(f"{visit}/notes", json={"shade": "A2"}, headers={"if-match": "0"}).json() == {"revision": 1}
    assert client.put(f"{visit}/notes", json={"shade": "A3"}, headers={"if-match": "0"}).status_code == 409
    told = client.get(visit).json()
    assert (told["notes"]["shade"], told["notes_revision"]) == ("A2", 1)

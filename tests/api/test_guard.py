"""Who may ask: pages of other sites neither read nor change anything, whatever name they come by."""

from __future__ import annotations

import socket
from collections.abc import Iterator

import pytest
from backends import HERE
from fastapi.testclient import TestClient

from vane_line.api.app import create_app
from vane_line.api.guard import is_ours, name_of
from vane_line.api.settings import Settings

NAMES = frozenset({"localhost", "chair-2"})
CASE = {"code": "SM-1", "tooth": "36", "material": "zirconia"}


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    settings = Settings(data=tmp_path_factory.mktemp("guard"), names="vane.surgery.test, other")
    with TestClient(create_app(settings), base_url=HERE) as client:
        yield client


@pytest.mark.parametrize(
    ("authority", "ours"),
    [
        ("127.0.0.1:8470", True),
        ("[::1]:8470", True),
        ("192.168.1.7", True),
        ("localhost", True),
        ("LOCALHOST.:80", True),
        ("chair-2:8470", True),
        ("evil.example", False),
        ("127.0.0.1.evil.example", False),
        ("localhost.evil.example:8470", False),
        ("", False),
        ("[::1", False),
        ("user@evil.example", False),
    ],
)
def test_a_name_is_ours_or_not(authority: str, ours: bool) -> None:
    """A literal address cannot be rebound; of names only our own count."""
    assert is_ours(authority, NAMES) == ours


def test_names_are_read_without_port_and_brackets() -> None:
    """As browsers send them."""
    assert name_of("[2001:db8::1]:80") == "2001:db8::1"


def test_a_rebound_name_reads_nothing(client: TestClient) -> None:
    """Neither cases nor pages; our own names do."""
    for path in ("/api/cases", "/", "/api/health"):
        answer = client.get(path, headers={"host": "evil.example"})
        assert answer.status_code == 421
        assert "VANE_LINE_NAMES" in answer.json()["error"]
    for host in ("localhost:8470", "vane.surgery.test", "other", socket.gethostname()):
        assert client.get("/api/cases", headers={"host": host}).status_code == 200


@pytest.mark.parametrize(
    "headers",
    [
        {"origin": "http://evil.example"},
        {"origin": "null"},
        {"sec-fetch-site": "cross-site"},
        {"sec-fetch-site": "same-site"},
        {"origin": "http://127.0.0.1:9999"},
    ],
)
def test_a_foreign_page_changes_nothing(client: TestClient, headers: dict[str, str]) -> None:
    """Posted by another site's page, or by another program's on this machine: refused before it is read."""
    before = client.get("/api/cases").json()
    for method in ("POST", "PUT", "PATCH", "DELETE"):
        assert client.request(method, "/api/cases", json=CASE, headers=headers).status_code == 403
    assert client.get("/api/cases").json() == before


def test_our_page_and_programs_change(client: TestClient) -> None:
    """The page says where it comes from; a program on this machine says nothing."""
    for headers in ({"origin": HERE, "sec-fetch-site": "same-origin"}, {"sec-fetch-site": "none"}, {}):
        assert client.post("/api/cases", json=CASE, headers=headers).status_code == 201


def test_an_address_that_does_not_exist_is_said(client: TestClient) -> None:
    """As JSON with 404, for every method; a page's address is the page."""
    for method in ("GET", "POST", "PUT", "PATCH", "DELETE"):
        answer = client.request(method, "/api/no/such/thing")
        assert answer.status_code == 404, method
        assert "/api/no/such/thing" in answer.json()["error"]
    assert client.get("/api").status_code == 404


def test_patients_data_is_in_no_shared_cache(client: TestClient) -> None:
    """What the API answers is not stored, unless it says so itself, and then privately."""
    assert client.get("/api/cases").headers["cache-control"] == "no-store"
    assert client.get("/api/blobs/none").headers["cache-control"] == "no-store"

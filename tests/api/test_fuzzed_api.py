"""The API by its own description: bodies, paths and queries made at random from it and bent; never is an answer our
fault (5xx)."""

from __future__ import annotations

import json
import random
import string
from pathlib import Path
from typing import Any

import pytest
from backends import HERE
from fastapi.testclient import TestClient
from long import first

from vane_line.api.app import create_app
from vane_line.api.settings import Settings
from vane_line.store import cases

JUNK: list[Any] = [None, [], {}, "", "x" * 5000, "\x00", "\ud800", "💥", -1, 0, 10**30, 1e308, True, [[[]]],
                   {"a": {"b": 1}}, "../..", "'; DROP TABLE cases; --", "nan", [1e308] * 3, ["a"] * 50]  # fmt: skip
ENDLESS = {"watchJob"}  # an answer that goes on for as long as the job does


class Maker:
    """Values by a JSON schema, some of them bent."""

    def __init__(self, spec: dict[str, Any], dice: random.Random) -> None:
        self.spec, self.dice = spec, dice

    def value(self, schema: dict[str, Any], depth: int = 0) -> Any:
        dice = self.dice
        if dice.random() < 0.08 or depth > 7:
            return dice.choice(JUNK)
        if "$ref" in schema:
            return self.value(self.spec["components"]["schemas"][schema["$ref"].rsplit("/", 1)[1]], depth + 1)
        for key in ("anyOf", "oneOf"):
            if key in schema:
                return self.value(dice.choice(schema[key]), depth + 1)
        if "enum" in schema:
            return dice.choice(schema["enum"])
        if "const" in schema:
            return schema["const"]
        return self._plain(schema, depth)

    def _plain(self, schema: dict[str, Any], depth: int) -> Any:
        dice, kind = self.dice, schema.get("type")
        if kind == "object":
            made = {k: self.value(v, depth + 1) for k, v in schema.get("properties", {}).items() if dice.random() < 0.9}
            if dice.random() < 0.05:
                made["not_asked_for"] = dice.choice(JUNK)
            return made
        if kind == "array":
            low = schema.get("minItems", 0)
            return [self.value(schema.get("items", {}), depth + 1) for _ in range(dice.randint(low, low + 3))]
        if kind == "integer":
            return dice.choice([0, 1, -1, dice.randint(-1000, 1000), 2**63])
        if kind == "number":
            return dice.choice([0.0, 1.0, -1.0, dice.uniform(-50, 50), 1e-300, 1e300])
        if kind == "boolean":
            return dice.random() < 0.5
        if kind == "null":
            return None
        return "".join(dice.choice(string.printable) for _ in range(dice.choice([0, 1, 5, 40, 400])))


@pytest.mark.parametrize(("seed", "calls_each"), first(1, (1, 9), (2, 12), (3, 12), (4, 12), (5, 12), (6, 12)))
def test_whatever_is_asked_the_answer_is_no_fault_of_ours(seed: int, calls_each: int, tmp_path: Path) -> None:
    dice = random.Random(seed)
    app = create_app(Settings(data=tmp_path))
    spec = app.openapi()
    maker, count, faults = Maker(spec, dice), 0, dict[str, str]()
    with TestClient(app, base_url=HERE, raise_server_exceptions=False) as http:
        ids = _something(http, app.state.context.db)
        for path, methods in spec["paths"].items():
            for method, told in methods.items():
                if told["operationId"] in ENDLESS:
                    continue
                for _ in range(calls_each):
                    address, asked = _request(maker, path, told, ids)
                    answer = http.request(method.upper(), address, **asked)
                    if answer.status_code >= 500:
                        faults[told["operationId"]] = f"{address} {str(asked)[:600]}"
                    count += 1
        assert http.get("/api/cases").status_code == 200  # and it still lives
    assert count > 1000
    assert faults == {}


def _something(http: TestClient, db: Any) -> dict[str, str]:
    """A case, so that some of the paths lead somewhere."""
    made = http.post("/api/cases", json={"code": "SM-FUZZ", "tooth": "36", "material": "zirconia"}).json()
    site = cases.sites_of(db, made["id"])[0]
    reading = cases.readings_of(db, site.id)[0]
    return {"case_id": made["id"], "site_id": site.id, "reading_id": reading.id, "attempt_id": reading.attempt_id}


def _request(maker: Maker, path: str, told: dict[str, Any], ids: dict[str, str]) -> tuple[str, dict[str, Any]]:
    dice, query, headers = maker.dice, {}, {}
    for parameter in told.get("parameters", []):
        name, where = parameter["name"], parameter["in"]
        if where == "path":
            real = ids.get(name) if dice.random() < 0.7 else None
            value = real or dice.choice(["none", "01ARZ3NDEKTSV4RRFFQ69G5FAV", "%00", "a" * 300, "💥", "-1"])
            path = path.replace("{" + name + "}", value)
        elif where == "query" and dice.random() < 0.7:
            query[name] = str(maker.value(parameter["schema"])).encode("utf-8", "replace").decode()
        elif where == "header":
            headers[name] = dice.choice(["0", "1", "x", "-1", "9" * 30, '"0"'])
    asked: dict[str, Any] = {"params": query, "headers": headers}
    content = told.get("requestBody", {}).get("content", {})
    if "application/json" in content:
        asked["content"] = json.dumps(maker.value(content["application/json"]["schema"]))  # in ASCII: surrogates pass
        headers["content-type"] = "application/json"
    elif "multipart/form-data" in content:
        name = dice.choice(["a.stl", "b.zip", "../c.ply", "d", "💥.obj", ""])
        asked["files"] = {"file": (name, dice.randbytes(dice.choice([0, 10, 300])))}
        asked["data"] = {"role": dice.choice(["prep", "auto", "king"]), "unit": dice.choice(["mm", "auto", "yd"])}
    return path, asked

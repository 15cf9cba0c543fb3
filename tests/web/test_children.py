"""A child's crown chosen from the set and laid over the tooth, in the browser."""

from __future__ import annotations

import re
from collections.abc import Iterator

import numpy as np
import pytest
from children import MilkTooth
from playwright.sync_api import Page, expect
from screen import MEASURING_MS

from vane_line.core.mesh.light import mesh_surface
from vane_line.core.mesh.write import stl_bytes

MADE = MilkTooth(noise_um=8.0, facial_mm=4.0, mesial_mm=4.75, slice_mm=1.05)


@pytest.fixture
def child_case(page: Page) -> Iterator[tuple[str, str]]:
    """A case and its reading with scans and axes, measured by the application; taken away afterwards."""
    ask, scans = page.request, MADE.scans(clearance_mm=1.7)
    body = {"code": "SM-0975", "tooth": "75", "material": "preformed-metal", "restoration": "child-crown"}
    made = ask.post("/api/cases", data=body).json()
    reading = made["sites"][0]["readings"][0]
    for role in ("prep", "preop"):
        file = {"name": f"{role}.stl", "mimeType": "model/stl", "buffer": stl_bytes(getattr(scans, role))}
        at = f"/api/cases/{made['id']}/attempts/{reading['attempt_id']}/scans"
        assert ask.post(at, multipart={"file": file, "role": role, "unit": "mm"}).ok
    axes = {"occlusal": [0, 0, 1], "facial": [0, 1, 0], "near": None}
    assert ask.put(f"/api/readings/{reading['id']}/axes", data=axes, headers={"If-Match": "0"}).ok
    assert ask.post(f"/api/readings/{reading['id']}/measure").ok
    yield made["id"], reading["id"]
    ask.delete(f"/api/cases/{made['id']}")
    ask.delete(f"/api/cases/{made['id']}?for_good=true")


@pytest.mark.long
def test_a_size_is_laid_over_the_tooth(page: Page, child_case: tuple[str, str]) -> None:
    """The chosen one stands over the preparation; pressed again it goes; a size that there is not is refused."""
    case, reading = child_case
    page.goto(f"/case/{case}")
    table = page.get_by_role("table", name="Sizes of the set")
    expect(table).to_contain_text("smallest that goes on", timeout=MEASURING_MS)
    document = page.request.get(f"/api/readings/{reading}/result").json()["document"]
    size = document["child"]["size"]
    button = table.get_by_role("button", name=f"Lay size {size} over the tooth")
    with page.expect_response(re.compile(f"/crowns/{size}$")) as answer:
        button.click()
    expect(button).to_have_attribute("aria-pressed", "true")
    crown = mesh_surface(answer.value.body()).vertices
    fit = next(f for f in document["child"]["fits"] if f["size"] == size)
    seat = np.array(fit["seat"])
    own = (crown - seat[:3, 3]) @ seat[:3, :3]
    assert np.ptp(own[:, 0]) == pytest.approx(fit["mesiodistal_mm"], abs=0.01)
    line = np.array(document["finish_line"]["points"])
    assert np.linalg.norm((crown.mean(axis=0) - line.mean(axis=0))[:2]) < 0.6  # over the tooth
    button.click()
    expect(button).to_have_attribute("aria-pressed", "false")
    page.get_by_role("button", name="Taper, line").click()
    form = page.get_by_role("region", name="Form")
    expect(form).to_contain_text("no convergence is told across it")
    expect(form).not_to_contain_text("faciolingual")
    assert page.request.get(f"/api/readings/{reading}/crowns/9").status == 404

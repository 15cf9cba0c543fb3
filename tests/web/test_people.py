"""A server that other machines reach: signing in, people, and what each role is shown, in the browser."""

from __future__ import annotations

import re
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from conftest import opened, started
from playwright.sync_api import Browser, Page, expect

PASSWORD = "reeds and tidal mud"


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return tmp_path_factory.mktemp("asked")


@pytest.fixture(scope="module")
def asking(folder: Path) -> Iterator[str]:
    """A server that asks who is there."""
    with started(folder, VANE_LINE_PASSWORD=PASSWORD) as address:
        yield address


def enter(page: Page, name: str, password: str = PASSWORD) -> None:
    page.goto("/")
    page.get_by_label("Name or code").fill(name)
    page.get_by_label("Password").fill(password)
    page.get_by_role("button", name="Sign in").click()


def test_owner_adds_people_and_each_sees_the_own(browser: Browser, asking: str, folder: Path) -> None:
    """Refused with a wrong password; in with the right one; a laboratory added, which makes no cases; a new password
    from the command line signs the owner out."""
    with opened(browser, asking) as page:
        enter(page, "owner", "not the password")
        expect(page.get_by_text("Name and password do not belong together.")).to_be_visible()
        expect(page.get_by_label("Password")).to_have_value("")
        enter(page, "owner")
        expect(page.get_by_role("button", name="New case")).to_be_visible()
        page.get_by_role("button", name="owner", exact=True).click()
        page.get_by_label("Name or code").fill("BAY-LAB")
        page.get_by_label("Role").click()
        page.get_by_role("option", name=re.compile("Laboratory")).click()
        page.get_by_label("Password, 12 characters or more").fill("short")
        page.get_by_role("button", name="Add").click()
        expect(page.get_by_text("BAY-LAB")).to_have_count(0)  # the browser holds it back
        page.get_by_label("Password, 12 characters or more").fill(PASSWORD)
        page.get_by_role("button", name="Add").click()
        everybody = page.get_by_role("region", name="Everybody")
        expect(everybody.get_by_role("listitem").filter(has_text="BAY-LAB")).to_contain_text("laboratory")

        with opened(browser, asking) as other:
            enter(other, "bay-lab")
            expect(other.get_by_role("button", name="BAY-LAB")).to_be_visible()
            expect(other.get_by_role("button", name="New case")).to_have_count(0)
            expect(other.get_by_role("button", name="Exercises")).to_have_count(0)
            expect(other.get_by_text("No cases yet.")).to_be_visible()
            other.get_by_role("button", name="BAY-LAB").click()
            other.get_by_role("button", name="Sign out", exact=True).click()
            expect(other.get_by_role("button", name="Sign in")).to_be_visible()
            other.go_back()
            expect(other.get_by_role("button", name="Sign in")).to_be_visible()

        lab = everybody.get_by_role("listitem").filter(has_text="BAY-LAB")
        lab.get_by_role("button", name="New password").click()
        lab.get_by_label(re.compile("New password for")).fill("another long sentence")
        lab.get_by_role("button", name="Set it").click()
        expect(page.get_by_text("BAY-LAB has a new password")).to_be_visible()

        command = [sys.executable, "-m", "vane_line", "people", "--data", str(folder)]
        listed = subprocess.run(command, capture_output=True, text=True, check=True)
        assert "BAY-LAB\tlaboratory" in listed.stdout
        renewed = subprocess.run(
            [*command, "--password", "owner"], input="another long sentence\n", capture_output=True, text=True,
            check=True,
        )  # fmt: skip
        assert "signed out everywhere" in renewed.stdout
        page.reload()
        expect(page.get_by_role("button", name="Sign in")).to_be_visible()  # the session has ended
        enter(page, "owner", "another long sentence")
        expect(page.get_by_role("button", name="New case")).to_be_visible()

"""The visit in the browser: steps by one key, timers that outlive a reload and stand on every screen, notes."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect
from screen import MEASURING_MS, open_demo


def test_steps_timers_and_notes_of_a_visit(page: Page) -> None:
    """Started from the case's sheet; a timer runs out in real time; all is there again after a reload."""
    open_demo(page)
    expect(page.locator("aside li").first).to_be_visible(timeout=MEASURING_MS)
    page.get_by_role("button", name="Visit", exact=True).click()
    expect(page.get_by_text(re.compile("minutes to go"))).to_be_visible()
    running = page.get_by_role("region", name="What is running")
    expect(running).to_have_count(0)
    page.keyboard.press("n")
    expect(running).to_contain_text("Bite record and shade")
    page.get_by_role("button", name="Start: Anaesthetic, and wait").click()
    expect(running).to_contain_text("Anaesthetic, and wait")
    expect(running).not_to_contain_text("Bite record")
    page.get_by_role("button", name=re.compile("^Light, thin ceramic")).click()
    page.get_by_role("button", name=re.compile("^Cord in the sulcus")).click()
    expect(running.get_by_role("button", name=re.compile(r"Light, thin ceramic 0:\d\d left"))).to_be_visible()

    page.get_by_role("button", name="Check", exact=True).click()  # on every screen of the case, and after a reload
    expect(running).to_contain_text("Cord in the sulcus")
    page.reload()
    expect(running.get_by_role("button", name=re.compile(r"Cord in the sulcus 4:\d\d left"))).to_be_visible()
    expect(running.get_by_role("button", name="Light, thin ceramic done")).to_be_visible(timeout=MEASURING_MS)
    mute = running.get_by_role("button", name="No sound")
    mute.click()
    expect(mute).to_have_attribute("aria-pressed", "true")
    for name in ("Light, thin ceramic", "Cord in the sulcus"):
        running.get_by_role("button", name=re.compile(f"^{name}")).click()
        expect(running.get_by_role("button", name=re.compile(f"^{name}"))).to_have_count(0)

    running.get_by_role("link", name=re.compile("Anaesthetic")).click()
    page.get_by_role("button", name="End: Anaesthetic, and wait").click()
    expect(running).to_have_count(0)
    page.get_by_label("allergies asked").check()
    page.get_by_role("button", name="Add a material").click()
    page.get_by_role("textbox", name="Material 1").fill("cement C-2")
    page.get_by_label("Lot 1").fill("L-0417")
    page.get_by_role("textbox", name="Shade").fill("A2")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("button", name="Kept")).to_be_visible()
    page.reload()
    expect(page.get_by_label("Lot 1")).to_have_value("L-0417")
    expect(page.get_by_label("allergies asked")).to_be_checked()


def test_the_steps_are_made_the_surgery_s_own_and_taken_back(page: Page) -> None:
    """Another order, a step of its own, and the chair log on paper; in the end the list that shipped."""
    open_demo(page)
    expect(page.locator("aside li").first).to_be_visible(timeout=MEASURING_MS)
    page.get_by_role("button", name="Visit", exact=True).click()
    page.get_by_role("button", name="Edit the steps").click()
    form = page.get_by_role("form", name="Steps of the surgery")
    first = form.get_by_label("Step 1", exact=True)
    expect(first).not_to_have_value("")
    title = first.input_value()
    form.get_by_role("button", name="Step 1 later").click()
    expect(form.get_by_label("Step 2", exact=True)).to_have_value(title)
    form.get_by_label("Minutes of step 1", exact=True).fill("0")
    form.get_by_role("button", name="Add a step").click()
    form.get_by_role("listitem").last.get_by_role("textbox").first.fill("Photograph")
    form.get_by_label("Minutes of step 1", exact=True).fill("7")
    form.get_by_role("button", name="Keep").click()
    steps = page.get_by_role("region", name="Steps of the visit").get_by_role("listitem")
    expect(steps.last).to_contain_text("Photograph")
    expect(steps.first).to_contain_text("7 min")
    expect(steps.nth(1)).to_contain_text(title)
    page.get_by_role("button", name="Edit the steps").click()
    form.get_by_role("button", name="Back to the list that came with it").click()
    expect(steps.first).to_contain_text(title)
    with page.expect_popup() as opened:
        page.get_by_role("link", name="Chair log").click()
    expect(opened.value.get_by_role("img", name=re.compile("^Chair log SM-0147"))).to_be_visible()


@pytest.mark.long
def test_the_timers_are_made_the_surgery_s_own_and_taken_back(page: Page) -> None:
    """Other seconds and one of its own; one that runs cannot be left out; in the end those that shipped."""
    open_demo(page)
    expect(page.locator("aside li").first).to_be_visible(timeout=MEASURING_MS)
    page.get_by_role("button", name="Visit", exact=True).click()
    timers = page.get_by_role("region", name="Timers")
    page.get_by_role("button", name="Edit the timers").click()
    form = page.get_by_role("form", name="Timers of the surgery")
    expect(form.get_by_label("Timer 1", exact=True)).to_have_value("Cord in the sulcus")
    form.get_by_label("Least seconds of timer 1").fill("240")
    form.get_by_role("button", name="Add a timer").click()
    form.get_by_role("listitem").last.get_by_role("textbox").first.fill("Haemostatic")
    form.get_by_role("button", name="Keep").click()
    expect(timers.get_by_role("button", name="Cord in the sulcus")).to_contain_text("4:00 to 15:00")
    timers.get_by_role("button", name="Haemostatic").click()
    running = page.get_by_role("region", name="What is running")
    expect(running).to_contain_text("Haemostatic")
    page.get_by_role("button", name="Edit the timers").click()
    form.get_by_role("button", name="Back to those that came with it").click()
    expect(form.get_by_role("alert")).to_contain_text("Haemostatic: still running")
    running.get_by_role("button", name="Haemostatic").click()
    expect(running.get_by_role("button", name="Haemostatic")).to_have_count(0)
    form.get_by_role("button", name="Back to those that came with it").click()
    expect(timers.get_by_role("button", name="Cord in the sulcus")).to_contain_text("5:00 to 15:00")
    expect(timers.get_by_role("button", name="Haemostatic")).to_have_count(0)

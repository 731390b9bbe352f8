"""A circuit in time, in the browser."""

import re

import pytest
from playwright.sync_api import Page, expect
from tests.web.doing import open_new_call, pick, stage


@pytest.mark.at("desk", "phone")
def test_stages_are_foreseen_held_against_a_watch_and_a_jumper_tried(page: Page) -> None:
    """From blank to done: delays set, a run foreseen, amps noted by hand, cfm, a jumper that feeds back."""
    open_new_call(page, "Weak heat", "Electric furnace, two banks of 5 kW")
    stage(page, "Call")
    page.get_by_role("link", name="Change the circuit").click()
    page.get_by_role("button", name=re.compile("^L1 sequencer 2")).click()
    for label, value in (("Closes after, least", "40"), ("Closes after, most", "60")):
        page.get_by_label(label).fill(value)
    page.get_by_role("button", name="Set the delays").click()
    expect(page.get_by_role("button", name="Keep circuit")).to_be_enabled()
    page.get_by_role("button", name="Keep circuit").click()
    expect(page.get_by_role("region", name="Verdict")).to_be_visible()
    stage(page, "Call")
    page.get_by_role("link", name="Timing").click()
    answer = page.get_by_role("region", name="What happens when")
    steps = answer.get_by_role("list", name="Steps of the amps")
    expect(steps).to_contain_text("Sequencer 2 in +19.8 A at 50 s (40 s to 60 s)", timeout=20_000)
    expect(answer).to_contain_text("give the blower’s cfm to judge")
    page.get_by_label("Blower in heating").fill("500")
    expect(answer).to_contain_text(re.compile(r"outlasts the heat by \d+ s at least; 13 s are needed"))
    noted = page.get_by_label("Seconds and amps, a pair a line")
    noted.fill("0 0\n1 2.4\n22")
    expect(page.get_by_role("alert")).to_contain_text("Each line wants seconds and amps")
    noted.fill("0 0\n1 2.4\n22 23\n95 43")
    expect(steps).to_contain_text("seen at 95 s, out of its range")
    noted.fill("0 0\n1 2.4\n22 23\n200 23")
    expect(steps).to_contain_text("not seen")
    expect(answer.get_by_role("img", name="What runs when, and the amps it makes")).to_be_visible()
    pick(page, "Jumper from", "R, transformer secondary")
    pick(page, "Jumper to", "W, thermostat terminal")
    page.get_by_role("button", name="Add the jumper").click()
    expect(answer).to_contain_text("stays in though the call has ended: 24 V come back to the sequencer 1 heater")
    page.get_by_role("button", name="Take back: jumper 1").click()
    expect(answer.get_by_text("stays in though the call has ended")).to_have_count(0)
    page.get_by_label("From, step 2").fill("30")
    expect(steps.get_by_text("Sequencer 2 in")).to_have_count(0)

"""A real browser against the served application: readings go in by touch and keyboard, and the verdict is read."""

import json
import re
from pathlib import Path
from uuid import uuid4

import pytest
from playwright.sync_api import Page, expect
from tests.core.told import CONDENSER, spot
from tests.web.doing import (
    may_open_the_panel,
    meter,
    open_new_call,
    pick,
    record,
    record_now,
    stage,
    touch_point,
    verdict,
    with_the_meter_alone,
)

from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.files.job_file import read_job, write_job


@pytest.mark.at("desk", "phone")
def test_a_resistive_clip_is_found_by_touch_alone(page: Page) -> None:
    open_new_call(page, "Hums and drops out")
    page.get_by_role("switch", name="Contactor: in").click()
    expect(page.get_by_role("switch", name="Contactor: dropped out")).to_be_visible()
    touch_point(page, "L1@whip")
    touch_point(page, "L2@whip")
    record(page, "243.1")
    page.get_by_role("switch", name="Contactor: dropped out").click()
    record(page, "222.6")
    touch_point(page, "G@whip")  # both probes are placed: the red one moves
    record(page, "121.0")
    touch_point(page, "L1@whip")  # take the black one off, and put it on the other leg
    touch_point(page, "L2@whip")
    record(page, "101.7")
    meter(page, "Amps, clamp around one conductor")
    page.locator('[data-point="L2@whip"]').click()
    record(page, "18.2")
    meter(page, "Volts, 10 megohm input")
    touch_point(page, "L2@whip")
    touch_point(page, "G@whip")
    touch_point(page, "L2@fuse")
    touch_point(page, "L2@clip_load")
    record(page, "19.6")
    expect(page.locator(".verdict-advice")).to_contain_text("carries this: confirm it")
    record(page, "19.4")
    expect(page.locator(".verdict-words")).to_have_text("High-resistance connection on L2 at the fuse clip, load side.")
    assert "Found" in verdict(page)
    states = page.locator(".state-tag").all_inner_texts()
    assert states[0] == "contactor dropped out"
    assert set(states[1:]) == {"all closed, unit calling"}


@pytest.mark.at("desk", "phone")
def test_the_next_test_stands_set_up_and_only_its_numbers_are_typed(page: Page) -> None:
    open_new_call(page, "Dead since the storm")
    with_the_meter_alone(page)
    number = page.get_by_label("Number the meter shows")
    expect(number).to_be_focused()
    number.press_sequentially("0,3")
    number.press("Enter")
    expect(page.locator(".reading")).to_have_count(1)
    assert "0.3" in page.locator(".reading").first.inner_text()
    # The next one is set up by itself, and its numbers are all that is typed.
    expect(page.locator(".touch.red, .touch.clamped").first).to_be_visible()
    expect(page.locator(".entry-number input").first).to_be_focused()
    fields = page.locator(".entry-number input")
    asked = fields.count()
    for i in range(asked):
        fields.nth(i).fill("0.2")
    fields.last.press("Enter")
    expect(page.locator(".reading")).to_have_count(1 + asked)


def test_what_is_typed_is_still_there_after_a_look_elsewhere(page: Page) -> None:
    page.goto("/calls/new")
    page.get_by_role("button", name="Outdoor unit dead").click()
    page.get_by_label("Site or customer").fill("Old Customs Shed")
    page.get_by_role("navigation", name="Main").get_by_role("link", name="Tables").click()
    page.go_back()
    expect(page.get_by_role("button", name="Outdoor unit dead")).to_have_attribute("aria-pressed", "true")
    page.locator(".picture-button", has_text="Condenser, fused pull-out").click()
    fields = page.locator(".number-field input")
    fields.nth(1).fill("121.4")
    stage(page, "Ratings")
    expect(page.locator(".rated-sum")).to_be_visible()
    stage(page, "Find")
    expect(fields.nth(1)).to_have_value("121.4")
    page.reload()
    expect(fields.nth(1)).to_have_value("121.4")
    page.locator('[data-point="L1@line_lug"]').click()
    page.locator('[data-point="L2@line_lug"]').click()
    page.get_by_label("Number the meter shows").fill("240")
    page.reload()
    expect(page.get_by_label("Number the meter shows")).to_have_value("240")
    expect(page.locator(".entry-place")).to_contain_text("disconnect line lug")
    expect(page.locator(".title-words")).to_contain_text("Old Customs Shed")


def test_a_motor_that_turns_backwards_is_told_by_the_phase_sequence(page: Page) -> None:
    open_new_call(page, "Loud since the feeder was renewed", "Rooftop unit, 208 V three phase, from a sub-panel")
    may_open_the_panel(page)
    for part, shown in (("whip", "3-2-1"), ("branch", "3-2-1"), ("feeder", "1-2-3")):
        meter(page, "Phase sequence, clips on three legs")
        touch_point(page, f"L2@{part}")
        expect(page.get_by_role("group", name="Number pad")).to_have_count(0)
        page.get_by_role("button", name=shown, exact=True).click()
        before = page.locator(".reading").count()
        record_now(page)
        expect(page.locator(".reading")).to_have_count(before + 1)
    expect(page.locator(".verdict-words")).to_contain_text("Two legs are swapped along the branch wires")
    expect(page.get_by_role("alert", name="Stop")).to_contain_text("Stop the motors")
    page.locator(".reading").first.click()
    expect(page.locator(".mend").get_by_role("button", name="no turning")).to_be_visible()
    touch_point(page, "L2@whip")  # three clips in place of probes: the row stays a row of three
    expect(page.locator(".entry-place")).to_contain_text("Clips 1, 2, 3 on L1, L2, L3")


def test_undo_correct_and_withdraw(page: Page) -> None:
    open_new_call(page, "Trips")
    touch_point(page, "L1@whip")
    touch_point(page, "L2@whip")
    record(page, "24.1")
    undo = page.get_by_role("button", name="Undo")
    undo.click()
    expect(page.locator(".reading")).to_have_count(0)
    expect(undo).to_be_disabled()
    record(page, "24.1")
    page.locator(".reading").click()
    field = page.get_by_label("Corrected number, V")
    field.fill("241")
    page.get_by_role("button", name="Correct", exact=True).click()
    expect(page.locator(".reading")).to_contain_text("241 V")
    expect(page.locator(".reading")).to_contain_text("corrected")
    page.locator(".reading").click()
    page.get_by_role("button", name="Withdraw").click()
    expect(page.locator(".reading")).to_have_count(0)
    page.locator("body").press("Control+z")
    expect(page.locator(".reading")).to_contain_text("241 V")


@pytest.mark.at("desk", "phone")
def test_a_strange_value_is_asked_about_and_a_refused_one_keeps_the_number(page: Page) -> None:
    open_new_call(page, "No heat", "5 kW heat strip")
    touch_point(page, "L1@whip")
    touch_point(page, "G@whip")
    number = page.get_by_label("Number the meter shows")
    number.fill("1241")
    number.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("1,000 V category")
    expect(number).to_have_value("1241")
    number.fill("241")
    number.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("is the decimal point right?")
    expect(page.locator(".reading")).to_have_count(0)
    page.get_by_role("button", name="Yes, that is what it shows").click()
    expect(page.locator(".reading")).to_contain_text("241 V")


@pytest.mark.at("desk")
def test_probes_are_placed_by_keyboard(page: Page) -> None:
    open_new_call(page, "Dead")
    page.locator('[data-point="L1@whip"]').focus()
    page.keyboard.press("Enter")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    expect(page.locator(".entry-place")).to_contain_text("Black on L1 contactor, line side, red on L2")
    page.keyboard.press("ArrowUp")
    expect(page.locator('[data-point="L2@load_lug"]')).to_be_focused()


@pytest.mark.at("desk", "phone")
def test_a_pulled_carrier_takes_its_points_along(page: Page) -> None:
    open_new_call(page, "Dead")
    touch_point(page, "L1@fuse")
    touch_point(page, "L2@fuse")
    page.get_by_role("switch", name="Pull-out: in").click()
    expect(page.locator('[data-point="L1@fuse"]')).to_have_attribute("aria-disabled", "true")
    expect(page.locator(".entry-place")).to_contain_text("Touch two points")


@pytest.mark.kept_pages
def test_without_a_signal_the_call_stays_open_and_what_is_said_is_sent_later_in_its_order(page: Page) -> None:
    open_new_call(page, "Dead")
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.get_by_role("navigation", name="Main").get_by_role("link", name="Calls").click()
    row = page.locator(".call-row", has_text="Harbour Master").first
    expect(row).to_be_visible()
    page.wait_for_timeout(2500)  # open calls are fetched beforehand, and pages kept a second after they change
    page.context.set_offline(True)
    page.reload()
    row.click()
    expect(page.get_by_role("region", name="Verdict")).to_be_visible()
    touch_point(page, "L1@whip")
    touch_point(page, "L2@whip")
    number = page.get_by_label("Number the meter shows")
    for value in ("240.5", "990"):
        number.fill(value)
        number.press("Enter")
        expect(number).to_have_value("")
    unsent = page.get_by_role("region", name="Not sent yet")
    expect(unsent.locator("li")).to_have_count(2)
    expect(page.locator(".signal")).to_contain_text("2 entries are kept here")
    page.wait_for_timeout(4000)  # by now every page was asked for anew and failed: what was kept of it must stay
    page.reload()
    expect(unsent).to_contain_text("240.5 V · L1 at the contactor, line side to L2 at the contactor, line side")
    page.context.set_offline(False)
    expect(page.locator(".reading")).to_have_count(1)
    expect(unsent).to_contain_text("is the decimal point right?")
    unsent.get_by_role("button", name="Yes, that is what it shows").click()
    expect(page.locator(".reading")).to_have_count(2)
    expect(unsent).to_have_count(0)


def test_a_job_file_goes_out_and_comes_in(page: Page, tmp_path: Path) -> None:
    file = tmp_path / "brought.json"
    job = Job(circuit=CONDENSER, readings=tuple(spot("whip", 0.4, 121.3, 121.0)))
    file.write_text(write_job(job), "utf-8")
    page.goto("/calls/new")
    page.get_by_label("Complaint in other words").fill("Brought along")
    page.get_by_text("More: technician, panel, job file").click()
    page.locator("input[type=file]").set_input_files(file)
    expect(page.get_by_text("Job file: brought.json")).to_be_visible()
    page.get_by_label("Site or customer").fill("Quay Street Bakehouse")
    page.get_by_role("button", name="Cold-room condenser").click()
    expect(page.locator(".reading")).to_have_count(3)
    stage(page, "Call")
    with page.expect_download() as download:
        page.get_by_role("link", name="Job file").click()
    assert read_job(Path(download.value.path()).read_text("utf-8")).job == job


@pytest.mark.at("desk", "phone")
def test_nothing_hides_sideways_and_targets_fit_a_glove(page: Page) -> None:
    page.goto("/?search=hums+and+drops+out")
    page.get_by_role("link", name=re.compile("hums and drops out")).first.click()
    expect(page.get_by_role("region", name="Next test")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth")
    with_the_meter_alone(page)
    small = page.evaluate("""() => [...document.querySelectorAll('button, .touch .reach, summary, a')]
      .filter((e) => e.getBoundingClientRect().height > 0)
      .map((e) => ({
        name: e.textContent || e.parentElement.getAttribute('aria-label'), h: e.getBoundingClientRect().height }))
      .filter(({ h }) => h < 43.5)""")
    assert small == [], json.dumps(small)


def test_an_address_that_leads_nowhere_says_so(page: Page) -> None:
    page.goto("/calls/00000000-0000-4000-8000-000000000000")
    expect(page.get_by_role("alert")).to_contain_text("This call is not on file, or not yours")
    page.goto("/nowhere")
    expect(page.get_by_text("There is nothing at this address.")).to_be_visible()


def test_a_part_is_put_into_the_circuit_resized_undone_and_kept(page: Page) -> None:
    open_new_call(page, "Trips after rain", "Duct heater with airflow switch, 480 V three phase")
    stage(page, "Call")
    page.get_by_role("link", name="Change the circuit").click()
    page.get_by_role("button", name="branch wires", exact=False).click()
    pick(page, "Kind of part to put in", "Splice")
    page.get_by_role("button", name="Put in").click()
    expect(page.get_by_role("button", name=re.compile("^L1 L2 L3 splice"))).to_be_visible()
    page.get_by_role("button", name=re.compile("^L1 L2 L3 whip")).click()
    page.get_by_label("Length, one way").fill("40")
    page.get_by_role("button", name="Change", exact=True).click()
    expect(page.get_by_role("button", name=re.compile("whip .* 40 ft"))).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name=re.compile("whip .* 5 ft"))).to_be_visible()
    page.get_by_role("button", name=re.compile("^L1 L2 L3 supply")).click()
    expect(page.get_by_role("button", name="Take it out")).to_have_count(0)
    page.get_by_role("button", name="Keep circuit").click()
    expect(page.get_by_role("region", name="Verdict")).to_be_visible()
    expect(page.locator('[data-point="L3@splice"]')).to_be_visible()


def test_a_bank_of_heat_a_coil_and_a_supply_are_added_by_thumb_and_found_faulty(page: Page) -> None:
    """From the ready-made furnace to one with a third bank, and a fan on 120 V of its own; then a call on it."""
    open_new_call(page, "Weak heat", "Electric furnace, two banks of 5 kW")
    stage(page, "Call")
    page.get_by_role("link", name="Change the circuit").click()
    page.get_by_role("button", name=re.compile("^L1 sequencer 2")).click()
    page.get_by_role("button", name="Copy", exact=True).click()
    expect(page.get_by_role("button", name=re.compile("^L1 L2 element 3"))).to_be_visible()
    page.get_by_role("button", name=re.compile("^W C sequencer 2 heater")).click()
    page.get_by_role("button", name="Copy", exact=True).click()
    page.get_by_role("button", name=re.compile("^L1 sequencer 3")).click()
    pick(page, "What moves “Sequencer 3”", "sequencer 3 heater")
    # The limit of the new bank goes ahead of another; Undo brings it back.
    page.get_by_role("button", name=re.compile("^L1 limit 3")).click()
    page.get_by_role("button", name="Take it out", exact=True).click()
    expect(page.get_by_role("button", name=re.compile("^L1 limit 3"))).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name=re.compile("^L1 limit 3")).click()
    pick(page, "Place to move or copy it to", "limit 1")
    page.get_by_role("button", name="Move", exact=True).click()
    expect(page.get_by_role("button", name=re.compile("^L1 limit 3 .*on the limit 1"))).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    # Another letter on the thermostat, and a second supply with its own load.
    page.get_by_role("button", name=re.compile("^W FAN thermostat")).click()
    page.get_by_role("combobox", name="Terminals it calls on").fill("W2")
    page.keyboard.press("Enter")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Change", exact=True).click()
    expect(page.get_by_role("button", name=re.compile("^W FAN W2 thermostat"))).to_be_visible()
    pick(page, "Supply to add", "120 V, two wire")
    page.get_by_role("button", name="Add supply").click()
    page.get_by_role("button", name=re.compile("^L1 N further supply")).click()
    pick(page, "Kind of part to put in", "Motor")
    page.get_by_role("button", name="As a branch").click()
    expect(page.get_by_role("button", name=re.compile("^L1 N motor"))).to_be_visible()
    # What cannot be is refused in a sentence, and nothing is lost.
    page.get_by_role("button", name=re.compile("^L1 N motor")).click()
    pick(page, "Place to move or copy it to", "thermostat")
    page.get_by_role("button", name="Move", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("The motor is on L1, which does not reach it")
    page.get_by_role("button", name="Keep circuit").click()
    expect(page.get_by_role("region", name="Verdict")).to_be_visible()
    expect(page.locator(".strip")).to_have_count(3)
    expect(page.get_by_role("region", name="Next test")).to_contain_text("element 3 heating?")


def test_the_strip_shows_controls_and_what_follows_its_coil(page: Page) -> None:
    """A neutral that is open makes its dead end live, starves the transformer and leaves the relay out."""
    page.goto("/?search=blower+never+starts")
    page.locator(".call-row", has_text="Furnace lights, blower never starts").click()
    expect(page.locator(".strip")).to_have_count(2)
    expect(page.locator(".follows")).to_have_text("dropped out")
    dead_end = page.locator('[data-point="N@tail"]')
    expect(dead_end).to_have_attribute(
        "aria-label", re.compile(r"N at wire in the furnace.*, 1[12]\d\.?\d* V to ground")
    )


def test_a_call_is_marked_found_by_it_deleted_and_put_back(page: Page) -> None:
    complaint = f"Trips after lunch {uuid4().hex[:6]}"
    open_new_call(page, complaint)
    page.get_by_role("navigation", name="Main").get_by_role("link", name="Calls").click()
    row = page.locator(".call-row", has_text=complaint)
    row.get_by_role("button", name="More for").click()
    page.get_by_role("menuitem", name="Waiting for parts or people").click()
    expect(row.locator(".status")).to_have_text("Waiting")
    page.get_by_role("group", name="How far").get_by_role("button", name="Open", exact=True).click()
    expect(row).to_have_count(0)
    page.get_by_role("group", name="How far").get_by_role("button", name="Waiting", exact=True).click()
    expect(row).to_be_visible()
    row.get_by_role("button", name="More for").click()
    page.get_by_role("menuitem", name="Delete").click()
    expect(row).to_have_count(0)
    page.get_by_role("status").filter(has_text="Deleted").get_by_role("button", name="Undo").click()
    expect(row).to_be_visible()
    row.get_by_role("link").click()
    stage(page, "Call")
    page.get_by_label("Complaint").fill(f"{complaint}, again")
    page.get_by_role("button", name="Save").click()
    expect(page).to_have_title(re.compile(f"{complaint}, again"))
    page.get_by_role("button", name="Delete").click()
    page.get_by_role("tooltip").get_by_role("button", name="Delete").click()
    expect(page.get_by_role("status").filter(has_text="again")).to_be_visible()
    expect(row).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(row).to_contain_text("again")


def test_a_site_and_its_equipment_are_found_renamed_and_called_to_anew(page: Page) -> None:
    # A site of its own: of those that other tests share a page lists the first alone.
    site = f"Mast Yard {uuid4().hex[:6]}"
    open_new_call(page, "Dead", site=site)
    page.get_by_role("navigation", name="Main").get_by_role("link", name="Equipment").click()
    page.get_by_placeholder("Site, street, equipment").fill(site)
    expect(page.locator(".site-name")).to_have_text([re.compile(site)])
    page.locator(".site-equipment").click()
    name = f"North condenser {uuid4().hex[:6]}"
    page.get_by_role("button", name="Rename").click()
    page.get_by_label("Name of the equipment").fill(name)
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("heading", name=name).last).to_be_visible()
    expect(page.locator(".call-row")).to_contain_text([name])
    page.locator(".text-link").click()
    expect(page.locator(".site-equipment", has_text=name)).to_be_visible()
    page.get_by_role("link", name="New call").click()
    page.get_by_role("button", name="No heat").click()
    page.get_by_role("button", name=name).click()
    expect(page.locator(".title-words")).to_contain_text(name)


@pytest.mark.at("desk", "phone")
def test_what_is_found_on_file_moves_nothing_from_under_a_thumb(page: Page) -> None:
    page.goto("/calls/new")
    site = page.get_by_label("Site or customer")
    site.fill("q")
    picture = page.locator(".picture-button").first
    before = picture.bounding_box()
    site.fill("Quay Street")
    expect(page.get_by_role("button", name="Cold-room condenser")).to_be_visible()
    assert picture.bounding_box() == before
    site.fill("Nobody of that name")
    expect(page.get_by_text("Not on file: it will be.")).to_be_visible()
    assert picture.bounding_box() == before

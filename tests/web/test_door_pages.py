"""The door in the real browser: who comes in and how, what each finds there, and what is kept while one is away."""

import re
from collections.abc import Iterator
from uuid import uuid4

import pytest
from playwright.sync_api import Browser, Page, expect
from tests.web.conftest import PHONE
from tests.web.doing import be, open_new_call, record_now, send, stage, touch_point

PASSWORD = "wet rope under tarpaulin"


@pytest.fixture
def other(browser: Browser, served: str) -> Iterator[Page]:
    """Another browser, in which nobody is signed in."""
    context = browser.new_context(viewport=PHONE, base_url=served, has_touch=True, service_workers="block")
    yield context.new_page()
    context.close()


def test_the_demo_is_entered_by_one_touch_and_left_again(other: Page) -> None:
    other.goto("/people")
    other.get_by_role("button", name="Tobin Marsh").tap()
    expect(other.get_by_text("Only a lead can do that: ask yours.")).to_be_visible()
    other.get_by_role("link", name="You").tap()
    expect(other.get_by_text("Technician. You may open panels.")).to_be_visible()
    other.get_by_role("button", name="Sign out", exact=True).tap()
    expect(other.get_by_role("region", name="Sign in")).to_be_visible()
    other.go_back()
    expect(other.get_by_role("region", name="Sign in")).to_be_visible()


def test_somebody_is_invited_comes_in_and_is_granted_panel_work(page: Page, other: Page) -> None:
    name = f"Kerensa {uuid4().hex[:6]}"
    page.goto("/people")
    page.get_by_role("button", name="Invite").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill(name)
    dialog.get_by_role("button", name="Invite").click()
    link = page.locator(".link-shown").inner_text()
    page.get_by_role("button", name="Done").click()

    other.goto(link)
    expect(other.get_by_role("heading", name=f"Welcome, {name}")).to_be_visible()
    other.get_by_label("Password").fill("passwordpassword")
    other.get_by_role("button", name="Come in").tap()
    expect(other.get_by_text("take a few words that only you would put together")).to_be_visible()
    other.get_by_label("Password").fill(PASSWORD)
    other.get_by_role("button", name="Come in").tap()
    expect(other.get_by_text("No calls yet. Open the first one with “New call”.")).to_be_visible()
    open_new_call(other, "Dead")
    stage(other, "Call")
    panel = other.get_by_role("checkbox", name="Panel may be opened")
    expect(panel).to_be_disabled()
    expect(other.get_by_text("(a lead grants panel work)")).to_be_visible()

    page.get_by_role("button", name=name).click()
    page.get_by_role("switch", name="May open panels").click()
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("button", name=name)).to_contain_text("may open panels")
    other.reload()
    panel.click()
    expect(panel).to_be_checked()
    page.goto("/log")
    said = page.locator(".log li").filter(has_text=name)
    expect(said.filter(has_text="panel may be opened: no → yes")).to_be_visible()
    expect(said.filter(has_text="panel work granted")).to_be_visible()
    other.goto(link)
    expect(other.get_by_text("This link was used already, or is too old")).to_be_visible()


def test_what_was_typed_is_still_there_when_one_was_signed_out_meanwhile(page: Page) -> None:
    open_new_call(page, "Dead")
    touch_point(page, "L1@whip")
    touch_point(page, "L2@whip")
    page.get_by_role("group", name="Number pad").get_by_role("button", name="7", exact=True).click()
    send(page.context, "DELETE", "/api/session")
    record_now(page)
    expect(page.get_by_text("Sign in again and go on where you were")).to_be_visible()
    page.get_by_role("button", name="Maud Tregear").click()
    expect(page.get_by_role("region", name="Sign in")).to_have_count(0)
    record_now(page)
    expect(page.locator(".reading")).to_contain_text("L1-L2 7.0V")


def test_a_call_is_handed_to_an_electrician_who_sees_nothing_else(page: Page, other: Page) -> None:
    complaint = f"Trips at noon {uuid4().hex[:6]}"
    open_new_call(page, complaint)
    stage(page, "Call")
    page.get_by_role("button", name="Share").click()
    page.get_by_role("checkbox", name="Jory Penhale").check()
    page.get_by_role("dialog").get_by_role("button", name="Share").click()
    stage(page, "Find")
    expect(page.get_by_text("and 1 more")).to_be_visible()
    be(other.context, "Jory Penhale")
    other.goto("/")
    expect(other.get_by_role("link", name=re.compile(complaint))).to_be_visible()
    expect(other.get_by_role("link", name="New call")).to_have_count(0)
    other.get_by_role("link", name=re.compile(complaint)).tap()
    expect(other.get_by_role("region", name="Next test")).to_be_visible()
    be(other.context, "Wyn Carrow")
    other.reload()
    expect(other.get_by_text("you may look, not change")).to_be_visible()
    expect(other.get_by_role("button", name="Record", exact=True)).to_have_count(0)
    stage(other, "Call")
    expect(other.get_by_role("checkbox", name="Panel may be opened")).to_be_disabled()


def test_two_who_fill_in_one_sheet_or_map_see_each_others(page: Page) -> None:
    open_new_call(page, "Dead")
    call = page.url.rsplit("/", 1)[1]
    site = page.request.get(f"/api/calls/{call}").json()["call"]["site_id"]
    page.goto(f"/calls/{call}/ratings")
    page.get_by_text("What is known").click()
    page.get_by_label("MCA").fill("20")
    expect(page.get_by_text("Kept with the call.")).to_be_visible()
    sheet = page.request.get(f"/api/calls/{call}/ratings").json()["supplies"][0]["sheet"]
    theirs = sheet | {"plate": sheet["plate"] | {"mca_amps": 31.0}}
    send(page.context, "PUT", f"/api/calls/{call}/ratings/supply", theirs)
    page.get_by_label("MOCP").fill("35")
    clash = page.get_by_role("alert")
    expect(clash).to_contain_text("Somebody changed the sheet meanwhile")
    clash.get_by_role("button", name="See theirs").click()
    expect(page.get_by_label("MCA")).to_have_value("31")
    page.get_by_label("MOCP").fill("40")
    expect(page.get_by_text("Kept with the call.")).to_be_visible()
    plate = page.request.get(f"/api/calls/{call}/ratings").json()["supplies"][0]["sheet"]["plate"]
    assert (plate["mca_amps"], plate["mocp_amps"]) == (31.0, 40.0)
    # What was refused does not overwrite theirs as the page is left either.
    sheet = page.request.get(f"/api/calls/{call}/ratings").json()["supplies"][0]["sheet"]
    theirs = sheet | {"plate": sheet["plate"] | {"mca_amps": 33.0}}
    send(page.context, "PUT", f"/api/calls/{call}/ratings/supply", theirs)
    page.get_by_label("MOCP").fill("45")
    expect(clash).to_contain_text("Somebody changed the sheet meanwhile")
    page.get_by_label("MOCP").fill("46")
    page.reload()
    page.get_by_text("What is known").click()
    expect(page.get_by_label("MCA")).to_have_value("33")
    expect(page.get_by_label("MOCP")).to_have_value("40")

    page.goto(f"/sites/{site}/feeds")
    expect(page.get_by_role("heading", name="Switches", exact=True)).to_be_visible()
    map_of_site = page.request.get(f"/api/sites/{site}/feeds").json()["feeds"]
    named = map_of_site | {"units": [*map_of_site["units"], {"id": "unit_9", "name": "Their water heater"}]}
    send(page.context, "PUT", f"/api/sites/{site}/feeds", named)
    page.get_by_label("Name", exact=True).first.fill("Breaker 12")
    page.get_by_role("button", name="Add the switch").click()
    clash = page.get_by_role("alert")
    expect(clash).to_contain_text("Somebody changed the map meanwhile")
    clash.get_by_role("button", name="See theirs").click()
    expect(page.get_by_text("Their water heater").first).to_be_visible()

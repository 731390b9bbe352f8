"""What is done about what was found: chosen, ticked off, and asked back before the call is closed."""

from datetime import datetime

import pytest
from playwright.sync_api import Page, expect
from tests.web.doing import meter, open_new_call, settled, stage

from zesty_copper.store.clock import now


@pytest.mark.at("desk", "phone")
def test_damage_asks_for_its_repair_and_a_bypass_for_its_terms(page: Page) -> None:
    open_new_call(page, "Trips now and then")
    stage(page, "Repair")
    expect(page.get_by_text("Nothing is to be repaired yet")).to_be_visible()
    stage(page, "Find")
    meter(page, "Look at a part")
    page.get_by_role("button", name="Look at L2 at the fuse clip, load side").click()
    page.get_by_role("button", name="Melted or deformed").click()
    expect(page.locator(".seen")).to_be_visible()
    stage(page, "Repair")
    card = page.get_by_role("region", name="Melted or deformed: L2, fuse clip, load side")
    expect(card.get_by_role("heading", level=2)).to_have_text("Replace the disconnect.")
    expect(card).to_contain_text("No squeezing")
    expect(card.locator(".wanted")).to_contain_text("60 A, the frame that takes 40 A fuses")
    expect(card.get_by_role("radio", name="Lock it out until it is replaced (usual)")).to_be_checked()
    card.get_by_text("Bypass it for now, and tag it").click()
    card.get_by_role("button", name="Keep this choice").click()
    expect(page.get_by_role("alert")).to_have_text("Say why not the usual way: the next person will ask.")
    card.get_by_label("Why not the usual way").fill("Ill tenant, no part until Monday")
    card.get_by_text("Tags hang at both ends").click()
    card.get_by_text("A lock is on the breaker").click()
    card.get_by_label("When somebody comes back").fill(now().astimezone().date().isoformat())
    # It is on its way: a page that is loaded anew before it is kept would not know it.
    with page.expect_response(lambda answer: answer.request.method == "PATCH" and "/repair" in answer.url):
        card.get_by_role("button", name="Keep this choice").click()
    expect(page.get_by_role("alert")).to_have_count(0)
    page.reload()
    expect(card.get_by_role("radio", name="Bypass it for now, and tag it")).to_be_checked()
    expect(card.get_by_label("Why not the usual way")).to_have_value("Ill tenant, no part until Monday")


def test_what_was_changed_for_testing_is_asked_back_before_the_call_is_closed(page: Page) -> None:
    open_new_call(page, "Weak heat", "5 kW heat strip")
    stage(page, "Repair")
    page.get_by_label("Setting, mark or old part").fill("Thermostat in test mode")
    page.get_by_role("button", name="Note it").click()
    back = page.get_by_role("checkbox", name="Thermostat in test mode")
    expect(back).not_to_be_checked()
    stage(page, "Call")
    page.get_by_text("Done", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("Put back first, or say that it is done: Thermostat in test")
    stage(page, "Repair")
    back.click()
    expect(back).to_be_checked()
    stage(page, "Call")
    page.get_by_text("Done", exact=True).click()
    expect(page.get_by_role("link", name="Call done")).to_be_visible()


# Ends of months, a leap day, New Year's Eve, and the hour that comes twice (the clocks go back on 2026-11-01 at 2:00).
DAYS = ("2027-01-31T12:00", "2028-02-29T12:00", "2026-12-31T23:30", "2026-11-01T01:30", "2027-02-28T23:59")


@pytest.mark.at("phone")
@pytest.mark.parametrize("local", DAYS)
def test_today_can_be_chosen_on_any_day(page: Page, local: str) -> None:
    """Today is the first day that is offered, and is kept as the same day; a time that is not touched stays."""
    open_new_call(page, "Weak heat", "5 kW heat strip")
    page.clock.set_fixed_time(datetime.fromisoformat(local).astimezone())
    today = local[:10]
    stage(page, "Prove")
    page.get_by_label("Why it is not proven").fill("No part before then")
    day = page.get_by_label("When it is proven")
    expect(day).to_have_attribute("min", today)
    day.fill(today)
    with page.expect_response(lambda answer: answer.request.method == "PATCH" and "/repair" in answer.url) as kept:
        page.get_by_role("button", name="Leave as not proven").click()
    assert kept.value.json()["notes"]["proof"]["return_on"] == today
    stage(page, "Call")
    when = page.get_by_label("When", exact=True)
    before = when.input_value()
    call = page.url.split("/calls/")[1].split("/")[0]
    starts = page.request.get(f"/api/calls/{call}").json()["call"]["starts_at"]
    page.get_by_label("Complaint").fill("Weak heat upstairs")
    page.get_by_role("button", name="Save").click()
    expect(when).to_have_value(before)
    settled(page)
    after = page.request.get(f"/api/calls/{call}").json()["call"]
    assert (after["complaint"], after["starts_at"][:16]) == ("Weak heat upstairs", starts[:16])

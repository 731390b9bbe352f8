"""What is done about what was found: chosen, ticked off, and asked back before the call is closed."""

from playwright.sync_api import Page, expect
from tests.web.doing import meter, open_new_call, stage

from zesty_copper.store.clock import now


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
    back.check()
    expect(back).to_be_checked()
    stage(page, "Call")
    page.get_by_text("Done", exact=True).click()
    expect(page.get_by_role("link", name="Call done")).to_be_visible()

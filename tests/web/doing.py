"""What a technician does on the pages, by touch and keyboard."""

import re
from typing import Any

from playwright.sync_api import APIResponse, BrowserContext, Locator, Page, expect

from zesty_copper.api.gate.csrf import CSRF_COOKIE, CSRF_HEADER


def be(context: BrowserContext, person: str) -> None:
    """Sign in as one of the demo's people."""
    if context.request.get("/api/session").json()["person"]:
        send(context, "DELETE", "/api/session")
    demo = context.request.get("/api/session").json()["demo"]
    send(context, "POST", "/api/session/demo", {"person_id": next(one["id"] for one in demo if one["name"] == person)})


def send(context: BrowserContext, method: str, address: str, data: Any = None) -> APIResponse:
    """Change something behind the page's back, as another window of the same browser could."""
    token = next(cooky["value"] for cooky in context.cookies() if cooky["name"] == CSRF_COOKIE)
    answer = context.request.fetch(address, method=method, data=data, headers={CSRF_HEADER: token})
    assert answer.ok, answer.text()
    return answer


def open_new_call(
    page: Page,
    complaint: str,
    circuit: str = "Condenser, fused pull-out",
    site: str = "Harbour Master’s Office",
) -> None:
    """From the list to the workbench of a new call."""
    page.goto("/")
    page.get_by_role("link", name="New call").click()
    page.get_by_label("Complaint in other words").fill(complaint)
    page.get_by_label("Site or customer").fill(site)
    page.locator(".picture-button", has_text=circuit).click()
    expect(page.get_by_role("region", name="Verdict")).to_be_visible()


def pick(page: Page, label: str, option: str | re.Pattern[str], within: Locator | None = None) -> None:
    """Choose in a list of the component library."""
    lists = page.locator(".ant-select-dropdown:visible")
    expect(lists).to_have_count(0)  # the one before is still closing
    (within or page).get_by_role("combobox", name=label).click()
    lists.locator(".ant-select-item-option", has_text=option).first.click()
    expect(lists).to_have_count(0)


def open_wholly(page: Page, address: str) -> None:
    """Goes to a page and unfolds all of it, what is only fetched then included."""
    page.goto(address)
    settled(page)
    page.evaluate("document.querySelectorAll('details').forEach((one) => { one.open = true })")
    settled(page)


def tick(box: Locator) -> None:
    """Touch a box that is kept by the server: it shows its tick once the page has been told."""
    if not box.is_checked():
        box.click()
    expect(box).to_be_checked()


def stage(page: Page, name: str) -> None:
    """Go to a stage of the call."""
    page.get_by_role("navigation", name="Stages of this call").get_by_role("link", name=name).click()


def meter(page: Page, says: str) -> None:
    """Take something else into the hand; on a phone the choice is folded away."""
    choice = page.get_by_role("button", name=re.compile(r"\w+ Meter$"))
    expect(page.locator(".entry")).to_be_visible()
    if choice.is_visible():
        choice.click()
    page.get_by_role("group", name="Meter").get_by_role("button", name=says).click()


def by_hand(page: Page, what: str) -> None:
    """Hold, lift or take out something by the keyboard: a pointer misses while the page behind the menu moves."""
    page.get_by_role("button", name="By hand: pushed in, lifted, taken out").click()
    item = page.get_by_role("menuitem", name=what, exact=True)
    item.press("Enter")


def record_now(page: Page) -> None:
    """Touch Record, which stands beside the pad on a phone and beside the number at a desk."""
    page.locator(".entry .accent-button:visible", has_text="Record").click()


def may_open_the_panel(page: Page) -> None:
    """Say so, and come back to finding."""
    stage(page, "Call")
    panel = page.get_by_label("Panel may be opened")
    panel.click()
    expect(panel).to_be_checked()
    stage(page, "Find")


def touch_point(page: Page, point: str) -> None:
    page.locator(f'[data-point="{point}"]').click()


def record(page: Page, value: str) -> None:
    """Type on the page's own pad and record; wait until the reading stands in the list."""
    standing = page.locator(".reading")
    before = standing.count()
    for key in value:
        page.get_by_role("group", name="Number pad").get_by_role("button", name=key, exact=True).click()
    record_now(page)
    expect(standing).to_have_count(before + 1)


def verdict(page: Page) -> str:
    return page.get_by_role("region", name="Verdict").inner_text()


def with_the_meter_alone(page: Page) -> None:
    """Leave eyes and ohms out, so that the next test asks for a number."""
    call = page.url.rsplit("/", 1)[1]
    send(page.context, "PUT", f"/api/calls/{call}/scope", {"tools": ["loz", "sequence"]})
    page.reload()
    expect(page.get_by_label("Number the meter shows").or_(page.locator(".number-field")).first).to_be_visible()


def settled(page: Page) -> None:
    """Wait until nothing is being typed, fetched or saved any more."""
    page.wait_for_timeout(50)  # what a touch begins, it begins by now
    expect(page.get_by_text(re.compile("^(Keeping|(Fetching|Weighing) .*) …$"))).to_have_count(0)
    expect(page.locator('html[data-busy="false"]')).to_have_count(1)

"""Take the pictures in docs/screenshots anew: `python -m tests.web.pictures ADDRESS`, of a demo that was just begun."""

import re
import sys
from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import Browser, Page, ViewportSize, expect, sync_playwright
from tests.client import LEAD
from tests.conftest import CHECKOUT
from tests.web.conftest import CHROMIUM, DESK, FLAGS, PATIENCE_MS, PHONE
from tests.web.doing import be, open_new_call, pick, stage

SETTLED_MS = 1500
CALLS = {
    "workbench": "3c62d265-15cc-52dc-a933-91a16d84156d",
    "two-supplies": "a47696b3-9fa4-5faa-b2cc-330735a7dddf",
}


def take(browser: Browser, address: str) -> None:
    """Every main view."""

    @contextmanager
    def at(path: str, size: ViewportSize, name: str, who: str | None = LEAD) -> Iterator[Page]:
        context = browser.new_context(viewport=size, base_url=address, has_touch=size is PHONE)
        if who:
            be(context, who)
        page = context.new_page()
        page.goto(path)
        yield page
        page.wait_for_timeout(SETTLED_MS)
        page.screenshot(path=CHECKOUT / "docs" / "screenshots" / f"{name}.png")
        context.close()

    with at("/", PHONE, "sign-in-phone", who=None) as page:
        page.get_by_role("button", name=LEAD).wait_for()
    with at("/", DESK, "calls-desk") as page:
        page.locator(".call-row").first.wait_for()
    for size, name in ((DESK, "desk"), (PHONE, "phone")):
        with at(f"/calls/{CALLS['workbench']}", size, f"workbench-{name}") as page:
            page.get_by_role("region", name="Next test").wait_for()
    with at("/calls/new", PHONE, "first-card-phone") as page:
        page.get_by_role("button", name="Outdoor unit dead").click()
        page.locator(".picture-button").first.click()
        page.locator(".number-field").first.wait_for()
        page.keyboard.type("243")
    with at(f"/calls/{CALLS['workbench']}/circuit", DESK, "circuit-desk") as page:
        page.get_by_role("button", name=re.compile("^L1 L2 whip")).click()
    with at(f"/calls/{CALLS['workbench']}/ratings", DESK, "ratings-desk") as page:
        page.locator(".rated-part").first.wait_for()
    with at(f"/calls/{CALLS['workbench']}/repair", DESK, "repair-desk") as page:
        page.locator(".repair-item").first.wait_for()
    with at(f"/calls/{CALLS['workbench']}/prove", DESK, "prove-desk") as page:
        for label, value in (("nothing running", "241.5"), ("everything running", "222.6")):
            page.get_by_label(f"L1 to L2 at the unit, {label}").fill(value)
            page.keyboard.press("Enter")
            page.locator(".proof-row", has_text=label).get_by_text("met").wait_for()
        page.evaluate("window.scrollTo(0, 0)")
    with at(f"/calls/{CALLS['workbench']}/prove/load-tests", DESK, "load-test-desk") as page:
        pick(page, "The simulated clamp finds", "fuse clip, load side")
        page.get_by_role("button", name="Start logging").click()
        page.locator(".trace-findings li").first.wait_for()
        page.get_by_role("heading", name="After the repair").scroll_into_view_if_needed()
    with at(f"/calls/{CALLS['workbench']}/hand-over", PHONE, "hand-over-phone") as page:
        page.get_by_role("button", name="Add what the repair must match").click()
        page.locator(".order-list li").first.wait_for()
        page.evaluate("window.scrollTo(0, 0)")
    with at("/board", DESK, "due-desk") as page:
        page.locator(".board-line").first.wait_for()
    with at(f"/calls/{CALLS['workbench']}/what-if", DESK, "what-if-desk") as page:
        for leg in ("L1", "L2"):
            page.locator(f'[data-point="{leg}@whip"]').click()
        page.get_by_role("button", name="Jumper between the two").click()
    with at("/quick-read", PHONE, "quick-read-phone") as page:
        for label, volts in (("L1 to L2", "0.4"), ("L1 to ground", "121.3"), ("L2 to ground", "121.0")):
            page.get_by_label(label).fill(volts)
        page.get_by_text("What it can mean").wait_for()
    with at("/calculators", PHONE, "calculators-phone") as page:
        page.get_by_text("Run capacitor, in circuit").click()
        for label, value in (("Amps in its lead", "4.2"), ("Volts across it", "350"), ("Marked", "45")):
            page.locator("details[open]").get_by_label(label).fill(value)
    with at(f"/calls/{CALLS['two-supplies']}", PHONE, "feeds-phone") as page:
        stage(page, "Call")
        page.get_by_role("link", name="Which breaker?").click()
        for breaker in ("Breaker 4", "Breaker 10"):
            page.get_by_label("Name", exact=True).first.fill(breaker)
            page.get_by_role("button", name="Add the switch").click()
            page.locator(".feeds-lists li", has_text=breaker).wait_for()
        pick(page, "Switched off", "Breaker 4")
        page.locator(".toggle-unit").get_by_text("partly").last.click()
        page.get_by_role("button", name="Note it").click()
        page.get_by_text("seems to have a second supply").wait_for()
        page.evaluate("window.scrollTo(0, 0)")
    with at(f"/calls/{CALLS['two-supplies']}", DESK, "panel-desk") as page:
        stage(page, "Call")
        page.get_by_role("link", name="Which breaker?").click()
        page.get_by_role("link", name="Panel map and labels").click()
        form = page.get_by_role("form", name="New panel")
        pick(page, "Spaces", "12 spaces", form)
        form.get_by_role("button", name="Draw the panel").click()
        for space, breaker, sits, amps in (
            (2, "Breaker 4", "two poles: this space and the one below", "35"),
            (5, "Breaker 10", "both halves", "15"),
            (1, "not listed", "one pole, the whole", "20"),
        ):
            page.get_by_role("button", name=re.compile(f"^Space {space},")).click()
            place = page.get_by_role("form", name=f"Space {space}")
            pick(page, "Which breaker", breaker, place)
            pick(page, "How it sits", sits, place)
            place.get_by_label("On its handle").fill(amps)
            place.get_by_role("button", name="Put it there").click()
            page.get_by_role("button", name=re.compile(f"^Space {space}, L.: .*{amps} A")).wait_for()
        page.evaluate("window.scrollTo(0, 0)")
    with at("/", DESK, "timing-desk") as page:
        open_new_call(page, "Weak heat", "Electric furnace, 15 kW")
        stage(page, "Call")
        page.get_by_role("link", name="Timing").click()
        page.get_by_label("Blower in heating").fill("500")
        page.get_by_label("Seconds and amps, a pair a line").fill("0 0\n1 2.8\n24 22.6\n400 22.6")
        page.get_by_text("not seen").first.wait_for()
        page.evaluate("window.scrollTo(0, 0)")
    with at("/", PHONE, "heater-phone") as page:
        open_new_call(page, "Burnt element", "Air handler with 10 kW heat")
        stage(page, "Repair")
        page.get_by_role("link", name="Replace a heater").click()
        for label, value in (("One element, cold", "11.52"), ("Elements alike", "2"), ("Rise limit", "50")):
            page.get_by_label(label).fill(value)
        for label, value in (("Kit size", "10"), ("Kit, rated volts", "240"), ("Blower in heating", "500")):
            page.get_by_label(label).fill(value)
        page.get_by_text("632 cfm at least").wait_for()
        page.evaluate("window.scrollTo(0, 0)")


if __name__ == "__main__":
    expect.set_options(timeout=PATIENCE_MS)
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        take(chromium, sys.argv[1])
        chromium.close()

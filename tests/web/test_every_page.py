"""Every page, for everybody: a glove, tired eyes, a small screen, large letters, a screen reader, either theme."""

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect
from tests.client import client_of
from tests.conftest import CHECKOUT
from tests.web.conftest import DESK, PHONE
from tests.web.doing import open_wholly, settled

OF_ONE_CALL = (
    "call",
    "make-safe",
    "circuit",
    "what-if",
    "timing",
    "repair",
    "repair/heater",
    "prove",
    "prove/load-tests",
    "hand-over",
)
AXE = CHECKOUT / "web" / "node_modules" / "axe-core" / "axe.min.js"
HERE = Path(__file__).parent


@pytest.fixture
def every_page(served: str) -> list[str]:
    """Addresses of every page, calls in several standings among them."""
    with client_of(served) as client:
        calls = client.get("/api/calls").json()["calls"]
    demo = [call for call in calls if call["readings"]]
    shown = [f"/calls/{call['id']}" for call in demo[-6:]]
    site, panels = (f"/sites/{demo[-1]['site_id']}/{page}" for page in ("feeds", "panels"))
    of_one = [f"{shown[0]}/{page}" for page in OF_ONE_CALL]
    filed = [f"/sites/{demo[-1]['site_id']}", f"/equipment/{demo[-1]['equipment_id']}"]
    rated = [f"/calls/{call['id']}/ratings" for call in demo[-3:]]
    alone = [
        "/",
        "/calls/new",
        "/quick-read",
        "/calculators",
        "/equipment",
        "/board",
        "/help",
        "/tables",
        "/you",
        "/people",
        "/log",
        "/join#of-nobody",
        "/nowhere",
    ]
    return [*alone, site, panels, *filed, *shown, *of_one, *rated]


def test_every_page_fits_and_shuts_nobody_out(page: Page, every_page: list[str]) -> None:
    """On a phone: nothing too small for a glove or tired eyes, nothing over the edge, down to 320 pixels.

    At either size everything that axe-core checks, folded parts opened; in the dark contrast alone, which is all that
    differs. And the contrast of what is drawn, which axe-core leaves out.
    """
    axe, fits, graphics = (path.read_text("utf-8") for path in (AXE, HERE / "fits.js", HERE / "graphics.js"))
    size = page.viewport_size
    found: list[tuple[object, ...]] = []
    for address in every_page:
        page.emulate_media(color_scheme="light")
        open_wholly(page, address)
        for width in (390, 320) if size == PHONE else ():
            page.set_viewport_size({"width": width, "height": 640})
            found += [(address, width, one) for one in page.evaluate(fits)]
        page.set_viewport_size(size or DESK)
        page.evaluate(f"() => {{ {axe} }}")
        light = page.evaluate("axe.run(document, { resultTypes: ['violations'] })")
        found += [(address, "light", one) for one in page.evaluate(graphics)]
        page.emulate_media(color_scheme="dark")
        expect(page.locator("html")).to_have_attribute("data-theme", "dark")
        dark = page.evaluate("axe.run(document, { runOnly: ['color-contrast'], resultTypes: ['violations'] })")
        found += [(address, "dark", one) for one in page.evaluate(graphics)]
        violations = light["violations"] + dark["violations"]
        found += [(address, violation["id"], violation["nodes"][0]["target"]) for violation in violations]
    assert found == []


@pytest.mark.at("phone")
def test_who_has_set_larger_letters_gets_them(page: Page, every_page: list[str]) -> None:
    """The browser's own text size, half as large again: followed, and nothing is pushed over a phone's edge."""
    page.context.new_cdp_session(page).send("Page.setFontSizes", {"fontSizes": {"standard": 24, "fixed": 20}})
    found = []
    for address in every_page:
        page.goto(address)
        settled(page)
        sizes = page.evaluate(
            "[document.body, ...document.querySelectorAll('input:is([type=text], [type=search])')]"
            ".map((e) => parseFloat(getComputedStyle(e).fontSize))"
        )
        wide = page.evaluate("document.documentElement.scrollWidth")
        if min(sizes) < 22 or wide > 391:
            found.append((address, sizes, wide))
    assert found == []

"""Debian's chromium, and a page of it at the size of a desk's window or a phone."""

import os
from collections.abc import Iterator
from datetime import UTC, datetime

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, ViewportSize, expect, sync_playwright
from tests.client import LEAD
from tests.web.doing import be

from zesty_copper.store.clock import now

CHROMIUM = "/usr/bin/chromium"
FLAGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
    # The last such flag counts: what Playwright switches off itself, and the address bar's own two pages,
    # which cost every new window a second.
    "--disable-features=AimEnabled,AvoidCorsURLLoaderRestartOnRedirect,AvoidUnnecessaryBeforeUnloadCheckSync,"
    "DestroyProfileOnBrowserClose,HttpsFirstBalancedModeAutoEnable,HttpsUpgrades,LensOverlay,MediaRouter,"
    "NetworkTimeServiceQuerying,OptimizationHints,PaintHolding,PreconnectToSearch,ThirdPartyStoragePartitioning,"
    "Translate,WebUIOmniboxAimPopup,WebUIOmniboxPopup",
]  # fmt: skip
PATIENCE_MS = 60_000
DESK: ViewportSize = {"width": 1280, "height": 800}
PHONE: ViewportSize = {"width": 390, "height": 844}


# The day alone is moved: timers and frames stay the browser's own.
DAY_MOVED = """{
  const Real = Date
  const ahead = %d
  globalThis.Date = class extends Real {
    constructor(...parts) { if (parts.length) super(...parts); else super(Real.now() + ahead) }
    static now() { return Real.now() + ahead }
  }
}"""


def set_clock(context: BrowserContext) -> None:
    """Have the browser's days be those of the server's clock."""
    if os.environ.get("ZESTY_NOW"):
        # By as much on every page: a clock that went back would call old pages new.
        context.add_init_script(DAY_MOVED % ((now() - datetime.now(UTC)).total_seconds() * 1000))


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    """Debian's chromium."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        yield browser
        browser.close()


SIZES = {"desk": DESK, "phone": PHONE}


def pytest_generate_tests(metafunc: pytest.Metafunc) -> None:
    """A page has the sizes that its test is marked with: `at`; else a phone's, and in the night a desk's too."""
    if "page" not in metafunc.fixturenames:
        return
    marked = metafunc.definition.get_closest_marker("at")
    always = marked.args if marked else ("phone",)
    names = always if marked else SIZES
    sizes = [pytest.param(SIZES[name], id=name, marks=() if name in always else pytest.mark.night) for name in names]
    metafunc.parametrize("page", sizes, indirect=True)


@pytest.fixture
def page(browser: Browser, served: str, request: pytest.FixtureRequest) -> Iterator[Page]:
    """A page at the size of a desk's window or a phone; an error on it fails the test."""
    context = browser.new_context(
        viewport=request.param,
        base_url=served,
        has_touch=request.param is PHONE,
        accept_downloads=True,
        # Keeping 3 MB of pages for a day without a signal costs more than most tests do.
        service_workers="allow" if request.node.get_closest_marker("kept_pages") else "block",
    )
    # Other tests keep the processors busy meanwhile: how fast a page is, the speed benchmark says.
    context.set_default_timeout(PATIENCE_MS)
    expect.set_options(timeout=PATIENCE_MS)
    set_clock(context)
    be(context, LEAD)
    page = context.new_page()
    errors: list[str] = []
    page.on("pageerror", lambda error: errors.append(str(error)))
    page.on("console", lambda said: errors.append(said.text) if "Content Security Policy" in said.text else None)
    yield page
    context.close()
    assert errors == []

"""Load tests on the page: a logger's file mapped by hand, numbers typed, a chart looked into; and what prints."""

from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect
from tests.web.doing import open_new_call, pick, stage

PATIENT_MS = 60_000


def logged(path: Path, count: int = 6000) -> Path:
    """A log in which nothing says what its columns are, with a row that is none."""
    rng = np.random.default_rng(2)
    seconds = np.arange(count) / 10
    amps = np.where(seconds > 60, 18.0, 0.0) + np.abs(rng.normal(0, 0.03, count))
    volts = 240_000 - 900 * amps + rng.normal(0, 90, count)
    rows = [f"{at:.1f};{v:.0f};{a:.2f}" for at, v, a in zip(seconds, volts, amps, strict=True)]
    rows[4321] = "logger restarted"
    path.write_text("\n".join(["p;q;r", *rows]), "utf-8")
    return path


def open_load_tests(page: Page, complaint: str) -> None:
    open_new_call(page, complaint)
    stage(page, "Prove")
    page.get_by_role("link", name="Load test over time").click()
    expect(page.get_by_role("region", name="New load test")).to_be_visible()


def test_a_file_is_mapped_by_hand_read_with_progress_and_its_bad_row_named(page: Page, tmp_path: Path) -> None:
    open_load_tests(page, "Sags under load")
    page.get_by_text("CSV file", exact=True).click()
    page.locator("input[type=file]").set_input_files(logged(tmp_path / "site log.csv"))
    columns = page.get_by_role("region", name="Columns of site log.csv")
    expect(columns).to_contain_text("240")
    expect(page.get_by_role("button", name="Read the file")).to_be_disabled()
    pick(page, "Column 1 is", "time")
    pick(page, "Times are", "seconds")
    pick(page, "Column 2 is", "Volts L1 to L2")
    pick(page, "in", "mV", columns.locator("li").nth(1))
    pick(page, "Column 3 is", "Amps L1")
    page.get_by_role("button", name="Read the file").click()
    test = page.get_by_role("region", name="site log.csv", exact=True)
    expect(test).to_contain_text("5,999 samples", timeout=PATIENT_MS)
    expect(test).to_contain_text("high-resistance connection upstream")
    test.get_by_text("1 row was left out").click()
    expect(test.locator(".left-out li")).to_have_text(
        "Line 4,323: “logger restarted” is no time of the kind that was chosen."
    )
    # The chart is looked into, and comes back whole.
    where = test.locator(".trace .num").last
    expect(where).to_have_text("0:00 to 10:00 min")
    test.get_by_role("button", name="Closer").click()
    expect(where).to_have_text("2:30 to 7:30 min")
    test.get_by_role("button", name="Later").click()
    expect(where).to_have_text("5:00 to 10:00 min")
    test.get_by_role("button", name="All of it").click()
    expect(where).to_have_text("0:00 to 10:00 min")
    test.get_by_role("button", name="Remove").click()
    page.locator(".ant-popconfirm").get_by_role("button", name="Remove").click()
    expect(page.get_by_text("No load test yet")).to_be_visible()


def test_what_is_no_log_is_refused_with_a_sentence(page: Page, tmp_path: Path) -> None:
    open_load_tests(page, "Nothing to read")
    page.get_by_text("CSV file", exact=True).click()
    words = tmp_path / "letter.csv"
    words.write_text("Dear customer,\nthe disconnect is on order.\n", "utf-8")
    page.locator("input[type=file]").set_input_files(words)
    expect(page.get_by_role("alert")).to_contain_text("No row of numbers was found")


def test_numbers_are_typed_as_they_come(page: Page) -> None:
    open_load_tests(page, "Weak")
    page.get_by_text("Typed", exact=True).click()
    rows = (("0", "241", "0"), ("1", "231.8", "18.4"), ("5", "231.6", "18.3"), ("10", "2 31", ""))
    for row, cells in enumerate(rows):
        for name, cell in zip(("Minutes", "L1 to L2, V", "L1, A"), cells, strict=True):
            page.get_by_label(f"{name}, row {row + 1}").fill(cell)
    mean = page.get_by_role("button", name="What does it mean?")
    expect(page.get_by_text("“2 31” is no number")).to_be_visible()
    expect(mean).to_be_disabled()
    page.get_by_label("L1 to L2, V, row 4").fill("231.5")
    page.get_by_label("L1, A, row 4").fill("18.3")
    mean.click()
    test = page.get_by_role("region", name="Typed readings")
    expect(test).to_contain_text("0.500 Ω")
    page.get_by_role("link", name="Prove", exact=True).first.click()
    page.get_by_role("button", name="numbers from the last load test").click()
    expect(page.get_by_label("L1 to L2 at the unit, nothing running")).to_have_value("241")
    expect(page.get_by_label("compressor, L1", exact=True)).to_have_value("18.3")


def test_a_chart_that_cannot_be_drawn_takes_nothing_else_down(page: Page) -> None:
    open_load_tests(page, "Weak")
    page.route("**/load-tests/*/chart*", lambda route: route.fulfill(json={"seconds": [0, 1], "channels": None}))
    page.get_by_text("Typed", exact=True).click()
    for row, cells in enumerate(
        (("0", "241", "0"), ("1", "231.8", "18.4"), ("5", "231.6", "18.3"), ("10", "231", "18.2"))
    ):
        for name, cell in zip(("Minutes", "L1 to L2, V", "L1, A"), cells, strict=True):
            page.get_by_label(f"{name}, row {row + 1}").fill(cell)
    page.get_by_role("button", name="What does it mean?").click()
    broken = page.get_by_text("The chart could not be drawn")
    expect(broken).to_be_visible()
    page.get_by_label("Minutes, row 1").fill("0")
    expect(page.get_by_role("region", name="Typed readings")).to_contain_text("Ω")
    page.unroute("**/load-tests/*/chart*")
    page.reload()
    expect(page.locator(".trace canvas").first).to_be_visible()
    expect(broken).to_have_count(0)


@pytest.mark.at("desk")
def test_proof_repair_and_board_print_without_what_only_a_screen_needs(page: Page) -> None:
    open_new_call(page, "For the file")
    call = page.url
    for address, seen in ((f"{call}/prove", "Volts at the unit"), (f"{call}/repair", "To put back"), ("/board", "Due")):
        page.goto(address)
        page.emulate_media(media="screen")
        expect(page.get_by_text(seen).first).to_be_visible()
        page.emulate_media(media="print")
        for hidden in (".dock", ".frame-head"):
            expect(page.locator(hidden)).to_be_hidden()
        wide = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        assert wide <= 0
    page.emulate_media(media="screen")

"""Whole calls of three supplies in the real browser, in the order of the work: from intake to the PDF."""

import io
from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import Page, expect
from pypdf import PdfReader
from tests.web.doing import open_new_call, pick, settled, stage, tick

from zesty_copper.store.clock import now

# As a technician has it: with the pages kept by the browser.
pytestmark = pytest.mark.kept_pages
PATIENT_MS = 60_000
ALL_WELL = {
    "Control volts": "26.1",
    "to ground in LoZ": "0.4",
    "everything running": "{load}",
    "nothing running": "{rest}",
    "seconds until its amps settle": "0.8",
    "peak at the start": "30",
    "once the call drops": "0.4",
    "Air in": "{air_in}",
    "Air out": "{air_out}",
    "under load": "0.05",
    "hottest leg over the coolest": "2",
    "Outdoor temperature": "84",
}


def say_lines(page: Page, *lines: str) -> None:
    """Type readings as they are said, one line after the other."""
    for line in lines:
        before = page.locator(".reading").count()
        page.get_by_label("One line").fill(line)
        page.get_by_label("One line").press("Enter")
        expect(page.locator(".reading")).to_have_count(before + 1)


def tick_all(page: Page, *sections: str) -> None:
    """Tick every line of some lists."""
    for name in sections:
        boxes = page.get_by_role("region", name=name).get_by_role("checkbox")
        expect(boxes.first).to_be_visible()
        for i in range(boxes.count()):
            tick(boxes.nth(i))


def make_safe(page: Page) -> None:
    """See to everything that comes before the first look, and go on to finding it."""
    stage(page, "Make safe")
    expect(page.locator(".proof-summary")).to_contain_text("before you look")
    boxes = page.locator(".safe").get_by_role("checkbox")
    for i in range(boxes.count()):
        tick(boxes.nth(i))
    expect(page.locator(".proof-summary")).to_have_text("Safe enough to look")
    page.get_by_role("link", name="On to finding it").click()


def fill_proof(page: Page, amps: dict[str, str], **numbers: str) -> None:
    """Fill the checklist as the meter shows it, and tick what is seen."""
    expect(page.locator(".proof-row").first).to_be_visible()
    labels = page.locator(".proof-number input").evaluate_all("all => all.map(one => one.getAttribute('aria-label'))")
    for label in labels:
        known = next((value for words, value in ALL_WELL.items() if words in label), None)
        value = (known or "").format(**numbers) or next((one for name, one in amps.items() if name in label), "")
        if not value:
            continue
        field = page.get_by_label(label, exact=True)
        field.fill(value)
        field.press("Enter")
        expect(page.get_by_label(label, exact=True)).to_have_value(value)
    boxes = page.locator(".proof-row").get_by_role("checkbox")
    for i in range(boxes.count()):
        tick(boxes.nth(i))


def sheet(page: Page, name: str) -> str:
    """Open a sheet as the page links it once everything is kept, and read its text back."""
    settled(page)
    href = page.get_by_role("link", name=name).get_attribute("href")
    assert href is not None
    answer = page.request.get(href)
    assert answer.headers["content-type"] == "application/pdf"
    return " ".join(" ".join(one.extract_text() for one in PdfReader(io.BytesIO(answer.body())).pages).split())


def close_the_call(page: Page) -> None:
    close = page.get_by_role("button", name="Close the call")
    close.click()
    expect(page.get_by_role("button", name="Closed")).to_be_visible()


@pytest.mark.at("desk", "phone")
def test_a_burned_clip_on_120_240_from_the_call_to_the_customers_page(page: Page, tmp_path: Path) -> None:
    open_new_call(page, "Hums and drops out", "Condenser, fused pull-out")
    make_safe(page)
    say_lines(page, "whip L1-L2 222.6V", "whip L1-G 121.2V", "whip L2-G 101.7V")
    say_lines(page, "clip_load L2 across 19.6V", "clip_load L2 across 19.4V", "clip_load L2 sees mark")
    expect(page.get_by_role("region", name="Verdict")).to_contain_text("fuse clip, load side", timeout=PATIENT_MS)
    stage(page, "Repair")
    expect(page.get_by_role("heading", name="Replace the disconnect.").first).to_be_visible()
    tick_all(page, "Before any hand goes in", "The work in order", "Back on in order")
    stage(page, "Prove")
    expect(page.locator(".proof-summary")).to_contain_text("to do")
    fill_proof(page, {"compressor": "18.1"}, rest="241.5", load="238.6", air_in="76", air_out="57")
    expect(page.locator(".proof-summary")).to_contain_text("Everything is met")
    page.get_by_role("link", name="Load test over time").click()
    page.get_by_role("button", name="Start logging").click()
    expect(page.get_by_role("region", name="After the repair")).to_contain_text("Steady", timeout=PATIENT_MS)
    expect(page.locator(".trace-plot canvas").first).to_be_visible()
    page.get_by_role("link", name="Prove", exact=True).first.click()
    page.get_by_role("button", name="Proven", exact=True).click()
    expect(page.locator(".proof-summary")).to_have_text("Proven")
    stage(page, "Hand over")
    page.get_by_role("textbox", name="What was done").fill("New disconnect with new fuses, both lugs cut back")
    page.get_by_role("textbox", name="What was done").blur()
    photo = tmp_path / "clip.jpg"
    Image.effect_noise((900, 600), 60).convert("RGB").save(photo)
    pick(page, "Taken at", "L2, fuse clip, load side")
    page.get_by_label("What it shows").fill("Old clip, brown")
    page.locator("input[type=file]").set_input_files(photo)
    expect(page.get_by_alt_text("L2, fuse clip, load side: Old clip, brown")).to_be_visible()
    stage(page, "Find")
    expect(page.locator(".strip-row", has_text="fuse clip, load side")).to_contain_text("1 photo")
    stage(page, "Hand over")
    customer = sheet(page, "Customer’s page")
    for said in (
        "A connection in the wiring to",
        "New disconnect with new fuses",
        "222.6 V",
        "238.6 V",
        "Repaired and proven",
        "Old clip, brown",
    ):
        assert said in customer, said
    technical = sheet(page, "Technical sheet")
    for said in ("19.6 V", "Replace the disconnect.", "Load test: After the repair", "Steady", "76 °F"):
        assert said in technical, said
    close_the_call(page)
    expect(page.get_by_role("link", name="Call done")).to_be_visible()


def test_a_pitted_contactor_on_208_three_phase_keeps_the_proof_open_until_it_holds(page: Page) -> None:
    open_new_call(page, "Loud, trips after minutes", "Rooftop unit, 208 V three phase")
    make_safe(page)
    say_lines(page, "contactor L2 across 12.4V", "contactor L2 across 12.1V", "contactor L1 across 0.1V")
    say_lines(page, "contactor L3 across 0.1V", "contactor sees pitted", "whip L1-L2 207V", "whip L2-L3 207V")
    expect(page.get_by_role("region", name="Verdict")).to_contain_text("through the contactor", timeout=PATIENT_MS)
    stage(page, "Repair")
    expect(page.get_by_role("heading", name="Replace the contactor").first).to_be_visible()
    stage(page, "Hand over")
    page.get_by_role("button", name="Add what the repair must match").click()
    expect(page.get_by_role("group", name="How far").or_(page.locator(".order-list li")).first).to_be_visible()
    page.get_by_role("button", name="Close the call").click()
    expect(page.get_by_role("alert")).to_contain_text("Prove the repair first")
    stage(page, "Prove")
    amps = {"compressor, L2": "26", "compressor": "20.4", "blower": "5.9"}
    fill_proof(page, amps, rest="208", load="205.6", air_in="75", air_out="57")
    overloaded = page.locator(".proof-row.not_met", has_text="compressor, L2")
    expect(overloaded).to_contain_text("Above its nameplate")
    expect(page.locator(".proof-row.not_met", has_text="unbalance of its three legs")).to_contain_text(
        "Legs too far apart"
    )
    expect(page.get_by_role("button", name="Proven", exact=True)).to_be_disabled()
    for label in ("compressor, L2", "compressor, L2, ten minutes later"):
        field = page.get_by_label(label, exact=True)
        if field.count():
            field.fill("20.6")
            field.press("Enter")
    expect(page.locator(".proof-summary")).to_contain_text("Everything is met")
    page.get_by_role("button", name="Proven", exact=True).click()
    expect(page.locator(".proof-summary")).to_have_text("Proven")
    stage(page, "Hand over")
    technical = sheet(page, "Technical sheet")
    for said in (
        "High resistance on L2 through the contactor",
        "12.4 V",
        "Voltage unbalance of the three legs",
        "20.6 A",
    ):
        assert said in technical, said
    assert "Repaired and proven" in sheet(page, "Customer’s page")
    close_the_call(page)


def test_an_open_element_on_277_is_left_not_proven_with_its_part_and_its_day(page: Page) -> None:
    open_new_call(page, "No emergency heat", "Fan coil with emergency heat, 277 V")
    make_safe(page)
    say_lines(page, "L1@limit N@tail 276V", "L1@limit N@tail 276.4V", "fan runs", "element L1 0A", "element is still")
    expect(page.get_by_role("region", name="Verdict")).to_contain_text("element", timeout=PATIENT_MS)
    stage(page, "Repair")
    expect(page.locator(".repair-item").first).to_contain_text("element")
    stage(page, "Prove")
    left = page.get_by_role("region", name="How it is left")
    expect(left.get_by_role("button", name="Leave as not proven: give the reason")).to_be_disabled()
    left.get_by_label("Why it is not proven").fill("Element on order")
    left.get_by_label("When it is proven").fill(now().astimezone().date().isoformat())
    left.get_by_role("button", name="Leave as not proven").click()
    expect(page.locator(".proof-summary")).to_contain_text("Left as not proven")
    stage(page, "Hand over")
    page.get_by_label("Another part").fill("Element, 4 kW 277 V")
    page.get_by_role("button", name="Add", exact=True).click()
    for label, words in (
        ("What was advised", "A new limit with it"),
        ("Declined by", "Mrs. Teague"),
        ("What they were warned of", "An old limit may open again."),
    ):
        page.get_by_label(label).fill(words)
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("region", name="Declined")).to_contain_text("Declined by Mrs. Teague")
    calendar = page.request.get(
        page.get_by_role("link", name="Return visit, for a calendar").get_attribute("href") or ""
    )
    assert "BEGIN:VEVENT" in calendar.text()
    customer = sheet(page, "Customer’s page")
    for said in ("Not proven yet: Element on order", "Element, 4 kW 277 V: to be ordered", "Declined by Mrs. Teague"):
        assert said in customer, said
    close_the_call(page)
    page.goto("/board")
    due = page.get_by_role("region", name="Not proven yet")
    expect(due.locator("li", has_text="Element on order").first).to_contain_text("today")
    expect(page.get_by_role("region", name="Parts to order")).to_contain_text("Element, 4 kW 277 V")

"""Replacing electric heat, in the browser."""

from playwright.sync_api import Page, expect
from tests.web.doing import open_new_call, pick, stage


def test_a_heater_is_sized_a_kit_matched_and_its_circuit_checked(page: Page) -> None:
    """From an unmarked element to a kit on the ratings sheet: 240²/11.52 = 5 kW each, two of them."""
    open_new_call(page, "Burnt element", "Air handler with 10 kW heat")
    stage(page, "Repair")
    page.get_by_role("link", name="Replace a heater").click()
    answer = page.get_by_role("region", name="How it matches")
    expect(answer).to_contain_text("How large the old heater is, is not known yet")
    for label, value in (("One element, cold", "11.52"), ("Elements alike", "2")):
        page.get_by_label(label).fill(value)
    expect(answer).to_contain_text("The heater that is there makes 10 kW.")
    page.get_by_label("Kit size").fill("15")
    page.get_by_label("Kit, rated volts").fill("208")
    expect(answer).to_contain_text("it would make 1.3 times its watts, and burn")
    page.get_by_label("Kit size").fill("10")
    page.get_by_label("Kit, rated volts").fill("240")
    page.get_by_label("Stages, kW each").fill("5 + 4")
    expect(page.get_by_role("alert")).to_contain_text("Its stages make 9 kW together, not 10")
    page.get_by_label("Stages, kW each").fill("5 + 5")
    expect(answer).to_contain_text("10 kW for 10 kW.")
    for label, value in (("Blower in heating", "500"), ("Rise limit", "50"), ("Calls for heat", "2")):
        page.get_by_label(label).fill(value)
    expect(answer).to_contain_text("500 cfm; 632 cfm at least.")
    page.get_by_label("Blower in heating").fill("900")
    pick(page, "Airflow", "up")
    page.get_by_label("up").last.check()
    pick(page, "On the maker’s list", "yes")
    for label, value in (("Opening width", "16"), ("Kit width", "14")):
        page.get_by_label(label).fill(value)
    expect(answer).to_contain_text("The kit matches")
    answer.get_by_text("Its circuit with the kit in it").click()
    expect(answer).to_contain_text("60 A; 54.6 A are asked.")
    page.get_by_role("button", name="Put the kit on the ratings sheet").click()
    expect(page.get_by_text("It is on the sheet.")).to_be_visible()
    stage(page, "Ratings")
    page.locator("summary", has_text="What is known").first.click()
    expect(page.get_by_label("or Heat, all")).to_have_value("10")
    page.go_back()
    expect(page.get_by_label("Kit size")).to_have_value("10")

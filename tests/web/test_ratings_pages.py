"""Ratings, bench and tables in the browser: what is entered is judged and kept, and can be followed."""

import re

import pytest
from playwright.sync_api import Page, expect
from tests.web.doing import meter, open_new_call, pick, record, stage, touch_point


@pytest.mark.at("desk", "phone")
def test_a_plate_and_a_wire_are_entered_judged_and_kept(page: Page) -> None:
    open_new_call(page, "Weak heat", "5 kW heat strip, non-fused disconnect")
    stage(page, "Ratings")
    expect(page.locator(".rated-sum strong")).to_have_text(re.compile(r"^\d+ met, \d+ not judged yet$"))
    page.get_by_text("What is known").click()
    whip = page.get_by_role("group", name="whip")
    pick(page, "Size", "12 AWG", whip)
    pick(page, "Terminals", "60 °C, or no mark", whip)
    expect(page.locator(".rated-sum strong")).to_have_text("2 not met, 5 not judged yet")
    finding = page.locator(".finding.not_met").filter(has_text="Wire ampacity for the load: whip")
    expect(finding).to_contain_text("12 AWG copper may carry 20 A at its terminals; 26 A are asked.")
    finding.locator("summary").click()
    expect(finding.locator("table").last).to_contain_text("1.25 × 20.8 =")
    expect(finding).to_contain_text("To put right: electrician")
    heat = page.get_by_role("textbox", name="Heat, all A", exact=True)
    heat.fill("abc")
    expect(heat).to_have_attribute("aria-invalid", "true")
    page.get_by_role("textbox", name="or Heat, all kW").fill("7.2")
    expect(finding).to_contain_text("37.5 A are asked")  # 1.25 × 7200 ÷ 240
    page.get_by_role("textbox", name="or Heat, all kW").fill("")
    heat.fill("16")
    expect(finding).to_have_count(0)
    expect(page.get_by_text("Kept with the call.")).to_be_visible()
    page.reload()
    page.get_by_text("What is known").click()
    expect(heat).to_have_value("16")
    page.get_by_role("button", name="Back to what the circuit says").click()
    expect(heat).to_have_value("20.8")
    expect(page.locator(".rated-sum strong")).to_have_text(re.compile(r"^\d+ met, \d+ not judged yet$"))


def test_a_splice_and_a_box_are_added_judged_and_removed(page: Page) -> None:
    open_new_call(page, "Buzzing box", "Condenser, non-fused disconnect")
    stage(page, "Ratings")
    page.get_by_text("What is known").click()
    page.get_by_role("button", name="Add a splice").click()
    splice = page.get_by_role("group", name="splice 1")
    pick(page, "Wires are", "both", splice)
    pick(page, "Marked for", "both", splice)
    pick(page, "Covered by", "vinyl tape alone", splice)
    splice.get_by_label("Strands", exact=True).fill("7")
    splice.get_by_label("Strands left in it").fill("6")
    page.get_by_role("button", name="Add a box").click()
    page.get_by_role("group", name="box 1").get_by_label("Room").fill("8")  # four of 10 AWG ask 10 in³
    expect(page.locator(".rated-sum strong")).to_have_text("4 not met, 4 not judged yet")
    words = page.locator(".finding.not_met").all_inner_texts()
    for told in (
        "Copper and aluminum touch in a connector that is not listed for both together.",
        "Covered by: vinyl tape alone.",
        "6 of 7 strands are in it. That length burns 1.2 times the watts.",
        "8 in³; 10 in³ are asked.",
    ):
        assert any(told in word for word in words), told
    pick(page, "Listed for both metals", "yes", splice)
    expect(page.locator(".rated-sum strong")).to_have_text(re.compile(r"^3 not met, \d+ not judged yet$"))
    page.get_by_role("button", name="Remove: splice 1").click()
    page.get_by_role("button", name="Remove: box 1").click()
    expect(page.locator(".rated-sum strong")).to_have_text(re.compile(r"^\d+ met, \d+ not judged yet$"))


@pytest.mark.at("desk")
def test_the_page_prints_unfolded_and_under_its_name(page: Page) -> None:
    page.goto("/?search=Upstairs+heat+strip")
    page.locator(".call-row", has_text="Upstairs heat strip").first.click()
    stage(page, "Ratings")
    met = page.locator(".rated-part.met .finding").first
    expect(met).to_be_hidden()
    page.emulate_media(media="print")
    expect(met).to_be_visible()
    expect(page.get_by_role("heading", name="Ratings: Old Lamp House, Upstairs heat strip")).to_be_visible()
    expect(page.get_by_role("button", name="Print")).to_be_hidden()


def test_what_a_part_loses_stands_in_its_row_and_in_the_staircase(page: Page) -> None:
    open_new_call(page, "Weak heat", "5 kW heat strip, non-fused disconnect")
    meter(page, "Amps, clamp around one conductor")
    touch_point(page, "L2@whip")
    record(page, "17.9")
    meter(page, "Volts, 10 megohm input")
    touch_point(page, "L2@whip")
    touch_point(page, "L2@contactor")
    record(page, "31.6")
    expect(page.locator(".lost.high")).to_have_text("L2 loses 31.6 V, not 0.036")
    stage(page, "Ratings")
    tread = page.locator(".treads li.high")
    expect(tread).to_contain_text("L2 contactor loses 31.6 V, should 35.8 mV at 17.9 A")
    expect(tread).to_contain_text("565 W burnt there")  # (31.6 − 0.0358) × 17.9


def test_the_bench_answers_as_one_types_and_keeps_to_a_call(page: Page) -> None:
    page.goto("/calculators")
    line = page.locator(".bench-line").filter(has_text="Run capacitor, in circuit")
    line.locator("summary").click()
    expect(line.locator(".bench-words")).to_contain_text("For example: 37.9 µF")
    line.get_by_label("Amps in its lead").fill("4,2")
    line.get_by_label("Marked").fill("45")
    expect(line.locator(".bench-words.bad")).to_contain_text("31.8 µF")  # 2652.6 × 4.2 ÷ 350
    line.get_by_label("Volts across it").fill("")
    expect(line.locator(".bench-words")).to_have_text("Fill in: Volts across it.")
    line.get_by_label("Volts across it").fill("350")
    pick(page, "Call to keep it to", "", line)
    line.get_by_role("button", name="Keep", exact=True).click()
    expect(line.get_by_text("Kept.")).to_be_visible()


def test_a_table_is_found_by_a_size(page: Page) -> None:
    page.goto("/tables")
    page.get_by_label("Look for").fill("8 awg copper ampacity")
    rows = page.locator("tbody tr.ant-table-row")
    expect(rows).to_have_count(1)
    assert rows.first.locator("td").all_inner_texts() == ["copper", "8 AWG", "40", "50", "55"]
    page.get_by_label("Look for").fill("nothing like it")
    expect(page.get_by_text("No table has “nothing like it”.")).to_be_visible()

"""Nameplate, circuit and leads typed in, in the browser."""

import re

from playwright.sync_api import Page, expect
from tests.web.doing import open_new_call, pick, stage


def open_sheet(page: Page, circuit: str) -> None:
    """A new call's ratings, with what is known opened."""
    open_new_call(page, "Trips in the afternoon", circuit)
    stage(page, "Ratings")
    page.locator("summary", has_text="What is known").first.click()


def test_a_plate_is_typed_in_any_order_and_held_together(page: Page) -> None:
    """Two voltage columns, motors with horsepower and modes; what does not fit is named until it does."""
    open_sheet(page, "Condenser, non-fused disconnect")
    whole = page.get_by_role("status", name="The plate as a whole")
    page.get_by_label("compressor, LRA").fill("780")
    expect(whole).to_contain_text("Read again: compressor RLA or FLA, compressor LRA.")
    page.get_by_label("compressor, LRA").fill("78")
    page.get_by_label("MOCP").fill("42")
    expect(whole).to_contain_text("42 A is no standard size: read it again.")
    page.get_by_label("MOCP").fill("30")
    page.get_by_label("MCA").fill("71.2")
    expect(whole).to_contain_text("MCA 71.2 A; what is listed makes 16.9 A.")
    page.get_by_label("MCA").fill("17.2")
    expect(whole).to_contain_text("The plate’s numbers fit each other (3 compared).")
    page.get_by_role("button", name="Add a voltage column").click()
    page.get_by_role("button", name="Add a voltage column").click()
    for label, value in (("Heat at 208 V", "7.2"), ("Heat at 240 V", "7.2")):
        page.get_by_label(label).fill(value)
    expect(whole).to_contain_text("7.2 kW at 208 V make 9.59 kW at 240 V; the plate says 7.2.")
    page.get_by_label("Heat at 240 V").fill("9.6")
    expect(whole.get_by_text("the plate says 7.2")).to_have_count(0)
    page.get_by_role("button", name="Remove the column at 208 V").click()
    page.get_by_role("button", name="Remove the column at 240 V").click()
    page.get_by_label("SCCR").fill("5")
    page.get_by_label("Fault current available").fill("10")
    marks = page.get_by_role("region", name="Ratings, from the source to the load")
    expect(marks).to_contain_text("5 kA; 10 kA are available.")
    page.reload()
    page.locator("summary", has_text="What is known").first.click()
    expect(page.get_by_label("SCCR")).to_have_value("5")


def test_the_rest_of_a_sheet_is_judged_as_it_is_typed(page: Page) -> None:
    """A whip as grounding path, a plug, a mended lead, a motor by its horsepower; reminders and what nobody judges."""
    open_sheet(page, "Through-the-wall electric heat")
    marks = page.get_by_role("region", name="Ratings, from the source to the load")
    run = page.locator("fieldset", has=page.locator("legend", has_text=re.compile("^branch wires$")))
    pick(page, "Runs in", "flexible metal conduit", run)
    run.get_by_label("Flexible, altogether").fill("8")
    expect(marks).to_contain_text("8 ft of flexible conduit; 6 ft at most")
    page.get_by_role("button", name="It is plugged in").click()
    cord = page.locator("fieldset", has=page.locator("legend", has_text="cord and plug"))
    pick(page, "Plug", "6-15", cord)
    pick(page, "Receptacle", "7-20", cord)
    expect(marks).to_contain_text("A 6-15 plug does not belong in a 7-20 receptacle.")
    pick(page, "Receptacle", "6-20", cord)
    pick(page, "LCDI or AFCI in its cord", re.compile("^no$"), cord)
    expect(marks).to_contain_text("Its cord has neither LCDI nor AFCI.")
    page.get_by_role("button", name="Add a lead").click()
    lead = page.locator("fieldset", has=page.locator("legend", has_text="lead 1"))
    pick(page, "Crimp sleeve", "yellow", lead)
    pick(page, "Fork was trimmed", "yes", lead)
    lead.get_by_label("Strands", exact=False).first.fill("26")
    lead.get_by_label("Strands in the crimp").fill("24")
    expect(marks).to_contain_text("A yellow sleeve is for 12 to 10 AWG; the wire is 16 AWG.")
    expect(marks).to_contain_text("Its fork or ring was cut to fit")
    expect(marks).to_contain_text("24 of 26 strands are in it.")
    page.locator("summary", has_text="Look at these too").click()
    expect(page.get_by_text("GFCI for the outdoor unit")).to_be_visible()
    page.locator("summary", has_text="Not judged here").click()
    expect(page.get_by_text("NEC 430.53, 440.22(B)")).to_be_visible()


def test_circuits_are_reckoned_at_the_bench(page: Page) -> None:
    """Several units on a feeder, a tap, a connector: each from its line."""
    page.goto("/calculators")
    feeder = page.locator(".bench-line", has_text="Several units on one feeder")
    feeder.locator("summary").first.click()
    feeder.get_by_label("Largest motor of all").fill("24")
    expect(feeder).to_contain_text("Conductors for 60 A, device 70 A at most.")
    tap = page.locator(".bench-line", has_text="Tap from a feeder")
    tap.locator("summary").first.click()
    tap.get_by_label("Length of the tap").fill("30")
    expect(tap).to_contain_text("A tap is 25 ft long at most")
    nut = page.locator(".bench-line", has_text="Twist-on connector")
    nut.locator("summary").first.click()
    pick(page, "Color", "gray", nut)
    expect(nut).to_contain_text("A gray one usually does not hold that; its box decides.")

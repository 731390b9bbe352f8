"""A site's panels in the browser."""

import re
from io import BytesIO

import pytest
from playwright.sync_api import Page, expect
from pypdf import PdfReader
from tests.web.doing import open_new_call, pick, stage


@pytest.mark.at("desk", "phone")
def test_a_panel_is_mapped_judged_and_labelled(page: Page) -> None:
    """From a blank panel to its label sheet: a two-pole breaker on one leg is found and moved."""
    open_new_call(page, "Half its volts since the panel was changed")
    stage(page, "Call")
    page.get_by_role("link", name="Which breaker?").click()
    page.get_by_label("Name").first.fill("Breaker 6")
    page.get_by_role("button", name="Add the switch").click()
    pick(page, "Switched off", "Breaker 6")
    page.locator(".toggle-unit").get_by_text("died").first.click()
    page.get_by_role("button", name="Note it").click()
    page.get_by_role("link", name="Panel map and labels").click()
    form = page.get_by_role("form", name="New panel")
    pick(page, "Spaces", "12 spaces", form)
    form.get_by_role("button", name="Draw the panel").click()

    def put(space: int, sits: str, which: str = "not listed", amps: str = "20") -> None:
        page.get_by_role("button", name=re.compile(f"^Space {space},")).click()
        place = page.get_by_role("form", name=f"Space {space}")
        pick(page, "Which breaker", which, place)
        pick(page, "How it sits", sits, place)
        place.get_by_label("On its handle").fill(amps)
        place.get_by_role("button", name="Put it there").click()
        expect(page.get_by_role("button", name=re.compile(f"^Space {space}, L.: .*{amps} A"))).to_be_visible()

    put(6, "both halves", "Breaker 6", "30")
    told = page.get_by_role("list", name="Breakers of this panel")
    expect(told).to_contain_text("Both poles are on L1: there are no volts between them. Move Breaker 6 to 6 (L1) and")
    put(8, "upper half")
    put(10, "one pole, the whole")
    expect(told).to_contain_text("Move Breaker 6 to 4 (L2) and 6 (L1).")
    page.get_by_text("Volts between two spaces").click()
    for label, value in (("From space", "6"), ("To space", "8"), ("Meter shows", "0.3")):
        page.get_by_label(label).fill(value)
    page.get_by_role("button", name="Note the volts").click()
    expect(page.get_by_text("so they are on one leg, though their rows say L1 and L2")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("so they are on one leg")).to_have_count(0)
    put(4, "two poles: this space and the one below", "Breaker 6", "30")
    expect(told).to_contain_text("Spans L2, L1: 240 V between them.")
    sheet = page.request.get(page.get_by_role("link", name="Label sheet (PDF)").get_attribute("href") or "")
    text = "".join(one.extract_text() for one in PdfReader(BytesIO(sheet.body())).pages)
    assert "Main panel" in text
    assert "Condenser · 30 A" in text, "what was found by switching stands on it"

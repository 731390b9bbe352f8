"""Random acts on forms: after each, the page loaded anew shows what the server holds."""

import json
import random
import re

import pytest
from playwright.sync_api import Page, expect
from tests.web.doing import open_new_call, settled

FURNACE = "Electric furnace, two banks of 5 kW"
PAGES = ("Ratings", "Prove", "Repair", "Timing")
STATE = """() => [...document.querySelectorAll('main input, main textarea, main .ant-select')]
  .filter((e) => !e.closest('.ant-select') || e.matches('.ant-select'))
  .map((e) => [e.getAttribute('aria-label') || e.closest('label')?.firstChild?.textContent || e.placeholder || '',
    e.type === 'checkbox' || e.type === 'radio' ? e.checked : e.matches('.ant-select') ? e.innerText : e.value])"""


@pytest.mark.slow
@pytest.mark.timeout(1200)
@pytest.mark.at("desk")
@pytest.mark.parametrize(("seed", "count"), [(23, 40), pytest.param(22, 200, marks=pytest.mark.night)])
def test_after_any_act_a_page_loaded_anew_shows_the_same(page: Page, seed: int, count: int) -> None:
    """A random walk over the forms, the same acts in every run; the long one is for the night."""
    dice = random.Random(seed)
    open_new_call(page, "Weak heat", FURNACE)
    call = page.url.rsplit("/", 1)[1]
    acts = 0
    log: list[str] = []
    while acts < count:
        name = dice.choice(PAGES)
        go(page, call, name)
        for _ in range(4):
            before = page.evaluate(STATE)
            act = random_act(page, dice)
            log.append(f"{name}: {act}")
            page.wait_for_timeout(700)  # longer than a pause in typing: what is refused is heard of
            settled(page)
            shown = page.evaluate(STATE)
            # What the server refuses is not kept; what is timed is kept here, and asked about where it makes no sense.
            refused = name != "Timing" and page.get_by_role("alert").count() > 0
            go(page, call, name)
            expected = before if refused else shown
            after = state_that_is(page, expected)
            assert after == expected, json.dumps([log[-12:], difference(expected, after)], indent=1)
            acts += 1


def state_that_is(page: Page, expected: list[list[str]]) -> list[list[str]]:
    """What the page shows once it has heard of what was sent as the last page was left, or else in the end."""
    for _ in range(60):
        if (after := page.evaluate(STATE)) == expected:
            break
        page.wait_for_timeout(500)
    return list(after)


def go(page: Page, call: str, name: str) -> None:
    page.goto(f"/calls/{call}/{name.lower()}")
    expect(page.locator("main .page > section, main .page > .timing-form, main .page > ul").first).to_be_visible()
    settled(page)
    page.evaluate("document.querySelectorAll('details.sheet-form').forEach((one) => { one.open = true })")


def difference(expected: list[list[str]], after: list[list[str]]) -> object:
    return [(a, b) for a, b in zip(expected, after, strict=False) if a != b][:6] or (len(expected), len(after))


def random_act(page: Page, dice: random.Random) -> str:  # noqa: PLR0911 - one for each kind of act
    """One thing that a hand may do: type a number, tick, choose, add or remove a row."""
    kind = dice.choice(("type", "type", "type", "tick", "choose", "press"))
    if kind == "type":
        fields = page.locator("main input.num:enabled, main .num input:enabled").all()
        if not fields:
            return "nothing to type in"
        field = dice.choice(fields)
        number = f"{dice.randrange(1, 60)}.{dice.randrange(1, 10)}" if dice.random() < 0.9 else ""
        label = field.get_attribute("aria-label") or field.locator("xpath=ancestor::label").inner_text()
        field.fill(number)
        field.blur()
        return f"{label.strip()} = {number}"
    if kind == "tick":
        ticks = [tick for tick in page.locator("main").get_by_role("checkbox").all() if tick.is_enabled()]
        for tick in ticks and [dice.choice(ticks)]:
            tick.click()
        return "tick"
    if kind == "choose":
        lists = [
            one
            for one in page.locator("main .labelled .ant-select:not(.ant-select-disabled)").all()
            if one.is_visible()
        ]
        if not lists:
            return "nothing to choose"
        chosen = dice.choice(lists)
        chosen.click()
        options = page.locator(".ant-select-dropdown:visible .ant-select-item-option")
        expect(options.first).to_be_visible()
        option = options.nth(dice.randrange(options.count()))
        words = option.inner_text()
        option.click()
        return f"choose {words}"
    buttons = page.locator("main").get_by_role("button", name=re.compile(r"^(Add a|Remove)")).all()
    if not buttons:
        return "nothing to press"
    button = dice.choice(buttons)
    words = button.get_attribute("aria-label") or button.inner_text()
    button.click()
    return words

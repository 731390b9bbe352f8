"""Whole calls in the real browser: from an empty hand to the verdict."""

import re

import numpy as np
import pytest
from benchmarks.diagnosis.world import World
from playwright.sync_api import Page, Request, expect
from tests.web.doing import (
    by_hand,
    may_open_the_panel,
    meter,
    open_new_call,
    pick,
    record_now,
    send,
    stage,
    touch_point,
    verdict,
)

from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.model.answer import Diagnosis, NextTest
from zesty_copper.core.diagnosis.plan.inspection import HANDLE
from zesty_copper.core.faults.catalogue import faults_of
from zesty_copper.core.observations.kinds.ohms import OHM_LIMIT

MOST_TOUCHES = 12
"""From the list of calls to the first useful answer."""
COUNTING = """
const touches = () => Number(sessionStorage.getItem('touches') ?? 0)
addEventListener('pointerdown', () => sessionStorage.setItem('touches', 1 + touches()), true)
"""


def answer(page: Page) -> Diagnosis:
    """The answer that the page shows."""
    call = page.url.rsplit("/", 1)[1]
    return Diagnosis.model_validate(page.request.get(f"/api/calls/{call}").json()["diagnosis"])


def shown(value: float, unit: str) -> str:
    """A number as it is typed from the meter."""
    return "OL" if unit == "ohm" and value == OHM_LIMIT else f"{value:g}"


def take(page: Page, world: World, test: NextTest) -> None:
    """Read what the card asks, which stands set up, and enter it all as the meter shows it."""
    # What the page shows is this very card, set up.
    expect(page.get_by_role("region", name="Next test").locator("h2")).to_contain_text(test.words[0].split(" at ")[0])
    # Under a stop a hand sets it up: nothing is measured there unasked.
    if answer(page).stop is not None and test.measurements and not test.look:
        page.get_by_role("region", name="Next test").get_by_role("button", name="Set it up").click()
    expect(page.get_by_role("button", name="Set it up")).to_have_count(0)
    before = page.locator(".reading").count()
    words = {("run", 0): "still or out", ("run", 1): "running or in", ("run", 2): "hums or chatters"}
    entry = page.get_by_role("region", name="Reading to enter")
    card = page.get_by_role("region", name="Next test")
    for i, measurement in enumerate(test.measurements):
        value = world.read(measurement)
        if measurement.unit == "run":
            group = card.get_by_role("group", name="What is seen and heard").nth(i)
            group.get_by_role("button", name=words["run", round(value)]).click()
        elif len(test.measurements) == 1:
            entry.get_by_label("Number the meter shows").fill(shown(value, measurement.unit))
        else:
            entry.locator(".number-field input").nth(i).fill(shown(value, measurement.unit))
    if test.measurements[0].unit == "run":
        card.get_by_role("button", name="Record").click()
    else:
        record_now(page)
    stands_by = page.get_by_role("button", name="Yes, that is what it shows")
    expect(page.locator(".reading").nth(before).or_(stands_by)).to_be_visible()
    if stands_by.count():
        stands_by.click()
    expect(page.locator(".reading")).to_have_count(before + len(test.measurements))


@pytest.mark.parametrize(
    ("key", "truth", "complaint"),
    [
        ("condenser_fused", "resistive:clip_load:L2", "Hums and drops out"),
        ("rooftop_208", "open:blade:L3", "Fan runs, compressor tripped"),
        ("furnace_120", "open:tail:N", "Blower never starts"),
    ],
)
def test_a_whole_call_is_led_to_the_verdict(page: Page, key: str, truth: str, complaint: str) -> None:
    circuit = ready_made()[key]
    fault = next(one for one in faults_of(circuit) if one.key == truth)
    world = World(circuit, fault, np.random.default_rng(11))
    page.add_init_script(COUNTING)
    open_new_call(page, complaint, circuit.name)
    assert answer(page).next_test is not None
    touches = int(page.evaluate("sessionStorage.getItem('touches')"))
    assert touches <= MOST_TOUCHES, f"{touches} touches until the tool says what to do"
    may_open_the_panel(page)
    for _ in range(24):
        test = answer(page).next_test
        if test is None:
            break
        card = page.get_by_role("region", name="Next test")
        if test.look is not None:
            handle = test.look.sign == HANDLE
            marks = world.handles_off(test.look.zone) if handle else world.look_over(test.look.zone)
            place = next((p.words for p in test.look.places if (p.part, p.leg) in marks), None)
            elsewhere = card.get_by_text("Elsewhere …")
            if place and elsewhere.count():
                elsewhere.click()
            before = page.locator(".reading").count()
            card.get_by_role("button", name=place or test.look.nothing, exact=True).click()
            expect(page.locator(".reading")).to_have_count(before + 1)
            continue
        take(page, world, test)
    diagnosis = answer(page)
    assert fault.key in diagnosis.verdict.suspects, (fault.words, diagnosis.verdict.words)
    assert diagnosis.verdict.standing in ("sure", "inseparable")
    assert circuit.part(fault.part or "").name in verdict(page)


@pytest.mark.parametrize(
    ("equipment", "complaint", "volts"),
    [
        ("Condenser, fused pull-out", "Outdoor unit dead", ("0", "121", "121")),
        ("Electric furnace, two banks of 5 kW", "No heat", ("121", "121", "0")),
        ("Rooftop unit, 208 V three phase", "Hums, won’t start", ("208", "120", "120", "120", "120", "60")),
        ("5 kW heat strip", "Weak heat", ("208", "104", "104")),
    ],
)
@pytest.mark.at("desk", "phone")
def test_the_first_useful_answer_takes_few_touches(
    page: Page, equipment: str, complaint: str, volts: tuple[str, ...]
) -> None:
    """From the list: what is wrong, on what, the numbers of the first card, Record; and then what they mean."""
    page.add_init_script(COUNTING)
    page.goto("/")
    page.get_by_role("link", name="New call").click()
    page.get_by_role("group", name="Complaint").get_by_role("button", name=complaint).click()
    page.locator(".picture-button", has_text=equipment).click()
    fields = page.locator(".number-field input")
    expect(fields).to_have_count(len(volts))
    before = verdict(page)
    for i, number in enumerate(volts):
        expect(fields.nth(i)).to_be_focused()
        page.keyboard.type(number)
        if i + 1 < len(volts):
            page.keyboard.press("Enter")
    record_now(page)
    expect(page.locator(".reading").nth(len(volts))).to_be_visible()  # what was told stands there too
    assert verdict(page) != before
    touches = int(page.evaluate("sessionStorage.getItem('touches')"))
    assert touches + len(volts) <= MOST_TOUCHES, "each number counted as one touch"


@pytest.mark.at("desk", "phone")
def test_looks_lie_on_the_strip_and_are_taken_back(page: Page) -> None:
    open_new_call(page, "Trips now and then")
    meter(page, "Look at a part")
    page.get_by_role("button", name="Look at L2 at the fuse clip, load side").click()
    page.get_by_role("button", name="Melted or deformed").click()
    expect(page.locator(".seen")).to_have_attribute("aria-label", "L2 at the fuse clip, load side: melted or deformed")
    assert "fuse clip, load side" in verdict(page)
    assert "Found" not in verdict(page), "a look alone never convicts"
    stage(page, "Call")
    told = page.get_by_role("group", name="What was told of the equipment").get_by_role("button", name="Blows fuses")
    told.click()
    expect(told).to_have_attribute("aria-pressed", "true")
    told.click()
    expect(told).to_have_attribute("aria-pressed", "false")
    stage(page, "Find")
    expect(page.locator(".reading")).to_have_count(1)
    page.locator(".reading").click()
    page.get_by_role("button", name="Withdraw").click()
    expect(page.locator(".seen")).to_have_count(0)


def test_one_line_is_completed_read_back_and_recorded(page: Page) -> None:
    open_new_call(page, "Dead")
    line = page.get_by_label("One line")
    line.fill("whi")
    expect(page.get_by_role("button", name="whip", exact=True)).to_be_visible()
    line.press("Tab")
    expect(line).to_have_value("whip ")
    line.fill("whip L1-L2 222,6 off:contactor")
    expect(page.locator(".read-back")).to_contain_text("222.6 V, L1 to L2 at the contactor, line side")
    line.press("Enter")
    expect(page.locator(".reading")).to_contain_text("whip L1-L2 222.6V off:contactor")
    expect(line).to_have_value("")
    line.fill("roof L1 12")
    expect(page.locator(".quick-line")).to_contain_text("“roof” is no part or word that is known here")


def test_ohms_are_entered_as_the_meter_shows_them_and_only_where_it_is_dead(page: Page) -> None:
    open_new_call(page, "Trips at once")
    meter(page, "Ohms, where it is locked out")
    touch_point(page, "L1@whip")
    touch_point(page, "G@whip")
    pad = page.get_by_role("group", name="Number pad")
    pad.get_by_role("button", name="OL").click()
    record_now(page)
    expect(page.get_by_role("alert")).to_contain_text("only where it is dead")
    page.get_by_role("switch", name="Pull-out: in").click()
    record_now(page)
    expect(page.locator(".reading")).to_contain_text("OL")


def test_a_part_taken_out_is_read_on_its_own_leads_and_put_back(page: Page) -> None:
    open_new_call(page, "Trips")
    # When the card comes it moves what lies below it, an open menu too.
    expect(page.get_by_role("region", name="Next test")).to_contain_text("settles about")
    meter(page, "Ω: Ohms")
    by_hand(page, "compressor")
    own = page.get_by_role("group", name="Own leads of the compressor")
    own.get_by_role("button", name="L1").click()
    own.get_by_role("button", name="Frame").click()
    page.get_by_label("Number the meter shows").fill("OL")
    page.get_by_label("Number the meter shows").press("Enter")
    expect(page.locator(".reading")).to_contain_text("compressor taken out")
    page.reload()
    page.get_by_role("button", name="Compressor taken out: put back").click()
    expect(page.get_by_role("button", name="Compressor taken out: put back")).to_have_count(0)


def test_order_of_work_and_tools_are_kept(page: Page) -> None:
    open_new_call(page, "Dead")
    stage(page, "Call")
    page.get_by_label("From the source out").click()
    expect(page.get_by_label("From the source out")).to_be_checked()
    page.get_by_label("Eyes and ears").click()
    expect(page.get_by_label("Eyes and ears")).not_to_be_checked()
    stage(page, "Find")
    page.reload()
    expect(page.locator(".scope-line")).to_contain_text("from the source out")
    expect(page.get_by_role("region", name="Next test")).to_be_visible()


def test_why_not_tells_what_a_suspect_would_have_shown(page: Page) -> None:
    page.goto("/?search=hums+and+drops+out")
    page.locator(".call-row", has_text="hums and drops out").first.click()
    pick(page, "Why not", "Open on L1 through the fuse")
    expect(page.locator(".why-not")).to_contain_text("this suspect would show")
    expect(page.locator(".why-not .against").first).to_be_visible()


@pytest.mark.at("desk", "phone")
def test_a_quick_read_is_answered_as_it_is_typed_and_kept_with_one_touch(page: Page) -> None:
    page.goto("/")
    page.add_init_script(COUNTING)
    page.get_by_role("link", name="Calculators").click()
    # Whole: the list behind may still show calls that were named after a quick read.
    page.get_by_role("link", name="Quick read: what the volts at the unit can mean").click()
    for pair, volts in (("L1 to L2", "0.4"), ("L1 to ground", "121.3"), ("L2 to ground", "121")):
        page.get_by_label(pair).fill(volts)
    meaning = page.get_by_role("region", name="What it can mean")
    expect(meaning).to_contain_text("L1 is open or high resistance ahead of the unit")
    expect(meaning).to_contain_text("Both hots are on the same leg of the supply")
    expect(page.get_by_role("region", name="What decides")).to_be_visible()
    page.get_by_label("L2 to ground").fill("120.6")  # and at once, while the meaning of the number before still stands
    page.get_by_role("button", name="Keep as a call").click()
    expect(page.locator(".reading")).to_have_count(3)
    expect(page.locator(".reading", has_text="120.6 V")).to_be_visible()


def test_a_change_is_tried_in_the_model_and_taken_back(page: Page) -> None:
    page.goto("/?search=hums+and+drops+out")
    page.locator(".call-row", has_text="hums and drops out").first.click()
    stage(page, "Call")
    page.get_by_role("link", name="What if").click()
    # The call's own strip has the same points and stays until the page asked for has come.
    expect(page.get_by_role("region", name="Changes to try")).to_be_visible()
    touch_point(page, "L1@whip")
    touch_point(page, "L2@whip")
    page.get_by_role("button", name="Jumper between the two").click()
    effects = page.get_by_role("region", name="What it would do")
    expect(effects).to_contain_text("a short, and it would trip")
    page.get_by_role("button", name="Take back").click()
    expect(effects).to_have_count(0)


@pytest.mark.at("desk", "phone")
def test_switching_one_thing_after_the_other_makes_the_map(page: Page) -> None:
    open_new_call(page, "Which one is it")
    stage(page, "Call")
    page.get_by_role("link", name="Which breaker?").click()
    for name in ("Breaker 2", "Breaker 4"):
        page.get_by_label("Name").first.fill(name)
        page.get_by_role("button", name="Add the switch").click()
        expect(page.locator(".feeds-lists li", has_text=name)).to_be_visible()
    expect(page.get_by_role("region", name="Next toggle")).to_contain_text("Turn off Breaker")
    pick(page, "Switched off", "Breaker 4")
    page.locator(".toggle-unit").get_by_text("died").first.click()
    page.get_by_role("button", name="Note it").click()
    expect(page.locator(".feeds-map .found")).to_contain_text("Condenser: Breaker 4")
    page.get_by_label("At the source").fill("aluminium, black")
    page.get_by_label("At the unit").fill("copper, red")
    page.get_by_role("button", name="Add the ends").click()
    expect(page.get_by_text("a splice lies hidden")).to_be_visible()


def test_colours_are_chosen_and_kept(page: Page) -> None:
    page.goto("/you")
    page.get_by_role("button", name="Use dark colors").last.click()
    expect(page.locator("html")).to_have_attribute("data-theme", "dark")
    page.reload()
    expect(page.locator("html")).to_have_attribute("data-theme", "dark")
    expect(page.get_by_role("button", name="Use light colors").last).to_be_visible()


def test_help_shows_around_and_finds_a_word(page: Page) -> None:
    page.goto("/")
    page.get_by_role("link", name="Help").click()
    page.get_by_label("Look for a word").fill("ghost")
    expect(page.locator(".glossary dt")).to_have_text(["Floating", "LoZ"])
    page.get_by_role("link", name="Show me, in two minutes").click()
    tour = page.locator(".ant-tour")
    expect(tour).to_contain_text("What it thinks")
    tour.get_by_role("button", name="Next").click()
    expect(tour).to_contain_text("What to do next")
    page.keyboard.press("Escape")
    expect(tour).to_have_count(0)


def test_the_electricians_sheet_says_what_each_number_would_mean(page: Page) -> None:
    open_new_call(page, "Dead since the storm")
    line = page.get_by_label("One line")
    for text in (
        "line_lug L1-L2 88V off:contactor,disconnect",
        "line_lug L1-G 121V off:contactor,disconnect",
        "line_lug L2-G 33V off:contactor,disconnect",
        "line_lug L2-G 0.2V loz off:contactor,disconnect",
    ):
        before = page.locator(".reading").count()
        # A fast typist's Enter, before the line is read back: what is recorded is this line, not the one before.
        line.fill(text)
        line.press("Enter")
        expect(page.locator(".reading")).to_have_count(before + 1)
        expect(page.locator(".reading").last).to_contain_text(text.split()[2].removesuffix("V"))
    sheet = page.get_by_role("region", name="For the electrician")
    expect(sheet).to_be_visible()
    assert re.search(r"\d V", sheet.inner_text())
    assert "breaker" in sheet.inner_text().lower()


def test_two_windows_show_each_others_changes_and_neither_overwrites_the_other(page: Page) -> None:
    open_new_call(page, "Dead since the storm")
    other = page.context.new_page()
    other.goto(page.url)
    line = other.get_by_label("One line")
    line.fill("whip L1-L2 0.4V")
    line.press("Enter")
    expect(page.locator(".reading")).to_have_count(1)

    stage(page, "Call")
    page.get_by_role("link", name="Change the circuit").click()
    call = page.url.split("/calls/")[1].split("/")[0]
    theirs = page.request.get(f"/api/calls/{call}").json()["circuit"] | {"name": "Theirs"}
    pick_part = page.get_by_role("button", name=re.compile("^L1 L2 whip"))
    pick_part.click()
    page.get_by_label("Length, one way").fill("40")
    page.get_by_role("button", name="Change", exact=True).click()
    send(page.context, "PUT", f"/api/calls/{call}/circuit", theirs)
    page.get_by_role("button", name="Keep circuit").click()
    clash = page.get_by_role("alert")
    expect(clash).to_contain_text("Somebody changed the circuit meanwhile")
    clash.get_by_role("button", name="See theirs").click()
    expect(page.get_by_role("button", name=re.compile("whip .* 6 ft"))).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name=re.compile("whip .* 40 ft"))).to_be_visible()
    page.get_by_role("button", name="Keep circuit").click()
    expect(page.get_by_role("region", name="Next test")).to_be_visible()
    kept = page.request.get(f"/api/calls/{call}").json()["circuit"]
    assert next(part for part in kept["parts"] if part["id"] == "whip")["conductor"]["length_m"] == pytest.approx(
        12.19, abs=0.01
    )


@pytest.mark.at("phone")
@pytest.mark.kept_pages
def test_without_a_signal_the_plan_taken_along_goes_on(page: Page) -> None:
    """The first card's numbers, a supply that is gone, and what follows from them: all without the server."""
    page.goto("/")
    page.get_by_role("link", name="New call").click()
    page.get_by_role("group", name="Complaint").get_by_role("button", name="No heat").click()
    page.locator(".picture-button", has_text="5 kW heat strip").click()
    expect(page.locator(".number-field")).to_have_count(3)
    plan = f"/api/calls/{page.url.rsplit('/', 1)[1]}/plan"
    asked: list[Request] = []
    page.on("request", lambda request: asked.append(request) if request.url.endswith("/plan") else None)
    for _ in range(240):
        if page.request.get(plan).json()["is_done"]:
            break
        page.wait_for_timeout(500)
    # The page asks for it until it has it too; then it keeps it.
    while asked:
        asked.clear()
        page.wait_for_timeout(6000)
    page.context.set_offline(True)
    page.reload()
    fields = page.locator(".number-field input")
    for i in range(3):
        fields.nth(i).fill("0.2")
    record_now(page)
    answer = page.locator(".verdict.from-plan")
    expect(answer).to_contain_text("From the plan taken along")
    expect(answer).to_contain_text("off or tripped")
    expect(
        page.get_by_role("region", name="Next test").or_(page.get_by_role("region", name="Suspects")).first
    ).to_be_visible()
    page.context.set_offline(False)
    expect(page.locator(".reading")).to_have_count(4)
    expect(page.locator(".from-plan")).to_have_count(0)

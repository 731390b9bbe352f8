"""What is typed stays: through the next touch, a removed row, a slow answer, a reload, a refusal."""

import re

import pytest
from playwright.sync_api import APIResponse, Locator, Page, Route, expect
from tests.web.doing import open_new_call, record_now, send, settled, stage

FURNACE = "Electric furnace, two banks of 5 kW"


@pytest.mark.at("desk", "phone")
def test_numbers_of_a_proof_stay_whatever_is_touched_next(page: Page) -> None:
    open_new_call(page, "Weak heat", FURNACE)
    stage(page, "Prove")
    fields = page.locator(".proof-number input")
    expect(fields.first).to_be_visible()
    ticks = page.locator(".proof-row").get_by_role("checkbox")
    typed = {}
    for i in range(min(6, fields.count())):
        label = fields.nth(i).get_attribute("aria-label") or ""
        typed[label] = f"{20 + i}.5"
        fields.nth(i).fill(typed[label])
        ticks.nth(i % ticks.count()).click()  # leaves the field, and saves at the same moment
    settled(page)
    page.reload()
    for label, number in typed.items():
        expect(page.get_by_label(label, exact=True)).to_have_value(number)
    assert any(tick.is_checked() for tick in ticks.all())


@pytest.mark.at("desk")
def test_a_tick_is_not_lost_when_the_answer_to_the_number_before_it_moves_the_page(page: Page) -> None:
    open_new_call(page, "Weak heat", FURNACE)
    stage(page, "Prove")
    tick = page.locator(".proof-row").get_by_role("checkbox").last
    expect(tick).to_be_visible()
    settled(page)
    # What is sent waits until the finger is down, however long it took to get there.
    sent: list[Route] = []

    def hold(route: Route) -> None:
        if route.request.method == "PATCH":
            sent.append(route)
        else:
            route.continue_()

    page.route("**/api/calls/*/repair", hold)
    page.get_by_label(re.compile("once the call drops")).first.fill("60")
    tick.scroll_into_view_if_needed()
    before = tick.bounding_box()
    assert before
    page.mouse.move(before["x"] + 8, before["y"] + 8)
    page.mouse.down()  # leaves the field, which is kept and answered while the finger is still down
    while not sent:
        page.wait_for_timeout(100)
    with page.expect_response(lambda answer: answer.request.method == "PATCH"):
        for route in sent:
            route.continue_()
    page.unroute("**/api/calls/*/repair")
    page.wait_for_timeout(300)
    page.mouse.up()
    expect(tick).to_be_checked()
    after = tick.bounding_box()
    assert after
    assert after["y"] > before["y"] + 10
    settled(page)
    page.reload()
    expect(tick).to_be_checked()


@pytest.mark.at("desk")
def test_a_row_pressed_while_the_change_of_another_is_answered_opens(page: Page) -> None:
    open_new_call(page, "Weak heat", FURNACE)
    stage(page, "Call")
    page.get_by_role("link", name="Change the circuit").click()
    sent: list[Route] = []

    def hold(route: Route) -> None:
        sent.append(route)

    page.route("**/api/circuits/edit", hold)
    page.get_by_role("button", name=re.compile("^L1 sequencer 2")).click()
    page.get_by_role("button", name="Copy", exact=True).click()
    row = page.get_by_role("button", name=re.compile("^L1 limit 2"))
    row.scroll_into_view_if_needed()
    before = row.bounding_box()
    assert before
    while not sent:
        page.wait_for_timeout(100)
    answer = sent[0].fetch()
    page.mouse.move(before["x"] + 40, before["y"] + 8)
    page.mouse.down()
    with page.expect_response("**/api/circuits/edit"):
        sent[0].fulfill(response=answer)  # closes the editor above, so that the row moves up
    page.wait_for_timeout(300)
    page.mouse.up()
    expect(row).to_have_attribute("aria-expanded", "true")
    expect(page.get_by_role("button", name=re.compile("^L1 sequencer 3"))).to_be_visible()
    after = row.bounding_box()
    assert after
    assert after["y"] < before["y"] - 10


# What adds a row, a field that every such row has, the field to fill, and what is typed in the first and the second.
ROWS = {
    "motors": ("Add a motor", "RLA or FLA", "RLA or FLA", ("7.5", "17.1")),
    "columns": ("Add a voltage column", "MCA at", "MCA at", ("20.5", "31.5")),
    "leads": ("Add a lead", "Amps in it", "Amps in it", ("7.5", "9.5")),
    "terminals": ("Add a terminal", "Torque used", "Torque used", ("35", "20")),
    "splices": ("Add a splice", "Covered by", "Strands left in it", ("6", "3")),
    "boxes": ("Add a box", "Room", "Room", ("18.5", "30.5")),
}


def rows_with(page: Page, label: str) -> Locator:
    return page.locator(".sheet-form .plate-row, .sheet-form fieldset:not(.plate)", has=page.get_by_label(label))


def test_the_first_row_removed_leaves_the_others_as_they_are(page: Page) -> None:
    """Every list of the ratings sheet: what was typed in the second row stays with it, on the page and in the store."""
    open_new_call(page, "Weak heat", FURNACE)
    stage(page, "Ratings")
    page.get_by_text("What is known").click()
    left = {}
    for name, (add, has, label, (first, second)) in ROWS.items():
        rows = rows_with(page, has)
        before = rows.count()
        for number in (first, second):
            page.get_by_role("button", name=add, exact=True).click()
            rows.last.get_by_label(label).first.fill(number)
        expect(rows).to_have_count(before + 2)
        rows.nth(before).get_by_role("button", name=re.compile("^Remove")).click()
        expect(rows).to_have_count(before + 1)
        expect(rows.last.get_by_label(label).first, name).to_have_value(second)
        left[name] = (before, label, second)
    # Leaving before the pause in typing is over loses nothing.
    page.reload()
    settled(page)
    page.get_by_text("What is known").click()
    for name, (before, label, second) in left.items():
        rows = rows_with(page, ROWS[name][1])
        expect(rows).to_have_count(before + 1)
        expect(rows.last.get_by_label(label).first, name).to_have_value(second)


def test_the_first_row_removed_from_lists_of_notes_and_timing_leaves_the_others(page: Page) -> None:
    open_new_call(page, "Weak heat", FURNACE)
    stage(page, "Repair")
    for words in ("Marks on leads", "Test mode"):
        page.get_by_label("Setting, mark or old part").fill(words)
        page.get_by_role("button", name="Note it").click()
    page.get_by_role("checkbox", name="Test mode").click()
    page.get_by_role("button", name="Remove: Marks on leads").click()
    stage(page, "Hand over")
    # A pause in typing keeps it, and nothing else is touched.
    with page.expect_response(lambda answer: "New clip" in (answer.request.post_data or "")):
        page.get_by_role("textbox", name="What was done").fill("New clip")
    page.reload()
    expect(page.get_by_role("textbox", name="What was done")).to_have_value("New clip")
    for words in ("60 A pull-out", "Two fuses"):
        page.get_by_label("Another part").fill(words)
        page.get_by_role("button", name="Add", exact=True).click()
    page.locator(".order-list li", has_text="Two fuses").get_by_text("Ordered").click()
    page.get_by_role("button", name="Remove: 60 A pull-out").click()
    for what in ("New whip", "New disconnect"):
        for label, words in (
            ("What was advised", what),
            ("Declined by", "Mr. Poole"),
            ("What they were warned of", "It may burn"),
        ):
            page.get_by_label(label).fill(words)
        page.get_by_role("button", name="Keep it").click()
    page.get_by_role("button", name="Remove: New whip").click()
    settled(page)
    page.reload()
    expect(page.locator(".order-list li", has_text="Two fuses").get_by_role("radio", name="Ordered")).to_be_checked()
    expect(page.locator(".order-list li")).to_have_count(2)
    expect(page.locator(".order-list").last).to_contain_text("New disconnect")
    stage(page, "Repair")
    expect(page.get_by_role("checkbox", name="Test mode")).to_be_checked()
    expect(page.get_by_role("checkbox", name="Marks on leads")).to_have_count(0)
    stage(page, "Call")
    page.get_by_role("link", name="Timing").click()
    page.get_by_role("button", name="Add a step").click()
    page.get_by_label("From, step 3").fill("420")
    page.get_by_role("button", name="Remove step 2").click()
    expect(page.get_by_label("From, step 2")).to_have_value("420")


@pytest.mark.at("desk")
def test_what_another_hand_wrote_is_shown_and_never_overwritten_by_an_open_page(page: Page) -> None:
    open_new_call(page, "Weak heat", FURNACE)
    stage(page, "Hand over")
    words = page.get_by_role("textbox", name="What was done")
    with page.expect_response(lambda answer: "New clip" in (answer.request.post_data or "")):
        words.fill("New clip")
    other = page.context.new_page()
    other.goto(page.url)
    others_words = other.get_by_role("textbox", name="What was done")
    expect(others_words).to_have_value("New clip")
    others_words.fill("New clip and a new fuse")
    # Going away before the pause in typing is over keeps it too.
    with other.expect_request(lambda request: "new fuse" in (request.post_data or "")):
        other.get_by_role("link", name="Prove").first.click()
    settled(other)
    other.close()
    page.get_by_label("Another part").fill("Two fuses")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(words).to_have_value("New clip and a new fuse")
    # Longer than any pause in typing: what this page had shown before is not sent.
    page.wait_for_timeout(2000)
    settled(page)
    page.reload()
    expect(words).to_have_value("New clip and a new fuse")


# Every change is kept at once, and its answer comes ten seconds later.
SLOW_ANSWERS = """
  const send = window.fetch
  window.fetch = async (...asked) => {
    const answer = await send(...asked)
    const method = asked[0] instanceof Request ? asked[0].method : asked[1]?.method
    if (method === 'PATCH' || method === 'PUT') await new Promise((go) => setTimeout(go, 10000))
    return answer
  }
"""


@pytest.mark.at("desk")
def test_what_waits_for_the_answer_to_a_change_before_it_is_sent_when_the_page_is_left(page: Page) -> None:
    page.add_init_script(SLOW_ANSWERS)
    open_new_call(page, "Weak heat", FURNACE)
    call = page.url.rsplit("/", 1)[1]
    page.goto(f"/calls/{call}/prove")
    ticks = page.locator(".proof-row").get_by_role("checkbox")
    for i in range(3):
        ticks.nth(i).click()
        expect(ticks.nth(i)).to_be_checked()
    page.reload()
    for i in range(3):
        expect(ticks.nth(i)).to_be_checked()
    # Nor does anything of it hold up what is changed next.
    with page.expect_response(lambda answer: answer.request.method == "PATCH"):
        ticks.nth(3).click()
    page.goto(f"/calls/{call}/ratings")
    page.get_by_text("What is known").click()
    volts = page.get_by_label("Volts, lower")
    with page.expect_request(lambda request: request.method == "PUT"):
        volts.fill("208")
    volts.fill("197")
    page.reload()
    page.get_by_text("What is known").click()
    expect(volts).to_have_value("197")


# The device's clock is ahead by as much as the page was told last.
CLOCK_AHEAD = """{
  const Real = Date
  const ahead = Number(localStorage.getItem('ahead') ?? 0)
  globalThis.Date = class extends Real {
    constructor(...parts) { if (parts.length) super(...parts); else super(Real.now() + ahead) }
    static now() { return Real.now() + ahead }
  }
}"""


@pytest.mark.at("desk")
def test_pages_kept_before_the_clock_was_put_back_are_fetched_again(page: Page) -> None:
    page.add_init_script(CLOCK_AHEAD)
    open_new_call(page, "Weak heat", FURNACE)
    call = page.url.rsplit("/", 1)[1]
    page.evaluate("localStorage.setItem('ahead', 3600000)")
    page.goto(f"/calls/{call}/prove")
    field = page.get_by_label(re.compile("once the call drops"))
    expect(field).to_have_value("")
    settled(page)
    page.wait_for_timeout(1000)  # the page is put away on the device
    page.evaluate("localStorage.setItem('ahead', 0)")
    items = page.request.get(f"/api/calls/{call}/repair").json()["proof"]["items"]
    dropped = next(item["key"] for item in items if "once the call drops" in item["label"])
    change = {"path": ["proof", "numbers", dropped], "was": None, "now": 0.3}
    send(page.context, "PATCH", f"/api/calls/{call}/repair", {"changes": [change]})
    page.reload()
    expect(field).to_have_value("0.3")


# Every change is a second on its way before it arrives.
SLOW_SENDING = """
  const send = window.fetch
  window.fetch = async (...asked) => {
    const method = asked[0] instanceof Request ? asked[0].method : asked[1]?.method
    if (method === 'PATCH') await new Promise((go) => setTimeout(go, 1000))
    return send(...asked)
  }
"""


@pytest.mark.at("desk")
def test_a_sheet_that_is_opened_while_its_words_are_being_kept_waits_for_them(page: Page) -> None:
    page.add_init_script(SLOW_SENDING)
    open_new_call(page, "Weak heat", FURNACE)
    stage(page, "Hand over")
    order: list[str] = []
    page.context.on(
        "requestfinished", lambda request: order.append(request.method) if "repair" in request.url else None
    )
    page.context.on("request", lambda request: order.append("sheet") if "report?sheet" in request.url else None)
    page.get_by_role("textbox", name="What was done").fill("New clip")
    with page.context.expect_event("request", lambda request: "report?sheet" in request.url):
        page.get_by_role("link", name="Customer’s page").click()  # leaves the words, which are sent at this moment
    assert order.index("PATCH") < order.index("sheet")


@pytest.mark.at("desk", "phone")
def test_a_verdict_is_in_view_after_whatever_was_said_and_a_stop_stays_there(page: Page) -> None:
    open_new_call(page, "Dead", FURNACE)
    verdict = page.get_by_role("region", name="Verdict")

    def say_and_look(line: str) -> None:
        before = page.locator(".reading").count()
        page.get_by_label("One line").fill(line)
        page.get_by_label("One line").press("Enter")
        expect(page.locator(".reading")).to_have_count(before + 1)

    say_and_look("branch L1-L2 241V")
    expect(verdict).to_be_in_viewport()
    page.evaluate("window.scrollTo(0, document.body.scrollHeight)")
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".reading")).to_have_count(0)
    expect(verdict).to_be_in_viewport()
    # Line voltage on a control wire, which a low-impedance meter does not collapse.
    say_and_look("thermostat W-G 121V loz")
    stop = page.get_by_role("alert", name="Stop")
    expect(stop).to_be_in_viewport()
    expect(stop).to_be_focused()
    page.evaluate("window.scrollTo(0, document.body.scrollHeight)")
    expect(stop).not_to_be_in_viewport()
    pinned = page.get_by_role("button", name=re.compile("^Stop: "))
    expect(pinned).to_be_in_viewport()
    pinned.click()
    expect(stop).to_be_in_viewport()


LINES = [
    f"whip L1-L2 {volts}V off:contactor" for volts in (241, 240, 239, 242, 243, 238, 240.5, 241.5, 239.5, 242.5, 243.5)
]


def test_lines_typed_while_the_last_is_answered_all_arrive_in_their_order(page: Page) -> None:
    open_new_call(page, "Dead")
    line = page.get_by_label("One line")
    for text in LINES:
        line.fill(text)
        line.press("Enter")
    expect(page.locator(".reading")).to_have_count(len(LINES), timeout=60_000)
    said = page.locator(".reading .num").all_inner_texts()
    numbers = [re.search(r"L1-L2 ([\d.]+)V", row.inner_text()) for row in page.locator(".reading").all()]
    volts = [float(number.group(1)) for number in numbers if number]
    assert sorted(volts) == sorted(float(text.split()[2].removesuffix("V")) for text in LINES), said
    assert volts in ([float(text.split()[2].removesuffix("V")) for text in way] for way in (LINES, LINES[::-1]))


@pytest.mark.kept_pages
def test_a_line_without_a_signal_waits_unread_and_one_that_is_refused_holds_nothing_up(page: Page) -> None:
    open_new_call(page, "Dead")
    line = page.get_by_label("One line")
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    settled(page)
    page.context.set_offline(True)
    for text in ("whip L1-L2 241V", "quince L1 12", "whip L1-G 120.5V"):
        line.fill(text)
        line.press("Enter")
        expect(line).to_have_value("")
    unsent = page.get_by_role("region", name="Not sent yet")
    expect(unsent.get_by_text("not read yet")).to_have_count(3)
    page.context.set_offline(False)
    expect(page.locator(".reading")).to_have_count(2)
    expect(unsent.locator("li")).to_have_count(1)
    expect(unsent).to_contain_text("“quince” is no part or word that is known here")
    # Online too, what is said after it goes on.
    line.fill("whip L2-G 120.1V")
    line.press("Enter")
    expect(page.locator(".reading")).to_have_count(3)
    page.evaluate("window.scrollTo(0, 0)")
    page.get_by_role("link", name="1 entry needs your answer").click()
    expect(unsent).to_be_in_viewport()
    unsent.get_by_role("button", name="Change the line").click()
    expect(line).to_have_value("quince L1 12")
    expect(unsent).to_have_count(0)


def test_a_line_that_a_busy_server_turns_away_is_sent_again_and_asks_nothing(page: Page) -> None:
    open_new_call(page, "Dead")
    busy = {
        "code": "busy",
        "message": "Too much is asked for at once: try again in a moment.",
        "field": "",
        "details": {},
    }
    page.route("**/entry-lists*", lambda route: route.fulfill(status=503, json=busy), times=2)
    page.get_by_label("One line").fill("whip L1-L2 241V")
    page.get_by_label("One line").press("Enter")
    expect(page.locator(".reading")).to_have_count(1)
    expect(page.get_by_text("needs your answer")).to_have_count(0)


def test_what_is_typed_on_the_next_card_while_the_last_is_still_answered_stays(page: Page) -> None:
    """The readings are stored and seen in a look-again while their own answer is still on its way."""
    page.goto("/calls/new")
    page.get_by_role("group", name="Complaint").get_by_role("button", name="No heat").click()
    page.locator(".picture-button", has_text="5 kW heat strip").click()
    expect(page.locator(".number-field")).to_have_count(3)
    answers: list[tuple[Route, APIResponse]] = []
    page.route("**/entry-lists*", lambda route: answers.append((route, route.fetch())), times=1)
    numbers = page.get_by_role("region", name="Reading to enter").get_by_role("textbox")
    for i in range(3):
        numbers.nth(i).fill(("241", "120.4", "120.6")[i])
    record_now(page)
    expect(page.locator(".reading").first).to_be_visible()
    page.get_by_role("button", name="Set it up").click()
    numbers.first.fill("118.5")
    ((route, answer),) = answers
    route.fulfill(response=answer)
    expect(page.locator(".entry .accent-button:visible", has_text="Recording")).to_have_count(0)
    settled(page)
    expect(numbers.first).to_have_value("118.5")


@pytest.mark.at("desk", "phone")
def test_a_page_begins_at_its_top_and_is_found_again_where_it_was_left(page: Page) -> None:
    open_new_call(page, "Weak heat", FURNACE)
    page.evaluate("window.scrollTo(0, document.body.scrollHeight)")
    stage(page, "Prove")
    expect(page.locator(".proof-row").first).to_be_visible()
    assert page.evaluate("window.scrollY") == 0
    page.evaluate("window.scrollTo(0, 500)")
    stage(page, "Ratings")
    expect(page.locator(".rated-part").first).to_be_visible()
    assert page.evaluate("window.scrollY") == 0
    page.go_back()
    expect(page.locator(".proof-row").first).to_be_visible()
    expect(page.locator(".proof-summary")).not_to_be_in_viewport()

"""What may go wrong: strangers, the same id for something else, what comes late, and more at once than can be done."""

import asyncio
import socket
from collections.abc import Coroutine, Iterator
from concurrent.futures import ThreadPoolExecutor
from threading import Event
from time import sleep
from typing import Any
from uuid import UUID, uuid4

import httpx
import psycopg
import pytest
from fastapi import BackgroundTasks, FastAPI
from fastapi.testclient import TestClient
from sqlalchemy.orm import Session
from tests.api.test_api import Json, all_sites, entry, listed, new_call, reading, values
from tests.client import client_of

from zesty_copper.api.app import create_app
from zesty_copper.api.gate import arrival
from zesty_copper.api.gate.afterwards import do_afterwards
from zesty_copper.api.gate.csrf import CSRF_COOKIE, CSRF_HEADER
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model.job import Job, Scope
from zesty_copper.core.diagnosis.predict.compiled import release
from zesty_copper.core.errors import Busy, Conflict, Gone
from zesty_copper.core.patience import check_patience
from zesty_copper.files.job_file import read_job, write_job
from zesty_copper.service.at_work import AtWork
from zesty_copper.store.calls import queries
from zesty_copper.store.database import connect
from zesty_copper.store.tables import CallRow


def refused(answer: httpx.Response, status: int, code: str) -> Json:
    """The problem of an answer that must be one."""
    assert answer.status_code == status, answer.text
    problem: Json = answer.json()
    assert problem.keys() == {"code", "message", "field", "details"}
    assert problem["code"] == code
    return problem


def alone(work: Coroutine[Any, Any, None]) -> None:
    """Run something on a loop of its own: in this thread a browser's may be running."""
    with ThreadPoolExecutor(1) as thread:
        thread.submit(asyncio.run, work).result()


def test_another_website_can_neither_read_nor_write(api: httpx.Client, served: str) -> None:
    person = {"id": str(uuid4()), "name": f"Stranger {uuid4().hex[:6]}"}
    refused(api.get("/api/calls", headers={"host": "harbour.example"}), 400, "unknown_host")
    refused(api.get("/", headers={"host": "harbour.example:80"}), 400, "unknown_host")
    for headers in ({"origin": "http://harbour.example"}, {"origin": "null"}, {"sec-fetch-site": "cross-site"}):
        refused(api.post("/api/people", json=person, headers=headers), 403, "other_origin")
    assert person["name"] not in {one["name"] for one in api.get("/api/people").json()}
    assert api.post("/api/people", json=person, headers={"origin": served}).status_code == 201
    assert api.get("/api/calls", headers={"host": "localhost:1"}).status_code == 200


def test_every_answer_says_what_a_browser_may_do_with_it(api: httpx.Client) -> None:
    for address in ("/", "/api/calls", "/api/nothing-here"):
        headers = api.get(address).headers
        policy = dict(rule.strip().split(" ", 1) for rule in headers["content-security-policy"].split(";"))
        assert policy["script-src"] == "'self'"
        assert policy["frame-ancestors"] == "'none'"
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["x-request-id"]
    assert api.get("/api/calls").headers["cache-control"] == "no-store"
    refused(api.get("/api/nothing-here"), 404, "not_found")
    wrong = api.put("/api/people")
    refused(wrong, 405, "not_allowed")
    assert wrong.headers["allow"] == "GET, POST"
    assert api.get("/healthz").json() == {"status": "alive"}


@pytest.mark.parametrize("change", [{"complaint": "Something else"}, {"starts_at": "2026-03-02T08:00:00+01:00"}])
def test_a_call_under_the_same_id_is_another_call(api: httpx.Client, change: Json) -> None:
    stored = api.get(f"/api/calls/{new_call(api)}").json()["call"]
    site = next(one for one in all_sites(api) if one["id"] == stored["site_id"])
    told = {
        "id": stored["id"],
        "technician_id": stored["technician"]["id"],
        "complaint": stored["complaint"],
        "starts_at": stored["starts_at"],
        "equipment_id": site["equipment"][0]["id"],
    }
    assert api.post("/api/calls", json=told).status_code == 201, "the same call sent again"
    refused(api.post("/api/calls", json=told | change), 409, "conflict")
    job = write_job(Job(circuit=ready_made()["heat_strip"], readings=()))
    api.post(f"/api/calls/{stored['id']}/entries", json=entry(reading(240.0)))
    refused(api.post("/api/imported-calls", json={"call": told | change, "job": job}), 409, "conflict")
    assert api.get(f"/api/calls/{stored['id']}").json()["call"]["complaint"] == stored["complaint"]


def test_what_is_stored_under_an_id_stays_what_it_is(api: httpx.Client) -> None:
    person = {"id": str(uuid4()), "name": f"Wren {uuid4().hex[:6]}"}
    site = {"id": str(uuid4()), "name": "Customs Shed"}
    item = {"id": str(uuid4()), "name": "Heater", "circuit": ready_made()["heat_strip"].model_dump(mode="json")}
    for address, told in (
        ("/api/people", person),
        ("/api/sites", site),
        (f"/api/sites/{site['id']}/equipment", item),
    ):
        for _ in range(2):
            assert api.post(address, json=told).status_code == 201
        refused(api.post(address, json=told | {"name": f"Other {uuid4().hex[:6]}"}), 409, "conflict")
    call = f"/api/calls/{new_call(api)}"
    added = entry(reading(240.0))
    api.post(f"{call}/entries", json=added)
    refused(api.post(f"{call}/entries", json=added | {"reading": added["reading"] | {"value": 24.0}}), 409, "conflict")
    refused(api.post(f"/api/calls/{new_call(api)}/entries", json=added), 409, "conflict")
    assert values(api.get(call).json()) == [240.0]


def test_what_was_withdrawn_is_not_brought_back_by_a_late_correction(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api)}"
    told = reading(24.0)
    shown = api.post(f"{call}/entries", json=entry(told)).json()["readings"][0]
    stamp = api.get(f"{call}/stamp").json()
    withdrawal = entry(None, "withdraw", told["id"], follows=shown["entry_id"])
    assert api.post(f"{call}/entries", json=withdrawal).status_code == 200
    assert api.get(f"{call}/stamp").json() != stamp, "other windows see that something changed"
    late = entry(told | {"value": 240.0}, "correct", follows=shown["entry_id"])
    refused(api.post(f"{call}/entries", json=late), 409, "conflict")
    assert values(api.get(call).json()) == []
    undone = entry(told, "correct", follows=withdrawal["id"])
    assert values(api.post(f"{call}/entries", json=undone).json()) == [24.0]


def test_a_late_change_of_scope_or_circuit_says_what_is_there_by_now(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api)}"
    before = api.get(call).json()
    mine = before["circuit"] | {"name": "Mine"}
    theirs = before["circuit"] | {"name": "Theirs"}
    seen = {"seen": before["versions"]["circuit"]}
    assert api.put(f"{call}/circuit", params=seen, json=theirs).status_code == 200
    problem = refused(api.put(f"{call}/circuit", params=seen, json=mine), 409, "conflict")
    assert problem["details"]["now"]["name"] == "Theirs"
    assert api.put(f"{call}/circuit", json=mine).json()["circuit"]["name"] == "Mine"
    seen = {"seen": before["versions"]["scope"]}
    assert api.put(f"{call}/scope", params=seen, json={"way": "source_out"}).status_code == 200
    problem = refused(api.put(f"{call}/scope", params=seen, json={"way": "unit_back"}), 409, "conflict")
    assert problem["details"]["now"]["way"] == "source_out"
    assert api.get(call).json()["call"]["scope"]["way"] == "source_out"


def test_a_sheet_and_sums_that_are_kept_at_once_are_all_kept(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api)}"
    supply = api.get(f"{call}/ratings").json()["supplies"][0]
    values = {"amps": 5, "volts": 350, "marked": 40}
    sums = [{"id": str(uuid4()), "tool": "capacitor", "values": values} for _ in range(8)]

    def keep(number: int) -> int:
        if number % 2:
            sheet = supply["sheet"] | {"plate": supply["sheet"]["plate"] | {"mocp_amps": 20.0 + number}}
            return api.put(f"{call}/ratings/{supply['source']}", json=sheet).status_code
        return api.post(f"{call}/kept", json=sums[number // 2]).status_code

    with ThreadPoolExecutor(8) as pool:
        assert set(pool.map(keep, range(16))) == {200, 201}
    found = api.get(f"{call}/ratings").json()
    assert {one["kept"]["id"] for one in found["kept"]} == {one["id"] for one in sums}
    assert found["supplies"][0]["entered"]


def test_what_was_loaded_before_the_lock_is_not_believed(api: httpx.Client, database_url: str) -> None:
    call_id = UUID(new_call(api))
    seen = api.get(f"/api/calls/{call_id}").json()["versions"]["scope"]
    engine = connect(database_url)
    with Session(engine) as session:
        call_row = session.get(CallRow, call_id)
        assert api.put(f"/api/calls/{call_id}/scope", json={"way": "source_out"}).status_code == 200
        assert call_row is not None
        with pytest.raises(Conflict):
            queries.set_scope(session, call_id, Scope(), seen)
    engine.dispose()


def test_calls_are_found_by_words_and_come_page_by_page(api: httpx.Client) -> None:
    mark = f"Pier {uuid4().hex[:8]}"
    ids = []
    for day in ("03", "01", "02"):
        call = {"id": str(uuid4()), "technician_id": api.get("/api/people").json()[0]["id"]}
        equipment = {"equipment_id": str(uuid4()), "equipment_name": "Unit 100%", "circuit": "heat_strip"}
        place = {"site_id": str(uuid4()), "site_name": mark}
        call |= {"complaint": "Cold", "starts_at": f"2026-03-{day}T08:00:00Z", "new_equipment": equipment | place}
        assert api.post("/api/calls", json=call).status_code == 201
        ids.append(call["id"])
    latest_first = [ids[0], ids[2], ids[1]]
    assert [one["id"] for one in listed(api, search=mark, most=2)] == latest_first
    assert [one["id"] for one in listed(api, search=f"cold {mark.upper()} 100%")] == latest_first
    assert listed(api, search=f"{mark} 1000%") == []
    at_branch = reading(1.0, measurement={"place": {"kind": "between", "a": "L1@branch", "b": "G"}})
    api.post(f"/api/calls/{ids[0]}/entries", json=entry(at_branch))
    assert [one["readings"] for one in listed(api, search=mark)] == [1, 0, 0]


@pytest.mark.parametrize(
    "change",
    [
        {"complaint": "Dead\u0000"},
        {"starts_at": "0001-01-01T00:00:00+14:00"},
        {"starts_at": "9999-12-31T23:59:59-14:00"},
    ],
)
def test_what_cannot_be_stored_is_refused(api: httpx.Client, change: Json) -> None:
    equipment = {"equipment_id": str(uuid4()), "equipment_name": "Unit", "circuit": "heat_strip"}
    told: dict[str, Any] = {"id": str(uuid4()), "technician_id": api.get("/api/people").json()[0]["id"]}
    told |= {"complaint": "Cold", "starts_at": "2026-03-01T08:00:00Z"}
    told |= {"new_equipment": equipment | {"site_id": str(uuid4()), "site_name": "Shed"}}
    refused(api.post("/api/calls", json=told | change), 422, "bad_input")
    assert api.get(f"/api/calls/{told['id']}").status_code == 404


def test_a_body_that_stops_arriving_is_not_waited_for(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(arrival, "BODY_SECONDS", 0.1)
    sent: list[Any] = []

    async def half() -> Any:
        if not sent:
            sent.append("half")
            return {"type": "http.request", "body": b'{"id":', "more_body": True}
        await asyncio.sleep(60)
        raise AssertionError("it is not waited for so long")

    async def send(message: Any) -> None:
        sent.append(message)

    scope = {"type": "http", "method": "POST", "path": "/api/people", "headers": []}
    alone(arrival.Arrival(create_app(None), is_signed_in=lambda _: True)(scope, half, send))
    assert sent[1]["status"] == 408


def test_who_is_not_signed_in_sends_no_body(served: str, api: httpx.Client) -> None:
    with client_of(served, None) as stranger:
        headers = stranger.build_request("POST", "/api/imported-calls", headers={"content-length": "79000000"}).headers
        headers[CSRF_HEADER] = stranger.cookies[CSRF_COOKIE]
    host, _, port = served.removeprefix("http://").partition(":")
    with socket.create_connection((host, int(port)), timeout=30) as connection:
        head = "".join(f"{name}: {value}\r\n" for name, value in headers.items())
        connection.sendall(f"POST /api/imported-calls HTTP/1.1\r\n{head}\r\n".encode() + b" " * 30_000)
        # Answered after these few of its 79 MB.
        assert b" 401 " in connection.recv(4096).splitlines()[0]
    # Who is signed in may: a body of the same size is read, and found to be no call.
    assert api.post("/api/imported-calls", content=b" " * 2_000_000).status_code == 422


def test_what_fails_after_an_answer_ends_nothing_else(caplog: pytest.LogCaptureFixture) -> None:
    app = FastAPI()
    done: list[str] = []

    @app.get("/")
    def answer(later: BackgroundTasks) -> str:
        do_afterwards(later, done.append, "before")
        do_afterwards(later, int, "no number")
        do_afterwards(later, done.append, "after")
        return "answered"

    with TestClient(app) as client:
        assert [client.get("/").json() for _ in range(2)] == ["answered"] * 2
    assert done == ["before", "after"] * 2
    assert "what was done after an answer failed" in caplog.text


@pytest.mark.parametrize(
    "change",
    [{"rated_volts": 1e-300}, {"rated_amps": 1e-9}, {"rated_volts": 1e300}, {"power_factor": 1e-12}],
    ids=str,
)
def test_a_circuit_of_numbers_that_nothing_has_is_neither_shown_nor_kept(api: httpx.Client, change: Json) -> None:
    call_id = new_call(api)
    circuit = api.get(f"/api/calls/{call_id}").json()["circuit"]
    parts = [part | {"load": part["load"] | change} if part.get("load") else part for part in circuit["parts"]]
    refused(api.put(f"/api/calls/{call_id}/circuit", json=circuit | {"parts": parts}), 422, "bad_input")
    assert api.get(f"/api/calls/{call_id}").json()["circuit"] == circuit


ENDS = {
    "rated_volts": (1, 1000), "rated_amps": (0.001, 1000), "power_factor": (0.05, 1), "length_m": (0.01, 500),
    "rating_amps": (0.1, 1000), "primary_volts": (1, 1000), "secondary_volts": (1, 600), "volt_amps": (0.1, 5000),
}  # fmt: skip


@pytest.mark.parametrize("field", ENDS)
def test_a_circuit_at_both_ends_of_what_is_allowed_is_shown_on_every_page_or_refused(
    api: httpx.Client, field: str
) -> None:
    """Magnitudes as far as they go, everywhere at once: what is kept can be shown, and nothing ends in an error."""

    def at(node: Any, value: float) -> Any:
        if isinstance(node, dict):
            return {key: value if key == field and was is not None else at(was, value) for key, was in node.items()}
        return [at(one, value) for one in node] if isinstance(node, list) else node

    for value in ENDS[field]:
        call_id = new_call(api, "rooftop_208")
        call = f"/api/calls/{call_id}"
        put = api.put(f"{call}/circuit", json=at(api.get(call).json()["circuit"], value))
        assert put.status_code in (200, 422), put.text
        for page in ("", "/ratings", "/repair", "/report?sheet=all&zone=UTC", "/course"):
            assert api.get(f"{call}{page}").status_code == 200, (value, page)


def test_what_a_log_holds_never_ends_in_an_error(api: httpx.Client) -> None:
    head = "time,amps\n0," + "9" * 140_000
    address = f"/api/calls/{new_call(api)}/recognized-logs"
    refused(api.post(address, json={"head": head}), 422, "bad_input")


@pytest.fixture
def held() -> Iterator[tuple[AtWork, Event]]:
    """One place that is taken and one more waiting, until it is let go."""
    at_work, let_go, taken = AtWork(at_once=1, waiting=1, seconds=60), Event(), Event()

    def work() -> None:
        with at_work.place():
            taken.set()
            let_go.wait(30)

    with ThreadPoolExecutor(2) as pool:
        done = [pool.submit(work)]
        assert taken.wait(10)
        done.append(pool.submit(work))
        while at_work._let_in.acquire(blocking=False):  # until the second has come to wait
            at_work._let_in.release()
        yield at_work, let_go
        let_go.set()
        for one in done:
            one.result(30)


def test_more_than_can_wait_is_sent_away_and_comes_in_later(held: tuple[AtWork, Event]) -> None:
    at_work, let_go = held
    with at_work.free_place() as free:
        assert not free
    with pytest.raises(Busy), at_work.place():
        pass
    let_go.set()


def test_who_goes_away_is_not_worked_for() -> None:
    """Whoever waits for a place, and whoever is at work, stops between two steps."""
    at_work, sent = AtWork(at_once=1, waiting=1, seconds=60), []

    def work() -> None:
        with at_work.place():
            while True:
                check_patience()
                sleep(0.01)

    async def run() -> None:
        begun, arrived = asyncio.Event(), [{"type": "http.request", "body": b"{}", "more_body": False}]

        async def app(_: Any, receive: Any, send: Any) -> None:
            assert (await receive())["body"] == b"{}"
            both = [asyncio.to_thread(work), asyncio.to_thread(work)]
            begun.set()
            ended = await asyncio.gather(*both, return_exceptions=True)
            assert [type(one) for one in ended] == [Gone, Gone]
            await send({"type": "http.response.body", "body": b""})

        async def receive() -> Any:
            if arrived:
                return arrived.pop()
            await begun.wait()
            await asyncio.sleep(0.3)
            return {"type": "http.disconnect"}

        async def send(message: Any) -> None:
            sent.append(message)

        scope = {"type": "http", "method": "POST", "path": "/"}
        await asyncio.wait_for(arrival.Arrival(app, is_signed_in=lambda _: True)(scope, receive, send), 30)

    alone(run())
    assert len(sent) == 1


def test_what_takes_too_long_is_given_up_and_leaves_nothing_half_done() -> None:
    job = Job(circuit=ready_made()["heat_strip"])
    release()
    with pytest.raises(Busy, match="took too long"), AtWork(at_once=1, waiting=0, seconds=-1).place():
        diagnose(job)
    with AtWork(at_once=1, waiting=0, seconds=60).place():
        again = diagnose(job)
    release()
    assert again == diagnose(job)


def test_what_is_no_longer_allowed_takes_nothing_else_down_and_can_be_taken_out(
    api: httpx.Client, database_url: str
) -> None:
    call_id = new_call(api)
    call = f"/api/calls/{call_id}"
    api.post(f"{call}/entries", json=entry(reading(240.0)))
    listed_before = next(one for one in listed(api) if one["id"] == call_id)
    with psycopg.connect(database_url) as connection:
        spoilt = "jsonb_set(circuit, '{switches,0,coil}', '\"whip\"')"
        connection.execute(f"update call set circuit = {spoilt} where id = %s", (call_id,))
        stored = connection.execute("select circuit from call where id = %s", (call_id,)).fetchone()
        connection.execute(
            f"update equipment set circuit = {spoilt} where id = (select equipment_id from call where id = %s)",
            (call_id,),
        )
    for address in (call, f"{call}/ratings"):
        problem = refused(api.get(address), 409, "unreadable")
        assert "which is no coil" in problem["message"]
    assert next(one for one in listed(api) if one["id"] == call_id) == listed_before
    assert listed_before["site_id"] in {site["id"] for site in all_sites(api)}
    out = api.get(f"{call}/job").json()
    assert stored is not None
    assert out["circuit"] == stored[0]
    assert [one["reading"]["value"] for one in out["entries"]] == [240.0]
    mended = api.get(f"/api/calls/{new_call(api)}").json()["circuit"]
    assert values(api.put(f"{call}/circuit", json=mended).json()) == [240.0]


def test_one_reading_or_sheet_that_is_no_longer_allowed_leaves_the_rest(api: httpx.Client, database_url: str) -> None:
    call_id = new_call(api)
    call = f"/api/calls/{call_id}"
    odd = reading(240.0)
    api.post(f"{call}/entries", json=entry(odd))
    api.post(
        f"{call}/entries",
        json=entry(reading(120.0, measurement={"place": {"kind": "between", "a": "L1@whip", "b": "G"}})),
    )
    sheet = api.get(f"{call}/ratings").json()["supplies"][0]["sheet"]
    api.put(f"{call}/ratings/supply", json=sheet)
    with psycopg.connect(database_url) as connection:
        connection.execute(
            'update entry set reading = reading || \'{"unit": "furlong"}\' where reading_id = %s', (odd["id"],)
        )
        spoilt = "jsonb_set(ratings, '{sheets,supply,edition}', '\"1897\"')"
        connection.execute(f"update call set ratings = {spoilt} where id = %s", (call_id,))
    page = api.get(call).json()
    assert values(page) == [120.0]
    assert [one["reading_id"] for one in page["unread"]] == [odd["id"]]
    refused(api.get(f"{call}/ratings"), 409, "unreadable")
    assert "furlong" in api.get(f"{call}/job").text, "it goes out as it is stored"
    withdrawal = entry(None, "withdraw", odd["id"], follows=page["unread"][0]["entry_id"])
    assert api.post(f"{call}/entries", json=withdrawal).json()["unread"] == []
    assert api.put(f"{call}/ratings/supply", json=sheet).json()["supplies"][0]["entered"]
    assert read_job(api.get(f"{call}/job").content).readings[0].value == 120.0

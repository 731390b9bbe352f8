"""Who gets in where: every route as nobody and in every role, and what each role may not do within a route."""

import re
from collections.abc import Iterator
from contextlib import ExitStack
from typing import Any
from uuid import uuid4

import httpx
import psycopg
import pytest
from tests.api.test_api import Json, entry, listed, new_call, reading
from tests.api.test_robust import refused
from tests.client import LEAD, client_of
from tests.conftest import Databases, application

from zesty_copper.api.app import create_app

LEADS, TECHNICIAN, ELECTRICIAN, READER = LEAD, "Ines Quarrell", "Jory Penhale", "Wyn Carrow"
ALL = {LEADS, TECHNICIAN, ELECTRICIAN, READER}
SEEN, CHANGED = ALL, ALL - {READER}
OPENED = {LEADS, TECHNICIAN}
LED = {LEADS}
EVERYBODY = ALL | {None}
"""Nobody is there too."""
LET_IN: dict[str, set[Any]] = {
    "GET /healthz": EVERYBODY,
    "GET /readyz": EVERYBODY,
    "GET /api/session": EVERYBODY,
    "POST /api/session": EVERYBODY,
    "POST /api/session/demo": EVERYBODY,
    "DELETE /api/session": EVERYBODY,
    "POST /api/link": EVERYBODY,
    "POST /api/link/use": EVERYBODY,
    "PUT /api/password": ALL,
    "GET /api/people": ALL,
    "POST /api/people": LED,
    "PUT /api/people/{person_id}": LED,
    "POST /api/people/{person_id}/link": LED,
    "GET /api/audit": LED,
    "GET /api/sites": ALL - {ELECTRICIAN},
    "POST /api/sites": OPENED,
    "POST /api/sites/{site_id}/equipment": OPENED,
    "GET /api/equipment/{equipment_id}": ALL - {ELECTRICIAN},
    "GET /api/sites/{site_id}/feeds": SEEN,
    "PUT /api/sites/{site_id}/feeds": CHANGED,
    "GET /api/sites/{site_id}/panels/{panel_id}/label": SEEN,
    "GET /api/calls": ALL,
    "POST /api/calls": OPENED,
    "POST /api/imported-calls": OPENED,
    "GET /api/calls/{call_id}": SEEN,
    "GET /api/calls/{call_id}/stamp": SEEN,
    "GET /api/calls/{call_id}/course": SEEN,
    "GET /api/calls/{call_id}/plan": SEEN,
    "GET /api/calls/{call_id}/history": SEEN,
    "GET /api/calls/{call_id}/job": SEEN,
    "GET /api/calls/{call_id}/ratings": SEEN,
    "POST /api/calls/{call_id}/heater-match": SEEN,
    "GET /api/calls/{call_id}/repair": SEEN,
    "PATCH /api/calls/{call_id}/repair": CHANGED,
    "GET /api/calls/{call_id}/report": SEEN,
    "GET /api/calls/{call_id}/returns": SEEN,
    "GET /api/calls/{call_id}/readings": SEEN,
    "GET /api/calls/{call_id}/photos": SEEN,
    "PUT /api/calls/{call_id}/photos/{photo_id}": CHANGED,
    "GET /api/calls/{call_id}/photos/{photo_id}": SEEN,
    "DELETE /api/calls/{call_id}/photos/{photo_id}": CHANGED,
    "GET /api/calls/{call_id}/load-tests": SEEN,
    "POST /api/calls/{call_id}/recognized-logs": SEEN,
    "PUT /api/calls/{call_id}/load-tests/{test_id}/pieces/{place}": CHANGED,
    "POST /api/calls/{call_id}/file-load-tests": CHANGED,
    "POST /api/calls/{call_id}/typed-load-tests": CHANGED,
    "POST /api/calls/{call_id}/clamp-load-tests": CHANGED,
    "POST /api/calls/{call_id}/load-tests/{test_id}/stopped": CHANGED,
    "DELETE /api/calls/{call_id}/load-tests/{test_id}": CHANGED,
    "GET /api/calls/{call_id}/load-tests/{test_id}/chart": SEEN,
    "GET /api/calls/{call_id}/load-tests/{test_id}/csv": SEEN,
    "GET /api/calls/{call_id}/suspects/{key}": SEEN,
    "POST /api/calls/{call_id}/what-if": SEEN,
    "POST /api/calls/{call_id}/timing": SEEN,
    "POST /api/calls/{call_id}/line": SEEN,
    "POST /api/calls/{call_id}/entries": CHANGED,
    "POST /api/calls/{call_id}/entry-lists": CHANGED,
    "PUT /api/calls/{call_id}/circuit": CHANGED,
    "PUT /api/calls/{call_id}/scope": CHANGED,
    "PATCH /api/calls/{call_id}": OPENED,
    "DELETE /api/calls/{call_id}": OPENED,
    "POST /api/calls/{call_id}/restored": OPENED,
    "GET /api/sites/{site_id}": SEEN,
    "PATCH /api/sites/{site_id}": OPENED,
    "PATCH /api/equipment/{equipment_id}": OPENED,
    "PUT /api/calls/{call_id}/people": OPENED,
    "PUT /api/calls/{call_id}/ratings/{source}": CHANGED,
    "DELETE /api/calls/{call_id}/ratings/{source}": CHANGED,
    "POST /api/calls/{call_id}/kept": CHANGED,
    "DELETE /api/calls/{call_id}/kept/{kept_id}": CHANGED,
    "GET /api/board": ALL,
    "GET /api/equipment/{equipment_id}/trends": ALL - {ELECTRICIAN},
    "GET /api/ready-made-circuits": ALL,
    "GET /api/part-kinds": ALL,
    "GET /api/signs": ALL,
    "GET /api/complaints": ALL,
    "GET /api/systems": ALL,
    "GET /api/bench": ALL,
    "GET /api/tables": ALL,
    "POST /api/bench/{key}": ALL,
    "POST /api/circuits/edit": ALL,
    "POST /api/quick-read": ALL,
}
"""Who is let in at each route, on a call that is theirs or was shared with them."""


@pytest.fixture(scope="module")
def apart(databases: Databases) -> Iterator[str]:
    """An application of its own: people are changed here."""
    with application(databases.with_demo()) as address:
        yield address


@pytest.fixture(scope="module")
def signed_in(apart: str) -> Iterator[dict[str | None, httpx.Client]]:
    """A client of each role, and one of nobody."""
    with ExitStack() as open_clients:
        yield {one: open_clients.enter_context(client_of(apart, one)) for one in (None, *sorted(ALL))}


@pytest.fixture(scope="module")
def shared(signed_in: dict[str | None, httpx.Client]) -> Json:
    """A technician's call that was handed to the electrician."""
    return call_of(signed_in, TECHNICIAN, with_whom=(ELECTRICIAN,))


@pytest.fixture(scope="module")
def private(signed_in: dict[str | None, httpx.Client]) -> Json:
    """The lead's own call."""
    return call_of(signed_in, LEADS)


def call_of(signed_in: dict[str | None, httpx.Client], owner: str, with_whom: tuple[str, ...] = ()) -> Json:
    client = signed_in[owner]
    call = client.get(f"/api/calls/{new_call(client)}").json()["call"]
    told = {"people": [me(signed_in[one])["id"] for one in with_whom]}
    assert client.put(f"/api/calls/{call['id']}/people", json=told).status_code == 200
    found: Json = call
    return found


def me(client: httpx.Client) -> Json:
    found: Json = client.get("/api/session").json()["person"]
    return found


def routes() -> Iterator[str]:
    for path, methods in create_app(None).openapi()["paths"].items():
        for method in methods:
            yield f"{method.upper()} {path}"


def ask(client: httpx.Client, route: str, call: Json) -> int:
    """Ask at a route, with nothing to say: who is let in is told that something is missing."""
    method, path = route.split(" ")
    known = {"call_id": call["id"], "site_id": call["site_id"], "source": "supply"}
    path = re.sub(r"{(\w+)}", lambda found: str(known.get(found[1], uuid4())), path)
    return client.request(method, path, json={} if method in ("POST", "PUT", "PATCH") else None).status_code


def test_every_route_says_whom_it_lets_in() -> None:
    assert set(routes()) == set(LET_IN)


@pytest.mark.parametrize("route", sorted(set(LET_IN) - {"DELETE /api/session", "DELETE /api/calls/{call_id}"}))
def test_who_is_let_in(
    route: str, signed_in: dict[str | None, httpx.Client], shared: Json, private: Json, apart: str
) -> None:
    for who, client in signed_in.items():
        status = ask(client, route, shared)
        if who not in LET_IN[route]:
            assert status == (401 if who is None else 403), (who, status)
        elif "{test_id}" in route or "{photo_id}" in route or route.endswith("/returns"):
            assert status in (200, 404, 422), (who, status)
        elif "{key}" in route or "person_id" in route or "equipment_id" in route:
            assert status in (404, 422), (who, status)
        else:
            assert status in (200, 201, 422), (who, status)
    if "{call_id}" in route or "{site_id}" in route:
        for who in (TECHNICIAN, ELECTRICIAN):
            is_open = "{site_id}" in route and who == TECHNICIAN
            is_refused = who not in LET_IN[route]
            expected = (200, 201, 422) if is_open else (403, 404) if is_refused else (404,)
            assert ask(signed_in[who], route, private) in expected, who
    assert me(signed_in[LEADS])["name"] == LEADS
    if route.startswith("GET"):
        return
    # Without the page's token nobody changes anything, whoever they are.
    with httpx.Client(base_url=apart, cookies=signed_in[LEADS].cookies) as stranger:
        assert ask(stranger, route, shared) == 403


def test_each_sees_their_calls(signed_in: dict[str | None, httpx.Client], shared: Json, private: Json) -> None:
    seen = {who: {one["id"] for one in listed(client)} for who, client in signed_in.items() if who}
    assert {who for who in seen if shared["id"] in seen[who]} == ALL
    assert {who for who in seen if private["id"] in seen[who]} == {LEADS, READER}
    assert seen[ELECTRICIAN] == {shared["id"]}


def test_a_call_taken_off_the_list_is_nobodys_until_it_is_put_back(signed_in: dict[str | None, httpx.Client]) -> None:
    call = call_of(signed_in, TECHNICIAN, with_whom=(ELECTRICIAN,))
    address = f"/api/calls/{call['id']}"
    for who, status in ((None, 401), (READER, 403), (ELECTRICIAN, 403), (TECHNICIAN, 200)):
        assert signed_in[who].delete(address).status_code == status, who
    for who in sorted(ALL):
        assert signed_in[who].get(address).status_code == 404, who
        assert call["id"] not in {one["id"] for one in listed(signed_in[who])}
    assert signed_in[ELECTRICIAN].post(f"{address}/restored").status_code == 403
    assert signed_in[TECHNICIAN].post(f"{address}/restored").status_code == 200
    assert call["id"] in {one["id"] for one in listed(signed_in[ELECTRICIAN])}
    lines = signed_in[LEADS].get("/api/audit", params={"call_id": call["id"]}).json()["lines"]
    assert [line["words"] for line in lines[:2]] == ["put back on the list", "taken off the list"]


def test_a_call_is_marked_renamed_and_found_by_what_it_is(signed_in: dict[str | None, httpx.Client]) -> None:
    technician, lead = signed_in[TECHNICIAN], signed_in[LEADS]
    call = call_of(signed_in, TECHNICIAN)
    address = f"/api/calls/{call['id']}"

    def found(**asked: str) -> bool:
        return call["id"] in {
            one["id"] for one in lead.get("/api/calls", params=asked).raise_for_status().json()["calls"]
        }

    assert call["status"] == "open"
    refused(technician.patch(address, json={"technician_id": me(lead)["id"]}), 403, "not_allowed")
    refused(technician.patch(address, json={"complaint": ""}), 422, "bad_input")
    refused(technician.patch(address, json={"status": "found"}), 422, "bad_input")
    told = technician.patch(address, json={"status": "waiting", "complaint": "Needs a pull-out"}).json()
    assert (told["status"], told["complaint"], told["starts_at"]) == ("waiting", "Needs a pull-out", call["starts_at"])
    assert found(status="waiting")
    assert not found(status="open")
    assert not found(status="found")
    assert found(site_id=call["site_id"], equipment_id=call["equipment_id"], technician_id=me(technician)["id"])
    assert not found(technician_id=me(lead)["id"])
    assert found(since=call["starts_at"])
    assert not found(until=call["starts_at"])
    site, unit = f"/api/sites/{call['site_id']}", f"/api/equipment/{call['equipment_id']}"
    assert technician.patch(site, json={"name": "Slip 9", "address": "9 Slip Row"}).json()["name"] == "Slip 9"
    assert technician.patch(unit, json={"name": "North unit"}).json()["equipment"]["name"] == "North unit"
    shown = technician.get(unit).json()
    assert (shown["site"]["address"], shown["site"]["equipment"][0]["name"]) == ("9 Slip Row", "North unit")
    assert (lead.get(address).json()["call"]["site_name"]) == "Slip 9"


def test_panel_work_is_granted_by_a_lead_and_not_ticked_by_oneself(
    signed_in: dict[str | None, httpx.Client], shared: Json
) -> None:
    technician, lead, electrician = signed_in[TECHNICIAN], signed_in[LEADS], signed_in[ELECTRICIAN]
    call = f"/api/calls/{shared['id']}"
    for scope in ({"panel_may_be_opened": True}, {"panel_volts_only": True}):
        refused(technician.put(f"{call}/scope", json=scope), 403, "not_allowed")
        assert not technician.get(call).json()["call"]["scope"]["panel_may_be_opened"]
    new = {"id": str(uuid4()), "technician_id": me(technician)["id"], "complaint": "Dead", "panel_may_be_opened": True}
    site = {"site_id": str(uuid4()), "site_name": "Slip", "equipment_name": "Unit", "circuit": "heat_strip"}
    new |= {"starts_at": "2026-03-01T08:00:00Z", "new_equipment": site | {"equipment_id": str(uuid4())}}
    refused(technician.post("/api/calls", json=new), 403, "not_allowed")
    assert technician.get(f"/api/calls/{new['id']}").status_code == 404
    # What a lead lets others do on the call sends nobody there who was not granted it.
    assert lead.put(f"{call}/scope", json={"panel_may_be_opened": True}).status_code == 200
    assert electrician.get(call).json()["call"]["scope"]["panel_may_be_opened"]
    mine = technician.get(call).json()
    assert not mine["call"]["scope"]["panel_may_be_opened"]
    assert not mine["may_open_panels"]
    # Nor do they take it back from the others with another change.
    technician.put(f"{call}/scope", json={"way": "unit_back"}).raise_for_status()
    stands = electrician.get(call).json()["call"]["scope"]
    assert (stands["panel_may_be_opened"], stands["way"]) == (True, "unit_back")
    granted = me(technician) | {"may_open_panels": True}
    refused(technician.put(f"/api/people/{granted['id']}", json=granted), 403, "not_allowed")
    lead.put(f"/api/people/{granted['id']}", json=granted).raise_for_status()
    assert technician.get(call).json()["call"]["scope"]["panel_may_be_opened"]
    lead.put(f"/api/people/{granted['id']}", json=granted | {"may_open_panels": False}).raise_for_status()
    refused(
        technician.put(f"/api/calls/{new_call(technician)}/scope", json={"panel_may_be_opened": True}),
        403,
        "not_allowed",
    )


def test_a_technician_opens_calls_of_their_own_only(signed_in: dict[str | None, httpx.Client]) -> None:
    technician, lead = signed_in[TECHNICIAN], signed_in[LEADS]
    stored = technician.get(f"/api/calls/{new_call(technician)}").json()["call"]
    told = {key: stored[key] for key in ("complaint", "starts_at")} | {"id": str(uuid4())}
    told["technician_id"] = me(lead)["id"]
    told["new_equipment"] = {
        "equipment_id": str(uuid4()),
        "equipment_name": "Unit",
        "circuit": "heat_strip",
        "site_id": stored["site_id"],
    }
    refused(technician.post("/api/calls", json=told), 403, "not_allowed")
    told["technician_id"] = me(technician)["id"]
    assert lead.post("/api/calls", json=told).status_code == 201
    assert technician.get(f"/api/calls/{told['id']}").status_code == 200


def test_changes_are_in_a_log_that_nobody_can_change(
    signed_in: dict[str | None, httpx.Client], database_url: str, api: httpx.Client
) -> None:
    technician, lead = signed_in[TECHNICIAN], signed_in[LEADS]
    call_id = new_call(technician)
    call = f"/api/calls/{call_id}"
    before = technician.get(call).json()
    technician.put(f"{call}/scope", json={"way": "source_out"}).raise_for_status()
    technician.put(f"{call}/circuit", json=before["circuit"] | {"name": "Rewired"}).raise_for_status()
    supply = technician.get(f"{call}/ratings").json()["supplies"][0]
    technician.put(f"{call}/ratings/{supply['source']}", json=supply["sheet"]).raise_for_status()
    technician.post(f"{call}/entries", json=entry(reading(240.0))).raise_for_status()
    technician.put(f"{call}/scope", json={"way": "source_out"}).raise_for_status()
    page = lead.get("/api/audit", params={"call_id": call_id, "most": 2}).json()
    rest = lead.get("/api/audit", params={"call_id": call_id, "after": page["next"]}).json()
    lines = [*page["lines"], *rest["lines"]]
    assert [line["what"] for line in lines] == ["call.ratings", "call.circuit", "call.scope"], (
        "what did not change is not said"
    )
    assert [one["words"] for one in lines[1:]] == ["circuit changed", "order of work: fewest → source out"]
    assert {one["who"] for one in lines} == {TECHNICIAN}
    assert {one["about"] for one in lines} == {before["call"]["complaint"]}
    assert (lines[2]["before"]["way"], lines[2]["after"]["way"]) == ("fewest", "source_out")
    assert lines[1]["before"] == before["circuit"]
    role = me(technician) | {"role": "electrician"}
    lead.put(f"/api/people/{role['id']}", json=role).raise_for_status()
    lead.put(f"/api/people/{role['id']}", json=role | {"role": "technician"}).raise_for_status()
    latest = lead.get("/api/audit", params={"most": 1}).json()["lines"][0]
    told = ("person.role", LEADS, TECHNICIAN, "electrician", "technician")
    assert tuple(latest[key] for key in ("what", "who", "about", "before", "after")) == told
    api.put(f"/api/calls/{new_call(api)}/scope", json={"way": "source_out"}).raise_for_status()
    with psycopg.connect(database_url) as connection:
        for change in ("delete from audit", "update audit set what = ''", "truncate audit"):
            with pytest.raises(psycopg.errors.RaiseException), connection.transaction():
                connection.execute(change)

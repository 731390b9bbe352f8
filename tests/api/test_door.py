"""The door: invitations, passwords, sessions, and who is kept out."""

from collections.abc import Iterator
from typing import Any
from uuid import UUID, uuid4

import httpx
import psycopg
import pytest
from tests.api.test_api import Json
from tests.api.test_robust import refused
from tests.client import client_of, demo_id

from zesty_copper.service.passwords import hashed, is_right

GOOD, BETTER = "wet rope under tarpaulin", "three gulls on the boiler"


@pytest.fixture
def guest(served: str) -> Iterator[httpx.Client]:
    """A browser in which nobody is signed in."""
    with client_of(served, None) as client:
        yield client


def invited(api: httpx.Client, **change: Any) -> tuple[Json, str]:
    """Somebody new, and what their link holds."""
    told = {"id": str(uuid4()), "name": f"Merryn {uuid4().hex[:8]}", **change}
    link = api.post("/api/people", json=told).json()
    return link["person"], link["token"]


def joined(api: httpx.Client, guest: httpx.Client, password: str = GOOD) -> Json:
    """Somebody who has come in by their link."""
    person, token = invited(api)
    assert guest.post("/api/link/use", json={"token": token, "password": password}).status_code == 201
    return person


def who(client: httpx.Client) -> str | None:
    person: Json | None = client.get("/api/session").json()["person"]
    return person["name"] if person else None


def enter(client: httpx.Client, name: str, password: str, **headers: str) -> httpx.Response:
    return client.post("/api/session", json={"name": name, "password": password}, headers=headers)


def test_an_invitation_lets_one_person_in_once(api: httpx.Client, guest: httpx.Client, database_url: str) -> None:
    person, token = invited(api, role="electrician", may_open_panels=True)
    assert guest.post("/api/link", json={"token": token}).json()["person"] == person
    for password, sentence in (("short", "at least 12"), ("password1234", "common"), (person["name"], "guess")):
        problem = refused(guest.post("/api/link/use", json={"token": token, "password": password}), 422, "bad_input")
        assert (problem["field"], sentence in problem["message"].lower()) == ("password", True), problem
    came = guest.post("/api/link/use", json={"token": token, "password": GOOD})
    assert (came.status_code, who(guest)) == (201, person["name"])
    cookie = came.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=strict" in cookie
    refused(guest.post("/api/link/use", json={"token": token, "password": BETTER}), 404, "not_found")
    refused(guest.post("/api/link", json={"token": token}), 404, "not_found")
    with psycopg.connect(database_url) as connection:
        row = connection.execute("select password from person where id = %s", (person["id"],)).fetchone()
        assert row is not None
        assert row[0].startswith("$argon2id$")
        kept = connection.execute("select key from session union select key from link").fetchall()
        assert not {token, guest.cookies["zesty-session"]} & {key for (key,) in kept}, "what lets one in is not stored"
    assert guest.delete("/api/session").json()["person"] is None
    refused(guest.get("/api/calls"), 401, "signed_out")
    assert enter(guest, f"  {person['name'].upper()}", GOOD).json()["person"] == person


def test_a_link_that_is_old_or_replaced_lets_nobody_in(
    api: httpx.Client, guest: httpx.Client, database_url: str
) -> None:
    person, first = invited(api)
    second = api.post(f"/api/people/{person['id']}/link").json()["token"]
    refused(guest.post("/api/link", json={"token": first}), 404, "not_found")
    with psycopg.connect(database_url) as connection:
        connection.execute("update link set expires_at = now() where person_id = %s", (person["id"],))
    refused(guest.post("/api/link/use", json={"token": second, "password": GOOD}), 404, "not_found")


def test_a_lead_lets_somebody_choose_a_new_password(api: httpx.Client, guest: httpx.Client, served: str) -> None:
    person = joined(api, guest)
    token = api.post(f"/api/people/{person['id']}/link").json()["token"]
    assert who(guest) == person["name"], "nothing ends before another password is chosen"
    with client_of(served, None) as elsewhere:
        assert elsewhere.post("/api/link/use", json={"token": token, "password": BETTER}).status_code == 201
    assert who(guest) is None
    refused(enter(guest, person["name"], GOOD), 401, "signed_out")
    assert enter(guest, person["name"], BETTER).status_code == 201


def test_a_password_is_changed_by_who_knows_it(api: httpx.Client, guest: httpx.Client, served: str) -> None:
    person = joined(api, guest)
    with client_of(served, None) as elsewhere:
        assert enter(elsewhere, person["name"], GOOD).status_code == 201
        problem = refused(guest.put("/api/password", json={"now": BETTER, "password": BETTER}), 422, "bad_input")
        assert problem["field"] == "now"
        before = guest.cookies["zesty-session"]
        assert guest.put("/api/password", json={"now": GOOD, "password": BETTER}).status_code == 200
        assert guest.cookies["zesty-session"] != before
        assert (who(guest), who(elsewhere)) == (person["name"], None)


def test_signing_out_everywhere_ends_every_session(api: httpx.Client, guest: httpx.Client, served: str) -> None:
    person = joined(api, guest)
    with client_of(served, None) as elsewhere, client_of(served, None) as third:
        for one in (elsewhere, third):
            enter(one, person["name"], GOOD).raise_for_status()
        elsewhere.delete("/api/session").raise_for_status()
        assert [who(one) for one in (guest, elsewhere, third)] == [person["name"], None, person["name"]]
        third.delete("/api/session", params={"everywhere": True}).raise_for_status()
        assert [who(one) for one in (guest, elsewhere, third)] == [None, None, None]


def test_a_session_ends_when_it_is_old_unused_or_taken_away(
    api: httpx.Client, guest: httpx.Client, database_url: str
) -> None:
    person = joined(api, guest)
    for column, days in (("begun_at", 31), ("used_at", 5)):
        enter(guest, person["name"], GOOD).raise_for_status()
        with psycopg.connect(database_url) as connection:
            back = f"update session set {column} = now() - interval '{days} days' where person_id = %s"
            connection.execute(back, (person["id"],))
        assert who(guest) is None
    enter(guest, person["name"], GOOD).raise_for_status()
    api.put(f"/api/people/{person['id']}", json=person | {"is_active": False}).raise_for_status()
    assert who(guest) is None
    refused(enter(guest, person["name"], GOOD), 401, "signed_out")
    refused(api.post(f"/api/people/{person['id']}/link"), 409, "conflict")


def test_wrong_passwords_are_slowed_down_for_who_sends_them(
    api: httpx.Client, guest: httpx.Client, database_url: str
) -> None:
    person = joined(api, guest)
    here = {"x-forwarded-for": "192.0.2.7"}
    for number in range(8):
        refused(enter(guest, person["name"], f"wrong {number}", **here), 401, "signed_out")
    late = enter(guest, person["name"], GOOD, **here)
    refused(late, 429, "too_often")
    assert int(late.headers["retry-after"]) == 900
    assert enter(guest, person["name"], GOOD, **{"x-forwarded-for": "192.0.2.8"}).status_code == 201
    # One address that tries many names is stopped too.
    there = {"x-forwarded-for": "192.0.2.9"}
    statuses = [enter(guest, f"{number} {person['name']}", GOOD, **there).status_code for number in range(2)]
    with psycopg.connect(database_url) as connection:
        tried = "update attempts set count = count + 57 where key like '%192.0.2.9/60%' and count = 2"
        assert connection.execute(tried).rowcount == 1
    statuses += [enter(guest, f"{number} {person['name']}", GOOD, **there).status_code for number in range(2, 4)]
    assert statuses == [401, 401, 401, 429]


def test_nobody_is_told_whether_a_name_exists(api: httpx.Client, guest: httpx.Client) -> None:
    person = joined(api, guest)
    wrong = enter(guest, person["name"], BETTER, **{"x-forwarded-for": "192.0.2.20"})
    nobody = enter(guest, "Nobody At All", BETTER, **{"x-forwarded-for": "192.0.2.20"})
    assert (wrong.status_code, wrong.json()) == (nobody.status_code, nobody.json())


def test_over_tls_the_cookies_go_nowhere_else(api: httpx.Client, guest: httpx.Client) -> None:
    person = joined(api, guest)
    tls = {"x-forwarded-proto": "https"}
    door = guest.get("/api/session", headers=tls)
    assert door.headers["strict-transport-security"] == "max-age=31536000"
    token = door.headers["set-cookie"].split(";")[0]
    headers = tls | {"cookie": token, "x-zesty-csrf": token.split("=", 1)[1]}
    cookie = enter(guest, person["name"], GOOD, **headers).headers["set-cookie"]
    assert cookie.startswith("__Host-zesty-session=")
    assert "Secure" in cookie
    assert token.startswith("__Host-zesty-csrf=")


def test_the_demo_is_nobody_to_be_from_outside(guest: httpx.Client, api: httpx.Client) -> None:
    told = {"person_id": demo_id(guest, "Maud Tregear")}
    outside = {"x-forwarded-for": "192.0.2.30"}
    assert guest.get("/api/session", headers=outside).json()["demo"] == []
    refused(guest.post("/api/session/demo", json=told, headers=outside), 403, "not_allowed")
    refused(guest.post("/api/session/demo", json=told, headers={"host": "192.0.2.1"}), 403, "not_allowed")
    person, _ = invited(api)
    refused(guest.post("/api/session/demo", json={"person_id": person["id"]}), 403, "not_allowed")


def test_somebody_must_be_able_to_lead(api: httpx.Client) -> None:
    leads = [one for one in api.get("/api/people").json() if one["role"] == "lead"]
    for lead in leads[1:]:
        api.put(f"/api/people/{lead['id']}", json=lead | {"role": "technician"}).raise_for_status()
    for change in ({"role": "technician"}, {"is_active": False}):
        refused(api.put(f"/api/people/{leads[0]['id']}", json=leads[0] | change), 409, "conflict")
    assert api.get("/api/audit").status_code == 200
    name = api.get("/api/people").json()[0]["name"]
    other = {"id": str(uuid4()), "name": name.swapcase()}
    assert refused(api.post("/api/people", json=other), 409, "conflict")["field"] == "name"
    refused(api.put(f"/api/people/{UUID(int=0)}", json=leads[0]), 422, "bad_input")


def test_what_is_kept_knows_its_password_alone() -> None:
    kept = hashed(GOOD)
    assert is_right(kept, GOOD)
    assert not is_right(kept, BETTER)
    assert not is_right(None, GOOD)
    assert not is_right("not a hash", GOOD)
    assert hashed(GOOD) != kept, "the salt differs"

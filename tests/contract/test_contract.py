"""Every route against its own description, with whatever may be sent to it: Schemathesis makes it up."""

from collections.abc import Iterator
from typing import Any

import httpx
import pytest
import schemathesis
from hypothesis import settings
from tests.client import LEAD, client_of, demo_id
from tests.conftest import Databases, application

from zesty_copper.api.app import create_app
from zesty_copper.api.gate.csrf import CSRF_COOKIE, CSRF_HEADER

# What a circuit allows is more than a schema can say, so what fits it may still be refused with a sentence.
ACCEPTED = ["2xx", "401", "403", "404", "409", "422", "429"]
AT_THE_DOOR = {"/api/session", "/api/session/demo", "/api/link", "/api/link/use", "/api/password"}
config = schemathesis.Config.from_dict({"checks": {"positive_data_acceptance": {"expected-statuses": ACCEPTED}}})
described = schemathesis.openapi.from_dict(create_app(None).openapi(), config=config)


class Lead:
    """A lead's client, signed in again where what was asked may have signed them out."""

    def __init__(self, client: httpx.Client) -> None:
        self.client = client
        self.is_sure = False

    def headers(self) -> dict[str, str]:
        """What tells the application who asks."""
        if not self.is_sure and self.client.get("/api/session").json()["person"] is None:
            who = {"person_id": demo_id(self.client, LEAD)}
            self.client.post("/api/session/demo", json=who).raise_for_status()
        self.is_sure = True
        cookies = "; ".join(f"{name}={value}" for name, value in self.client.cookies.items())
        return {"cookie": cookies, CSRF_HEADER: self.client.cookies[CSRF_COOKIE]}


@pytest.fixture(scope="module")
def lead(databases: Databases) -> Iterator[Lead]:
    """Of an application apart: what is made up here is stored, and nobody else should meet it."""
    with application(databases.with_demo()) as address, client_of(address) as client:
        yield Lead(client)


@described.parametrize()
@settings(max_examples=10, deadline=None)
def test_every_route_answers_as_it_is_described(case: schemathesis.Case[Any], lead: Lead) -> None:
    headers = lead.headers()
    lead.is_sure = case.path not in AT_THE_DOOR
    answer = case.call_and_validate(base_url=str(lead.client.base_url), headers=headers)
    if lead.is_sure:
        assert answer.status_code not in (401, 403, 429), "a lead may do everything"

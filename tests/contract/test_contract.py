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


@pytest.fixture(scope="module")
def lead(databases: Databases) -> Iterator[httpx.Client]:
    """A lead's client of an application apart: what is made up here is stored, and nobody else should meet it."""
    with application(databases.with_demo()) as address, client_of(address) as client:
        yield client


@described.parametrize()
@settings(max_examples=10, deadline=None)
def test_every_route_answers_as_it_is_described(case: schemathesis.Case[Any], lead: httpx.Client) -> None:
    if lead.get("/api/session").json()["person"] is None:  # signing out is one of the routes
        lead.post("/api/session/demo", json={"person_id": demo_id(lead, LEAD)}).raise_for_status()
    cookies = "; ".join(f"{name}={value}" for name, value in lead.cookies.items())
    headers = {"cookie": cookies, CSRF_HEADER: lead.cookies[CSRF_COOKIE]}
    answer = case.call_and_validate(base_url=str(lead.base_url), headers=headers)
    if case.path not in AT_THE_DOOR:
        assert answer.status_code not in (401, 403, 429), "a lead may do everything"

"""Every route against its own description, with whatever may be sent to it: Schemathesis makes it up."""

from collections.abc import Iterator
from typing import Any

import pytest
import schemathesis
from hypothesis import settings
from tests.conftest import application, database

from zesty_copper.api.app import create_app

# What a circuit allows is more than a schema can say, so what fits it may still be refused with a sentence.
ACCEPTED = ["2xx", "404", "409", "422"]
config = schemathesis.Config.from_dict({"checks": {"positive_data_acceptance": {"expected-statuses": ACCEPTED}}})
described = schemathesis.openapi.from_dict(create_app(None).openapi(), config=config)


@pytest.fixture(scope="module")
def apart() -> Iterator[str]:
    """An application of its own: what is made up here is stored, and nobody else should meet it."""
    with database("contract") as url, application(url) as address:
        yield address


@described.parametrize()
@settings(max_examples=10, deadline=None)
def test_every_route_answers_as_it_is_described(case: schemathesis.Case[Any], apart: str) -> None:
    case.call_and_validate(base_url=apart)

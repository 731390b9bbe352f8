"""Every route against its own description, with whatever may be sent to it: Schemathesis makes it up."""

from typing import Any

import schemathesis
from hypothesis import settings

from zesty_copper.api.app import create_app

# What a circuit allows is more than a schema can say, so what fits it may still be refused with a sentence.
ACCEPTED = ["2xx", "404", "409", "422"]
config = schemathesis.Config.from_dict({"checks": {"positive_data_acceptance": {"expected-statuses": ACCEPTED}}})
described = schemathesis.openapi.from_dict(create_app(None).openapi(), config=config)


@described.parametrize()
@settings(max_examples=10, deadline=None)
def test_every_route_answers_as_it_is_described(case: schemathesis.Case[Any], served: str) -> None:
    case.call_and_validate(base_url=served)

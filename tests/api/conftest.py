"""What several tests of the API share."""

from collections.abc import Iterator

import httpx
import pytest
from tests.client import LEAD, client_of
from tests.conftest import Databases, application


@pytest.fixture(scope="module")
def alone(databases: Databases) -> Iterator[httpx.Client]:
    """An application of its own: what is found here must not shift what others find."""
    with application(databases.with_demo()) as address, client_of(address, LEAD) as client:
        yield client

"""A client of the served application, signed in as one of the demo's people, as their browser would be."""

from collections.abc import Iterator
from contextlib import contextmanager

import httpx

from zesty_copper.api.gate.csrf import CSRF_COOKIE, CSRF_HEADER

__all__ = ["LEAD", "change_notes", "client_of", "demo_id"]

LEAD = "Maud Tregear"
"""The demo's lead, who may do everything."""


@contextmanager
def client_of(address: str, person: str | None = LEAD, timeout: float = 30) -> Iterator[httpx.Client]:
    """A client that somebody signed in with, or nobody did, and that sends the page's token back."""
    with httpx.Client(base_url=address, timeout=timeout) as client:

        def send_back(request: httpx.Request) -> None:
            request.headers.setdefault(CSRF_HEADER, client.cookies.get(CSRF_COOKIE) or "")

        client.event_hooks = {"request": [send_back]}
        client.get("/api/session").raise_for_status()
        if person is not None:
            client.post("/api/session/demo", json={"person_id": demo_id(client, person)}).raise_for_status()
        yield client


def demo_id(client: httpx.Client, person: str) -> str:
    """Id of one of the demo's people."""
    found: str = next(one["id"] for one in client.get("/api/session").json()["demo"] if one["name"] == person)
    return found


def change_notes(client: httpx.Client, call_id: str, **notes: object) -> httpx.Response:
    """Change some of the notes about a call's repair, each as a whole."""
    before = client.get(f"/api/calls/{call_id}/repair").json()["notes"]
    changes = [{"path": [name], "was": before[name], "now": now} for name, now in notes.items()]
    return client.patch(f"/api/calls/{call_id}/repair", json={"changes": changes})

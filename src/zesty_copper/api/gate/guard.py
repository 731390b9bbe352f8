"""Who may ask, and what a browser may do with the answer.

A page of any website can send requests to a server on its visitor's own machine. Two things tell those from ours: they
name another host (or one that was made to point here), or they come from another origin.
"""

import ipaddress
from collections.abc import Iterable
from urllib.parse import urlsplit
from uuid import uuid4

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from zesty_copper.api.problems import problem

__all__ = ["RequestGuard"]

SAFE_METHODS = ("GET", "HEAD", "OPTIONS")
LOOPBACK_NAMES = ("localhost",)
HEADERS = {
    # Styles of the component library are written into the page as it runs; scripts never are.
    "content-security-policy": (
        "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
        "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
    ),
    "x-content-type-options": "nosniff",
    "referrer-policy": "same-origin",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
}


class RequestGuard:
    """Middleware that refuses strangers and marks every answer.

    Parameters
    ----------
    names
        Host names by which the server is known, besides its addresses and `localhost`.
    """

    def __init__(self, app: ASGIApp, names: Iterable[str] = ()) -> None:
        self._app = app
        self._names = frozenset(name.lower() for name in (*LOOPBACK_NAMES, *names))

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Refuse, or pass on and mark what comes back."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        request_id = scope.setdefault("state", {})["request_id"] = uuid4().hex
        path = str(scope["path"])

        async def marked(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    headers[name] = value
                headers["x-request-id"] = request_id
                if scope.get("scheme") == "https":
                    headers["strict-transport-security"] = "max-age=31536000"
                if path.startswith("/api/"):
                    headers.setdefault("cache-control", "no-store")
            await send(message)

        headers = Headers(scope=scope)
        host = headers.get("host", "")
        if not self._is_known(host):
            answer = problem(400, "unknown_host", "This server does not go by that name: open it by its own address.")
            await answer(scope, receive, marked)
        elif scope["method"] not in SAFE_METHODS and _is_strange(headers, host):
            answer = problem(403, "other_origin", "That came from another website: open Zesty Copper itself.")
            await answer(scope, receive, marked)
        else:
            await self._app(scope, receive, marked)

    def _is_known(self, host: str) -> bool:
        """Whether a Host header names this server; an address cannot be made to point elsewhere, so any will do."""
        try:
            name = urlsplit(f"//{host}").hostname or ""
        except ValueError:
            return False
        if name in self._names:
            return True
        try:
            ipaddress.ip_address(name)
        except ValueError:
            return False
        return True


def _is_strange(headers: Headers, host: str) -> bool:
    """Whether a browser says that a request comes from a page that is not this server's."""
    origin = headers.get("origin")
    if origin is not None and urlsplit(origin).netloc.lower() != host.lower():
        return True
    return headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none")

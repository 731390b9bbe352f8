"""A token that only our own page can read and send back, so that no other page writes in its visitor's name."""

from starlette.requests import Request
from starlette.responses import Response
from starlette.types import ASGIApp, Receive, Scope, Send
from starlette_csrf.middleware import CSRFMiddleware

from zesty_copper.api.problems import problem

__all__ = ["CSRF_COOKIE", "CSRF_HEADER", "Csrf"]

CSRF_COOKIE, CSRF_HEADER = "zesty-csrf", "x-zesty-csrf"


class _Token(CSRFMiddleware):
    def __init__(self, app: ASGIApp, secret: str, cookie: str, *, secure: bool) -> None:
        super().__init__(
            app,
            secret,
            cookie_name=cookie,
            cookie_secure=secure,
            cookie_samesite="strict",
            header_name=CSRF_HEADER,
        )

    def _get_error_response(self, request: Request) -> Response:  # noqa: ARG002 - the library's signature
        refusal = problem(403, "stale_page", "This page was too old to change anything: do it again. Nothing is lost.")
        # One of another installation at the same name: the next answer brings our own.
        refusal.delete_cookie(self.cookie_name, secure=self.cookie_secure)
        return refusal


class Csrf:
    """Middleware that asks every change for the token, and hands it out by cookie; over TLS by one bound to it."""

    def __init__(self, app: ASGIApp, secret: str) -> None:
        self._app = app
        self._plain = _Token(app, secret, CSRF_COOKIE, secure=False)
        self._secure = _Token(app, secret, f"__Host-{CSRF_COOKIE}", secure=True)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass on what carries the token; what is kept by caches that many share gets none."""
        if str(scope.get("path", "")).startswith("/assets/"):
            await self._app(scope, receive, send)
            return
        await (self._secure if scope.get("scheme") == "https" else self._plain)(scope, receive, send)

"""One error body for everything that goes wrong, made in one place."""

from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import Field
from sqlalchemy.exc import OperationalError
from starlette.types import ASGIApp, Message, Receive, Send
from starlette.types import Scope as AsgiScope

from zesty_copper.core.errors import BadInput, NotFound, ZestyError
from zesty_copper.core.frozen import Frozen

__all__ = ["MAX_BODY_BYTES", "BodyLimit", "Problem", "StrangeValue", "add_handlers", "responses"]

MAX_BODY_BYTES = 1_000_000


class Problem(Frozen):
    """What went wrong: a stable code, one sentence, and the field it concerns."""

    code: str
    message: str
    field: str = ""
    details: dict[str, Any] = Field(default_factory=dict)


class StrangeValue(ZestyError):
    """A value that is possible but strange: it is asked about, not refused."""

    code = "strange_value"


_STATUS = {BadInput: 422, NotFound: 404, StrangeValue: 409}


def responses(*statuses: int) -> dict[int | str, dict[str, Any]]:
    """For a route's documentation: these statuses carry a Problem."""
    return {status: {"model": Problem} for status in statuses}


def problem(status: int, code: str, message: str, field: str = "", **details: object) -> JSONResponse:
    """Make the response."""
    return JSONResponse(
        Problem(code=code, message=message, field=field, details=details).model_dump(), status_code=status
    )


def add_handlers(app: FastAPI) -> None:
    """Map every error to its body."""

    @app.exception_handler(ZestyError)
    def _ours(_: Request, error: ZestyError) -> JSONResponse:
        status = next((s for kind, s in _STATUS.items() if isinstance(error, kind)), 500)
        return problem(status, error.code, error.message, error.field, **error.details)

    @app.exception_handler(RequestValidationError)
    def _refused(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        field = ".".join(str(step) for step in first["loc"] if step != "body" and not str(step).startswith("~"))
        message = str(first["msg"]).removeprefix("Value error, ").removesuffix(".") + "."
        return problem(422, BadInput.code, _plain(str(first["type"]), message), field)

    @app.exception_handler(OperationalError)
    def _no_database(_: Request, __: OperationalError) -> JSONResponse:
        return problem(503, "no_database", "The database does not answer: keep this page open and try again.")


def _plain(kind: str, message: str) -> str:
    """Say Pydantic's commonest complaints in the user's words."""
    return {
        "finite_number": "The reading is not a finite number: type what the meter shows.",
        "float_parsing": "That is not a number: type what the meter shows.",
        "float_type": "That is not a number: type what the meter shows.",
        "missing": "This is needed: fill it in.",
        "string_too_short": "This is needed: fill it in.",
        "extra_forbidden": "This field is not known here: leave it out.",
        "literal_error": f"That is not one of the choices. {message}",
        "json_invalid": "The request is not valid JSON: check it and send it again.",
    }.get(kind, message)


class BodyLimit:
    """Refuses a body beyond `MAX_BODY_BYTES`, whether its length is announced or not."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: AsgiScope, receive: Receive, send: Send) -> None:
        """Pass a request on, its body read and bounded."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        body = bytearray()
        more = True
        while more:
            message = await receive()
            if message["type"] == "http.disconnect":
                return
            body += message.get("body", b"")
            more = message.get("more_body", False)
            if len(body) > MAX_BODY_BYTES:
                response = problem(413, "too_large", "That is more than 1 MB: send a smaller file.")
                await response(scope, receive, send)
                return
        given = False

        async def replay() -> Message:
            nonlocal given
            if given:
                return await receive()
            given = True
            return {"type": "http.request", "body": bytes(body), "more_body": False}

        await self._app(scope, replay, send)

"""One error body for everything that goes wrong, made in one place."""

import logging
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import Field
from sqlalchemy.exc import DataError, IntegrityError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.exceptions import HTTPException
from starlette.routing import compile_path

from zesty_copper.core.errors import BadInput, Busy, Conflict, Gone, NotAllowed, NotFound, Unreadable, ZestyError
from zesty_copper.core.frozen import Frozen

__all__ = [
    "NotConnected",
    "Problem",
    "SignedOut",
    "StrangeValue",
    "TooOften",
    "add_handlers",
    "problem",
    "responses",
]

RETRY_SECONDS = {429: 900, 503: 2}
logger = logging.getLogger(__name__)


class Problem(Frozen):
    """What went wrong: a stable code, one sentence, and the field it concerns."""

    code: str
    message: str
    field: str = ""
    details: dict[str, Any] = Field(default_factory=dict)


class StrangeValue(ZestyError):
    """A value that is possible but strange: it is asked about, not refused."""

    code = "strange_value"


class NotConnected(ZestyError):
    """A device does not answer."""

    code = "not_connected"


class SignedOut(ZestyError):
    """Nobody is signed in."""

    code = "signed_out"


class TooOften(ZestyError):
    """It was tried too often."""

    code = "too_often"


_STATUS = {
    BadInput: 422,
    SignedOut: 401,
    NotAllowed: 403,
    NotFound: 404,
    StrangeValue: 409,
    Conflict: 409,
    Unreadable: 409,
    TooOften: 429,
    Busy: 503,
    NotConnected: 503,
    Gone: 503,
}


def responses(*statuses: int) -> dict[int | str, dict[str, Any]]:
    """For a route's documentation: these statuses carry a Problem."""
    return {status: {"model": Problem} for status in statuses}


def problem(status: int, code: str, message: str, field: str = "", **details: object) -> JSONResponse:
    """Make the response."""
    body = Problem(code=code, message=message, field=field, details=details).model_dump()
    headers = {"retry-after": str(RETRY_SECONDS[status])} if status in RETRY_SECONDS else None
    return JSONResponse(body, status_code=status, headers=headers)


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

    @app.exception_handler(PoolTimeout)
    def _all_taken(_: Request, __: PoolTimeout) -> JSONResponse:
        return problem(503, Busy.code, "Too much is asked for at once: try again in a moment.")

    @app.exception_handler(DataError)
    def _cannot_be_stored(_: Request, __: DataError) -> JSONResponse:
        return problem(422, BadInput.code, "Some text or number cannot be kept: type it again without odd characters.")

    @app.exception_handler(IntegrityError)
    def _stored_meanwhile(_: Request, __: IntegrityError) -> JSONResponse:
        return problem(409, Conflict.code, "Somebody stored this at the same moment: look again before you send it.")

    @app.exception_handler(HTTPException)
    def _http(request: Request, error: HTTPException) -> JSONResponse:
        if error.status_code == 404:
            return problem(404, NotFound.code, "There is nothing at this address: go back to the calls.")
        if error.status_code == 405:
            answer = problem(405, "not_allowed", "That cannot be done at this address.")
            answer.headers["allow"] = ", ".join(_allowed(app, request))
            return answer
        return problem(422, BadInput.code, "The request is not valid JSON: check it and send it again.")

    @app.exception_handler(Exception)
    def _unforeseen(request: Request, error: Exception) -> JSONResponse:
        request_id = request.scope.get("state", {}).get("request_id", "")
        logger.error("request %s: %s %s", request_id, request.method, request.url.path, exc_info=error)
        return problem(500, "internal", "Something went wrong here: try again.", id=request_id)


def _allowed(app: FastAPI, request: Request) -> list[str]:
    """Methods of every route at a path: several share one, and a router names only the first's."""
    described = app.openapi()["paths"].items()
    methods_here = [methods for path, methods in described if compile_path(path)[0].match(request.url.path)]
    return sorted({method.upper() for methods in methods_here for method in methods})


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

"""The OpenAPI description: what goes wrong is described once, and every route refers to it."""

from http import HTTPStatus
from typing import Any

from fastapi import FastAPI

__all__ = ["share_problems"]

_PROBLEM = {"$ref": "#/components/schemas/Problem"}


def share_problems(app: FastAPI) -> None:
    """Have an application describe each kind of problem once, under the name of its status."""
    describe = app.openapi

    def described() -> dict[str, Any]:
        if app.openapi_schema is None:
            shared: dict[str, Any] = {}
            for methods in describe()["paths"].values():
                for operation in methods.values():
                    answers = operation["responses"]
                    for status in [status for status in answers if status.startswith(("4", "5"))]:
                        phrase = HTTPStatus(int(status)).phrase
                        name = phrase.replace(" ", "")
                        shared[name] = {"description": phrase, "content": {"application/json": {"schema": _PROBLEM}}}
                        answers[status] = {"$ref": f"#/components/responses/{name}"}
            components = describe()["components"]
            components["responses"] = shared
            # FastAPI describes its own body for 422; add_handlers answers with a Problem there too.
            for unused in ("HTTPValidationError", "ValidationError"):
                components["schemas"].pop(unused, None)
        return describe()

    app.openapi = described  # type: ignore[method-assign] # FastAPI's own way to extend it

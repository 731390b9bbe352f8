"""What is stored, read: by the rules of today, which may allow less than those it was stored under."""

import json
from hashlib import sha256
from typing import TypeVar

from pydantic import BaseModel, ValidationError

from zesty_copper.core.errors import Conflict, Unreadable

__all__ = ["check_seen", "read", "read_or", "version"]

_Model = TypeVar("_Model", bound=BaseModel)
_Other = TypeVar("_Other")


def read(model: type[_Model], value: object) -> _Model:
    """Read what is stored, or say that it no longer can be."""
    try:
        return model.model_validate(value)
    except ValidationError as error:
        why = str(error.errors()[0]["msg"]).removeprefix("Value error, ").removesuffix(".")
        raise Unreadable(
            f"This was stored when more was allowed ({why}): download it, mend that, and open it from the file.",
            why=why,
        ) from error


def read_or(model: type[_Model], value: object, other: _Other) -> _Model | _Other:
    """Read what is stored, or take something else for it."""
    try:
        return model.model_validate(value)
    except ValidationError:
        return other


def version(stored: object) -> str:
    """Tell what is stored from anything else in its place."""
    return sha256(json.dumps(stored, sort_keys=True).encode()).hexdigest()[:16]


def check_seen(stored: object, seen: str | None, what: str) -> None:
    """Check that what is stored is the version that was seen, if one was.

    Raises
    ------
    Conflict
        If it is not; what is there now goes with it.
    """
    if seen is not None and seen != version(stored):
        raise Conflict(f"Somebody changed the {what} meanwhile: look at theirs, or keep yours.", what, now=stored)

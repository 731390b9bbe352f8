"""What is stored, read: by the rules of today, which may allow less than those it was stored under."""

from typing import TypeVar

from pydantic import BaseModel, ValidationError

from zesty_copper.core.errors import Unreadable

__all__ = ["read", "read_or"]

_Model = TypeVar("_Model", bound=BaseModel)
_Other = TypeVar("_Other")


def read(model: type[_Model], value: object) -> _Model:
    """Read what is stored, or say that it no longer can be."""
    try:
        return model.model_validate(value)
    except ValidationError as error:
        why = str(error.errors()[0]["msg"]).removeprefix("Value error, ").removesuffix(".")
        raise Unreadable(
            f"This was stored when more was allowed ({why}): download it, mend that, and open it from the file."
        ) from error


def read_or(model: type[_Model], value: object, other: _Other) -> _Model | _Other:
    """Read what is stored, or take something else for it."""
    try:
        return model.model_validate(value)
    except ValidationError:
        return other

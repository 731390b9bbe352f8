"""The base of every value that the core speaks of."""

from collections.abc import Mapping
from typing import Annotated, Any, Self

from pydantic import BaseModel, BeforeValidator, ConfigDict

__all__ = ["Count", "Figure", "Frozen"]


def _no_truth(value: object) -> object:
    if isinstance(value, bool):
        raise ValueError("A number is wanted here, not true or false.")
    return value


Figure = Annotated[float, BeforeValidator(_no_truth)]
"""A number that somebody types: true and false are none."""
Count = Annotated[int, BeforeValidator(_no_truth)]
"""A whole number that somebody types."""


class Frozen(BaseModel):
    """An immutable value; unknown fields are refused, so that a typing slip is never silently dropped."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:  # noqa: ARG002 - pydantic's signature
        """Return a changed copy, checked like any other value, and without what was cached on the old one."""
        fields = {name: getattr(self, name) for name in type(self).model_fields}
        return type(self).model_validate(fields | dict(update or {}))

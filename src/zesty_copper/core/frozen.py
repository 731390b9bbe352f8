"""The base of every value that the core speaks of."""

from pydantic import BaseModel, ConfigDict

__all__ = ["Frozen"]


class Frozen(BaseModel):
    """An immutable value; unknown fields are refused, so that a typing slip is never silently dropped."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

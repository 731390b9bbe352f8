"""How long a contact takes to follow its coil."""

from typing import Self

from pydantic import Field, model_validator

from zesty_copper.core.frozen import Frozen

__all__ = ["AT_ONCE", "Delay"]


class Delay(Frozen):
    """Seconds, at the least and at the most."""

    least_s: float = Field(ge=0, le=1800)
    most_s: float = Field(ge=0, le=1800)

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if self.least_s > self.most_s:
            raise ValueError("The least seconds of a delay are above the most: swap them.")
        return self

    @property
    def middle_s(self) -> float:
        """Halfway between [s]."""
        return (self.least_s + self.most_s) / 2


AT_ONCE = Delay(least_s=0, most_s=0)
"""A relay or contactor: what it takes is no time here."""

"""What was measured to prove a repair, and how the proof was left."""

from datetime import date
from enum import StrEnum
from typing import Annotated

from pydantic import Field

from zesty_copper.core.frozen import Frozen
from zesty_copper.core.repair.proving.key import ProofKey

__all__ = ["Mode", "Outcome", "ProofNotes"]


class Outcome(StrEnum):
    """How the proof was left."""

    OPEN = "open"
    PROVEN = "proven"
    NOT_PROVEN = "not_proven"


class Mode(StrEnum):
    """What the equipment does while its air is read."""

    COOLING = "cooling"
    HEAT_PUMP = "heat_pump"


class ProofNotes(Frozen):
    """The numbers of a proof, what was ticked, and how it was left."""

    numbers: dict[ProofKey, Annotated[float, Field(ge=-100, le=100_000)]] = Field(
        default_factory=dict, max_length=300, description="by the item's key, in its unit"
    )
    ticked: tuple[ProofKey, ...] = Field(default=(), max_length=60, description="keys of what was seen to be so")
    mode: Mode = Field(default=Mode.COOLING, description="of equipment with a compressor")
    outcome: Outcome = Outcome.OPEN
    reason: str = Field(default="", max_length=300, description="why it could not be proven")
    return_on: date | None = Field(default=None, description="when what is open is proven")

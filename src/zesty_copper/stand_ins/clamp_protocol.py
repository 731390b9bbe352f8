"""How a logging clamp is spoken with: JSON, one object a line, over TCP (docs/logging-clamp.md)."""

from typing import Literal

from pydantic import Field

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.load_test.trace import Channel

__all__ = ["MOST_LINE_BYTES", "Begin", "Begun", "Ended", "Refused", "Sample"]

MOST_LINE_BYTES = 600_000
"""A whole circuit fits into a line."""


class Begin(Frozen):
    """Asks for samples. A real clamp needs rate and minutes; the simulated one is told what it is clamped to."""

    ask: Literal["begin"] = "begin"
    rate_hz: float = Field(default=4.0, ge=0.01, le=50)
    minutes: float = Field(default=10.0, ge=0.01, le=240)
    speed: float = Field(default=1.0, ge=1, le=600, description="how many times as fast as life the simulated one runs")
    circuit: Circuit | None = None
    fault: str | None = Field(default=None, max_length=120, description="what hides in the circuit; none: it is well")
    seed: int = 1


class Begun(Frozen):
    """Answers with what the samples are."""

    channels: tuple[Channel, ...]


class Sample(Frozen):
    """One sample: seconds since the beginning, and a number for each channel; none where the clamp lost it."""

    s: float
    v: tuple[float | None, ...]


class Ended(Frozen):
    """Says that all samples were sent."""

    ended: Literal[True] = True


class Refused(Frozen):
    """Says why nothing will come."""

    refused: str

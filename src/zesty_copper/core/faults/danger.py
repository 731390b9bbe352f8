"""What makes going on dangerous, and which tests that leaves."""

from enum import StrEnum
from typing import NamedTuple

__all__ = ["Danger", "Leaves", "StopKind"]


class Leaves(StrEnum):
    """Which tests a stop leaves."""

    BRIEF = "brief"
    """All, but called only for the seconds that a reading takes."""
    IDLE = "idle"
    """Those with every load off: the call dropped, or a switch open."""
    ISOLATED = "isolated"
    """Those with every supply opened at its first switch."""
    DEAD = "dead"
    """Ohms and looks alone, on what is locked out and proved dead."""


class StopKind(StrEnum):
    """What makes going on dangerous."""

    LIVE_METAL = "live_metal"
    LINE_ON_CONTROLS = "line_on_controls"
    SERVICE_NEUTRAL = "service_neutral"
    LEG_OR_NEUTRAL = "leg_or_neutral"
    """The service's neutral, or a leg ahead of the panel: they look alike from this circuit."""
    PHASE_LOST = "phase_lost"
    LOST_LEG = "lost_leg"
    SECOND_SUPPLY = "second_supply"
    STALLED = "stalled"
    REVERSED = "reversed"
    TRIPS = "trips"
    """Whatever protects the circuit opens at once."""


class Danger(NamedTuple):
    """What a fault endangers people or equipment by, were it the one."""

    kind: StopKind
    leaves: Leaves
    words: str

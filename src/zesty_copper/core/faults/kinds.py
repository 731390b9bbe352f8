"""The ways in which a supply is not what it should be."""

from enum import StrEnum

__all__ = ["FaultKind"]


class FaultKind(StrEnum):
    """The ways in which a supply is not what it should be."""

    OPEN = "open"
    RESISTIVE = "resistive"
    INTERMITTENT = "intermittent"
    NOT_CLOSED = "not_closed"
    WELDED = "welded"
    LOAD_OPEN = "load_open"
    LOAD_GROUND = "load_ground"
    COIL_SHORT = "coil_short"
    STALLED = "stalled"
    SHORT = "short"
    LEAK = "leak"
    UNDERSIZED = "undersized"
    WRONG_TAP = "wrong_tap"
    CROSSED = "crossed"
    BRIDGED = "bridged"
    SAME_LEG = "same_leg"
    HIGH_LEG = "high_leg"
    PRIMARY_LOST = "primary_lost"
    REVERSED = "reversed"
    WRONG_SUPPLY = "wrong_supply"
    SUPPLY_DEAD = "supply_dead"
    SUPPLY_LOW = "supply_low"
    TWO_AT_ONCE = "two_at_once"
    NOTHING_WRONG = "nothing_wrong"
    NONE_OF_THESE = "none_of_these"

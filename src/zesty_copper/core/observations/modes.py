"""What a meter is switched to, what else is at hand, and how far each can read."""

from enum import StrEnum

__all__ = ["DEAD_MODES", "LIMIT_OHM", "MeterMode", "Tool"]


class MeterMode(StrEnum):
    """What the meter does between its probes: volts at two input impedances, or ohms where it is dead."""

    HI_Z = "hi_z"
    LO_Z = "lo_z"
    OHM = "ohm"
    INSULATION = "insulation"


DEAD_MODES = frozenset({MeterMode.OHM, MeterMode.INSULATION})
"""Modes that drive a current of their own: only on what is switched off and proved dead."""
LIMIT_OHM = {MeterMode.OHM: 40e6, MeterMode.INSULATION: 200e6}
"""Above this an ohmmeter shows OL, the usual top range of a handheld meter, and an insulation tester is not read any
closer [ohm]; common practice, no source."""


class Tool(StrEnum):
    """What is at hand besides a voltmeter and a clamp."""

    LOZ = "loz"
    OHMS = "ohms"
    INSULATION = "insulation"
    TESTER = "tester"
    THERMOMETER = "thermometer"
    SEQUENCE = "sequence"
    EYES = "eyes"

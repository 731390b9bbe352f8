"""How long after its coil a contact moves."""

from enum import StrEnum
from typing import assert_never

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Switch
from zesty_copper.core.circuit.parts.delay import Delay

__all__ = ["Pace", "delay_of"]


class Pace(StrEnum):
    """Where in their ranges all delays are taken."""

    SOONEST = "soonest"
    NOMINAL = "nominal"
    LATEST = "latest"

    def of(self, delay: Delay) -> float:
        """Choose within a range [s]."""
        match self:
            case Pace.SOONEST:
                return delay.least_s
            case Pace.NOMINAL:
                return delay.middle_s
            case Pace.LATEST:
                return delay.most_s
            case _:
                assert_never(self)


def delay_of(circuit: Circuit, switch: Switch, *, pulls_in: bool) -> Delay:
    """Return how long a contact takes from its coil's volts, or from their end: its own delay, or its kind's."""
    delay = switch.closes_after if pulls_in else switch.opens_after
    if delay is not None:
        return delay
    part = next(each_part for each_part in circuit.series if each_part.switch == switch.id)
    return part.entry.closes_after if pulls_in else part.entry.opens_after

"""How long after its coil a contact moves."""

from collections.abc import Callable
from enum import Enum

from zesty_copper.core.circuit.model import Circuit, Switch

__all__ = ["Pace", "delay_of", "is_delayed"]


def _least(span: tuple[float, float]) -> float:
    return span[0]


def _middle(span: tuple[float, float]) -> float:
    return sum(span) / 2


def _most(span: tuple[float, float]) -> float:
    return span[1]


class Pace(Enum):
    """Where in their ranges all delays are taken."""

    SOONEST = (_least,)
    NOMINAL = (_middle,)
    LATEST = (_most,)

    @property
    def of(self) -> Callable[[tuple[float, float]], float]:
        """Choose within a range."""
        return self.value[0]


def delay_of(circuit: Circuit, switch: Switch, *, pulls_in: bool) -> tuple[float, float]:
    """Return the least and the most seconds from the coil's volts to the contact: the switch's own, or its kind's."""
    own = switch.on_s if pulls_in else switch.off_s
    if own is not None:
        return own
    part = next(one for one in circuit.series if one.switch == switch.id)
    return part.entry.on_s if pulls_in else part.entry.off_s


def is_delayed(circuit: Circuit, switch: Switch) -> bool:
    """Whether a contact takes its time either way."""
    return any(delay_of(circuit, switch, pulls_in=way)[1] > 0 for way in (True, False))

"""What may hold a charge after the power is off, and how it is let go.

Every single-phase motor is treated as having a capacitor until it is seen; a shaded-pole one has none. Drives and
electronic motors discharge by themselves, never by a resistor. Common practice, no source.
"""

from collections.abc import Iterator

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.parts.catalogue import ShuntModel
from zesty_copper.core.words import say

__all__ = ["discharge_steps", "may_hold_charge"]


def may_hold_charge(circuit: Circuit) -> bool:
    """Whether anything here may hold a charge after the power is off."""
    return any(_with_capacitors(circuit)) or any(_by_themselves(circuit))


def discharge_steps(circuit: Circuit) -> Iterator[str]:
    """Say how each is let go, after it was proved dead."""
    if capacitors := [part.name for part in _with_capacitors(circuit)]:
        yield say("repair.discharge_capacitors", names=", ".join(capacitors))
    if buses := [part.name for part in _by_themselves(circuit)]:
        yield say("repair.wait_for_bus", names=", ".join(buses))


def _with_capacitors(circuit: Circuit) -> Iterator[Part]:
    """Capacitors that are drawn, and single-phase motors, which have one unless it was seen that they have none."""
    for part in circuit.parts:
        entry = part.entry
        motor = entry.turns and entry.model is not ShuntModel.INDUCTION
        if entry.discharge == "resistor" or (motor and not entry.electronic):
            yield part


def _by_themselves(circuit: Circuit) -> Iterator[Part]:
    return (part for part in circuit.parts if part.entry.discharge == "waiting")

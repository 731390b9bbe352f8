"""What a family of faults must say of each of its kinds.

A family is one file of `families/`: which faults a circuit can have, how each changes the network, what to do about it
and whether it is dangerous. Nothing outside a family asks for a kind to tell these.
"""

from abc import ABC, abstractmethod
from collections.abc import Iterator
from typing import ClassVar

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part, Zone
from zesty_copper.core.circuit.point import Point
from zesty_copper.core.faults.danger import Danger
from zesty_copper.core.faults.edits import Edits, FaultChange
from zesty_copper.core.faults.fault import Fault, FaultEntry
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.words import say

__all__ = ["FaultFamily", "in_panel", "not_mine", "repair_dead"]


class FaultFamily(ABC):
    """One family of faults."""

    kinds: ClassVar[frozenset[FaultKind]]

    def certain(self, circuit: Circuit) -> Iterator[FaultEntry]:
        """Faults whose prior is a probability."""
        yield from ()

    def weighed(self, circuit: Circuit) -> Iterator[FaultEntry]:
        """Faults whose prior is a weight: they share what the certain ones leave."""
        yield from ()

    @abstractmethod
    def change(self, edits: Edits, fault: Fault) -> FaultChange:
        """How a fault changes the network.

        Raises
        ------
        ValueError
            If the fault has no network of its own.
        """

    @abstractmethod
    def advice(self, circuit: Circuit, fault: Fault) -> str:
        """What to do about a fault."""

    def touching(self, circuit: Circuit, fault: Fault) -> tuple[Point, Point] | None:
        """The two points that a fault joins so well that something may trip."""
        return None

    def danger(self, circuit: Circuit, fault: Fault) -> Danger | None:
        """Why going on would hurt people or burn equipment, if it would."""
        return None

    def single_phased(self, circuit: Circuit, fault: Fault) -> frozenset[str]:
        """The three-phase motors that a fault of one conductor leaves on a lost or poor leg."""
        return frozenset()


def not_mine(fault: Fault) -> ValueError:
    """What to raise where a fault was given to a family that does not have its kind, or that changes no network."""
    return ValueError(f"“{fault.key}” has no network of its own here.")


def in_panel(circuit: Circuit, part_id: str | None) -> bool:
    """Whether a fault is reached in the panel, or before it; the branch wires begin there."""
    return part_id is None or circuit.part(part_id).zone is Zone.PANEL


def repair_dead(circuit: Circuit, fault: Fault, part: Part | None = None) -> str:
    """Say to repair it locked out, by whom the panel is for if it is there; first what the part's own entry advises."""
    if in_panel(circuit, fault.part):
        return say("faults.inside_panel_electricians_work")
    dead = say("faults.switch_off_lock_out")
    return f"{dead} {part.entry.advice if part else ''}".rstrip()

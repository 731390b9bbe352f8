"""Two legs swapped where three were landed, ahead of a motor that then turns backwards."""

from collections.abc import Iterator

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.faults.danger import Danger, Leaves, StopKind
from zesty_copper.core.faults.edits import Edits, FaultChange
from zesty_copper.core.faults.family import FaultFamily
from zesty_copper.core.faults.fault import Fault, FaultEntry
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.priors import priors
from zesty_copper.core.words import say

__all__ = ["RotationFaults"]


class RotationFaults(FaultFamily):
    """Two legs swapped where three were landed, ahead of a motor that then turns backwards."""

    kinds = frozenset({FaultKind.REVERSED})

    def weighed(self, circuit: Circuit) -> Iterator[FaultEntry]:
        """Each supply and each run that ends ahead of a three-phase motor."""
        for part in circuit.series:
            landed = part.entry.role is PartRole.SOURCE or part.conductor is not None
            turns_one = any(part in circuit.path(motor) for motor in circuit.three_phase_motors)
            if not landed or not circuit.turning_legs(part) or not turns_one:
                continue
            where = (
                say("faults.swapped_along", name=part.name)
                if part.conductor is not None
                else say("faults.swapped_ahead_of_panel")
            )
            words = say("faults.two_legs_are_swapped", where=where)
            yield FaultEntry(FaultKind.REVERSED, part.id, None, priors().weight["reversed"], words)

    def change(self, edits: Edits, fault: Fault) -> FaultChange:
        """Volts and amps stay."""
        return FaultChange(edits, swapped_at=fault.part_in(edits.netlist.circuit).id)

    def advice(self, circuit: Circuit, fault: Fault) -> str:
        """Motors off and locked out, then swap two legs."""
        return say("faults.stop_motors_off_locked")

    def danger(self, circuit: Circuit, fault: Fault) -> Danger:
        """A scroll or screw compressor is ruined in minutes."""
        return Danger(StopKind.REVERSED, Leaves.IDLE, self.advice(circuit, fault))

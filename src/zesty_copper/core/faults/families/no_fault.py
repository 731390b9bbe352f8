"""What is no fault of this list: nothing wrong, something else, or two at once."""

from collections.abc import Iterator

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.faults.edits import Edits, FaultChange
from zesty_copper.core.faults.family import FaultFamily, not_mine, repair_dead
from zesty_copper.core.faults.fault import Fault, FaultEntry
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.priors import priors
from zesty_copper.core.words import say

__all__ = ["NoFaults"]


class NoFaults(FaultFamily):
    """What is no fault of this list: nothing wrong, something else, or two at once."""

    kinds = frozenset({FaultKind.NOTHING_WRONG, FaultKind.NONE_OF_THESE, FaultKind.TWO_AT_ONCE})

    def certain(self, circuit: Circuit) -> Iterator[FaultEntry]:
        """Nothing wrong on the path; what is not on the list comes last of all, from the catalogue."""
        words = say("faults.nothing_wrong_path")
        yield FaultEntry(FaultKind.NOTHING_WRONG, None, None, priors().whole["nothing_wrong"], words)

    def change(self, edits: Edits, fault: Fault) -> FaultChange:
        """Nothing wrong changes nothing; the others have no network."""
        if fault.kind is not FaultKind.NOTHING_WRONG:
            raise not_mine(fault)
        return FaultChange(edits)

    def advice(self, circuit: Circuit, fault: Fault) -> str:
        """What to do where no single fault of the list explains it."""
        if fault.kind is FaultKind.TWO_AT_ONCE:
            return say("faults.no_single_fault_explains")
        if fault.kind is FaultKind.NOTHING_WRONG:
            return say("faults.supply_good_far_was")
        return repair_dead(circuit, fault)

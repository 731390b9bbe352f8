"""Switches that are not closed, and contacts that are welded shut."""

from collections.abc import Iterator

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.parts.catalogue import FailureMode
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.faults.edits import Edits, FaultChange, Variant
from zesty_copper.core.faults.family import FaultFamily, repair_dead
from zesty_copper.core.faults.fault import Fault, FaultEntry
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.priors import priors
from zesty_copper.core.words import say

__all__ = ["SwitchFaults"]

SELDOM_NOT_CLOSED = 0.02
"""Chance that a switch of a kind that is no switch by itself is not closed."""


class SwitchFaults(FaultFamily):
    """Switches that are not closed, and contacts that are welded shut."""

    kinds = frozenset({FaultKind.NOT_CLOSED, FaultKind.WELDED})

    def certain(self, circuit: Circuit) -> Iterator[FaultEntry]:
        """Each switch that should be closed and may not be."""
        for switch in circuit.switches:
            part = next((p for p in circuit.series if p.switch == switch.id and not p.normally_closed), None)
            if part is not None:
                words = part.entry.say_not_closed.format(name=part.name)
                lanes = [lane for lane in circuit.lanes_of(part) if lane != GROUND]
                # Of a single conductor, not closed and open are one place.
                only = lanes[0] if len(lanes) == 1 else None
                chance = part.entry.not_closed or SELDOM_NOT_CLOSED
                yield FaultEntry(FaultKind.NOT_CLOSED, part.id, only, chance, words)

    def weighed(self, circuit: Circuit) -> Iterator[FaultEntry]:
        """Each switch whose contacts can weld."""
        for switch in circuit.switches:
            part = next((p for p in circuit.series if p.switch == switch.id and FailureMode.WELD in p.entry.may), None)
            if part is not None:
                words = say("faults.contact_welded_shut", name=part.name)
                yield FaultEntry(FaultKind.WELDED, part.id, None, priors().weight["welded"], words)

    def change(self, edits: Edits, fault: Fault) -> FaultChange:
        """The switch held open, or shut."""
        moved = frozenset({fault.part_in(edits.netlist.circuit).switch or ""})
        variant = Variant(opened=moved) if fault.kind is FaultKind.NOT_CLOSED else Variant(closed=moved)
        return FaultChange(edits, variant=variant)

    def advice(self, circuit: Circuit, fault: Fault) -> str:
        """Find why it is open; repair a welded one locked out."""
        not_closed = fault.kind is FaultKind.NOT_CLOSED
        return say("faults.prove_meter_then_find") if not_closed else repair_dead(circuit, fault)

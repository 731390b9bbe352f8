"""Loads that are open, grounded, shorted, stuck, or on the wrong tap."""

from collections.abc import Iterator

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.parts.catalogue import FailureMode, PartRole
from zesty_copper.core.circuit.point import Point
from zesty_copper.core.faults.danger import Danger, Leaves, StopKind
from zesty_copper.core.faults.edits import Edits, FaultChange, Variant
from zesty_copper.core.faults.family import FaultFamily, not_mine, repair_dead
from zesty_copper.core.faults.fault import Fault, FaultEntry
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.priors import priors
from zesty_copper.core.network.machines import inside
from zesty_copper.core.network.netlist import OMEGA
from zesty_copper.core.words import say

__all__ = ["LoadFaults"]

COIL_SHORT_RANGE_OHM = (0.3, 2.0)
"""A shorted coil; 10 to 20 Ω are normal (common practice, no source)."""


class LoadFaults(FaultFamily):
    """Loads that are open, grounded, shorted, stuck, or on the wrong tap."""

    kinds = frozenset(
        {
            FaultKind.LOAD_OPEN,
            FaultKind.LOAD_GROUND,
            FaultKind.STALLED,
            FaultKind.COIL_SHORT,
            FaultKind.WRONG_TAP,
        }
    )

    def weighed(self, circuit: Circuit) -> Iterator[FaultEntry]:
        """What each load and transformer can have, by its entry."""
        weight = priors().weight
        for part in circuit.parts:
            if part.entry.role not in (PartRole.SHUNT, PartRole.TRANSFORMER) or not part.entry.weight:
                continue
            names = [name for name, _, _ in inside(part, circuit.lanes_of(part), OMEGA).branches]
            for name in names:
                words = part.entry.say_open.format(name=part.name, branch=name)
                yield FaultEntry(FaultKind.LOAD_OPEN, part.id, name or None, part.entry.weight / len(names), words)
            if FailureMode.GROUND in part.entry.may:
                words = say("faults.grounded_winding_element", name=part.name)
                yield FaultEntry(FaultKind.LOAD_GROUND, part.id, None, weight["load_ground"], words)
            if FailureMode.STALL in part.entry.may:
                words = say("faults.does_not_turn_locked", name=part.name)
                yield FaultEntry(FaultKind.STALLED, part.id, None, weight["stalled"], words)
            if FailureMode.SHORT in part.entry.may:
                words = say("faults.coil_is_shorted", name=part.name)
                yield FaultEntry(FaultKind.COIL_SHORT, part.id, None, weight["coil_short"], words)
            if part.winding is not None and part.winding.other_tap_volts is not None:
                words = say("faults.on_wrong_tap", name=part.name)
                yield FaultEntry(FaultKind.WRONG_TAP, part.id, None, weight["wrong_tap"], words)

    def change(self, edits: Edits, fault: Fault) -> FaultChange:
        """A branch of the load opened, joined or held."""
        circuit, leg = edits.netlist.circuit, fault.leg or ""
        part = fault.part_in(circuit)
        change = FaultChange(edits, single_phasing=self.single_phased(circuit, fault))
        match fault.kind:
            case FaultKind.LOAD_OPEN:
                change.insert(part.id, leg, *edits.gap(part.id, leg))
            case FaultKind.LOAD_GROUND:
                change.touch(_to_its_frame(circuit, fault))
            case FaultKind.STALLED:
                change.variant = Variant(held=frozenset({part.id}))
            case FaultKind.COIL_SHORT:
                coil = circuit.terminals(part)
                change.join((coil[0], coil[1]), edits.within(COIL_SHORT_RANGE_OHM))
            case FaultKind.WRONG_TAP:
                change.variant = Variant(other_tap=part.id)
            case _:
                raise not_mine(fault)
        return change

    def touching(self, circuit: Circuit, fault: Fault) -> tuple[Point, Point] | None:
        """Of a grounded load its first terminal and its frame."""
        return _to_its_frame(circuit, fault) if fault.kind is FaultKind.LOAD_GROUND else None

    def advice(self, circuit: Circuit, fault: Fault) -> str:
        """Leave a grounded or stalled one off; repair the others locked out."""
        if fault.kind is FaultKind.LOAD_GROUND:
            return say("faults.do_not_reset_off")
        if fault.kind is FaultKind.STALLED:
            return say("faults.stop_once_motor_stands")
        return repair_dead(circuit, fault, fault.part_in(circuit) if fault.kind is FaultKind.LOAD_OPEN else None)

    def danger(self, circuit: Circuit, fault: Fault) -> Danger | None:
        """A motor that does not turn, and a three-phase one with an open winding."""
        if fault.kind is FaultKind.STALLED:
            return Danger(StopKind.STALLED, Leaves.BRIEF, self.advice(circuit, fault))
        if self.single_phased(circuit, fault):
            return Danger(StopKind.LOST_LEG, Leaves.IDLE, say("safety.three_phase_motor_lost"))
        return None

    def single_phased(self, circuit: Circuit, fault: Fault) -> frozenset[str]:
        """The motor itself, of an open winding."""
        if fault.kind is not FaultKind.LOAD_OPEN:
            return frozenset()
        return frozenset(motor.id for motor in circuit.three_phase_motors if motor.id == fault.part)


def _to_its_frame(circuit: Circuit, fault: Fault) -> tuple[Point, Point]:
    part = fault.part_in(circuit)
    return circuit.terminals(part)[0], circuit.ground_at(part)

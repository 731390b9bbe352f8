"""Runs of wire: too small or too long, and conductors that touch or leak to each other, to ground or to a box."""

from collections.abc import Iterator
from itertools import pairwise

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.parts.conductor import conductor_resistance_ohm
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.faults.edits import Edits, FaultChange
from zesty_copper.core.faults.family import FaultFamily, not_mine, repair_dead
from zesty_copper.core.faults.fault import Fault, FaultEntry
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.priors import priors
from zesty_copper.core.words import say

__all__ = ["WireFaults"]

UNDERSIZED_RANGE = (3.0, 20.0)
"""Resistance of a run against what it should be: five to thirteen gauge steps, or so much longer."""
UNDERSIZED_LOSS = 0.01
"""A run is not listed as too small where even the most of that loses less than this share of the volts."""
LEAK_RANGE_OHM = (20.0, 600.0)
"""A track too poor to trip anything, log-uniform [ohm]."""


class WireFaults(FaultFamily):
    """Runs of wire: too small or too long, and conductors that touch or leak to each other, to ground or to a box."""

    kinds = frozenset({FaultKind.UNDERSIZED, FaultKind.SHORT, FaultKind.LEAK})

    def weighed(self, circuit: Circuit) -> Iterator[FaultEntry]:
        """Along each run, then where bare ends sit in a box: splices, leads, contactor terminals."""
        yield from _along_runs(circuit)
        for part in circuit.series:
            if part.entry.touches_box and circuit.root(part).entry.role is PartRole.SOURCE:
                for lane in circuit.lanes_of(part):
                    if lane not in (GROUND, NEUTRAL):
                        words = say("faults.short_from_box", lane=lane, name=part.name)
                        pair = _pair(lane, GROUND)
                        yield FaultEntry(FaultKind.SHORT, part.id, pair, priors().weight["short"], words)

    def change(self, edits: Edits, fault: Fault) -> FaultChange:
        """More of the run's own resistance, or a path between two conductors."""
        circuit = edits.netlist.circuit
        change = FaultChange(edits)
        match fault.kind:
            case FaultKind.UNDERSIZED:
                part = fault.part_in(circuit)
                factor = edits.within(UNDERSIZED_RANGE).astype(complex)
                for lane in circuit.lanes_of(part):
                    if lane != GROUND:
                        own_ohm = edits.netlist.listed[edits.netlist.branches[part.id, lane]].impedance_ohm
                        change.insert(part.id, lane, own_ohm * (factor - 1), own_ohm * factor)
            case FaultKind.SHORT:
                change.touch(_ends(circuit, fault))
            case FaultKind.LEAK:
                change.join(_ends(circuit, fault), edits.within(LEAK_RANGE_OHM))
            case _:
                raise not_mine(fault)
        return change

    def touching(self, circuit: Circuit, fault: Fault) -> tuple[Point, Point] | None:
        """Of a short its two conductors; a leak trips nothing."""
        return _ends(circuit, fault) if fault.kind is FaultKind.SHORT else None

    def advice(self, circuit: Circuit, fault: Fault) -> str:
        """Leave a short off; repair the others locked out."""
        return say("faults.do_not_reset_off") if fault.kind is FaultKind.SHORT else repair_dead(circuit, fault)


def _along_runs(circuit: Circuit) -> Iterator[FaultEntry]:
    weight = priors().weight
    for part in circuit.series:
        if part.conductor is None:
            continue
        lost_volts = circuit.carried_amps(part) * conductor_resistance_ohm(part.conductor) * UNDERSIZED_RANGE[1]
        if lost_volts > UNDERSIZED_LOSS * circuit.root_volts(part):
            words = say("faults.undersized_too_long_run", name=part.name)
            yield FaultEntry(FaultKind.UNDERSIZED, part.id, None, weight["undersized"], words)
        lanes = [lane for lane in circuit.lanes_of(part) if lane != GROUND]
        pairs = [*pairwise(lanes), *((lane, GROUND) for lane in lanes if lane != NEUTRAL)]
        for a, b in pairs:
            other_words = "ground" if b == GROUND else b
            words = say("faults.short_from_along", a=a, other=other_words, name=part.name)
            yield FaultEntry(FaultKind.SHORT, part.id, _pair(a, b), weight["short"], words)
            words = say("faults.leakage_from_along", a=a, other=other_words, name=part.name)
            yield FaultEntry(FaultKind.LEAK, part.id, _pair(a, b), weight["leak"], words)


def _pair(a: str, b: str) -> str:
    return f"{a}-{b}"


def _ends(circuit: Circuit, fault: Fault) -> tuple[Point, Point]:
    """Return the two points that a short or a leak joins."""
    part = fault.part_in(circuit)
    a, _, b = (fault.leg or "").partition("-")
    return Point.at(a, part.id), circuit.ground_at(part) if b == GROUND else Point.at(b, part.id)

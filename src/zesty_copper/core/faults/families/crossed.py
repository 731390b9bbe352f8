"""Volts from elsewhere: line voltage on control wiring, and a second supply on the first one's leg."""

from collections.abc import Iterator

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import Point
from zesty_copper.core.faults.danger import Danger, Leaves, StopKind
from zesty_copper.core.faults.edits import Edits, FaultChange
from zesty_copper.core.faults.family import FaultFamily
from zesty_copper.core.faults.fault import Fault, FaultEntry
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.priors import priors
from zesty_copper.core.words import say

__all__ = ["CrossedFaults"]

CONTROL_VOLTS = 60.0
"""Highest voltage of a secondary whose wiring is control wiring [V]."""


class CrossedFaults(FaultFamily):
    """Volts from elsewhere: line voltage on control wiring, and a second supply on the first one's leg."""

    kinds = frozenset({FaultKind.CROSSED, FaultKind.BRIDGED})

    def weighed(self, circuit: Circuit) -> Iterator[FaultEntry]:
        """Each control conductor, each contact at rest in line voltage beside controls, each further supply."""
        weight = priors().weight
        transformers = [part for part in circuit.series if part.winding is not None]
        for part in transformers:
            if part.winding is not None and part.winding.secondary_volts < CONTROL_VOLTS:
                yield from _on_controls(circuit, part)
        for part in circuit.series if transformers else ():
            if part.normally_closed and circuit.root(part).entry.role is PartRole.SOURCE:
                for lane in circuit.lanes_of(part):
                    words = say("faults.line_voltage_from_comes", lane=lane, name=part.name)
                    yield FaultEntry(FaultKind.CROSSED, part.id, lane, weight["crossed"], words)
        for source in (part for part in circuit.series[1:] if part.entry.role is PartRole.SOURCE):
            words = say("faults.leg_joined_second_supply", name=source.name, legs=circuit.legs[0])
            yield FaultEntry(FaultKind.BRIDGED, source.id, None, weight["bridged"], words)

    def change(self, edits: Edits, fault: Fault) -> FaultChange:
        """The two points touch."""
        change = FaultChange(edits)
        change.touch(self.touching(edits.netlist.circuit, fault))
        return change

    def touching(self, circuit: Circuit, fault: Fault) -> tuple[Point, Point]:
        """The line and the control conductor; of two supplies a leg of each where they meet."""
        part = fault.part_in(circuit)
        if fault.kind is FaultKind.BRIDGED:
            return _last_point(circuit, circuit.series[0]), _last_point(circuit, part)
        line, between, control = (fault.leg or "").partition("-")
        if not between:
            return Point.at(line, part.id), _control_point(circuit)
        transformer = part if part.entry.role is PartRole.TRANSFORMER else circuit.root(part)
        primary = dict(zip(circuit.primary_lanes(transformer), circuit.terminals(transformer), strict=True))
        return primary[line], Point.at(control, part.id)

    def advice(self, circuit: Circuit, fault: Fault) -> str:
        """Kill the panel, or both supplies."""
        crossed = fault.kind is FaultKind.CROSSED
        return say("faults.stop_kill_panel_before") if crossed else say("faults.two_supplies_feed_box")

    def danger(self, circuit: Circuit, fault: Fault) -> Danger:
        """Both kill."""
        if fault.kind is FaultKind.CROSSED:
            return Danger(StopKind.LINE_ON_CONTROLS, Leaves.DEAD, say("safety.kill_panel_before_anyone"))
        return Danger(StopKind.SECOND_SUPPLY, Leaves.ISOLATED, self.advice(circuit, fault))


def _on_controls(circuit: Circuit, transformer: Part) -> Iterator[FaultEntry]:
    """Line voltage on each control conductor, on both sides of every contact in it."""
    lines = [lane for lane in circuit.primary_lanes(transformer) if lane != NEUTRAL]
    behind = [part for part in circuit.series if circuit.root(part) is transformer and part is not transformer]
    sites = [(part, lane) for part in (transformer, *behind) for lane in circuit.lanes_of(part)]
    weight = priors().weight["crossed"] / len(sites)
    for line in lines:
        for part, lane in sites:
            words = say("faults.line_voltage_from_has", line=line, lane=lane, name=part.name)
            yield FaultEntry(FaultKind.CROSSED, part.id, f"{line}-{lane}", weight, words)


def _control_point(circuit: Circuit) -> Point:
    transformer = next(part for part in circuit.series if part.entry.role is PartRole.TRANSFORMER)
    return Point.at(transformer.makes[0], transformer.id)


def _last_point(circuit: Circuit, source: Part) -> Point:
    """Return the point of a supply's first leg at the last run of wire that carries it: at the equipment."""
    lane = next(iter(circuit.supply_of(source).legs))
    last = [p for p in circuit.series if circuit.root(p) is source and p.conductor and lane in circuit.lanes_of(p)]
    return Point.at(lane, (last or [source])[-1].id)

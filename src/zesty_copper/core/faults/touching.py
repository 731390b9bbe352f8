"""Which two points touch in a fault that joins what should be apart."""

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.faults.kinds import FaultKind

__all__ = ["SHORT_RANGE_OHM", "SHORT_TYPICAL_OHM", "touching"]

SHORT_RANGE_OHM = (0.01, 0.5)
"""Two conductors that touch, after what it tripped; log-uniform [ohm]."""
SHORT_TYPICAL_OHM = 0.07
"""Their geometric mean, by which it is judged what trips [ohm]."""


def touching(circuit: Circuit, kind: FaultKind, part: Part, leg: str) -> tuple[Point, Point]:
    """Return the two points that touch.

    Raises
    ------
    ValueError
        If nothing touches in a fault of this kind.
    """
    match kind:
        case FaultKind.LOAD_GROUND:
            return circuit.terminals(part)[0], circuit.ground_at(part)
        case FaultKind.CROSSED:
            line, between, control = leg.partition("-")
            if not between:
                return Point.at(leg, part.id), _control_point(circuit)
            transformer = part if part.entry.role is PartRole.TRANSFORMER else circuit.root(part)
            primary = dict(zip(circuit.primary_lanes(transformer), circuit.terminals(transformer), strict=True))
            return primary[line], Point.at(control, part.id)
        case FaultKind.BRIDGED:
            return _last_point(circuit, circuit.series[0]), _last_point(circuit, part)
        case FaultKind.SHORT | FaultKind.LEAK:
            a, _, b = leg.partition("-")
            return Point.at(a, part.id), circuit.ground_at(part) if b == GROUND else Point.at(b, part.id)
        case _:
            raise ValueError(f"Nothing touches in “{kind}”.")


def _control_point(circuit: Circuit) -> Point:
    transformer = next(part for part in circuit.series if part.entry.role is PartRole.TRANSFORMER)
    return Point.at(transformer.makes[0], transformer.id)


def _last_point(circuit: Circuit, source: Part) -> Point:
    """Return the point of a supply's first leg at the last run of wire that carries it: at the equipment."""
    lane = next(iter(circuit.supply_of(source).legs))
    last = [p for p in circuit.series if circuit.root(p) is source and p.conductor and lane in circuit.lanes_of(p)]
    return Point.at(lane, (last or [source])[-1].id)

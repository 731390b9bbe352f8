"""What wire and joints as new put in the way of the current."""

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.parts.conductor import conductor_resistance_ohm

__all__ = ["closed_ohm", "way_ohm"]

WARM_C = 50.0
"""Conductor temperature taken for a run that carries its load; common practice, no source."""


def closed_ohm(part: Part) -> float:
    """Resistance of one conductor of a part when new [ohm]."""
    if part.conductor is not None:
        return conductor_resistance_ohm(part.conductor, WARM_C)
    return (part.entry.resistance_mohm or 0.0) / 1000


def way_ohm(circuit: Circuit, load: Part, lane: str) -> float:
    """Resistance of one conductor from the source to a load, everything as new [ohm]."""
    return sum(closed_ohm(part) for part in circuit.path(load) if part.has_points and lane in circuit.lanes_of(part))

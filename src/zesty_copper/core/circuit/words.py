"""How places and states are said."""

from zesty_copper.core.circuit.measurement import Around, Measurement, MeterMode, Place
from zesty_copper.core.circuit.model import GROUND, Circuit

__all__ = ["measurement_words", "place_words", "point_words", "state_words"]


def point_words(circuit: Circuit, point: str) -> str:
    """Say where a point is: `L2 at the fuse, load end`."""
    if point == GROUND:
        return "ground"
    leg, part = circuit.split_point(point)
    return f"{leg} at {part.point_name}"


def place_words(circuit: Circuit, place: Place) -> str:
    """Say what the probes or the clamp are on, the shortest way that leaves no doubt."""
    if isinstance(place, Around):
        return f"{place.leg} in the clamp at the {circuit.part(place.part).name}"
    if GROUND in (place.a, place.b):
        other = place.b if place.a == GROUND else place.a
        leg, part = circuit.split_point(other)
        return f"{leg} to ground at {part.point_name}"
    (leg_a, part_a), (leg_b, part_b) = circuit.split_point(place.a), circuit.split_point(place.b)
    if part_a == part_b:
        return f"{leg_a} to {leg_b} at {part_a.point_name}"
    if leg_a != leg_b:
        return f"{point_words(circuit, place.a)} to {point_words(circuit, place.b)}"
    first, last = sorted((circuit.series.index(part_a), circuit.series.index(part_b)))
    if last == first + 1:
        return f"across {leg_a}’s {circuit.series[last].name}"
    return f"along {leg_a} from {circuit.series[first].point_name} to {circuit.series[last].point_name}"


def state_words(circuit: Circuit, open_switches: frozenset[str]) -> str:
    """Say the state of the switches: `running` when all are closed, else the open ones."""
    if not open_switches:
        return "all closed, load called"
    return ", ".join(f"{s.name.lower()} {s.open}" for s in circuit.switches if s.id in open_switches)


def measurement_words(circuit: Circuit, measurement: Measurement) -> str:
    """Say the whole measurement."""
    meter = ", LoZ" if measurement.meter is MeterMode.LO_Z else ""
    return f"{place_words(circuit, measurement.place)}{meter} · {state_words(circuit, measurement.open_switches)}"

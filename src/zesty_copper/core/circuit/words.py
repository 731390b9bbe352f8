"""How places and states are said."""

from zesty_copper.core.circuit.catalogue import Role
from zesty_copper.core.circuit.measurement import Around, Measurement, MeterMode, Place
from zesty_copper.core.circuit.model import GROUND, Circuit, Part

__all__ = ["at_words", "measurement_words", "place_words", "point_words", "state_words"]


def at_words(circuit: Circuit, part: Part) -> str:
    """Say where a part's load side is; the supply's name is added where there are several."""
    sources = [p for p in circuit.series if p.entry.role is Role.SOURCE]
    root = circuit.root(part) if part.entry.role is not Role.TRANSFORMER else part
    further = root in sources[1:] and root is not part
    return f"{part.point_name} ({root.name})" if further else part.point_name


def point_words(circuit: Circuit, point: str) -> str:
    """Say where a point is: `L2 at the fuse, load end`."""
    if point == GROUND:
        return "ground"
    lane, part = circuit.split_point(point)
    return f"{'ground' if lane == GROUND else lane} at {at_words(circuit, part)}"


def place_words(circuit: Circuit, place: Place) -> str:
    """Say what the probes or the clamp are on, the shortest way that leaves no doubt."""
    if isinstance(place, Around):
        together = " and ".join(place.lanes) + (" together" if place.also else "")
        return f"{together} in the clamp at the {circuit.part(place.part).name}"
    if GROUND in (place.a, place.b):
        other = place.b if place.a == GROUND else place.a
        lane, part = circuit.split_point(other)
        return f"{lane} to ground at {at_words(circuit, part)}"
    (lane_a, part_a), (lane_b, part_b) = circuit.split_point(place.a), circuit.split_point(place.b)
    if part_a == part_b:
        return f"{lane_a} to {lane_b} at {at_words(circuit, part_a)}"
    if lane_a != lane_b:
        return f"{point_words(circuit, place.a)} to {point_words(circuit, place.b)}"
    first, last = sorted((part_a, part_b), key=circuit.series.index)
    if circuit.upstream_point(last, lane_a) == f"{lane_a}@{first.id}":
        return f"across {lane_a}’s {last.name}"
    return f"along {lane_a} from {at_words(circuit, first)} to {at_words(circuit, last)}"


def state_words(circuit: Circuit, open_switches: frozenset[str]) -> str:
    """Say the state of the switches: that all are closed, else the open ones."""
    if not open_switches:
        return "all closed, load called"
    return ", ".join(f"{s.name.lower()} {s.open}" for s in circuit.switches if s.id in open_switches)


def measurement_words(circuit: Circuit, measurement: Measurement) -> str:
    """Say the whole measurement."""
    meter = ", LoZ" if measurement.meter is MeterMode.LO_Z else ""
    return f"{place_words(circuit, measurement.place)}{meter} · {state_words(circuit, measurement.open_switches)}"

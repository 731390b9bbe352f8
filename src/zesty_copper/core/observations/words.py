"""How measurements, their values and their states are said."""

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.words import at_words, mark_words, point_words
from zesty_copper.core.observations.measurement import (
    INSULATION_LIMIT_OHM,
    OHM_LIMIT,
    Around,
    Between,
    Measurement,
    MeterMode,
    Near,
    Place,
    Turning,
    Unit,
    Warmth,
    Watching,
)
from zesty_copper.core.words import say

__all__ = ["asked_words", "measurement_words", "ohm_words", "place_words", "range_words", "state_words", "value_words"]


def place_words(circuit: Circuit, place: Place) -> str:
    """Say what the probes or the clamp are on, the shortest way that leaves no doubt."""
    if isinstance(place, Around):
        together = " and ".join(place.lanes) + (" together" if place.also else "")
        moment = ", at the start" if place.start else ""
        return say("circuit.amps_on_conductors", together=together, name=circuit.part(place.part).name, moment=moment)
    match place:
        case Turning():
            return say("circuit.sequence_at", at=at_words(circuit, circuit.part(place.part)))
        case Near():
            return say("circuit.non_contact_tester", point=point_words(circuit, place.point))
        case Watching():
            return _watched_words(circuit, circuit.part(place.part))
        case Warmth():
            return say("circuit.temperature_over_coolest_leg", name=circuit.part(place.part).name, leg=place.leg)
        case Between():
            return _between_words(circuit, place)


def _watched_words(circuit: Circuit, part: Part) -> str:
    """Ask what eyes and ears tell of a part."""
    if part not in circuit.loads:
        return say("circuit.is_it_pulled_in", name=part.name)
    return say("circuit.is_it_running", name=part.name, what="heating" if part.entry.is_heat else "running")


def _between_words(circuit: Circuit, place: Between) -> str:
    if GROUND in (place.a, place.b):
        point = place.b if place.a == GROUND else place.a
        lane, part = circuit.split_point(point)
        return say("circuit.point_to_ground", mark=mark_words(part, lane), at=at_words(circuit, part))
    (lane_a, part_a), (lane_b, part_b) = circuit.split_point(place.a), circuit.split_point(place.b)
    if part_a == part_b:
        return say(
            "circuit.points_of_one_part",
            mark=mark_words(part_a, lane_a),
            mark_2=mark_words(part_a, lane_b),
            at=at_words(circuit, part_a),
        )
    if lane_a != lane_b:
        return f"{point_words(circuit, place.a)} to {point_words(circuit, place.b)}"
    first, last = sorted((part_a, part_b), key=circuit.series.index)
    if circuit.upstream_point(last, lane_a) == Point.at(lane_a, first.id):
        return say("circuit.across_a_part", name=last.name, lane_a=lane_a)
    return say("circuit.along_a_conductor", lane_a=lane_a, at=at_words(circuit, first), at_2=at_words(circuit, last))


def state_words(circuit: Circuit, measurement: Measurement) -> str:
    """Say in which state it is taken: that all is closed, else the open switches; what is held, lifted or out."""
    if measurement.as_it_stands:
        return say("circuit.all_closed_unit_calling")
    opened, hands = measurement.state
    said = [f"{s.name.lower()} {s.open}" for s in circuit.switches if s.id in opened]
    for held, how in ((hands.pushed_in, "pushed in"), (hands.held_out, "held out")):
        said += [
            say("circuit.held_by_hand", name=switch.name.lower(), how=how)
            for switch in circuit.switches
            if switch.id in held
        ]
    for point in sorted(hands.lifted):
        lane, part = circuit.split_point(point)
        said.append(say("circuit.lead_lifted_ahead", lane=lane, name=part.name))
    said += [say("circuit.part_taken_out", name=circuit.part(part_id).name) for part_id in sorted(hands.removed)]
    return ", ".join(said)


def value_words(value: float, unit: Unit) -> str:
    """Say a number with its unit; of a phase sequence, the order in which the legs follow each other."""
    match unit:
        case "seq":
            return {1: "1-2-3", -1: "3-2-1"}.get(round(value), "no turning")
        case "beep":
            return "beeps" if value > 0.5 else "silent"
        case "run":
            return ("still or out", "running or in", "humming or chattering")[max(0, min(round(value), 2))]
        case "ohm":
            return ohm_words(value)
        case "degF":
            return say("circuit.degrees_over", value=value)
        case _:
            return f"{value:g} {unit}"


def ohm_words(ohm: float) -> str:
    """Say a resistance [ohm] as a meter shows it.

    >>> ohm_words(0.4), ohm_words(11500), ohm_words(4.2e6), ohm_words(40e6)
    ('0.4 Ω', '11.5 kΩ', '4.2 MΩ', 'OL')
    """
    if ohm == OHM_LIMIT:
        return "OL"
    if ohm >= INSULATION_LIMIT_OHM:
        return "over 200 MΩ"
    for size, sign in ((1e6, "MΩ"), (1e3, "kΩ")):
        if ohm >= size:
            return f"{ohm / size:.3g} {sign}"
    return f"{ohm:.3g} Ω"


def range_words(low: float, high: float, unit: Unit) -> str:
    """Say what lies between two numbers."""
    if unit in ("seq", "beep", "run"):
        ends = dict.fromkeys(value_words(end, unit) for end in (low, high))
        return " or ".join(ends)
    if unit == "ohm":
        return " to ".join(dict.fromkeys((ohm_words(low), ohm_words(high))))
    return f"{low:g} to {high:g} {unit}"


def asked_words(circuit: Circuit, measurement: Measurement) -> str:
    """Say place and meter."""
    meter = {MeterMode.LO_Z: ", LoZ", MeterMode.OHM: ", ohms", MeterMode.INSULATION: ", insulation"}
    return place_words(circuit, measurement.place) + meter.get(measurement.meter, "")


def measurement_words(circuit: Circuit, measurement: Measurement) -> str:
    """Say the whole measurement."""
    return f"{asked_words(circuit, measurement)} · {state_words(circuit, measurement)}"

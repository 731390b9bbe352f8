"""How measurements, their values and their states are said."""

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.observations.measurement import Measurement
from zesty_copper.core.observations.modes import MeterMode
from zesty_copper.core.observations.registry import Unit, observation_in
from zesty_copper.core.words import say

__all__ = ["asked_words", "measurement_words", "range_words", "state_words", "value_words"]

_METER = {MeterMode.LO_Z: ", LoZ", MeterMode.OHM: ", ohms", MeterMode.INSULATION: ", insulation"}


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


def asked_words(circuit: Circuit, measurement: Measurement) -> str:
    """Say place and meter."""
    words = measurement.observation.place_words(circuit, measurement.place)
    return words + _METER.get(measurement.meter, "")


def measurement_words(circuit: Circuit, measurement: Measurement) -> str:
    """Say the whole measurement."""
    return f"{asked_words(circuit, measurement)} · {state_words(circuit, measurement)}"


def value_words(value: float, unit: Unit) -> str:
    """Say a value with its unit; of a phase sequence, the order in which the legs follow each other."""
    return observation_in(unit).value_words(value)


def range_words(low: float, high: float, unit: Unit) -> str:
    """Say what lies between two values."""
    return observation_in(unit).range_words(low, high)

"""What was measured, where, with what, and in which state of the switches."""

import math
from typing import Annotated

from pydantic import Field, PlainSerializer, field_validator

from zesty_copper.core.circuit.hands import FREE, Hands, check_hands
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Identifier, Zone
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Figure, Frozen
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.volts import Volts
from zesty_copper.core.observations.modes import DEAD_MODES, MeterMode
from zesty_copper.core.observations.observation import AnyObservation
from zesty_copper.core.observations.registry import Place, Unit, observation_at
from zesty_copper.core.words import say

__all__ = [
    "Measurement",
    "OpenSwitches",
    "Reading",
    "check_measurement",
    "check_reading",
    "doubts_about",
    "zone_of",
]

LEAST_SHOWN = 1e-6
"""In volts, amps or ohms; no meter in this trade shows less."""

OpenSwitches = Annotated[frozenset[Identifier], PlainSerializer(sorted, return_type=list[str])]
"""The switches that are open; every other one is closed."""


class Measurement(Frozen):
    """A question to the meter: where, with what, in which state."""

    place: Place
    meter: MeterMode = MeterMode.HI_Z
    open_switches: OpenSwitches = frozenset()
    hands: Hands = FREE

    @property
    def as_it_stands(self) -> bool:
        """Whether every switch is closed and nothing is held or off: the equipment as the call runs it."""
        return not self.open_switches and self.hands == FREE

    @property
    def state(self) -> tuple[OpenSwitches, Hands]:
        """The state in which it is taken: readings of the same state speak of the same network."""
        return self.open_switches, self.hands

    @property
    def observation(self) -> AnyObservation:
        """Its kind."""
        return observation_at(self.place, is_dead=self.meter in DEAD_MODES)

    @property
    def is_volts(self) -> bool:
        """Whether volts are read between two points."""
        return isinstance(self.observation, Volts)

    @property
    def unit(self) -> Unit:
        """In what it is read."""
        unit: Unit = self.observation.unit
        return unit


class Reading(Frozen):
    """A measurement and the number the meter showed, in its unit."""

    id: str = Field(min_length=1, max_length=64, description="made where the number was typed")
    measurement: Measurement
    value: Figure
    unit: Unit

    @field_validator("value")
    @classmethod
    def _as_shown(cls, value: float) -> float:
        """What is less than any meter shows is shown as nothing."""
        return 0.0 if abs(value) < LEAST_SHOWN else value

    @property
    def is_steady(self) -> bool:
        """Whether it was read while things stayed as they are: a start says nothing of how a circuit runs."""
        return not (isinstance(self.measurement.place, Around) and self.measurement.place.start)

    @property
    def is_volts(self) -> bool:
        """Whether volts were read between two points."""
        return self.measurement.is_volts

    @property
    def on_scale(self) -> float:
        """The value on the scale of its kind."""
        return float(self.measurement.observation.on_scale(self.value))


def check_measurement(circuit: Circuit, measurement: Measurement) -> None:
    """Raise BadInput for a point, leg, conductor or switch that the circuit lacks or the state takes away."""
    by_hand = {switch.id for switch in circuit.by_hand}
    for switch in sorted(measurement.open_switches - by_hand):
        if switch in {each_switch.id for each_switch in circuit.switches}:
            raise BadInput(say("circuit.switch_follows_coil_leave", switch=switch), "measurement.open_switches")
        raise BadInput(say("circuit.circuit_has_no_switch", switch=switch), "measurement.open_switches")
    check_hands(circuit, measurement.hands)
    measurement.observation.check_place(circuit, measurement.place, measurement)


def check_reading(circuit: Circuit, reading: Reading) -> None:
    """Raise BadInput, naming the field, if a meter on this circuit could not have shown this."""
    check_measurement(circuit, reading.measurement)
    kind = reading.measurement.observation
    if reading.unit != kind.unit:
        raise BadInput(say("circuit.measurement_read_not", wanted=kind.unit_words, unit=reading.unit), "unit")
    if not math.isfinite(reading.value):
        raise BadInput(say("circuit.reading_not_number_type"), "value")
    kind.check_value(reading.value)


def doubts_about(circuit: Circuit, reading: Reading) -> str:
    """Ask about a value that is possible but strange; empty when there is nothing to ask."""
    return reading.measurement.observation.doubt(circuit, reading)


def zone_of(circuit: Circuit, measurement: Measurement) -> Zone:
    """Which cover must be open for it; the one nearer the source where the probes are in two."""
    return measurement.observation.zone(circuit, measurement.place)

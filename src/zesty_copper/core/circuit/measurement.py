"""What was measured, where, with what, and in which state of the switches."""

import math
from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field, PlainSerializer

from zesty_copper.core.circuit.catalogue import Role
from zesty_copper.core.circuit.model import GROUND, Circuit, Identifier, Lane
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen

__all__ = [
    "METER_LIMIT_VOLTS",
    "Around",
    "Between",
    "Measurement",
    "MeterMode",
    "OpenSwitches",
    "Place",
    "Reading",
    "check_measurement",
    "check_reading",
    "doubts_about",
]

METER_LIMIT_VOLTS = 1000.0
"""The highest voltage the meter's category allows (CAT III 1,000 V)."""
METER_LIMIT_AMPS = 1000.0

OpenSwitches = Annotated[frozenset[Identifier], PlainSerializer(sorted, return_type=list[str])]
"""The switches that are open; every other one is closed."""


class MeterMode(StrEnum):
    """How the voltmeter loads what it touches."""

    HI_Z = "hi_z"
    LO_Z = "lo_z"


class Between(Frozen):
    """Volts from one point to another; the order does not matter."""

    kind: Literal["between"] = "between"
    a: str
    b: str


class Around(Frozen):
    """Amps in what the clamp closes around: one conductor, or the phasor sum of several."""

    kind: Literal["around"] = "around"
    leg: str
    part: Identifier
    also: tuple[Lane, ...] = Field(default=(), max_length=3, description="further conductors in the jaws")

    @property
    def lanes(self) -> tuple[str, ...]:
        """Every conductor in the jaws."""
        return (self.leg, *self.also)


Place = Annotated[Between | Around, Field(discriminator="kind")]


class Measurement(Frozen):
    """A question to the meter: where, with what, in which state."""

    place: Place
    meter: MeterMode = MeterMode.HI_Z
    open_switches: OpenSwitches = frozenset()

    @property
    def unit(self) -> Literal["V", "A"]:
        """V or A."""
        return "V" if isinstance(self.place, Between) else "A"


class Reading(Frozen):
    """A measurement and the number the meter showed, in its unit."""

    id: str = Field(min_length=1, max_length=64, description="made where the number was typed")
    measurement: Measurement
    value: float
    unit: Literal["V", "A"]


def check_measurement(circuit: Circuit, measurement: Measurement) -> None:
    """Raise BadInput for a point, leg, conductor or switch that the circuit lacks or the state takes away."""
    place = measurement.place
    by_hand = {switch.id for switch in circuit.by_hand}
    for switch in sorted(measurement.open_switches - by_hand):
        if switch in {known.id for known in circuit.switches}:
            raise BadInput(
                f"The switch “{switch}” follows its coil: leave it out, and say what calls it.",
                "measurement.open_switches",
            )
        raise BadInput(f"This circuit has no switch “{switch}”.", "measurement.open_switches")
    if isinstance(place, Around):
        _check_clamp(circuit, place)
        return
    if place.a == place.b:
        raise BadInput("Both probes are on one point: move one of them.", "measurement.place.b")
    for end, point in (("a", place.a), ("b", place.b)):
        if point == GROUND:
            continue
        try:
            _, part = circuit.split_point(point)
        except BadInput as error:
            raise BadInput(error.message, f"measurement.place.{end}") from None
        if circuit.on_removed_carrier(part, measurement.open_switches):
            raise BadInput(
                f"The {part.name} is out of the box with its carrier: choose a point that stays, or push it in.",
                f"measurement.place.{end}",
            )


def _check_clamp(circuit: Circuit, place: Around) -> None:
    """Raise BadInput for a conductor or part that no clamp can close around."""
    part = circuit.part(place.part)
    for lane in place.lanes:
        if lane not in circuit.lanes:
            raise BadInput(
                f"This circuit has no conductor “{lane}”: it has {', '.join(circuit.lanes)}.",
                "measurement.place.leg",
            )
    if not part.entry.clampable:
        raise BadInput(
            f"A clamp does not fit around the {part.name}: close it around a wire.", "measurement.place.part"
        )
    for lane in place.lanes:
        if lane not in circuit.lanes_of(part):
            raise BadInput(f"{lane} does not run to the {part.name}.", "measurement.place.leg")
    if len(set(place.lanes)) < len(place.lanes):
        raise BadInput("One conductor is named twice: name each in the jaws once.", "measurement.place.also")


def check_reading(circuit: Circuit, reading: Reading) -> None:
    """Raise BadInput, naming the field, if a meter on this circuit could not have shown this."""
    check_measurement(circuit, reading.measurement)
    if reading.unit != reading.measurement.unit:
        wanted = "volts (V)" if reading.measurement.unit == "V" else "amps (A)"
        raise BadInput(f"This measurement is read in {wanted}, not in {reading.unit}.", "unit")
    if not math.isfinite(reading.value):
        raise BadInput("The reading is not a number: type what the meter shows.", "value")
    if reading.value < 0:
        raise BadInput("An alternating-current reading has no minus sign: leave it out.", "value")
    if reading.unit == "V" and reading.value > METER_LIMIT_VOLTS:
        raise BadInput("That is beyond the meter's 1,000 V category: check the decimal point.", "value")
    if reading.unit == "A" and reading.value > METER_LIMIT_AMPS:
        raise BadInput("That is beyond the clamp's 1,000 A range: check the decimal point.", "value")


def doubts_about(circuit: Circuit, reading: Reading) -> str:
    """Ask about a value that is possible but strange; empty when there is nothing to ask."""
    if reading.unit == "V":
        ends = reading.measurement.place
        to_ground = isinstance(ends, Between) and GROUND in (ends.a, ends.b)
        legs = [
            abs(volts)
            for part in circuit.series
            if part.entry.role is Role.SOURCE
            for volts in circuit.supply_of(part).phasors.values()
        ]
        most = 1.2 * (max(legs) if to_ground else circuit.highest_volts)
        if reading.value > most:
            return f"{reading.value:g} V is more than this supply can give there: is the decimal point right?"
        return ""
    rated = circuit.rated_amps
    if reading.value > 2 * rated:
        return f"{reading.value:g} A is far above the {rated:g} A of the largest load: decimal point, or a start?"
    return ""

"""What was measured, where, with what, and in which state of the switches."""

import math
from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field, PlainSerializer, field_validator

from zesty_copper.core.circuit.hands import FREE, Hands, check_hands, own_ends, taken_out
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Identifier, Lane, Part
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Figure, Frozen
from zesty_copper.core.words import say

__all__ = [
    "DEAD_MODES",
    "INSULATION_LIMIT_OHM",
    "METER_LIMIT_VOLTS",
    "METER_LIMIT_WARMTH",
    "OHM_LIMIT",
    "WORD_STEPS",
    "Around",
    "Between",
    "Measurement",
    "MeterMode",
    "Near",
    "OpenSwitches",
    "Place",
    "Reading",
    "Turning",
    "Unit",
    "Warmth",
    "Watching",
    "check_measurement",
    "check_reading",
    "doubts_about",
]

LEAST_SHOWN = 1e-6
"""In volts, amps or ohms; no meter in this trade shows less."""
METER_LIMIT_VOLTS = 1000.0
"""The highest voltage the meter's category allows (CAT III 1,000 V)."""
METER_LIMIT_AMPS = 1000.0
OHM_LIMIT = 40e6
"""Above this an ohmmeter shows OL [ohm]: the usual top range of a handheld meter; common practice, no source."""
INSULATION_LIMIT_OHM = 200e6
"""Above this an insulation tester is not read any closer [ohm]; common practice, no source."""
METER_LIMIT_WARMTH = 500.0
"""Above this nothing here stays whole [°F over its mates]."""

OpenSwitches = Annotated[frozenset[Identifier], PlainSerializer(sorted, return_type=list[str])]
"""The switches that are open; every other one is closed."""


class MeterMode(StrEnum):
    """What the meter does between its probes: volts at two input impedances, or ohms where it is dead."""

    HI_Z = "hi_z"
    LO_Z = "lo_z"
    OHM = "ohm"
    INSULATION = "insulation"


DEAD_MODES = frozenset({MeterMode.OHM, MeterMode.INSULATION})
"""Modes that drive a current of their own: only on what is switched off and proved dead."""


class Between(Frozen):
    """Volts or ohms from one point to another; the order does not matter."""

    kind: Literal["between"] = "between"
    a: Point
    b: Point


class Around(Frozen):
    """Amps in what the clamp closes around: one conductor, or the phasor sum of several."""

    kind: Literal["around"] = "around"
    leg: str
    part: Identifier
    also: tuple[Lane, ...] = Field(default=(), max_length=3, description="further conductors in the jaws")
    start: bool = Field(default=False, description="the highest amps of a start (inrush), gone in a second or so")

    @property
    def lanes(self) -> tuple[str, ...]:
        """Every conductor in the jaws."""
        return (self.leg, *self.also)


class Turning(Frozen):
    """Phase sequence of the three legs behind a part: which way a motor there would turn."""

    kind: Literal["turning"] = "turning"
    part: Identifier


class Near(Frozen):
    """A non-contact tester held to a conductor: it can say live, never dead."""

    kind: Literal["near"] = "near"
    point: Point


class Watching(Frozen):
    """A load or a contactor, seen and heard: still or out, running or in, humming or chattering."""

    kind: Literal["watching"] = "watching"
    part: Identifier


class Warmth(Frozen):
    """How much hotter a part is on one conductor than on its coolest mate, by an infrared thermometer, load running."""

    kind: Literal["warmth"] = "warmth"
    part: Identifier
    leg: Lane


Place = Annotated[Between | Around | Turning | Near | Watching | Warmth, Field(discriminator="kind")]
Unit = Literal["V", "A", "seq", "ohm", "beep", "run", "degF"]
"""Volts; amps; phase sequence, which is 1 in the order of the legs' names, −1 against it, 0 where nothing turns; ohms;
whether a tester beeps, 1 or 0; 0 still or out, 1 running or in, 2 humming or chattering; degrees Fahrenheit above the
coolest mate."""
WORD_STEPS: dict[str, tuple[int, ...]] = {"seq": (-1, 0, 1), "beep": (0, 1), "run": (0, 1, 2)}
"""What can be read where no number is."""
"""Values of what is no number."""


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
    def unit(self) -> Unit:
        """In what it is read."""
        match self.place:
            case Between():
                return "ohm" if self.meter in DEAD_MODES else "V"
            case Around():
                return "A"
            case Turning():
                return "seq"
            case Near():
                return "beep"
            case Watching():
                return "run"
            case Warmth():
                return "degF"


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


def check_measurement(circuit: Circuit, measurement: Measurement) -> None:
    """Raise BadInput for a point, leg, conductor or switch that the circuit lacks or the state takes away."""
    place = measurement.place
    by_hand = {switch.id for switch in circuit.by_hand}
    for switch in sorted(measurement.open_switches - by_hand):
        if switch in {each_switch.id for each_switch in circuit.switches}:
            raise BadInput(
                say("circuit.switch_follows_coil_leave", switch=switch),
                "measurement.open_switches",
            )
        raise BadInput(say("circuit.circuit_has_no_switch", switch=switch), "measurement.open_switches")
    check_hands(circuit, measurement.hands)
    match place:
        case Around():
            _check_clamp(circuit, place)
        case Turning():
            _check_turning(circuit, place, measurement.open_switches)
        case Near():
            if place.point == GROUND:
                raise BadInput(say("circuit.ground_says_nothing_tester"), "measurement.place.point")
            _check_point(circuit, place.point, "point", measurement)
        case Watching():
            _check_watching(circuit, place)
        case Warmth():
            _check_warmth(circuit, place)
        case Between():
            _check_between(circuit, place, measurement)


def _check_point(circuit: Circuit, point: Point, end: str, measurement: Measurement) -> None:
    try:
        lane, part = circuit.split_point(point)
    except BadInput as error:
        raise BadInput(error.message, f"measurement.place.{end}") from None
    # What lies in the hand with its carrier is dead, and can be ohmed there; so can a part with its leads off.
    dead = measurement.meter in DEAD_MODES
    if part.id in measurement.hands.removed:
        if dead:
            return
        raise BadInput(say("circuit.taken_out_own_leads", name=part.name), f"measurement.place.{end}")
    if not part.has_points:
        raise BadInput(
            say("circuit.reached_only_leads_off", lane=lane, name=part.name),
            f"measurement.place.{end}",
        )
    if not dead and circuit.on_removed_carrier(part, measurement.open_switches):
        raise BadInput(
            say("circuit.out_box_carrier_choose", name=part.name),
            f"measurement.place.{end}",
        )


def _check_between(circuit: Circuit, place: Between, measurement: Measurement) -> None:
    if place.a == place.b:
        raise BadInput(say("circuit.both_probes_are_one"), "measurement.place.b")
    dead = measurement.meter in DEAD_MODES
    out = taken_out(circuit, measurement.hands, (place.a, place.b))
    for end, point in (("a", place.a), ("b", place.b)):
        if point == GROUND:
            continue
        _check_point(circuit, point, end, measurement)
        lane, part = circuit.split_point(point)
        if out is not None:
            if point not in _reached(circuit, out):
                raise BadInput(
                    say("circuit.taken_out_both_probes", name=out.name),
                    f"measurement.place.{end}",
                )
        elif dead and lane != GROUND and not circuit.is_dead(part, measurement.open_switches):
            raise BadInput(
                say("circuit.ohms_are_read_only", lane=lane, name=part.name),
                "measurement.open_switches",
            )
    if measurement.meter is MeterMode.INSULATION:
        ends = [circuit.split_point(point)[1] for point in (place.a, place.b) if point != GROUND]
        joined = circuit.joined_to(ends[0], measurement.open_switches) if ends and out is None else ()
        for load in (out,) if out is not None else joined:
            if load is not out and _is_off(circuit, load, measurement.hands):
                continue
            if load.entry.capacitive or load.entry.electronic:
                raise BadInput(
                    say("circuit.still_connected_insulation_test", name=load.name),
                    "measurement.meter",
                )


def _reached(circuit: Circuit, out: Part) -> tuple[str, ...]:
    """Points that are on a part that was taken out: its own leads, and of a part in a run the end ahead of it."""
    ahead = [circuit.upstream_point(out, lane) for lane, _ in circuit.pairs_of(out)] if out.has_points else []
    return (*own_ends(circuit, out), *(point for point in ahead if point is not None))


def _is_off(circuit: Circuit, load: Part, hands: Hands) -> bool:
    """Whether a load hangs on nothing any more: taken out, or behind a part or a lead that is off on each conductor."""
    above = circuit.path(load)
    if any(part.id in hands.removed for part in above):
        return True
    return all(any(Point.at(lane, part.id) in hands.lifted for part in above) for lane in circuit.lanes_of(load))


def _check_turning(circuit: Circuit, place: Turning, open_switches: frozenset[str]) -> None:
    part = circuit.part(place.part)
    if len(circuit.turning_legs(part)) != 3:
        raise BadInput(
            say("circuit.three_legs_are_needed", name=part.name),
            "measurement.place.part",
        )
    if circuit.on_removed_carrier(part, open_switches):
        raise BadInput(
            say("circuit.out_box_carrier_choose_point", name=part.name),
            "measurement.place.part",
        )


def _check_watching(circuit: Circuit, place: Watching) -> None:
    part = circuit.part(place.part)
    if part not in circuit.watched:
        raise BadInput(
            say("circuit.does_nothing_could_seen", name=part.name),
            "measurement.place.part",
        )


def _check_warmth(circuit: Circuit, place: Warmth) -> None:
    part = circuit.part(place.part)
    if part.conductor is not None or part.entry.role is not PartRole.SERIES:
        raise BadInput(say("circuit.heat_compared_joint_device", name=part.name), "measurement.place.part")
    circuit.check_reaches(place.leg, part, "measurement.place.leg")


def _check_clamp(circuit: Circuit, place: Around) -> None:
    """Raise BadInput for a conductor or part that no clamp can close around."""
    part = circuit.part(place.part)
    for lane in place.lanes:
        circuit.check_lane(lane, "measurement.place.leg")
    if not part.entry.clampable:
        raise BadInput(say("circuit.clamp_does_not_fit", name=part.name), "measurement.place.part")
    for lane in place.lanes:
        circuit.check_reaches(lane, part, "measurement.place.leg")
    if len(set(place.lanes)) < len(place.lanes):
        raise BadInput(say("circuit.one_conductor_named_twice"), "measurement.place.also")


_UNIT_WORDS: dict[str, str] = {
    "V": "volts (V)",
    "A": "amps (A)",
    "seq": say("circuit.unit_of_sequence"),
    "ohm": "ohms (ohm)",
    "beep": say("circuit.unit_of_tester"),
    "run": say("circuit.unit_of_watching"),
    "degF": say("circuit.unit_of_warmth"),
}


def check_reading(circuit: Circuit, reading: Reading) -> None:
    """Raise BadInput, naming the field, if a meter on this circuit could not have shown this."""
    check_measurement(circuit, reading.measurement)
    if reading.unit != reading.measurement.unit:
        wanted = _UNIT_WORDS[reading.measurement.unit]
        raise BadInput(say("circuit.measurement_read_not", wanted=wanted, unit=reading.unit), "unit")
    if not math.isfinite(reading.value):
        raise BadInput(say("circuit.reading_not_number_type"), "value")
    if (steps := WORD_STEPS.get(reading.unit)) is not None:
        if reading.value not in steps:
            raise BadInput(
                say(
                    "circuit.not_a_word_of_the_unit",
                    unit_words=_UNIT_WORDS[reading.unit],
                    map=", ".join(map(str, steps)),
                ),
                "value",
            )
        return
    if reading.value < 0:
        raise BadInput(say("circuit.reading_has_no_minus"), "value")
    if reading.unit == "degF" and reading.value > METER_LIMIT_WARMTH:
        raise BadInput(say("circuit.hotter_than_anything_here"), "value")
    if reading.unit == "V" and reading.value > METER_LIMIT_VOLTS:
        raise BadInput(say("circuit.beyond_volts_of_meter"), "value")
    if reading.unit == "A" and reading.value > METER_LIMIT_AMPS:
        raise BadInput(say("circuit.beyond_amps_of_clamp"), "value")


def doubts_about(circuit: Circuit, reading: Reading) -> str:
    """Ask about a value that is possible but strange; empty when there is nothing to ask."""
    if reading.unit == "V":
        ends = reading.measurement.place
        to_ground = isinstance(ends, Between) and GROUND in (ends.a, ends.b)
        legs = [
            abs(volts)
            for part in circuit.series
            if part.entry.role is PartRole.SOURCE
            for volts in circuit.supply_of(part).phasors.values()
        ]
        most = 1.2 * (max(legs) if to_ground else circuit.highest_volts)
        if reading.value > most:
            return say("circuit.v_more_than_supply", value=reading.value)
        return ""
    if reading.unit == "ohm":
        return _doubt_about_ohms(circuit, reading)
    rated = circuit.rated_amps
    if not reading.is_steady:
        return ""
    if reading.unit == "A" and reading.value > 2 * rated:
        return say("circuit.far_above_largest_load", value=reading.value, rated=rated)
    return ""


def _doubt_about_ohms(circuit: Circuit, reading: Reading) -> str:
    """Ask whether a load was lifted, where its own resistance lies between the probes."""
    place = reading.measurement.place
    if not isinstance(place, Between) or reading.value > OHM_LIMIT / 10:
        return ""
    ends = [(GROUND, None) if p == GROUND else circuit.split_point(p) for p in (place.a, place.b)]
    (lane_a, part_a), (lane_b, part_b) = ends
    part = part_a or part_b
    if lane_a == lane_b or GROUND in (lane_a, lane_b) or part is None:
        return ""
    for load in circuit.joined_to(part, reading.measurement.open_switches):
        if {lane_a, lane_b} <= set(circuit.primary_lanes(load) if load.has_points else circuit.lanes_of(load)):
            return say("circuit.still_connected_between_may", name=load.name, lane_a=lane_a, lane_b=lane_b)
    return ""

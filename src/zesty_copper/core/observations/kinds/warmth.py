"""How much hotter a part is on one conductor than on its coolest mate, by an infrared thermometer."""

import math
import re
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Identifier, Lane, Part
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.modes import Tool
from zesty_copper.core.observations.observation import Observation, Settled
from zesty_copper.core.observations.written import lane_of
from zesty_copper.core.words import say

if TYPE_CHECKING:
    from zesty_copper.core.observations.measurement import Measurement, Reading

__all__ = ["TemperatureOver", "Warmth"]

LIMIT_DEGREES = 500.0
"""Above this nothing here stays whole [°F over its mates]."""
WARMTH_DEGREES = 5.0
"""Below this a difference of temperature is not told from none [°F]; common practice, no source."""
DEGREES_A_WATT = 9.0
"""What a watt makes of a joint the size of a fingertip in a box [°F/W]; common practice, no source."""
DEVIATION = 0.6
"""What a watt makes of a joint hangs on its size and its air, within a factor of two; common practice, no source."""
UNLISTED_HOT = 0.2
"""Share of unlisted faults that make a joint hotter than its mates by any amount; common practice, no source."""
_DEGREES = re.compile(r"^([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)f$")


class Warmth(Frozen):
    """How much hotter a part is on one conductor than on its coolest mate, by an infrared thermometer, load running."""

    kind: Literal["warmth"] = "warmth"
    part: Identifier
    leg: Lane


class TemperatureOver(Observation[Warmth]):
    """Degrees Fahrenheit above the coolest mate: on the scale of their logarithm, since they are known to a factor."""

    unit = "degF"
    place = Warmth
    sign, after = "°F", "°F over"
    label, says = "°F", "Temperature compared with the other legs, infrared"
    picks = "pole"
    touch = ("Temperature of", "Touch the joint or device you aim at")
    unit_words = say("circuit.unit_of_warmth")
    least_reach = 0.4
    minutes, further_minutes = 0.6, 0.3
    tool = Tool.THERMOMETER

    def check_place(self, circuit: Circuit, place: Warmth, measurement: "Measurement") -> None:
        """Raise BadInput for what is no joint or device, or a conductor that does not reach it."""
        part = circuit.part(place.part)
        if part.conductor is not None or part.entry.role is not PartRole.SERIES:
            raise BadInput(say("circuit.heat_compared_joint_device", name=part.name), "measurement.place.part")
        circuit.check_reaches(place.leg, part, "measurement.place.leg")

    def check_value(self, value: float) -> None:
        """Raise BadInput for what is hotter than anything here stays whole at."""
        super().check_value(value)
        if value > LIMIT_DEGREES:
            raise BadInput(say("circuit.hotter_than_anything_here"), "value")

    def is_read_at(self, circuit: Circuit, part: Part) -> bool:
        """At joints and devices."""
        return part.conductor is None and part.entry.role is PartRole.SERIES

    def asked(self, circuit: Circuit, within: Sequence[Part], open_switches: frozenset[str]) -> Iterator[Warmth]:
        """Every hot of every joint in line voltage, while it runs."""
        for part in within if not open_switches else ():
            is_joint = part.conductor is None and part.entry.role is PartRole.SERIES
            if is_joint and circuit.root(part).entry.role is PartRole.SOURCE:
                for lane in circuit.lanes_of(part):
                    if lane not in (GROUND, NEUTRAL):
                        yield Warmth(part=part.id, leg=lane)

    def part_at(self, circuit: Circuit, place: Warmth) -> Part:
        """Its own."""
        return circuit.part(place.part)

    def place_words(self, circuit: Circuit, place: Warmth) -> str:
        """Say the joint and the conductor."""
        return say("circuit.temperature_over_coolest_leg", name=circuit.part(place.part).name, leg=place.leg)

    def value_words(self, value: float) -> str:
        """Say degrees over."""
        return say("circuit.degrees_over", value=value)

    def procedure(self, circuit: Circuit, first: "Measurement", places: Sequence[str]) -> tuple[str, ...]:
        """Let it run, then read."""
        return say("diagnosis.let_run_five_minutes"), say("diagnosis.read_the_temperature", said=places[0])

    def caution(self, measurement: "Measurement") -> str:
        """Shiny metal reads cool."""
        return say("diagnosis.shiny_metal_reads_cool")

    def written_place(self, circuit: Circuit, place: Warmth) -> list[str]:
        """The part and the conductor."""
        return [place.part, place.leg]

    def written_value(self, circuit: Circuit, reading: "Reading") -> str:
        """Degrees with a plus."""
        return f"+{reading.value!r}F"

    def read_written(self, circuit: Circuit, part: Part, words: Sequence[str]) -> tuple[Warmth, float] | None:
        """`L2 +35F`."""
        match = _DEGREES.match(words[-1].lower())
        if len(words) != 2 or match is None:
            return None
        return Warmth(part=part.id, leg=lane_of(circuit, part, words[0].upper())), float(match[1])

    def on_scale(self, value: NDArray[np.float64] | float) -> NDArray[np.float64]:
        """Return the logarithm of degrees, from a few on."""
        return np.asarray(np.log1p(np.clip(np.asarray(value), 0, LIMIT_DEGREES) / WARMTH_DEGREES))

    def off_scale(self, at: float) -> float:
        """Return degrees."""
        return float(max(np.expm1(at) * WARMTH_DEGREES, 0.0))

    def noise_variance(
        self, predicted: NDArray[np.floating], wander: NDArray[np.floating] | float, step: float | None = None
    ) -> NDArray[np.floating]:
        """The same wherever it lies."""
        return np.full(np.shape(predicted), DEVIATION**2) + np.square(wander)

    def range_density(self, line_volts: float, rated_amps: float) -> float:
        """Anything up to what nothing survives."""
        return 1 / float(self.on_scale(LIMIT_DEGREES))

    def unlisted_density(self, circuit: Circuit, value: float) -> float:
        """What is not on the list seldom heats just the one joint that was looked at."""
        near_none = math.exp(-0.5 * (float(self.on_scale(value)) / DEVIATION) ** 2) * math.sqrt(2 / math.pi)
        anything = super().unlisted_density(circuit, value)
        return UNLISTED_HOT * anything + (1 - UNLISTED_HOT) * near_none / DEVIATION

    def sense(self, settled: Settled, place: Warmth) -> NDArray[np.float64]:
        """How much hotter than its coolest mate, from the watts each burns."""
        circuit = settled.circuit
        part = circuit.part(place.part)
        mates = [lane for lane in circuit.lanes_of(part) if lane not in (GROUND, NEUTRAL)]
        burnt = {lane: _watts(settled, part, lane) for lane in dict.fromkeys((place.leg, *mates))}
        coolest = np.min([burnt[lane] for lane in burnt], axis=0) if len(burnt) > 1 else 0.0
        return self.on_scale(DEGREES_A_WATT * (burnt[place.leg] - coolest))


def _watts(settled: Settled, part: Part, lane: str) -> NDArray[np.float64]:
    """What one pole of a part turns into heat [W]."""
    circuit = settled.circuit
    # A thermostat's Y begins at the thermostat: what flows in comes on R.
    into = next(into for into, made in circuit.pairs_of(part) if made == lane)
    before, behind = settled.volts_at(circuit.point_ahead(part, into), Point.at(lane, part.id))
    (amps,) = settled.amps_in(part, lane)
    return np.asarray(((before - behind) * np.conj(amps)).real)

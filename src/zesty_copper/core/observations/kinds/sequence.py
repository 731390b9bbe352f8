"""Phase sequence: which way a three-phase motor behind a part would turn."""

import cmath
import math
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Identifier, Part
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import Point
from zesty_copper.core.circuit.reachable import reachable_states
from zesty_copper.core.circuit.words import at_words
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.modes import Tool
from zesty_copper.core.observations.observation import Settled, Word
from zesty_copper.core.observations.slips import ANY_NUMBER_SHARE
from zesty_copper.core.words import say

if TYPE_CHECKING:
    from zesty_copper.core.observations.measurement import Measurement, Reading

__all__ = ["PhaseSequence", "Turning"]

TURNS_FROM_VOLTS = 10.0
"""Below about so much nothing turns [V]; common practice, no source."""
_WRITTEN = {"1-2-3": 1.0, "3-2-1": -1.0, "none": 0.0}
_TURNS = "turns"


class Turning(Frozen):
    """Phase sequence of the three legs behind a part: which way a motor there would turn."""

    kind: Literal["turning"] = "turning"
    part: Identifier


class PhaseSequence(Word[Turning]):
    """Phase sequence of three legs: 1 in the order of their names, −1 against it, 0 where nothing turns."""

    unit = "seq"
    place = Turning
    label, says = "1-2-3", "Phase sequence, clips on three legs"
    picks = "legs"
    touch = ("Phase sequence at", "Touch a row with three legs")
    asks = "Phase sequence shown"
    unit_words = say("circuit.unit_of_sequence")
    steps = (-1, 0, 1)
    value_names: ClassVar = {1: "1-2-3", -1: "3-2-1", 0: "no turning"}
    deviation = 0.2
    """A lost leg turns by less than all."""
    minutes, further_minutes = 1.0, 0.85
    tool = Tool.SEQUENCE
    tells_legs = True

    def check_place(self, circuit: Circuit, place: Turning, measurement: "Measurement") -> None:
        """Raise BadInput where there are no three legs, or they are out of the box with their carrier."""
        part = circuit.part(place.part)
        if len(circuit.turning_legs(part)) != 3:
            raise BadInput(say("circuit.three_legs_are_needed", name=part.name), "measurement.place.part")
        if circuit.on_removed_carrier(part, measurement.open_switches):
            raise BadInput(say("circuit.out_box_carrier_choose_point", name=part.name), "measurement.place.part")

    def is_read_at(self, circuit: Circuit, part: Part) -> bool:
        """Where three legs follow each other round behind a part."""
        return part.entry.role is not PartRole.TRANSFORMER and bool(circuit.turning_legs(part))

    def asked(self, circuit: Circuit, within: Sequence[Part], open_switches: frozenset[str]) -> Iterator[Turning]:
        """Runs of wires that feed three legs to a motor which the least opened state keeps from turning."""
        resting = reachable_states(circuit)[:2][-1]
        if open_switches != resting:
            return
        for part in within:
            if part.conductor is None or not circuit.turning_legs(part):
                continue
            fed = not any(above.switch in open_switches for above in circuit.path(part))
            if fed and any(part in circuit.path(motor) for motor in circuit.three_phase_motors):
                yield Turning(part=part.id)

    def part_at(self, circuit: Circuit, place: Turning) -> Part:
        """Its own."""
        return circuit.part(place.part)

    def place_words(self, circuit: Circuit, place: Turning) -> str:
        """Say where the clips go."""
        return say("circuit.sequence_at", at=at_words(circuit, circuit.part(place.part)))

    def procedure(self, circuit: Circuit, first: "Measurement", places: Sequence[str]) -> tuple[str, ...]:
        """Clip on while it is off, stand clear, read."""
        return say("diagnosis.power_off_clip_three"), say("diagnosis.stand_clear_switch_read")

    def caution(self, measurement: "Measurement") -> str:
        """Three clips are live at once."""
        return say("diagnosis.three_live_clips_set")

    def written_place(self, circuit: Circuit, place: Turning) -> list[str]:
        """The part, and that it turns."""
        return [place.part, _TURNS]

    def written_value(self, circuit: Circuit, reading: "Reading") -> str:
        """The order of the legs."""
        return next(word for word, value in _WRITTEN.items() if value == reading.value)

    def read_written(self, circuit: Circuit, part: Part, words: Sequence[str]) -> tuple[Turning, float] | None:
        """`turns 1-2-3`."""
        if len(words) != 2 or words[0].lower() != _TURNS:
            return None
        if words[1].lower() not in _WRITTEN:
            raise BadInput(say("tools.say_how_phases_follow"), "line")
        return Turning(part=part.id), _WRITTEN[words[1].lower()]

    def next_words(self, circuit: Circuit, part: Part, words: Sequence[str]) -> Iterator[str]:
        """`turns`, then the order."""
        if not words and circuit.turning_legs(part):
            yield _TURNS
        if list(words) == [_TURNS]:
            yield from _WRITTEN

    def slips(self, value: float) -> list[tuple[float, float]]:
        """Two clips swapped."""
        return [(-value, 1 - ANY_NUMBER_SHARE)]

    def sense(self, settled: Settled, place: Turning) -> NDArray[np.float64]:
        """Which way three legs follow each other: (V₁² − V₂²)/(V₁² + V₂²), positive against negative sequence.

        Symmetrical components (Fortescue, Trans. AIEE 37 (1918) 1027-1140); 0 where next to nothing is there to turn.
        """
        circuit = settled.circuit
        part = circuit.part(place.part)
        operator = cmath.rect(1, 2 * math.pi / 3)
        first, second, third = settled.volts_at(*(Point.at(leg, part.id) for leg in circuit.turning_legs(part)))
        forward = np.abs(first + operator * second + operator**2 * third) ** 2 / 9
        backward = np.abs(first + operator**2 * second + operator * third) ** 2 / 9
        sign = np.where(settled.is_swapped_ahead(part), -1.0, 1.0)
        return np.asarray(sign * ((forward - backward) / (forward + backward + TURNS_FROM_VOLTS**2)))

"""A non-contact tester held to a conductor: it can say live, never dead."""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.words import point_words
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.kinds.between import check_point
from zesty_copper.core.observations.modes import Tool
from zesty_copper.core.observations.observation import Settled, Word
from zesty_copper.core.observations.written import lane_of
from zesty_copper.core.words import say

if TYPE_CHECKING:
    from zesty_copper.core.observations.measurement import Measurement, Reading

__all__ = ["Near", "Tester"]

BEEPS_FROM_VOLTS = 60.0
"""Voltage to ground from which a non-contact tester likelier beeps than not [V]: makers say from 50 or 90 V; common
practice, no source."""
BEEP_WIDTH = 0.3
"""How gradually it begins to, in nepers of voltage."""
_WRITTEN = {"beeps": 1.0, "silent": 0.0}


class Near(Frozen):
    """A non-contact tester held to a conductor: it can say live, never dead."""

    kind: Literal["near"] = "near"
    point: Point


class Tester(Word[Near]):
    """Whether a non-contact tester beeps, 1 or 0."""

    unit = "beep"
    place = Near
    label, says = "Tester", "Non-contact tester"
    picks = "point"
    touch = ("Tester on", "Touch the conductor it is held to")
    asks = "What the tester says"
    unit_words = say("circuit.unit_of_tester")
    steps = (0, 1)
    value_names: ClassVar = {1: "beeps", 0: "silent"}
    deviation = 0.5
    """Shielding, insulation and ground nearby keep testers silent about one time in ten."""
    minutes, further_minutes = 0.3, 0.2
    tool = Tool.TESTER

    def check_place(self, circuit: Circuit, place: Near, measurement: "Measurement") -> None:
        """Raise BadInput for ground, and for what is not within reach."""
        if place.point == GROUND:
            raise BadInput(say("circuit.ground_says_nothing_tester"), "measurement.place.point")
        check_point(circuit, place.point, "point", measurement)

    def part_at(self, circuit: Circuit, place: Near) -> Part:
        """That of the point."""
        return circuit.split_point(place.point)[1]

    def asked(self, circuit: Circuit, within: Sequence[Part], open_switches: frozenset[str]) -> Iterator[Near]:
        """Every hot of every run."""
        for part in within:
            for lane in circuit.lanes_of(part) if part.conductor is not None else ():
                if lane not in (GROUND, NEUTRAL):
                    yield Near(point=Point.at(lane, part.id))

    def place_words(self, circuit: Circuit, place: Near) -> str:
        """Say the conductor."""
        return say("circuit.non_contact_tester", point=point_words(circuit, place.point))

    def procedure(self, circuit: Circuit, first: "Measurement", places: Sequence[str]) -> tuple[str, ...]:
        """Try it on something live first."""
        return (
            say("diagnosis.try_tester_something_known"),
            say("diagnosis.hold_tester_on", said=places[0].removeprefix("non-contact tester on ")),
        )

    def caution(self, measurement: "Measurement") -> str:
        """Silence proves nothing."""
        return say("diagnosis.beep_says_live_silence")

    def written_place(self, circuit: Circuit, place: Near) -> list[str]:
        """The part and the conductor."""
        lane, part = circuit.split_point(place.point)
        return [part.id, lane]

    def written_value(self, circuit: Circuit, reading: "Reading") -> str:
        """Whether it beeps."""
        return next(word for word, value in _WRITTEN.items() if value == reading.value)

    def read_written(self, circuit: Circuit, part: Part, words: Sequence[str]) -> tuple[Near, float] | None:
        """`L1 beeps`."""
        if len(words) != 2 or words[1].lower() not in _WRITTEN:
            return None
        lane = lane_of(circuit, part, words[0].upper())
        return Near(point=Point.at(lane, part.id)), _WRITTEN[words[1].lower()]

    def next_words(self, circuit: Circuit, part: Part, words: Sequence[str]) -> Iterator[str]:
        """Behind a single conductor."""
        if len(words) == 1 and words[0].upper() in circuit.lanes_of(part):
            yield from _WRITTEN

    def sense(self, settled: Settled, place: Near) -> NDArray[np.float64]:
        """How likely a tester beeps at what a conductor is at, ghosts included: it loads nothing."""
        volts = np.abs(settled.volts_at(place.point)[0])
        return np.asarray(1 / (1 + (BEEPS_FROM_VOLTS / np.maximum(volts, 1e-3)) ** (1 / BEEP_WIDTH)))

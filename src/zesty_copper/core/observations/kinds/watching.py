"""A load or a contactor, seen and heard: still or out, running or in, humming or chattering."""

import math
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Identifier, Part
from zesty_copper.core.circuit.parts.catalogue import FailureMode
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.modes import Tool
from zesty_copper.core.observations.observation import Settled, Word
from zesty_copper.core.words import say

if TYPE_CHECKING:
    from zesty_copper.core.observations.measurement import Measurement, Reading

__all__ = ["HUMS", "Watched", "Watching"]

HUMS = 2.0
"""The value of what hums or chatters."""

RUNS_FROM = 0.25
"""Share of its current from which a load is seen to do something; common practice, no source."""
HUMS_FROM = 2.5
"""Multiple of its current from which a motor stands and hums: locked rotors draw four to six times."""
_WRITTEN = {"still": 0.0, "out": 0.0, "runs": 1.0, "in": 1.0, "hums": HUMS, "chatters": HUMS}
_OF_LOADS, _OF_CONTACTORS = ("still", "runs", "hums"), ("out", "in", "chatters")


class Watching(Frozen):
    """A load or a contactor, seen and heard: still or out, running or in, humming or chattering."""

    kind: Literal["watching"] = "watching"
    part: Identifier


class Watched(Word[Watching]):
    """What a load or a contactor does: 0 still or out, 1 running or in, 2 humming or chattering."""

    unit = "run"
    place = Watching
    label, says = "Runs?", "Watch and hear a load or a contactor"
    picks = "part"
    touch = ("Watch and hear", "Touch a load or a contactor")
    asks = "What is seen and heard"
    unit_words = say("circuit.unit_of_watching")
    steps = (0, 1, 2)
    value_names: ClassVar = {0: "still or out", 1: "running or in", 2: "hums or chatters"}
    deviation = 0.3
    """One watcher in a thousand takes a hum for running."""
    minutes, further_minutes = 0.2, 0.05
    tool = Tool.EYES
    at_a_glance = True

    def check_place(self, circuit: Circuit, place: Watching, measurement: "Measurement") -> None:
        """Raise BadInput for what does nothing that could be seen."""
        part = circuit.part(place.part)
        if part not in circuit.watched:
            raise BadInput(say("circuit.does_nothing_could_seen", name=part.name), "measurement.place.part")

    def is_read_at(self, circuit: Circuit, part: Part) -> bool:
        """Where something can be seen or heard to work."""
        return part in circuit.watched

    def asked(self, circuit: Circuit, within: Sequence[Part], open_switches: frozenset[str]) -> Iterator[Watching]:
        """What can be watched in every box that is open."""
        zones = {part.zone for part in within}
        yield from (Watching(part=part.id) for part in circuit.watched if part.zone in zones)

    def part_at(self, circuit: Circuit, place: Watching) -> Part:
        """Its own."""
        return circuit.part(place.part)

    def place_words(self, circuit: Circuit, place: Watching) -> str:
        """Ask what eyes and ears tell of a part."""
        part = circuit.part(place.part)
        if part not in circuit.loads:
            return say("circuit.is_it_pulled_in", name=part.name)
        return say("circuit.is_it_running", name=part.name, what="heating" if part.entry.is_heat else "running")

    def procedure(self, circuit: Circuit, first: "Measurement", places: Sequence[str]) -> tuple[str, ...]:
        """Watch and listen."""
        return (say("diagnosis.watch_listen_touch_nothing"),)

    def caution(self, measurement: "Measurement") -> str:
        """Hands off what turns."""
        return say("diagnosis.hands_off_what_turns")

    def written_place(self, circuit: Circuit, place: Watching) -> list[str]:
        """The part."""
        return [place.part]

    def written_value(self, circuit: Circuit, reading: "Reading") -> str:
        """What it does, in the word for a load or for a contactor."""
        place = reading.measurement.place
        is_load = isinstance(place, Watching) and circuit.part(place.part) in circuit.loads
        return (_OF_LOADS if is_load else _OF_CONTACTORS)[round(reading.value)]

    def read_written(self, circuit: Circuit, part: Part, words: Sequence[str]) -> tuple[Watching, float] | None:
        """`runs`."""
        if len(words) != 1 or words[0].lower() not in _WRITTEN:
            return None
        return Watching(part=part.id), _WRITTEN[words[0].lower()]

    def next_words(self, circuit: Circuit, part: Part, words: Sequence[str]) -> Iterator[str]:
        """What it may do."""
        if not words and part in circuit.watched:
            yield from _OF_LOADS if part in circuit.loads else _OF_CONTACTORS

    def sense(self, settled: Settled, place: Watching) -> NDArray[np.float64]:
        """What it is seen to do."""
        part = settled.circuit.part(place.part)
        if part not in settled.circuit.loads:
            return (~settled.is_open(part.switch)).astype(float)
        assert part.load is not None  # loads have plates
        amps = np.abs(settled.amps_in(part))
        usual = part.load.rated_amps / (
            math.sqrt(3) if len(amps) == 3 and FailureMode.STALL not in part.entry.may else 1
        )
        # The busiest winding says whether it does anything at all.
        share = amps.max(axis=0) / usual
        hums = (share > HUMS_FROM) | (settled.stands(part) & (share > RUNS_FROM))
        hums &= FailureMode.STALL in part.entry.may
        return np.where(hums, HUMS, np.where(share > RUNS_FROM, 1.0, 0.0))

    def sense_chatter(
        self,
        circuit: Circuit,
        place: Watching,
        both: tuple[NDArray[np.float64], NDArray[np.float64]],
        chatters: NDArray[np.bool_],
    ) -> NDArray[np.float64] | None:
        """A contactor that moves to and fro is heard as that; a load is seen in one position or the other."""
        if circuit.part(place.part) in circuit.loads:
            return None
        before, after = both
        return np.where(chatters & (before != after), HUMS, before)

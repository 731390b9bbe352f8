"""Amps in what the clamp closes around."""

from collections.abc import Sequence
from typing import TYPE_CHECKING, Literal

from pydantic import Field

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Identifier, Lane, Part
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.observation import Phasor
from zesty_copper.core.words import say

if TYPE_CHECKING:
    from zesty_copper.core.observations.measurement import Measurement, Reading

__all__ = ["Amps", "Around"]

LIMIT_AMPS = 1000.0


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


class Amps(Phasor[Around]):
    """Amps in what the clamp closes around."""

    unit = "A"
    place = Around
    sign, after = "A~", "A"
    label, says = "A", "Amps, clamp around one conductor"
    picks = "jaws"
    touch = ("Clamp on", "Touch the wire to clamp")
    unit_words = "amps (A)"
    drift = 0.015
    least_reach = 1.5
    minutes, further_minutes = 1.0, 0.85

    def check_place(self, circuit: Circuit, place: Around, measurement: "Measurement") -> None:
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

    def check_value(self, value: float) -> None:
        """Raise BadInput above what a clamp shows."""
        super().check_value(value)
        if value > LIMIT_AMPS:
            raise BadInput(say("circuit.beyond_amps_of_clamp"), "value")

    def doubt(self, circuit: Circuit, reading: "Reading") -> str:
        """Ask about far more than the largest load takes, but at a start."""
        rated = circuit.rated_amps
        if not reading.is_steady or reading.value <= 2 * rated:
            return ""
        return say("circuit.far_above_largest_load", value=reading.value, rated=rated)

    def part_at(self, circuit: Circuit, place: Around) -> Part:
        """Its own."""
        return circuit.part(place.part)

    def place_words(self, circuit: Circuit, place: Around) -> str:
        """Say the conductors in the jaws."""
        together = " and ".join(place.lanes) + (" together" if place.also else "")
        moment = ", at the start" if place.start else ""
        return say("circuit.amps_on_conductors", together=together, name=circuit.part(place.part).name, moment=moment)

    def procedure(self, circuit: Circuit, first: "Measurement", places: Sequence[str]) -> tuple[str, ...]:
        """Close the jaws around each."""
        return tuple(say("diagnosis.close_jaws_around", one=text.removeprefix("amps on ")) for text in places)

    def caution(self, measurement: "Measurement") -> str:
        """Two conductors in the jaws cancel."""
        return say("diagnosis.one_conductor_alone_jaws")

    def written_place(self, circuit: Circuit, place: Around) -> list[str]:
        """The part, and the conductors with a plus between them."""
        return [place.part, "+".join(place.lanes)]

    def range_density(self, line_volts: float, rated_amps: float) -> float:
        """Anything up to three times the largest load [1/A]."""
        return 1 / (3 * rated_amps)

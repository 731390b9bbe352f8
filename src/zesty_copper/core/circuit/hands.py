"""What a hand holds or has taken off while a reading is taken, beside the switches it moved."""

from typing import Annotated

from pydantic import Field, PlainSerializer

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Identifier, Part
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.words import say

__all__ = ["FREE", "Hands", "check_hands", "no_lead", "own_ends", "taken_out"]

Names = Annotated[frozenset[Identifier], PlainSerializer(sorted, return_type=list[str])]
Points = Annotated[frozenset[Point], PlainSerializer(sorted, return_type=list[str])]


class Hands(Frozen):
    """A contact pushed in or held out, a lead lifted, a part taken out."""

    pushed_in: Names = Field(default=frozenset(), description="contacts that follow a coil, pushed in by hand")
    held_out: Names = Field(default=frozenset(), description="contacts that follow a coil, kept out by hand")
    lifted: Points = Field(default=frozenset(), description="leads taken off ahead of a part: the point is on the lead")
    removed: Names = Field(default=frozenset(), description="parts with every lead off, or on the desk")

    @property
    def take_apart(self) -> bool:
        """Whether something is off, so that what is equal in a whole circuit need not be."""
        return bool(self.lifted or self.removed)


FREE = Hands()
"""Nothing is held, nothing is off."""


def own_ends(circuit: Circuit, part: Part) -> tuple[Point, ...]:
    """Points on a part's own leads, which a probe reaches once it is taken out; ground is its frame."""
    return tuple(Point.at(lane, part.id) for lane in circuit.lanes_of(part) if lane != GROUND)


def taken_out(circuit: Circuit, hands: Hands, points: tuple[Point, ...]) -> Part | None:
    """Return the part taken out on whose own leads the probes are; None where they are in the box."""
    for part_id in hands.removed:
        part = circuit.part(part_id)
        if any(point in own_ends(circuit, part) for point in points):
            return part
    return None


def no_lead(lane: str, part: Part, field: str) -> BadInput:
    """What to say of a lead that is not there to be lifted."""
    return BadInput(say("circuit.there_no_lead_lift", lane=lane, name=part.name), field)


def check_hands(circuit: Circuit, hands: Hands) -> None:
    """Raise BadInput for a contact, lead or part that the circuit lacks or that no hand holds or takes off."""
    moved = {switch.id for switch in circuit.held}
    for field, named in (("pushed_in", hands.pushed_in), ("held_out", hands.held_out)):
        for switch in sorted(named - moved):
            raise BadInput(say("circuit.no_coil_moves_only", switch=switch), f"measurement.hands.{field}")
    for switch in sorted(hands.pushed_in & hands.held_out):
        raise BadInput(say("circuit.cannot_pushed_held_out", switch=switch), "measurement.hands.held_out")
    for point in sorted(hands.lifted):
        lane, part = circuit.split_point(point)
        if part.entry.role is not PartRole.SERIES or lane == GROUND:
            raise no_lead(lane, part, "measurement.hands.lifted")
    for part_id in sorted(hands.removed):
        part = circuit.part(part_id)
        if part.entry.role is PartRole.SOURCE:
            raise BadInput(say("circuit.not_yours_take_out", name=part.name), "measurement.hands.removed")

"""Two probes on two points: where volts and ohms are read."""

from collections.abc import Sequence
from typing import TYPE_CHECKING, Literal

from zesty_copper.core.circuit.hands import own_ends, taken_out
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part, Zone
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.words import at_words, mark_words, point_words
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.modes import DEAD_MODES
from zesty_copper.core.observations.observation import Observation
from zesty_copper.core.words import say

if TYPE_CHECKING:
    from zesty_copper.core.observations.measurement import Measurement

__all__ = ["Between", "TwoProbes", "check_point"]


class Between(Frozen):
    """Volts or ohms from one point to another; the order does not matter."""

    kind: Literal["between"] = "between"
    a: Point
    b: Point


class TwoProbes(Observation[Between]):
    """What volts and ohms have in common."""

    place = Between

    def check_place(self, circuit: Circuit, place: Between, measurement: "Measurement") -> None:
        """Raise BadInput for a point that no probe reaches, or one that may be live under a dead mode."""
        if place.a == place.b:
            raise BadInput(say("circuit.both_probes_are_one"), "measurement.place.b")
        out = taken_out(circuit, measurement.hands, (place.a, place.b))
        for end, point in (("a", place.a), ("b", place.b)):
            if point == GROUND:
                continue
            check_point(circuit, point, end, measurement)
            lane, part = circuit.split_point(point)
            if out is not None:
                if point not in _reached(circuit, out):
                    raise BadInput(say("circuit.taken_out_both_probes", name=out.name), f"measurement.place.{end}")
            elif self.is_dead and lane != GROUND and not circuit.is_dead(part, measurement.open_switches):
                raise BadInput(
                    say("circuit.ohms_are_read_only", lane=lane, name=part.name), "measurement.open_switches"
                )

    def part_at(self, circuit: Circuit, place: Between) -> Part:
        """The one nearer the source where the probes are in two boxes."""
        order = list(Zone)
        parts = (circuit.split_point(point)[1] for point in (place.a, place.b) if point != GROUND)
        return min(parts, key=lambda part: order.index(part.zone))

    def place_words(self, circuit: Circuit, place: Between) -> str:
        """Say both points, or what lies between them."""
        if GROUND in (place.a, place.b):
            point = place.b if place.a == GROUND else place.a
            lane, part = circuit.split_point(point)
            return say("circuit.point_to_ground", mark=mark_words(part, lane), at=at_words(circuit, part))
        (lane_a, part_a), (lane_b, part_b) = circuit.split_point(place.a), circuit.split_point(place.b)
        if part_a == part_b:
            return say(
                "circuit.points_of_one_part",
                mark=mark_words(part_a, lane_a),
                mark_2=mark_words(part_a, lane_b),
                at=at_words(circuit, part_a),
            )
        if lane_a != lane_b:
            return f"{point_words(circuit, place.a)} to {point_words(circuit, place.b)}"
        first, last = sorted((part_a, part_b), key=circuit.series.index)
        if circuit.upstream_point(last, lane_a) == Point.at(lane_a, first.id):
            return say("circuit.across_a_part", name=last.name, lane_a=lane_a)
        at, at_2 = at_words(circuit, first), at_words(circuit, last)
        return say("circuit.along_a_conductor", lane_a=lane_a, at=at, at_2=at_2)

    def written_place(self, circuit: Circuit, place: Between) -> list[str]:
        """Two conductors behind one part, a part on one conductor, or two points."""
        ends = [(GROUND, None) if point == GROUND else circuit.split_point(point) for point in (place.a, place.b)]
        (lane_a, part_a), (lane_b, part_b) = ends
        named = part_a or part_b
        shared = part_a is None or part_b is None or part_a == part_b
        # A point on the grounding conductor is not the ground at hand: it is said whole.
        plain = all(part is None or lane != GROUND for lane, part in ends)
        if named is not None and shared and plain:
            return [named.id, f"{lane_a}-{lane_b}"]
        if part_b is not None and lane_a == lane_b and circuit.upstream_point(part_b, lane_b) == place.a:
            return [part_b.id, lane_b, "across"]
        return [place.a, place.b]


def check_point(circuit: Circuit, point: Point, end: str, measurement: "Measurement") -> None:
    """Raise BadInput, naming the end, for a point that nothing reaches in this state."""
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
        raise BadInput(say("circuit.reached_only_leads_off", lane=lane, name=part.name), f"measurement.place.{end}")
    if not dead and circuit.on_removed_carrier(part, measurement.open_switches):
        raise BadInput(say("circuit.out_box_carrier_choose", name=part.name), f"measurement.place.{end}")


def _reached(circuit: Circuit, out: Part) -> Sequence[str]:
    """Points that are on a part that was taken out: its own leads, and of a part in a run the end ahead of it."""
    ahead = [circuit.upstream_point(out, lane) for lane, _ in circuit.pairs_of(out)] if out.has_points else []
    return (*own_ends(circuit, out), *(point for point in ahead if point is not None))

"""A circuit: parts that hang one on the other, from their sources to the loads, on every conductor."""

from collections.abc import Iterator
from functools import cached_property
from typing import Self

from pydantic import Field, model_validator

from zesty_copper.core.circuit.part import NEUTRAL, Part, Switch
from zesty_copper.core.circuit.parts.catalogue import PartRole, ShuntModel
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.systems import Supply, SystemName, supplies
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.words import say

__all__ = ["MOST_PARTS", "Circuit"]

MOST_PARTS = 240
"""As many as the largest rooftop unit has with every terminal drawn, twice over."""


class Circuit(Frozen):
    """Parts in an order in which each comes after the one it hangs on. Behind each, on each conductor, lies a point."""

    name: str = Field(min_length=1, max_length=80)
    system: SystemName
    switches: tuple[Switch, ...] = Field(max_length=24)
    parts: tuple[Part, ...] = Field(min_length=3, max_length=MOST_PARTS)

    @model_validator(mode="after")
    def _check(self) -> Self:
        ids = [part.id for part in self.parts]
        if len(set(ids)) != len(ids):
            raise ValueError("Two parts share one id: give each part its own.")
        if self.parts[0].entry.role is not PartRole.SOURCE:
            raise ValueError("The circuit must begin with a source.")
        if not any(part.entry.role is PartRole.SHUNT for part in self.parts):
            raise ValueError("The circuit needs at least one load.")
        switch_ids = {switch.id for switch in self.switches}
        before: set[str] = set()
        for part in self.parts:
            _check_part(part, switch_ids)
            if part.entry.role is not PartRole.SOURCE and self.feed(part).id not in before:
                raise ValueError(f"Part “{part.id}” hangs on “{part.after}”, which must stand before it.")
            before |= {part.id} if part.has_points else set()
        for part in self.parts:
            self._check_lanes(part)
        for unused in switch_ids - {part.switch for part in self.parts}:
            raise ValueError(f"No part is opened by the switch “{unused}”: name it on a part or leave it out.")
        for switch in self.switches:
            if switch.coil is not None and switch.coil not in self._by_id:
                raise ValueError(f"The switch “{switch.id}” names the coil “{switch.coil}”, which is not there.")
            if switch.coil is not None and self._by_id[switch.coil].load is None:
                raise ValueError(
                    f"The switch “{switch.id}” is moved by “{switch.coil}”, which is no coil: name its coil."
                )
        return self

    def __eq__(self, other: object) -> bool:
        return self is other or (hash(self) == hash(other) and super().__eq__(other))

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        """Found once: everything that is kept of a circuit is looked up by it."""
        return hash((self.name, self.system, self.switches, tuple(part.model_dump_json() for part in self.parts)))

    def _check_lanes(self, part: Part) -> None:
        """Check that a part's conductors reach it."""
        lanes = self.lanes_of(part)
        if part.entry.role is PartRole.SOURCE:
            supply = self.supply_of(part)
            brought = {*supply.legs, GROUND, *((NEUTRAL,) if supply.neutral else ())}
            for lane in set(lanes) - brought:
                raise ValueError(f"The {part.name} brings {lane}, which a supply of {supply.label} does not have.")
            return
        for lane, _ in self.pairs_of(part):
            if self.upstream_point(part, lane) is None:
                raise ValueError(f"The {part.name} is on {lane}, which does not reach it.")
        if part.entry.role is PartRole.SHUNT:
            lane_count = 2 if part.entry.model is ShuntModel.ELEMENT else 3
            if len(lanes) < lane_count or len(lanes) > 3:
                raise ValueError(f"The {part.name} must join {lane_count} conductors: say which.")

    @cached_property
    def supply(self) -> Supply:
        """The first source's system."""
        return supplies()[self.system]

    @cached_property
    def legs(self) -> tuple[str, ...]:
        """Names of the ungrounded conductors of the first source."""
        return tuple(self.supply.legs)

    @cached_property
    def lanes(self) -> tuple[str, ...]:
        """Every conductor's name, in the order of appearance, ground last."""
        lanes = dict.fromkeys(lane for part in self.parts if part.has_points for lane in self.lanes_of(part))
        lanes.pop(GROUND, None)
        return (*lanes, GROUND)

    @cached_property
    def _by_id(self) -> dict[str, Part]:
        return {part.id: part for part in self.parts}

    @cached_property
    def _feeds(self) -> dict[str, Part | None]:
        feeds: dict[str, Part | None] = {}
        last: Part | None = None
        for part in self.parts:
            named = self._by_id.get(part.after) if part.after else last
            feeds[part.id] = None if part.entry.role is PartRole.SOURCE else (named or part)
            # A transformer's secondary is entered only by naming it.
            if part.entry.role in (PartRole.SOURCE, PartRole.SERIES):
                last = part
        return feeds

    @cached_property
    def _lanes(self) -> dict[str, tuple[str, ...]]:
        return {part.id: self._find_lanes(part) for part in self.parts}

    @cached_property
    def series(self) -> tuple[Part, ...]:
        """Sources, transformers and the parts that carry current on: all that have points, in order."""
        return tuple(part for part in self.parts if part.has_points)

    @cached_property
    def loads(self) -> tuple[Part, ...]:
        """What the circuit is there for: shunts that are not idle paths."""
        return tuple(p for p in self.parts if p.entry.role is PartRole.SHUNT and not p.entry.idle)

    @cached_property
    def three_phase_motors(self) -> tuple[Part, ...]:
        """Loads that turn with the phases, and that a lost leg starves."""
        return tuple(load for load in self.loads if load.entry.model is ShuntModel.INDUCTION)

    @cached_property
    def watched(self) -> tuple[Part, ...]:
        """What can be seen or heard to work: loads, and contacts that a coil moves."""
        coiled = {switch.id for switch in self.switches if switch.coil is not None}
        first = {
            part.switch: part for part in reversed(self.series) if part.switch in coiled and not part.normally_closed
        }
        return (*self.loads, *(part for part in self.series if part in first.values()))

    @cached_property
    def by_hand(self) -> tuple[Switch, ...]:
        """Switches that a hand, or a call, moves; the others follow their coils."""
        return tuple(switch for switch in self.switches if switch.coil is None)

    @cached_property
    def held(self) -> tuple[Switch, ...]:
        """Contacts that a hand can push in or keep out, whether the coil that moves them is drawn here or not."""
        moved = {part.switch for part in self.series if part.entry.armature}
        return tuple(switch for switch in self.switches if switch.id in moved)

    @cached_property
    def rated_amps(self) -> float:
        """The largest current that a single load asks for [A]."""
        return max((part.load.rated_amps for part in self.loads if part.load), default=20.0)

    @cached_property
    def usual_volts(self) -> tuple[float, ...]:
        """Voltages that lie between healthy conductors here, none among them, the highest last [V]."""
        volts = {0.0}
        for part in self.series:
            if part.entry.role is PartRole.SOURCE:
                volts |= set(self.supply_of(part).gathering_volts)
            if part.winding is not None:
                volts.add(part.winding.secondary_volts)
        return tuple(sorted(volts))

    @property
    def highest_volts(self) -> float:
        """The highest voltage between healthy conductors [V]."""
        return self.usual_volts[-1]

    def part(self, part_id: str) -> Part:
        """Return the part with this id, or raise BadInput."""
        try:
            return self._by_id[part_id]
        except KeyError:
            raise BadInput(say("circuit.circuit_has_no_part", part_id=part_id), "place") from None

    def feed(self, part: Part) -> Part:
        """Return the part on which another hangs; a source hangs on itself."""
        return self._feeds[part.id] or part

    @cached_property
    def _paths(self) -> dict[str, tuple[Part, ...]]:
        paths: dict[str, tuple[Part, ...]] = {}
        for part in self.parts:
            feed = self._feeds[part.id]
            paths[part.id] = (part,) if feed is None or feed is part else (*paths[feed.id], part)
        return paths

    def path(self, part: Part) -> tuple[Part, ...]:
        """Every part from the source down to this one, a transformer's primary side included."""
        return self._paths[part.id]

    def root(self, part: Part) -> Part:
        """Return the source or transformer whose conductors the part is on."""
        return self._roots[part.id]

    @cached_property
    def _roots(self) -> dict[str, Part]:
        roots: dict[str, Part] = {}
        for part in self.parts:
            feed = self._feeds[part.id]
            if part.entry.role is PartRole.SOURCE or feed is None or feed is part:
                roots[part.id] = part
            else:
                roots[part.id] = feed if feed.entry.role is PartRole.TRANSFORMER else roots[feed.id]
        return roots

    def turning_legs(self, part: Part) -> tuple[str, ...]:
        """Legs of a part whose phases follow each other round; none where its supply has not three."""
        root = self.root(part)
        legs = self.supply_of(root).legs if root.entry.role is PartRole.SOURCE else ()
        return tuple(legs) if part.has_points and len(legs) == 3 and set(legs) <= set(self.lanes_of(part)) else ()

    def supply_of(self, source: Part) -> Supply:
        """Return a source's system."""
        return supplies()[source.system or self.system]

    def lanes_of(self, part: Part) -> tuple[str, ...]:
        """Conductors with a point behind this part, ground last; of a shunt, the conductors it joins."""
        return self._lanes[part.id]

    def pairs_of(self, part: Part) -> tuple[tuple[str, str], ...]:
        """Conductors ahead of a part and what they are called behind it; a transformer's primary and secondary."""
        if part.entry.role is PartRole.TRANSFORMER:
            return tuple(zip(self.primary_lanes(part), part.makes, strict=True))
        if part.makes:
            return tuple(zip(part.lanes or (), part.makes, strict=True))
        return tuple((lane, lane) for lane in self.lanes_of(part))

    def _find_lanes(self, part: Part) -> tuple[str, ...]:
        if part.makes:
            return part.makes
        lanes = part.lanes or self._usual_lanes(part)
        running_along = part.entry.grounding and self.root(part).entry.role is PartRole.SOURCE
        return (*lanes, GROUND) if running_along and GROUND not in lanes else lanes

    def _usual_lanes(self, part: Part) -> tuple[str, ...]:
        root = self.root(part)
        hot = root.makes[:1] if root.entry.role is PartRole.TRANSFORMER else tuple(self.supply_of(root).legs)
        if part.has_points or len(hot) > 1:
            return hot
        return (*hot, root.makes[1] if root.makes else NEUTRAL)

    def upstream_point(self, part: Part, lane: str) -> Point | None:
        """Return the point ahead of a part on one conductor; None where the conductor does not come."""
        for above in reversed(self.path(part)[:-1]):
            if lane in self.lanes_of(above):
                return Point.at(lane, above.id)
            if above.entry.role is PartRole.TRANSFORMER:
                return None  # its primary is another circuit
        return None

    def point_ahead(self, part: Part, lane: str) -> Point:
        """Return the point ahead of a part on a conductor that is known to come; AssertionError where it does not."""
        point = self.upstream_point(part, lane)
        assert point is not None, f"{lane} does not come to {part.id}"
        return point

    def reach(self, part: Part) -> tuple[str, ...]:
        """Return every conductor that comes as far as a part from its source or transformer, ground last."""
        ahead = dict.fromkeys(
            lane for each_part in self.path(part)[:-1] if each_part.has_points for lane in self.lanes_of(each_part)
        )
        return tuple(sorted((lane for lane in ahead if self.upstream_point(part, lane)), key=lambda one: one == GROUND))

    def terminals(self, part: Part) -> tuple[Point, ...]:
        """Points a shunt joins, or a transformer's primary."""
        lanes = self.lanes_of(part) if part.entry.role is PartRole.SHUNT else self.primary_lanes(part)
        return tuple(point for lane in lanes if (point := self.upstream_point(part, lane)))

    def carried_amps(self, part: Part) -> float:
        """What all loads behind a part ask for together, by their plates [A]; a transformer by what it can give."""
        return self._carried_amps[part.id]

    @cached_property
    def _carried_amps(self) -> dict[str, float]:
        carried = dict.fromkeys(self._by_id, 0.0)
        for behind in self.parts:
            amps = 0.0
            if behind.winding is not None:
                amps = behind.winding.volt_amps / behind.winding.primary_volts
            elif behind.load is not None:
                amps = behind.load.rated_amps
            for part in self.path(behind) if amps else ():
                # Behind a transformer it is another circuit's amps.
                if self.root(part) is self.root(behind):
                    carried[part.id] += amps
        return carried

    def root_volts(self, part: Part) -> float:
        """Return the highest voltage between the conductors of a part's supply or control transformer [V]."""
        root = self.root(part)
        return root.winding.secondary_volts if root.winding else max(self.supply_of(root).gathering_volts)

    def primary_lanes(self, transformer: Part) -> tuple[str, ...]:
        """Conductors of a transformer's primary."""
        return transformer.lanes or self._usual_lanes(transformer)[:2]

    def ground_at(self, part: Part) -> Point:
        """Return the nearest point of the equipment ground on the way to a part."""
        for above in reversed(self.path(part)):
            if GROUND in self.lanes_of(above) and above.has_points:
                return Point.at(GROUND, above.id)
        raise AssertionError("every source has its ground")

    def points(self) -> Iterator[Point]:
        """Every point a probe may touch, part by part, then ground."""
        for part in self.series:
            for lane in self.lanes_of(part):
                yield Point.at(lane, part.id)
        yield GROUND

    def check_lane(self, lane: str, field: str) -> None:
        """Raise BadInput, naming the field, for a conductor that the circuit lacks."""
        if lane not in self.lanes:
            raise BadInput(say("circuit.circuit_has_no_conductor", lane=lane, lanes=", ".join(self.lanes)), field)

    def check_reaches(self, lane: str, part: Part, field: str) -> None:
        """Raise BadInput, naming the field, for a conductor that does not run to a part."""
        if lane not in self.lanes_of(part):
            raise BadInput(say("circuit.does_not_run", lane=lane, name=part.name), field)

    def split_point(self, point: Point) -> tuple[str, Part]:
        """Return the conductor and the part behind which the point lies; BadInput if there is no such point.

        A load's own leads count: they are reached once they are off.
        """
        if point.part_id is not None:
            self.check_lane(point.lane, "place")
        part = self._by_id.get(point.part_id or "")
        if part is None or point.lane not in self.lanes_of(part):
            raise BadInput(say("circuit.circuit_has_no_point", point=point), "place")
        return point.lane, part

    def is_dead(self, part: Part, open_switches: frozenset[str]) -> bool:
        """Whether a switch that a hand opened, with a pole on every leg of its supply, stands ahead of a load side."""
        for above in self.path(part):
            root = self.root(above) if above.entry.role is not PartRole.SOURCE else above
            by_hand = above.switch in open_switches and above.entry.moved_by == "hand" and not above.normally_closed
            if by_hand and root.entry.role is PartRole.SOURCE:
                legs = set(self.supply_of(root).legs) & set(self.lanes_of(root))
                if legs <= set(self.lanes_of(above)):
                    return True
        return False

    def joined_to(self, part: Part, open_switches: frozenset[str]) -> tuple[Part, ...]:
        """Return the loads, idle paths and transformers that hang on a part with no open contact between, coils out."""
        coiled = {switch.id for switch in self.switches if switch.coil is not None}

        def opened(load: Part) -> bool:
            return load.switch is not None and (load.switch in open_switches | coiled) != load.normally_closed

        parts = self.path(part)
        joined = []
        for load in self.parts:
            if load.entry.role not in (PartRole.SHUNT, PartRole.TRANSFORMER):
                continue
            above_load = self.path(load)[:-1]
            if self.root(load) != self.root(part):
                continue
            shared = [p for p in parts if p in above_load]
            if not any(opened(p) for p in (*parts, *above_load) if p not in shared):
                joined.append(load)
        return tuple(joined)

    def on_removed_carrier(self, part: Part, open_switches: frozenset[str]) -> bool:
        """Whether the part's load-side point leaves the box when these switches are open."""
        for switch in self.switches:
            if switch.removes_carrier and switch.id in open_switches:
                ends = [p for p in self.series if p.switch == switch.id]
                below_first = ends[0] in self.path(part)
                above_last = any(part in self.path(last)[:-1] for last in ends[1:])
                if below_first and above_last:
                    return True
        return False


def _check_part(part: Part, switches: set[str]) -> None:
    """Check one part against its catalogue entry and the circuit's switches."""
    if part.switch is not None and part.switch not in switches:
        raise ValueError(f"The {part.name} names the switch “{part.switch}”, which the circuit does not list.")
    match part.entry.role:
        case PartRole.SHUNT:
            if part.load is None and part.capacitance_uf is None:
                raise ValueError(f"The {part.name} needs its rated volts and amps.")
        case PartRole.TRANSFORMER:
            if part.winding is None or len(part.makes) != 2:
                raise ValueError(f"The {part.name} needs its plate and the names of its two secondary conductors.")
        case _:
            if part.entry.resistance_mohm is None and part.conductor is None and part.capacitance_uf is None:
                raise ValueError(f"The {part.name} needs its conductor's size, metal and length.")

"""Which measurements are allowed: places within scope, in states that the switches can reach."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.hands import FREE, Hands, own_ends
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part, Zone
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.diagnosis.model.job import Scope
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit, kept
from zesty_copper.core.network.meter import TAP_WIDTH, Tap, tap
from zesty_copper.core.network.netlist import EARTH
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Measurement, zone_of
from zesty_copper.core.observations.modes import MeterMode, Tool
from zesty_copper.core.observations.registry import OBSERVATIONS, Place

__all__ = ["CandidateTable", "candidate_table"]


@dataclass(frozen=True, eq=False)
class CandidateTable:
    """Every allowed measurement in one state.

    Attributes
    ----------
    dead
        Whether they are ohms, on what is locked out.
    spots
        Places of the three basic readings of each spot: indices of leg to leg, each leg to ground.
    taken, signs
        (pairs, 4): rows of the unknowns that each pair of probes, or the clamp, takes together, and their signs.
    pair
        (measurements,): the pair of probes of each; modes of the meter share one.
    siemens
        (measurements,): how the meter loads it [S].
    beside
        (measurements,): how much of what lies beside a run it reads.
    """

    open_switches: frozenset[str]
    dead: bool
    measurements: tuple[Measurement, ...]
    zones: tuple[Zone, ...]
    units: NDArray[np.str_]
    spots: tuple[tuple[int, ...], ...]
    taken: NDArray[np.int64]
    signs: NDArray[np.float32]
    pair: NDArray[np.int64]
    siemens: NDArray[np.float32]
    beside: NDArray[np.float64]


@kept
def candidate_table(
    compiled: CompiledCircuit, open_switches: frozenset[str], scope: Scope, *, dead: bool = False
) -> CandidateTable:
    """List every allowed measurement of one state: with `dead`, the ohms of what is locked out in it."""
    circuit = compiled.circuit
    stays = [part for part in circuit.series if dead or not circuit.on_removed_carrier(part, open_switches)]
    within, for_volts = (
        [part for part in stays if panel or part.zone is not Zone.PANEL]
        for panel in (scope.panel_may_be_opened, scope.panel_may_be_opened or scope.panel_volts_only)
    )
    if dead:
        within = [part for part in within if circuit.is_dead(part, open_switches)]
        measurements, spots = _ohms(circuit, within, open_switches)
    else:
        measurements, spots = _volts(circuit, for_volts, open_switches, loz=Tool.LOZ in scope.tools)
        measurements += _amps(circuit, within) if not open_switches else []
        measurements += _by_other_tools(circuit, within, open_switches, scope.tools)
        spots += _at_a_glance(measurements, circuit)
    taps = [_tap_of(compiled, measurement) for measurement in measurements]
    ways = list(dict.fromkeys((t.rows, t.signs) for t in taps))
    return CandidateTable(
        open_switches=open_switches,
        dead=dead,
        measurements=tuple(measurements),
        zones=tuple(zone_of(circuit, measurement) for measurement in measurements),
        units=np.array([measurement.unit for measurement in measurements]),
        spots=tuple(spots),
        taken=np.array([rows for rows, _ in ways]),
        signs=np.array([signs for _, signs in ways], dtype=np.float32),
        pair=np.array([ways.index((t.rows, t.signs)) for t in taps]),
        siemens=np.array([t.siemens for t in taps], dtype=np.float32),
        beside=np.array([t.beside for t in taps]),
    )


_Listed = tuple[list[Measurement], list[tuple[int, ...]]]

"""Measurements, and the places among them of those that belong to one spot."""


def _volts(circuit: Circuit, within: list[Part], open_switches: frozenset[str], *, loz: bool) -> _Listed:
    """Volts leg to leg and leg to ground at every spot, across every part, and along a leg from box to box."""
    measurements: list[Measurement] = []
    spots: list[tuple[int, ...]] = []

    def add(a: Point, b: Point, *modes: MeterMode) -> int:
        place = Between(a=a, b=b)
        measurements.extend(Measurement(place=place, meter=mode, open_switches=open_switches) for mode in modes)
        return len(measurements) - len(modes)

    meter_modes = (MeterMode.HI_Z, MeterMode.LO_Z) if loz else (MeterMode.HI_Z,)
    for part in within:
        points = _spot(circuit, part, within)
        pairs = list(combinations(points, 2))
        spots.append(
            (*(add(a, b, *meter_modes) for a, b in pairs), *(add(point, GROUND, *meter_modes) for point in points))
        )
    for a, b in _along(circuit, within):
        add(a, b, MeterMode.HI_Z)
    return measurements, spots


def _spot(circuit: Circuit, part: Part, within: list[Part]) -> list[Point]:
    """Points that are read together behind a part; where it is on one conductor, its mate passes by."""
    points = [Point.at(lane, part.id) for lane in circuit.lanes_of(part) if lane != GROUND]
    if len(points) == 1:
        root = circuit.root(part)
        # Never against another system's conductor: how the two stand to each other is not the circuit's to say.
        own_lanes = [lane for lane in circuit.lanes_of(root) if lane != GROUND and lane not in circuit.lanes_of(part)]
        mates = [circuit.upstream_point(part, lane) for lane in own_lanes]
        points += [mate for mate in mates if mate is not None and circuit.split_point(mate)[1] in within][:1]
    return points


def _ohms(circuit: Circuit, within: list[Part], open_switches: frozenset[str]) -> _Listed:
    """Ohms across every joint and device, and leg to leg and to ground behind every run and switch."""
    measurements: list[Measurement] = []
    spots: list[tuple[int, ...]] = []

    def add(a: Point, b: Point, hands: Hands = FREE) -> int:
        place = Between(a=a, b=b)
        measurements.append(Measurement(place=place, meter=MeterMode.OHM, open_switches=open_switches, hands=hands))
        return len(measurements) - 1

    for part in within:
        for lane in circuit.lanes_of(part):
            ahead = circuit.upstream_point(part, lane)
            if ahead is not None and circuit.split_point(ahead)[1] in within:
                measurements += dead_across(circuit, part, lane, open_switches)
        if part.conductor is not None or part.switch is not None:
            points = [Point.at(lane, part.id) for lane in circuit.lanes_of(part) if lane != GROUND]
            leg_to_leg = [add(a, b) for a, b in combinations(points, 2)]
            to_ground = [add(point, GROUND) for point in points]
            spots.append((*leg_to_leg, *to_ground))
    for load in circuit.loads:
        # What hangs beside others on the same terminals is told from them only by itself.
        if circuit.feed(load) in within and not load.entry.elsewhere:
            alone = Hands(removed=frozenset({load.id}))
            first, second, *_ = own_ends(circuit, load)
            spots.append((add(first, second, alone), add(first, GROUND, alone)))
    return measurements, spots


def dead_across(circuit: Circuit, part: Part, lane: str, open_switches: frozenset[str]) -> list[Measurement]:
    """Return the ohms across a joint or device on one conductor; of a contactor pushed in, which takes no call.

    None across wires, whose ends are in two boxes, nor across a switch that a hand moves: it is open there.
    """
    ahead = circuit.upstream_point(part, lane)
    if part.conductor is not None or lane == GROUND or ahead is None:
        return []
    if part.switch is not None and not part.entry.armature:
        return []
    pushed_in = frozenset({part.switch} if part.switch and not part.normally_closed else set[str]())
    place = Between(a=ahead, b=Point.at(lane, part.id))
    return [
        Measurement(place=place, meter=MeterMode.OHM, open_switches=open_switches, hands=Hands(pushed_in=pushed_in))
    ]


def _amps(circuit: Circuit, within: list[Part]) -> list[Measurement]:
    """The clamp around every wire; around all of a supply's conductors at once, which shows what leaks to ground."""
    wires = _wires(circuit, within)
    alone = [
        Measurement(place=Around(leg=lane, part=part.id))
        for part in wires
        for lane in circuit.lanes_of(part)
        if lane != GROUND
    ]
    runs = [(part, [lane for lane in circuit.lanes_of(part) if lane != GROUND]) for part in wires if part.has_points]
    together = [
        Measurement(place=Around(leg=lanes[0], part=part.id, also=tuple(lanes[1:])))
        for part, lanes in runs
        if len(lanes) > 1
    ]
    return alone + together


def _by_other_tools(
    circuit: Circuit, within: list[Part], open_switches: frozenset[str], tools: frozenset[Tool]
) -> list[Measurement]:
    """What a phase-sequence meter, eyes and ears, a tester and a thermometer can tell in this state."""
    places: list[Place] = []
    for kind in OBSERVATIONS:
        if kind.tool in tools:
            places += kind.asked(circuit, within, open_switches)
    return [Measurement(place=place, open_switches=open_switches) for place in places]


def _at_a_glance(measurements: list[Measurement], circuit: Circuit) -> list[tuple[int, ...]]:
    """What one look at a box in action shows together."""
    by_zone: dict[Zone, list[int]] = {}
    for c, measurement in enumerate(measurements):
        if measurement.observation.at_a_glance:
            by_zone.setdefault(zone_of(circuit, measurement), []).append(c)
    return [tuple(together) for together in by_zone.values() if len(together) > 1]


def _tap_of(compiled: CompiledCircuit, measurement: Measurement) -> Tap:
    """Where a measurement taps the network; what is no sum of unknowns, nowhere."""
    if not measurement.observation.is_linear and not measurement.observation.is_dead:
        return Tap((EARTH,) * TAP_WIDTH, (0.0,) * TAP_WIDTH, 0.0)
    return tap(compiled.netlist, measurement)


def _along(circuit: Circuit, within: list[Part]) -> Iterator[tuple[Point, Point]]:
    """Across each part, and on each conductor from where it enters or leaves a box to every such place below."""
    edges: dict[Point, str] = {}
    for part in within:
        for lane in circuit.lanes_of(part):
            if lane == GROUND:
                continue
            point = Point.at(lane, part.id)
            ahead = circuit.upstream_point(part, lane)
            if ahead is None:
                continue
            _, above = circuit.split_point(ahead)
            if above in within:
                yield ahead, point
            if above not in within or above.zone is not part.zone or part.switch:
                edges[point] = lane
    for (a, lane), (b, other_lane) in combinations(edges.items(), 2):
        below, above = circuit.split_point(b)[1], circuit.split_point(a)[1]
        if lane == other_lane and above in circuit.path(below)[:-1] and circuit.upstream_point(below, lane) != a:
            yield a, b


def _wires(circuit: Circuit, within: list[Part]) -> list[Part]:
    """Where the clamp goes: every run of wire, for what leaks on the way, and the leads of each load."""
    zones = {part.zone for part in within}
    runs = [part for part in within if part.entry.clampable and circuit.root(part).entry.role is PartRole.SOURCE]
    loads = [load for load in circuit.loads if load.entry.clampable and load.zone in zones]
    return [*runs, *loads]

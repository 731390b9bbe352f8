"""Which measurements are allowed: places within scope, in states that the switches can reach."""

import tomllib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from importlib.resources import files
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.catalogue import Role
from zesty_copper.core.circuit.hands import FREE, Hands, own_ends
from zesty_copper.core.circuit.measurement import (
    OHM_LIMIT,
    Around,
    Between,
    Measurement,
    MeterMode,
    Near,
    Place,
    Turning,
    Warmth,
    Watching,
)
from zesty_copper.core.circuit.model import GROUND, NEUTRAL, Circuit, Part, Zone
from zesty_copper.core.diagnosis.model import Scope, Tool
from zesty_copper.core.diagnosis.noise import PICK_UP_VOLTS, ghost_wander
from zesty_copper.core.diagnosis.predict import predict
from zesty_copper.core.diagnosis.scales import on_scale
from zesty_copper.core.diagnosis.study import Block, Study, dead_state_of, state_of
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.network.meter import TAP_WIDTH, Tap, loaded, tap
from zesty_copper.core.network.netlist import EARTH

__all__ = [
    "CandidateTable",
    "Effort",
    "candidate_table",
    "dead_states",
    "effort_minutes",
    "efforts",
    "look_minutes",
    "reachable_states",
    "rough_values",
    "zone_of",
]


class Effort(Frozen):
    """The prices of `effort.toml` [min]."""

    reading: dict[str, float]
    further: dict[str, float]
    look: float
    handle: float
    lift: float
    record: float
    lock: float
    reach: dict[Zone, float]
    switch: dict[str, float]


@cache
def efforts() -> Effort:
    """The prices, read once."""
    return Effort.model_validate(tomllib.loads(files(__package__).joinpath("effort.toml").read_text("utf-8")))


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


@lru_cache(maxsize=64)
def reachable_states(circuit: Circuit) -> tuple[frozenset[str], ...]:
    """States worth testing in: a switch is opened by hand only after those below it, so never under load.

    Each supply is opened from the load up; calls are dropped first of all. Control switches that nothing but a call
    follows count as calls.
    """
    chains: dict[str, list[str]] = {}
    for switch in circuit.by_hand:
        part = next(p for p in circuit.series if p.switch == switch.id)
        chains.setdefault(circuit.root(part).id, []).append(switch.id)
    calls = [s for root, ids in chains.items() if circuit.part(root).entry.role is Role.TRANSFORMER for s in ids]
    states = [frozenset[str]()]
    if calls:
        states.append(frozenset(calls))
    for root, ids in chains.items():
        if circuit.part(root).entry.role is Role.SOURCE:
            states += [frozenset(calls + ids[i:]) for i in range(len(ids) - 1, -1, -1)]
    return tuple(dict.fromkeys(states))


@lru_cache(maxsize=64)
def dead_states(circuit: Circuit) -> tuple[frozenset[str], ...]:
    """States worth locking out: each supply opened at its first switch, and at all below it."""
    by_hand = {p.switch for p in circuit.series if p.entry.moved_by == "hand"}
    found = [state for state in reachable_states(circuit) if state & by_hand]
    # What is opened further up is dead where the less opened state is, and more besides.
    return tuple(state for state in found if not any(state < other for other in found))


def zone_of(circuit: Circuit, measurement: Measurement) -> Zone:
    """Which cover must be open for it; the one nearer the source where the probes are in two."""
    place = measurement.place
    if isinstance(place, Near):
        return circuit.split_point(place.point)[1].zone
    if not isinstance(place, Between):
        return circuit.part(place.part).zone
    order = list(Zone)
    return min((circuit.split_point(p)[1].zone for p in (place.a, place.b) if p != GROUND), key=order.index)


def effort_minutes(
    circuit: Circuit,
    zone: Zone,
    state: tuple[frozenset[str], Hands],
    units: Sequence[str],
    last: Measurement | None,
) -> float:
    """Minutes that a card takes, coming from the last measurement (None: standing at the unit, all closed).

    Parameters
    ----------
    zone, state
        Where the card's readings are taken, and in which state of switches and hands.
    units
        The unit of each reading it asks.
    """
    prices = efforts()
    open_switches, hands = state
    before, held = last.state if last else (frozenset[str](), FREE)
    minutes = prices.reading[units[0]] + sum(prices.further[unit] for unit in units[1:])
    minutes += _reach(circuit, zone, last)
    for switch in open_switches ^ before:
        part = next(part for part in circuit.series if part.switch == switch)
        minutes += prices.switch["breaker" if part.zone is Zone.PANEL else part.entry.moved_by]
    # Leads are marked, taken off, and landed again before anything else is read.
    minutes += prices.switch["hand"] * len(hands.pushed_in | hands.held_out)
    minutes += prices.lift * len((hands.removed ^ held.removed) | (hands.lifted ^ held.lifted))
    locked = last is not None and last.unit == "ohm" and not open_switches ^ before
    return minutes + (prices.lock if units[0] == "ohm" and not locked else 0)


def look_minutes(circuit: Circuit, zone: Zone, last: Measurement | None, *, handle: bool = False) -> float:
    """Minutes to look over a box, or at the handle on it."""
    return (efforts().handle if handle else efforts().look) + _reach(circuit, zone, last)


def _reach(circuit: Circuit, zone: Zone, last: Measurement | None) -> float:
    here = zone_of(circuit, last) if last else Zone.UNIT
    return efforts().reach[zone] if zone is not here else 0.0


@lru_cache(maxsize=128)
def candidate_table(study: Study, open_switches: frozenset[str], scope: Scope, *, dead: bool = False) -> CandidateTable:
    """List every allowed measurement of one state: with `dead`, the ohms of what is locked out in it."""
    circuit = study.circuit
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
    taps = [_tap_of(study, measurement) for measurement in measurements]
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

    def add(a: str, b: str, *modes: MeterMode) -> int:
        place = Between(a=a, b=b)
        measurements.extend(Measurement(place=place, meter=mode, open_switches=open_switches) for mode in modes)
        return len(measurements) - len(modes)

    both = (MeterMode.HI_Z, MeterMode.LO_Z) if loz else (MeterMode.HI_Z,)
    for part in within:
        points = _spot(circuit, part, within)
        pairs = list(combinations(points, 2))
        spots.append((*(add(a, b, *both) for a, b in pairs), *(add(point, GROUND, *both) for point in points)))
    for a, b in _along(circuit, within):
        add(a, b, MeterMode.HI_Z)
    return measurements, spots


def _spot(circuit: Circuit, part: Part, within: list[Part]) -> list[str]:
    """Points that are read together behind a part; where it is on one conductor, its mate passes by."""
    points = [f"{lane}@{part.id}" for lane in circuit.lanes_of(part) if lane != GROUND]
    if len(points) == 1:
        root = circuit.root(part)
        # Never against another system's conductor: how the two stand to each other is not the circuit's to say.
        own = [lane for lane in circuit.lanes_of(root) if lane != GROUND and lane not in circuit.lanes_of(part)]
        mates = [circuit.upstream_point(part, lane) for lane in own]
        points += [mate for mate in mates if mate is not None and circuit.split_point(mate)[1] in within][:1]
    return points


def _ohms(circuit: Circuit, within: list[Part], open_switches: frozenset[str]) -> _Listed:
    """Ohms across every joint and device, and leg to leg and to ground behind every run and switch."""
    measurements: list[Measurement] = []
    spots: list[tuple[int, ...]] = []

    def add(a: str, b: str, hands: Hands = FREE) -> int:
        place = Between(a=a, b=b)
        measurements.append(Measurement(place=place, meter=MeterMode.OHM, open_switches=open_switches, hands=hands))
        return len(measurements) - 1

    for part in within:
        for lane in circuit.lanes_of(part):
            ahead = circuit.upstream_point(part, lane)
            if ahead is not None and circuit.split_point(ahead)[1] in within:
                measurements += dead_across(circuit, part, lane, open_switches)
        if part.conductor is not None or part.switch is not None:
            points = [f"{lane}@{part.id}" for lane in circuit.lanes_of(part) if lane != GROUND]
            both = [add(a, b) for a, b in combinations(points, 2)]
            to_ground = [add(point, GROUND) for point in points]
            spots.append((*both, *to_ground))
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
    held = frozenset({part.switch} if part.switch and not part.normally_closed else set[str]())
    place = Between(a=ahead, b=f"{lane}@{part.id}")
    return [Measurement(place=place, meter=MeterMode.OHM, open_switches=open_switches, hands=Hands(pushed_in=held))]


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
    if Tool.SEQUENCE in tools:
        places += [Turning(part=part.id) for part in within if _turns_at_rest(circuit, part, open_switches)]
    if Tool.EYES in tools:
        zones = {part.zone for part in within}
        places += [Watching(part=part.id) for part in circuit.watched if part.zone in zones]
    if Tool.TESTER in tools:
        wires = [part for part in within if part.conductor is not None]
        places += [
            Near(point=f"{lane}@{p.id}") for p in wires for lane in circuit.lanes_of(p) if lane not in (GROUND, NEUTRAL)
        ]
    if Tool.THERMOMETER in tools and not open_switches:
        joints = [p for p in within if p.conductor is None and p.entry.role is Role.SERIES]
        source_side = [p for p in joints if circuit.root(p).entry.role is Role.SOURCE]
        places += [
            Warmth(part=p.id, leg=lane)
            for p in source_side
            for lane in circuit.lanes_of(p)
            if lane not in (GROUND, NEUTRAL)
        ]
    return [Measurement(place=place, open_switches=open_switches) for place in places]


def _at_a_glance(measurements: list[Measurement], circuit: Circuit) -> list[tuple[int, ...]]:
    """What one look at a box in action shows together."""
    seen: dict[Zone, list[int]] = {}
    for c, measurement in enumerate(measurements):
        if isinstance(measurement.place, Watching):
            seen.setdefault(zone_of(circuit, measurement), []).append(c)
    return [tuple(together) for together in seen.values() if len(together) > 1]


def _turns_at_rest(circuit: Circuit, part: Part, open_switches: frozenset[str]) -> bool:
    """Whether a run of wires feeds three legs to a motor that the least opened state keeps from turning."""
    resting = reachable_states(circuit)[:2][-1]
    if open_switches != resting or part.conductor is None or not circuit.turning_legs(part):
        return False
    fed = not any(above.switch in open_switches for above in circuit.path(part))
    return fed and any(part in circuit.path(motor) for motor in circuit.three_phase_motors)


def _tap_of(study: Study, measurement: Measurement) -> Tap:
    """Where a measurement taps the network; what is no sum of unknowns, nowhere."""
    if not isinstance(measurement.place, Between | Around):
        return Tap((EARTH,) * TAP_WIDTH, (0.0,) * TAP_WIDTH, 0.0)
    return tap(study.netlist, measurement)


def _along(circuit: Circuit, within: list[Part]) -> Iterator[tuple[str, str]]:
    """Across each part, and on each conductor from where it enters or leaves a box to every such place below."""
    edges: dict[str, str] = {}
    for part in within:
        for lane in circuit.lanes_of(part):
            if lane == GROUND:
                continue
            here = f"{lane}@{part.id}"
            ahead = circuit.upstream_point(part, lane)
            if ahead is None:
                continue
            _, above = circuit.split_point(ahead)
            if above in within:
                yield ahead, here
            if above not in within or above.zone is not part.zone or part.switch:
                edges[here] = lane
    for (a, lane), (b, other) in combinations(edges.items(), 2):
        below, above = circuit.split_point(b)[1], circuit.split_point(a)[1]
        if lane == other and above in circuit.path(below)[:-1] and circuit.upstream_point(below, lane) != a:
            yield a, b


def _wires(circuit: Circuit, within: list[Part]) -> list[Part]:
    """Where the clamp goes: every run of wire, for what leaks on the way, and the leads of each load."""
    zones = {part.zone for part in within}
    runs = [part for part in within if part.entry.clampable and circuit.root(part).entry.role is Role.SOURCE]
    loads = [load for load in circuit.loads if load.entry.clampable and load.zone in zones]
    return [*runs, *loads]


def rough_values(
    study: Study, table: CandidateTable, row: NDArray[np.int64], sample: NDArray[np.int64]
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Readings of a whole table and their wander, for pairs of row and sample, (pairs, measurements) [V or A].

    By the meter's Thévenin equivalent, and in single precision: this only ranks tests, the best of which are predicted
    again.
    """
    state = (dead_state_of if table.dead else state_of)(study, table.open_switches)
    plus, minus = table.taken[:, 0], table.taken[:, 1]
    potential = np.empty((len(row), study.netlist.size + 1), dtype=np.complex64)
    seen = np.empty((len(row), len(plus)), dtype=np.complex64)
    blocks, places = state.planned
    which, at = blocks[row, sample], places[row, sample]
    for b in np.unique(which).tolist():
        mine = np.flatnonzero(which == b)
        potential[mine], seen[mine] = _by_block(state.blocks[b], plus, minus, at[mine], sample[mine])
    size = np.abs(potential - potential[:, study.ground_row, None])
    open_circuit = (potential[:, table.taken] * table.signs).sum(axis=-1)
    seen = seen[:, table.pair]
    value = np.abs(loaded(open_circuit[:, table.pair], seen, table.siemens))
    ends = size[:, plus[table.pair]], size[:, minus[table.pair]]
    beside = study.nuisance.neighbour_volts[sample][:, None] * table.beside
    wander = ghost_wander(seen, *ends, table.siemens, floor_volts=PICK_UP_VOLTS, beside_volts=beside)
    if table.dead:
        value, wander = on_scale(np.minimum(np.abs(seen), OHM_LIMIT), "ohm"), np.zeros(seen.shape)
        by_themselves = [c for c, measurement in enumerate(table.measurements) if measurement.hands != FREE]
    else:
        by_themselves = np.flatnonzero((table.units != "V") & (table.units != "A")).tolist()
    for c in by_themselves:
        value[:, c], wander[:, c] = predict(study, table.measurements[c]).value[row, sample], 0
    return value.astype(np.float32), wander.astype(np.float32)


def _by_block(
    block: Block, plus: NDArray[np.int64], minus: NDArray[np.int64], at: NDArray[np.int64], sample: NDArray[np.int64]
) -> tuple[NDArray[np.complex64], NDArray[np.complex64]]:
    """Unknowns, and the impedance the meter sees at each pair of probes [ohm], for rows and samples of one block."""
    edited = block.edited
    d, core, amount = edited.used[at], edited.core[at, sample], edited.amount[at, sample]
    inverse = edited.base.solved.inverse
    seen = inverse[:, plus, plus] + inverse[:, minus, minus] - inverse[:, plus, minus] - inverse[:, minus, plus]
    seen = seen[sample]
    potential = edited.base.driven[edited.drive[at], sample]
    ways = [edited.right[sample, :, d[:, k]] for k in range(d.shape[1])]
    back = [edited.left[sample, d[:, k]] for k in range(d.shape[1])]
    for k, right in enumerate(ways):
        potential = potential + amount[:, k, None] * right
        for j, left in enumerate(back):
            seen = seen + core[:, k, j, None] * (right[:, plus] - right[:, minus]) * (left[:, plus] - left[:, minus])
    return potential.astype(np.complex64), seen.astype(np.complex64)

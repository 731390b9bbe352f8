"""Which measurements are allowed: places within scope, in states that the switches can reach."""

import tomllib
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache, lru_cache
from importlib.resources import files
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.catalogue import Role
from zesty_copper.core.circuit.measurement import Around, Between, Measurement, MeterMode
from zesty_copper.core.circuit.model import GROUND, Circuit, Part, Zone
from zesty_copper.core.diagnosis.noise import PICK_UP_VOLTS, ghost_wander
from zesty_copper.core.diagnosis.study import Block, Study, state_of
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.network.meter import loaded, tap

__all__ = [
    "CandidateTable",
    "Effort",
    "candidate_table",
    "effort_minutes",
    "efforts",
    "reachable_states",
    "rough_values",
    "zone_of",
]


class Effort(Frozen):
    """The prices of `effort.toml` [min]."""

    reading: float
    further_reading: float
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
    spots
        Places of the three basic readings of each spot: indices of leg to leg, each leg to ground.
    taken, signs
        (pairs, 4): rows of the unknowns that each pair of probes, or the clamp, takes together, and their signs.
    pair
        (measurements,): the pair of probes of each; modes of the meter share one.
    siemens
        (measurements,): how the meter loads it [S].
    """

    open_switches: frozenset[str]
    measurements: tuple[Measurement, ...]
    zones: tuple[Zone, ...]
    in_volts: NDArray[np.bool_]
    spots: tuple[tuple[int, ...], ...]
    taken: NDArray[np.int64]
    signs: NDArray[np.float32]
    pair: NDArray[np.int64]
    siemens: NDArray[np.float32]


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


def zone_of(circuit: Circuit, measurement: Measurement) -> Zone:
    """Which cover must be open for it; the one nearer the source where the probes are in two."""
    place = measurement.place
    if isinstance(place, Around):
        return circuit.part(place.part).zone
    order = list(Zone)
    return min((circuit.split_point(p)[1].zone for p in (place.a, place.b) if p != GROUND), key=order.index)


def effort_minutes(
    circuit: Circuit, zone: Zone, open_switches: frozenset[str], count: int, last: Measurement | None
) -> float:
    """Minutes that a card takes, coming from the last measurement (None: standing at the unit, all closed).

    Parameters
    ----------
    zone, open_switches
        Where the card's readings are taken, and in which state.
    count
        How many readings it asks.
    """
    prices = efforts()
    here = zone_of(circuit, last) if last else Zone.UNIT
    before = last.open_switches if last else frozenset()
    minutes = prices.reading + prices.further_reading * (count - 1)
    minutes += prices.reach[zone] if zone is not here else 0
    for switch in open_switches ^ before:
        part = next(part for part in circuit.series if part.switch == switch)
        minutes += prices.switch["breaker" if part.zone is Zone.PANEL else part.entry.moved_by]
    return minutes


@lru_cache(maxsize=128)
def candidate_table(study: Study, open_switches: frozenset[str], *, panel: bool) -> CandidateTable:
    """List every allowed measurement of one state.

    Volts are read leg to leg and leg to ground at every spot, across every part, and along a leg from box to box.
    """
    circuit = study.circuit
    within = [
        part
        for part in circuit.series
        if (panel or part.zone is not Zone.PANEL) and not circuit.on_removed_carrier(part, open_switches)
    ]
    measurements: list[Measurement] = []
    spots: list[tuple[int, ...]] = []

    def add(a: str, b: str, *modes: MeterMode) -> int:
        for mode in modes:
            measurements.append(Measurement(place=Between(a=a, b=b), meter=mode, open_switches=open_switches))
        return len(measurements) - len(modes)

    both = (MeterMode.HI_Z, MeterMode.LO_Z)
    for part in within:
        points = [f"{lane}@{part.id}" for lane in circuit.lanes_of(part) if lane != GROUND]
        if len(points) == 1:  # a part on one conductor: its mate passes by
            mates = [circuit.upstream_point(part, lane) for lane in circuit.lanes if lane not in circuit.lanes_of(part)]
            near = [mate for mate in mates if mate is not None and circuit.split_point(mate)[1] in within]
            near.sort(key=lambda mate: circuit.root(circuit.split_point(mate)[1]) is not circuit.root(part))
            points += near[:1]
        pairs = list(combinations(points, 2))
        spots.append((*(add(a, b, *both) for a, b in pairs), *(add(point, GROUND, *both) for point in points)))
    for a, b in _along(circuit, within):
        add(a, b, MeterMode.HI_Z)
    if not open_switches:
        measurements += [
            Measurement(place=Around(leg=lane, part=part.id))
            for part in _wires(circuit, within)
            for lane in circuit.lanes_of(part)
            if lane != GROUND
        ]
        # All of a supply's conductors in the jaws at once show what leaks to ground.
        for part in (part for part in _wires(circuit, within) if part.has_points):
            first, *others = (lane for lane in circuit.lanes_of(part) if lane != GROUND)
            if others:
                measurements.append(Measurement(place=Around(leg=first, part=part.id, also=tuple(others))))
    taps = [tap(study.netlist, measurement) for measurement in measurements]
    ways = list(dict.fromkeys((t.rows, t.signs) for t in taps))
    return CandidateTable(
        open_switches=open_switches,
        measurements=tuple(measurements),
        zones=tuple(zone_of(circuit, measurement) for measurement in measurements),
        in_volts=np.array([measurement.unit == "V" for measurement in measurements]),
        spots=tuple(spots),
        taken=np.array([rows for rows, _ in ways]),
        signs=np.array([signs for _, signs in ways], dtype=np.float32),
        pair=np.array([ways.index((t.rows, t.signs)) for t in taps]),
        siemens=np.array([t.siemens for t in taps], dtype=np.float32),
    )


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
    state = state_of(study, table.open_switches)
    plus, minus = table.taken[:, 0], table.taken[:, 1]
    potential = np.empty((len(row), study.netlist.size + 1), dtype=np.complex64)
    seen = np.empty((len(row), len(plus)), dtype=np.complex64)
    which = state.block[row, sample]
    for b in np.unique(which).tolist():
        mine = np.flatnonzero(which == b)
        potential[mine], seen[mine] = _by_block(state.blocks[b], plus, minus, state.at[row, sample][mine], sample[mine])
    size = np.abs(potential)
    open_circuit = (potential[:, table.taken] * table.signs).sum(axis=-1)
    seen = seen[:, table.pair]
    value = np.abs(loaded(open_circuit[:, table.pair], seen, table.siemens))
    wander = ghost_wander(seen, size[:, plus[table.pair]], size[:, minus[table.pair]], table.siemens, PICK_UP_VOLTS)
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

"""Which measurements are allowed: places within scope, in states that the switches can reach."""

import tomllib
from dataclasses import dataclass
from functools import cache, lru_cache
from importlib.resources import files

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.measurement import Around, Between, Measurement, MeterMode
from zesty_copper.core.circuit.model import GROUND, Circuit, Part, Zone
from zesty_copper.core.diagnosis.noise import ghost_wander
from zesty_copper.core.diagnosis.study import Study, state_of_faults
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.network.meter import loaded, tap
from zesty_copper.core.network.solve import Solved

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
    plus, minus
        (pairs,): rows of the unknowns that each pair of probes taps.
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
    plus: NDArray[np.int64]
    minus: NDArray[np.int64]
    pair: NDArray[np.int64]
    siemens: NDArray[np.float32]


def reachable_states(circuit: Circuit) -> tuple[frozenset[str], ...]:
    """States worth testing in: a switch is opened by hand only after those below it, so never under load."""
    order = list(dict.fromkeys(part.switch for part in circuit.series if part.switch))
    return tuple(frozenset(order[i:]) for i in range(len(order), -1, -1))


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
        key = "thermostat" if part.kind == "contactor" else "breaker" if part.zone is Zone.PANEL else "hand"
        minutes += prices.switch[key]
    return minutes


@lru_cache(maxsize=128)
def candidate_table(study: Study, open_switches: frozenset[str], *, panel: bool) -> CandidateTable:
    """List every allowed measurement of one state."""
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
    for i, part in enumerate(within):
        points = [f"{leg}@{part.id}" for leg in circuit.legs]
        spots.append((add(points[0], points[1], *both), *(add(point, GROUND, *both) for point in points)))
        for other in within[i + 1 :]:
            for leg in circuit.legs:
                add(f"{leg}@{part.id}", f"{leg}@{other.id}", MeterMode.HI_Z)
    if not open_switches:
        measurements += [
            Measurement(place=Around(leg=leg, part=part.id)) for part in _wires(within) for leg in circuit.legs
        ]
    taps = [tap(study.netlist, measurement) for measurement in measurements]
    pairs = list(dict.fromkeys((t.plus, t.minus) for t in taps))
    return CandidateTable(
        open_switches=open_switches,
        measurements=tuple(measurements),
        zones=tuple(zone_of(circuit, measurement) for measurement in measurements),
        in_volts=np.array([measurement.unit == "V" for measurement in measurements]),
        spots=tuple(spots),
        plus=np.array([plus for plus, _ in pairs]),
        minus=np.array([minus for _, minus in pairs]),
        pair=np.array([pairs.index((t.plus, t.minus)) for t in taps]),
        siemens=np.array([t.siemens for t in taps], dtype=np.float32),
    )


def _wires(within: list[Part]) -> list[Part]:
    """Where the clamp goes: the current is the same all along a leg, so the last run will do."""
    return [part for part in within if part.entry.clampable][-1:]


def rough_values(
    study: Study, table: CandidateTable, row: NDArray[np.int64], sample: NDArray[np.int64]
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Readings of a whole table and their wander, for pairs of row and sample, (pairs, measurements) [V or A].

    By the meter's Thévenin equivalent, and in single precision: this only ranks tests, the best of which are predicted
    again.
    """
    state = state_of_faults(study, table.open_switches)
    plus, minus = table.plus, table.minus
    seen = _seen(state.solved, plus, minus)[sample]
    alone = len(state.opened)
    for i, network in enumerate(state.opened):
        seen[row == i] = _seen(network, plus, minus)[sample[row == i]]
    at = np.flatnonzero(row >= alone)
    r, m = row[at] - alone, sample[at]
    columns = state.edited.columns[r, m, :, 0].astype(np.complex64)
    core = state.edited.core[r, m, :, 0].astype(np.complex64)
    seen[at] += core * (columns[:, plus] - columns[:, minus]) ** 2
    potential = state.unknowns[row, sample].astype(np.complex64)
    size = np.abs(potential)
    open_circuit = potential[:, plus] - potential[:, minus]
    seen = seen[:, table.pair]
    value = np.abs(loaded(open_circuit[:, table.pair], seen, table.siemens))
    wander = ghost_wander(seen, size[:, plus[table.pair]], size[:, minus[table.pair]], table.siemens)
    return value.astype(np.float32), wander.astype(np.float32)


def _seen(solved: Solved, plus: NDArray[np.int64], minus: NDArray[np.int64]) -> NDArray[np.complex64]:
    """Impedance the meter sees at each pair of probes, (samples, pairs) [ohm]."""
    inverse = solved.inverse
    seen = inverse[:, plus, plus] + inverse[:, minus, minus] - 2 * inverse[:, plus, minus]
    return seen.astype(np.complex64)

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

__all__ = ["CandidateTable", "Effort", "candidate_table", "effort_minutes", "efforts", "reachable_states", "zone_of"]


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
    """Every allowed measurement in one state, and what each network row would make it show.

    Attributes
    ----------
    value
        (rows, samples, measurements) [V or A].
    wander
        (rows, samples, measurements): standard deviation of what of it hangs on stray coupling [V].
    spots
        Places of the three basic readings of each spot: indices of leg to leg, each leg to ground.
    """

    open_switches: frozenset[str]
    measurements: tuple[Measurement, ...]
    zones: tuple[Zone, ...]
    value: NDArray[np.float32]
    wander: NDArray[np.float32]
    in_volts: NDArray[np.bool_]
    spots: tuple[tuple[int, ...], ...]


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
    """Predict every allowed measurement of one state at once, by the meter's Thévenin equivalent."""
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
    value, wander = _values(study, tuple(measurements), open_switches)
    return CandidateTable(
        open_switches=open_switches,
        measurements=tuple(measurements),
        zones=tuple(zone_of(circuit, measurement) for measurement in measurements),
        value=value,
        wander=wander,
        in_volts=np.array([measurement.unit == "V" for measurement in measurements]),
        spots=tuple(spots),
    )


def _wires(within: list[Part]) -> list[Part]:
    """Where the clamp goes: the current is the same all along a leg, so the last run will do."""
    return [part for part in within if part.entry.clampable][-1:]


def _values(
    study: Study, measurements: tuple[Measurement, ...], open_switches: frozenset[str]
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Loaded readings and their wander, (rows, samples, measurements); only points that are used are taken along."""
    state = state_of_faults(study, open_switches)
    taps = [tap(study.netlist, measurement) for measurement in measurements]
    used = sorted({row for t in taps for row in (t.plus, t.minus) if row >= 0})
    # Ground comes last, as it does among the unknowns.
    used.append(-1)
    at = {row: i for i, row in enumerate(used)}
    plus, minus = (np.array([at[row] for row in rows]) for rows in zip(*((t.plus, t.minus) for t in taps), strict=True))
    siemens = np.array([t.siemens for t in taps])
    potential = state.unknowns[..., used]
    alone = [_seen(network, used, plus, minus)[None] for network in state.opened]
    columns = state.edited.columns[:, :, used]
    across = columns[:, :, plus] - columns[:, :, minus]
    change = np.einsum("fmck,fmkl,fmcl->fmc", across, state.edited.core, across)
    seen = np.concatenate([*alone, _seen(state.solved, used, plus, minus) + change])
    strays = np.where(siemens > 0, ghost_wander(seen, potential[..., plus], potential[..., minus]), 0)
    value = np.abs(loaded(potential[..., plus] - potential[..., minus], seen, siemens))
    return value.astype(np.float32), strays.astype(np.float32)


def _seen(solved: Solved, used: list[int], plus: NDArray[np.int64], minus: NDArray[np.int64]) -> NDArray[np.complex128]:
    """Impedance the meter sees at each pair of probes, (samples, measurements) [ohm]; the last index is ground."""
    inverse = solved.inverse[:, used][:, :, used]
    return np.asarray(inverse[:, plus, plus] + inverse[:, minus, minus] - 2 * inverse[:, plus, minus])

"""A circuit with known faults, and a meter that reads it.

This is the benchmark's own physics and its own dice: it shares the circuit's description with the product, and nothing
else. The network is plain nodal admittance, solved afresh for every reading, its machines again and again until their
slip and their core rest; every quantity is drawn from a continuous distribution. The shapes differ from the engine's on
purpose (uniform where it holds a Gaussian, devices that trip by their current, a house that lives on, and so on).
"""

import copy
import math
from collections.abc import Sequence
from enum import StrEnum
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from benchmarks.diagnosis.machines import OFF_OHM, OMEGA, STAR, Machine, copper_of, is_motor, machine_of
from zesty_copper.core.circuit.hands import FREE, Hands
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part, Zone
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.parts.conductor import conductor_resistance_ohm, stray_capacitance_pf
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.circuit.systems import Grounding, supplies
from zesty_copper.core.faults.fault import Fault
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.kinds.ohms import OHM_LIMIT
from zesty_copper.core.observations.kinds.sequence import Turning
from zesty_copper.core.observations.kinds.watching import Watching
from zesty_copper.core.observations.measurement import Measurement
from zesty_copper.core.observations.modes import MeterMode

TRIP_MULTIPLE = 2.5
"""Multiple of its rating at which a breaker or fuse has opened by the time a meter is there."""

MOST_ROUNDS = 12
"""How often machines may take the volts they get before a reading is what it is."""

MARKED = {
    FaultKind.RESISTIVE: 0.55,
    FaultKind.INTERMITTENT: 0.40,
    FaultKind.OPEN: 0.35,
    FaultKind.SHORT: 0.40,
    FaultKind.LOAD_GROUND: 0.30,
}
"""How often a joint or part that failed so shows it."""
MARKED_FUSE = 0.12
MARKED_BESIDE = 0.10
MARKED_ANYWAY = 0.025
"""How often an open fuse or limit shows it; the part beside a marked one; any sound part."""
OVERLOOKED = 0.12
"""Share of marks that a look misses."""


class Oddity(StrEnum):
    """What may be wrong without being on any list."""

    UNLOADED = "a belt off, no refrigerant: motors turn nothing"
    WEAK_SERVICE = "the service itself is weak"
    WEAK_CAPACITOR = "the capacitor has lost two thirds"


HANDLES = ("breaker", "blade", "stab", "plug")
HOUSE = "other_load"
HOUSE_LEG_OHM = 24.0
"""What a leg of the house's other loads amounts to in the middle of its range [ohm]."""

Place = tuple[str, str]


class World:
    """One circuit as it really is today."""

    def __init__(self, circuit: Circuit, faults: Fault | Sequence[Fault], rng: np.random.Generator) -> None:
        """Draw everything that stays the same through the call."""
        self.circuit = circuit
        self.faults = (faults,) if isinstance(faults, Fault) else tuple(faults)
        self.rng = rng
        sources = [part for part in circuit.series if part.entry.role is PartRole.SOURCE]
        first = rng.uniform(0.955, 1.045)
        self.level = {part.id: first * (1 if part is sources[0] else rng.uniform(0.97, 1.03)) for part in sources}
        apart = 0.012 if len(circuit.legs) == 3 else 0.006
        self.balance = {(part.id, leg): rng.uniform(-apart, apart) for part in sources for leg in ("L1", "L2", "L3")}
        self.lean = rng.uniform(-0.12, 0.12)
        self.coupling = math.exp(rng.uniform(-0.9, 0.9))
        self.to_ground = math.exp(rng.uniform(-0.9, 0.9))
        self.joint_ohm = {
            (part.id, lane): 1e-3 * math.exp(rng.uniform(-0.7, 1.1))
            for part in circuit.series
            for lane in circuit.lanes_of(part)
        }
        self.source_factor = math.exp(rng.uniform(-0.8, 0.8))
        self.volt_gain = 1 + rng.uniform(-0.008, 0.008)
        self.amp_gain = 1 + rng.uniform(-0.015, 0.015)
        self.electrode_ohm = _log_uniform(rng, 10.0, 60.0)
        self.fault_share = rng.random()
        self.leak_ohm = math.inf if rng.random() < 0.5 else _log_uniform(rng, 10e3, 10e6)
        self.touch_ohm = _log_uniform(rng, 0.01, 0.5)
        self.track_ohm = _log_uniform(rng, 20.0, 600.0)
        self.coil_ohm = rng.uniform(0.3, 2.0)
        self.times_too_long = _log_uniform(rng, 3.0, 20.0)
        self.low_level = rng.uniform(0.72, 0.92)
        self.bad_share = rng.uniform(0.5, 0.9)
        self.persists = rng.uniform(0.3, 0.85)
        self.bad_now = rng.random() < self.bad_share
        self.spins_on = rng.random() < 0.5
        self.pick_up, self.drop_out = rng.uniform(0.68, 0.82), rng.uniform(0.3, 0.5)
        self.house = {part.id: _log_uniform(rng, 0.15, 6.0) for part in circuit.parts if part.kind == HOUSE}
        self.bonded = rng.random() < 0.5
        self.beside = self._live_neighbours()
        self.lively = rng.random() < 0.5
        self.unseen_house = _log_uniform(rng, 0.15, 6.0)
        self.capacitor_factor = rng.uniform(0.92, 1.08)
        self.machines, self.copper = self._machines()
        self.tripped: set[Place] = set()
        self._trip()
        self.marks = self._marks()

    @property
    def fault(self) -> Fault:
        """The one fault, or the first of two."""
        return self.faults[0]

    def healthy(self) -> "World":
        """The same circuit on the same day with nothing wrong: what a reading would be there."""
        twin = copy.copy(self)
        twin.faults, twin.tripped, twin.rng = (), set(), np.random.default_rng(1)
        twin.machines = copy.deepcopy(self.machines)
        for machine in twin.machines.values():
            machine.mend()
        return twin

    def make_odd(self, oddity: Oddity) -> None:
        """Let something be wrong that no list of faults holds."""
        match oddity:
            case Oddity.UNLOADED:
                for machine in self.machines.values():
                    machine.unload()
            case Oddity.WEAK_SERVICE:
                self.source_factor *= 15
            case Oddity.WEAK_CAPACITOR:
                self.capacitor_factor *= 0.35

    def _machines(self) -> tuple[dict[str, Machine], dict[str, Machine]]:
        """Every load, idle path and transformer, running and for direct current."""
        rng, circuit = self.rng, self.circuit
        held = {fault.part for fault in self._of_kind(FaultKind.STALLED)}
        tapped = {fault.part for fault in self._of_kind(FaultKind.WRONG_TAP)}
        running: dict[str, Machine] = {}
        direct: dict[str, Machine] = {}
        for part in circuit.parts:
            if part.entry.role in (PartRole.SHUNT, PartRole.TRANSFORMER):
                tap = part.winding.other_tap_volts if part.winding is not None and part.id in tapped else None
                lanes = circuit.lanes_of(part)
                running[part.id] = machine_of(
                    part, lanes, rng, held=part.id in held, was_running=self.spins_on, tap=tap
                )
                direct[part.id] = copper_of(part, running[part.id], rng)
        return running, direct

    def poor_ohm(self, part: Part) -> float:
        """A poor joint's resistance: at least what loses a 250th of the volts, or in control wiring an ohm."""
        circuit = self.circuit
        amps = circuit.carried_amps(part)
        least = 0.004 * circuit.root_volts(part) / amps if amps else 0.0
        least = max(least, 1.0 if circuit.root(part).entry.role is PartRole.TRANSFORMER else 0.05)
        return float(least * (10e3 / least) ** self.fault_share)

    def read(self, measurement: Measurement) -> float:
        """What the meter shows, to a tenth."""
        rng = self.rng
        if rng.random() > self.persists:
            self.bad_now = rng.random() < self.bad_share
        bad = self.bad_now
        self._live_on()
        if measurement.unit == "ohm":
            return self._ohms(measurement, bad=bad)
        if isinstance(measurement.place, Watching):
            return self._watch(measurement, measurement.place, bad=bad)
        drift = 1 + rng.uniform(-0.008, 0.008)
        truth = self._meter(measurement, bad=bad) * drift
        if measurement.unit == "seq":
            return float(round(truth))
        if measurement.unit == "V":
            shown = truth * self.volt_gain + rng.uniform(-0.3, 0.3)
        else:
            shown = truth * self.amp_gain * (1 + rng.uniform(-0.02, 0.02)) + rng.uniform(-0.3, 0.3)
        return round(max(shown, 0.0), 1)

    def _live_neighbours(self) -> dict[Place, complex]:
        """Live wires of other circuits beside a run: what a conductor of it hangs on, and by how much, together [V]."""
        rng, found = self.rng, {}
        for part in self.circuit.series:
            if part.conductor is None or rng.random() < 0.65:
                continue
            volts = 120 * np.exp(1j * math.radians(rng.choice([0, 180, 120, -120])))
            for lane in self.circuit.lanes_of(part):
                found[part.id, lane] = complex(volts * rng.uniform(0.0, 0.6))
        return found

    def _live_on(self) -> None:
        """Somebody in the house switches something: mostly little, in a lively house now and then much."""
        rng = self.rng
        for part in self.house:
            self.house[part] *= math.exp(rng.normal(0, 0.08))
            if self.lively and rng.random() < 0.15:
                self.house[part] = _log_uniform(rng, 0.15, 6.0)
        if self.circuit.supply.unseen_phasors:
            self.unseen_house *= math.exp(rng.normal(0, 0.08))
            if self.lively and rng.random() < 0.15:
                self.unseen_house = _log_uniform(rng, 0.15, 6.0)

    def told(self) -> list[Look]:
        """What the customer says: what is plain four times in five, something else one time in twenty."""
        rng, circuit = self.rng, self.circuit
        bad = self.rng.random() < self.bad_share
        net = self._network(frozenset(), bad=bad, meter=None)
        does = [self._does(net, load) for load in circuit.loads]
        coils = [p for p in circuit.series if p.winding is not None]
        plain = {
            "nothing_runs": all(one == 0 for one in does),
            "partly": any(one == 0 for one in does) and any(one > 0 for one in does),
            "hums": any(one == 2 for one in does),
            "chatters": bool(net.restless),
            "weak": any(self._is_weak(net, load) for load in circuit.loads),
            "blank_thermostat": any(self._is_blank(net, part) for part in coils),
            "trips_at_once": bool(self.tripped) and rng.random() < 0.8,
            "backwards": bool(self._of_kind(FaultKind.REVERSED)),
            "comes_and_goes": bool(self._of_kind(FaultKind.INTERMITTENT)) and rng.random() < 0.8,
        }
        said = [sign for sign, is_so in plain.items() if rng.random() < (0.8 if is_so else 0.02)]
        return [Look(id=f"told {sign}", sign=sign) for sign in said]

    def _is_weak(self, net: "_Net", load: Part) -> bool:
        assert load.load is not None
        amps = max(abs(net.current(*key)) for key in net.through if key[0] == load.id)
        return 0.2 < amps / load.load.rated_amps < 0.8

    def _is_blank(self, net: "_Net", part: Part) -> bool:
        assert part.winding is not None
        a, b = (net.volts_at(f"{lane}@{part.id}") for lane in part.makes)
        return abs(a - b) < 0.55 * part.winding.secondary_volts

    def look_over(self, zone: Zone) -> list[tuple[str, str | None]]:
        """Marks that a look over a box finds: part and conductor, the conductor where it is plain."""
        return [
            (part, leg)
            for part, leg in sorted(self.marks, key=str)
            if self.circuit.part(part).zone is zone and self.rng.random() > OVERLOOKED
        ]

    def handles_off(self, zone: Zone) -> list[tuple[str, str | None]]:
        """Switches of a box that stand at off or tripped, once they were looked at and moved."""
        off = {fault.part for fault in self._of_kind(FaultKind.NOT_CLOSED)} | {part for part, _ in self.tripped}
        parts = [self.circuit.part(part) for part in off if part]
        return [(p.id, None) for p in parts if p.zone is zone and p.switch and p.kind in HANDLES]

    def _marks(self) -> set[tuple[str, str | None]]:
        """Joints that show heat: the guilty one often, what is beside it and sound ones seldom."""
        rng, circuit = self.rng, self.circuit
        joints = [p for p in circuit.series if p.conductor is None and p.entry.role is PartRole.SERIES]
        found: set[tuple[str, str | None]] = set()
        for fault in self.faults:
            part = circuit.part(fault.part) if fault.part else None
            if part not in joints or part is None:
                continue
            often = MARKED.get(fault.kind, 0.0)
            if fault.kind is FaultKind.OPEN and part.entry.way in ("fuse", "limit"):
                often = MARKED_FUSE
            if rng.random() < often:
                leg = fault.leg if fault.leg in circuit.lanes_of(part) else None
                found.add((part.id, leg))
                beside = [p for p in joints if circuit.feed(p) == part or circuit.feed(part) == p]
                spread = [p for p in beside if rng.random() < MARKED_BESIDE]
                found |= {(p.id, leg if leg in circuit.lanes_of(p) else None) for p in spread}
        for part in joints:
            if rng.random() < MARKED_ANYWAY:
                lanes = [lane for lane in circuit.lanes_of(part) if lane != GROUND]
                found.add((part.id, str(rng.choice(lanes))))
        return found

    def _ohms(self, measurement: Measurement, *, bad: bool) -> float:
        """Resistance between the probes by a current through them, every coil out; beyond the range OL."""
        rng, circuit = self.rng, self.circuit
        welded = {circuit.part(f.part or "").switch for f in self._of_kind(FaultKind.WELDED)}
        stuck = {circuit.part(f.part or "").switch for f in self._of_kind(FaultKind.NOT_CLOSED)}
        hands = measurement.hands
        out = {s.id for s in circuit.switches if s.coil} | stuck | measurement.open_switches | hands.held_out
        opened = frozenset(s for s in out - welded - hands.pushed_in if s)
        net = _Net(self, opened, bad=bad, meter=measurement, hands=hands, direct=True)
        a, b = self._ends(measurement)
        ohm = abs(net.volts_at(a) - net.volts_at(b))
        shown = ohm * (1 + rng.uniform(-0.015, 0.015)) + rng.uniform(0.0, 0.4)
        return OHM_LIMIT if shown > OHM_LIMIT else float(f"{shown:.3g}")

    def _watch(self, measurement: Measurement, place: Watching, *, bad: bool) -> float:
        """What is seen and heard: nothing, running or in, humming or chattering; one time in fifty mistaken."""
        part = self.circuit.part(place.part)
        net = self._network(measurement.open_switches, measurement.hands, bad=bad, meter=None)
        if part in self.circuit.loads:
            seen = self._does(net, part)
        elif part.switch in net.restless:
            seen = 2.0
        else:
            seen = 0.0 if part.switch in net.open_switches else 1.0
        return float(self.rng.integers(3)) if self.rng.random() < 0.02 else seen

    def _does(self, net: "_Net", part: Part) -> float:
        assert part.load is not None
        amps = max(abs(net.current(key[0], key[1])) for key in net.through if key[0] == part.id)
        if is_motor(part) and (self.machines[part.id].stands or amps > 2.2 * part.load.rated_amps):
            return 2.0 if amps > 0.5 * part.load.rated_amps else 0.0
        return 1.0 if amps > 0.2 * part.load.rated_amps else 0.0

    def _of_kind(self, *kinds: FaultKind) -> list[Fault]:
        return [fault for fault in self.faults if fault.kind in kinds]

    def _trip(self) -> None:
        """With everything called for, open what carries too much, one device at a time, until nothing does."""
        devices = [part for part in self.circuit.series if part.entry.overcurrent and part.rating_amps]
        if not self._of_kind(FaultKind.SHORT, FaultKind.LOAD_GROUND, FaultKind.CROSSED, FaultKind.BRIDGED):
            return
        for _ in range(8):
            net = self._network(frozenset(), bad=False, meter=None)
            over = [
                (abs(net.current(part.id, lane)) / (part.rating_amps or 1), part, lane)
                for part in reversed(devices)
                for lane in self.circuit.lanes_of(part)
                if lane not in (GROUND, NEUTRAL)
            ]
            worst = max(over, key=lambda one: round(one[0], 3), default=None)
            if worst is None or worst[0] < TRIP_MULTIPLE:
                return
            _, part, lane = worst
            # A breaker opens all its poles, a fuse only itself.
            self.tripped |= (
                {(part.id, one) for one in self.circuit.lanes_of(part)} if part.switch else {(part.id, lane)}
            )

    def _meter(self, measurement: Measurement, *, bad: bool) -> float:
        net = self._network(measurement.open_switches, measurement.hands, bad=bad, meter=measurement)
        place = measurement.place
        if isinstance(place, Around):
            return abs(sum(net.in_conductor(self.circuit.part(place.part), lane) for lane in place.lanes))
        if isinstance(place, Turning):
            return self._sequence(net, self.circuit.part(place.part))
        a, b = self._ends(measurement)
        return abs(net.volts_at(a) - net.volts_at(b))

    def _sequence(self, net: "_Net", part: Part) -> float:
        """Which way the legs behind a part follow each other, by the area that their phasors go round."""
        a, b, c = (net.volts_at(f"{leg}@{part.id}") for leg in ("L1", "L2", "L3"))
        area = ((b - a).conjugate() * (c - a)).imag / 2
        whole = max(abs(b - a), abs(c - b), abs(a - c)) ** 2
        if whole < 20**2 or abs(area) < 0.15 * whole:
            return 0.0
        swaps = [
            f for f in self._of_kind(FaultKind.REVERSED) if self.circuit.part(f.part or "") in self.circuit.path(part)
        ]
        return math.copysign(1.0, -area if len(swaps) % 2 == 0 else area)

    def _ends(self, measurement: Measurement) -> tuple[str, str]:
        place = measurement.place
        assert isinstance(place, Between)
        ends = [place.a, place.b]
        for i, point in enumerate(ends):
            if point == GROUND:
                ends[i] = self.circuit.ground_at(self.circuit.split_point(ends[1 - i])[1])
        return ends[0], ends[1]

    def _network(self, by_hand: frozenset[str], hands: Hands = FREE, *, bad: bool, meter: Measurement | None) -> "_Net":
        """Move the contacts that follow coils until they rest; chattering ones are caught at random."""
        circuit = self.circuit
        for machine in self.machines.values():
            machine.begin()
        stuck = {
            circuit.part(f.part or "").switch: f.kind for f in self._of_kind(FaultKind.NOT_CLOSED, FaultKind.WELDED)
        }
        by_hand |= {s for s, kind in stuck.items() if kind is FaultKind.NOT_CLOSED and s} | hands.held_out
        by_hand -= {s for s, kind in stuck.items() if kind is FaultKind.WELDED} | hands.pushed_in
        held = {*stuck, *hands.pushed_in, *hands.held_out}
        followers = [s for s in circuit.switches if s.coil and s.id not in held]
        out = {s.id for s in followers}
        net = _Net(self, by_hand | out, bad=bad, meter=meter, hands=hands)
        moves: list[set[str]] = []
        for step in range(12):
            before = set(out)
            for switch in followers:
                share = self._coil_share(net, switch.coil or "")
                if switch.id in out and share >= self.pick_up:
                    out.discard(switch.id)
                elif switch.id not in out and share < self.drop_out:
                    out.add(switch.id)
            if out == before:
                break
            moves.append(out ^ before)
            net = _Net(self, by_hand | out, bad=bad, meter=meter, hands=hands)
            if step > 6:  # it never rests
                net.restless = frozenset(moves[-1] | moves[-2])
                if self.rng.random() < 0.5:
                    break
        return net

    def _coil_share(self, net: "_Net", coil: str) -> float:
        part = self.circuit.part(coil)
        assert part.load is not None
        # An open coil pulls nothing in, whatever is across it.
        volts = net.current(coil, "") * complex(self.machines[coil].impedance()[0, 0])
        return abs(volts) / part.load.rated_volts


def _log_uniform(rng: np.random.Generator, low: float, high: float) -> float:
    return math.exp(rng.uniform(math.log(low), math.log(high)))


class _Net:
    """Nodal admittance of one moment, solved."""

    def __init__(
        self,
        world: World,
        open_switches: frozenset[str],
        *,
        bad: bool,
        meter: Measurement | None,
        hands: Hands = FREE,
        direct: bool = False,
    ) -> None:
        self.world, self.bad, self.direct, self.hands = world, bad, direct, hands
        self.machines = world.copper if direct else world.machines
        self.open_switches = frozenset(open_switches)
        self.restless: frozenset[str] = frozenset()
        circuit = world.circuit
        self.index: dict[str, int] = {}
        for point in circuit.points():
            if point != GROUND:
                self.index[point] = len(self.index)
        for part in circuit.parts:
            self.index[f"star@{part.id}"] = len(self.index)
            # What is out of the circuit has ends of its own.
            for lead in self._terminals(part) if part.id in hands.removed else ():
                self.index.setdefault(lead, len(self.index))
        self.matrix = np.zeros((len(self.index) + 1,) * 2, dtype=complex)
        self.injected = np.zeros(len(self.index) + 1, dtype=complex)
        self.through: dict[Place, tuple[NDArray[np.complex128], complex]] = {}
        shunts = [part for part in circuit.parts if part.id in self.machines]
        for part in circuit.parts:
            if part.entry.role is PartRole.SOURCE:
                self._source(part)
            elif part.entry.role is PartRole.SERIES:
                self._series(part)
            if part.has_points:
                self._strays(part)
        for fault in world.faults:
            self._touch(fault)
        if meter is not None and meter.unit == "V":
            a, b = world._ends(meter)
            self._connect(self.index[a], self.index[b], 1 / 10e6 if meter.meter is MeterMode.HI_Z else 1 / 3e3)
        if meter is not None and meter.unit == "ohm":
            self.injected[:] = 0
            for end, amps in zip(world._ends(meter), (1.0, -1.0), strict=True):
                self.injected[self.index[end]] += amps
        # Inner nodes that no part uses hang on nothing.
        at = np.arange(len(self.index))
        self.matrix[at, at] += 1e-14
        self._settle(shunts)

    def _settle(self, shunts: Sequence[Part]) -> None:
        """Solve, let every machine take the volts it gets, and solve again until none moves."""
        still = self.matrix.copy()
        for _ in range(MOST_ROUNDS):
            self.matrix = still.copy()
            for part in shunts:
                self._shunt(part)
            self.volts = np.append(np.linalg.solve(self.matrix[:-1, :-1], self.injected[:-1]), 0)
            moved = [self.machines[part.id].settle(self._across(part)) for part in shunts]
            if self.direct or not any(moved):
                break

    def volts_at(self, point: str) -> complex:
        return complex(self.volts[self.index[point]])

    def current(self, part: str, lane: str) -> complex:
        row, given = self.through[part, lane]
        return complex(row @ self.volts + given)

    def in_conductor(self, part: Part, lane: str) -> complex:
        """Current down one conductor of a part, or one lead of a load."""
        if part.has_points:
            return self.current(part.id, lane)
        lanes = self.world.circuit.lanes_of(part)
        end = lanes.index(lane)
        branches = self.machines[part.id].wound
        out = sum((self.current(part.id, name) for name, a, _ in branches if a == end), 0j)
        return out - sum((self.current(part.id, name) for name, _, b in branches if b == end), 0j)

    def _connect(self, a: int, b: int, siemens: complex) -> None:
        self.matrix[a, a] += siemens
        self.matrix[b, b] += siemens
        self.matrix[a, b] -= siemens
        self.matrix[b, a] -= siemens

    def _row(self, key: Place, a: int, b: int, siemens: complex, given: complex = 0j) -> None:
        row = np.zeros(len(self.index) + 1, dtype=complex)
        row[a] += siemens
        row[b] -= siemens
        self.through[key] = (row, given)

    def _volts_of(self, part: Part, leg: str) -> complex:
        """A leg's electromotive force, by what is wrong with the supply."""
        world = self.world
        own = world.circuit.supply_of(part)
        if leg not in own.phasors:
            return 0j
        volts, winding = own.phasors[leg], leg
        main = part == world.circuit.series[0]
        for fault in world.faults:
            if (fault.part or world.circuit.series[0].id) != part.id and not (fault.part is None and main):
                continue
            match fault.kind:
                case FaultKind.SAME_LEG if leg == "L2":
                    volts, winding = own.phasors["L1"], "L1"
                case FaultKind.SUPPLY_DEAD:
                    volts = 0j
                case FaultKind.SUPPLY_LOW:
                    volts *= world.low_level
                case FaultKind.PRIMARY_LOST if leg != fault.leg:
                    first = next(phasor for phasor in own.phasors if phasor != fault.leg)
                    volts = -own.phasors[fault.leg or ""] / 2 * (1 + self.world.lean * (1 if leg == first else -1))
                case FaultKind.WRONG_SUPPLY:
                    volts = supplies()[own.other or ""].phasors.get(leg, volts)
                case FaultKind.HIGH_LEG if leg in (fault.leg, own.high_leg):
                    volts = own.phasors[(own.high_leg if leg == fault.leg else fault.leg) or ""]
                case _:
                    pass
        return volts * world.level[part.id] * (1 + world.balance.get((part.id, winding), 0))

    def _faulted(self, part: Part, lane: str, farad: float = 4e-12) -> complex:
        """What faults add in series."""
        world, extra = self.world, 0j
        for fault in world.faults:
            if fault.part != part.id:
                continue
            if fault.leg == lane or (fault.leg is None and not part.has_points):
                broken = fault.kind in (FaultKind.OPEN, FaultKind.LOAD_OPEN)
                if broken or (fault.kind is FaultKind.INTERMITTENT and self.bad):
                    extra += 1 / (1 / world.leak_ohm + self._gap_siemens(farad))
                elif fault.kind is FaultKind.RESISTIVE:
                    extra += world.poor_ohm(part)
            if fault.kind is FaultKind.UNDERSIZED and part.conductor is not None and lane != GROUND:
                extra += conductor_resistance_ohm(part.conductor) * (world.times_too_long - 1)
        if (part.id, lane) in world.tripped and lane != GROUND:
            extra += self._clean_gap()
        return extra

    def _clean_gap(self) -> complex:
        return 1 / self._gap_siemens(4e-12)

    def _gap_siemens(self, farad: float) -> complex:
        return complex(1e-11, 0 if self.direct else OMEGA * farad * self.world.coupling)

    def _stray_siemens(self, farad: float) -> complex:
        """Of insulation, which to direct current leaks a hundredth of what its capacitance carries."""
        return complex(0.01 * OMEGA * farad) if self.direct else 1j * OMEGA * farad

    def _source(self, part: Part) -> None:
        circuit, world = self.world.circuit, self.world
        earth, ground = len(self.index), self.index[f"{GROUND}@{part.id}"]
        star = earth
        if circuit.supply_of(part).grounding is Grounding.NONE:
            star = self.index[f"star@{part.id}"]
            self._connect(star, earth, self._stray_siemens(20e-9 * world.to_ground))
        for lane in circuit.lanes_of(part):
            if lane == GROUND:
                continue
            siemens = 1 / (complex(0.025, 0.015) * world.source_factor + self._faulted(part, lane))
            node = self.index[f"{lane}@{part.id}"]
            volts = self._volts_of(part, lane)
            self._connect(star, node, siemens)
            self.injected[node] += siemens * volts
            self.injected[star] -= siemens * volts
            self._row((part.id, lane), star, node, siemens, siemens * volts)
        for volts in circuit.supply_of(part).unseen_phasors.values() if not self.direct else ():
            dead = bool(world._of_kind(FaultKind.SUPPLY_DEAD))
            siemens = 1 / complex(HOUSE_LEG_OHM * world.unseen_house)
            node = self.index[f"{NEUTRAL}@{part.id}"]
            self._connect(star, node, siemens)
            driven = siemens * (0 if dead else volts) * world.level[part.id]
            self.injected[node] += driven
            self.injected[star] -= driven
        if NEUTRAL in circuit.lanes_of(part):
            self._connect(self.index[f"{NEUTRAL}@{part.id}"], ground, 1e3)
            self._connect(earth, ground, 1 / world.electrode_ohm)
        else:
            self._connect(earth, ground, 1e3)

    def _series(self, part: Part) -> None:
        circuit, world = self.world.circuit, self.world
        for into, lane in circuit.pairs_of(part):
            if part.conductor is not None:
                ohm = complex(conductor_resistance_ohm(part.conductor))
            elif part.capacitance_uf is not None:
                ohm = -1j / (OMEGA * part.capacitance_uf * 1e-6) * world.capacitor_factor
                ohm = complex(OFF_OHM) if self.direct else ohm
            else:
                ohm = world.joint_ohm[part.id, lane] * complex((part.entry.resistance_mohm or 1) / 2)
            if part.switch and lane != GROUND and (part.switch in self.open_switches) != part.normally_closed:
                ohm += self._clean_gap()
            if f"{lane}@{part.id}" in self.hands.lifted or part.id in self.hands.removed:
                ohm += self._clean_gap()
            siemens = 1 / (ohm + self._faulted(part, lane))
            a, b = self.index[circuit.upstream_point(part, into) or ""], self.index[f"{lane}@{part.id}"]
            self._connect(a, b, siemens)
            self._row((part.id, lane), a, b, siemens)

    def _shunt(self, part: Part) -> None:
        circuit, world = self.world.circuit, self.world
        ends = self._ends(part)
        machine = self.machines[part.id]
        impedance = machine.impedance() * world.house.get(part.id, 1.0)
        impedance = impedance + np.diag([self._faulted(part, name, 3e-12) for name, _, _ in machine.wound])
        admittance = np.linalg.inv(impedance)
        spans = self._spans(part, ends)
        self.matrix += spans.T @ admittance @ spans
        for i, (name, _, _) in enumerate(machine.wound):
            self.through[part.id, name] = (admittance[i] @ spans, 0j)
        grounded = part.winding is not None and part.winding.secondary_grounded
        if part.winding is not None and (world.bonded if part.winding.secondary_grounded is None else grounded):
            self._connect(ends[3], self.index[circuit.ground_at(part)], 1e3)

    def _spans(self, part: Part, ends: Sequence[int]) -> NDArray[np.float64]:
        """Each winding's ends, (windings, nodes + 1)."""
        star = self.index[f"star@{part.id}"]
        wound = self.machines[part.id].wound
        spans = np.zeros((len(wound), len(self.index) + 1))
        for i, (_, a, b) in enumerate(wound):
            spans[i, star if a == STAR else ends[a]] += 1
            spans[i, star if b == STAR else ends[b]] -= 1
        return spans

    def _terminals(self, part: Part) -> tuple[str, ...]:
        """Where a load's leads end: landed, or in the air."""
        circuit = self.world.circuit
        if part.has_points or part.id not in self.hands.removed:
            return circuit.terminals(part)
        return tuple(f"{lane}@{part.id}" for lane in circuit.lanes_of(part))

    def _ends(self, part: Part) -> list[int]:
        ends = [self.index[point] for point in self._terminals(part)]
        return ends + [self.index[f"{lane}@{part.id}"] for lane in part.makes]

    def _across(self, part: Part) -> list[complex]:
        """Volts over each winding, without what a fault inserts there."""
        machine = self.machines[part.id]
        amps = np.array([self.current(part.id, name) for name, _, _ in machine.wound])
        return [complex(volts) for volts in machine.impedance() @ amps]

    def _strays(self, part: Part) -> None:
        circuit, world = self.world.circuit, self.world
        lanes = [lane for lane in circuit.lanes_of(part) if lane != GROUND]
        ground = self.index[circuit.ground_at(part)]
        half_f = stray_capacitance_pf(part.conductor.length_m) * 0.5e-12 if part.conductor else 0.0
        here = [self.index[f"{lane}@{part.id}"] for lane in lanes]
        ahead = [self.index[circuit.upstream_point(part, lane) or ""] for lane in lanes] if half_f else []
        for nodes, between_f, ground_f in ((here, 5e-12 + half_f, 8e-12 + half_f), (ahead, half_f, half_f)):
            for a, b in pairwise(nodes):
                self._connect(a, b, self._stray_siemens(between_f * world.coupling))
            for a in nodes:
                self._connect(a, ground, self._stray_siemens(ground_f * world.to_ground))
        for nodes in (here, ahead) if half_f and not self.direct else ():
            for lane, a in zip(lanes, nodes, strict=True):
                if (volts := world.beside.get((part.id, lane))) is not None:
                    siemens = self._stray_siemens(half_f)
                    self.matrix[a, a] += siemens
                    self.injected[a] += siemens * volts

    def _touch(self, fault: Fault) -> None:
        """What a fault joins that should be apart."""
        circuit, world = self.world.circuit, self.world
        if fault.part is None:
            return
        part = circuit.part(fault.part)
        a, _, b = (fault.leg or "").partition("-")
        match fault.kind:
            case FaultKind.SHORT | FaultKind.LEAK:
                end = circuit.ground_at(part) if b == GROUND else f"{b}@{part.id}"
                ohm = world.touch_ohm if fault.kind is FaultKind.SHORT else world.track_ohm
                self._connect(self.index[f"{a}@{part.id}"], self.index[end], 1 / ohm)
            case FaultKind.LOAD_GROUND:
                ends: tuple[str, str] = (self._terminals(part)[0], circuit.ground_at(part))
                self._connect(self.index[ends[0]], self.index[ends[1]], 1 / world.touch_ohm)
            case FaultKind.COIL_SHORT:
                coil = self._terminals(part)
                self._connect(self.index[coil[0]], self.index[coil[1]], 1 / world.coil_ohm)
            case FaultKind.CROSSED:
                if b:
                    control = part if part.entry.role is PartRole.TRANSFORMER else circuit.root(part)
                    ends = (circuit.terminals(control)[circuit.primary_lanes(control).index(a)], f"{b}@{part.id}")
                else:
                    control = next(p for p in circuit.series if p.entry.role is PartRole.TRANSFORMER)
                    ends = (f"{a}@{part.id}", f"{control.makes[0]}@{control.id}")
                self._connect(self.index[ends[0]], self.index[ends[1]], 1 / world.touch_ohm)
            case FaultKind.BRIDGED:
                roots = (circuit.series[0], part)
                runs = [self._last_run(root) for root in roots]
                self._connect(self.index[runs[0]], self.index[runs[1]], 1 / world.touch_ohm)
            case _:
                pass

    def _last_run(self, source: Part) -> str:
        """The first leg of a supply where its last wires end."""
        circuit = self.world.circuit
        lane = next(iter(circuit.supply_of(source).legs))
        runs = [p for p in circuit.series if p.conductor and circuit.root(p) is source and lane in circuit.lanes_of(p)]
        return f"{lane}@{(runs or [source])[-1].id}"

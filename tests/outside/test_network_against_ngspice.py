"""Every node voltage, part current and meter reading against ngspice (39, Debian), within 0.1 %."""

from pathlib import Path

import numpy as np
import pytest
from tests.network_by_hand import dense_inverse
from tests.outside.ngspice import spice_phasors

from zesty_copper.core.circuit.hands import Hands, own_ends
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.parts.loads import LoadData
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.reachable import reachable_states
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.predict.compiled import compile_circuit, in_hands
from zesty_copper.core.diagnosis.predict.observe import predict
from zesty_copper.core.faults.catalogue import faults_of
from zesty_copper.core.faults.fault import Fault
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.trips import trips_of
from zesty_copper.core.network.lowrank import Edit, respond
from zesty_copper.core.network.meter import INPUT_SIEMENS, loaded, tap
from zesty_copper.core.network.netlist import BOND, EARTH, ELECTRODE, build_netlist
from zesty_copper.core.network.solve import nominal, open_impedance, solve
from zesty_copper.core.network.topology import Topology
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.kinds.ohms import OHM_LIMIT
from zesty_copper.core.observations.measurement import Measurement
from zesty_copper.core.observations.modes import MeterMode

RELATIVE = 1e-3
FLOOR = (1e-6, 1e-12)
"""Below these both only have to be that small [V, A]."""
GROUND_FLOOR_AMPS = 1e-9
"""The same for what flows to ground through a milliohm: ngspice's rounding of a microvolt's millionth."""
FLOATING_FLOOR = (5e-4, 1e-8)
"""The same where a fault leaves something floating, ground metal among it: that lies in ngspice's own rounding, and the
meter's last digit is 0.1 V or 0.1 A."""
Place = tuple[str, str]


def followers(circuit: Circuit, *, closed: bool) -> frozenset[str]:
    """Switches that follow a coil, all in or all out."""
    return frozenset() if closed else frozenset(s.id for s in circuit.switches if s.coil)


def edited(
    circuit: Circuit,
    open_switches: frozenset[str],
    *,
    extra_ohm: dict[Place, float] | None = None,
    gaps: dict[Place, float] | None = None,
    joined: dict[tuple[str, str], float] | None = None,
    emf: dict[Place, complex] | None = None,
) -> tuple[np.ndarray, np.ndarray]:
    """The product's unknowns and inverse, faults put in by its own low-rank edit."""
    netlist = build_netlist(circuit)
    solved = solve(netlist, nominal(), open_switches)
    gaps, joined = gaps or {}, joined or {}
    pairs = [(netlist.branch_row(*key), EARTH) for key in [*(extra_ohm or {}), *gaps]]
    delta = [-complex(ohm) for ohm in (extra_ohm or {}).values()]
    delta += [
        -complex(1 / (1 / open_impedance(netlist, netlist.branches[key]) + 1 / leak)) for key, leak in gaps.items()
    ]
    pairs += [(netlist.point_row(Point(a)), netlist.point_row(Point(b))) for a, b in joined]
    delta += [1 / complex(ohm) for ohm in joined.values()]
    drive = np.ones((1, 1, len(netlist.sources)), dtype=complex)
    for key, volts in (emf or {}).items():
        if key in netlist.sources:  # a grounded corner has none
            s = netlist.sources.index(key)
            drive[..., s] = volts / netlist.emf_volts[s].sum()
    topology = Topology(solved, drive)
    healthy, inverse = topology.driven[0, 0], dense_inverse(solved)[0]
    if not pairs:
        return healthy, inverse
    plus, minus = (np.array(ends) for ends in zip(*pairs, strict=True))
    one = np.zeros(1, dtype=int)
    edit = Edit(plus, minus, one, np.arange(len(pairs))[None], one, np.array(delta)[None])
    response, _ = respond(topology, edit, one)
    right, left = solved.columns(plus, minus)[0], solved.rows(plus, minus)[0]
    unknowns = healthy + response.coefficients[0] @ right
    return unknowns, inverse + right[:, :-1].T @ response.core[0] @ left[:, :-1]


def assert_same(ours: complex, theirs: complex, what: str, floor: float) -> None:
    """Phasors agree within 0.1 %; below the floor [V or A] both only have to be that small."""
    assert abs(ours - theirs) <= RELATIVE * abs(theirs) + floor, f"{what}: {ours} against ngspice's {theirs}"


def assert_all_same(circuit: Circuit, ours: np.ndarray, theirs: dict[str, complex], floor: tuple[float, float]) -> None:
    netlist = build_netlist(circuit)
    for point, row in netlist.nodes.items():
        assert_same(ours[row], theirs[f"v:{point}"], point, floor[0])
    for part, name in netlist.branches:
        least = max(floor[1], GROUND_FLOOR_AMPS) if name in (BOND, ELECTRODE, "G") else floor[1]
        assert_same(ours[netlist.branch_row(part, name)], theirs[f"i:{part}:{name}"], f"{part} {name}", least)


def every_state(circuit: Circuit) -> list[frozenset[str]]:
    """States a hand can reach, with all coils in, and all out."""
    states = [s | followers(circuit, closed=closed) for s in reachable_states(circuit) for closed in (True, False)]
    return list(dict.fromkeys(states))


@pytest.mark.parametrize("key", ready_made())
def test_healthy_circuits_in_every_state(key: str, tmp_path: Path) -> None:
    circuit = ready_made()[key]
    for open_switches in every_state(circuit):
        ours, _ = edited(circuit, open_switches)
        assert_all_same(circuit, ours, spice_phasors(circuit, tmp_path, open_switches=open_switches), FLOOR)


def told_to_spice(circuit: Circuit, fault: Fault) -> dict[str, object] | None:  # noqa: PLR0911 - one for each kind
    """What a fault is, in the words of the netlist writer; None for those that are another circuit altogether."""
    part = circuit.part(fault.part) if fault.part else circuit.series[0]
    key = (part.id, fault.leg or "")
    legs = circuit.supply_of(part).phasors if part in circuit.series and part.kind == "source" else {}
    a, _, b = (fault.leg or "").partition("-")
    touched = (f"{a}@{part.id}", circuit.ground_at(part) if b == "G" else f"{b}@{part.id}")
    match fault.kind:
        case FaultKind.OPEN | FaultKind.LOAD_OPEN:
            return {"gaps": {key: 1e6}}
        case FaultKind.RESISTIVE:
            return {"extra_ohm": {key: 3.0}}
        case FaultKind.LEAK:
            return {"joined": {touched: 400.0}}
        case FaultKind.SHORT:
            blown = {(t.part, t.lane): 1e11 for t in trips_of(circuit, *touched, 0.07) if not t.switch}
            return {"joined": {touched: 0.07}, "gaps": blown}
        case FaultKind.COIL_SHORT:
            ends = circuit.terminals(part)
            return {"joined": {(ends[0], ends[1]): 0.8}}
        case FaultKind.CROSSED:
            if not b:  # through a contact that is closed while its relay is out
                return {"joined": {(f"{key[1]}@{part.id}", "R@transformer"): 0.1}}
            control = part if part.winding is not None else circuit.root(part)
            line = circuit.terminals(control)[circuit.primary_lanes(control).index(a)]
            return {"joined": {(line, f"{b}@{part.id}"): 0.1}}
        case FaultKind.SUPPLY_DEAD:
            return {"emf": {(part.id, leg): 0j for leg in legs}}
        case FaultKind.SAME_LEG:
            first, second = legs
            return {"emf": {(part.id, second): legs[first]}}
        case FaultKind.PRIMARY_LOST:
            return {"emf": {(part.id, leg): -legs[key[1]] / 2 for leg in legs if leg != key[1]}}
        case FaultKind.HIGH_LEG:
            high = circuit.supply.high_leg or ""
            return {"emf": {(part.id, high): legs[key[1]], (part.id, key[1]): legs[high]}}
        case _:
            return None


@pytest.mark.parametrize("key", ready_made())
def test_faulted_circuits_by_low_rank_edit(key: str, tmp_path: Path) -> None:
    """A spread of every kind of fault, running."""
    circuit = ready_made()[key]
    seen: dict[FaultKind, int] = {}
    compared = 0
    for fault in faults_of(circuit):
        told = told_to_spice(circuit, fault)
        seen[fault.kind] = seen.get(fault.kind, 0) + 1
        # Of the many opens and poor joints every fifth will do here; the core's own tests take all.
        if told is None or (seen[fault.kind] - 1) % (5 if seen[fault.kind] > 1 else 1):
            continue
        state = followers(circuit, closed=True)
        ours, _ = edited(circuit, state, **told)  # type: ignore[arg-type] # told_to_spice's words are its arguments
        assert_all_same(circuit, ours, spice_phasors(circuit, tmp_path, open_switches=state, **told), FLOATING_FLOOR)  # type: ignore[arg-type]
        compared += 1
    assert compared >= 6, "too few faults were compared"


@pytest.mark.parametrize("mode", INPUT_SIEMENS)
@pytest.mark.parametrize(
    ("points", "leak", "open_switches"),
    [
        (("L2@whip", "G"), 1e11, {"contactor", "disconnect"}),  # a ghost on a short dead run
        (("L2@contactor", "G"), 1e11, {"contactor"}),  # a ghost past an open contactor
        (("L1@line_lug", "L2@line_lug"), 1e11, {"contactor", "disconnect"}),  # a broken branch wire, long run
        (("L2@line_lug", "G"), 1e5, {"contactor", "disconnect"}),  # the same, leaking
        (("L2@whip", "G"), 1e11, set()),  # held by the load: no ghost at all
    ],
)
def test_ghost_voltages_as_the_meter_loads_them(
    points: tuple[str, str], leak: float, open_switches: set[str], mode: MeterMode, tmp_path: Path
) -> None:
    circuit = ready_made()["condenser_fused"]
    state = frozenset(open_switches)
    gaps = {("branch", "L2"): leak}
    measurement = Measurement(place=Between(a=Point(points[0]), b=Point(points[1])), meter=mode, open_switches=state)
    ours, inverse = edited(circuit, state, gaps=gaps)
    where = tap(build_netlist(circuit), measurement)
    ends = np.zeros(len(ours))
    ends[list(where.rows[:2])] = 1, -1
    reading = loaded(ends @ ours, ends[:-1] @ inverse @ ends[:-1], INPUT_SIEMENS[mode])
    theirs = spice_phasors(circuit, tmp_path, open_switches=state, gaps=gaps, meter=measurement)
    a, b = (theirs[f"v:{circuit.ground_at(circuit.part('whip')) if p == 'G' else p}"] for p in points)
    assert_same(abs(complex(reading)), abs(a - b), f"{points} {mode}", FLOOR[0])


@pytest.mark.parametrize("key", ready_made())
def test_ohms_of_a_dead_circuit(key: str, tmp_path: Path) -> None:
    """Between neighbours, along a conductor and to ground, the coils out and the first switch open."""
    circuit = ready_made()[key]
    opened = frozenset(s.id for s in circuit.switches if s.coil) | {circuit.by_hand[0].id}
    netlist = build_netlist(circuit, direct=True)
    inverse = dense_inverse(solve(netlist, nominal(), opened))[0]
    load = circuit.loads[0]
    first, second = circuit.terminals(load)[:2]
    far, ground = circuit.upstream_point(circuit.path(load)[1], circuit.legs[0]) or "", circuit.ground_at(load)
    for a, b in ((first, second), (first, far), (first, ground)):
        ends = np.zeros(len(inverse))
        ends[netlist.nodes[a]], ends[netlist.nodes[Point(b)]] = 1, -1
        theirs = spice_phasors(circuit, tmp_path, open_switches=opened, ohms_of=(a, b))
        ohm = abs(theirs[f"v:{a}"] - theirs[f"v:{b}"])
        assert abs(ends @ inverse @ ends) == pytest.approx(ohm, rel=RELATIVE), f"{a} to {b}"


@pytest.mark.parametrize("key", ready_made())
def test_a_load_taken_out_and_a_lead_lifted(key: str, tmp_path: Path) -> None:
    """Against a circuit that never had the load, and against a gap where the lead was; every point that is left."""
    circuit = ready_made()[key]
    compiled = compile_circuit(circuit)
    load = next(one for one in circuit.loads if one.id not in {s.coil for s in circuit.switches})
    # A circuit needs a load: an only one is there, and draws a microamp.
    # No equipment draws so little, so no circuit that is typed in may.
    microamp = LoadData.model_construct(rated_volts=240.0, rated_amps=1e-6, power_factor=1.0, locked_amps=None)
    idle = load.model_copy(update={"kind": "heater", "load": microamp})
    parts = [part for part in circuit.parts if part != load]
    alone = not any(part.entry.role is PartRole.SHUNT for part in parts)
    without = circuit.model_copy(update={"parts": (*parts, *((idle,) if alone else ()))})
    last = next(part for part in reversed(circuit.path(load)) if part.entry.role is PartRole.SERIES)
    lane = next(one for one in circuit.lanes_of(last) if one != GROUND)
    for hands, alike, gaps in (
        (Hands(removed=frozenset({load.id})), without, {}),
        (Hands(lifted=frozenset({Point.at(lane, last.id)})), circuit, {(last.id, lane): 1e11}),
    ):
        netlist = build_netlist(circuit).with_lifted(in_hands(compiled, hands).lifted)
        ours = solve(netlist, nominal(), frozenset()).unknowns.sum(axis=0)[0]
        theirs = spice_phasors(alike, tmp_path, gaps=gaps)
        for point in set(alike.points()) - {GROUND}:
            assert_same(ours[netlist.nodes[point]], theirs[f"v:{point}"], f"{hands} {point}", FLOATING_FLOOR[0])


@pytest.mark.parametrize("key", ready_made())
def test_ohms_of_a_load_by_itself(key: str, tmp_path: Path) -> None:
    """Between its own leads, everything else off: as ngspice finds it of the same load with nothing behind a source."""
    circuit = ready_made()[key]
    load = circuit.loads[0]
    own = own_ends(circuit, load)[:2]
    hands = Hands(removed=frozenset({load.id}))
    measurement = Measurement(place=Between(a=own[0], b=own[1]), meter=MeterMode.OHM, hands=hands)
    compiled = compile_circuit(circuit)
    found = measurement.observation.off_scale(float(np.median(predict(compiled, measurement).value[compiled.healthy])))
    opened = frozenset(s.id for s in circuit.switches)
    parts = (*circuit.path(load)[:-1], load)
    named = {part.switch for part in parts}
    switches = [s.model_copy(update={"coil": None}) for s in circuit.switches if s.id in named]
    bare = circuit.model_copy(update={"parts": parts, "switches": tuple(switches)})
    a, b = bare.terminals(load)[:2]
    theirs = spice_phasors(bare, tmp_path, open_switches=opened, ohms_of=(a, b))
    ohm = min(abs(theirs[f"v:{a}"] - theirs[f"v:{b}"]), OHM_LIMIT)
    # What a winding's copper varies by is in the samples: their middle is the plate's.
    assert found == pytest.approx(ohm, rel=0.05, abs=0.02)

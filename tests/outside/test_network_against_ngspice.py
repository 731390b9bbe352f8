"""Every node voltage, part current and meter reading against ngspice (39, Debian), within 0.1 %."""

from pathlib import Path

import numpy as np
import pytest
from tests.outside.ngspice import spice_phasors

from zesty_copper.core.circuit.measurement import Between, Measurement, MeterMode
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.network.meter import INPUT_SIEMENS, loaded, tap
from zesty_copper.core.network.netlist import build_netlist
from zesty_copper.core.network.solve import edit, nominal, open_impedance, solve

RELATIVE = 1e-3
STATES = [frozenset(), frozenset({"contactor"}), frozenset({"contactor", "disconnect"}), frozenset({"breaker"})]


def unknowns_with(
    circuit: Circuit,
    open_switches: frozenset[str],
    extra_ohm: dict[tuple[str, str], float],
    gaps: dict[tuple[str, str], float],
) -> tuple[np.ndarray, np.ndarray]:
    """The product's unknowns and inverse, the fault put in by its own low-rank edit."""
    netlist = build_netlist(circuit)
    solved = solve(netlist, nominal(), open_switches)
    keys = [*extra_ohm, *gaps]
    if not keys:
        return solved.unknowns.sum(1)[0], solved.inverse[0]
    branches = np.array([[netlist.branches[key] for key in keys]])
    ohm = [complex(value) for value in extra_ohm.values()]
    ohm += [complex(open_impedance(netlist, netlist.branches[key], leak)) for key, leak in gaps.items()]
    edited = edit(solved, branches, np.array([[ohm]]))
    inverse = np.stack([edited.apply(solved.inverse[None, :, :, k])[0, 0] for k in range(netlist.size + 1)], axis=1)
    return edited.apply(solved.unknowns.sum(1)[None])[0, 0], inverse


def assert_same(ours: complex, theirs: complex, what: str, floor: float) -> None:
    """Phasors agree within 0.1 %; below the floor [V or A] both only have to be that small."""
    assert abs(ours - theirs) <= RELATIVE * abs(theirs) + floor, f"{what}: {ours} against ngspice's {theirs}"


def compare(
    circuit: Circuit,
    folder: Path,
    open_switches: frozenset[str],
    extra_ohm: dict[tuple[str, str], float] | None = None,
    gaps: dict[tuple[str, str], float] | None = None,
) -> None:
    netlist = build_netlist(circuit)
    ours, _ = unknowns_with(circuit, open_switches, extra_ohm or {}, gaps or {})
    theirs = spice_phasors(circuit, folder, open_switches=open_switches, extra_ohm=extra_ohm, gaps=gaps)
    for point, row in netlist.nodes.items():
        assert_same(ours[row], theirs[f"v:{point}"], point, 1e-6)
    for part, leg in netlist.branches:
        assert_same(ours[netlist.branch_row(part, leg)], theirs[f"i:{part}:{leg}"], f"{part} {leg}", 1e-12)


@pytest.mark.parametrize("open_switches", STATES, ids=lambda state: "+".join(sorted(state)) or "all_closed")
@pytest.mark.parametrize("key", ready_made())
def test_healthy_circuits(key: str, open_switches: frozenset[str], tmp_path: Path) -> None:
    compare(ready_made()[key], tmp_path, open_switches)


FAULTS: list[tuple[dict[tuple[str, str], float], dict[tuple[str, str], float]]] = [
    *(({}, {(part, leg): leak}) for part, leg, leak in [
        ("supply", "L1", 1e11), ("panel_lug", "L2", 1e6), ("breaker", "L1", 1e11), ("branch", "L2", 1e11),
        ("line_lug", "L1", 1e5), ("stab_in", "L2", 1e11), ("clip_line", "L1", 1e4), ("fuse", "L2", 1e11),
        ("clip_load", "L1", 1e6), ("stab_out", "L2", 1e4), ("whip", "L1", 1e11), ("contactor", "L2", 1e11),
        ("compressor", "", 1e11),
    ]),
    *(({(part, leg): ohm}, {}) for part, leg, ohm in [
        ("supply", "L2", 0.05), ("breaker", "L1", 0.4), ("branch", "L2", 3.0), ("line_lug", "L1", 10.0),
        ("clip_load", "L2", 1.2), ("fuse", "L1", 150.0), ("whip", "L2", 1e3), ("contactor", "L1", 1e4),
    ]),
    ({("clip_load", "L2"): 2.0}, {("fuse", "L1"): 1e11}),
]  # fmt: skip


@pytest.mark.parametrize("open_switches", STATES[:2], ids=["running", "at_rest"])
@pytest.mark.parametrize("fault", FAULTS, ids=lambda fault: "+".join(":".join(key) for part in fault for key in part))
def test_faults_by_low_rank_edit(
    fault: tuple[dict[tuple[str, str], float], dict[tuple[str, str], float]],
    open_switches: frozenset[str],
    tmp_path: Path,
) -> None:
    compare(ready_made()["condenser_fused"], tmp_path, open_switches, *fault)


@pytest.mark.parametrize("mode", MeterMode)
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
    measurement = Measurement(place=Between(a=points[0], b=points[1]), meter=mode, open_switches=state)
    ours, inverse = unknowns_with(circuit, state, {}, gaps)
    where = tap(build_netlist(circuit), measurement)
    ends = np.zeros(len(ours))
    ends[where.plus] = 1
    if where.minus >= 0:
        ends[where.minus] = -1
    reading = loaded(ends @ ours, ends @ inverse @ ends, INPUT_SIEMENS[mode])
    theirs = spice_phasors(circuit, tmp_path, open_switches=state, gaps=gaps, meter=measurement)
    a, b = (0 if point == "G" else theirs[f"v:{point}"] for point in points)
    assert_same(abs(complex(reading)), abs(a - b), f"{points} {mode}", 1e-6)

"""The network of a circuit: nodes, branches and stray capacitance as arrays.

Node `i` is a point of the circuit; ground is the reference and has no row. Branch `b` is a part on one leg, or a shunt
part from leg to leg. The unknowns are the node voltages and the branch currents together (modified nodal analysis:
Ho, Ruehli and Brennan, IEEE Trans. Circuits and Systems 22 (1975) 504-509), so that a branch enters by its impedance: a
milliohm and an open gap keep all their digits, and a fault in series is a change of one number on the diagonal.
"""

import itertools
import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.catalogue import Role
from zesty_copper.core.circuit.conductor import conductor_resistance_ohm, stray_capacitance_pf
from zesty_copper.core.circuit.model import Circuit, Part

__all__ = ["OMEGA", "BranchKey", "Netlist", "Sort", "build_netlist"]

OMEGA = 2 * math.pi * 60.0
"""Angular frequency of the supply [rad/s]."""

SOURCE_REACTANCE_OHM = 0.015
"""Reactance of service transformer and drop, per leg [ohm]; common practice, no source."""

POINT_BETWEEN_PF = 5.0
POINT_GROUND_PF = 8.0
"""Stray of a terminal to its neighbour and to the box [pF]: order of magnitude of a plate in a small enclosure."""

BranchKey = tuple[str, str]
"""Part id and leg; the leg is empty for a shunt."""


class Sort:
    """Groups of branches that vary together (indices into `Netlist.sort`)."""

    SOURCE, JOINT, WIRE, LOAD, IDLE = range(5)


@dataclass(frozen=True, eq=False)
class Netlist:
    """A circuit as arrays.

    Attributes
    ----------
    nodes
        Row of each point except ground.
    branches
        Column of each branch, counted from 0; its row among the unknowns is `len(nodes)` further on.
    incidence
        (nodes, branches): +1 where the branch leaves the node, −1 where it enters.
    impedance_ohm
        (branches,): closed, nominal [ohm].
    gap_farad
        (branches,): capacitance across the branch when it is open [F].
    sort
        (branches,): one of `Sort`.
    switch
        The switch that opens each branch, or None.
    emf_volts
        (legs, branches): each leg's nominal phasor at its source branch [V].
    between_siemens, ground_siemens
        (nodes, nodes): stray admittance between legs, and to ground, at nominal coupling [S].
    """

    circuit: Circuit
    nodes: dict[str, int]
    branches: dict[BranchKey, int]
    incidence: NDArray[np.float64]
    impedance_ohm: NDArray[np.complex128]
    gap_farad: NDArray[np.float64]
    sort: NDArray[np.int64]
    switch: tuple[str | None, ...]
    emf_volts: NDArray[np.complex128]
    between_siemens: NDArray[np.complex128]
    ground_siemens: NDArray[np.complex128]

    @property
    def size(self) -> int:
        """Number of unknowns: nodes and branches."""
        return len(self.nodes) + len(self.branches)

    def branch_row(self, part_id: str, leg: str) -> int:
        """Row of a branch's current among the unknowns."""
        return len(self.nodes) + self.branches[part_id, leg]


def build_netlist(circuit: Circuit) -> Netlist:
    """Lay a circuit out as a network."""
    nodes = {point: i for i, point in enumerate(p for p in circuit.points() if "@" in p)}
    keys: list[BranchKey] = [(part.id, leg) for leg in circuit.legs for part in circuit.series]
    keys += [(part.id, "") for part in circuit.parts if part.entry.role is Role.SHUNT]
    branches = {key: i for i, key in enumerate(keys)}
    incidence = np.zeros((len(nodes), len(branches)))
    emf = np.zeros((len(circuit.legs), len(branches)), dtype=complex)
    last_series: Part | None = None
    for part in circuit.parts:
        if part.entry.role is Role.SHUNT:
            assert last_series is not None  # a circuit begins with its source
            column = branches[part.id, ""]
            first, second = circuit.legs[0], circuit.legs[1]
            incidence[nodes[f"{first}@{last_series.id}"], column] = 1
            incidence[nodes[f"{second}@{last_series.id}"], column] = -1
            continue
        for k, leg in enumerate(circuit.legs):
            column = branches[part.id, leg]
            incidence[nodes[f"{leg}@{part.id}"], column] = -1
            if last_series is None:
                emf[k, column] = circuit.system.leg_volts[k]
            else:
                incidence[nodes[f"{leg}@{last_series.id}"], column] = 1
        last_series = part
    parts = [circuit.part(part_id) for part_id, _ in keys]
    between, ground = _strays(circuit, nodes)
    return Netlist(
        circuit=circuit,
        nodes=nodes,
        branches=branches,
        incidence=incidence,
        impedance_ohm=np.array([_impedance(part) for part in parts]),
        gap_farad=np.array([part.entry.gap_pf * 1e-12 for part in parts]),
        sort=np.array([_sort(part, circuit) for part in parts]),
        switch=tuple(part.switch for part in parts),
        emf_volts=emf,
        between_siemens=between,
        ground_siemens=ground,
    )


def _impedance(part: Part) -> complex:
    """Closed impedance of one branch of this part [ohm]."""
    if part.load is not None:
        return part.load.impedance_ohm
    if part.entry.resistance_mohm is None:
        assert part.conductor is not None  # Circuit checks it
        return complex(conductor_resistance_ohm(part.conductor), 0)
    reactance = SOURCE_REACTANCE_OHM if part.entry.role is Role.SOURCE else 0.0
    return complex(part.entry.resistance_mohm * 1e-3, reactance)


def _sort(part: Part, circuit: Circuit) -> int:
    if part.entry.role is Role.SOURCE:
        return Sort.SOURCE
    if part.entry.role is Role.SHUNT:
        return Sort.LOAD if part == circuit.load else Sort.IDLE
    return Sort.WIRE if part.conductor is not None else Sort.JOINT


def _strays(circuit: Circuit, nodes: dict[str, int]) -> tuple[NDArray[np.complex128], NDArray[np.complex128]]:
    """Stray admittance between legs and to ground [S]; a run's capacitance is halved to its two ends."""
    between = np.zeros((len(nodes), len(nodes)), dtype=complex)
    ground = np.zeros_like(between)
    run_pf = [stray_capacitance_pf(p.conductor.length_m) if p.conductor else 0.0 for p in circuit.series] + [0.0]
    for i, part in enumerate(circuit.series):
        ends_pf = (run_pf[i] + run_pf[i + 1]) / 2
        across = 1j * OMEGA * (POINT_BETWEEN_PF + ends_pf) * 1e-12
        to_box = 1j * OMEGA * (POINT_GROUND_PF + ends_pf) * 1e-12
        rows = [nodes[f"{leg}@{part.id}"] for leg in circuit.legs]
        for row in rows:
            ground[row, row] += to_box
        for row, other in itertools.pairwise(rows):
            between[row, row] += across
            between[other, other] += across
            between[row, other] -= across
            between[other, row] -= across
    return between, ground

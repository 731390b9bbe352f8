"""The network of a circuit: nodes, branches and stray capacitance as arrays.

Node `i` is a point of the circuit, or the inner node of a motor; the earth at the service transformer is the reference
and has no row. Branch `b` is a part on one conductor, or one winding or element of a shunt. The unknowns are the node
voltages and the branch currents together (modified nodal analysis: Ho, Ruehli and Brennan, IEEE Trans. Circuits and
Systems 22 (1975) 504-509), so that a branch enters by its impedance: a milliohm and an open gap keep all their digits,
and a fault in series is a change of one number on the diagonal.
"""

import math
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part
from zesty_copper.core.circuit.parts.catalogue import FailureMode, PartRole, ShuntModel
from zesty_copper.core.circuit.parts.conductor import conductor_resistance_ohm, stray_capacitance_pf
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.systems import Grounding
from zesty_copper.core.network.machines import BLOCKED_OHM, STAR, inside, stalled, windings

__all__ = [
    "BOND",
    "EARTH",
    "ELECTRODE",
    "ELECTRODE_OHM",
    "OMEGA",
    "Branch",
    "BranchKey",
    "Netlist",
    "Sort",
    "Stray",
    "build_netlist",
]

OMEGA = 2 * math.pi * 60.0
"""Angular frequency of the supply [rad/s]."""

SOURCE_REACTANCE_OHM = 0.015
"""Reactance of service transformer and drop, per leg [ohm]; common practice, no source."""
BOND_OHM = 1e-3
"""Main bonding jumper, or a control transformer's bond to the chassis [ohm]."""
ELECTRODE_OHM = 25.0
"""From the panel's ground through earth to the service transformer's [ohm]: NEC 250.53 asks 25 Ω of one rod; wet
soil gives less and dry soil more."""
SYSTEM_STRAY_PF = 20e3
"""Capacitance of an ungrounded system's own conductors to ground, all legs together [pF]: order of magnitude of some
hundred metres of cable."""

INSULATION_LOSS = 0.01
"""Conductance of insulation to direct current against what its capacitance carries at the supply's frequency: a few
gigohm for a run of wire; order of magnitude, no source."""

UNSEEN_LOAD_AMPS = 5.0
"""What the house draws from a leg that does not come to this circuit [A]; how much it is varies widely."""

POINT_BETWEEN_PF = 5.0
POINT_GROUND_PF = 8.0
"""Stray of a terminal to its neighbour and to the box [pF]: order of magnitude of a plate in a small enclosure."""

EARTH = -1
"""Row of the reference: the last of a vector of unknowns to which a zero was appended."""

BranchKey = tuple[str, str]
"""Part id, and the conductor behind it or the name of the winding or element."""
BOND = "bond"
ELECTRODE = "electrode"


class Sort:
    """Groups of branches that vary together (indices into `Netlist.sort`)."""

    SOURCE, JOINT, WIRE, LOAD, IDLE, HOUSE, OTHER_HOUSE, BOND, ELEMENT = range(9)
    """The house's other loads are two groups: those on the first leg of the service, and those on another. The bond is
    a control secondary's of which nobody knows whether it is there."""


@dataclass(frozen=True)
class Branch:
    """One branch: the nodes it leaves and enters, its closed impedance [ohm], its gap when open [F], its switch."""

    key: BranchKey
    leaves: int
    enters: int
    impedance_ohm: complex
    gap_farad: float
    sort: int
    switch: str | None = None
    normally_closed: bool = False
    emf: complex = 0j
    lifted: bool = False

    def is_open(self, open_switches: frozenset[str]) -> bool:
        """Whether its switch leaves it open, or a hand took its lead off."""
        return self.lifted or (self.switch is not None and (self.switch in open_switches) != self.normally_closed)


@dataclass(frozen=True)
class Stray:
    """Capacitance between two nodes, or to earth [F]; between neighbours, or from a conductor to ground."""

    a: int
    b: int
    farad: float
    between: bool


@dataclass(eq=False)
class _Layout:
    """A network while it is laid out."""

    nodes: dict[Point, int] = field(default_factory=dict)
    branches: list[Branch] = field(default_factory=list)
    strays: list[Stray] = field(default_factory=list)
    direct: bool = False
    coupled: list[tuple[int, int, complex]] = field(default_factory=list)

    def node(self, point: Point) -> int:
        """Row of a point, made when first spoken of."""
        return self.nodes.setdefault(point, len(self.nodes))


@dataclass(frozen=True, eq=False)
class Netlist:
    """A circuit as arrays.

    Attributes
    ----------
    nodes
        Row of each point and inner node.
    branches
        Number of each branch, counted from 0; its row among the unknowns is `len(nodes)` further on.
    listed
        The branches in that order.
    coupled
        Pairs of branches and the impedance by which the second's current drives the first [ohm].
    sources
        Branches with an electromotive force.
    emf_volts
        (sources, branches): each source's nominal phasor at its own branch [V].
    """

    circuit: Circuit
    nodes: dict[Point, int]
    branches: dict[BranchKey, int]
    listed: tuple[Branch, ...]
    strays: tuple[Stray, ...]
    coupled: tuple[tuple[int, int, complex], ...]
    sources: tuple[BranchKey, ...]
    direct: bool
    emf_volts: NDArray[np.complex128]
    sort: NDArray[np.int64]

    @property
    def stray_siemens(self) -> complex:
        """Admittance of one farad of stray [S]; to direct current, of the insulation that makes it."""
        return complex(INSULATION_LOSS * OMEGA) if self.direct else 1j * OMEGA

    @cached_property
    def first_winding(self) -> dict[str, str]:
        """Name of each shunt's first winding or element, by part."""
        return {part: name for part, name in reversed(self.branches) if name != BOND}

    @property
    def size(self) -> int:
        """Number of unknowns: nodes and branches."""
        return len(self.nodes) + len(self.listed)

    def with_lifted(self, keys: frozenset[BranchKey]) -> "Netlist":
        """Return the same network with some branches taken off."""
        if not keys:
            return self
        return replace(self, listed=tuple(replace(b, lifted=True) if b.key in keys else b for b in self.listed))

    def branch_row(self, part_id: str, name: str) -> int:
        """Row of a branch's current among the unknowns."""
        return len(self.nodes) + self.branches[part_id, name]

    def point_row(self, point: Point | None) -> int:
        """Row of a point; the earth's where there is none."""
        return EARTH if point is None else self.nodes[point]


@lru_cache(maxsize=64)
def build_netlist(
    circuit: Circuit, held: frozenset[str] = frozenset(), other_tap: str | None = None, *, direct: bool = False
) -> Netlist:
    """Lay a circuit out as a network.

    Parameters
    ----------
    held
        Motors whose rotor stands still.
    other_tap
        A transformer that is on the tap it should not be on.
    direct
        As an ohmmeter's direct current sees it.
    """
    out = _Layout(direct=direct)
    for part in circuit.parts:
        match part.entry.role:
            case PartRole.SOURCE:
                _lay_source(circuit, part, out)
            case PartRole.SERIES:
                _lay_series(circuit, part, out)
            case PartRole.SHUNT | PartRole.TRANSFORMER:
                _lay_shunt(circuit, part, out, held=part.id in held, other_tap=part.id == other_tap)
        if part.has_points:
            _lay_strays(circuit, part, out)
    sources = [b for b, branch in enumerate(out.branches) if branch.emf]
    emf = np.zeros((len(sources), len(out.branches)), dtype=complex)
    emf[range(len(sources)), sources] = [out.branches[b].emf for b in sources]
    return Netlist(
        circuit=circuit,
        nodes=out.nodes,
        branches={branch.key: b for b, branch in enumerate(out.branches)},
        listed=tuple(out.branches),
        strays=tuple(out.strays),
        coupled=tuple(out.coupled),
        sources=tuple(out.branches[b].key for b in sources),
        direct=direct,
        emf_volts=emf,
        sort=np.array([branch.sort for branch in out.branches]),
    )


def _lay_source(circuit: Circuit, part: Part, out: _Layout) -> None:
    """Legs behind the service transformer's impedance, its neutral, and what holds the panel's ground to earth."""
    supply, gap = circuit.supply_of(part), part.entry.gap_pf * 1e-12
    assert part.entry.resistance_mohm is not None  # the catalogue says it
    impedance = complex(part.entry.resistance_mohm * 1e-3, 0.0 if out.direct else SOURCE_REACTANCE_OHM)
    star, ground = EARTH, out.node(Point.at(GROUND, part.id))
    if supply.grounding is Grounding.NONE:
        star = out.node(Point.at(STAR, part.id))
        out.strays.append(Stray(star, EARTH, SYSTEM_STRAY_PF * 1e-12, between=False))
    lanes = [lane for lane in circuit.lanes_of(part) if lane != GROUND]
    for lane in lanes:
        volts = supply.phasors.get(lane, 0j)
        entered = out.node(Point.at(lane, part.id))
        out.branches.append(Branch((part.id, lane), star, entered, impedance, gap, Sort.SOURCE, emf=volts))
    for leg, volts in supply.unseen_phasors.items() if NEUTRAL in lanes else ():
        # Its loads hang between it and the neutral, and lift the other legs when the neutral lets go.
        load = complex(abs(volts) / UNSEEN_LOAD_AMPS)
        neutral = out.nodes[Point.at(NEUTRAL, part.id)]
        out.branches.append(Branch((part.id, leg), star, neutral, load, gap, Sort.OTHER_HOUSE, emf=volts))
    bonded_to = out.nodes[Point.at(NEUTRAL, part.id)] if NEUTRAL in lanes else EARTH
    out.branches.append(Branch((part.id, BOND), bonded_to, ground, complex(BOND_OHM), gap, Sort.WIRE))
    if bonded_to != EARTH:
        out.branches.append(Branch((part.id, ELECTRODE), EARTH, ground, complex(ELECTRODE_OHM), gap, Sort.WIRE))


def _lay_series(circuit: Circuit, part: Part, out: _Layout) -> None:
    sort = Sort.WIRE if part.conductor is not None else Sort.JOINT
    if part.capacitance_uf is not None:
        sort = Sort.LOAD
    for into, lane in (*circuit.pairs_of(part),):
        ahead = out.nodes[circuit.point_ahead(part, into)]
        entered = out.node(Point.at(lane, part.id))
        # The grounding conductor goes on uncut where a switch opens the others.
        switch = None if lane == GROUND else part.switch
        gap = part.entry.gap_pf * 1e-12
        out.branches.append(
            Branch(
                (part.id, lane),
                ahead,
                entered,
                _series_ohm(part, direct=out.direct),
                gap,
                sort,
                switch,
                part.normally_closed,
            )
        )


def _series_ohm(part: Part, *, direct: bool) -> complex:
    """Closed impedance of one conductor of a series part [ohm]."""
    if part.capacitance_uf is not None:
        if direct:
            return complex(BLOCKED_OHM)
        return 1 / (1j * OMEGA * part.capacitance_uf * 1e-6)
    if part.entry.resistance_mohm is not None:
        return complex(part.entry.resistance_mohm * 1e-3)
    assert part.conductor is not None  # Circuit checks it
    return complex(conductor_resistance_ohm(part.conductor))


def _lay_shunt(circuit: Circuit, part: Part, out: _Layout, *, held: bool, other_tap: bool) -> None:
    """Lay a shunt, or both windings of a transformer."""
    ends = [out.nodes[point] for point in circuit.terminals(part)]
    transformer = part.entry.role is PartRole.TRANSFORMER
    lanes = circuit.lanes_of(part)
    if transformer:
        ends += [out.node(Point.at(lane, part.id)) for lane in part.makes]
        assert part.winding is not None  # Circuit checks it
        if other_tap:
            volts = part.winding.other_tap_volts or part.winding.primary_volts
            part = part.model_copy(update={"winding": part.winding.model_copy(update={"primary_volts": volts})})
    turning = stalled(part, lanes) if held else inside(part, lanes, OMEGA)
    wired = windings(part, lanes, OMEGA) if out.direct else turning
    sort = _sort_of_shunt(circuit, part)
    first = len(out.branches)
    for i, (name, a, b) in enumerate(wired.branches):
        leaves, enters = (out.node(Point.at(STAR, part.id)) if isinstance(end, str) else ends[end] for end in (a, b))
        gap = part.entry.gap_pf * 1e-12
        own_ohm = wired.impedance_ohm[i][i]
        out.branches.append(Branch((part.id, name), leaves, enters, own_ohm, gap, sort))
        for j in range(len(wired.branches)):
            if j != i and wired.impedance_ohm[i][j]:
                out.coupled.append((first + i, first + j, wired.impedance_ohm[i][j]))
    if part.entry.model is ShuntModel.INDUCTION:
        out.strays.append(Stray(out.nodes[Point.at(STAR, part.id)], _ground(circuit, part, out), 1e-11, between=False))
    if transformer and part.winding and part.winding.secondary_grounded is not False:
        sort = Sort.JOINT if part.winding.secondary_grounded else Sort.BOND
        common, ground = out.nodes[Point.at(part.makes[1], part.id)], _ground(circuit, part, out)
        out.branches.append(Branch((part.id, BOND), common, ground, complex(BOND_OHM), part.entry.gap_pf * 1e-12, sort))


def _sort_of_shunt(circuit: Circuit, part: Part) -> int:
    if part.entry.elsewhere:
        return Sort.HOUSE if circuit.legs[0] in circuit.lanes_of(part) else Sort.OTHER_HOUSE
    if part.entry.idle:
        return Sort.IDLE
    return Sort.LOAD if FailureMode.STALL in part.entry.may or part.entry.electronic else Sort.ELEMENT


def _ground(circuit: Circuit, part: Part, out: _Layout) -> int:
    return out.nodes[circuit.ground_at(part)]


def _lay_strays(circuit: Circuit, part: Part, out: _Layout) -> None:
    """Lay strays between neighbours and to the ground at hand; a run's capacitance is halved to its two ends."""
    lanes = [lane for lane in circuit.lanes_of(part) if lane != GROUND]
    rows = [out.nodes[Point.at(lane, part.id)] for lane in lanes]
    ground = _ground(circuit, part, out)
    for row in rows:
        out.strays.append(Stray(row, ground, POINT_GROUND_PF * 1e-12, between=False))
    for row, next_row in pairwise(rows):
        out.strays.append(Stray(row, next_row, POINT_BETWEEN_PF * 1e-12, between=True))
    if part.conductor is None:
        return
    half = stray_capacitance_pf(part.conductor.length_m) / 2 * 1e-12
    ahead = [out.nodes[circuit.point_ahead(part, lane)] for lane in lanes]
    for end in (rows, ahead):
        out.strays += [Stray(row, ground, half, between=False) for row in end]
        out.strays += [Stray(row, next_row, half, between=True) for row, next_row in pairwise(end)]

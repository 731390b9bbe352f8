"""Batches of one circuit's network under different conditions, solved once for each state of the switches."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property, lru_cache
from types import MappingProxyType
from zlib import crc32

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.errors import NumericalError
from zesty_copper.core.network.elimination import (
    Elimination,
    factorise,
    solve_columns,
    solve_rows,
)
from zesty_copper.core.network.machines import mutual_ohm
from zesty_copper.core.network.netlist import EARTH, OMEGA, Netlist, Sort
from zesty_copper.core.network.ordering import elimination_of

__all__ = [
    "OPEN_LEAK_OHM",
    "UNBONDED",
    "Conditions",
    "Solved",
    "branch_impedance",
    "nominal",
    "open_impedance",
    "solve",
]

OPEN_LEAK_OHM = 1e11
"""Leakage across an open switch or a clean break [ohm]; a number, so that nothing is ever divided by zero."""


Coupled = tuple[tuple[int, int, NDArray[np.complex128]], ...]
Turning = Mapping[str, tuple[NDArray[np.complex128], NDArray[np.complex128]]]
"""Three-phase motors that run otherwise than by their plates: forward and backward impedance, (samples,) [ohm]."""


UNBONDED = 1e14
"""Factor on a control secondary's bond that is not there."""


@dataclass(frozen=True, eq=False)
class Conditions:
    """What is not known about a healthy circuit, as factors on the nominal; each array is (samples,)."""

    between: NDArray[np.float64]
    ground: NDArray[np.float64]
    load: NDArray[np.float64]
    idle: NDArray[np.float64]
    joint: NDArray[np.float64]
    source: NDArray[np.float64]
    house: NDArray[np.float64]
    other_house: NDArray[np.float64]
    bond: NDArray[np.float64]

    def of_sort(self, sort: int) -> NDArray[np.float64]:
        """Impedance factor of one sort of branch, (samples,)."""
        return {
            Sort.SOURCE: self.source,
            Sort.JOINT: self.joint,
            Sort.WIRE: np.ones_like(self.load),
            Sort.ELEMENT: np.ones_like(self.load),
            Sort.LOAD: self.load,
            Sort.IDLE: self.idle,
            Sort.HOUSE: self.house,
            Sort.OTHER_HOUSE: self.other_house,
            Sort.BOND: self.bond,
        }[sort]


@dataclass(frozen=True, eq=False)
class Solved:
    """One position of every switch, solved for every sample.

    The earth is carried along as one more unknown, the last, which is always zero. X stands for the inverse of the
    system matrix [[Y, B], [Bᵀ, −Z]] [S, 1, ohm]; it is never formed, rows and columns of it are solved for.

    Attributes
    ----------
    factors
        (samples, slots): the system matrix, eliminated.
    impedance_ohm
        (samples, branches): in this state [ohm].
    coupled
        Pairs of branches and the impedance by which the second's current drives the first, (samples,) [ohm].
    """

    netlist: Netlist
    conditions: Conditions
    open_switches: frozenset[str]
    elimination: Elimination
    factors: NDArray[np.complex128]
    impedance_ohm: NDArray[np.complex128]
    coupled: Coupled

    @property
    def samples(self) -> int:
        """How many samples were solved."""
        return len(self.factors)

    @cached_property
    def unknowns(self) -> NDArray[np.complex128]:
        """Node voltages [V], then branch currents [A], for each source alone, (sources, samples, unknowns + 1)."""
        netlist = self.netlist
        rows = np.array([netlist.branch_row(*key) for key in netlist.sources])
        # A source enters the right-hand side as −E on its branch's row.
        driven = self.columns(rows) * -netlist.emf_volts.sum(axis=1)[:, None]
        return np.ascontiguousarray(np.swapaxes(driven, 0, 1))

    def columns(
        self, plus: NDArray[np.int64], minus: NDArray[np.int64] | None = None, samples: slice = slice(None)
    ) -> NDArray[np.complex128]:
        """X·q for directions q, one unknown or the difference of two, (samples, directions, unknowns + 1).

        Between two nodes [ohm], from a node to a branch a share, between branches [S].
        """
        minus = np.full_like(plus, EARTH) if minus is None else minus
        return np.asarray(solve_columns(self.factors[samples], self.elimination.program, plus, minus))

    def rows(
        self, plus: NDArray[np.int64], minus: NDArray[np.int64] | None = None, samples: slice = slice(None)
    ) -> NDArray[np.complex128]:
        """qᵀ·X for directions q, one unknown or the difference of two, (samples, directions, unknowns + 1)."""
        minus = np.full_like(plus, EARTH) if minus is None else minus
        return np.asarray(solve_rows(self.factors[samples], self.elimination.program, plus, minus))


def nominal(samples: int = 1, *, bonded: bool = True) -> Conditions:
    """Conditions with every factor at one; with control secondaries grounded, where that is not known, or not."""
    ones = np.ones(samples)
    return Conditions(ones, ones, ones, ones, ones, ones, ones, ones, ones if bonded else ones * UNBONDED)


def open_impedance(
    netlist: Netlist,
    branch: int,
    coupling: float | NDArray[np.float64] = 1.0,
    leak_ohm: float | NDArray[np.float64] = OPEN_LEAK_OHM,
) -> NDArray[np.complex128]:
    """Impedance of a gap: its leakage beside its stray capacitance, which varies as other coupling does [ohm]."""
    between = 0j if netlist.direct else 1j * OMEGA * netlist.listed[branch].gap_farad
    siemens = 1.0 / np.asarray(leak_ohm) + between * np.asarray(coupling)
    return np.asarray(1.0 / siemens)


def branch_impedance(netlist: Netlist, conditions: Conditions, open_switches: frozenset[str]) -> NDArray[np.complex128]:
    """Impedance of every branch in this state, (samples, branches) [ohm]."""
    impedance = np.empty((len(conditions.load), len(netlist.listed)), dtype=complex)
    for b, branch in enumerate(netlist.listed):
        factor = conditions.of_sort(branch.sort)
        if netlist.direct and branch.sort in (Sort.LOAD, Sort.IDLE):
            factor = factor[_shuffled(branch.key[0], len(factor))]
        impedance[:, b] = branch.impedance_ohm * factor
        if branch.is_open(open_switches):
            impedance[:, b] += open_impedance(netlist, b, conditions.between)
    return impedance


@lru_cache(maxsize=512)
def _shuffled(part_id: str, samples: int) -> NDArray[np.int64]:
    """Return an order of the samples of a part's own: what one winding's copper is off by, another's need not be."""
    return np.random.default_rng(crc32(part_id.encode())).permutation(samples)


@dataclass(frozen=True, eq=False)
class _Stamps:
    """Where the elements of a network enter the slots of its elimination.

    Attributes
    ----------
    fixed
        (samples, slots): strays and how branches join nodes, whatever is open.
    branch, coupled
        Slots of each branch's own impedance, and of each coupled pair.
    """

    elimination: Elimination
    fixed: NDArray[np.complex128]
    branch: NDArray[np.int64]
    coupled: NDArray[np.int64]


@lru_cache(maxsize=64)
def _stamps(netlist: Netlist, conditions: Conditions) -> _Stamps:
    elimination = elimination_of(netlist)
    n, slot = len(netlist.nodes), elimination.slot
    fixed = np.zeros((len(slot), len(conditions.load)), dtype=complex)
    for stray in netlist.strays:
        siemens = netlist.stray_siemens * stray.farad * (conditions.between if stray.between else conditions.ground)
        for row, column, sign in (
            (stray.a, stray.a, 1),
            (stray.b, stray.b, 1),
            (stray.a, stray.b, -1),
            (stray.b, stray.a, -1),
        ):
            if EARTH not in (row, column):
                fixed[slot[row, column]] += sign * siemens
    for b, branch in enumerate(netlist.listed, n):
        for node, sign in ((branch.leaves, 1), (branch.enters, -1)):
            if node != EARTH:
                fixed[slot[node, b]] = fixed[slot[b, node]] = sign
    rows = range(n, netlist.size)
    pairs = [(n + b, n + other_branch) for b, other_branch, _ in netlist.coupled]
    return _Stamps(
        elimination,
        np.ascontiguousarray(fixed.T),
        elimination.slots_of(rows, rows),
        elimination.slots_of([row for row, _ in pairs], [column for _, column in pairs]),
    )


def _coupled(netlist: Netlist, conditions: Conditions, turning: Turning) -> Coupled:
    coupled = []
    for b, mate, ohm in netlist.coupled:
        part, lane = netlist.listed[b].key
        factor = conditions.of_sort(netlist.listed[b].sort)
        if part in turning:
            lanes = netlist.circuit.lanes_of(netlist.circuit.part(part))
            steps = lanes.index(netlist.listed[mate].key[1]) - lanes.index(lane)
            coupled.append((b, mate, np.asarray(mutual_ohm(*turning[part], steps) * factor)))
        else:
            coupled.append((b, mate, np.asarray(ohm * factor)))
    return tuple(coupled)


def solve(
    netlist: Netlist, conditions: Conditions, open_switches: frozenset[str], turning: Turning = MappingProxyType({})
) -> Solved:
    """Solve one position of every switch for every sample.

    Raises
    ------
    NumericalError
        If the network has no finite solution.
    """
    impedance = branch_impedance(netlist, conditions, open_switches)
    for part, fields in turning.items():
        for lane in netlist.circuit.lanes_of(netlist.circuit.part(part)):
            impedance[:, netlist.branches[part, lane]] = mutual_ohm(*fields, 0) * conditions.load
    coupled = _coupled(netlist, conditions, turning)
    stamps = _stamps(netlist, conditions)
    factors = stamps.fixed.copy()
    factors[:, stamps.branch] = -impedance
    for slot, (_, _, ohm) in zip(stamps.coupled.tolist(), coupled, strict=True):
        factors[:, slot] = -ohm
    factorise(factors, stamps.elimination.program)
    if not np.isfinite(factors).all():
        raise NumericalError(f"The network of “{netlist.circuit.name}” has no finite solution: check its parts.")
    return Solved(netlist, conditions, open_switches, stamps.elimination, factors, impedance, coupled)

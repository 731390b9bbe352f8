"""Batches of one circuit's network under different conditions, solved once for each state of the switches."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from types import MappingProxyType
from zlib import crc32

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.errors import NumericalError
from zesty_copper.core.network.machines import mutual_ohm
from zesty_copper.core.network.netlist import OMEGA, Netlist, Sort

__all__ = [
    "OPEN_LEAK_OHM",
    "UNBONDED",
    "Conditions",
    "Solved",
    "branch_impedance",
    "nominal",
    "open_impedance",
    "solve",
    "system_matrix",
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

    The earth is carried along as one more unknown, the last, which is always zero.

    Attributes
    ----------
    inverse
        (samples, unknowns + 1, unknowns + 1): inverse of the system matrix [mixed units].
    unknowns
        (sources, samples, unknowns + 1): node voltages [V], then branch currents [A], for each source alone.
    impedance_ohm
        (samples, branches): in this state [ohm].
    coupled
        Pairs of branches and the impedance by which the second's current drives the first, (samples,) [ohm].
    """

    netlist: Netlist
    conditions: Conditions
    open_switches: frozenset[str]
    inverse: NDArray[np.complex128]
    unknowns: NDArray[np.complex128]
    impedance_ohm: NDArray[np.complex128]
    coupled: Coupled


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


def system_matrix(
    netlist: Netlist, conditions: Conditions, impedance_ohm: NDArray[np.complex128], coupled: Coupled
) -> NDArray[np.complex128]:
    """Modified nodal matrix, (samples, unknowns + 1, unknowns + 1): [[Y, B], [Bᵀ, −Z]], and the earth's row last.

    The earth's row and column come out wrong on purpose: the caller cuts them off.
    """
    n, size = len(netlist.nodes), netlist.size
    matrix = np.zeros((len(impedance_ohm), size + 1, size + 1), dtype=complex)
    for stray in netlist.strays:
        siemens = netlist.stray_siemens * stray.farad * (conditions.between if stray.between else conditions.ground)
        matrix[:, stray.a, stray.a] += siemens
        matrix[:, stray.b, stray.b] += siemens
        matrix[:, stray.a, stray.b] -= siemens
        matrix[:, stray.b, stray.a] -= siemens
    for b, branch in enumerate(netlist.listed):
        row = n + b
        matrix[:, row, row] = -impedance_ohm[:, b]
        matrix[:, branch.leaves, row] = matrix[:, row, branch.leaves] = 1
        matrix[:, branch.enters, row] = matrix[:, row, branch.enters] = -1
    for b, other, ohm in coupled:
        matrix[:, n + b, n + other] = -ohm
    return matrix


def _coupled(netlist: Netlist, conditions: Conditions, turning: Turning) -> Coupled:
    found = []
    for b, other, ohm in netlist.coupled:
        part, lane = netlist.listed[b].key
        factor = conditions.of_sort(netlist.listed[b].sort)
        if part in turning:
            lanes = netlist.circuit.lanes_of(netlist.circuit.part(part))
            steps = lanes.index(netlist.listed[other].key[1]) - lanes.index(lane)
            found.append((b, other, np.asarray(mutual_ohm(*turning[part], steps) * factor)))
        else:
            found.append((b, other, np.asarray(ohm * factor)))
    return tuple(found)


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
    matrix = system_matrix(netlist, conditions, impedance, coupled)
    inverse = np.zeros_like(matrix)
    try:
        inverse[:, :-1, :-1] = np.linalg.inv(matrix[:, :-1, :-1])
    except np.linalg.LinAlgError as error:
        raise NumericalError(f"The network of “{netlist.circuit.name}” has no solution: check its parts.") from error
    if not np.isfinite(inverse).all():
        raise NumericalError(f"The network of “{netlist.circuit.name}” has no finite solution: check its parts.")
    # A source enters the right-hand side as −E on its branch's row.
    driven = np.einsum("mnb,lb->lmn", inverse[:, :, len(netlist.nodes) : -1], netlist.emf_volts, optimize=True)
    return Solved(netlist, conditions, open_switches, inverse, -driven, impedance, coupled)

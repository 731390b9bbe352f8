"""Batches of one circuit's network under different conditions, solved once, then edited cheaply."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.errors import NumericalError
from zesty_copper.core.network.netlist import OMEGA, Netlist, Sort

__all__ = [
    "OPEN_LEAK_OHM",
    "Conditions",
    "Edited",
    "Solved",
    "branch_impedance",
    "edit",
    "nominal",
    "open_impedance",
    "solve",
    "system_matrix",
]

OPEN_LEAK_OHM = 1e11
"""Leakage across an open switch or a clean break [ohm]; a number, so that nothing is ever divided by zero."""


@dataclass(frozen=True, eq=False)
class Conditions:
    """What is not known about a healthy circuit, as factors on the nominal; each array is (samples,)."""

    between: NDArray[np.float64]
    ground: NDArray[np.float64]
    load: NDArray[np.float64]
    idle: NDArray[np.float64]
    joint: NDArray[np.float64]
    source: NDArray[np.float64]

    def of_sort(self, sort: int) -> NDArray[np.float64]:
        """Impedance factor of one sort of branch, (samples,)."""
        wires = np.ones_like(self.load)
        return {Sort.SOURCE: self.source, Sort.JOINT: self.joint, Sort.WIRE: wires, Sort.LOAD: self.load}.get(
            sort, self.idle
        )


@dataclass(frozen=True, eq=False)
class Solved:
    """One state of the switches, solved for every sample.

    Ground is carried along as one more unknown, the last, which is always zero.

    Attributes
    ----------
    inverse
        (samples, unknowns + 1, unknowns + 1): inverse of the system matrix; symmetric [mixed units].
    unknowns
        (samples, legs, unknowns + 1): node voltages [V], then branch currents [A], for each leg's source alone.
    impedance_ohm
        (samples, branches): in this state [ohm].
    """

    netlist: Netlist
    conditions: Conditions
    open_switches: frozenset[str]
    inverse: NDArray[np.complex128]
    unknowns: NDArray[np.complex128]
    impedance_ohm: NDArray[np.complex128]


@dataclass(frozen=True, eq=False)
class Edited:
    """Networks with impedances inserted in series, by a low-rank change of one `Solved`.

    Attributes
    ----------
    rows
        (faults, rank): rows of the edited branches among the unknowns.
    columns
        (faults, samples, unknowns + 1, rank): those columns of the inverse.
    core
        (faults, samples, rank, rank): the small matrix of the update.
    """

    solved: Solved
    rows: NDArray[np.int64]
    columns: NDArray[np.complex128]
    core: NDArray[np.complex128]

    def apply(self, vector: NDArray[np.complex128]) -> NDArray[np.complex128]:
        """Turn what the unedited inverse gave into what the edited one gives.

        Parameters
        ----------
        vector
            (faults or 1, samples, unknowns + 1): the unedited inverse times any right-hand side.

        Returns
        -------
        NDArray
            (faults, samples, unknowns + 1): the edited inverse times the same.
        """
        taken = np.take_along_axis(
            np.broadcast_to(vector, (len(self.rows), *vector.shape[1:])), self.rows[:, None, :], axis=2
        )
        return np.asarray(vector + np.einsum("fmnk,fmkl,fml->fmn", self.columns, self.core, taken, optimize=True))


def nominal(samples: int = 1) -> Conditions:
    """Conditions with every factor at one."""
    ones = np.ones(samples)
    return Conditions(ones, ones, ones, ones, ones, ones)


def open_impedance(
    netlist: Netlist, branch: int | NDArray[np.int64], leak_ohm: float | NDArray[np.float64]
) -> NDArray[np.complex128]:
    """Impedance of a gap: its leakage beside its stray capacitance [ohm]."""
    return np.asarray(1.0 / (1.0 / np.asarray(leak_ohm) + 1j * OMEGA * netlist.gap_farad[branch]))


def branch_impedance(netlist: Netlist, conditions: Conditions, open_switches: frozenset[str]) -> NDArray[np.complex128]:
    """Impedance of every branch in this state, (samples, branches) [ohm]."""
    samples = len(conditions.load)
    impedance = np.empty((samples, len(netlist.branches)), dtype=complex)
    for b, (sort, switch) in enumerate(zip(netlist.sort, netlist.switch, strict=True)):
        impedance[:, b] = netlist.impedance_ohm[b] * conditions.of_sort(int(sort))
        if switch in open_switches:
            impedance[:, b] += open_impedance(netlist, b, OPEN_LEAK_OHM)
    return impedance


def system_matrix(
    netlist: Netlist, conditions: Conditions, impedance_ohm: NDArray[np.complex128]
) -> NDArray[np.complex128]:
    """Modified nodal matrix, (samples, unknowns, unknowns): [[Y, B], [Bᵀ, −Z]]."""
    n = len(netlist.nodes)
    matrix = np.zeros((len(impedance_ohm), netlist.size, netlist.size), dtype=complex)
    matrix[:, :n, :n] = (
        conditions.between[:, None, None] * netlist.between_siemens
        + conditions.ground[:, None, None] * netlist.ground_siemens
    )
    matrix[:, :n, n:] = netlist.incidence
    matrix[:, n:, :n] = netlist.incidence.T
    diagonal = np.arange(n, netlist.size)
    matrix[:, diagonal, diagonal] = -impedance_ohm
    return matrix


def solve(netlist: Netlist, conditions: Conditions, open_switches: frozenset[str]) -> Solved:
    """Solve one state of the switches for every sample.

    Raises
    ------
    NumericalError
        If the network has no finite solution.
    """
    impedance = branch_impedance(netlist, conditions, open_switches)
    inverse = np.zeros((len(impedance), netlist.size + 1, netlist.size + 1), dtype=np.complex128)
    try:
        inverse[:, :-1, :-1] = np.linalg.inv(system_matrix(netlist, conditions, impedance))
    except np.linalg.LinAlgError as error:
        raise NumericalError(f"The network of “{netlist.circuit.name}” has no solution: check its parts.") from error
    if not np.isfinite(inverse).all():
        raise NumericalError(f"The network of “{netlist.circuit.name}” has no finite solution: check its parts.")
    driven = np.einsum("mnb,lb->mln", inverse[:, :, len(netlist.nodes) : -1], netlist.emf_volts, optimize=True)
    return Solved(netlist, conditions, open_switches, inverse, -driven, impedance)


def edit(solved: Solved, branches: NDArray[np.int64], extra_ohm: NDArray[np.complex128]) -> Edited:
    """Insert impedances in series with branches, one set per fault, in every sample.

    Woodbury's identity on A − E·D·Eᵀ: the edited inverse is X + X·E·D(1 − G·D)⁻¹·Eᵀ·X with G = Eᵀ·X·E. Because branches
    enter by impedance, −G is the admittance that the inserted impedance sees, and for one branch 1 − G·D never cancels.
    Two opens at once can leave nothing but stray currents, which are then lost in the digits of G: solve those afresh.

    Parameters
    ----------
    branches
        (faults, rank): the branches edited; repeat one with zero where a fault edits fewer.
    extra_ohm
        (faults, samples, rank): impedance inserted [ohm].
    """
    rows = branches + len(solved.netlist.nodes)
    columns = np.moveaxis(solved.inverse[:, :, rows], 2, 0)  # (faults, samples, unknowns, rank)
    seen = np.take_along_axis(columns, rows[:, None, :, None], axis=2)  # G, (faults, samples, rank, rank)
    rank = branches.shape[1]
    core = extra_ohm[..., :, None] * np.linalg.inv(np.eye(rank) - seen * extra_ohm[..., None, :])
    return Edited(solved, rows, columns, core)

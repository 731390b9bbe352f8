"""A circuit made ready for diagnosis: its network, faults and samples, and each state of its switches once solved."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.diagnosis.nuisance import Nuisance, nuisance
from zesty_copper.core.faults.catalogue import Fault, FaultKind, faults_of
from zesty_copper.core.faults.edits import FaultEdits, fault_edits
from zesty_copper.core.network.netlist import Netlist, build_netlist
from zesty_copper.core.network.solve import Edited, Solved, edit, solve

__all__ = ["StateOfFaults", "Study", "state_of_faults", "study_of"]


@dataclass(frozen=True, eq=False)
class Study:
    """What a diagnosis needs of a circuit before any reading.

    A fault has a *row* among the networks that are solved: an intermittent fault shares the row of the open it is when
    it is bad.

    Attributes
    ----------
    faults
        All but `none_of_these`, which is kept apart.
    log_prior
        (faults,): natural logarithm of the priors.
    row
        (faults,): the row of each.
    intermittent
        (faults,): which of them come and go.
    place
        (faults,): number of the place where the hand goes; faults of one part on one leg share it.
    healthy
        Row of `nothing_wrong`, which is also what an intermittent fault reads when it is good.
    """

    circuit: Circuit
    netlist: Netlist
    faults: tuple[Fault, ...]
    unlisted: Fault
    log_prior: NDArray[np.float64]
    row: NDArray[np.int64]
    intermittent: NDArray[np.bool_]
    place: NDArray[np.int64]
    healthy: int
    nuisance: Nuisance
    edits: FaultEdits


@dataclass(frozen=True, eq=False)
class StateOfFaults:
    """Every network row in one state of the switches.

    Attributes
    ----------
    edited
        The rows in two groups, those that edit both legs and those that edit one branch.
    unknowns
        (rows, samples, unknowns): node voltages [V], then branch currents [A], meter not connected.
    """

    study: Study
    solved: Solved
    edited: tuple[Edited, ...]
    unknowns: NDArray[np.complex128]

    def respond(self, vector: NDArray[np.complex128]) -> NDArray[np.complex128]:
        """Turn the healthy response to a right-hand side into every row's, (rows, samples, unknowns)."""
        return apply_all(self.edited, vector)

    def respond_at(
        self, vector: NDArray[np.complex128], row: NDArray[np.int64], sample: NDArray[np.int64]
    ) -> NDArray[np.complex128]:
        """Do the same for chosen pairs of row and sample alone, (pairs, unknowns); `vector` is (samples, unknowns)."""
        response = vector[sample]
        start = 0
        for group in self.edited:
            stop = start + len(group.rows)
            at = np.flatnonzero((row >= start) & (row < stop))
            r, m = row[at] - start, sample[at]
            taken = np.take_along_axis(response[at], group.rows[r], axis=1)
            response[at] += np.einsum("pnk,pkl,pl->pn", group.columns[r, m], group.core[r, m], taken)
            start = stop
        return response


def apply_all(groups: tuple[Edited, ...], vector: NDArray[np.complex128]) -> NDArray[np.complex128]:
    """Apply groups of edits one under the other; `vector` is (rows or 1, samples, unknowns)."""
    parts, start = [], 0
    for group in groups:
        stop = start + len(group.rows)
        parts.append(group.apply(vector if len(vector) == 1 else vector[start:stop]))
        start = stop
    return np.concatenate(parts)


@lru_cache(maxsize=32)
def study_of(circuit: Circuit) -> Study:
    """Make a circuit ready for diagnosis."""
    *faults, unlisted = faults_of(circuit)
    netlist = build_netlist(circuit)
    samples = nuisance()
    networks = [fault for fault in faults if fault.kind is not FaultKind.INTERMITTENT]
    rows = {(fault.kind, fault.part, fault.leg): row for row, fault in enumerate(networks)}
    places = {place: i for i, place in enumerate(dict.fromkeys(fault.place for fault in faults))}
    return Study(
        circuit=circuit,
        netlist=netlist,
        faults=tuple(faults),
        unlisted=unlisted,
        log_prior=np.log([fault.prior for fault in faults]),
        row=np.array(
            [
                rows[FaultKind.OPEN if fault.kind is FaultKind.INTERMITTENT else fault.kind, fault.part, fault.leg]
                for fault in faults
            ]
        ),
        intermittent=np.array([fault.kind is FaultKind.INTERMITTENT for fault in faults]),
        place=np.array([places[fault.place] for fault in faults]),
        healthy=next(row for row, fault in enumerate(networks) if fault.kind is FaultKind.NOTHING_WRONG),
        nuisance=samples,
        edits=fault_edits(netlist, networks, samples.fault_quantile),
    )


@lru_cache(maxsize=128)
def state_of_faults(study: Study, open_switches: frozenset[str]) -> StateOfFaults:
    """Solve one state of the switches with every fault in place."""
    edits, two = study.edits, study.edits.two_legged
    solved = solve(study.netlist, study.nuisance.conditions, open_switches)
    edited = (
        edit(solved, edits.branches[:two], edits.extra_ohm[:two]),
        edit(solved, edits.branches[two:, :1], edits.extra_ohm[two:, :, :1]),
    )
    driven = np.einsum("fml,mln->fmn", edits.sources, solved.unknowns)
    return StateOfFaults(study, solved, edited, apply_all(edited, driven))

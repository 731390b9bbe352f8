"""A circuit made ready for diagnosis: its network, faults and samples, and each state of its switches once solved."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.diagnosis.nuisance import Nuisance, nuisance
from zesty_copper.core.faults.catalogue import Fault, FaultKind, faults_of
from zesty_copper.core.faults.edits import FaultEdits, fault_edits
from zesty_copper.core.network.meter import Tap
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
    opens
        The switch that each of the first rows holds open.
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
    opens: tuple[str, ...]
    healthy: int
    nuisance: Nuisance
    edits: FaultEdits


@dataclass(frozen=True, eq=False)
class StateOfFaults:
    """Every network row in one state of the switches.

    Attributes
    ----------
    opened
        The first rows: this state with one switch more open. A fault on both legs is solved, not edited: two opens at
        once leave only stray currents, and those are lost in the digits of a low-rank edit.
    edited
        All further rows, each with one branch edited.
    unknowns
        (rows, samples, unknowns + 1): node voltages [V], branch currents [A], and ground; meter not connected.
    """

    study: Study
    solved: Solved
    opened: tuple[Solved, ...]
    edited: Edited
    unknowns: NDArray[np.complex128]

    def respond(self, where: Tap) -> NDArray[np.complex128]:
        """Response of every row to a unit source at the probes, (rows, samples, unknowns + 1)."""
        alone = [_direct(solved, [where])[:, 0][None] for solved in self.opened]
        return np.concatenate([*alone, self.edited.apply(_direct(self.solved, [where])[:, 0][None])])

    def respond_at(
        self, taps: Sequence[Tap], row: NDArray[np.int64], sample: NDArray[np.int64]
    ) -> NDArray[np.complex128]:
        """Do the same for several pairs of probes, but chosen pairs of row and sample, (pairs, taps, unknowns + 1)."""
        alone = len(self.opened)
        response = _direct(self.solved, taps)[sample]
        for i, solved in enumerate(self.opened):
            response[row == i] = _direct(solved, taps)[sample[row == i]]
        at = np.flatnonzero(row >= alone)
        r, m = row[at] - alone, sample[at]
        taken = np.take_along_axis(response[at], self.edited.rows[r][:, None], axis=2)
        columns = self.edited.columns[r, m] @ self.edited.core[r, m]
        response[at] += np.einsum("pnk,ptk->ptn", columns, taken)
        return response


def _direct(solved: Solved, taps: Sequence[Tap]) -> NDArray[np.complex128]:
    """Response of one network to a unit source at each pair of probes, (samples, taps, unknowns + 1)."""
    plus, minus = [tap.plus for tap in taps], [tap.minus for tap in taps]
    return np.asarray(solved.inverse[:, plus] - solved.inverse[:, minus])


@lru_cache(maxsize=32)
def study_of(circuit: Circuit) -> Study:
    """Make a circuit ready for diagnosis."""
    *faults, unlisted = faults_of(circuit)
    netlist = build_netlist(circuit)
    samples = nuisance()
    networks = [fault for fault in faults if fault.kind is not FaultKind.INTERMITTENT]
    rows = {(fault.kind, fault.part, fault.leg): row for row, fault in enumerate(networks)}
    not_closed = [fault.part for fault in networks if fault.kind is FaultKind.NOT_CLOSED]
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
        opens=tuple(switch for part in not_closed if (switch := circuit.part(part or "").switch)),
        healthy=next(row for row, fault in enumerate(networks) if fault.kind is FaultKind.NOTHING_WRONG),
        nuisance=samples,
        edits=fault_edits(netlist, networks, samples.fault_quantile),
    )


@lru_cache(maxsize=128)
def _solved(study: Study, open_switches: frozenset[str]) -> Solved:
    """Solve one state of the switches, shared by every state that opens one switch more."""
    return solve(study.netlist, study.nuisance.conditions, open_switches)


@lru_cache(maxsize=128)
def state_of_faults(study: Study, open_switches: frozenset[str]) -> StateOfFaults:
    """Solve one state of the switches with every fault in place."""
    edits = study.edits
    solved = _solved(study, open_switches)
    opened = tuple(_solved(study, open_switches | {switch}) for switch in study.opens)
    alone = len(opened)
    edited = edit(solved, edits.branches[alone:], edits.extra_ohm[alone:])
    driven = np.einsum("fml,mln->fmn", edits.sources[alone:], solved.unknowns)
    unknowns = np.concatenate([*(one.unknowns.sum(axis=1)[None] for one in opened), edited.apply(driven)])
    return StateOfFaults(study, solved, opened, edited, unknowns)

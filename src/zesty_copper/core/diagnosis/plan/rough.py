"""Rough predictions of a whole table of measurements at once, to rank them by."""

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.hands import FREE
from zesty_copper.core.diagnosis.plan.candidates import CandidateTable
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit, kept
from zesty_copper.core.diagnosis.predict.noise import PICK_UP_VOLTS, ghost_wander
from zesty_copper.core.diagnosis.predict.observe import predict
from zesty_copper.core.diagnosis.predict.states import dead_state_of, edit_of, state_of
from zesty_copper.core.network.lowrank import Response
from zesty_copper.core.network.meter import loaded
from zesty_copper.core.network.probes import probe_ohm, probed
from zesty_copper.core.observations.kinds.ohms import OHM_LIMIT, Ohms
from zesty_copper.core.observations.registry import LINEAR_UNITS

__all__ = ["rough_values"]


def rough_values(
    compiled: CompiledCircuit, table: CandidateTable, row: NDArray[np.int64], sample: NDArray[np.int64]
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Readings of a whole table and their wander, for pairs of row and sample, (pairs, measurements) [V or A].

    By the meter's Thévenin equivalent, and in single precision: this only ranks tests, the best of which are predicted
    again.
    """
    state = (dead_state_of if table.dead else state_of)(compiled, table.open_switches)
    plus, minus = table.taken[:, 0], table.taken[:, 1]
    potential = np.empty((len(row), compiled.netlist.size + 1), dtype=np.complex64)
    seen_ohm = np.empty((len(row), len(plus)), dtype=np.complex64)
    placed = state.planned
    number = placed.topology[row, sample]
    for topology in np.unique(number).tolist():
        at = np.flatnonzero(number == topology)
        pairs_here = row[at], sample[at]
        response = Response(placed.core[pairs_here], placed.coefficients[pairs_here])
        healthy = _healthy_ohm(compiled, table, topology)
        potential[at], seen_ohm[at] = probed(
            state.topologies[topology], edit_of(compiled, *pairs_here), response, (plus, minus), healthy
        )
    size = np.abs(potential - potential[:, compiled.ground_row, None])
    open_circuit = (potential[:, table.taken] * table.signs).sum(axis=-1)
    seen_ohm = seen_ohm[:, table.pair]
    value = np.abs(loaded(open_circuit[:, table.pair], seen_ohm, table.siemens))
    ends = size[:, plus[table.pair]], size[:, minus[table.pair]]
    beside = compiled.nuisance.neighbour_volts[sample][:, None] * table.beside
    wander = ghost_wander(seen_ohm, *ends, table.siemens, floor_volts=PICK_UP_VOLTS, beside_volts=beside)
    if table.dead:
        value, wander = Ohms().on_scale(np.minimum(np.abs(seen_ohm), OHM_LIMIT)), np.zeros(seen_ohm.shape)
        by_themselves = [c for c, measurement in enumerate(table.measurements) if measurement.hands != FREE]
    else:
        by_themselves = np.flatnonzero(~np.isin(table.units, LINEAR_UNITS)).tolist()
    for c in by_themselves:
        value[:, c], wander[:, c] = predict(compiled, table.measurements[c]).value[row, sample], 0
    return value.astype(np.float32), wander.astype(np.float32)


@kept
def _healthy_ohm(compiled: CompiledCircuit, table: CandidateTable, number: int) -> NDArray[np.complex128]:
    """Impedance between each pair of probes of a table in one topology, nothing edited, (samples, pairs) [ohm]."""
    state = (dead_state_of if table.dead else state_of)(compiled, table.open_switches)
    return probe_ohm(state.topologies[number], table.taken[:, 0], table.taken[:, 1])

"""Rough predictions of a whole table of measurements at once, to rank them by."""

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.hands import FREE
from zesty_copper.core.circuit.measurement import OHM_LIMIT
from zesty_copper.core.diagnosis.plan.candidates import CandidateTable
from zesty_copper.core.diagnosis.predict.compiled import Block, CompiledCircuit, dead_state_of, state_of
from zesty_copper.core.diagnosis.predict.noise import PICK_UP_VOLTS, ghost_wander
from zesty_copper.core.diagnosis.predict.phasors import predict
from zesty_copper.core.diagnosis.predict.scales import on_scale
from zesty_copper.core.network.meter import loaded

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
    seen = np.empty((len(row), len(plus)), dtype=np.complex64)
    blocks, places = state.planned
    which, at = blocks[row, sample], places[row, sample]
    for b in np.unique(which).tolist():
        mine = np.flatnonzero(which == b)
        potential[mine], seen[mine] = _by_block(state.blocks[b], plus, minus, at[mine], sample[mine])
    size = np.abs(potential - potential[:, compiled.ground_row, None])
    open_circuit = (potential[:, table.taken] * table.signs).sum(axis=-1)
    seen = seen[:, table.pair]
    value = np.abs(loaded(open_circuit[:, table.pair], seen, table.siemens))
    ends = size[:, plus[table.pair]], size[:, minus[table.pair]]
    beside = compiled.nuisance.neighbour_volts[sample][:, None] * table.beside
    wander = ghost_wander(seen, *ends, table.siemens, floor_volts=PICK_UP_VOLTS, beside_volts=beside)
    if table.dead:
        value, wander = on_scale(np.minimum(np.abs(seen), OHM_LIMIT), "ohm"), np.zeros(seen.shape)
        by_themselves = [c for c, measurement in enumerate(table.measurements) if measurement.hands != FREE]
    else:
        by_themselves = np.flatnonzero((table.units != "V") & (table.units != "A")).tolist()
    for c in by_themselves:
        value[:, c], wander[:, c] = predict(compiled, table.measurements[c]).value[row, sample], 0
    return value.astype(np.float32), wander.astype(np.float32)


def _by_block(
    block: Block, plus: NDArray[np.int64], minus: NDArray[np.int64], at: NDArray[np.int64], sample: NDArray[np.int64]
) -> tuple[NDArray[np.complex64], NDArray[np.complex64]]:
    """Unknowns, and the impedance the meter sees at each pair of probes [ohm], for rows and samples of one block."""
    edited = block.edited
    d, core, amount = edited.used[at], edited.core[at, sample], edited.amount[at, sample]
    inverse = edited.topology.solved.inverse
    seen = inverse[:, plus, plus] + inverse[:, minus, minus] - inverse[:, plus, minus] - inverse[:, minus, plus]
    seen = seen[sample]
    potential = edited.topology.driven[edited.drive[at], sample]
    ways = [edited.right[sample, :, d[:, k]] for k in range(d.shape[1])]
    back = [edited.left[sample, d[:, k]] for k in range(d.shape[1])]
    for k, right in enumerate(ways):
        potential = potential + amount[:, k, None] * right
        for j, left in enumerate(back):
            seen = seen + core[:, k, j, None] * (right[:, plus] - right[:, minus]) * (left[:, plus] - left[:, minus])
    return potential.astype(np.complex64), seen.astype(np.complex64)

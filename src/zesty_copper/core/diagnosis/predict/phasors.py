"""What every fault would make the meter show, and how that moves with what is not known."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.measurement import Measurement
from zesty_copper.core.diagnosis.predict.compiled import Block, CompiledCircuit, in_hands, state_of
from zesty_copper.core.diagnosis.predict.noise import PICK_UP_VOLTS, ghost_wander
from zesty_copper.core.diagnosis.predict.nuisance import DIMENSIONS, Dimension
from zesty_copper.core.diagnosis.predict.ohms import ohms
from zesty_copper.core.diagnosis.predict.prediction import Prediction
from zesty_copper.core.diagnosis.predict.senses import sensed
from zesty_copper.core.network.lowrank import Edited, Topology
from zesty_copper.core.network.meter import Tap, tap

__all__ = ["PHASORS", "predict", "predict_at"]

PHASORS = ("V", "A")
"""Units of what is a magnitude of a sum of unknowns; everything else has a way of its own."""


@dataclass(frozen=True, eq=False)
class _Probed:
    """What one measurement sees of a topology, nothing edited.

    Attributes
    ----------
    left, right
        (samples, unknowns + 1): tᵀ·X and X·t, t the measurement's tap.
    left_elements, right_elements
        (samples, elements): what the elements do to the reading, and what a current at the probes does to them.
    """

    left: NDArray[np.complex128]
    right: NDArray[np.complex128]
    left_elements: NDArray[np.complex128]
    right_elements: NDArray[np.complex128]
    seen: NDArray[np.complex128]


def _probe(topology: Topology, where: Tap) -> _Probed:
    rows, signs = np.array(where.rows), np.array(where.signs)
    inverse, elements = topology.solved.inverse, topology.elements
    left = np.einsum("k,mkn->mn", signs, inverse[:, rows])
    right = np.einsum("k,mnk->mn", signs, inverse[:, :, rows])
    return _Probed(
        left=left,
        right=right,
        left_elements=elements.left.of(left),
        right_elements=elements.right.of(right) * elements.weight,
        seen=left[:, rows] @ signs,
    )


@lru_cache(maxsize=512)
def predict(compiled: CompiledCircuit, measurement: Measurement) -> Prediction:
    """Predict one measurement in every network row.

    The sensitivities are exact to first order (Director and Rohrer, IEEE Trans. Circuit Theory 16 (1969) 318-323):
    dv = −w·dA·x, where w is the row of the edited inverse at the probes and x the unknowns, the meter's own current
    among them. Neither is ever formed: what a fault adds to each is a few directions, and all products of directions
    with each other are found once for each state.
    """
    if measurement.unit == "ohm":
        return ohms(compiled, measurement)
    compiled = in_hands(compiled, measurement.hands)
    state = state_of(compiled, measurement.open_switches)
    if measurement.unit not in PHASORS:
        return sensed(compiled, state, measurement)
    where = tap(compiled.netlist, measurement)
    probed: dict[int, _Probed] = {}
    read = []
    for block in state.blocks:
        topology = block.edited.topology
        seen = probed.get(id(topology)) or probed.setdefault(id(topology), _probe(topology, where))
        read.append(_read_rows(compiled, block.edited, where, seen))
    shape = (len(compiled.edits.rows), compiled.samples)
    phasor, wander = np.zeros(shape, dtype=complex), np.zeros(shape)
    slope = np.zeros((*shape, len(DIMENSIONS)), dtype=complex)
    settled, after = (phasor, slope, wander), (phasor.copy(), slope.copy(), wander.copy())
    for block, found in zip(state.blocks, read, strict=True):
        for wholes, mask in ((settled, block.here), (after, block.next)):
            row, sample = np.nonzero(mask)
            for whole, part in zip(wholes, found, strict=True):
                whole[block.rows[row], sample] = part[row, sample]
    moved_on = _shown(*after, state.chatters) if state.chatters.any() else None
    return replace(_shown(*settled, state.chatters), moved_on=moved_on)


def _shown(
    phasor: NDArray[np.complex128],
    slope: NDArray[np.complex128],
    wander: NDArray[np.float64],
    chatters: NDArray[np.bool_],
) -> Prediction:
    """Return a phasor's magnitude, and what it moves by with one deviation of each unknown.

    What moves the phasor sideways lengthens it only where it is short: near nothing the magnitude strays by all of it.
    """
    magnitude = np.abs(phasor)
    direction = np.conj(phasor) / np.maximum(magnitude, 1e-12)
    moved = direction[..., None] * slope * DIMENSIONS
    sideways = (moved.imag**2).sum(axis=-1)
    strays = sideways**2 / (sideways + 2 * magnitude**2 + 1e-30)
    return Prediction(magnitude, moved.real, np.sqrt(wander**2 + strays), chatters)


def _read_rows(
    compiled: CompiledCircuit, edited: Edited, where: Tap, probed: _Probed
) -> tuple[NDArray[np.complex128], NDArray[np.complex128], NDArray[np.float64]]:
    """Load every row with the meter, read it, and differentiate: phasor, slope, wander."""
    topology, elements, used = edited.topology, edited.topology.elements, edited.used
    signs, taps = np.array(where.signs), np.array(where.rows)
    # Amounts by which each direction moves the reading's own row, and the current at the probes.
    on = np.moveaxis(edited.directions.of(probed.left)[:, used], 0, 1)  # (rows, samples, rank)
    from_ = np.moveaxis(edited.directions.of(probed.right)[:, used], 0, 1)
    left_amount = (on[..., None, :] @ edited.core)[..., 0, :]
    right_amount = (edited.core @ from_[..., None])[..., 0]
    driven = topology.driven[:, :, taps] @ signs  # (drives, samples)
    open_circuit = driven[edited.drive] + (on * edited.amount).sum(axis=-1)
    source_ohm = probed.seen + (left_amount * from_).sum(axis=-1)
    shrink = 1 / (1 + where.siemens * source_ohm)
    phasor = open_circuit * shrink
    drawn = where.siemens * phasor
    wander = np.zeros(phasor.shape)
    if where.siemens:
        ground = edited.solution_at(compiled.ground_row)
        ends = [edited.solution_at(int(t)) - ground for t in where.rows[:2]]
        beside = compiled.nuisance.neighbour_volts * where.beside
        wander = ghost_wander(source_ohm, ends[0], ends[1], np.array(where.siemens), beside_volts=beside)

    slope = np.zeros((*phasor.shape, len(DIMENSIONS)), dtype=complex)
    amount = edited.amount - drawn[..., None] * right_amount
    by_group = elements.by_group(probed.left_elements * topology.driven_elements)[edited.drive]
    by_group = by_group - drawn[..., None] * elements.by_group(probed.left_elements * probed.right_elements)
    if used.shape[1]:
        spans = zip(elements.bounds[:-1], elements.bounds[1:], strict=True)
        reach = np.stack(
            [(probed.left_elements[:, None, lo:hi] @ edited.right_elements[:, lo:hi])[:, 0] for lo, hi in spans],
            axis=-1,
        )  # (samples, directions, groups)
        current = elements.by_group(edited.left_elements * probed.right_elements[:, None])
    for k in range(used.shape[1]):
        at = used[:, k]
        by_group = by_group + amount[..., k, None] * np.moveaxis(reach[:, at], 0, 1)
        held = np.moveaxis(edited.left_on_driven[:, at], 0, 1) - drawn[..., None] * np.moveaxis(current[:, at], 0, 1)
        for j in range(used.shape[1]):
            held = held + amount[..., j, None] * np.moveaxis(edited.left_on_right[k, j], 0, 1)
        by_group = by_group + left_amount[..., k, None] * held
    slope[..., Dimension.GROUPS] = by_group * topology.factors * shrink[..., None]

    source = (
        probed.left[:, compiled.source_rows]
        + (left_amount[..., None, :] @ np.moveaxis(edited.left[:, used][..., compiled.source_rows], 0, 1))[..., 0, :]
    )
    moved = -source * topology.drives[edited.drive] * compiled.source_volts
    slope[..., Dimension.BALANCE] = (moved @ compiled.contrast.T) * shrink[..., None]
    slope[..., Dimension.FAULT] = _by_own(left_amount * amount, edited.delta, edited.ddelta_dlog_r) * shrink
    slope[..., Dimension.LEVEL] = phasor
    slope[..., Dimension.VOLT_GAIN if where.siemens else Dimension.AMP_GAIN] = phasor
    return phasor, slope, wander


def _by_own(
    product: NDArray[np.complex128], delta: NDArray[np.complex128], ddelta_dlog_r: NDArray[np.complex128]
) -> NDArray[np.complex128]:
    """Return the derivative by the fault's own resistance: −dδ·(w·q)(q·x), what is left of each being −amount/δ."""
    return np.asarray(-(product * ddelta_dlog_r / np.where(delta == 0, 1, delta**2)).sum(axis=-1))


def predict_at(
    compiled: CompiledCircuit,
    measurements: Sequence[Measurement],
    row: NDArray[np.int64],
    sample: NDArray[np.int64],
    *,
    strays: bool = True,
) -> Prediction:
    """Predict measurements of one state (ohms: of one state of the switches) for chosen pairs of row and sample alone.

    The arrays are (pairs, measurements), and (pairs, measurements, dimensions) for the slope. The meter's own current
    is taken to act on the network as the network acts on the meter, which holds but for a turning three-phase motor.
    Without `strays` the slopes by joints and strays are left at zero: they move a fed point by less than its noise.
    """
    if others := [c for c, measurement in enumerate(measurements) if measurement.unit not in PHASORS]:
        return _with_others(compiled, measurements, others, row, sample, strays=strays)
    compiled = in_hands(compiled, measurements[0].hands)
    state = state_of(compiled, measurements[0].open_switches)
    blocks, places = state.planned
    taps = [tap(compiled.netlist, measurement) for measurement in measurements]
    shape = (len(row), len(taps))
    phasor, wander = np.zeros(shape, dtype=complex), np.zeros(shape)
    slope = np.zeros((*shape, len(DIMENSIONS)), dtype=complex)
    which = blocks[row, sample]
    for b in np.unique(which).tolist():
        mine = which == b
        found = _read_pairs(
            compiled, state.blocks[b], taps, places[row[mine], sample[mine]], sample[mine], strays=strays
        )
        phasor[mine], slope[mine], wander[mine] = found
    return _shown(phasor, slope, wander, state.chatters[row, sample])


def _with_others(
    compiled: CompiledCircuit,
    measurements: Sequence[Measurement],
    others: Sequence[int],
    row: NDArray[np.int64],
    sample: NDArray[np.int64],
    *,
    strays: bool,
) -> Prediction:
    """Do the same where some are no phasors: those are few, and found for all rows at once."""
    phasors = [c for c in range(len(measurements)) if c not in others]
    shape = (len(row), len(measurements))
    value, wander, slope = np.zeros(shape), np.zeros(shape), np.zeros((*shape, len(DIMENSIONS)))
    chatters = np.zeros(len(row), dtype=np.bool_)
    for c in others:
        found = predict(compiled, measurements[c])
        value[:, c], wander[:, c], slope[:, c] = (
            found.value[row, sample],
            found.wander[row, sample],
            found.slope[row, sample],
        )
        chatters = found.chatters[row, sample]
    if phasors:
        rest = predict_at(compiled, [measurements[c] for c in phasors], row, sample, strays=strays)
        value[:, phasors], wander[:, phasors], slope[:, phasors] = rest.value, rest.wander, rest.slope
    return Prediction(value, slope, wander, chatters)


def _read_pairs(
    compiled: CompiledCircuit,
    block: Block,
    taps: Sequence[Tap],
    at: NDArray[np.int64],
    sample: NDArray[np.int64],
    *,
    strays: bool,
) -> tuple[NDArray[np.complex128], NDArray[np.complex128], NDArray[np.float64]]:
    """Do the same as `_read_rows` for chosen rows and samples and several measurements, forming the vectors."""
    edited, topology = block.edited, block.edited.topology
    elements = topology.elements if strays else topology.few_elements
    rows, signs = np.array([t.rows for t in taps]), np.array([t.signs for t in taps])
    siemens = np.array([t.siemens for t in taps])
    d, core, amount = edited.used[at], edited.core[at, sample], edited.amount[at, sample]
    drive = edited.drive[at]
    inverse = topology.solved.inverse
    # Few pairs are gathered one by one; for many it is cheaper to combine the taps in every sample first.
    few = len(sample) < inverse.shape[0]
    source = inverse[sample] if few else inverse
    left = source[:, rows[:, 0]] * signs[:, 0, None]
    for k in range(1, rows.shape[1]):
        if signs[:, k].any():
            left = left + source[:, rows[:, k]] * signs[:, k, None]
    left = left if few else left[sample]
    unknowns = topology.driven[drive, sample]
    for k in range(d.shape[1]):
        unknowns = unknowns + amount[:, k, None] * edited.right[sample, :, d[:, k]]
    on = edited.directions.of(left)  # (pairs, taps, directions)
    on = np.take_along_axis(on, np.broadcast_to(d[:, None], (*on.shape[:2], d.shape[1])), axis=2)
    left_amount = on @ core
    for k in range(d.shape[1]):
        left = left + left_amount[..., k, None] * edited.left[sample, d[:, k]][:, None]
    each = np.arange(len(taps))[:, None]
    open_circuit = (unknowns[:, rows] * signs).sum(axis=-1)
    source_ohm = (left[:, each, rows] * signs).sum(axis=-1)
    shrink = 1 / (1 + siemens * source_ohm)
    phasor = open_circuit * shrink
    drawn = siemens * phasor
    ends = unknowns[:, rows[:, :2]] - unknowns[:, compiled.ground_row, None, None]
    beside = compiled.nuisance.neighbour_volts[sample][:, None] * np.array([t.beside for t in taps])
    wander = ghost_wander(
        source_ohm, ends[..., 0], ends[..., 1], siemens, floor_volts=PICK_UP_VOLTS, beside_volts=beside
    )

    slope = np.zeros((*phasor.shape, len(DIMENSIONS)), dtype=complex)
    left_elements = elements.left.of(left)
    right_elements = elements.right.of(unknowns)[:, None] - drawn[..., None] * elements.right.of(left)
    by_group = elements.by_group(left_elements * right_elements * elements.weight)
    slope[..., Dimension.GROUPS] = by_group * topology.factors[sample][:, None] * shrink[..., None]
    moved = -left[..., compiled.source_rows] * (topology.drives[drive, sample] * compiled.source_volts)[:, None]
    slope[..., Dimension.BALANCE] = (moved @ compiled.contrast.T) * shrink[..., None]
    loaded = amount[:, None] - drawn[..., None] * left_amount
    own = _by_own(left_amount * loaded, edited.delta[at, sample][:, None], edited.ddelta_dlog_r[at, sample][:, None])
    slope[..., Dimension.FAULT] = own * shrink
    slope[..., Dimension.LEVEL] = phasor
    slope[..., Dimension.VOLT_GAIN] = np.where(siemens > 0, phasor, 0)
    slope[..., Dimension.AMP_GAIN] = np.where(siemens > 0, 0, phasor)
    return phasor, slope, wander

"""What an ohmmeter or an insulation tester would show where it is dead: the resistance between two points."""

import numpy as np

from zesty_copper.core.circuit.hands import taken_out
from zesty_copper.core.circuit.measurement import INSULATION_LIMIT_OHM, OHM_LIMIT, Between, Measurement, MeterMode
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit, dead_state_of, in_hands
from zesty_copper.core.diagnosis.predict.nuisance import DIMENSIONS, Dimension
from zesty_copper.core.diagnosis.predict.prediction import Prediction
from zesty_copper.core.diagnosis.predict.scales import LEADS_OHM, on_scale
from zesty_copper.core.network.meter import tap

__all__ = ["LIMIT_OHM", "ohms"]

LIMIT_OHM = {MeterMode.OHM: OHM_LIMIT, MeterMode.INSULATION: INSULATION_LIMIT_OHM}


def ohms(compiled: CompiledCircuit, measurement: Measurement) -> Prediction:
    """Predict ohms in every network row, on their scale; beyond the meter's range all reads alike.

    The resistance is that of the direct-current network between the probes: with t the measurement's tap and X the
    edited inverse, tᵀ·X·t. It moves with the fault's own resistance only; what loads and joints vary by is in the
    samples and in the noise.
    """
    place, circuit = measurement.place, compiled.circuit
    assert isinstance(place, Between)  # nothing else is read in ohms
    out = taken_out(circuit, measurement.hands, (place.a, place.b))
    compiled = in_hands(compiled, measurement.hands, out.id if out else None)
    state = dead_state_of(compiled, measurement.open_switches)
    where = tap(compiled.netlist, measurement)
    rows, signs = np.array(where.rows), np.array(where.signs)
    shape = (len(compiled.edits.rows), compiled.samples)
    value, slope = np.zeros(shape), np.zeros((*shape, len(DIMENSIONS)))
    for block in state.blocks:
        edited = block.edited
        inverse = edited.topology.solved.inverse
        left = np.einsum("k,mkn->mn", signs, inverse[:, rows])
        right = np.einsum("k,mnk->mn", signs, inverse[:, :, rows])
        on = np.moveaxis(edited.directions.of(left)[:, edited.used], 0, 1)  # (rows, samples, rank)
        from_ = np.moveaxis(edited.directions.of(right)[:, edited.used], 0, 1)
        left_amount = (on[..., None, :] @ edited.core)[..., 0, :]
        right_amount = (edited.core @ from_[..., None])[..., 0]
        seen = left[:, rows] @ signs + (left_amount * from_).sum(axis=-1)
        # Of a series path −dδ = dz, of a parallel one dδ = dy: what is left of each product is divided by δ².
        delta = np.where(edited.delta == 0, 1, edited.delta)
        moved = -(left_amount * right_amount * edited.ddelta_dlog_r / delta**2).sum(axis=-1)
        ohm = np.abs(seen)
        shown = np.minimum(ohm, LIMIT_OHM[measurement.meter])
        row, sample = np.nonzero(block.here)
        value[block.rows[row], sample] = on_scale(shown, "ohm")[row, sample]
        ddelta_dlog_r = np.where(ohm < LIMIT_OHM[measurement.meter], moved.real / (ohm + LEADS_OHM), 0)
        slope[block.rows[row], sample, Dimension.FAULT] = (ddelta_dlog_r * DIMENSIONS[Dimension.FAULT])[row, sample]
    return Prediction(value, slope, np.zeros(shape), np.zeros(shape, dtype=np.bool_))

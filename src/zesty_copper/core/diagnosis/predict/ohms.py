"""What an ohmmeter or an insulation tester would show where it is dead: the resistance between two points."""

import numpy as np

from zesty_copper.core.circuit.hands import taken_out
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit, in_hands
from zesty_copper.core.diagnosis.predict.nuisance import DIMENSIONS, Dimension
from zesty_copper.core.diagnosis.predict.prediction import Prediction
from zesty_copper.core.diagnosis.predict.states import dead_state_of, edit_of
from zesty_copper.core.network.lowrank import Response
from zesty_copper.core.network.meter import tap
from zesty_copper.core.network.reading import resistance
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.kinds.ohms import LEADS_OHM
from zesty_copper.core.observations.measurement import Measurement
from zesty_copper.core.observations.modes import LIMIT_OHM

__all__ = ["ohms"]


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
    shape = state.chatters.shape
    row, sample = np.nonzero(np.ones(shape).T)[::-1]
    seen_ohm, by_log = np.zeros(shape, dtype=complex), np.zeros(shape, dtype=complex)
    placed = state.settled
    number = placed.topology[row, sample]
    for topology in np.unique(number).tolist():
        at = np.flatnonzero(number == topology)
        pairs_here = (row[at], sample[at])
        response = Response(placed.core[pairs_here], placed.coefficients[pairs_here])
        edit = edit_of(compiled, *pairs_here)
        seen_ohm[pairs_here], by_log[pairs_here] = resistance(
            state.topologies[topology], edit, response, compiled.dlog[pairs_here], where
        )
    ohm = np.abs(seen_ohm)
    limit_ohm = LIMIT_OHM[measurement.meter]
    slope = np.zeros((*shape, len(DIMENSIONS)))
    slope[..., Dimension.FAULT] = (
        np.where(ohm < limit_ohm, by_log.real / (ohm + LEADS_OHM), 0) * DIMENSIONS[Dimension.FAULT]
    )
    value = measurement.observation.on_scale(np.minimum(ohm, limit_ohm))
    return Prediction(value, slope, np.zeros(shape), np.zeros(shape, dtype=np.bool_))

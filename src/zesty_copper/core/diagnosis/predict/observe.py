"""What every fault would make any measurement show: each kind of observation has its own module."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit, in_hands, kept
from zesty_copper.core.diagnosis.predict.noise import PICK_UP_VOLTS
from zesty_copper.core.diagnosis.predict.ohms import ohms
from zesty_copper.core.diagnosis.predict.phasors import phasors, phasors_at
from zesty_copper.core.diagnosis.predict.prediction import Prediction
from zesty_copper.core.diagnosis.predict.senses import sensed
from zesty_copper.core.diagnosis.predict.states import state_of
from zesty_copper.core.observations.measurement import Measurement

__all__ = ["predict", "predict_at"]


@kept
def predict(compiled: CompiledCircuit, measurement: Measurement) -> Prediction:
    """Predict one measurement in every row and sample, on the scale of its unit."""
    if measurement.observation.is_dead:
        return ohms(compiled, measurement)
    compiled = in_hands(compiled, measurement.hands)
    state = state_of(compiled, measurement.open_switches)
    if measurement.observation.is_linear:
        return phasors(compiled, state, measurement)
    return sensed(compiled, state, measurement)


def predict_at(
    compiled: CompiledCircuit,
    measurements: Sequence[Measurement],
    row: NDArray[np.int64],
    sample: NDArray[np.int64],
    *,
    strays: bool = True,
) -> Prediction:
    """Predict measurements of one state (ohms: of one state of the switches) for chosen pairs of row and sample alone.

    The arrays are (pairs, measurements), and (pairs, measurements, dimensions) for the slope. What is no phasor is
    found for all rows at once: there is little of it.

    Parameters
    ----------
    strays
        Without it the slopes by joints and strays are left at zero: they move a fed point by less than its noise.
    """
    phasor = [c for c, measurement in enumerate(measurements) if measurement.observation.is_linear]
    parts: dict[int, Prediction] = {}
    for c, measurement in enumerate(measurements):
        if c not in phasor:
            predicted = predict(compiled, measurement)
            value, slope, wander = (one[row, sample] for one in (predicted.value, predicted.slope, predicted.wander))
            parts[c] = Prediction(value, slope, wander, predicted.chatters[row, sample])
    if phasor:
        first = measurements[phasor[0]]
        in_hand = in_hands(compiled, first.hands)
        state = state_of(in_hand, first.open_switches)
        phasor_measurements = [measurements[c] for c in phasor]
        predicted = phasors_at(
            in_hand, state, state.planned, phasor_measurements, row, sample, strays=strays, floor_volts=PICK_UP_VOLTS
        )
        for i, c in enumerate(phasor):
            parts[c] = Prediction(
                predicted.value[:, i], predicted.slope[:, i], predicted.wander[:, i], predicted.chatters
            )
    listed = [parts[c] for c in range(len(measurements))]
    value, slope, wander = (
        np.stack([getattr(prediction, name) for prediction in listed], axis=1) for name in ("value", "slope", "wander")
    )
    return Prediction(value, slope, wander, listed[-1].chatters)

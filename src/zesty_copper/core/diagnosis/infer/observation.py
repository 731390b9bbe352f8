"""The observation model laid out for some readings: what each should be in every row and sample, and its spread."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.diagnosis.infer.pick import Layer, Layers
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit, kept
from zesty_copper.core.diagnosis.predict.nuisance import stir_variance
from zesty_copper.core.diagnosis.predict.observe import predict
from zesty_copper.core.diagnosis.predict.prediction import Prediction
from zesty_copper.core.observations.measurement import Measurement, Reading

__all__ = ["layers_of", "log_density"]


@kept
def layers_of(compiled: CompiledCircuit, readings: tuple[Reading, ...]) -> tuple[Layers, NDArray[np.int64]]:
    """Lay out readings, with the unknowns among `DIMENSIONS` that move any of them, (unknowns,)."""
    settled = [predict(compiled, reading.measurement) for reading in readings]
    variance = [_variance(compiled, reading) for reading in readings]
    after = [prediction.moved_on or prediction for prediction in settled]
    after_variance = [
        settled_variance if prediction.moved_on is None else _variance(compiled, reading, moved_on=True)
        for prediction, reading, settled_variance in zip(settled, readings, variance, strict=True)
    ]
    active = np.flatnonzero(np.logical_or.reduce([each_prediction.active for each_prediction in (*settled, *after)]))
    restless = np.flatnonzero(
        np.logical_or.reduce([each_prediction.chatters.any(axis=1) for each_prediction in settled])
    )
    other_row = np.full(len(compiled.edits.rows), -1)
    other_row[restless] = np.arange(len(restless))
    every = np.arange(len(compiled.edits.rows))
    first, second = _stacked(settled, variance, every, active), _stacked(after, after_variance, restless, active)
    return Layers(np.array([reading.on_scale for reading in readings]), first, other_row, second), active


def _stacked(
    predictions: Sequence[Prediction],
    variance: Sequence[NDArray[np.float64]],
    rows: NDArray[np.int64],
    active: NDArray[np.int64],
) -> Layer:
    """Put predictions of some rows side by side, reading by reading."""
    samples, count = predictions[0].value.shape[1], len(predictions)
    value, own, wander = (np.empty((len(rows), samples, count)) for _ in range(3))
    slope = np.zeros((len(rows), samples, count, len(active)))
    for i, (prediction, variance_of) in enumerate(zip(predictions, variance, strict=True)):
        value[..., i], own[..., i], wander[..., i] = prediction.value[rows], variance_of[rows], prediction.wander[rows]
        if prediction.active.any():
            slope[:, :, i] = prediction.slope[rows][..., active]
    return Layer(value, own, wander, slope)


def _variance(compiled: CompiledCircuit, reading: Reading, *, moved_on: bool = False) -> NDArray[np.float64]:
    """Variance of a reading by itself, apart from the unknowns it shares with others, (rows, samples) [V² or A²]."""
    step = reading.measurement.observation.typed_step(reading.value)
    return _own_variance(compiled, reading.measurement, step, moved_on)


@kept
def _own_variance(
    compiled: CompiledCircuit, measurement: Measurement, step: float, moved_on: bool
) -> NDArray[np.float64]:
    prediction = predict(compiled, measurement)
    if moved_on and prediction.moved_on is not None:
        prediction = prediction.moved_on
    meter_variance = measurement.observation.noise_variance(prediction.value, prediction.wander, step)
    return np.asarray(meter_variance + stir_variance(prediction.slope, compiled.nuisance.house_stir))


def log_density(compiled: CompiledCircuit, reading: Reading) -> NDArray[np.float64]:
    """Logarithm of a reading's density under every row and sample, no other known, (rows, samples) [nat]."""
    prediction = predict(compiled, reading.measurement)
    variance = _variance(compiled, reading) + (prediction.slope**2).sum(axis=-1)
    return np.asarray(-0.5 * ((reading.on_scale - prediction.value) ** 2 / variance + np.log(2 * np.pi * variance)))

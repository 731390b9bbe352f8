"""What each reading should be under every fault, and which it was where a fault may show itself in two ways."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.measurement import Reading
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit
from zesty_copper.core.diagnosis.predict.noise import noise_variance, typed_step
from zesty_copper.core.diagnosis.predict.nuisance import stir_variance
from zesty_copper.core.diagnosis.predict.phasors import predict
from zesty_copper.core.diagnosis.predict.prediction import Prediction
from zesty_copper.core.diagnosis.predict.scales import scaled

__all__ = ["BAD_SHARE", "log_density", "observation_terms"]

BAD_SHARE = 0.7
"""How often a contact that comes and goes is found bad: more often than not, or nobody would have called."""
BAD_SHARES = np.array([0.5, 0.7, 0.9])
"""How often it may be, each as likely: no one contact is like another."""
PERSISTS = 0.6
"""How much of its state a contact keeps from one reading to the next, beyond how often it is so; common practice, no
source: they stay good or bad for a while."""
DECIDED_NATS = 12.0
"""Lead from which a reading by itself says which of two it was."""


@dataclass(frozen=True, eq=False)
class _Told:
    """What one reading should be under some faults; the arrays are (faults, samples[, dimensions])."""

    value: NDArray[np.float64]
    variance: NDArray[np.float64]
    wander: NDArray[np.float64]
    slope: NDArray[np.float64]

    @classmethod
    def of(
        cls, compiled: CompiledCircuit, prediction: Prediction, reading: Reading, rows: NDArray[np.int64]
    ) -> "_Told":
        """Take rows of a prediction."""
        variance = _own_variance(compiled, prediction, reading)
        return cls(prediction.value[rows], variance[rows], prediction.wander[rows], prediction.slope[rows])


def observation_terms(
    compiled: CompiledCircuit, readings: Sequence[Reading]
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """Predictions, slopes, noise and wander of all readings under every fault, and the logarithm of how often it is so.

    What may be one of two, a contact that comes and goes bad or good, a coil that chatters in or out, was either at
    each reading by itself. The likelier of the two is taken; the other counts as far as the readings leave it open.
    """
    predictions = [predict(compiled, reading.measurement) for reading in readings]
    told = [_Told.of(compiled, p, reading, compiled.row) for p, reading in zip(predictions, readings, strict=True)]
    predicted, noise, wander = (
        np.stack([getattr(one, name) for one in told], axis=-1) for name in ("value", "variance", "wander")
    )
    slope = np.stack([one.slope for one in told], axis=-2)
    log_mode_weight = np.zeros(predicted.shape[:2])
    restless = np.logical_or.reduce([p.chatters.any(axis=1) for p in predictions])[compiled.row]

    flickering = np.flatnonzero(compiled.intermittent)
    good = np.full(len(flickering), compiled.healthy)
    pairs = [
        (_Told.of(compiled, p, reading, compiled.row[flickering]), _Told.of(compiled, p, reading, good))
        for p, reading in zip(predictions, readings, strict=True)
    ]
    chosen, ahead = _chosen(readings, pairs)
    log_mode_weight[flickering] = _log_mode_weight(ahead)
    for whole, part in zip((predicted, noise, wander, slope), chosen, strict=True):
        whole[flickering] = part

    if (chattering := np.flatnonzero(restless & ~compiled.intermittent)).size:
        pairs = [
            (_Told.of(compiled, p, reading, rows), _Told.of(compiled, p.moved_on or p, reading, rows))
            for rows in [compiled.row[chattering]]
            for p, reading in zip(predictions, readings, strict=True)
        ]
        chosen, ahead = _chosen(readings, pairs)
        log_mode_weight[chattering] = np.log(0.5 + 0.5 * np.exp(-np.abs(ahead))).sum(axis=-1)
        for whole, part in zip((predicted, noise, wander, slope), chosen, strict=True):
            whole[chattering] = part
    return predicted, slope, noise, wander, log_mode_weight


def _log_mode_weight(ahead: NDArray[np.float64]) -> NDArray[np.float64]:
    """Logarithm of how often a contact goes through the readings as it was read, (faults, samples).

    It was bad or good at each; the likelier way counts whole, the other as far as the reading leaves it open. From one
    reading to the next it mostly stays as it was: the forward recursion of a two-state hidden Markov chain (Rabiner,
    Proc. IEEE 77 (1989) 257-286), averaged over how often it is bad.

    Parameters
    ----------
    ahead
        (faults, samples, readings): by how much “good” is the likelier, in nats.
    """
    other = np.exp(-np.abs(ahead))
    fits = np.stack([np.where(ahead > 0, other, 1.0), np.where(ahead > 0, 1.0, other)])  # bad, good
    total = np.zeros(ahead.shape[:2])
    for bad in BAD_SHARES.tolist():
        often = np.array([bad, 1 - bad])[:, None, None]
        way = np.broadcast_to(often, fits.shape[:-1])
        log_way = np.zeros(ahead.shape[:2])
        for i in range(ahead.shape[-1]):
            way = (way if i == 0 else PERSISTS * way + (1 - PERSISTS) * often) * fits[..., i]
            scale = way.sum(axis=0)
            way, log_way = way / scale, log_way + np.log(scale)
        total += np.exp(log_way) / len(BAD_SHARES)
    return np.asarray(np.log(total))


def _chosen(
    readings: Sequence[Reading], pairs: Sequence[tuple[_Told, _Told]]
) -> tuple[tuple[NDArray[np.float64], ...], NDArray[np.float64]]:
    """Choose for each reading the likelier of two, in the light of what the others say of the shared unknowns.

    Returns
    -------
    chosen
        Value, variance and wander (faults, samples, readings), and slope (…, readings, dimensions) of the choice.
    ahead
        (faults, samples, readings): by how much the second is the likelier, in nats.
    """
    read = np.array([scaled(reading) for reading in readings])
    value, variance, wander = (
        np.stack([np.stack([getattr(one, name) for one in pair]) for pair in pairs], axis=-1)
        for name in ("value", "variance", "wander")
    )  # (2, faults, samples, readings)
    slope = np.stack([np.stack([one.slope for one in pair]) for pair in pairs], axis=-2)
    ahead = _ahead(read, value, variance + (slope**2).sum(axis=-1))
    # Only where the two differ, and the reading alone does not decide, have the others a say.
    differ = np.abs(value[1] - value[0]) > np.sqrt(variance.min(axis=0))
    open_ = (differ & (np.abs(ahead) < DECIDED_NATS)).any(axis=-1)
    if len(readings) > 1 and open_.any():
        some = (value[:, open_], variance[:, open_], slope[:, open_])
        ahead[open_] = _ahead(read, *_given_others(read, *some, ahead[open_] > 0))
    second = ahead > 0
    picked = tuple(np.where(second, array[1], array[0]) for array in (value, variance, wander))
    return (*picked, np.where(second[..., None], slope[1], slope[0])), ahead


def _ahead(read: NDArray[np.float64], mean: NDArray[np.float64], variance: NDArray[np.float64]) -> NDArray[np.float64]:
    """By how much the second way is the likelier, in nats; the arrays begin with the two ways."""
    fit = -0.5 * ((read - mean) ** 2 / variance + np.log(variance))
    return np.asarray(fit[1] - fit[0], dtype=np.float64)


def _given_others(
    read: NDArray[np.float64],
    value: NDArray[np.float64],
    variance: NDArray[np.float64],
    slope: NDArray[np.float64],
    second: NDArray[np.bool_],
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Mean and variance of each reading either way, given all the others as chosen, (2, pairs, readings)."""
    predicted, noise = (np.where(second, array[1], array[0]) for array in (value, variance))
    held = np.where(second[..., None], slope[1], slope[0])
    covariance = held @ np.swapaxes(held, -1, -2)
    covariance[..., range(len(read)), range(len(read))] += noise
    precision = np.linalg.inv(covariance)
    pulled = (precision @ (read - predicted)[..., None])[..., 0]
    own = np.einsum("pii->pi", precision)
    gain = precision @ held  # (pairs, readings, dimensions)
    shift = np.einsum("pid,pi->pd", held, pulled)
    without = shift[..., None, :] - gain * (pulled / own)[..., None]
    mean = value + (slope * without).sum(axis=-1)
    # What each way's slope shares with the unknowns that the other readings have settled.
    across = slope @ np.swapaxes(held, -1, -2)
    settled = (across @ precision * across).sum(axis=-1) - (slope * gain).sum(axis=-1) ** 2 / own
    return mean, variance + np.maximum((slope**2).sum(axis=-1) - settled, 0)


def _own_variance(compiled: CompiledCircuit, prediction: Prediction, reading: Reading) -> NDArray[np.float64]:
    """Variance of a reading by itself, apart from the unknowns it shares with others [V² or A²]."""
    step = typed_step(reading.value, reading.unit)
    own = noise_variance(prediction.value, prediction.wander, reading.unit, step)
    return np.asarray(own + stir_variance(prediction.slope, compiled.nuisance.house_stir))


def log_density(compiled: CompiledCircuit, prediction: Prediction, reading: Reading) -> NDArray[np.float64]:
    """Logarithm of a reading's density under every row and sample, no other reading known, (rows, samples)."""
    variance = _own_variance(compiled, prediction, reading) + (prediction.slope**2).sum(axis=-1)
    return np.asarray(-0.5 * ((scaled(reading) - prediction.value) ** 2 / variance + np.log(2 * np.pi * variance)))

"""Which of two states each reading was taken in, where what comes and goes or chatters may be in either."""

from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from zesty_copper.core.diagnosis.infer.sweep import invert
from zesty_copper.core.diagnosis.infer.two_state import DECIDED_NATS, chatter_log_weight, flicker_log_weight

__all__ = ["Layer", "Layers", "Picked", "pick"]


class Layer(NamedTuple):
    """What each reading should be in some rows, sample by sample.

    Attributes
    ----------
    value, variance, wander
        (rows, samples, readings): prediction, variance of the reading by itself, and what of it ghosts make.
    slope
        (rows, samples, readings, unknowns): change with one deviation of each unknown.
    """

    value: NDArray[np.float64]
    variance: NDArray[np.float64]
    wander: NDArray[np.float64]
    slope: NDArray[np.float64]


class Layers(NamedTuple):
    """What each reading should be in every row, and in the second state of those rows that may be read in two.

    Attributes
    ----------
    read
        (readings,): what was read, on the scale of its unit.
    first
        Every row.
    second_row
        (rows,): where a row is found in `second`; −1 where it has but one state.
    """

    read: NDArray[np.float64]
    first: Layer
    second_row: NDArray[np.int64]
    second: Layer


class Picked(NamedTuple):
    """What each reading should be in chosen pairs of fault and sample, in the likelier state where there are two.

    Attributes
    ----------
    value, variance, wander
        (pairs, readings), see `Layer`.
    slope
        (pairs, readings, unknowns).
    log_mode_weight
        (pairs,): logarithm of how often what is one of two states goes through the readings as it was read.
    """

    value: NDArray[np.float64]
    variance: NDArray[np.float64]
    wander: NDArray[np.float64]
    slope: NDArray[np.float64]
    log_mode_weight: NDArray[np.float64]


@njit(cache=True, nogil=True, error_model="numpy")
def _fit_nats(read: float, mean: float, variance: float) -> float:
    return float(-0.5 * ((read - mean) ** 2 / variance + np.log(variance)))


@njit(cache=True, nogil=True, error_model="numpy")
def pick(layers: Layers, row: NDArray[np.int64], other: NDArray[np.int64], sample: NDArray[np.int64]) -> Picked:
    """Lay out the readings of chosen pairs, each in the likelier of the two states it may have been read in.

    The other state counts as far as the readings leave it open.

    Parameters
    ----------
    row, sample
        (pairs,): where each fault reads.
    other
        (pairs,): for what comes and goes the row that it reads while it is good; else −1.
    """
    pairs, count, size = len(row), len(layers.read), layers.first.slope.shape[3]
    value = np.empty((pairs, count))
    variance = np.empty((pairs, count))
    wander = np.empty((pairs, count))
    slope = np.empty((pairs, count, size))
    log_mode_weight = np.zeros(pairs)
    two = _TwoStates(np.zeros((2, count)), np.zeros((2, count)), np.zeros((2, count, size)))
    least = min(count, size)
    scratch = _Scratch(
        np.zeros(count),
        np.zeros((count, size)),
        np.zeros(count),
        np.zeros(count),
        np.zeros((least, least)),
        np.zeros(least),
        np.zeros(count),
    )
    for p in range(pairs):
        r, m = row[p], sample[p]
        for i in range(count):
            value[p, i] = layers.first.value[r, m, i]
            variance[p, i] = layers.first.variance[r, m, i]
            wander[p, i] = layers.first.wander[r, m, i]
            for k in range(size):
                slope[p, i, k] = layers.first.slope[r, m, i, k]
        flickers = other[p] >= 0
        o = other[p] if flickers else layers.second_row[r]
        if o < 0:
            continue
        then = layers.first if flickers else layers.second
        two.value[0], two.variance[0], two.slope[0] = value[p], variance[p], slope[p]
        two.value[1], two.variance[1], two.slope[1] = then.value[o, m], then.variance[o, m], then.slope[o, m]
        _choose(layers.read, two, scratch)
        ahead = scratch.ahead
        log_mode_weight[p] = flicker_log_weight(ahead) if flickers else chatter_log_weight(ahead)
        for i in range(count):
            if ahead[i] > 0:
                value[p, i], variance[p, i] = two.value[1, i], two.variance[1, i]
                wander[p, i], slope[p, i] = then.wander[o, m, i], two.slope[1, i]
    return Picked(value, variance, wander, slope, log_mode_weight)


class _TwoStates(NamedTuple):
    """Both states of one pair: (2, readings[, unknowns])."""

    value: NDArray[np.float64]
    variance: NDArray[np.float64]
    slope: NDArray[np.float64]


class _Scratch(NamedTuple):
    """Arrays that every pair uses anew; `ahead` is what is found: by how much the second state is likelier [nat]."""

    ahead: NDArray[np.float64]
    held: NDArray[np.float64]
    own: NDArray[np.float64]
    residual: NDArray[np.float64]
    covariance: NDArray[np.float64]
    mean: NDArray[np.float64]
    across: NDArray[np.float64]


@njit(cache=True, nogil=True, error_model="numpy")
def _choose(read: NDArray[np.float64], two: _TwoStates, scratch: _Scratch) -> None:
    """Find by how much the second of two states is the likelier at each reading.

    Only where the two differ, and the reading alone does not decide, have the others a say.
    """
    _, count, size = two.slope.shape
    ahead = scratch.ahead
    undecided = False
    for i in range(count):
        ahead[i] = 0
        for state in range(2):
            wide = two.variance[state, i]
            for k in range(size):
                wide += two.slope[state, i, k] ** 2
            fit = _fit_nats(read[i], two.value[state, i], wide)
            ahead[i] += fit if state else -fit
        differ = abs(two.value[1, i] - two.value[0, i]) > np.sqrt(min(two.variance[0, i], two.variance[1, i]))
        undecided = undecided or (differ and abs(ahead[i]) < DECIDED_NATS)
    if count > 1 and undecided:
        _in_light_of_others(read, two, scratch)


@njit(cache=True, nogil=True, error_model="numpy")
def _in_light_of_others(read: NDArray[np.float64], two: _TwoStates, scratch: _Scratch) -> None:
    """Find the same again, each reading judged by what the others, as chosen, say of the shared unknowns.

    Without a reading, the unknowns are as all leave them and a step back along its own gain.
    """
    _, count, size = two.slope.shape
    ahead, held, own, residual = scratch.ahead, scratch.held, scratch.own, scratch.residual
    few = count <= size
    for i in range(count):
        state = 1 if ahead[i] > 0 else 0
        own[i] = two.variance[state, i]
        residual[i] = read[i] - two.value[state, i]
        for k in range(size):
            held[i, k] = two.slope[state, i, k]
    if few:
        _settle_readings(scratch)
    else:
        _settle_unknowns(scratch)
    for i in range(count):
        ahead[i] = 0
        for state in range(2):
            moved, spread = (
                _from_readings(two.slope[state, i], i, scratch)
                if few
                else _from_unknowns(two.slope[state, i], i, scratch)
            )
            fit = _fit_nats(read[i], two.value[state, i] + moved, two.variance[state, i] + max(spread, 0.0))
            ahead[i] += fit if state else -fit


@njit(cache=True, nogil=True, error_model="numpy")
def _settle_readings(scratch: _Scratch) -> None:
    """Put the inverse covariance of the readings, and what it makes of their residuals, into the scratch arrays."""
    held, inverse, pulled = scratch.held, scratch.covariance, scratch.mean
    count, size = held.shape
    for i in range(count):
        for j in range(i + 1):
            total = scratch.own[i] if i == j else 0.0
            for k in range(size):
                total += held[i, k] * held[j, k]
            inverse[i, j] = total
            inverse[j, i] = total
    invert(inverse, count)
    for i in range(count):
        pulled[i] = 0
        for j in range(count):
            pulled[i] += inverse[i, j] * scratch.residual[j]


@njit(cache=True, nogil=True, error_model="numpy")
def _from_readings(slope: NDArray[np.float64], i: int, scratch: _Scratch) -> tuple[float, float]:
    """Mean and variance of slope·unknowns without reading i, in the space of the readings."""
    held, inverse, pulled, across = scratch.held, scratch.covariance, scratch.mean, scratch.across
    count, size = held.shape
    moved, along, spread = 0.0, 0.0, 0.0
    for k in range(size):
        spread += slope[k] ** 2
    for j in range(count):
        across[j] = 0
        for k in range(size):
            across[j] += slope[k] * held[j, k]
        moved += across[j] * pulled[j]
        along += across[j] * inverse[i, j]
    for j in range(count):
        for h in range(count):
            spread -= across[j] * inverse[j, h] * across[h]
    return moved - along * pulled[i] / inverse[i, i], spread + along**2 / inverse[i, i]


@njit(cache=True, nogil=True, error_model="numpy")
def _settle_unknowns(scratch: _Scratch) -> None:
    """Put covariance and mean of the unknowns, as all readings leave them, into the scratch arrays."""
    held, own, covariance, mean = scratch.held, scratch.own, scratch.covariance, scratch.mean
    count, size = held.shape
    covariance[:] = 0
    mean[:] = 0
    for k in range(size):
        covariance[k, k] = 1
    for i in range(count):
        for k in range(size):
            share = held[i, k] / own[i]
            if share != 0.0:
                for j in range(size):
                    covariance[k, j] += share * held[i, j]
    invert(covariance, size)
    for i in range(count):
        for k in range(size):
            share = held[i, k] * scratch.residual[i] / own[i]
            if share != 0.0:
                for j in range(size):
                    mean[j] += covariance[j, k] * share


@njit(cache=True, nogil=True, error_model="numpy")
def _from_unknowns(slope: NDArray[np.float64], i: int, scratch: _Scratch) -> tuple[float, float]:
    """Mean and variance of slope·unknowns without reading i, in the space of the unknowns."""
    held, covariance, mean = scratch.held, scratch.covariance, scratch.mean
    size = held.shape[1]
    stretch, left = scratch.own[i], scratch.residual[i]
    moved, along, spread = 0.0, 0.0, 0.0
    for k in range(size):
        left -= held[i, k] * mean[k]
        moved += slope[k] * mean[k]
        for j in range(size):
            stretch -= held[i, k] * covariance[k, j] * held[i, j]
            spread += slope[k] * covariance[k, j] * slope[j]
            along += slope[k] * covariance[k, j] * held[i, j]
    return moved - along * left / stretch, spread + along**2 / stretch

"""How well all readings together fit each fault and nuisance sample, and what they leave of the shared unknowns.

Within a sample the readings are jointly Gaussian: each has its own noise, and all move with the unknowns that they
share. The covariance is therefore diagonal but for a few columns, and everything is found in the space of the unknowns
(the matrix inversion lemma: Woodbury, Princeton Statistical Research Group Memo 42 (1950), from memory), so that work
grows with the number of readings and not with its cube. What ghosts share is two columns more for each place: one for
the two conductors, which several places may share, and one for the place itself, which no other has.
"""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from zesty_copper.core.circuit.measurement import Between, Place, Reading
from zesty_copper.core.diagnosis.infer.two_state import DECIDED_NATS, chatter_log_weight, flicker_log_weight

__all__ = ["Fit", "Ghosts", "Layer", "Layers", "ghosts_of", "joint_fit", "unknowns_at"]

STAYS_SHARE = 0.9
ALONG_SHARE = 0.8
"""How much of what a ghost strays by is the same when it is read again, and when it is read elsewhere between the same
two conductors; common practice, no source."""


class Ghosts(NamedTuple):
    """Which readings share what their ghosts stray by.

    Attributes
    ----------
    along, again
        (readings,): number of the pair of conductors, and of the place, −1 where no other reading shares it.
    again_share
        (readings,): how much the place shares besides what the pair of conductors does.
    pairs, places
        How many there are of each.
    """

    along: NDArray[np.int64]
    again: NDArray[np.int64]
    again_share: NDArray[np.float64]
    pairs: int
    places: int


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


class Fit(NamedTuple):
    """How the readings fit; every array begins with (faults, samples).

    Attributes
    ----------
    log_all
        Logarithm of the density of all readings.
    log_mode_weight
        Logarithm of how often what is one of two states goes through the readings as it was read.
    expected, variance
        (…, readings): what each reading should have been, given all the others, and its variance about that.
    log_conditional
        (…, readings): logarithm of the density of each reading, given all the others.
    second
        (…, readings): whether it was read in the second state.
    """

    log_all: NDArray[np.float64]
    log_mode_weight: NDArray[np.float64]
    expected: NDArray[np.float64]
    variance: NDArray[np.float64]
    log_conditional: NDArray[np.float64]
    second: NDArray[np.bool_]


def ghosts_of(readings: Sequence[Reading]) -> Ghosts:
    """Find which readings share what their ghosts stray by: repeating a ghost adds no certainty, in whatever state."""
    places = [reading.measurement.place for reading in readings]
    lanes = [
        frozenset(point.partition("@")[0] for point in (place.a, place.b))
        if isinstance(place, Between)
        else frozenset()
        for place in places
    ]
    along = _numbered([lane if len(lane) > 1 else None for lane in lanes])
    again = _numbered(places)
    beyond = np.where([len(lane) > 1 for lane in lanes], STAYS_SHARE - ALONG_SHARE, STAYS_SHARE)
    return Ghosts(along, again, beyond, int(along.max(initial=-1)) + 1, int(again.max(initial=-1)) + 1)


def _two_conductors(place: Place) -> frozenset[str] | None:
    """Return the two conductors that are probed; none where it is one, or no probes are used."""
    if not isinstance(place, Between):
        return None
    lanes = frozenset(point.partition("@")[0] for point in (place.a, place.b))
    return lanes if len(lanes) > 1 else None


def _numbered(keys: Sequence[object]) -> NDArray[np.int64]:
    """Number the keys that occur more than once, −1 for the others and for none."""
    often = [key for key in dict.fromkeys(keys) if key is not None and keys.count(key) > 1]
    return np.array([often.index(key) if key in often else -1 for key in keys], dtype=np.int64)


@njit(cache=True, nogil=True, error_model="numpy")
def _invert(matrix: NDArray[np.float64], size: int) -> float:
    """Invert a symmetric positive matrix in place by sweeping, and return the logarithm of its determinant.

    Sweep operator (Goodnight, The American Statistician 33 (1979) 149-158, from memory); no pivoting is needed.
    """
    log_determinant = 0.0
    for k in range(size):
        pivot = matrix[k, k]
        log_determinant += np.log(pivot)
        matrix[k, k] = 1.0
        for j in range(size):
            matrix[k, j] /= pivot
        for i in range(size):
            if i != k:
                share = matrix[i, k]
                if share != 0.0:
                    matrix[i, k] = 0.0
                    for j in range(size):
                        matrix[i, j] -= share * matrix[k, j]
    return log_determinant


@njit(cache=True, nogil=True, error_model="numpy")
def _settle(
    slope: NDArray[np.float64],
    variance: NDArray[np.float64],
    residual: NDArray[np.float64],
    covariance: NDArray[np.float64],
    mean: NDArray[np.float64],
) -> None:
    """Find mean and covariance of the unknowns, independent readings given: slope (readings, unknowns)."""
    count, size = slope.shape
    covariance[:] = 0
    mean[:] = 0
    pulled = np.zeros(size)
    for k in range(size):
        covariance[k, k] = 1
    for i in range(count):
        for k in range(size):
            share = slope[i, k] / variance[i]
            if share != 0.0:
                pulled[k] += share * residual[i]
                for j in range(size):
                    covariance[k, j] += share * slope[i, j]
    _invert(covariance, size)
    for k in range(size):
        for j in range(size):
            mean[k] += covariance[k, j] * pulled[j]


@njit(cache=True, nogil=True, error_model="numpy")
def _fit_nats(read: float, mean: float, variance: float) -> float:
    return float(-0.5 * ((read - mean) ** 2 / variance + np.log(variance)))


@njit(cache=True, nogil=True, error_model="numpy")
def _choose(  # type: ignore[no-untyped-def]
    read: NDArray[np.float64],
    value: NDArray[np.float64],
    variance: NDArray[np.float64],
    slope: NDArray[np.float64],
    ahead: NDArray[np.float64],
):
    """Find by how much the second of two states is the likelier at each reading, in nats: (2, readings[, unknowns]).

    Only where the two differ, and the reading alone does not decide, have the others a say.
    """
    _, count, size = slope.shape
    open_ = False
    for i in range(count):
        alone = np.zeros(2)
        for way in range(2):
            wide = variance[way, i]
            for k in range(size):
                wide += slope[way, i, k] ** 2
            alone[way] = _fit_nats(read[i], value[way, i], wide)
        ahead[i] = alone[1] - alone[0]
        differ = abs(value[1, i] - value[0, i]) > np.sqrt(min(variance[0, i], variance[1, i]))
        open_ = open_ or (differ and abs(ahead[i]) < DECIDED_NATS)
    if count < 2 or not open_:
        return
    held = np.zeros((count, size))
    own = np.zeros(count)
    residual = np.zeros(count)
    for i in range(count):
        way = 1 if ahead[i] > 0 else 0
        held[i] = slope[way, i]
        own[i] = variance[way, i]
        residual[i] = read[i] - value[way, i]
    covariance = np.zeros((size, size))
    mean = np.zeros(size)
    _settle(held, own, residual, covariance, mean)
    gain = np.zeros(size)
    for i in range(count):
        # What the others say of the unknowns: this reading is taken out again.
        stretch = own[i]
        left = residual[i]
        for k in range(size):
            gain[k] = 0
            for j in range(size):
                gain[k] += covariance[k, j] * held[i, j]
        for k in range(size):
            stretch -= held[i, k] * gain[k]
            left -= held[i, k] * mean[k]
        alone = np.zeros(2)
        for way in range(2):
            moved = 0.0
            along = 0.0
            spread = 0.0
            for k in range(size):
                moved += slope[way, i, k] * mean[k]
                along += slope[way, i, k] * gain[k]
                for j in range(size):
                    spread += slope[way, i, k] * covariance[k, j] * slope[way, i, j]
            moved -= along * left / stretch
            spread += along**2 / stretch
            alone[way] = _fit_nats(read[i], value[way, i] + moved, variance[way, i] + max(spread, 0.0))
        ahead[i] = alone[1] - alone[0]


@njit(cache=True, nogil=True, error_model="numpy")
def _gather(  # type: ignore[no-untyped-def]
    layers: Layers,
    row: int,
    other: int,
    flickers: bool,
    m: int,
    value: NDArray[np.float64],
    variance: NDArray[np.float64],
    wander: NDArray[np.float64],
    slope: NDArray[np.float64],
):
    """Put both states of one row and sample side by side, (2, readings[, unknowns])."""
    one = layers.first
    value[0], variance[0] = one.value[row, m], one.variance[row, m]
    wander[0], slope[0] = one.wander[row, m], one.slope[row, m]
    if other >= 0:
        two = layers.first if flickers else layers.second
        value[1], variance[1] = two.value[other, m], two.variance[other, m]
        wander[1], slope[1] = two.wander[other, m], two.slope[other, m]


@njit(cache=True, nogil=True, error_model="numpy")
def joint_fit(layers: Layers, ghosts: Ghosts, row: NDArray[np.int64], flickers: NDArray[np.bool_], healthy: int) -> Fit:
    """Fit all readings to every fault and sample.

    Parameters
    ----------
    row, flickers
        (faults,): where each fault reads, and whether it comes and goes.
    healthy
        The row that what comes and goes reads while it is good.
    """
    faults, samples, count = len(row), layers.first.value.shape[1], len(layers.read)
    size = layers.first.slope.shape[3]
    log_all = np.zeros((faults, samples))
    log_mode_weight = np.zeros((faults, samples))
    expected = np.zeros((faults, samples, count))
    expected_variance = np.zeros((faults, samples, count))
    log_conditional = np.zeros((faults, samples, count))
    second = np.zeros((faults, samples, count), dtype=np.bool_)
    value = np.zeros((2, count))
    variance = np.zeros((2, count))
    wander = np.zeros((2, count))
    slope = np.zeros((2, count, size))
    ahead = np.zeros(count)
    work = _Work(
        np.zeros((size + ghosts.pairs, size + ghosts.pairs)),
        np.zeros(size + ghosts.pairs),
        np.zeros((count, size + ghosts.pairs)),
        np.zeros(count),
        np.zeros(count),
        np.zeros(count),
        np.zeros((ghosts.places, size + ghosts.pairs)),
        np.zeros(ghosts.places),
        np.zeros(ghosts.places),
        np.zeros(count),
        np.zeros(count),
    )
    for f in range(faults):
        other = healthy if flickers[f] else layers.second_row[row[f]]
        for m in range(samples):
            _gather(layers, row[f], other, flickers[f], m, value, variance, wander, slope)
            if other >= 0:
                _choose(layers.read, value, variance, slope, ahead)
                for i in range(count):
                    second[f, m, i] = ahead[i] > 0
                log_mode_weight[f, m] = flicker_log_weight(ahead) if flickers[f] else chatter_log_weight(ahead)
            log_determinant = _joint(layers.read, value, variance, wander, slope, second[f, m], ghosts, -1, work)
            quadratic = 0.0
            for i in range(count):
                pulled, own = work.pulled[i], work.own[i]
                quadratic += work.residual[i] * pulled
                expected[f, m, i] = layers.read[i] - pulled / own
                expected_variance[f, m, i] = 1 / own
                log_conditional[f, m, i] = -0.5 * (pulled**2 / own - np.log(own) + np.log(2 * np.pi))
            log_all[f, m] = -0.5 * (quadratic + log_determinant + count * np.log(2 * np.pi))
    return Fit(log_all, log_mode_weight, expected, expected_variance, log_conditional, second)


class _Work(NamedTuple):
    """Arrays that every pair of fault and sample uses anew."""

    covariance: NDArray[np.float64]
    mean: NDArray[np.float64]
    slope: NDArray[np.float64]
    residual: NDArray[np.float64]
    diagonal: NDArray[np.float64]
    place_weight: NDArray[np.float64]
    place_slope: NDArray[np.float64]
    place_residual: NDArray[np.float64]
    place_sum: NDArray[np.float64]
    pulled: NDArray[np.float64]
    own: NDArray[np.float64]


@njit(cache=True, nogil=True, error_model="numpy")
def _joint(  # type: ignore[no-untyped-def]
    read: NDArray[np.float64],
    value: NDArray[np.float64],
    variance: NDArray[np.float64],
    wander: NDArray[np.float64],
    slope: NDArray[np.float64],
    second: NDArray[np.bool_],
    ghosts: Ghosts,
    left_out: int,
    work: _Work,
):
    """Find what all readings but one that may be left out say together; returns ln of the covariance's determinant.

    With N the noise, S the slopes and C the covariance of the unknowns, the inverse covariance of the readings is
    N⁻¹ − N⁻¹·S·C·Sᵀ·N⁻¹. N is diagonal but for the places read again, each of which adds one column (Sherman-Morrison).
    """
    count, known = slope.shape[1], slope.shape[2]
    size = known + ghosts.pairs
    covariance, mean = work.covariance, work.mean
    covariance[:] = 0
    work.place_slope[:] = 0
    work.place_residual[:] = 0
    work.place_sum[:] = 0
    log_determinant = 0.0
    for k in range(size):
        covariance[k, k] = 1
    for i in range(count):
        if i == left_out:
            continue
        way = 1 if second[i] else 0
        strays = wander[way, i] ** 2
        own = variance[way, i]
        work.residual[i] = read[i] - value[way, i]
        for k in range(known):
            work.slope[i, k] = slope[way, i, k]
        for k in range(known, size):
            work.slope[i, k] = 0
        if ghosts.along[i] >= 0:
            own -= ALONG_SHARE * strays
            work.slope[i, known + ghosts.along[i]] = np.sqrt(ALONG_SHARE) * wander[way, i]
        if ghosts.again[i] >= 0:
            own -= ghosts.again_share[i] * strays
            work.place_sum[ghosts.again[i]] += ghosts.again_share[i] * strays / own
        work.diagonal[i] = own
        work.place_weight[i] = np.sqrt(ghosts.again_share[i]) * wander[way, i] / own
        log_determinant += np.log(own)
    for g in range(ghosts.places):
        log_determinant += np.log1p(work.place_sum[g])
    for i in range(count):
        if i == left_out:
            continue
        if ghosts.again[i] >= 0:
            g = ghosts.again[i]
            work.place_weight[i] /= np.sqrt(1 + work.place_sum[g])
            work.place_residual[g] += work.place_weight[i] * work.residual[i]
            for k in range(size):
                work.place_slope[g, k] += work.place_weight[i] * work.slope[i, k]
        else:
            work.place_weight[i] = 0
        for k in range(size):
            share = work.slope[i, k] / work.diagonal[i]
            if share != 0.0:
                for j in range(size):
                    covariance[k, j] += share * work.slope[i, j]
    for g in range(ghosts.places):
        for k in range(size):
            share = work.place_slope[g, k]
            if share != 0.0:
                for j in range(size):
                    covariance[k, j] -= share * work.place_slope[g, j]
    log_determinant += _invert(covariance, size)
    mean[:] = 0
    for k in range(size):
        total = 0.0
        for i in range(count):
            if i != left_out:
                total += work.slope[i, k] * work.residual[i] / work.diagonal[i]
        for g in range(ghosts.places):
            total -= work.place_slope[g, k] * work.place_residual[g]
        for j in range(size):
            mean[j] += covariance[j, k] * total
    column = np.zeros(size)
    for i in range(count):
        if i == left_out:
            continue
        weight, own = work.place_weight[i], 1 / work.diagonal[i]
        own -= weight**2
        pulled = work.residual[i] / work.diagonal[i]
        g = ghosts.again[i]
        if g >= 0:
            pulled -= weight * work.place_residual[g]
        for k in range(size):
            column[k] = work.slope[i, k] / work.diagonal[i]
            if g >= 0:
                column[k] -= weight * work.place_slope[g, k]
            pulled -= column[k] * mean[k]
        for k in range(size):
            if column[k] != 0.0:
                total = 0.0
                for j in range(size):
                    total += covariance[k, j] * column[j]
                own -= column[k] * total
        work.pulled[i] = pulled
        work.own[i] = own
    return log_determinant


@njit(cache=True, nogil=True, error_model="numpy")
def unknowns_at(  # type: ignore[no-untyped-def]
    layers: Layers,
    ghosts: Ghosts,
    row: NDArray[np.int64],
    flickers: NDArray[np.bool_],
    healthy: int,
    sample: NDArray[np.int64],
    second: NDArray[np.bool_],
    left_out: NDArray[np.int64],
):
    """Mean and covariance of the unknowns for chosen pairs, (pairs, unknowns) and (pairs, unknowns, unknowns).

    Parameters
    ----------
    row, flickers, sample
        (pairs,): where each fault reads, whether it comes and goes, and the sample.
    second
        (pairs, readings): whether each was read in the second state.
    left_out
        (pairs,): the reading that says nothing; −1 where all do.
    """
    pairs, count, size = len(row), len(layers.read), layers.first.slope.shape[3]
    shift = np.zeros((pairs, size))
    covariance = np.zeros((pairs, size, size))
    value = np.zeros((2, count))
    variance = np.zeros((2, count))
    wander = np.zeros((2, count))
    slope = np.zeros((2, count, size))
    whole = size + ghosts.pairs
    work = _Work(
        np.zeros((whole, whole)),
        np.zeros(whole),
        np.zeros((count, whole)),
        np.zeros(count),
        np.zeros(count),
        np.zeros(count),
        np.zeros((ghosts.places, whole)),
        np.zeros(ghosts.places),
        np.zeros(ghosts.places),
        np.zeros(count),
        np.zeros(count),
    )
    for p in range(pairs):
        other = healthy if flickers[p] else layers.second_row[row[p]]
        _gather(layers, row[p], other, flickers[p], sample[p], value, variance, wander, slope)
        _joint(layers.read, value, variance, wander, slope, second[p], ghosts, left_out[p], work)
        shift[p] = work.mean[:size]
        covariance[p] = work.covariance[:size, :size]
    return shift, covariance

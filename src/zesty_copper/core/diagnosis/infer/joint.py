"""How well all readings together fit each fault and nuisance sample, and what they leave of the shared unknowns.

Within a sample the readings are jointly Gaussian: each has its own noise, and all move with the unknowns that they
share. The covariance is therefore diagonal but for a few columns. While there are fewer readings than unknowns it is
inverted as it is; with more, everything is found in the space of the unknowns (the matrix inversion lemma: Woodbury,
Princeton Statistical Research Group Memo 42 (1950), from memory), so that work grows with the number of readings and
not with its cube. What ghosts share is two columns more for each place: one for the two conductors, which several
places may share, and one for the place itself, which no other has.
"""

from collections import Counter
from collections.abc import Hashable, Sequence
from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from zesty_copper.core.diagnosis.infer.pick import Picked
from zesty_copper.core.diagnosis.infer.sweep import invert
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Reading

__all__ = ["Fit", "Ghosts", "ghosts_of", "joint_fit", "unknowns_of"]

STAYS_SHARE = 0.9
ALONG_SHARE = 0.8
"""How much of what a ghost strays by is the same when it is read again, and when it is read elsewhere between the same
two conductors; common practice, no source."""

NONE_LEFT_OUT = np.int64(-1)
"""A number of its own type: of a bare −1 the compiler would make another version of the same loops."""


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


class Fit(NamedTuple):
    """How all readings fit chosen pairs of fault and sample.

    Attributes
    ----------
    log_all
        (pairs,): logarithm of the density of all readings.
    expected, variance
        (pairs, readings): what each reading should have been, given all the others, and its variance about that.
    log_conditional
        (pairs, readings): logarithm of the density of each reading, given all the others.
    """

    log_all: NDArray[np.float64]
    expected: NDArray[np.float64]
    variance: NDArray[np.float64]
    log_conditional: NDArray[np.float64]


def ghosts_of(readings: Sequence[Reading]) -> Ghosts:
    """Find which readings share what their ghosts stray by: repeating a ghost adds no certainty, in whatever state."""
    places = [reading.measurement.place for reading in readings]
    lanes = [
        frozenset(point.lane for point in (place.a, place.b)) if isinstance(place, Between) else frozenset()
        for place in places
    ]
    along = _numbered([lane if len(lane) > 1 else None for lane in lanes])
    again = _numbered(places)
    beyond = np.where([len(lane) > 1 for lane in lanes], STAYS_SHARE - ALONG_SHARE, STAYS_SHARE)
    return Ghosts(along, again, beyond, int(along.max(initial=-1)) + 1, int(again.max(initial=-1)) + 1)


def _numbered(keys: Sequence[Hashable]) -> NDArray[np.int64]:
    """Number the keys that occur more than once, −1 for the others and for none."""
    times = Counter(keys)
    often = [key for key, count in times.items() if key is not None and count > 1]
    number = {key: i for i, key in enumerate(often)}
    return np.array([number.get(key, -1) for key in keys], dtype=np.int64)


@njit(cache=True, nogil=True, error_model="numpy")
def joint_fit(read: NDArray[np.float64], picked: Picked, ghosts: Ghosts) -> Fit:
    """Fit all readings to each pair, in the smaller of two spaces: that of the readings, or that of the unknowns."""
    pairs, count, size = picked.slope.shape
    log_all = np.zeros(pairs)
    expected = np.zeros((pairs, count))
    variance = np.zeros((pairs, count))
    log_conditional = np.zeros((pairs, count))
    few = count <= size
    by_readings = np.zeros((count, count)) if few else np.zeros((0, 0))
    pulled = np.zeros(count)
    own = np.zeros(count)
    work = _work(count, size, ghosts)
    for p in range(pairs):
        if few:
            _covariance(picked, ghosts, p, by_readings)
            log_determinant = invert(by_readings, count)
            for i in range(count):
                own[i] = by_readings[i, i]
                pulled[i] = 0
                for j in range(count):
                    pulled[i] += by_readings[i, j] * (read[j] - picked.value[p, j])
        else:
            log_determinant = _by_unknowns(read, picked, ghosts, p, NONE_LEFT_OUT, work)  # type: ignore[arg-type] # see there
            pulled[:] = work.pulled
            own[:] = work.own
        quadratic = 0.0
        for i in range(count):
            quadratic += (read[i] - picked.value[p, i]) * pulled[i]
            expected[p, i] = read[i] - pulled[i] / own[i]
            variance[p, i] = 1 / own[i]
            log_conditional[p, i] = -0.5 * (pulled[i] ** 2 / own[i] - np.log(own[i]) + np.log(2 * np.pi))
        log_all[p] = -0.5 * (quadratic + log_determinant + count * np.log(2 * np.pi))
    return Fit(log_all, expected, variance, log_conditional)


@njit(cache=True, nogil=True, error_model="numpy")
def _covariance(picked: Picked, ghosts: Ghosts, p: int, matrix: NDArray[np.float64]) -> None:
    """Covariance of all readings in one pair, (readings, readings)."""
    count, size = picked.slope.shape[1:]
    for i in range(count):
        for j in range(i + 1):
            total = 0.0
            if i == j:
                total = picked.variance[p, i]
            else:
                share = 0.0
                if ghosts.along[i] >= 0 and ghosts.along[i] == ghosts.along[j]:
                    share = ALONG_SHARE
                if ghosts.again[i] >= 0 and ghosts.again[i] == ghosts.again[j]:
                    share += ghosts.again_share[i]
                total = share * picked.wander[p, i] * picked.wander[p, j]
            for k in range(size):
                total += picked.slope[p, i, k] * picked.slope[p, j, k]
            matrix[i, j] = total
            matrix[j, i] = total


class _Work(NamedTuple):
    """Arrays that every pair uses anew, in the space of the unknowns and of what pairs of conductors share.

    Attributes
    ----------
    covariance, mean
        (unknowns, unknowns) and (unknowns,): what the readings leave.
    slope, diagonal, weight, pulled, own
        (readings[, unknowns]): slopes, own variance, share in the column of its place, N⁻¹-weighted residual and the
        diagonal of the inverse covariance.
    place_slope, place_residual, place_sum
        (places[, unknowns]): what the column of each place adds up to.
    """

    covariance: NDArray[np.float64]
    mean: NDArray[np.float64]
    slope: NDArray[np.float64]
    diagonal: NDArray[np.float64]
    weight: NDArray[np.float64]
    pulled: NDArray[np.float64]
    own: NDArray[np.float64]
    place_slope: NDArray[np.float64]
    place_residual: NDArray[np.float64]
    place_sum: NDArray[np.float64]


@njit(cache=True, nogil=True, error_model="numpy")
def _work(count: int, size: int, ghosts: Ghosts) -> _Work:
    whole, places = size + ghosts.pairs, ghosts.places
    return _Work(
        np.zeros((whole, whole)),
        np.zeros(whole),
        np.zeros((count, whole)),
        np.zeros(count),
        np.zeros(count),
        np.zeros(count),
        np.zeros(count),
        np.zeros((places, whole)),
        np.zeros(places),
        np.zeros(places),
    )


@njit(cache=True, nogil=True, error_model="numpy")
def _by_unknowns(
    read: NDArray[np.float64], picked: Picked, ghosts: Ghosts, p: int, left_out: int, work: _Work
) -> float:
    """Find what all readings but one that may be left out say together; returns ln of the covariance's determinant.

    With N the noise, S the slopes and C the covariance of the unknowns, the inverse covariance of the readings is
    N⁻¹ − N⁻¹·S·C·Sᵀ·N⁻¹. N is diagonal but for the places read again, each of which adds one column (Sherman-Morrison).
    """
    count, known = picked.slope.shape[1:]
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
        strays = picked.wander[p, i] ** 2
        own = picked.variance[p, i]
        for k in range(known):
            work.slope[i, k] = picked.slope[p, i, k]
        for k in range(known, size):
            work.slope[i, k] = 0
        if ghosts.along[i] >= 0:
            own -= ALONG_SHARE * strays
            work.slope[i, known + ghosts.along[i]] = np.sqrt(ALONG_SHARE) * picked.wander[p, i]
        if ghosts.again[i] >= 0:
            own -= ghosts.again_share[i] * strays
            work.place_sum[ghosts.again[i]] += ghosts.again_share[i] * strays / own
        work.diagonal[i] = own
        work.weight[i] = np.sqrt(ghosts.again_share[i]) * picked.wander[p, i] / own
        log_determinant += np.log(own)
    for g in range(ghosts.places):
        log_determinant += np.log1p(work.place_sum[g])
    for i in range(count):
        if i == left_out:
            continue
        g = ghosts.again[i]
        work.weight[i] = work.weight[i] / np.sqrt(1 + work.place_sum[g]) if g >= 0 else 0.0
        if g >= 0:
            work.place_residual[g] += work.weight[i] * (read[i] - picked.value[p, i])
        for k in range(size):
            step = work.slope[i, k]
            if step != 0.0:
                if g >= 0:
                    work.place_slope[g, k] += work.weight[i] * step
                for j in range(size):
                    covariance[k, j] += step / work.diagonal[i] * work.slope[i, j]
    for g in range(ghosts.places):
        for k in range(size):
            step = work.place_slope[g, k]
            if step != 0.0:
                for j in range(size):
                    covariance[k, j] -= step * work.place_slope[g, j]
    log_determinant += invert(covariance, size)
    mean[:] = 0
    for k in range(size):
        total = 0.0
        for i in range(count):
            if i != left_out:
                total += work.slope[i, k] * (read[i] - picked.value[p, i]) / work.diagonal[i]
        for g in range(ghosts.places):
            total -= work.place_slope[g, k] * work.place_residual[g]
        for j in range(size):
            mean[j] += covariance[j, k] * total
    column = np.zeros(size)
    for i in range(count):
        if i == left_out:
            continue
        g, weight = ghosts.again[i], work.weight[i]
        work.own[i] = 1 / work.diagonal[i] - weight**2
        work.pulled[i] = (read[i] - picked.value[p, i]) / work.diagonal[i]
        if g >= 0:
            work.pulled[i] -= weight * work.place_residual[g]
        for k in range(size):
            column[k] = work.slope[i, k] / work.diagonal[i]
            if g >= 0:
                column[k] -= weight * work.place_slope[g, k]
            work.pulled[i] -= column[k] * mean[k]
        for k in range(size):
            if column[k] != 0.0:
                total = 0.0
                for j in range(size):
                    total += covariance[k, j] * column[j]
                work.own[i] -= column[k] * total
    return log_determinant


@njit(cache=True, nogil=True, error_model="numpy")
def unknowns_of(  # type: ignore[no-untyped-def]
    read: NDArray[np.float64], picked: Picked, ghosts: Ghosts, left_out: NDArray[np.int64]
):
    """Mean and covariance of the unknowns in each pair, (pairs, unknowns) and (pairs, unknowns, unknowns).

    Parameters
    ----------
    left_out
        (pairs,): the reading that says nothing; −1 where all do.
    """
    pairs, count, size = picked.slope.shape
    shift = np.zeros((pairs, size))
    covariance = np.zeros((pairs, size, size))
    work = _work(count, size, ghosts)
    for p in range(pairs):
        _by_unknowns(read, picked, ghosts, p, left_out[p], work)
        shift[p] = work.mean[:size]
        covariance[p] = work.covariance[:size, :size]
    return shift, covariance

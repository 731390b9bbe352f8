"""From readings to the posterior over faults."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np
from numpy.typing import NDArray
from scipy.special import logsumexp

from zesty_copper.core.circuit.measurement import Between, Reading
from zesty_copper.core.diagnosis.infer.slips import ANY_NUMBER_SHARE, meant
from zesty_copper.core.diagnosis.infer.two_state import observation_terms
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit
from zesty_copper.core.diagnosis.predict.noise import (
    DEVIATION,
    OUTLIER_SHARE,
    UNLISTED_HOT,
    UNLISTED_WIDTH,
    range_density,
)
from zesty_copper.core.diagnosis.predict.nuisance import DIMENSIONS
from zesty_copper.core.diagnosis.predict.scales import scaled

__all__ = ["Posterior", "any_number_density", "weigh"]

STAYS_SHARE = 0.9
ALONG_SHARE = 0.8
"""How much of what a ghost strays by is the same when it is read again, and when it is read elsewhere between the same
two conductors; common practice, no source."""
MOST_SHARE = 1.2
BEYOND_SHARE = 0.05
"""More than a fifth above the highest voltage here is hardly what something not listed does: what does it is listed."""
LOG_TWO_PI = math.log(2 * math.pi)


@dataclass(frozen=True, eq=False)
class Posterior:
    """What the readings leave of every fault and sample.

    Attributes
    ----------
    weight
        (faults, samples): probability; with `unlisted` it sums to one.
    unlisted
        Probability of none of these.
    outlier
        (readings,): probability that the number is mistyped or was taken in another state than said.
    expected
        (faults, samples, readings): what each reading should have been, given all the others [V or A].
    expected_variance
        (faults, samples, readings): variance of the reading about it.
    log_conditional
        (faults, samples, readings): logarithm of the density of each reading, given all the others.
    log_without
        (faults, samples, readings): logarithm of the weight each would have without that reading, up to a constant.
    shift
        (faults, samples, dimensions): mean of the Gaussian unknowns, in standard deviations.
    doubted
        (faults, samples): the reading that is likelier mistyped than not, and left out of `shift`; −1 where none is.
    gain
        (faults, samples, dimensions, readings): by how much each reading moves them.
    slope
        (faults, samples, readings, dimensions): by how much they move each reading [V or A].
    """

    weight: NDArray[np.float64]
    unlisted: float
    outlier: NDArray[np.float64]
    expected: NDArray[np.float64]
    expected_variance: NDArray[np.float64]
    log_conditional: NDArray[np.float64]
    log_without: NDArray[np.float64]
    shift: NDArray[np.float64]
    doubted: NDArray[np.int64]
    gain: NDArray[np.float64]
    slope: NDArray[np.float64]

    def covariance_at(self, fault: NDArray[np.int64], sample: NDArray[np.int64]) -> NDArray[np.float64]:
        """Covariance of the Gaussian unknowns for chosen pairs of fault and sample, (pairs, dimensions, dimensions)."""
        gain = self.gain[fault, sample]
        covariance = np.eye(gain.shape[1]) - gain @ self.slope[fault, sample]
        doubted = self.doubted[fault, sample]
        pair = np.flatnonzero(doubted >= 0)
        if len(pair):
            away = gain[pair, :, doubted[pair]]
            variance = self.expected_variance[fault[pair], sample[pair], doubted[pair]]
            covariance[pair] += away[:, :, None] * away[:, None] * variance[:, None, None]
        return np.asarray(covariance)

    def without(self, i: int, value: float) -> "Posterior":
        """Return what the other readings leave, all but one of this value; none of these is left out."""
        log_weight = self.log_without[..., i]
        shift, doubted = self.shift.copy(), self.doubted.copy()
        at = np.nonzero(doubted < 0)
        shift[at] -= self.gain[..., i][at] * (value - self.expected[..., i][at])[:, None]
        doubted[at] = i
        weight = np.exp(log_weight - logsumexp(log_weight))
        return replace(self, weight=weight, unlisted=0.0, shift=shift, doubted=doubted)


def weigh(
    compiled: CompiledCircuit, readings: Sequence[Reading], log_inspection_ratio: NDArray[np.float64] | None = None
) -> Posterior:
    """Weigh every fault and sample by what was read, and by what was seen.

    Within a sample the readings are jointly Gaussian: their own noise, and the unknowns they share. One number in the
    set may be wrong; what the others say is then found from the inverse covariance, without leaving any out in turn.

    Parameters
    ----------
    log_inspection_ratio
        (faults,): how much what was seen speaks for each, against none of these [nat].
    """
    faults, samples = len(compiled.faults), len(compiled.nuisance.fault_quantile)
    log_before = compiled.log_prior if log_inspection_ratio is None else compiled.log_prior + log_inspection_ratio
    log_weight = np.broadcast_to((log_before - math.log(samples))[:, None], (faults, samples))
    log_unlisted = math.log(compiled.unlisted.prior)
    count, dims = len(readings), len(DIMENSIONS)
    if not count:
        total = np.logaddexp(logsumexp(log_weight), log_unlisted)
        log_weight, log_unlisted = log_weight - total, log_unlisted - total
        empty = np.zeros((faults, samples, 0))
        no_gain, no_slope = (np.zeros((faults, samples, *shape)) for shape in ((dims, 0), (0, dims)))
        no_shift = np.zeros((faults, samples, dims))
        return Posterior(
            weight=np.exp(log_weight),
            unlisted=math.exp(log_unlisted),
            outlier=np.zeros(0),
            expected=empty,
            expected_variance=empty,
            log_conditional=empty,
            log_without=empty,
            shift=no_shift,
            doubted=np.full((faults, samples), -1),
            gain=no_gain,
            slope=no_slope,
        )

    value = np.array([scaled(reading) for reading in readings])
    predicted, slope, noise, wander, log_mode_weight = observation_terms(compiled, readings)
    covariance = slope @ np.swapaxes(slope, -1, -2)
    covariance[..., range(count), range(count)] += noise
    for i, j in combinations(range(count), 2):
        # What a ghost strays by stays when it is read again, in whatever state: repeating it adds no certainty.
        if stays := _alike(readings[i], readings[j]):
            shared = stays * wander[..., i] * wander[..., j]
            covariance[..., i, j] += shared
            covariance[..., j, i] += shared
    precision = np.linalg.inv(covariance)
    residual = value - predicted
    pulled = (precision @ residual[..., None])[..., 0]
    own_precision = np.einsum("fmii->fmi", precision)
    log_determinant = np.linalg.slogdet(covariance)[1]
    log_all = -0.5 * ((residual * pulled).sum(-1) + log_determinant + count * LOG_TWO_PI)
    log_conditional = -0.5 * (pulled**2 / own_precision - np.log(own_precision) + LOG_TWO_PI)

    expected, expected_variance = value - pulled / own_precision, 1 / own_precision
    log_wrong = np.stack(
        [
            _log_mistyped(compiled, reading, expected[..., i], expected_variance[..., i])
            for i, reading in enumerate(readings)
        ],
        axis=-1,
    )
    log_right = math.log1p(-OUTLIER_SHARE)
    log_terms = np.concatenate(
        [
            (log_all + count * log_right)[..., None],
            log_all[..., None] - log_conditional + (count - 1) * log_right + math.log(OUTLIER_SHARE) + log_wrong,
        ],
        axis=-1,
    )
    log_likelihood = logsumexp(log_terms, axis=-1)
    log_joint = log_weight + log_likelihood + log_mode_weight
    log_unlisted += sum(_unlisted_density(compiled, reading) for reading in readings)
    log_total = np.logaddexp(logsumexp(log_joint), log_unlisted)
    weight = np.exp(log_joint - log_total)
    outlier = np.einsum("fm,fmi->i", weight, np.exp(log_terms[..., 1:] - log_likelihood[..., None]))
    gain = np.swapaxes(slope, -1, -2) @ precision
    shift = (gain @ residual[..., None])[..., 0]
    # Where a number is likelier mistyped than not, the unknowns are as the others leave them.
    doubted = log_terms.argmax(axis=-1) - 1
    at = np.nonzero(doubted >= 0)
    which = doubted[at]
    shift[at] -= gain[(*at, slice(None), which)] * (value[which] - expected[(*at, which)])[:, None]
    return Posterior(
        weight=weight,
        unlisted=math.exp(log_unlisted - log_total),
        outlier=outlier,
        expected=expected,
        expected_variance=expected_variance,
        log_conditional=log_conditional,
        log_without=(log_weight + log_mode_weight + log_all)[..., None] - log_conditional,
        shift=shift,
        doubted=doubted,
        gain=gain,
        slope=slope,
    )


def _alike(one: Reading, other: Reading) -> float:
    """How much of a ghost two readings share."""
    a, b = one.measurement.place, other.measurement.place
    if a == b:
        return STAYS_SHARE
    if not isinstance(a, Between) or not isinstance(b, Between):
        return 0.0
    pairs = [frozenset(point.partition("@")[0] for point in (place.a, place.b)) for place in (a, b)]
    return ALONG_SHARE if pairs[0] == pairs[1] and len(pairs[0]) > 1 else 0.0


def _log_mistyped(
    compiled: CompiledCircuit, reading: Reading, expected: NDArray[np.float64], variance: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Logarithm of a mistyped number's density, by what the others say should have been read, (faults, samples)."""
    density = np.full(expected.shape, ANY_NUMBER_SHARE * any_number_density(compiled, reading.unit))
    for number, weight in meant(reading.value, reading.unit):
        density = density + weight * np.exp(-0.5 * (number - expected) ** 2 / variance) / np.sqrt(2 * np.pi * variance)
    return np.asarray(np.log(density))


def any_number_density(compiled: CompiledCircuit, unit: str) -> float:
    """Density of a number that could be anything this circuit might show [1/V or 1/A]."""
    return range_density(unit, compiled.circuit.highest_volts, compiled.circuit.rated_amps)


def _unlisted_density(compiled: CompiledCircuit, reading: Reading) -> float:
    """Log density of a reading under none of these: anything, or gathered where a healthy circuit's readings lie."""
    anything = any_number_density(compiled, reading.unit)
    if reading.unit == "degF":
        # What is not on the list seldom heats just the one joint that was looked at.
        near_none = math.exp(-0.5 * (scaled(reading) / DEVIATION["degF"]) ** 2) * math.sqrt(2 / math.pi)
        return math.log(UNLISTED_HOT * anything + (1 - UNLISTED_HOT) * near_none / DEVIATION["degF"])
    if reading.unit != "V":
        return math.log(anything)
    if reading.value > MOST_SHARE * compiled.circuit.highest_volts:
        return math.log(BEYOND_SHARE * anything)
    width = UNLISTED_WIDTH * compiled.circuit.highest_volts
    centres = compiled.circuit.usual_volts
    gathered = [
        math.exp(-0.5 * ((reading.value - centre) / width) ** 2) / (width * math.sqrt(2 * math.pi))
        for centre in centres
    ]
    return math.log(0.5 * anything + 0.5 * sum(gathered) / len(centres))

"""From readings to the posterior over faults."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import NDArray
from scipy.special import logsumexp

from zesty_copper.core.circuit.measurement import Reading
from zesty_copper.core.diagnosis.noise import (
    OUTLIER_SHARE,
    UNLISTED_WIDTH,
    noise_variance,
    range_density,
    typed_step,
)
from zesty_copper.core.diagnosis.nuisance import DIMENSIONS
from zesty_copper.core.diagnosis.predict import predict
from zesty_copper.core.diagnosis.study import Study

__all__ = ["BAD_SHARE", "Posterior", "any_number_density", "weigh"]

BAD_SHARE = 0.7
"""How often a contact that comes and goes is found bad: more often than not, or nobody would have called."""
BAD_SHARES = np.array([0.5, 0.7, 0.9])
"""How often it may be, each as likely: no one contact is like another."""
STAYS_SHARE = 0.9
"""How much of what a ghost strays by is the same when it is read again; common practice, no source."""
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
    gain: NDArray[np.float64]
    slope: NDArray[np.float64]

    def covariance_at(self, fault: NDArray[np.int64], sample: NDArray[np.int64]) -> NDArray[np.float64]:
        """Covariance of the Gaussian unknowns for chosen pairs of fault and sample, (pairs, dimensions, dimensions)."""
        shared = self.gain[fault, sample] @ self.slope[fault, sample]
        return np.asarray(np.eye(shared.shape[-1]) - shared)


def weigh(study: Study, readings: Sequence[Reading]) -> Posterior:
    """Weigh every fault and sample by what was read.

    Within a sample the readings are jointly Gaussian: their own noise, and the unknowns they share. One number in the
    set may be wrong; what the others say is then found from the inverse covariance, without leaving any out in turn.
    """
    faults, samples = len(study.faults), len(study.nuisance.fault_quantile)
    log_weight = np.broadcast_to((study.log_prior - math.log(samples))[:, None], (faults, samples))
    log_unlisted = math.log(study.unlisted.prior)
    count, dims = len(readings), len(DIMENSIONS)
    if not count:
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
            gain=no_gain,
            slope=no_slope,
        )

    value = np.array([reading.value for reading in readings])
    predicted, slope, noise, wander, log_seen = _lay_out(study, readings)
    covariance = slope @ np.swapaxes(slope, -1, -2)
    covariance[..., range(count), range(count)] += noise
    for i, j in combinations(range(count), 2):
        # What a ghost strays by stays when it is read again, in whatever state: repeating it adds no certainty.
        if readings[i].measurement.place == readings[j].measurement.place:
            shared = STAYS_SHARE * wander[..., i] * wander[..., j]
            covariance[..., i, j] += shared
            covariance[..., j, i] += shared
    precision = np.linalg.inv(covariance)
    residual = value - predicted
    scaled = (precision @ residual[..., None])[..., 0]
    own_precision = np.einsum("fmii->fmi", precision)
    log_determinant = np.linalg.slogdet(covariance)[1]
    log_all = -0.5 * ((residual * scaled).sum(-1) + log_determinant + count * LOG_TWO_PI)
    log_conditional = -0.5 * (scaled**2 / own_precision - np.log(own_precision) + LOG_TWO_PI)

    density = np.array([any_number_density(study, reading.unit) for reading in readings])
    log_right = math.log1p(-OUTLIER_SHARE)
    log_terms = np.concatenate(
        [
            (log_all + count * log_right)[..., None],
            log_all[..., None] - log_conditional + (count - 1) * log_right + np.log(OUTLIER_SHARE * density),
        ],
        axis=-1,
    )
    log_likelihood = logsumexp(log_terms, axis=-1)
    log_joint = log_weight + log_likelihood + log_seen
    log_unlisted += sum(_unlisted_density(study, reading) for reading in readings)
    log_total = np.logaddexp(logsumexp(log_joint), log_unlisted)
    weight = np.exp(log_joint - log_total)
    outlier = np.einsum("fm,fmi->i", weight, np.exp(log_terms[..., 1:] - log_likelihood[..., None]))
    gain = np.swapaxes(slope, -1, -2) @ precision
    return Posterior(
        weight=weight,
        unlisted=math.exp(log_unlisted - log_total),
        outlier=outlier,
        expected=value - scaled / own_precision,
        expected_variance=1 / own_precision,
        log_conditional=log_conditional,
        log_without=(log_weight + log_seen + log_all)[..., None] - log_conditional,
        shift=(gain @ residual[..., None])[..., 0],
        gain=gain,
        slope=slope,
    )


def _lay_out(
    study: Study, readings: Sequence[Reading]
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """Predictions, slopes, noise and wander of all readings under every fault, and the logarithm of how often it is so.

    An intermittent fault was bad at each reading by itself, with one of `BAD_SHARES`. The likelier of good and bad is
    taken.
    """
    shape = (len(study.faults), len(study.nuisance.fault_quantile), len(readings))
    predicted, noise, wander = np.empty(shape), np.empty(shape), np.empty(shape)
    slope = np.empty((*shape, len(DIMENSIONS)))
    log_seen = np.zeros(shape[:2])
    flickering = study.intermittent
    log_shares = np.zeros((len(BAD_SHARES), int(flickering.sum()), shape[1]))
    for i, reading in enumerate(readings):
        prediction = predict(study, reading.measurement)
        variance = noise_variance(
            prediction.value, prediction.wander, reading.unit, typed_step(reading.value, reading.unit)
        )
        log_fit = -0.5 * (
            (reading.value - prediction.value) ** 2 / (total := variance + (prediction.slope**2).sum(-1))
            + np.log(total)
        )
        bad = study.row[flickering]
        good = np.full_like(bad, study.healthy)
        ahead = log_fit[good] - log_fit[bad]  # (intermittent faults, samples)
        # The likelier of the two counts with its share, and the other as far as the reading leaves it open.
        share = np.where(ahead > 0, 1 - BAD_SHARES[:, None, None], BAD_SHARES[:, None, None])
        log_shares += np.log(share + (1 - share) * np.exp(-np.abs(ahead)))
        sources = (prediction.value, variance, prediction.wander)
        for array, source in zip((predicted, noise, wander), sources, strict=True):
            array[..., i] = source[study.row]
            array[flickering, :, i] = np.where(ahead > 0, source[good], source[bad])
        slope[..., i, :] = prediction.slope[study.row]
        slope[flickering, :, i] = np.where(ahead[..., None] > 0, prediction.slope[good], prediction.slope[bad])
    log_seen[flickering] = logsumexp(log_shares, axis=0) - math.log(len(BAD_SHARES))
    return predicted, slope, noise, wander, log_seen


def any_number_density(study: Study, unit: str) -> float:
    """Density of a number that could be anything this circuit might show [1/V or 1/A]."""
    return range_density(unit, study.circuit.highest_volts, study.circuit.rated_amps)


def _unlisted_density(study: Study, reading: Reading) -> float:
    """Log density of a reading under none of these: anything, or gathered where a healthy supply's voltages lie."""
    anything = any_number_density(study, reading.unit)
    if reading.unit == "A":
        return math.log(anything)
    width = UNLISTED_WIDTH * study.circuit.highest_volts
    centres = study.circuit.usual_volts
    gathered = [
        math.exp(-0.5 * ((reading.value - centre) / width) ** 2) / (width * math.sqrt(2 * math.pi))
        for centre in centres
    ]
    return math.log(0.5 * anything + 0.5 * sum(gathered) / len(centres))

"""From readings to the posterior over faults."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.special import logsumexp

from zesty_copper.core.diagnosis.infer.joint import Fit, ghosts_of, joint_fit, unknowns_of
from zesty_copper.core.diagnosis.infer.observation import layers_of
from zesty_copper.core.diagnosis.infer.pick import Layers, Picked, pick
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit
from zesty_copper.core.diagnosis.predict.noise import OUTLIER_SHARE
from zesty_copper.core.diagnosis.predict.nuisance import DIMENSIONS
from zesty_copper.core.observations.measurement import Reading
from zesty_copper.core.observations.registry import observation_in
from zesty_copper.core.observations.slips import ANY_NUMBER_SHARE

__all__ = ["Posterior", "any_number_density", "weigh"]


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
    doubted
        (faults, samples): the reading that is likelier mistyped than not, and tells nothing of the unknowns; −1: none.
    """

    compiled: CompiledCircuit
    readings: tuple[Reading, ...]
    weight: NDArray[np.float64]
    unlisted: float
    outlier: NDArray[np.float64]
    expected: NDArray[np.float64]
    expected_variance: NDArray[np.float64]
    log_conditional: NDArray[np.float64]
    log_without: NDArray[np.float64]
    doubted: NDArray[np.int64]

    @property
    def nbytes(self) -> int:
        """What the arrays hold [byte]."""
        listed = (self.weight, self.expected, self.expected_variance, self.log_conditional, self.log_without)
        return sum(array.nbytes for array in (*listed, self.doubted))

    def unknowns_at(
        self, fault: NDArray[np.int64], sample: NDArray[np.int64]
    ) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Mean and covariance of the Gaussian unknowns for chosen pairs of fault and sample, in standard deviations.

        Where a number is likelier mistyped than not, the unknowns are as the others leave them.

        Returns
        -------
        shift
            (pairs, dimensions).
        covariance
            (pairs, dimensions, dimensions).
        """
        dims = len(DIMENSIONS)
        shift, covariance = np.zeros((len(fault), dims)), np.tile(np.eye(dims), (len(fault), 1, 1))
        if not self.readings:
            return shift, covariance
        layers, active = layers_of(self.compiled, self.readings)
        picked = _picked(self.compiled, layers, fault, sample)
        doubted = self.doubted[fault, sample]
        mean, spread = unknowns_of(layers.read, picked, ghosts_of(self.readings), doubted)
        shift[:, active] = mean
        covariance[:, active[:, None], active] = spread
        return shift, covariance

    def without(self, i: int) -> "Posterior":
        """Return what the other readings leave, all but one; none of these is left out."""
        log_weight = self.log_without[..., i]
        doubted = np.where(self.doubted < 0, i, self.doubted)
        weight = np.exp(log_weight - logsumexp(log_weight))
        return replace(self, weight=weight, unlisted=0.0, doubted=doubted)


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
    faults, samples, count = len(compiled.faults), compiled.samples, len(readings)
    log_before = compiled.log_prior if log_inspection_ratio is None else compiled.log_prior + log_inspection_ratio
    log_weight = np.broadcast_to((log_before - math.log(samples))[:, None], (faults, samples))
    log_unlisted = math.log(compiled.unlisted.prior) + sum(_unlisted_density(compiled, reading) for reading in readings)
    if count:
        layers, _ = layers_of(compiled, tuple(readings))
        fault, sample = (index.ravel() for index in np.indices((faults, samples)))
        picked = _picked(compiled, layers, fault, sample)
        flat_fit = joint_fit(layers.read, picked, ghosts_of(readings))
        fit = Fit(*(array.reshape(faults, samples, *array.shape[1:]) for array in flat_fit))
        log_mode_weight = picked.log_mode_weight.reshape(faults, samples)
    else:
        log_mode_weight, empty = np.zeros((faults, samples)), np.zeros((faults, samples, 0))
        fit = Fit(log_mode_weight, empty, empty, empty)
    log_terms = _log_terms(compiled, readings, fit)
    log_likelihood = np.logaddexp.reduce(log_terms, axis=-1)
    log_joint = log_weight + log_likelihood + log_mode_weight
    log_total = np.logaddexp(logsumexp(log_joint), log_unlisted)
    weight = np.exp(log_joint - log_total)
    return Posterior(
        compiled=compiled,
        readings=tuple(readings),
        weight=weight,
        unlisted=math.exp(log_unlisted - log_total),
        outlier=np.einsum("fm,fmi->i", weight, np.exp(log_terms[..., 1:] - log_likelihood[..., None])),
        expected=fit.expected,
        expected_variance=fit.variance,
        log_conditional=fit.log_conditional,
        log_without=(log_weight + log_mode_weight + fit.log_all)[..., None] - fit.log_conditional,
        doubted=log_terms.argmax(axis=-1) - 1,
    )


def _picked(compiled: CompiledCircuit, layers: Layers, fault: NDArray[np.int64], sample: NDArray[np.int64]) -> Picked:
    """Lay out the readings of chosen pairs of fault and sample."""
    other_row = np.where(compiled.intermittent[fault], compiled.healthy, -1)
    return pick(layers, compiled.row[fault], other_row, sample)


def _log_terms(compiled: CompiledCircuit, readings: Sequence[Reading], fit: Fit) -> NDArray[np.float64]:
    """Logarithm of the density of all readings right, and of each in turn mistyped, (faults, samples, 1 + readings)."""
    count, log_right = len(readings), math.log1p(-OUTLIER_SHARE)
    log_terms = np.empty((*fit.log_all.shape, 1 + count))
    log_terms[..., 0] = fit.log_all + count * log_right
    for i, reading in enumerate(readings):
        log_wrong = _log_mistyped(compiled, reading, fit.expected[..., i], fit.variance[..., i])
        log_terms[..., i + 1] = fit.log_all - fit.log_conditional[..., i] + log_wrong
    log_terms[..., 1:] += (count - 1) * log_right + math.log(OUTLIER_SHARE)
    return log_terms


def _log_mistyped(
    compiled: CompiledCircuit, reading: Reading, expected: NDArray[np.float64], variance: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Logarithm of a mistyped number's density, by what the others say should have been read, (faults, samples)."""
    density = np.full(expected.shape, ANY_NUMBER_SHARE * any_number_density(compiled, reading.unit))
    for number, weight in reading.measurement.observation.slips(reading.value):
        density = density + weight * np.exp(-0.5 * (number - expected) ** 2 / variance) / np.sqrt(2 * np.pi * variance)
    return np.asarray(np.log(density))


def any_number_density(compiled: CompiledCircuit, unit: str) -> float:
    """Density of a number that could be anything this circuit might show [1/V or 1/A]."""
    return observation_in(unit).range_density(compiled.circuit.highest_volts, compiled.circuit.rated_amps)


def _unlisted_density(compiled: CompiledCircuit, reading: Reading) -> float:
    """Logarithm of a reading's density under none of these."""
    kind = reading.measurement.observation
    return math.log(kind.unlisted_density(compiled.circuit, reading.value))

"""Expected information gain of reading some numbers together."""

from collections.abc import Sequence

import numpy as np
from numba import njit
from numpy.typing import NDArray

from zesty_copper.core.diagnosis.plan.particles import Particles
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit
from zesty_copper.core.diagnosis.predict.noise import PICK_UP_VOLTS
from zesty_copper.core.diagnosis.predict.nuisance import Dimension, stir_variance
from zesty_copper.core.diagnosis.predict.observe import predict_at
from zesty_copper.core.network.elements import GROUPS
from zesty_copper.core.observations.measurement import Measurement
from zesty_copper.core.observations.registry import LINEAR_UNITS, observation_in

__all__ = ["GHOST_VOLTS", "entropy_bits", "information_bits", "levelled", "noise_of", "readings_of"]

GHOST_VOLTS = 0.25
"""Wander from which a reading is taken to hang on stray coupling [V]."""
STRAYS = [Dimension.GROUPS.start + GROUPS.index(name) for name in ("between", "ground")]
"""The unknowns that a ghost tells of."""
LEARNT_VARIANCE = 0.8
"""Share of its prior variance below which a stray factor counts as learnt."""
FLOATING_SHARE = 0.02
"""Share of probability from which a measurement counts as one that may float."""
_POINTS, _WEIGHTS = np.polynomial.hermite_e.hermegauss(7)
NODES = (_POINTS, _WEIGHTS / _WEIGHTS.sum())
"""Where a Gaussian is read, in deviations, and how much each counts; (nodes,) each."""
FARTHEST_NATS = 30.0
"""What fits worse than the best by so much no longer counts."""


def information_bits(mean: NDArray[np.float64], deviation: NDArray[np.float64], particles: Particles) -> float:
    """Expected information of reading some numbers together about the place of the fault [bit].

    The expectation over what may be read is taken at nodes of each particle's own spread (Gauss-Hermite quadrature),
    neighbours among the readings on opposite sides. Fewer nodes would hold a worse meter for a better one now and then.

    Parameters
    ----------
    mean, deviation
        (particles, readings): what each particle predicts, and how far it may stray [V or A].
    """
    places, label = np.unique(particles.label, return_inverse=True)
    # In one order of memory: the compiler makes another version of the loops for each.
    mean, deviation = np.ascontiguousarray(mean), np.ascontiguousarray(deviation)
    after = _entropy_after(mean, deviation, particles.weight, label, len(places), *NODES)
    return max(float(entropy_bits(np.bincount(label, particles.weight))) - after, 0.0)


@njit(cache=True, nogil=True, error_model="numpy")
def _entropy_after(  # noqa: PLR0917 - compiled code takes its arrays one by one
    mean: NDArray[np.float64],
    deviation: NDArray[np.float64],
    weight: NDArray[np.float64],
    label: NDArray[np.int64],
    labels: int,
    nodes: NDArray[np.float64],
    shares: NDArray[np.float64],
) -> float:
    """Expected entropy of the labels once all numbers of a card are read [bit]; nodes and shares (nodes,)."""
    particles, readings = mean.shape
    scale = np.zeros(particles)
    for p in range(particles):
        for i in range(readings):
            scale[p] += np.log(deviation[p, i])
    distance = np.zeros(particles)
    likeness = np.zeros(labels)
    after = 0.0
    for node in range(len(nodes)):
        for p in range(particles):
            least = np.inf
            for q in range(particles):
                distance[q] = scale[q]
            for i in range(readings):
                side = 1 if i % 2 == 0 else -1
                read = mean[p, i] + nodes[node] * side * deviation[p, i]
                for q in range(particles):
                    distance[q] += 0.5 * ((read - mean[q, i]) / deviation[q, i]) ** 2
            for q in range(particles):
                least = min(least, distance[q])
            likeness[:] = 0
            total = 0.0
            for q in range(particles):
                if distance[q] < least + FARTHEST_NATS:
                    fits = weight[q] * np.exp(least - distance[q])
                    likeness[label[q]] += fits
                    total += fits
            entropy = 0.0
            for k in range(labels):
                if likeness[k] > 0:
                    entropy -= likeness[k] / total * np.log2(likeness[k] / total)
            after += shares[node] * weight[p] * entropy
    return after


def readings_of(
    compiled: CompiledCircuit, particles: Particles, measurements: Sequence[Measurement]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return mean and standard deviation of what each particle predicts after all that was read.

    Both are (particles, measurements) [V or A].
    """
    prediction = predict_at(compiled, measurements, particles.row, particles.sample, strays=False)
    slope = prediction.slope
    ghosts = np.flatnonzero(_floats(prediction.wander, particles))
    # What one ghost has told of the strays is told of the next; before any was read their slopes add nothing.
    learnt = np.einsum("pdd->pd", particles.covariance)[:, STRAYS].min(initial=1.0) < LEARNT_VARIANCE
    if len(ghosts) and learnt:
        floating = [measurements[c] for c in ghosts.tolist()]
        slope[:, ghosts] = predict_at(compiled, floating, particles.row, particles.sample).slope
    units = np.array([measurement.unit for measurement in measurements])
    mean = prediction.value + np.einsum("pcd,pd->pc", slope, particles.shift)
    mean = np.where(np.isin(units, LINEAR_UNITS), np.maximum(mean, 0), mean)
    noise = noise_of(units, prediction.value, levelled(prediction.wander, particles))
    stir = compiled.nuisance.house_stir[particles.sample][:, None]
    noise = noise + stir_variance(slope, stir)
    shared = np.einsum("pcd,pcd->pc", slope @ particles.covariance, slope)
    return mean, np.sqrt(noise + shared)


def noise_of(
    units: NDArray[np.str_], value: NDArray[np.floating], wander: NDArray[np.floating]
) -> NDArray[np.floating]:
    """Variance of measurements in their several units, (particles, measurements)."""
    noise = np.empty_like(value)
    for unit in np.unique(units).tolist():
        mine = units == unit
        noise[:, mine] = observation_in(unit).noise_variance(value[:, mine], wander[:, mine])
    return noise


def levelled(wander: NDArray[np.floating], particles: Particles) -> NDArray[np.floating]:
    """Let a measurement stray under every suspect alike where it floats under some, (particles, measurements) [V].

    That one suspect would leave it floating, and so unsteady near nothing, and another dead quiet, tells nothing.
    """
    return np.where(_floats(wander, particles), np.maximum(wander, PICK_UP_VOLTS), wander)


def _floats(wander: NDArray[np.floating], particles: Particles) -> NDArray[np.bool_]:
    """Return which measurements may float, (measurements,)."""
    return np.asarray(particles.weight @ (wander > GHOST_VOLTS) > FLOATING_SHARE)


def entropy_bits(probability: NDArray[np.floating | np.signedinteger]) -> NDArray[np.float64]:
    """Entropy over the last axis [bit]."""
    return np.asarray(-(probability * np.log2(np.where(probability > 0, probability, 1))).sum(axis=-1))

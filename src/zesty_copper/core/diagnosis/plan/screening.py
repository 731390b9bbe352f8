"""A first, rough ranking of every allowed measurement by the information it promises."""

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.diagnosis.plan.candidates import CandidateTable
from zesty_copper.core.diagnosis.plan.information import entropy_bits, noise_of
from zesty_copper.core.diagnosis.plan.particles import Particles
from zesty_copper.core.diagnosis.predict.phasors import PHASORS

__all__ = ["screen", "with_noise"]

SCREEN_LABELS = 10


SCREEN_BINS = 106


"""As many as reach from 0 to 290 V, and a few below nothing."""


SCREEN_BELOW = 2


def with_noise(
    table: CandidateTable, value: NDArray[np.floating], wander: NDArray[np.floating], particles: Particles
) -> tuple[NDArray[np.floating], NDArray[np.floating]]:
    """Return mean and deviation of rough values, heeding the readings so far only through level and gain."""
    moves = np.isin(table.units, PHASORS)
    mean = np.where(moves, value * particles.scale[:, None].astype(np.float32), value)
    noise = noise_of(table.units, mean, wander)
    shared = np.where(moves, particles.scale_variance[:, None].astype(np.float32) * mean**2, 0)
    return mean, np.sqrt(noise + shared)


def screen(mean: NDArray[np.floating], deviation: NDArray[np.floating], particles: Particles) -> NDArray[np.float64]:
    """Information of every single measurement by a histogram of predictions, (measurements,) [bit].

    Bins are three standard deviations wide on the scale that makes the noise even, arsinh(b·v/a)/b, and each prediction
    is spread over the bins at its own deviation's ends.
    """
    places, first = np.unique(particles.label, return_inverse=True)
    mass = np.bincount(first, particles.weight)
    order = np.argsort(np.argsort(-mass))
    label = np.minimum(order[first], SCREEN_LABELS - 1)
    a, b = 0.25, 0.01
    even = np.arcsinh(mean * (b / a)) / (3 * b) + SCREEN_BELOW
    reach = deviation / np.sqrt(a**2 + (b * mean) ** 2) / 3
    count = mean.shape[1]
    labels = min(len(places), SCREEN_LABELS)
    cell = (np.arange(count) * labels + label[:, None]) * SCREEN_BINS
    joint = np.zeros(count * labels * SCREEN_BINS)
    for side in (-1.0, 1.0):
        bins = np.clip((even + side * reach).astype(np.int64), 0, SCREEN_BINS - 1)
        weights = np.broadcast_to(particles.weight[:, None] / 2, cell.shape)
        joint += np.bincount((cell + bins).ravel(), weights.ravel(), len(joint))
    joint = joint.reshape(count, labels, SCREEN_BINS)
    before = entropy_bits(joint[0].sum(axis=1))
    # H(label | bin) = H(label, bin) − H(bin); most cells are empty.
    return np.asarray(before - _sparse_entropy_bits(joint) + _sparse_entropy_bits(joint.sum(axis=1)))


def _sparse_entropy_bits(probability: NDArray[np.float64]) -> NDArray[np.float64]:
    """Entropy over all axes but the first, where most entries are zero [bit]."""
    flat = probability.reshape(-1)
    full = np.flatnonzero(flat)
    held = flat[full]
    entropy = np.bincount(full // (flat.size // len(probability)), -held * np.log2(held), len(probability))
    return entropy.astype(float)

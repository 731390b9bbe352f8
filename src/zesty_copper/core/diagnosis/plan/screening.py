"""A first, rough ranking of every allowed measurement by the information it promises."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from zesty_copper.core.diagnosis.plan.candidates import CandidateTable
from zesty_copper.core.diagnosis.plan.information import entropy_bits, noise_of
from zesty_copper.core.diagnosis.plan.particles import Particles
from zesty_copper.core.observations.registry import LINEAR_UNITS

__all__ = ["screen", "with_noise"]

SCREEN_LABELS = 10
SCREEN_BINS = 106
"""As many as reach from 0 to 290 V, and a few below nothing."""
SCREEN_BELOW = 2
SCREEN_FLOOR, SCREEN_SLOPE = 0.25, 0.01
"""How noise grows: a floor [V or A], and a share of what is read."""


def with_noise(
    table: CandidateTable, value: NDArray[np.floating], wander: NDArray[np.floating], particles: Particles
) -> tuple[NDArray[np.floating], NDArray[np.floating]]:
    """Return mean and deviation of rough values, heeding the readings so far only through level and gain.

    Both are (particles, measurements), each in its measurement's unit, as `value` and `wander` are.
    """
    moves = np.isin(table.units, LINEAR_UNITS)
    mean = np.where(moves, value * particles.scale[:, None].astype(np.float32), value)
    noise = noise_of(table.units, mean, wander)
    shared = np.where(moves, particles.scale_variance[:, None].astype(np.float32) * mean**2, 0)
    return mean, np.sqrt(noise + shared)


def screen(mean: NDArray[np.floating], deviation: NDArray[np.floating], particles: Particles) -> NDArray[np.float64]:
    """Information of every single measurement by a histogram of predictions, (measurements,) [bit].

    Bins are three standard deviations wide on the scale that makes the noise even, arsinh(slope·v/floor)/slope, and
    each prediction is spread over the bins at its own deviation's ends.
    """
    places, first = np.unique(particles.label, return_inverse=True)
    mass = np.bincount(first, particles.weight)
    order = np.argsort(np.argsort(-mass))
    label = np.minimum(order[first], SCREEN_LABELS - 1)
    before = entropy_bits(np.bincount(label, particles.weight))
    return before - _entropy_left(mean, deviation, particles.weight, label, min(len(places), SCREEN_LABELS))


@njit(cache=True, nogil=True, error_model="numpy")
def _entropy_left(
    mean: NDArray[np.floating],
    deviation: NDArray[np.floating],
    weight: NDArray[np.float64],
    label: NDArray[np.int64],
    labels: int,
) -> NDArray[np.float64]:
    """Entropy of the labels that each measurement leaves, (measurements,) [bit]: H(label, bin) − H(bin)."""
    particles, measurements = mean.shape
    entropy = np.zeros(measurements)
    joint = np.zeros((SCREEN_BINS, labels))
    mass = np.zeros(SCREEN_BINS)
    for c in range(measurements):
        joint[:] = 0
        mass[:] = 0
        for p in range(particles):
            value = mean[p, c]
            even = np.arcsinh(value * (SCREEN_SLOPE / SCREEN_FLOOR)) / (3 * SCREEN_SLOPE) + SCREEN_BELOW
            reach = deviation[p, c] / np.sqrt(SCREEN_FLOOR**2 + (SCREEN_SLOPE * value) ** 2) / 3
            for side in (-1, 1):
                place = min(max(int(even + side * reach), 0), SCREEN_BINS - 1)
                joint[place, label[p]] += weight[p] / 2
                mass[place] += weight[p] / 2
        for place in range(SCREEN_BINS):
            if mass[place] > 0:
                for k in range(labels):
                    if joint[place, k] > 0:
                        entropy[c] -= joint[place, k] * np.log2(joint[place, k] / mass[place])
    return entropy

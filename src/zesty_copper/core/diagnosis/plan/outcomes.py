"""What a card may show, cut into bands within which a number means about the same."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.diagnosis.plan.information import entropy_bits, readings_of
from zesty_copper.core.diagnosis.plan.particles import Particles
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit
from zesty_copper.core.observations.measurement import Measurement
from zesty_copper.core.observations.observation import AnyObservation

__all__ = ["Band", "CardOutcome", "bands_of", "outcomes_of"]

_POINTS, _WEIGHTS = np.polynomial.hermite_e.hermegauss(5)
NODES = (_POINTS, _WEIGHTS / _WEIGHTS.sum())
"""Where the spread of each prediction is read, in deviations, and how much each counts; (nodes,) each."""
GAP_DEVIATIONS = 3.0
"""Numbers farther apart than this are never one band: none lies between that could stand for both."""
BIN_DEVIATIONS = 2.0
"""How wide a band is at least: closer numbers are not told apart anyway."""
LOST_BITS = 0.07
"""How much of what a card tells may be lost by each joining of two bands [bit]."""
REACH = 1.0
"""By how much of its own width an outermost band reaches beyond what is predicted."""


@dataclass(frozen=True)
class Band:
    """Numbers that mean about the same, on the scale of their unit: the ends, and whether each point lies in it."""

    low: float
    high: float
    holds: NDArray[np.bool_]


@dataclass(frozen=True)
class CardOutcome:
    """One way in which a card may come out.

    Attributes
    ----------
    chance
        How likely it is.
    values
        What stands for it, a number for each reading, in its unit.
    ranges
        Ends of each reading's band, in its unit.
    """

    chance: float
    values: tuple[float, ...]
    ranges: tuple[tuple[float, float], ...]


def outcomes_of(
    compiled: CompiledCircuit, particles: Particles, measurements: Sequence[Measurement], least: float
) -> list[CardOutcome]:
    """Cut what a card may show into bands of each of its readings; of no reading do two bands meet.

    Parameters
    ----------
    least
        What is not likelier than this is left out.
    """
    mean, deviation = readings_of(compiled, particles, measurements)
    points = mean[..., None] + deviation[..., None] * NODES[0]  # (particles, readings, nodes)
    weight = particles.weight[:, None] * NODES[1]
    label = np.repeat(particles.label, len(NODES[0]))
    cut = [
        bands_of(
            points[:, c].ravel(), np.repeat(deviation[:, c], len(NODES[0])), weight.ravel(), label, one.observation
        )
        for c, one in enumerate(measurements)
    ]
    # Within a particle the readings stray each by itself: shares (particles,) of the nodes in each band, and their sum.
    shares = [[np.where(band.holds.reshape(weight.shape), NODES[1], 0.0) for band in bands] for bands in cut]
    share = [[inside.sum(axis=1) for inside in one] for one in shares]
    mean_there = [
        [(inside * points[:, c]).sum(axis=1) / np.maximum(mass, 1e-12) for inside, mass in zip(one, sums, strict=True)]
        for c, (one, sums) in enumerate(zip(shares, share, strict=True))
    ]
    outcomes = []
    for chosen in product(*(range(len(bands)) for bands in cut)):
        mass = particles.weight.copy()
        for c, band in enumerate(chosen):
            mass = mass * share[c][band]
        chance = float(mass.sum())
        if chance <= least:
            continue
        typical = [
            cut[c][band].low if one.observation.steps else float(mass @ mean_there[c][band]) / chance
            for c, (band, one) in enumerate(zip(chosen, measurements, strict=True))
        ]
        outcomes.append(
            CardOutcome(
                chance,
                tuple(m.observation.off_scale(at) for at, m in zip(typical, measurements, strict=True)),
                tuple(
                    (m.observation.off_scale(cut[c][band].low), m.observation.off_scale(cut[c][band].high))
                    for c, (band, m) in enumerate(zip(chosen, measurements, strict=True))
                ),
            )
        )
    return outcomes


def bands_of(
    points: NDArray[np.float64],
    deviation: NDArray[np.float64],
    weight: NDArray[np.float64],
    label: NDArray[np.int64],
    kind: AnyObservation,
) -> list[Band]:
    """Cut a scale into bands, so that hardly anything is lost of what a number there tells about the place.

    Points are gathered into bins as wide as a reading strays, and neighbours joined for as long as that loses little
    (agglomerative information bottleneck in one dimension: Slonim and Tishby, NIPS 12 (2000), from memory).

    Parameters
    ----------
    points, deviation, weight, label
        (points,): what may be read and by how much it strays, on the scale of their kind; how likely it is; and the
        place that it speaks for.
    """
    if kind.steps:
        words = np.clip(np.round(points), min(kind.steps), max(kind.steps))
        return [Band(word, word, words == word) for word in np.unique(words).tolist()]
    order = np.argsort(points, kind="stable")
    places = np.unique(label, return_inverse=True)[1]
    bins = _bins(points[order], deviation[order])
    mass = np.zeros((bins[-1] + 1, places.max() + 1))
    np.add.at(mass, (bins, places[order]), weight[order])
    first = np.array([points[order][bins == b].min() for b in range(len(mass))])
    last = np.array([points[order][bins == b].max() for b in range(len(mass))])
    width = np.array([deviation[order][bins == b].min() for b in range(len(mass))])
    apart = first[1:] - last[:-1] > GAP_DEVIATIONS * np.minimum(width[1:], width[:-1])
    groups = _joined(mass, apart)
    reach = [max(kind.least_reach, REACH * (last[g[-1]] - first[g[0]])) for g in groups]
    ends = [(first[g[0]], last[g[-1]]) for g in groups]
    lows = [ends[0][0] - reach[0]]
    highs = []
    for i in range(len(groups) - 1):
        middle = (ends[i][1] + ends[i + 1][0]) / 2
        highs.append(min(ends[i][1] + reach[i], middle))
        lows.append(max(ends[i + 1][0] - reach[i + 1], middle))
    highs.append(ends[-1][1] + reach[-1])
    in_bin = np.empty(len(points), dtype=np.int64)
    in_bin[order] = bins
    return [
        Band(float(low), float(high), np.isin(in_bin, group))
        for low, high, group in zip(lows, highs, groups, strict=True)
    ]


def _bins(points: NDArray[np.float64], deviation: NDArray[np.float64]) -> NDArray[np.int64]:
    """Number the bin of each of some points in their order: as wide as the steadiest of them strays."""
    number = np.zeros(len(points), dtype=np.int64)
    begun, steadiest, at = points[0], deviation[0], 0
    for i in range(1, len(points)):
        steadiest = min(steadiest, deviation[i])
        if points[i] - begun > BIN_DEVIATIONS * steadiest:
            at += 1
            begun, steadiest = points[i], deviation[i]
        number[i] = at
    return number


def _joined(mass: NDArray[np.float64], apart: NDArray[np.bool_]) -> list[list[int]]:
    """Join neighbouring bins for as long as little is lost; what is apart stays so.

    Parameters
    ----------
    mass
        (bins, places).
    apart
        (bins − 1,): between which neighbours nothing lies.
    """
    groups, masses, gaps = [[b] for b in range(len(mass))], list(mass), apart.tolist()
    costs = [np.inf if gap else _lost(a, b) for gap, a, b in zip(gaps, masses, masses[1:], strict=False)]
    while costs and min(costs) < LOST_BITS:
        i = costs.index(min(costs))
        groups[i : i + 2] = [groups[i] + groups[i + 1]]
        masses[i : i + 2] = [masses[i] + masses[i + 1]]
        del gaps[i], costs[i]
        for k in (i - 1, i):
            if 0 <= k < len(costs):
                costs[k] = np.inf if gaps[k] else _lost(masses[k], masses[k + 1])
    return groups


def _lost(a: NDArray[np.float64], b: NDArray[np.float64]) -> float:
    """What is lost about the place by no longer telling two bins apart [bit]."""
    whole, of_a, of_b = (a + b).sum(), a.sum(), b.sum()
    if of_a == 0 or of_b == 0:
        return 0.0
    joint, apart = entropy_bits((a + b) / whole), of_a * entropy_bits(a / of_a) + of_b * entropy_bits(b / of_b)
    return float(whole * joint - apart)

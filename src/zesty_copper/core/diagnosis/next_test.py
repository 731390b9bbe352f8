"""Which test to do next: the most expected information for the effort, among what is allowed."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.measurement import Measurement
from zesty_copper.core.diagnosis.candidates import (
    CandidateTable,
    candidate_table,
    effort_minutes,
    reachable_states,
    rough_values,
)
from zesty_copper.core.diagnosis.evidence import BAD_SHARE, Posterior
from zesty_copper.core.diagnosis.noise import noise_variance
from zesty_copper.core.diagnosis.nuisance import DIMENSIONS, Dimension
from zesty_copper.core.diagnosis.predict import predict_at
from zesty_copper.core.diagnosis.study import Study

__all__ = ["Card", "Particles", "best_card", "information_bits", "particles_of", "readings_of", "separation_bits"]

PARTICLES = 192
"""How many steps of probability the posterior is cut into; fewer combinations stand for it where it is peaked."""
SHORT_LIST = 6
"""How many cards of each state pass the screening and are scored again."""
SCREEN_LABELS = 10
SCREEN_BINS = 104
"""As many as reach from 0 to 290 V."""


@dataclass(frozen=True, eq=False)
class Particles:
    """Combinations of fault and sample that stand for the posterior.

    Attributes
    ----------
    weight
        (particles,): sums to one.
    fault, row, sample
        (particles,): which fault it is, and where it reads its predictions.
    label
        (particles,): number of the place it accuses.
    scale, scale_variance
        (particles,): by what the readings so far have shown the predictions to be off, and how surely.
    shift, covariance
        (particles, dimensions[, dimensions]): the same for every Gaussian unknown, in standard deviations.
    """

    weight: NDArray[np.float64]
    fault: NDArray[np.int64]
    row: NDArray[np.int64]
    sample: NDArray[np.int64]
    label: NDArray[np.int64]
    scale: NDArray[np.float64]
    scale_variance: NDArray[np.float64]
    shift: NDArray[np.float64]
    covariance: NDArray[np.float64]

    def among(self, labels: NDArray[np.int64]) -> "Particles":
        """Only those that accuse one of these places."""
        keep = np.isin(self.label, labels)
        weight = self.weight[keep]
        return Particles(
            weight / weight.sum(),
            self.fault[keep],
            self.row[keep],
            self.sample[keep],
            self.label[keep],
            self.scale[keep],
            self.scale_variance[keep],
            self.shift[keep],
            self.covariance[keep],
        )


@dataclass(frozen=True, eq=False)
class Card:
    """A test: one measurement, or the three basic ones of a spot, in one state.

    Attributes
    ----------
    bits
        Expected information about the place of the fault [bit].
    minutes
        Effort [min].
    """

    measurements: tuple[Measurement, ...]
    bits: float
    minutes: float


def particles_of(study: Study, posterior: Posterior, count: int = PARTICLES) -> Particles:
    """Pick combinations that stand for the posterior; one that comes and goes is split into its good and its bad time.

    Systematic resampling (Kitagawa, J. Comp. Graph. Stat. 5 (1996) 1-25, appendix) along faults and, within each, along
    the spread of its severity: even steps of probability, so the pick is spread well and the same every time.
    """
    faults, samples = posterior.weight.shape
    weight = np.where(study.intermittent[:, None], posterior.weight * BAD_SHARE, posterior.weight)
    flickering = np.flatnonzero(study.intermittent)
    weight = np.concatenate([weight, posterior.weight[flickering] * (1 - BAD_SHARE)]).ravel()
    fault = np.repeat(np.concatenate([np.arange(faults), flickering]), samples)
    row = np.concatenate([np.repeat(study.row, samples), np.full(len(flickering) * samples, study.healthy)])
    sample = np.tile(np.arange(samples), faults + len(flickering))
    along = np.lexsort((study.nuisance.fault_quantile[sample], fault))
    total = np.cumsum(weight[along])
    picked = along[np.searchsorted(total, (np.arange(count) + 0.5) / count * total[-1])]
    best, times = np.unique(picked, return_counts=True)
    common = np.array([Dimension.LEVEL, Dimension.VOLT_GAIN])
    width = DIMENSIONS[common]
    shift = posterior.shift[fault[best], sample[best]]
    covariance = posterior.covariance_at(fault[best], sample[best])
    return Particles(
        weight=times / count,
        fault=fault[best],
        row=row[best],
        sample=sample[best],
        label=study.place[fault[best]],
        # A linear model may overshoot where a particle fits badly; a reading keeps its sign.
        scale=np.clip(1 + shift[:, common] @ width, 0.5, 1.5),
        scale_variance=np.einsum("d,pde,e->p", width, covariance[:, common[:, None], common], width),
        shift=shift,
        covariance=covariance,
    )


def best_card(
    study: Study, particles: Particles, last: Measurement | None, *, panel: bool, exhaustive: bool = False
) -> Card | None:
    """Return the card with the most information per minute; None when nothing is allowed.

    Every single measurement is screened by a histogram of its predictions, then the best few and the triples at the
    best spots are scored by `information_bits`. `exhaustive` scores them all, to measure what the screening loses.
    """
    best: Card | None = None
    for state in reachable_states(study.circuit):
        table = candidate_table(study, state, panel=panel)
        if not table.measurements:
            continue
        price = {
            (zone, count): effort_minutes(study.circuit, zone, state, count, last)
            for zone in set(table.zones)
            for count in (1, len(study.circuit.legs) + 1)
        }
        screened = _screen(*_rough_readings(study, table, particles), particles)
        # Three readings seldom tell more together than each by itself added up: good enough to rank them by.
        worth: dict[tuple[int, ...], float] = {(c,): bits for c, bits in enumerate(screened.tolist())}
        worth |= {spot: float(screened[list(spot)].sum()) for spot in table.spots}
        minutes = {chosen: price[table.zones[chosen[0]], len(chosen)] for chosen in worth}
        ranked = sorted(worth, key=lambda chosen: -worth[chosen] / minutes[chosen])
        listed = ranked if exhaustive else ranked[:SHORT_LIST]
        columns = sorted({c for chosen in listed for c in chosen})
        mean, deviation = readings_of(study, particles, [table.measurements[c] for c in columns])
        for chosen in listed:
            at = [columns.index(c) for c in chosen]
            bits = information_bits(mean[:, at], deviation[:, at], particles)
            if best is None or bits / minutes[chosen] > best.bits / best.minutes:
                best = Card(tuple(table.measurements[c] for c in chosen), bits, minutes[chosen])
    return best


def separation_bits(study: Study, particles: Particles, *, panel: bool) -> float:
    """Return the most that any single allowed measurement could tell between these particles' places [bit]."""
    most = 0.0
    for state in reachable_states(study.circuit):
        table = candidate_table(study, state, panel=panel)
        if table.measurements:
            screened = _screen(*_rough_readings(study, table, particles), particles)
            best = np.argsort(-screened)[:4]
            mean, deviation = readings_of(study, particles, [table.measurements[c] for c in best])
            bits = [information_bits(mean[:, [i]], deviation[:, [i]], particles) for i in range(len(best))]
            most = max([most, *bits])
    return most


def information_bits(mean: NDArray[np.float64], deviation: NDArray[np.float64], particles: Particles) -> float:
    """Expected information of reading some numbers together about the place of the fault [bit].

    The expectation over what may be read is taken at each particle's own reading, and the noise of that reading is put
    into the comparison (variances add).

    Parameters
    ----------
    mean, deviation
        (particles, readings): what each particle predicts, and how far it may stray [V or A].
    """
    # Single precision is far finer than the estimate, and this is where the time goes.
    distance = np.zeros((len(mean), len(mean)), dtype=np.float32)
    for m, s in zip(mean.T.astype(np.float32), deviation.T.astype(np.float32), strict=True):
        variance = s[:, None] ** 2 + s[None] ** 2
        distance += (m[:, None] - m[None]) ** 2 / variance + np.log(variance)
    likeness = np.exp(-0.5 * (distance - distance.min(axis=1, keepdims=True))) * particles.weight
    members = (particles.label[:, None] == np.unique(particles.label)).astype(float)
    shares = likeness @ members
    shares /= shares.sum(axis=1, keepdims=True)
    before = _entropy_bits(particles.weight @ members)
    after = float(particles.weight @ _entropy_bits(shares))
    return max(float(before) - after, 0.0)


def readings_of(
    study: Study, particles: Particles, measurements: Sequence[Measurement]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return mean and standard deviation of what each particle predicts after all that was read.

    Both are (particles, measurements) [V or A].
    """
    prediction = predict_at(study, measurements, particles.row, particles.sample)
    slope = prediction.slope
    mean = np.maximum(prediction.value + np.einsum("pcd,pd->pc", slope, particles.shift), 0)
    volts = np.array([measurement.unit == "V" for measurement in measurements])
    value, wander = prediction.value, prediction.wander
    noise = np.where(volts, noise_variance(value, wander, "V"), noise_variance(value, wander, "A"))
    shared = np.einsum("pcd,pcd->pc", slope @ particles.covariance, slope)
    return mean, np.sqrt(noise + shared)


def _rough_readings(
    study: Study, table: CandidateTable, particles: Particles
) -> tuple[NDArray[np.floating], NDArray[np.floating]]:
    """Return the same for a whole table, but heeding the readings so far only through level and gain."""
    value, wander = rough_values(study, table, particles.row, particles.sample)
    mean = value * particles.scale[:, None].astype(np.float32)
    noise = np.where(table.in_volts, noise_variance(mean, wander, "V"), noise_variance(mean, wander, "A"))
    return mean, np.sqrt(noise + particles.scale_variance[:, None].astype(np.float32) * mean**2)


def _screen(mean: NDArray[np.floating], deviation: NDArray[np.floating], particles: Particles) -> NDArray[np.float64]:
    """Information of every single measurement by a histogram of predictions, (measurements,) [bit].

    Bins are three standard deviations wide on the scale that makes the noise even, arsinh(b·v/a)/b, and each prediction
    is spread over the bins at its own deviation's ends.
    """
    places, first = np.unique(particles.label, return_inverse=True)
    mass = np.bincount(first, particles.weight)
    order = np.argsort(np.argsort(-mass))
    label = np.minimum(order[first], SCREEN_LABELS - 1)
    a, b = 0.25, 0.01
    even = np.arcsinh(mean * (b / a)) / (3 * b)
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
    before = _entropy_bits(joint[0].sum(axis=1))
    # H(label | bin) = H(label, bin) − H(bin); most cells are empty.
    return np.asarray(before - _sparse_entropy_bits(joint) + _sparse_entropy_bits(joint.sum(axis=1)))


def _sparse_entropy_bits(probability: NDArray[np.float64]) -> NDArray[np.float64]:
    """Entropy over all axes but the first, where most entries are zero [bit]."""
    flat = probability.reshape(-1)
    full = np.flatnonzero(flat)
    held = flat[full]
    entropy = np.bincount(full // (flat.size // len(probability)), -held * np.log2(held), len(probability))
    return entropy.astype(float)


def _entropy_bits(probability: NDArray[np.float64]) -> NDArray[np.float64]:
    """Entropy over the last axis [bit]."""
    return np.asarray(-(probability * np.log2(np.where(probability > 0, probability, 1))).sum(axis=-1))

"""Which test to do next: the most expected information for the effort, among what is allowed."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.measurement import Measurement
from zesty_copper.core.diagnosis.candidates import CandidateTable, candidate_table, effort_minutes, reachable_states
from zesty_copper.core.diagnosis.evidence import Posterior
from zesty_copper.core.diagnosis.noise import noise_variance, typed_step
from zesty_copper.core.diagnosis.nuisance import DIMENSIONS, Dimension
from zesty_copper.core.diagnosis.study import Study

__all__ = ["Card", "Particles", "best_card", "information_bits", "particles_of", "readings_of", "separation_bits"]

PARTICLES = 160
"""How many of the likeliest faults-in-a-sample stand for the posterior."""
SHORT_LIST = 20
"""How many cards that pass the screening are scored again."""
SCREEN_LABELS = 10
SCREEN_BINS = 96


@dataclass(frozen=True, eq=False)
class Particles:
    """The likeliest combinations of fault and sample.

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
    """

    weight: NDArray[np.float64]
    fault: NDArray[np.int64]
    row: NDArray[np.int64]
    sample: NDArray[np.int64]
    label: NDArray[np.int64]
    scale: NDArray[np.float64]
    scale_variance: NDArray[np.float64]

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
    """Pick the likeliest combinations; one that comes and goes is split into its good and its bad time."""
    faults, samples = posterior.weight.shape
    weight = np.where(study.intermittent[:, None], posterior.weight / 2, posterior.weight)
    flickering = np.flatnonzero(study.intermittent)
    weight = np.concatenate([weight, weight[flickering]]).ravel()
    fault = np.repeat(np.concatenate([np.arange(faults), flickering]), samples)
    row = np.concatenate([np.repeat(study.row, samples), np.full(len(flickering) * samples, study.healthy)])
    sample = np.tile(np.arange(samples), faults + len(flickering))
    best = np.argsort(-weight, kind="stable")[:count]
    best = best[weight[best] > 0]
    common = np.array([Dimension.LEVEL, Dimension.VOLT_GAIN])
    width = DIMENSIONS[common]
    shift = posterior.shift[fault[best], sample[best]][:, common]
    covariance = posterior.covariance[fault[best], sample[best]][:, common[:, None], common]
    return Particles(
        weight=weight[best] / weight[best].sum(),
        fault=fault[best],
        row=row[best],
        sample=sample[best],
        label=study.place[fault[best]],
        scale=1 + shift @ width,
        scale_variance=np.einsum("d,pde,e->p", width, covariance, width),
    )


def best_card(
    study: Study, particles: Particles, last: Measurement | None, *, panel: bool, exhaustive: bool = False
) -> Card | None:
    """Return the card with the most information per minute; None when nothing is allowed.

    Every single measurement is screened by a histogram of its predictions, then the best few and the triples at the best
    spots are scored by `information_bits`. `exhaustive` scores them all, to measure what the screening loses.
    """
    cards: list[tuple[float, float, CandidateTable, tuple[int, ...]]] = []
    for state in reachable_states(study.circuit):
        table = candidate_table(study, state, panel=panel)
        if not table.measurements:
            continue
        price = {
            (zone, count): effort_minutes(study.circuit, zone, state, count, last)
            for zone in set(table.zones)
            for count in (1, len(study.circuit.legs) + 1)
        }
        screened = _screen(*readings_of(table, particles, slice(None)), particles)
        for c, bits in enumerate(screened.tolist()):
            minutes = price[table.zones[c], 1]
            cards.append((bits / minutes, minutes, table, (c,)))
        for spot in table.spots:
            # The three together never tell more than each by itself added up: that bound ranks them.
            minutes = price[table.zones[spot[0]], len(spot)]
            cards.append((float(screened[list(spot)].sum()) / minutes, minutes, table, spot))
    cards.sort(key=lambda ranked: -ranked[0])
    best: Card | None = None
    for _, minutes, table, chosen in cards if exhaustive else cards[:SHORT_LIST]:
        bits = information_bits(*readings_of(table, particles, list(chosen)), particles)
        card = Card(tuple(table.measurements[c] for c in chosen), bits, minutes)
        if best is None or card.bits / card.minutes > best.bits / best.minutes:
            best = card
    return best


def separation_bits(study: Study, particles: Particles, *, panel: bool) -> float:
    """Return the most that any single allowed measurement could tell between these particles' places [bit]."""
    most = 0.0
    for state in reachable_states(study.circuit):
        table = candidate_table(study, state, panel=panel)
        if table.measurements:
            mean, deviation = readings_of(table, particles, slice(None))
            screened = _screen(mean, deviation, particles)
            best = np.argsort(-screened)[:3]
            most = max([most, *(information_bits(mean[:, [c]], deviation[:, [c]], particles) for c in best)])
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
    distance = np.zeros((len(mean), len(mean)))
    for m, s in zip(mean.T, deviation.T, strict=True):
        variance = s[:, None] ** 2 + s[None] ** 2
        distance += (m[:, None] - m[None]) ** 2 / variance + np.log(variance)
    likeness = np.exp(-0.5 * (distance - distance.min(axis=1, keepdims=True))) * particles.weight
    members = (particles.label[:, None] == np.unique(particles.label)).astype(float)
    shares = likeness @ members
    shares /= shares.sum(axis=1, keepdims=True)
    before = _entropy_bits(particles.weight @ members)
    return float(max(before - particles.weight @ _entropy_bits(shares), 0.0))


def readings_of(
    table: CandidateTable, particles: Particles, chosen: slice | list[int]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return mean and standard deviation of what each particle predicts, (particles, measurements)."""
    value = table.value[particles.row, particles.sample][:, chosen].astype(float)
    mean = value * particles.scale[:, None]
    volts = table.in_volts[chosen]
    noise = np.where(
        volts,
        noise_variance(mean, "V", typed_step(0.1, "V")),
        noise_variance(mean, "A", typed_step(0.1, "A")),
    )
    return mean, np.sqrt(noise + particles.scale_variance[:, None] * mean**2)


def _screen(
    mean: NDArray[np.float64], deviation: NDArray[np.float64], particles: Particles
) -> NDArray[np.float64]:
    """Information of every single measurement by a histogram of predictions, (measurements,) [bit].

    Bins are as wide as two standard deviations of what falls into them: equal steps of arsinh(b·v/a)/b.
    """
    places, first = np.unique(particles.label, return_inverse=True)
    mass = np.bincount(first, particles.weight)
    order = np.argsort(np.argsort(-mass))
    label = np.minimum(order[first], SCREEN_LABELS - 1)
    a, b = 0.3, 0.012 + float(np.sqrt(particles.scale_variance.max(initial=0)))
    bins = np.minimum((np.arcsinh(mean * (b / a)) / (2 * b)).astype(np.int64), SCREEN_BINS - 1)
    count = mean.shape[1]
    labels = min(len(places), SCREEN_LABELS)
    cell = (np.arange(count) * labels + label[:, None]) * SCREEN_BINS + bins
    weights = np.broadcast_to(particles.weight[:, None], cell.shape)
    joint = np.bincount(cell.ravel(), weights.ravel(), count * labels * SCREEN_BINS).reshape(count, labels, SCREEN_BINS)
    before = _entropy_bits(joint[0].sum(axis=1))
    # H(label | bin) = H(label, bin) − H(bin); most cells are empty.
    return np.asarray(before - _sparse_entropy_bits(joint) + _sparse_entropy_bits(joint.sum(axis=1)))


def _sparse_entropy_bits(probability: NDArray[np.float64]) -> NDArray[np.float64]:
    """Entropy over all axes but the first, where most entries are zero [bit]."""
    flat = probability.reshape(-1)
    full = np.flatnonzero(flat)
    held = flat[full]
    return np.bincount(full // (flat.size // len(probability)), -held * np.log2(held), len(probability))


def _entropy_bits(probability: NDArray[np.float64]) -> NDArray[np.float64]:
    """Entropy over the last axis [bit]."""
    return np.asarray(-(probability * np.log2(np.where(probability > 0, probability, 1))).sum(axis=-1))

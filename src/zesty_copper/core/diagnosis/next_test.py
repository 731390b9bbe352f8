"""Which test to do next: the most expected information for the effort, among what is allowed."""

from collections.abc import Iterator, Sequence
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
from zesty_copper.core.diagnosis.noise import PICK_UP_VOLTS, noise_variance
from zesty_copper.core.diagnosis.nuisance import DIMENSIONS, Dimension
from zesty_copper.core.diagnosis.predict import predict_at
from zesty_copper.core.diagnosis.study import Study
from zesty_copper.core.network.lowrank import GROUPS

__all__ = ["Card", "Particles", "best_card", "information_bits", "particles_of", "readings_of", "separation_bits"]

PARTICLES = 192
"""How many steps of probability the posterior is cut into; fewer combinations stand for it where it is peaked."""
SHORT_LIST = 6
"""How many cards of each state pass the screening and are scored again."""
GHOST_VOLTS = 0.25
"""Wander from which a reading is taken to hang on stray coupling [V]."""
STRAYS = [Dimension.GROUPS.start + GROUPS.index(name) for name in ("between", "ground")]
LEARNT_VARIANCE = 0.8
"""Share of its prior variance below which a stray factor counts as learnt."""
FLOATING_SHARE = 0.02
"""Share of probability from which a measurement counts as one that may float."""
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
    study: Study, particles: Particles, taken: Sequence[Measurement], *, panel: bool, exhaustive: bool = False
) -> Card | None:
    """Return the card with the most information per minute; None when nothing is allowed.

    Every single measurement is screened by a histogram of its predictions, then the best few and the triples at the
    best spots are scored by `information_bits`. `exhaustive` scores them all, to measure what the screening loses.
    """
    best: Card | None = None
    last = taken[-1] if taken else None
    for table, screened in _screened(study, particles, taken, panel=panel):
        price = {
            (zone, count): effort_minutes(study.circuit, zone, table.open_switches, count, last)
            for zone in set(table.zones)
            for count in {1, *map(len, table.spots)}
        }
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


def separation_bits(study: Study, particles: Particles, taken: Sequence[Measurement], *, panel: bool) -> float:
    """Return the most that any single allowed measurement could tell between these particles' places [bit]."""
    most = 0.0
    for table, screened in _screened(study, particles, taken, panel=panel):
        best = np.argsort(-screened)[:4]
        mean, deviation = readings_of(study, particles, [table.measurements[c] for c in best])
        bits = [information_bits(mean[:, [i]], deviation[:, [i]], particles) for i in range(len(best))]
        most = max([most, *bits])
    return most


def _screened(
    study: Study, particles: Particles, taken: Sequence[Measurement], *, panel: bool
) -> Iterator[tuple[CandidateTable, NDArray[np.float64]]]:
    """Every state's table with the screened information of its measurements [bit].

    Reading a ghost again tells nothing: what it strays by from the model stays.
    """
    for state in reachable_states(study.circuit):
        table = candidate_table(study, state, panel=panel)
        if not table.measurements:
            continue
        value, wander = rough_values(study, table, particles.row, particles.sample)
        screened = _screen(*_with_noise(table, value, _levelled(wander, particles), particles), particles)
        places = {measurement.place for measurement in taken}
        again = [c for c, measurement in enumerate(table.measurements) if measurement.place in places]
        for c in again:
            if particles.weight @ wander[:, c] > GHOST_VOLTS:
                screened[c] = 0
        yield table, screened


def information_bits(mean: NDArray[np.float64], deviation: NDArray[np.float64], particles: Particles) -> float:
    """Expected information of reading some numbers together about the place of the fault [bit].

    The expectation over what may be read is taken at two nodes of each particle's own spread, one deviation to either
    side (Gauss-Hermite quadrature of two nodes), neighbours among the readings on opposite sides.

    Parameters
    ----------
    mean, deviation
        (particles, readings): what each particle predicts, and how far it may stray [V or A].
    """
    members = (particles.label[:, None] == np.unique(particles.label)).astype(np.float32)
    weight = particles.weight.astype(np.float32)
    # Single precision is far finer than the estimate, and this is where the time goes.
    mean, deviation = mean.astype(np.float32), deviation.astype(np.float32)
    sides = np.where(np.arange(mean.shape[1]) % 2 == 0, 1, -1).astype(np.float32)
    scale = np.log(deviation).sum(axis=1)
    after = 0.0
    for side in (sides, -sides):
        read = mean + side * deviation
        distance = np.zeros((len(mean), len(mean)), dtype=np.float32)
        for y, m, s in zip(read.T, mean.T, deviation.T, strict=True):
            distance += ((y[:, None] - m) / s) ** 2
        distance = 0.5 * distance + scale
        likeness = np.exp(distance.min(axis=1, keepdims=True) - distance) * weight
        shares = likeness @ members
        shares /= shares.sum(axis=1, keepdims=True)
        after += float(weight @ _entropy_bits(shares)) / 2
    return max(float(_entropy_bits(particles.weight @ members)) - after, 0.0)


def readings_of(
    study: Study, particles: Particles, measurements: Sequence[Measurement]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return mean and standard deviation of what each particle predicts after all that was read.

    Both are (particles, measurements) [V or A].
    """
    prediction = predict_at(study, measurements, particles.row, particles.sample, strays=False)
    slope = prediction.slope
    ghosts = np.flatnonzero(_floats(prediction.wander, particles))
    # What one ghost has told of the strays is told of the next; before any was read their slopes add nothing.
    learnt = np.einsum("pdd->pd", particles.covariance)[:, STRAYS].min(initial=1.0) < LEARNT_VARIANCE
    if len(ghosts) and learnt:
        floating = [measurements[c] for c in ghosts.tolist()]
        slope[:, ghosts] = predict_at(study, floating, particles.row, particles.sample).slope
    mean = np.maximum(prediction.value + np.einsum("pcd,pd->pc", slope, particles.shift), 0)
    volts = np.array([measurement.unit == "V" for measurement in measurements])
    value, wander = prediction.value, _levelled(prediction.wander, particles)
    noise = np.where(volts, noise_variance(value, wander, "V"), noise_variance(value, wander, "A"))
    shared = np.einsum("pcd,pcd->pc", slope @ particles.covariance, slope)
    return mean, np.sqrt(noise + shared)


def _with_noise(
    table: CandidateTable, value: NDArray[np.floating], wander: NDArray[np.floating], particles: Particles
) -> tuple[NDArray[np.floating], NDArray[np.floating]]:
    """Return mean and deviation of rough values, heeding the readings so far only through level and gain."""
    mean = value * particles.scale[:, None].astype(np.float32)
    noise = np.where(table.in_volts, noise_variance(mean, wander, "V"), noise_variance(mean, wander, "A"))
    return mean, np.sqrt(noise + particles.scale_variance[:, None].astype(np.float32) * mean**2)


def _levelled(wander: NDArray[np.floating], particles: Particles) -> NDArray[np.floating]:
    """Let a measurement stray under every suspect alike where it floats under some.

    That one suspect would leave it floating, and so unsteady near nothing, and another dead quiet, tells nothing.
    """
    return np.where(_floats(wander, particles), np.maximum(wander, PICK_UP_VOLTS), wander)


def _floats(wander: NDArray[np.floating], particles: Particles) -> NDArray[np.bool_]:
    """Return which measurements may float, (measurements,)."""
    return np.asarray(particles.weight @ (wander > GHOST_VOLTS) > FLOATING_SHARE)


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

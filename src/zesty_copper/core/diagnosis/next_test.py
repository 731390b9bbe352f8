"""Which test to do next: the most expected information for the effort, among what is allowed."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.hands import Hands
from zesty_copper.core.circuit.measurement import Measurement
from zesty_copper.core.circuit.model import Zone
from zesty_copper.core.diagnosis.candidates import (
    CandidateTable,
    candidate_table,
    dead_states,
    effort_minutes,
    reachable_states,
    rough_values,
    zone_of,
)
from zesty_copper.core.diagnosis.evidence import Posterior
from zesty_copper.core.diagnosis.model import Leaves, Scope, Stop, Tool, Way
from zesty_copper.core.diagnosis.noise import PICK_UP_VOLTS, noise_variance
from zesty_copper.core.diagnosis.nuisance import DIMENSIONS, Dimension, stir_variance
from zesty_copper.core.diagnosis.predict import PHASORS, predict_at
from zesty_copper.core.diagnosis.stops import permits
from zesty_copper.core.diagnosis.study import Study
from zesty_copper.core.diagnosis.two_ways import BAD_SHARE
from zesty_copper.core.network.lowrank import GROUPS

__all__ = [
    "Card",
    "Particles",
    "best_card",
    "card_of",
    "information_bits",
    "particles_of",
    "readings_of",
    "separation_bits",
]

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
SCREEN_MARGIN = 1.5
"""By how much a card may be worth more than its screening promised."""
DEAD_FROM_RATE = 0.25
"""Rate below which dead tests are considered though it is not locked out yet [bit/min]."""
WAY_BITS = 0.15
"""Information from which a test in the present box is taken before going on to the next, where one works along."""
_ORDER: dict[Way, tuple[Zone, ...]] = {
    Way.FEWEST: (),
    Way.UNIT_BACK: (Zone.UNIT, Zone.THERMOSTAT, Zone.DISCONNECT, Zone.PANEL),
    Way.SOURCE_OUT: (Zone.PANEL, Zone.DISCONNECT, Zone.UNIT, Zone.THERMOSTAT),
}
_POINTS, _WEIGHTS = np.polynomial.hermite_e.hermegauss(7)
NODES = tuple(zip(_POINTS.tolist(), (_WEIGHTS / _WEIGHTS.sum()).tolist(), strict=True))
"""Where a Gaussian is read, in deviations, and how much each counts."""
SCREEN_LABELS = 10
SCREEN_BINS = 106
"""As many as reach from 0 to 290 V, and a few below nothing."""
SCREEN_BELOW = 2


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

    @property
    def rate(self) -> float:
        """Information for the effort [bit/min]."""
        return self.bits / self.minutes


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


@dataclass(frozen=True)
class _Ranked:
    """Measurements of one card by their numbers in the table, what it takes [min], and what it promises [bit/min]."""

    chosen: tuple[int, ...]
    minutes: float
    rate: float


def best_card(
    study: Study,
    particles: Particles,
    taken: Sequence[Measurement],
    scope: Scope,
    stop: Stop | None = None,
    *,
    exhaustive: bool = False,
) -> Card | None:
    """Return the card with the most information per minute; None when nothing is allowed, or a stop leaves nothing.

    Every single measurement is screened by a histogram of its predictions, then the best few and the triples at the
    best spots are scored by `information_bits`. `exhaustive` scores them all, to measure what the screening loses.
    Dead tests are priced only once it is locked out already, or where no live one tells much.
    """
    live = list(_screened(study, particles, taken, scope, stop))
    best = _best_of(study, particles, taken, scope, live, exhaustive=exhaustive)
    if Tool.OHMS in scope.tools and (_locked_out(study, taken) or best is None or best.rate < DEAD_FROM_RATE):
        dead = list(_screened(study, particles, taken, scope, stop, dead=True))
        other = _best_of(study, particles, taken, scope, dead, exhaustive=exhaustive)
        if other is not None and (best is None or other.rate > best.rate):
            return other
    return best


def _locked_out(study: Study, taken: Sequence[Measurement]) -> bool:
    """Whether the last reading left a switch open that a hand locks."""
    opened = taken[-1].open_switches if taken else frozenset()
    return any(part.switch in opened and part.entry.moved_by == "hand" for part in study.circuit.series)


_Screened = tuple[CandidateTable, NDArray[np.float64]]


def _best_of(
    study: Study,
    particles: Particles,
    taken: Sequence[Measurement],
    scope: Scope,
    tables: Sequence[_Screened],
    *,
    exhaustive: bool,
) -> Card | None:
    """Return the best card among some tables, in the order in which the technician chose to work."""
    last = taken[-1] if taken else None
    ranked = [(table, _ranked(study, table, screened, last)) for table, screened in tables]
    for zone in _ORDER[scope.way]:
        here = [(t, [c for c in cards if t.zones[c.chosen[0]] is zone]) for t, cards in ranked]
        found = _scored(study, particles, [(t, cards) for t, cards in here if cards], exhaustive=exhaustive)
        if found is not None and found.bits >= WAY_BITS:
            return found
    return _scored(study, particles, [(t, cards) for t, cards in ranked if cards], exhaustive=exhaustive)


def _scored(
    study: Study,
    particles: Particles,
    ranked: Sequence[tuple[CandidateTable, list[_Ranked]]],
    *,
    exhaustive: bool,
) -> Card | None:
    best: Card | None = None
    # The most promising state first: most cards of the others then need no second look.
    for table, cards in sorted(ranked, key=lambda one: -one[1][0].rate):
        least = 0.0 if best is None or exhaustive else best.rate / SCREEN_MARGIN
        short = cards if exhaustive else cards[:SHORT_LIST]
        minutes = {card.chosen: card.minutes for card in short if card.rate >= least}
        if not minutes:
            continue
        listed = list(minutes)
        columns = sorted({c for chosen in listed for c in chosen})
        mean, deviation = readings_of(study, particles, [table.measurements[c] for c in columns])
        for chosen in listed:
            at = [columns.index(c) for c in chosen]
            card = Card(
                tuple(table.measurements[c] for c in chosen),
                information_bits(mean[:, at], deviation[:, at], particles),
                minutes[chosen],
            )
            if best is None or card.rate > best.rate:
                best = card
    return best


def _ranked(
    study: Study, table: CandidateTable, screened: NDArray[np.float64], last: Measurement | None
) -> list[_Ranked]:
    """Every card of one state, the most promising first."""
    units = table.units.tolist()

    @cache
    def price(zone: Zone, asked: tuple[str, ...], hands: Hands) -> float:
        return effort_minutes(study.circuit, zone, (table.open_switches, hands), asked, last)

    # Three readings seldom tell more together than each by itself added up: good enough to rank them by.
    worth: dict[tuple[int, ...], float] = {(c,): bits for c, bits in enumerate(screened.tolist())}
    worth |= {spot: float(screened[list(spot)].sum()) for spot in table.spots}
    minutes = {
        chosen: price(table.zones[chosen[0]], tuple(units[c] for c in chosen), table.measurements[chosen[0]].hands)
        for chosen in worth
    }
    cards = [_Ranked(chosen, minutes[chosen], bits / minutes[chosen]) for chosen, bits in worth.items()]
    return sorted(cards, key=lambda card: -card.rate)


def card_of(
    study: Study, particles: Particles, measurements: Sequence[Measurement], taken: Sequence[Measurement]
) -> Card:
    """Return the card of measurements that are asked for whatever they tell."""
    zone, units = zone_of(study.circuit, measurements[0]), [measurement.unit for measurement in measurements]
    last = taken[-1] if taken else None
    minutes = effort_minutes(study.circuit, zone, measurements[0].state, units, last)
    bits = information_bits(*readings_of(study, particles, measurements), particles)
    return Card(tuple(measurements), bits, minutes)


def separation_bits(
    study: Study, particles: Particles, taken: Sequence[Measurement], scope: Scope, stop: Stop | None = None
) -> float:
    """Return the most that any single allowed measurement could tell between these particles' places [bit].

    What only ohms tell apart is told apart once it is locked out: the verdict sends there anyway.
    """
    most = 0.0
    tables = list(_screened(study, particles, taken, scope, stop))
    dead_only = stop is not None and stop.leaves is Leaves.DEAD
    if Tool.OHMS in scope.tools and (dead_only or _locked_out(study, taken)):
        tables += _screened(study, particles, taken, scope, stop, dead=True)
    for table, screened in tables:
        best = np.argsort(-screened)[:4]
        mean, deviation = readings_of(study, particles, [table.measurements[c] for c in best])
        bits = [information_bits(mean[:, [i]], deviation[:, [i]], particles) for i in range(len(best))]
        most = max([most, *bits])
    return most


def _screened(
    study: Study,
    particles: Particles,
    taken: Sequence[Measurement],
    scope: Scope,
    stop: Stop | None,
    *,
    dead: bool = False,
) -> Iterator[_Screened]:
    """Every state's table with the screened information of its measurements [bit].

    Reading a ghost again tells nothing: what it strays by from the model stays.
    """
    for state in dead_states(study.circuit) if dead else reachable_states(study.circuit):
        table = candidate_table(study, state, scope, dead=dead)
        if not table.measurements or not permits(study.circuit, stop, table.measurements[0]):
            continue
        value, wander = rough_values(study, table, particles.row, particles.sample)
        screened = _screen(*_with_noise(table, value, _levelled(wander, particles), particles), particles)
        places = {measurement.place for measurement in taken}
        again = [c for c, m in enumerate(table.measurements) if m.place in places and m.unit == "V"]
        for c in again:
            if particles.weight @ wander[:, c] > GHOST_VOLTS:
                screened[c] = 0
        yield table, screened


def information_bits(mean: NDArray[np.float64], deviation: NDArray[np.float64], particles: Particles) -> float:
    """Expected information of reading some numbers together about the place of the fault [bit].

    The expectation over what may be read is taken at nodes of each particle's own spread (Gauss-Hermite quadrature),
    neighbours among the readings on opposite sides. Fewer nodes would hold a worse meter for a better one now and then.

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
    for node, share in NODES:
        read = mean + np.float32(node) * sides * deviation
        distance = np.zeros((len(mean), len(mean)), dtype=np.float32)
        for y, m, s in zip(read.T, mean.T, deviation.T, strict=True):
            distance += ((y[:, None] - m) / s) ** 2
        distance = 0.5 * distance + scale
        likeness = np.exp(distance.min(axis=1, keepdims=True) - distance) * weight
        shares = likeness @ members
        shares /= shares.sum(axis=1, keepdims=True)
        after += share * float(weight @ _entropy_bits(shares))
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
    units = np.array([measurement.unit for measurement in measurements])
    mean = prediction.value + np.einsum("pcd,pd->pc", slope, particles.shift)
    mean = np.where(np.isin(units, PHASORS), np.maximum(mean, 0), mean)
    noise = _noise(units, prediction.value, _levelled(prediction.wander, particles))
    stir = study.nuisance.house_stir[particles.sample][:, None]
    noise = noise + stir_variance(slope, stir)
    shared = np.einsum("pcd,pcd->pc", slope @ particles.covariance, slope)
    return mean, np.sqrt(noise + shared)


def _with_noise(
    table: CandidateTable, value: NDArray[np.floating], wander: NDArray[np.floating], particles: Particles
) -> tuple[NDArray[np.floating], NDArray[np.floating]]:
    """Return mean and deviation of rough values, heeding the readings so far only through level and gain."""
    moves = np.isin(table.units, PHASORS)
    mean = np.where(moves, value * particles.scale[:, None].astype(np.float32), value)
    noise = _noise(table.units, mean, wander)
    shared = np.where(moves, particles.scale_variance[:, None].astype(np.float32) * mean**2, 0)
    return mean, np.sqrt(noise + shared)


def _noise(units: NDArray[np.str_], value: NDArray[np.floating], wander: NDArray[np.floating]) -> NDArray[np.floating]:
    """Variance of measurements in their several units, (particles, measurements)."""
    noise = np.empty_like(value)
    for unit in np.unique(units).tolist():
        mine = units == unit
        noise[:, mine] = noise_variance(value[:, mine], wander[:, mine], unit)
    return noise


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

"""Which test to do next: the most expected information for the effort, among what is allowed."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.hands import Hands
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Zone
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.circuit.reachable import dead_states, reachable_states
from zesty_copper.core.diagnosis.model.answer import Stop
from zesty_copper.core.diagnosis.model.job import Scope, Way
from zesty_copper.core.diagnosis.plan.candidates import CandidateTable, candidate_table
from zesty_copper.core.diagnosis.plan.effort import effort_minutes
from zesty_copper.core.diagnosis.plan.information import GHOST_VOLTS, information_bits, levelled, readings_of
from zesty_copper.core.diagnosis.plan.particles import Particles
from zesty_copper.core.diagnosis.plan.rough import rough_values
from zesty_copper.core.diagnosis.plan.screening import screen, with_noise
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit
from zesty_copper.core.diagnosis.safety.stops import permits
from zesty_copper.core.faults.danger import Leaves
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Measurement, zone_of
from zesty_copper.core.observations.modes import Tool

__all__ = ["Card", "best_card", "card_of", "opening_card", "separation_bits"]

SHORT_LIST = 6
"""How many cards of each state pass the screening and are scored again."""
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


@dataclass(frozen=True)
class _Ranked:
    """Measurements of one card by their numbers in the table, what it takes [min], and what it promises [bit/min]."""

    chosen: tuple[int, ...]
    minutes: float
    rate: float


def best_card(
    compiled: CompiledCircuit,
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
    live = list(_screened(compiled, particles, taken, scope, stop))
    best = _best_of(compiled, particles, taken, scope, live, exhaustive=exhaustive)
    if Tool.OHMS in scope.tools and (_locked_out(compiled, taken) or best is None or best.rate < DEAD_FROM_RATE):
        dead = list(_screened(compiled, particles, taken, scope, stop, dead=True))
        card = _best_of(compiled, particles, taken, scope, dead, exhaustive=exhaustive)
        if card is not None and (best is None or card.rate > best.rate):
            return card
    return best


def _locked_out(compiled: CompiledCircuit, measurements: Sequence[Measurement]) -> bool:
    """Whether the last reading left a switch open that a hand locks."""
    opened = measurements[-1].open_switches if measurements else frozenset()
    return any(part.switch in opened and part.entry.moved_by == "hand" for part in compiled.circuit.series)


_Screened = tuple[CandidateTable, NDArray[np.float64]]


def _best_of(
    compiled: CompiledCircuit,
    particles: Particles,
    measurements: Sequence[Measurement],
    scope: Scope,
    tables: Sequence[_Screened],
    *,
    exhaustive: bool,
) -> Card | None:
    """Return the best card among some tables, in the order in which the technician chose to work."""
    last = measurements[-1] if measurements else None
    ranked = [(table, _ranked(compiled, table, screened, last)) for table, screened in tables]
    for zone in _ORDER[scope.way]:
        zone_cards = [(t, [c for c in cards if t.zones[c.chosen[0]] is zone]) for t, cards in ranked]
        card = _scored(compiled, particles, [(t, cards) for t, cards in zone_cards if cards], exhaustive=exhaustive)
        if card is not None and card.bits >= WAY_BITS:
            return card
    return _scored(compiled, particles, [(t, cards) for t, cards in ranked if cards], exhaustive=exhaustive)


def _scored(
    compiled: CompiledCircuit,
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
        mean, deviation = readings_of(compiled, particles, [table.measurements[c] for c in columns])
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
    compiled: CompiledCircuit, table: CandidateTable, screened: NDArray[np.float64], last: Measurement | None
) -> list[_Ranked]:
    """Every card of one state, the most promising first."""
    units = table.units.tolist()

    @cache
    def price(zone: Zone, asked: tuple[str, ...], hands: Hands) -> float:
        return effort_minutes(compiled.circuit, zone, (table.open_switches, hands), asked, last)

    # Three readings seldom tell more together than each by itself added up: good enough to rank them by.
    worth: dict[tuple[int, ...], float] = {(c,): bits for c, bits in enumerate(screened.tolist())}
    worth |= {spot: float(screened[list(spot)].sum()) for spot in table.spots}
    minutes = {
        chosen: price(table.zones[chosen[0]], tuple(units[c] for c in chosen), table.measurements[chosen[0]].hands)
        for chosen in worth
    }
    cards = [_Ranked(chosen, minutes[chosen], bits / minutes[chosen]) for chosen, bits in worth.items()]
    return sorted(cards, key=lambda card: -card.rate)


def opening_card(compiled: CompiledCircuit, particles: Particles, scope: Scope) -> Card | None:
    """Return the card that one begins with: leg to leg and each leg to ground of one spot, everything closed.

    Neither alone separates the look-alikes, and at the unit both are read through one cover. It is the spot that tells
    most for its effort where wires bring the supply.
    """
    table = candidate_table(compiled, frozenset(), scope)
    spots = [spot for spot in table.spots if _brings_the_supply(compiled.circuit, table.measurements[spot[0]])]
    for zone in _ORDER[scope.way] or _ORDER[Way.UNIT_BACK]:
        cards = [
            card_of(compiled, particles, [table.measurements[c] for c in spot], ())
            for spot in spots
            if table.zones[spot[0]] is zone
        ]
        if cards:
            return max(cards, key=lambda card: card.rate)
    return None


def _brings_the_supply(circuit: Circuit, measurement: Measurement) -> bool:
    """Whether volts are read between conductors of one part that brings a supply whole, ahead of what a call moves."""
    place = measurement.place
    if not isinstance(place, Between) or GROUND in (place.a, place.b) or not measurement.is_volts:
        return False
    (_, part), (_, other_part) = circuit.split_point(place.a), circuit.split_point(place.b)
    if part != other_part or part.conductor is None:
        return False
    source, *above = circuit.path(part)
    whole = [lane for lane in circuit.lanes_of(part) if lane in circuit.legs]
    return (
        source.entry.role is PartRole.SOURCE and len(whole) > 0 and not any(p.entry.moved_by == "call" for p in above)
    )


def card_of(
    compiled: CompiledCircuit, particles: Particles, measurements: Sequence[Measurement], taken: Sequence[Measurement]
) -> Card:
    """Return the card of measurements that are asked for whatever they tell."""
    zone, units = zone_of(compiled.circuit, measurements[0]), [measurement.unit for measurement in measurements]
    last = taken[-1] if taken else None
    minutes = effort_minutes(compiled.circuit, zone, measurements[0].state, units, last)
    bits = information_bits(*readings_of(compiled, particles, measurements), particles)
    return Card(tuple(measurements), bits, minutes)


def separation_bits(
    compiled: CompiledCircuit,
    particles: Particles,
    taken: Sequence[Measurement],
    scope: Scope,
    stop: Stop | None = None,
) -> float:
    """Return the most that any single allowed measurement could tell between these particles' places [bit].

    What only ohms tell apart is told apart once it is locked out: the verdict sends there anyway.
    """
    most = 0.0
    tables = list(_screened(compiled, particles, taken, scope, stop))
    dead_only = stop is not None and stop.leaves is Leaves.DEAD
    if Tool.OHMS in scope.tools and (dead_only or _locked_out(compiled, taken)):
        tables += _screened(compiled, particles, taken, scope, stop, dead=True)
    for table, screened in tables:
        best = np.argsort(-screened)[:4]
        mean, deviation = readings_of(compiled, particles, [table.measurements[c] for c in best])
        bits = [information_bits(mean[:, [i]], deviation[:, [i]], particles) for i in range(len(best))]
        most = max([most, *bits])
    return most


def _screened(
    compiled: CompiledCircuit,
    particles: Particles,
    measurements: Sequence[Measurement],
    scope: Scope,
    stop: Stop | None,
    *,
    dead: bool = False,
) -> Iterator[_Screened]:
    """Every state's table with the screened information of its measurements [bit].

    Reading a ghost again tells nothing: what it strays by from the model stays.
    """
    for state in dead_states(compiled.circuit) if dead else reachable_states(compiled.circuit):
        table = candidate_table(compiled, state, scope, dead=dead)
        if not table.measurements or not permits(compiled.circuit, stop, table.measurements[0]):
            continue
        value, wander = rough_values(compiled, table, particles.row, particles.sample)
        screened = screen(*with_noise(table, value, levelled(wander, particles), particles), particles)
        places = {measurement.place for measurement in measurements}
        again = [c for c, m in enumerate(table.measurements) if m.place in places and m.is_volts]
        for c in again:
            if particles.weight @ wander[:, c] > GHOST_VOLTS:
                screened[c] = 0
        yield table, screened

"""Readings that are owed before something is said, whatever the ranking holds of it.

A number that the rest strikes out is read again, since it may be what a second fault shows. Nobody calls a whole supply
wrong by one leg, or a service's neutral sound before its volts were read with the load on and off. Nor does anybody
condemn a motor that stands before the volts at its terminals were read, a load before its amps or ohms were, or a joint
on a leg of a three-phase motor by amps alone.
"""

from collections import Counter
from collections.abc import Iterator, Sequence

import numpy as np

from zesty_copper.core.circuit.hands import Hands, own_ends
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part, Zone
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.reachable import dead_states, is_off, reachable_states
from zesty_copper.core.diagnosis.infer.posterior import Posterior
from zesty_copper.core.diagnosis.model.answer import Stop
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.diagnosis.plan.candidates import dead_across
from zesty_copper.core.diagnosis.safety.stops import confirming, permits
from zesty_copper.core.faults.catalogue import single_phases
from zesty_copper.core.faults.fault import Fault
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Measurement, Reading, zone_of
from zesty_copper.core.observations.modes import MeterMode, Tool

__all__ = ["danger_to_confirm", "spot_unread", "worth_repeating"]

WHOLE_SUPPLY = frozenset(
    {FaultKind.SUPPLY_LOW, FaultKind.SUPPLY_DEAD, FaultKind.WRONG_SUPPLY, FaultKind.PRIMARY_LOST, FaultKind.HIGH_LEG}
)
"""What is wrong with every leg together, or shows in how they stand to each other."""
NOTHING_SHARE = 0.1
"""Share of a load's plate below which amps ahead of it are none of its own; common practice, no source."""


def danger_to_confirm(job: Job, stop: Stop | None) -> list[Measurement]:
    """Return the readings that decide whether a danger is real, which come before any other; empty if none is due."""
    owed = confirming(job.circuit, job.readings, loz=Tool.LOZ in job.scope.tools)
    shut = not (job.scope.panel_may_be_opened or job.scope.panel_volts_only)
    return [
        measurement
        for measurement in owed
        if permits(job.circuit, stop, measurement) and not (shut and zone_of(job.circuit, measurement) is Zone.PANEL)
    ]


def worth_repeating(posterior: Posterior, job: Job, stop: Stop | None, doubt: float = 0.5) -> Measurement | None:
    """Return the reading that is likeliest wrong, if it was taken only once; `doubt` is a probability.

    Parameters
    ----------
    doubt
        Probability of being wrong from which it is read again.
    """
    order: list[int] = np.argsort(-posterior.outlier, kind="stable").tolist()
    times = Counter(reading.measurement for reading in job.readings)
    for i in order:
        reading = job.readings[i].measurement
        once = times[reading] == 1
        safe = permits(job.circuit, stop, reading)
        doubted = float(posterior.outlier[i]) > doubt * (1 - posterior.unlisted)
        if doubted and once and safe:
            return reading
    return None


def spot_unread(job: Job, fault: Fault, stop: Stop | None) -> tuple[Measurement, ...]:
    """Return the volts that were never read and that a fault must show before it is told; none where all were."""
    circuit = job.circuit
    if fault.kind is FaultKind.LOAD_OPEN and fault.part is not None:
        return _load_unread(job, circuit.part(fault.part), fault.leg, stop)
    if fault.kind is FaultKind.STALLED and fault.part is not None:
        places = _at_terminals(circuit, circuit.part(fault.part), job.readings)
    elif fault.kind in WHOLE_SUPPLY and len(circuit.legs) > 1 and fault.part in (None, circuit.series[0].id):
        places = _on_unread_legs(circuit, job.readings)
    elif single_phases(circuit, fault):
        return _across_unread(job, fault)
    elif fault.kind is FaultKind.NOTHING_WRONG and circuit.supply.neutral:
        return _neutral_unread(job, stop)
    else:
        return ()
    return _volts_at(job, places, stop)


def _volts_at(job: Job, asked: Sequence[Between], stop: Stop | None) -> tuple[Measurement, ...]:
    """Volts at these places, in the first state that is safe; none where a cover may not be opened."""
    circuit = job.circuit
    panel = job.scope.panel_may_be_opened or job.scope.panel_volts_only
    for state in reachable_states(circuit):
        measurements = [Measurement(place=place, meter=_volts_meter(job), open_switches=state) for place in asked]
        if not all(permits(circuit, stop, measurement) for measurement in measurements):
            continue
        if all(panel or zone_of(circuit, measurement) is not Zone.PANEL for measurement in measurements):
            return tuple(measurements)
    return ()


def _neutral_unread(job: Job, stop: Stop | None) -> tuple[Measurement, ...]:
    """Volts of every leg with the load on, and of a lone leg with it off too: how a failing neutral ahead shows.

    Two legs that share it are told by each other; one alone only by how far it sags.
    """
    circuit = job.circuit
    if len(circuit.legs) > 1:
        # Read to each other they stay right while the neutral lets them slide.
        alone = [reading for reading in job.readings if _is_to_ground(reading)]
        return _volts_at(job, _on_unread_legs(circuit, alone), stop)
    (leg,) = circuit.legs
    shut = not (job.scope.panel_may_be_opened or job.scope.panel_volts_only)
    along = [part for part in reversed(circuit.path(circuit.loads[0])) if part.conductor is not None]
    for rest in reachable_states(circuit):
        fed = [part for part in along if not is_off(circuit, part, rest) and not (shut and part.zone is Zone.PANEL)]
        if not fed or not all(is_off(circuit, load, rest) for load in circuit.loads):
            continue
        return_lane = NEUTRAL if NEUTRAL in circuit.lanes_of(fed[0]) else GROUND
        place = Between(
            a=Point.at(leg, fed[0].id), b=GROUND if return_lane == GROUND else Point.at(return_lane, fed[0].id)
        )
        readings_taken = {
            (each_reading.measurement.place, each_reading.measurement.state)
            for each_reading in job.readings
            if each_reading.is_volts
        }
        two_states = [
            Measurement(place=place, meter=_volts_meter(job), open_switches=state) for state in (rest, frozenset[str]())
        ]
        measurements = [
            measurement for measurement in two_states if (measurement.place, measurement.state) not in readings_taken
        ]
        return tuple(measurements) if all(permits(circuit, stop, measurement) for measurement in measurements) else ()
    return ()


def _is_to_ground(reading: Reading) -> bool:
    """Whether it is of one leg against neutral or ground."""
    place = reading.measurement.place
    return isinstance(place, Between) and any(end.lane in (NEUTRAL, GROUND) for end in (place.a, place.b))


def _volts_meter(job: Job) -> MeterMode:
    """The mode in which volts are owed: what a ghost cannot fool, where the meter has it."""
    return MeterMode.LO_Z if Tool.LOZ in job.scope.tools else MeterMode.HI_Z


def _across_unread(job: Job, fault: Fault) -> tuple[Measurement, ...]:
    """Ohms across a break that amps alone tell: they say on which leg a motor runs without, not where it was lost."""
    circuit, leg = job.circuit, fault.leg or ""
    if fault.part is None or Tool.OHMS not in job.scope.tools:
        return ()
    part = circuit.part(fault.part)
    for reading in job.readings:
        place = reading.measurement.place
        if not isinstance(place, Between):
            continue
        on_leg = any(point.lane == leg for point in (place.a, place.b))
        if on_leg and (reading.measurement.observation.is_dead or reading.measurement.as_it_stands):
            return ()
    for state in dead_states(circuit):
        ahead = circuit.split_point(circuit.upstream_point(part, leg) or Point.at(leg, part.id))[1]
        across = dead_across(circuit, part, leg, state)
        if across and circuit.is_dead(ahead, state):
            shut = not job.scope.panel_may_be_opened and zone_of(circuit, across[0]) is Zone.PANEL
            return () if shut else tuple(across)
    return ()


def _load_unread(job: Job, load: Part, leg: str | None, stop: Stop | None) -> tuple[Measurement, ...]:
    """Amps in a load's lead, else ohms between its own leads, before it is called open: eyes and volts do not do."""
    circuit = job.circuit
    if load not in circuit.loads:
        return ()
    ends = {*circuit.terminals(load), *own_ends(circuit, load)}
    for reading in job.readings:
        place = reading.measurement.place
        if isinstance(place, Around) and (
            place.part in (load.id, circuit.feed(load).id) or _flows_nothing(circuit, place, reading.value, load)
        ):
            return ()
        if isinstance(place, Between) and reading.measurement.observation.is_dead and {place.a, place.b} <= ends:
            return ()
    lanes = [lane for lane in circuit.lanes_of(load) if lane not in (GROUND, NEUTRAL)]
    lane = leg if leg in lanes else lanes[0]
    clamped = Measurement(place=Around(leg=lane, part=load.id))
    if load.entry.clampable and permits(circuit, stop, clamped):
        return (clamped,)
    first, second = (
        Point.at(lane, load.id),
        next(end for end in own_ends(circuit, load) if end != Point.at(lane, load.id)),
    )
    for state in dead_states(circuit) if Tool.OHMS in job.scope.tools else ():
        if circuit.is_dead(circuit.feed(load), state):
            place = Between(a=first, b=second)
            alone = Hands(removed=frozenset({load.id}))
            return (Measurement(place=place, meter=MeterMode.OHM, open_switches=state, hands=alone),)
    return ()


def _flows_nothing(circuit: Circuit, place: Around, amps: float, load: Part) -> bool:
    """Whether so few amps ahead of a load say that it draws none, whatever else hangs there."""
    ahead = circuit.part(place.part) in circuit.path(load) and not place.also and place.leg in circuit.lanes_of(load)
    return ahead and load.load is not None and amps < NOTHING_SHARE * load.load.rated_amps


def _at_terminals(circuit: Circuit, motor: Part, readings: Sequence[Reading]) -> list[Between]:
    """Volts across a motor's terminals, called, unless such were read there or just ahead."""
    first, second = circuit.terminals(motor)[:2]
    lanes = {point.lane for point in (first, second)}
    for reading in readings:
        place = reading.measurement.place
        if not reading.is_volts or not isinstance(place, Between) or not reading.measurement.as_it_stands:
            continue
        if {point.lane for point in (place.a, place.b)} == lanes:
            return []
    return [Between(a=first, b=second)]


def _on_unread_legs(circuit: Circuit, readings: Sequence[Reading]) -> list[Between]:
    """Each leg to ground that no voltage reading has touched, where the others were read, else at the unit."""
    touched = set(_legs_read(circuit, readings))
    missing = [leg for leg in circuit.legs if leg not in touched]
    where = next((part for part in reversed(circuit.path(circuit.loads[0])) if part.conductor is not None), None)
    if where is None:
        return []
    return [Between(a=Point.at(leg, where.id), b=GROUND) for leg in missing if leg in circuit.lanes_of(where)]


def _legs_read(circuit: Circuit, readings: Sequence[Reading]) -> Iterator[str]:
    for reading in readings:
        place = reading.measurement.place
        if reading.is_volts and isinstance(place, Between):
            lanes = {point.lane for point in (place.a, place.b)} & set(circuit.legs)
            # Along one leg, or across a part of it, says how much is lost there, not how much there is.
            if len(lanes) == 2 or {place.a.lane, place.b.lane} - lanes:
                yield from lanes

"""When going on is dangerous: by what the suspects are, and by a short list of readings, whatever is likeliest.

A stop also says which tests it leaves: none may be asked that its own words forbid.
"""

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.reachable import is_off
from zesty_copper.core.circuit.unbalance import unbalance_percent
from zesty_copper.core.diagnosis.model.answer import Stop
from zesty_copper.core.diagnosis.safety.stray_volts import SHOCK_VOLTS, control_limit, is_metal, is_real
from zesty_copper.core.faults.catalogue import danger_of
from zesty_copper.core.faults.danger import Leaves, StopKind
from zesty_copper.core.faults.fault import Fault
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Measurement, Reading
from zesty_copper.core.observations.modes import DEAD_MODES, MeterMode
from zesty_copper.core.observations.registry import Place
from zesty_copper.core.observations.words import asked_words, value_words
from zesty_copper.core.words import say

__all__ = ["confirming", "permits", "reads_failing_neutral", "stop_for"]

WARNED = 0.6
"""Probability from which a danger is warned of: a warning does not wait for certainty."""
LEADING = 0.4
"""The same for a service neutral where no place is likelier: it is not named first without its caution."""
SPEAKS_ODDS = 4.0
"""By how much what was read must have raised the odds of danger: on three legs most faults are dangerous ones, and a
card that is there before anything was read is not read."""
CONVINCED = 0.9
"""Probability from which a danger is acted on without one more live reading."""

HIGH_LEG_SHARE = 1.07
"""Share of nominal that a leg to neutral exceeds only when something lifts it: ANSI C84.1 range B ends at 1.058 (127 V
of 120; from memory)."""
UNEQUAL_SHARE = 0.06
"""Difference of two legs to neutral, as a share of their sum, that a healthy service never shows; common practice, no
source (house loads seldom pull the legs more than 2 or 3 V apart)."""
ADDS_UP_SHARE = 0.04
"""How closely two legs to neutral add up to leg to leg where only the neutral strays."""
DEAD_SHARE, LOW_LEG_SHARE = 0.2, 0.9
"""A leg between these shares of nominal is compared with its mate at once: its neutral may be failing."""
PAIRS_PERCENT = 5.0
"""Unbalance above which no motor may run: NEMA MG 1 gives no derating above 5 % (from memory)."""
LIVE_SHARE = 0.5
"""Share of nominal that the best pair has where three legs are fed at all: below it nothing turns, nor burns."""
NO_AMPS_SHARE = 0.1
AMPS_SHARE = 0.25
"""A leg with less than a tenth of its mates' amps is lost, where those are at least a quarter of the plate's."""
FAR_OVER_SHARE, APART_SHARE = 1.6, 0.8
"""A leg with so much more than all plates behind it, another with so much less than that one: whatever turns is starved
of a phase. Common practice, no source (a phase lost ahead of a delta–wye puts 2 on one leg and 1 on the others)."""
_NEUTRAL_WORDS = say("safety.failing_service_neutral_burns")
_CONTROL_WORDS = say("safety.kill_panel_before_anyone")
_TITLES = {
    StopKind.LIVE_METAL: say("safety.stop_cabinet_live"),
    StopKind.LINE_ON_CONTROLS: say("safety.stop_line_voltage_controls"),
    StopKind.SERVICE_NEUTRAL: say("safety.stop_service_neutral_failing"),
    StopKind.LEG_OR_NEUTRAL: say("safety.stop_leg_or_neutral"),
    StopKind.PHASE_LOST: say("safety.stop_phase_lost"),
    StopKind.LOST_LEG: say("safety.stop_leg_lost_has"),
    StopKind.SECOND_SUPPLY: say("safety.stop_second_supply_feeds"),
    StopKind.STALLED: say("safety.stop_motor_not_turning"),
    StopKind.REVERSED: say("safety.stop_motors_run_backward"),
    StopKind.TRIPS: say("safety.stop_do_not_reset"),
}
_CLEARS = {
    StopKind.LIVE_METAL: say("safety.clears_live_metal"),
    StopKind.LINE_ON_CONTROLS: say("safety.clears_line_on_controls"),
    StopKind.SERVICE_NEUTRAL: say("safety.clears_service_neutral"),
    StopKind.LEG_OR_NEUTRAL: say("safety.clears_service_neutral"),
    StopKind.PHASE_LOST: say("safety.clears_phase_lost"),
    StopKind.LOST_LEG: say("safety.clears_lost_leg"),
    StopKind.SECOND_SUPPLY: say("safety.clears_second_supply"),
    StopKind.STALLED: say("safety.clears_stalled"),
    StopKind.REVERSED: say("safety.clears_reversed"),
    StopKind.TRIPS: say("safety.clears_trips"),
}
"""Which test says that going on is safe again."""
_ON_A_LOST_LEG = say("safety.three_phase_motor_lost")
_LIKELY = say("safety.not_yet_sure_off")


def stop_for(
    circuit: Circuit,
    faults: Sequence[Fault],
    by_fault: NDArray[np.float64],
    readings: Sequence[Reading],
    looks: Sequence[Look] = (),
    *,
    unwatched: Sequence[NDArray[np.float64]] = (),
) -> Stop | None:
    """Return what to stop at once: by a reading that says so itself, else where dangers are likelier than not.

    Parameters
    ----------
    by_fault
        (faults,): probability of each.
    unwatched
        The same without each thing that was watched and heard: who watches is mistaken one time in fifty, and a lost
        leg is not called by that.
    """
    by_rule = next(_by_rule(circuit, readings, looks), None)
    by_suspects = _by_suspects(circuit, faults, by_fault) if readings else None
    measured = [reading for reading in readings if reading.measurement.observation.tells_legs]
    if by_suspects is not None and not measured and by_suspects.kind is not StopKind.STALLED:
        by_suspects = None  # what is told and seen tells a motor that stands, not a leg
    if by_suspects is not None and by_suspects.kind is StopKind.LOST_LEG and len(measured) == 1:
        # One leg's amps say little without its mates', which are clamped in the same go.
        by_suspects = None if any(_mates(circuit, measured[0])) else by_suspects
    if by_suspects is not None and by_suspects.kind is StopKind.LOST_LEG:
        stands_unwatched = all(_by_suspects(circuit, faults, by_fault_left) is not None for by_fault_left in unwatched)
        by_suspects = by_suspects if stands_unwatched else None
    if by_rule is None or by_suspects is None:
        return by_rule or by_suspects
    update: dict[str, object] = {"suspect": by_suspects.suspect, "probability": by_suspects.probability}
    if by_rule.kind is StopKind.LOST_LEG and by_suspects.kind is StopKind.PHASE_LOST:
        # The readings say that a leg is lost, the suspects where.
        update |= by_suspects.model_dump(include={"kind", "title", "words", "clears"})
    return by_rule.model_copy(update=update)


def permits(circuit: Circuit, stop: Stop | None, measurement: Measurement) -> bool:
    """Whether a test is safe while a stop stands: ohms always are, on what is locked out and proved dead."""
    if stop is None or measurement.meter in DEAD_MODES:
        return True
    opened, hands = measurement.state
    match stop.leaves:
        case Leaves.BRIEF:
            return True
        case Leaves.IDLE:
            return not hands.pushed_in and all(is_off(circuit, load, opened) for load in circuit.loads)
        case Leaves.ISOLATED:
            return _is_isolated(circuit, opened)
        case Leaves.DEAD:
            return False


def reads_failing_neutral(circuit: Circuit, readings: Sequence[Reading]) -> bool:
    """Whether readings say by themselves that a service neutral fails, whatever is likeliest."""
    return any(True for _ in (*_legs_adding_up(circuit, readings), *_one_leg_too_high(circuit, readings)))


def confirming(circuit: Circuit, readings: Sequence[Reading], *, loz: bool) -> list[Measurement]:
    """Return the readings that decide whether a danger is real, to be taken in one go; empty if none is due.

    Volts where none belong are read again in the low-impedance mode; a leg that strays is compared with its mate, and
    a clamped leg of a three-phase motor with both of its mates.

    Parameters
    ----------
    loz
        Whether the meter has a low-impedance mode.
    """
    measurements = {reading.measurement for reading in readings}
    places = {(m.place, m.state) for m in measurements}
    for reading in readings:
        if loz and (again := _in_low_impedance(circuit, reading)) is not None and again not in measurements:
            return [again]
        mates = [mate for mate in _mates(circuit, reading) if (mate, reading.measurement.state) not in places]
        if mates:
            return [reading.measurement.model_copy(update={"place": mate}) for mate in mates]
    return []


def _in_low_impedance(circuit: Circuit, reading: Reading) -> Measurement | None:
    """Return the same in the low-impedance mode, for volts on controls or metal where none belong."""
    place, meter = reading.measurement.place, reading.measurement.meter
    if not isinstance(place, Between) or meter is not MeterMode.HI_Z or not reading.is_volts:
        return None
    limit = control_limit(circuit, place) or (SHOCK_VOLTS if is_metal(place) else None)
    suspect = limit is not None and reading.value > limit
    return reading.measurement.model_copy(update={"meter": MeterMode.LO_Z}) if suspect else None


def _mates(circuit: Circuit, reading: Reading) -> Iterator[Place]:
    """The same on the other legs, where one alone says too little to tell a danger by.

    Two legs of a motor that runs on two look like a motor at work: all three are clamped in a row.
    """
    place, state = reading.measurement.place, reading.measurement.open_switches
    if reading.measurement.hands.take_apart:
        return
    if (
        isinstance(place, Around)
        and not place.also
        and not place.start
        and _is_called(circuit, circuit.part(place.part), state)
    ):
        part = circuit.part(place.part)
        legs = circuit.turning_legs(part) or (circuit.lanes_of(part) if part in circuit.three_phase_motors else ())
        if place.leg in legs:
            yield from (place.model_copy(update={"leg": leg}) for leg in legs if leg != place.leg)
    if not isinstance(place, Between) or not reading.is_volts:
        return
    supply = circuit.supply
    opposite = len(supply.legs) == 2 and supply.neutral and abs(sum(supply.phasors.values())) < 1
    if opposite and (leg_and_place := _leg_against(circuit, place)) is not None:
        leg, _, part = leg_and_place
        share = reading.value / max(abs(volts) for volts in supply.phasors.values())
        if DEAD_SHARE < share < LOW_LEG_SHARE or share > HIGH_LEG_SHARE:
            other_leg = next(text for text in circuit.legs if text != leg)
            point = (
                Point.at(other_leg, part.id)
                if other_leg in circuit.lanes_of(part)
                else circuit.upstream_point(part, other_leg)
            )
            if point is not None:
                swap = {Point.at(leg, part.id): point}
                yield Between(a=swap.get(place.a, place.a), b=swap.get(place.b, place.b))


def _by_suspects(circuit: Circuit, faults: Sequence[Fault], by_fault: NDArray[np.float64]) -> Stop | None:
    dangers = {f: danger for f, fault in enumerate(faults) if (danger := danger_of(circuit, fault)) is not None}
    share = float(by_fault[list(dangers)].sum()) if dangers else 0.0
    before = sum(faults[f].prior for f in dangers)
    warned = LEADING if _neutral_leads(circuit, faults, by_fault) else WARNED
    if share < warned or share * (1 - before) < SPEAKS_ODDS * before * (1 - share):
        return None
    chief = max(dangers, key=lambda f: by_fault[f])
    kind, leaves, words = dangers[chief]
    if share < CONVINCED and leaves is not Leaves.ISOLATED:
        leaves, words = Leaves.BRIEF, f"{_LIKELY} {words[0].lower()}{words[1:]}"
    return _stopped(kind, words, leaves, suspect=faults[chief].key, probability=share)


def _neutral_leads(circuit: Circuit, faults: Sequence[Fault], by_fault: NDArray[np.float64]) -> bool:
    """Whether the likeliest place is a service neutral."""
    places: dict[tuple[str, str], float] = {}
    for fault, probability in zip(faults, by_fault.tolist(), strict=True):
        places[fault.place] = places.get(fault.place, 0.0) + probability
    part, leg = max(places, key=lambda place: places[place])
    return leg == NEUTRAL and any(
        each_part.id == part and each_part.entry.role is PartRole.SOURCE for each_part in circuit.series
    )


def _by_rule(circuit: Circuit, readings: Sequence[Reading], looks: Sequence[Look]) -> Iterator[Stop]:
    """Readings that stop the work by themselves, the most dangerous first."""
    yield from _live_metal(circuit, readings)
    yield from _line_on_controls(circuit, readings)
    yield from _legs_adding_up(circuit, readings)
    yield from _one_leg_too_high(circuit, readings)
    yield from _lost_leg(circuit, readings)
    if any(look.sign == "trips_at_once" and look.seen for look in looks):
        yield _stopped(StopKind.TRIPS, say("safety.trips_once_leave_off"), Leaves.DEAD)


def _stopped(
    kind: StopKind,
    words: str,
    leaves: Leaves,
    *,
    readings: tuple[str, ...] = (),
    suspect: str | None = None,
    probability: float | None = None,
) -> Stop:
    return Stop(
        kind=kind,
        suspect=suspect,
        probability=probability,
        readings=readings,
        title=_TITLES[kind],
        words=words,
        clears=_CLEARS[kind],
        leaves=leaves,
    )


def _by_reading(circuit: Circuit, kind: StopKind, words: str, leaves: Leaves, because: Sequence[Reading]) -> Stop:
    readings_words = "; ".join(
        f"{value_words(reading.value, reading.unit)}, {asked_words(circuit, reading.measurement)}"
        for reading in because
    )
    return _stopped(kind, f"{readings_words}. {words}", leaves, readings=tuple(reading.id for reading in because))


def _volts(readings: Sequence[Reading]) -> Iterator[tuple[Reading, Between]]:
    for reading in readings:
        if reading.is_volts and isinstance(reading.measurement.place, Between):
            yield reading, reading.measurement.place


def _live_metal(circuit: Circuit, readings: Sequence[Reading]) -> Iterator[Stop]:
    for reading, place in _volts(readings):
        real = reading.measurement.meter is MeterMode.LO_Z
        if is_metal(place) and real and reading.value > SHOCK_VOLTS:
            words = say("safety.metal_hands_touch_live")
            yield _by_reading(circuit, StopKind.LIVE_METAL, words, Leaves.DEAD, [reading])


def _line_on_controls(circuit: Circuit, readings: Sequence[Reading]) -> Iterator[Stop]:
    for reading, place in _volts(readings):
        limit = control_limit(circuit, place)
        if limit is not None and is_real(reading, place) and reading.value > limit:
            yield _by_reading(circuit, StopKind.LINE_ON_CONTROLS, _CONTROL_WORDS, Leaves.DEAD, [reading])


def _legs_adding_up(circuit: Circuit, readings: Sequence[Reading]) -> Iterator[Stop]:
    """One leg to neutral or ground high and the other low, adding up to leg to leg."""
    supply = circuit.supply
    legs = {leg: abs(volts) for leg, volts in supply.phasors.items()}
    if len(legs) != 2 or not supply.neutral or abs(sum(supply.phasors.values())) > 1:
        return
    nominal = max(legs.values())
    by_place: dict[tuple[Part, frozenset[str], str], dict[str, Reading]] = {}
    for reading, place in _volts(readings):
        leg_and_place = _leg_against(circuit, place)
        if leg_and_place is not None:
            leg, return_lane, part = leg_and_place
            by_place.setdefault((part, reading.measurement.open_switches, return_lane), {})[leg] = reading
    for (part, _, _), by_leg in by_place.items():
        if len(by_leg) < 2:
            continue
        low, high = sorted(by_leg.values(), key=lambda one: one.value)
        whole = low.value + high.value
        unequal = high.value - low.value > UNEQUAL_SHARE * whole
        adds_up = abs(whole / (2 * nominal) - 1) < 2 * ADDS_UP_SHARE
        # A poor joint on one leg adds up too, but lifts neither; ahead of the branch both are the utility's.
        lifted = high.value > HIGH_LEG_SHARE * nominal or (part.entry.role is PartRole.SOURCE and low.value > 0)
        if unequal and adds_up and lifted:
            yield _by_reading(circuit, StopKind.SERVICE_NEUTRAL, _NEUTRAL_WORDS, Leaves.DEAD, [low, high])


def _leg_against(circuit: Circuit, place: Between) -> tuple[str, str, Part] | None:
    """Leg, neutral or ground, and where, of a reading from a leg of the first supply to one of these two."""
    ends = sorted((place.a, place.b), key=lambda point: point.lane in (GROUND, NEUTRAL))
    leg, return_lane = ends[0].lane, ends[1].lane
    if leg not in circuit.legs or return_lane not in (GROUND, NEUTRAL) or ends[0].part_id is None:
        return None
    part = circuit.part(ends[0].part_id)
    root = part if part.entry.role is PartRole.SOURCE else circuit.root(part)
    return (leg, return_lane, part) if root == circuit.series[0] else None


def _one_leg_too_high(circuit: Circuit, readings: Sequence[Reading]) -> Iterator[Stop]:
    """A 120 V leg far above nominal: its neutral has let go, and the other leg's loads lift it."""
    supply = circuit.supply
    if len(supply.legs) != 1 or not supply.neutral or supply.line_volts > 130:
        return
    for reading, place in _volts(readings):
        if _leg_against(circuit, place) and reading.value > HIGH_LEG_SHARE * supply.line_volts:
            yield _by_reading(circuit, StopKind.SERVICE_NEUTRAL, _NEUTRAL_WORDS, Leaves.DEAD, [reading])


def _lost_leg(circuit: Circuit, readings: Sequence[Reading]) -> Iterator[Stop]:
    """Pairs badly unequal ahead of a three-phase motor, called or not, or amps in two of its legs and none in one."""
    pairs: dict[tuple[Part, frozenset[str]], dict[frozenset[str], tuple[Reading, float]]] = {}
    clamped: dict[tuple[Part, frozenset[str]], dict[str, Reading]] = {}
    for reading in readings:
        place, state = reading.measurement.place, reading.measurement.open_switches
        if reading.measurement.hands.take_apart:
            continue  # a lead that is off makes legs unequal by itself
        if isinstance(place, Between) and reading.is_volts:
            spot = _pair_of(circuit, place)
            if spot is not None and _feeds_motor(circuit, spot[0], state):
                pairs.setdefault((spot[0], state), {})[spot[1]] = (reading, spot[2])
        if isinstance(place, Around) and not place.also:
            part = circuit.part(place.part)
            if _is_called(circuit, part, state):
                clamped.setdefault((part, state), {})[place.leg] = reading
    for pair in pairs.values():
        shares = [reading.value / nominal for reading, nominal in pair.values()]
        if len(pair) > 1 and max(shares) > LIVE_SHARE and unbalance_percent(shares) > PAIRS_PERCENT:
            because = [reading for reading, _ in pair.values()]
            yield _by_reading(circuit, StopKind.LOST_LEG, _ON_A_LOST_LEG, Leaves.IDLE, because)
    for (part, _), amps in clamped.items():
        low, *mates = sorted(amps.values(), key=lambda one: one.value)
        plate = _plate_amps(circuit, part)
        if mates and mates[0].value > AMPS_SHARE * plate and low.value < NO_AMPS_SHARE * mates[0].value:
            yield _by_reading(circuit, StopKind.LOST_LEG, _ON_A_LOST_LEG, Leaves.IDLE, [low, *mates])
        elif len(mates) == 2 and all(_runs_on(each_reading) for each_reading in (low, *mates)):
            # All three carry, and one of them far more than everything behind it asks for: a phase is lost further up.
            high = mates[-1].value
            if high > FAR_OVER_SHARE * circuit.carried_amps(part) and low.value < APART_SHARE * high:
                yield _by_reading(circuit, StopKind.LOST_LEG, _ON_A_LOST_LEG, Leaves.IDLE, [low, *mates])


def _runs_on(reading: Reading) -> bool:
    """Whether amps were read while it ran, and not at its start."""
    return isinstance(reading.measurement.place, Around) and not reading.measurement.place.start


def _pair_of(circuit: Circuit, place: Between) -> tuple[Part, frozenset[str], float] | None:
    """Where a pair of three legs was read, which, and what it should be [V]."""
    if GROUND in (place.a, place.b):
        return None
    (lane_a, part_a), (lane_b, part_b) = circuit.split_point(place.a), circuit.split_point(place.b)
    legs = circuit.turning_legs(part_a)
    if part_a != part_b or not {lane_a, lane_b} <= set(legs) or lane_a == lane_b:
        return None
    root = part_a if part_a.entry.role is PartRole.SOURCE else circuit.root(part_a)
    phasors = circuit.supply_of(root).phasors
    return part_a, frozenset({lane_a, lane_b}), abs(phasors[lane_a] - phasors[lane_b])


def _is_called(circuit: Circuit, part: Part, open_switches: frozenset[str]) -> bool:
    """Whether a three-phase motor behind a part, or the motor itself, is fed in this state."""
    return any(
        (part in circuit.path(motor)) and not is_off(circuit, motor, open_switches)
        for motor in circuit.three_phase_motors
    )


def _feeds_motor(circuit: Circuit, part: Part, open_switches: frozenset[str]) -> bool:
    """Whether a part is ahead of a three-phase motor, with nothing opened ahead of the part itself."""
    ahead = any(part in circuit.path(motor) for motor in circuit.three_phase_motors)
    return ahead and not is_off(circuit, part, open_switches)


def _plate_amps(circuit: Circuit, part: Part) -> float:
    amps = [m.load.rated_amps for m in circuit.three_phase_motors if part in circuit.path(m) and m.load is not None]
    return min(amps, default=0.0)


def _is_isolated(circuit: Circuit, open_switches: frozenset[str]) -> bool:
    """Whether every supply is opened at its first switch that a hand moves."""
    first: dict[str, str] = {}
    for part in circuit.series:
        if part.switch and part.entry.moved_by == "hand":
            first.setdefault(circuit.path(part)[0].id, part.switch)
    return set(first.values()) <= open_switches

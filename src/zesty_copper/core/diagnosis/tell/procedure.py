"""A test as a technician does it: the state to set, the meter proved, where the probes go, what each suspect shows."""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.hands import FREE
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Zone
from zesty_copper.core.diagnosis.model.answer import LookAsked, NextTest, Predicted, Range, Stop
from zesty_copper.core.diagnosis.plan.effort import efforts
from zesty_copper.core.diagnosis.plan.information import readings_of
from zesty_copper.core.diagnosis.plan.inspection import HANDLE
from zesty_copper.core.diagnosis.plan.next_test import Card
from zesty_copper.core.diagnosis.plan.particles import Particles
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit
from zesty_copper.core.diagnosis.tell.evidence import spread
from zesty_copper.core.faults.danger import Leaves
from zesty_copper.core.observations.measurement import Measurement, zone_of
from zesty_copper.core.observations.words import asked_words, state_words
from zesty_copper.core.words import say

__all__ = ["card_told", "look_told"]

TOLD_SUSPECTS = 6
"""For how many suspects a test says what it would show."""
RECORDED_SHARE = 0.25
"""Share of the probability that what comes and goes must hold before a reading is worth watching for minutes."""
ZONE_WORDS = {Zone.PANEL: "panel", Zone.DISCONNECT: "disconnect", Zone.UNIT: "unit", Zone.THERMOSTAT: "thermostat"}


def card_told(
    compiled: CompiledCircuit,
    particles: Particles,
    by_fault: NDArray[np.float64],
    card: Card,
    last: Measurement | None,
    *,
    stop: Stop | None = None,
) -> NextTest:
    """Say a card of measurements: how to take it, and what it would show under each suspect."""
    circuit = compiled.circuit
    mean, deviation = readings_of(compiled, particles, card.measurements)
    predictions: list[Predicted] = []
    for f in np.argsort(-by_fault, kind="stable")[:TOLD_SUSPECTS]:
        fault = compiled.faults[f]
        mine = particles.fault == f
        if by_fault[f] < 0.01 or not mine.any():
            continue
        times = [mine & (particles.row == row) for row in dict.fromkeys((int(compiled.row[f]), compiled.healthy))]
        ranges = tuple(
            _distinct(
                [
                    spread(mean[at, c], deviation[at, c], particles.weight[at], measurement.observation)
                    for at in times
                    if at.any()
                ]
            )
            for c, measurement in enumerate(card.measurements)
        )
        _add_alike(predictions, Predicted(suspects=(fault.key,), words=(fault.words,), ranges=ranges))
    first = card.measurements[0]
    places = tuple(asked_words(circuit, measurement) for measurement in card.measurements)
    steps = _steps(circuit, last, first)
    flickers = float(by_fault[compiled.intermittent].sum())
    recorded = _recorded(card.measurements[0]) if stop is None and flickers >= RECORDED_SHARE else ()
    return NextTest(
        measurements=card.measurements,
        look=None,
        words=places,
        state=state_words(circuit, card.measurements[0]),
        steps=steps,
        procedure=(
            *_under(stop),
            *steps,
            *first.observation.procedure(circuit, first, places),
            *recorded,
        ),
        settles=_settles(predictions),
        bits=card.bits,
        doubt_bits=_doubt_bits(particles),
        minutes=card.minutes + (efforts().record if recorded else 0.0),
        predictions=tuple(predictions),
        caution=_caution(circuit, card.measurements[0]),
    )


def look_told(
    particles: Particles, asked: LookAsked, bits: float, minutes: float, stop: Stop | None = None
) -> NextTest:
    """Say a look over a box, or at the handle of a switch."""
    words, procedure, settles, caution = _handle_words(asked) if asked.sign == HANDLE else _box_words(asked)
    return NextTest(
        measurements=(),
        look=asked,
        words=(words,),
        state="as it is",
        steps=(),
        procedure=(*_under(stop), *procedure),
        settles=settles,
        bits=bits,
        doubt_bits=_doubt_bits(particles),
        minutes=minutes,
        predictions=(),
        caution=caution,
    )


def _box_words(asked: LookAsked) -> tuple[str, tuple[str, ...], str, str]:
    """Say a look over a box: what, how, what it settles, and with what caution."""
    where = ZONE_WORDS[asked.zone]
    return (
        say("diagnosis.look_over_box", where=where),
        (
            say("diagnosis.open_cover_look_if", where=where),
            say(
                "diagnosis.look_anything_first",
                label=asked.label.lower(),
                places=", ".join(p.words for p in asked.places[:4]),
            ),
            say("diagnosis.say_where_there_nothing"),
        ),
        say("diagnosis.mark_makes_joint_likelier"),
        say("diagnosis.covers_off_means_live"),
    )


def _handle_words(asked: LookAsked) -> tuple[str, tuple[str, ...], str, str]:
    """Say a look at a handle: what, how, what it settles, and with what caution."""
    return (
        say("diagnosis.look_at_handle", places=", ".join(place.words for place in asked.places)),
        (
            say("diagnosis.look_where_handle_stands"),
            say("diagnosis.off_middle_say_so"),
            say("diagnosis.move_off_firmly_back"),
        ),
        say("diagnosis.switch_off_tripped_found"),
        say("diagnosis.one_reset_most_onto"),
    )


def _under(stop: Stop | None) -> tuple[str, ...]:
    """Say first what a stop keeps off during the test."""
    if stop is None:
        return ()
    match stop.leaves:
        case Leaves.BRIEF:
            return (say("diagnosis.called_only_seconds_reading"),)
        case Leaves.IDLE:
            return (say("diagnosis.unit_stays_off_nothing"),)
        case Leaves.ISOLATED:
            return (say("diagnosis.every_supply_off_first"),)
        case Leaves.DEAD:
            return (say("diagnosis.off_panel_locked_out"),)


def _doubt_bits(particles: Particles) -> float:
    mass = np.bincount(particles.label, particles.weight)
    mass = mass[mass > 0]
    return float(-(mass * np.log2(mass)).sum())


def _recorded(first: Measurement) -> tuple[str, ...]:
    """Say how a contact that comes and goes is caught: its one moment in some minutes, not the moment of a reading."""
    if not first.observation.is_linear or not first.as_it_stands:
        return ()
    return (
        say("diagnosis.may_come_go_leave", record=efforts().record),
        say("diagnosis.move_no_wire_while"),
    )


def _settles(predictions: Sequence[Predicted]) -> str:
    """Say which suspects a test tells apart: those whose ranges do not meet in at least one reading."""
    groups = [group for group in predictions if group.suspects]
    if len(groups) < 2:
        return say("diagnosis.makes_leading_suspect_surer")
    clear = all(_apart(a, b) for a, b in pairwise(groups[:3]))
    first, second = groups[0].words[0], groups[1].words[0]
    word = "tells apart" if clear else say("diagnosis.helps_tell_apart")
    further_words = say("diagnosis.and_more_places", count=len(groups) - 2) if len(groups) > 2 else ""
    return f"It {word}: {first}; {second}{further_words}."


def _apart(a: Predicted, b: Predicted) -> bool:
    return any(
        all(x.high < y.low or y.high < x.low for x in first for y in second)
        for first, second in zip(a.ranges, b.ranges, strict=True)
    )


def _add_alike(groups: list[Predicted], one: Predicted) -> None:
    """Put a prediction to those it would be read alike with; their ranges grow to hold it."""
    for i, group in enumerate(groups):
        pairs = list(zip(group.ranges, one.ranges, strict=True))
        if all(len(a) == len(b) and all(_alike(x, y) for x, y in zip(a, b, strict=True)) for a, b in pairs):
            groups[i] = Predicted(
                suspects=group.suspects + one.suspects,
                words=group.words + one.words,
                ranges=tuple(
                    tuple(Range(low=min(x.low, y.low), high=max(x.high, y.high)) for x, y in zip(a, b, strict=True))
                    for a, b in pairs
                ),
            )
            return
    groups.append(one)


def _alike(a: Range, b: Range) -> bool:
    """Whether two ranges share more than half of what they cover together; a volt is added for the meter's digits."""
    shared = min(a.high, b.high) - max(a.low, b.low) + 1
    return shared > 0.5 * (max(a.high, b.high) - min(a.low, b.low) + 1)


def _distinct(ranges: list[Range]) -> tuple[Range, ...]:
    """Drop a range that lies within another's reach."""
    distinct: list[Range] = []
    for candidate in ranges:
        if not any(candidate.low <= each_range.high and each_range.low <= candidate.high for each_range in distinct):
            distinct.append(candidate)
    return tuple(distinct)


def _steps(circuit: Circuit, last: Measurement | None, measurement: Measurement) -> tuple[str, ...]:
    """Say what to move: open from the load up, close from the source down, so never under load; leads while it is off.

    What only this test takes off is said among its own steps, once it is proved dead.
    """
    before, hands = last.state if last else (frozenset[str](), FREE)
    after, holds = measurement.state
    opened = [f"{s.name}: {s.open}" for s in reversed(circuit.switches) if s.id in after - before]
    closed = [f"{s.name}: {s.closed}" for s in circuit.switches if s.id in before - after]
    let_go = [
        say("diagnosis.contact_let_go", name=s.name)
        for s in circuit.switches
        if s.id in hands.pushed_in | hands.held_out
    ]
    back = [
        say("diagnosis.leads_back_marked", name=circuit.part(part_id).name)
        for part_id in sorted(hands.removed - holds.removed)
    ]
    for point in sorted(hands.lifted - holds.lifted):
        lane, part = circuit.split_point(point)
        back.append(say("diagnosis.ahead_landed_again", lane=lane, name=part.name))
    return (*let_go, *opened, *back, *closed)


def _caution(circuit: Circuit, measurement: Measurement) -> str:
    if zone_of(circuit, measurement) is Zone.PANEL:
        return say("diagnosis.inside_panel_only_if")
    return measurement.observation.caution(measurement)

"""What a run in time means: stages held against what was seen, the fan after the heat, and what never lets go."""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.parts.catalogue import FailureMode
from zesty_copper.core.errors import BadInput
from zesty_copper.core.ratings.formulas import air_rise
from zesty_copper.core.ratings.rules.finding import Status
from zesty_copper.core.ratings.worked import computed, given, number
from zesty_copper.core.tools.timing.model import SeenLevel, TimedStage, TimingFinding
from zesty_copper.core.words import say

__all__ = ["Span", "after_the_heat", "fan_of", "is_heat", "never_lets_go", "staged"]

ELEMENT_S = 28.0
"""In how long the air takes what open elements hold [s]: about 0.2 lb of wire for each kW, 1,200 °F over the air, 0.11
Btu/(lb·°F): 26 Btu, over the 57 Btu/min that a kilowatt gives the air. Common practice, no source."""
WARM_F = 20.0
"""By so much the air may still be warmed when the fan stops [°F]; common practice, no source."""
LEAST_STEP_A = 0.5
STEP_SHARE = 0.25
"""Share by which a step of the amps may differ from what is due, and be the same stage."""
HAND_S = 3.0
"""By so much a time noted by hand is off [s]."""


@dataclass(frozen=True)
class Span:
    """When something happens [s]: nominally, at the soonest, at the latest."""

    at_s: float
    soonest_s: float
    latest_s: float


def is_heat(part: Part) -> bool:
    """Whether a load is an element and no motor."""
    return FailureMode.STALL not in part.entry.may and not part.entry.electronic and not part.entry.elsewhere


def staged(due: Sequence[tuple[str, float, Span]], seen: Sequence[SeenLevel]) -> Iterator[TimedStage]:
    """Hold steps of the amps that are due against those that were seen.

    Parameters
    ----------
    due
        What moves, by how much the amps change [A], and when.
    """
    steps = [(now.at_s, now.amps - before.amps) for before, now in pairwise(seen)]
    steps = [(at, amps) for at, amps in steps if abs(amps) >= LEAST_STEP_A]
    for words, amps, span in due:
        status, seen_s = Status.CANNOT_TELL, None
        if seen:
            like = [(at, step) for at, step in steps if abs(step - amps) <= max(1.0, STEP_SHARE * abs(amps))]
            nearest = min(like, key=lambda one: _outside(one[0], span), default=None)
            if nearest is not None:
                steps.remove(nearest)
                seen_s = nearest[0]
                status = Status.MET if _outside(seen_s, span) <= HAND_S else Status.ADVICE
            elif span.latest_s <= seen[-1].at_s:
                # What is due after the last number that was noted stays open.
                status = Status.NOT_MET
        yield TimedStage(
            words=words,
            amps=round(amps, 1),
            at_s=round(span.at_s, 1),
            soonest_s=round(span.soonest_s, 1),
            latest_s=round(span.latest_s, 1),
            seen_s=seen_s,
            status=status,
        )


def _outside(at_s: float, span: Span) -> float:
    """By how much a time misses a span [s]."""
    return max(span.soonest_s - at_s, at_s - span.latest_s, 0.0)


def after_the_heat(fan: Part, heat_off: Span, fan_off: Span | None, last_kw: float, cfm: float | None) -> TimingFinding:
    """Judge whether the fan outlasts the heat by what the elements hold: t = τ·ln(rise/20 °F).

    Parameters
    ----------
    heat_off, fan_off
        When the last element goes off, and when the fan does; none where it runs on.
    last_kw
        Of the elements that go off last [kW].
    """
    label = say("tools.fan_after_heat", fan=fan.name)
    if fan_off is None:
        return TimingFinding(label=label, status=Status.MET, words=say("tools.fan_runs_on", fan=fan.name))
    least = fan_off.soonest_s - heat_off.latest_s
    usual = fan_off.at_s - heat_off.at_s
    if usual < 0:
        words = say("tools.fan_stops_first", fan=fan.name, seconds=-usual)
        return TimingFinding(label=label, status=Status.NOT_MET, words=words)
    if cfm is None:
        words = say("tools.fan_outlasts_unjudged", fan=fan.name, usual=usual)
        return TimingFinding(label=label, status=Status.CANNOT_TELL, words=words)
    rise = air_rise(last_kw, cfm)
    needed = max(ELEMENT_S * math.log(max(rise.value / WARM_F, 1.0)), 0.0)
    logarithm = math.log(max(rise.value / WARM_F, 1.0))
    worked = rise.then(
        given("natural logarithm of the rise over 20 °F", logarithm, ""),
        computed("the fan has to outlast the heat by", f"{number(ELEMENT_S)} × {number(logarithm)}", needed, "s"),
    )
    if least >= needed:
        words = say("tools.fan_outlasts", fan=fan.name, needed=needed, least=least)
        return TimingFinding(label=label, status=Status.MET, words=words, worked=worked)
    status = Status.ADVICE if usual >= needed else Status.NOT_MET
    words = say("tools.fan_too_short", fan=fan.name, needed=needed, usual=usual, least=max(least, 0.0))
    return TimingFinding(label=label, status=status, words=words, worked=worked)


def never_lets_go(
    circuit: Circuit, held: Mapping[str, float], was_held: Mapping[str, float], names: Mapping[str, str]
) -> Iterator[TimingFinding]:
    """Tell what is still pulled in when nothing is called any more, with the volts on its coil.

    Parameters
    ----------
    held, was_held
        Share of its volts on the coil of each contact that is in at the end: as changed, and as the circuit is drawn
        with nothing wrong, where what is still called stays in by right.
    """
    for switch, share in held.items():
        if switch in was_held:
            continue
        coil = next(each_switch.coil for each_switch in circuit.switches if each_switch.id == switch) or ""
        load = circuit.part(coil).load
        volts = share * (load.rated_volts if load else 24.0)
        words = say("tools.fed_back_in_time", name=names[switch], volts=volts, coil=circuit.part(coil).name)
        yield TimingFinding(
            label=say("tools.still_in", name=names[switch]),
            status=Status.NOT_MET,
            words=words,
        )


def fan_of(circuit: Circuit, told: str | None, longest: str | None) -> Part | None:
    """Return what blows over the heat: what was told, or what runs longest.

    Raises
    ------
    BadInput
        If what was told is no load.
    """
    chosen = told or longest
    if chosen is None:
        return None
    part = circuit.part(chosen)
    if part.load is None or is_heat(part):
        raise BadInput(say("tools.no_fan", name=part.name), "fan")
    return part

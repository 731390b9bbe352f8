"""A run in time, put together: clicks, what each moment reads, stages, and what follows."""

from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part, Zone
from zesty_copper.core.diagnosis.predict.compiled import compile_circuit
from zesty_copper.core.errors import BadInput
from zesty_copper.core.ratings.rules.finding import Status
from zesty_copper.core.tools.timing.delays import Pace
from zesty_copper.core.tools.timing.judge import Span, after_the_heat, fan_of, is_heat, never_lets_go, staged
from zesty_copper.core.tools.timing.model import Click, Moment, Timed, TimingAsked, TimingFinding
from zesty_copper.core.tools.timing.run import At, ContactsHeld, TimedRun, followed
from zesty_copper.core.tools.what_if import changed_by, middle_sample, row_of
from zesty_copper.core.words import say

__all__ = ["timed"]

LEAST_AMPS = 0.3
"""What changes less is no step [A]."""
LEAST_MOMENT_S = 0.05
"""Contacts without a delay settle one after the other in no time [s]."""


def timed(circuit: Circuit, asked: TimingAsked) -> Timed:
    """Follow a run of a circuit in time, and say what each moment reads and what follows.

    Raises
    ------
    BadInput
        If it speaks of a switch, part, conductor or suspect that is not there.
    """
    _check(circuit, asked)
    compiled = compile_circuit(circuit)
    changed, sample = changed_by(compiled, row_of(compiled, asked.suspect), asked.moves), middle_sample(compiled)
    as_drawn = changed_by(compiled, compiled.healthy, ())
    stands = ContactsHeld(changed, 1, sample)
    runs = {pace: followed(stands, asked.steps, asked.until_s, pace) for pace in Pace}
    nominal = runs[Pace.NOMINAL]
    clamp = circuit.part(asked.clamp) if asked.clamp else _usual_clamp(circuit, asked.leg)
    names = {switch.id: switch.name for switch in circuit.switches}
    clicks = tuple(_clicks(runs, names))
    moments = tuple(_moments(stands, nominal, clamp, asked.until_s))
    due = list(_due(moments, clicks, asked.leg))
    return Timed(
        clamp=clamp.id,
        clicks=clicks,
        moments=moments,
        stages=tuple(staged(due, asked.seen)),
        findings=(
            *_heat(circuit, asked, moments, clicks),
            *_held(circuit, asked, stands, nominal, names, ContactsHeld(as_drawn, 0, sample)),
        ),
        chatters=nominal.chatters,
    )


def _check(circuit: Circuit, asked: TimingAsked) -> None:
    by_hand = {switch.id for switch in circuit.by_hand}
    for step in asked.steps:
        for switch in sorted(step.open_switches - by_hand):
            raise BadInput(say("tools.circuit_has_no_switch", switch=switch), "steps")
    if asked.clamp is not None:
        part = circuit.part(asked.clamp)
        circuit.check_reaches(asked.leg, part, "leg")
        if part.conductor is None:
            raise BadInput(say("circuit.clamp_does_not_fit", name=part.name), "clamp")


def _usual_clamp(circuit: Circuit, leg: str) -> Part:
    """Return the wires nearest the unit that carry all that it draws on a leg."""
    circuit.check_lane(leg, "leg")
    wires = [part for part in circuit.series if part.conductor is not None and leg in circuit.lanes_of(part)]
    if not wires:
        raise BadInput(say("tools.no_wires_to_clamp", leg=leg), "clamp")
    whole = max(circuit.carried_amps(part) for part in wires)
    near = [part for part in wires if circuit.carried_amps(part) == whole and part.zone is not Zone.PANEL]
    return (near or wires)[-1]


def _clicks(runs: Mapping[Pace, TimedRun], names: Mapping[str, str]) -> Iterator[Click]:
    """Every contact that moves in the nominal run, with when it does so at the other paces."""
    times: dict[tuple[str, bool, int], list[float]] = {}
    for run in runs.values():
        counts: dict[tuple[str, bool], int] = {}
        for switch, closes, at_s in run.moves():
            nth = counts[switch, closes] = counts.get((switch, closes), 0) + 1
            times.setdefault((switch, closes, nth), []).append(at_s)
    counts = {}
    for switch, closes, at_s in runs[Pace.NOMINAL].moves():
        nth = counts[switch, closes] = counts.get((switch, closes), 0) + 1
        all_paces = times[switch, closes, nth]
        yield Click(
            switch=switch,
            name=names[switch],
            pulls_in=closes,
            at_s=round(at_s, 3),
            soonest_s=round(min(all_paces), 3),
            latest_s=round(max(all_paces), 3),
        )


def _moments(stands: ContactsHeld, run: TimedRun, clamp: Part, until_s: float) -> Iterator[Moment]:
    """Each stretch of the nominal run; what lasts no time at all is passed over."""
    ends = [*(moment.at_s for moment in run.course[1:]), max(until_s, run.course[-1].at_s)]
    for at, end_s in zip(run.course, ends, strict=True):
        if end_s - at.at_s < LEAST_MOMENT_S and at is not run.course[-1]:
            continue
        yield Moment(
            from_s=round(at.at_s, 3),
            to_s=round(end_s, 3),
            pulled_in=tuple(sorted(at.pulled_in)),
            running=stands.running(at),
            amps={lane: round(amps, 2) for lane, amps in stands.clamped(at, clamp).items()},
            volts={lane: round(volts, 1) for lane, volts in stands.to_ground(at, clamp).items()},
        )


def _span_at(at_s: float, clicks: Sequence[Click]) -> Span:
    """When what happens nominally at a time happens at the soonest and the latest."""
    clicks_here = [click for click in clicks if abs(click.at_s - at_s) < LEAST_MOMENT_S]
    if not clicks_here:
        return Span(at_s, at_s, at_s)
    return Span(
        at_s,
        min(each_click.soonest_s for each_click in clicks_here),
        max(each_click.latest_s for each_click in clicks_here),
    )


def _due(moments: Sequence[Moment], clicks: Sequence[Click], leg: str) -> Iterator[tuple[str, float, Span]]:
    """Every step of the amps on a leg."""
    for before, after in pairwise(moments):
        amps = after.amps.get(leg, 0.0) - before.amps.get(leg, 0.0)
        if abs(amps) < LEAST_AMPS:
            continue
        clicks_here = [click for click in clicks if abs(click.at_s - after.from_s) < LEAST_MOMENT_S]
        words = ", ".join(
            say("tools.click_in", name=each_click.name)
            if each_click.pulls_in
            else say("tools.click_out", name=each_click.name)
            for each_click in clicks_here
        )
        yield words or say("tools.by_hand_or_call"), amps, _span_at(after.from_s, clicks)


def _heat(
    circuit: Circuit, asked: TimingAsked, moments: Sequence[Moment], clicks: Sequence[Click]
) -> Iterator[TimingFinding]:
    """Judge the fan after the heat, where there was heat and it went off."""
    heaters = [load for load in circuit.loads if is_heat(load) and load.load]
    hot = [[load for load in heaters if load.id in moment.running] for moment in moments]
    if not any(hot) or hot[-1]:
        return
    last = max(i for i, loads in enumerate(hot) if loads)
    fans = [load.id for load in circuit.loads if not is_heat(load)]
    while_hot = {
        fan: sum(fan in each_moment.running for each_moment, loads in zip(moments, hot, strict=True) if loads)
        for fan in fans
    }
    longest = max((fan for fan in fans if while_hot[fan]), key=lambda fan: _last_on(fan, moments), default=None)
    fan = fan_of(circuit, asked.fan, longest)
    if fan is None:
        yield TimingFinding(
            label=say("tools.heat_without_fan"), status=Status.CANNOT_TELL, words=say("tools.no_fan_with_heat")
        )
        return
    kw = sum(load.load.rated_volts * load.load.rated_amps / 1000 for load in hot[last] if load.load)
    on = _last_on(fan.id, moments)
    fan_off = None if on == len(moments) - 1 else _span_at(moments[on + 1].from_s if on >= 0 else 0.0, clicks)
    yield after_the_heat(fan, _span_at(moments[last + 1].from_s, clicks), fan_off, kw, asked.cfm)


def _last_on(load: str, moments: Sequence[Moment]) -> int:
    return max((i for i, moment in enumerate(moments) if load in moment.running), default=-1)


def _held(  # noqa: PLR0917 - the run, and the same without the changes
    circuit: Circuit,
    asked: TimingAsked,
    stands: ContactsHeld,
    run: TimedRun,
    names: Mapping[str, str],
    as_drawn: ContactsHeld,
) -> Iterator[TimingFinding]:
    """Tell what is still in though the call ended."""
    if len(asked.steps) < 2 or not asked.steps[-1].open_switches - asked.steps[0].open_switches:
        return
    end = run.course[-1]
    drawn_end = followed(as_drawn, asked.steps, asked.until_s, Pace.NOMINAL).course[-1]
    held, was_held = (_in_at_end(moments, at) for moments, at in ((stands, end), (as_drawn, drawn_end)))
    yield from never_lets_go(circuit, held, was_held, names)


def _in_at_end(stands: ContactsHeld, at: At) -> dict[str, float]:
    return {switch: share for switch, share in stands.coil_shares(at).items() if switch in at.pulled_in}
